"""What pages show of changes under a proof: open questions, and what can be exchanged."""

from typing import Any

from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.flare.stage import FlareStageResult
from fairline.core.part_answers import Question, questions
from fairline.core.parts import is_entered, part_words
from fairline.web.frame.forms import Form
from fairline.web.frame.judged_job import JudgedJob


def asked_of(judged: JudgedJob) -> list[Question]:
    """What has to be said of edits under a proof, worked out once for a revision of the job."""

    def look() -> list[Question]:
        return questions(judged.counted, judged.of(FlareStageResult).proofs)

    found: list[Question] = judged.once("questions", look)
    return found


def exchangeable(judged: JudgedJob) -> dict[str, str]:
    """Every machine and tube that could be exchanged, by its part, in words."""
    proofs = judged.of(FlareStageResult).proofs
    return {name: part_words(name) for name in sorted(proofs.now) if is_entered(name)}


def change_context(judged: JudgedJob, person: str) -> dict[str, Any]:
    """What every stage's page shows of it: the questions, and the forms of their answers."""
    worked = judged.of(EvacuateStageResult)
    return {
        "questions": asked_of(judged),
        "change_form": Form({"by": person}, prefix="change-"),
        "exchange_form": Form({"by": person}, prefix="exchange-"),
        "exchange_of": "",
        "exchangeable": exchangeable(judged),
        "shut_form": Form({"by": person}, prefix="shut-"),
        "shut_asked": tuple(dict.fromkeys(v.asks for v in worked.voided if v.asks)),
    }
