"""What several tests ask of a job: its piping, its joints, what could leak, a stage's call."""

from typing import Any

from httpx2 import Response

from fairline.core.call import StageCall
from fairline.core.evacuate import circuit_group as evacuate
from fairline.core.flare.records import JointRecord
from fairline.core.flare.stage import FlareStageResult
from fairline.core.hand_over.label import UnitLabel
from fairline.core.hand_over.stage import HandOverStageResult
from fairline.core.job import Job
from fairline.core.line import rules_of, work
from fairline.core.practice import Practice, Rules
from fairline.core.pressure_test import stage as pressure_test
from fairline.core.pressure_test.leak_search import Suspect
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.route.cutting import joins_of
from fairline.core.route.joints import JointSpec, joints
from fairline.core.route.piping import Piping, piping
from fairline.core.route.ports import spare_ports
from fairline.core.route.stage import RouteStageResult
from fairline.store import jobs


def words(answer: Response) -> str:
    """What a page says, however its lines are broken."""
    return " ".join(answer.text.split())


def ago(seconds: int) -> dict[str, str]:
    """The header of an act that was done some seconds before it is told."""
    return {"X-Fairline-Ago": str(seconds)}


def piping_of(job: Job, rules: Rules) -> Piping:
    return piping(job.route, job.survey, job.equipment, rules)


def joints_of(job: Job, rules: Rules, pipes: Piping) -> list[JointSpec]:
    joins = joins_of(job.cutting.pieces) if job.cutting else {}
    spare = spare_ports(job.route, job.survey, pipes)
    return joints(pipes, job.route, job.equipment, rules, joins, spare)


def suspects_of(job: Job, practice: Practice) -> list[Suspect]:
    return work(job, practice).of(PressureTestStageResult).suspects


def routed(job: Job, practice: Practice | None = None) -> RouteStageResult:
    return work(job, practice or Practice()).of(RouteStageResult)


def label_of(job: Job, practice: Practice | None = None) -> UnitLabel:
    return work(job, practice or Practice()).of(HandOverStageResult).label


def hold_call(*of: Any) -> StageCall:
    """The call of the pressure test alone: of runs, what is entered, rules and the like."""
    return pressure_test.worked_out(*of).call


def evacuate_call(
    runs: Any,
    entry: Any,
    rules: Any,
    test: Any,
    overrides: Any = (),
    isolations: Any = (),
    **more: Any,
) -> StageCall:
    """The call of Evacuate alone; ``more``: other records of the stage, by their fields."""
    recorded = evacuate.Recorded(isolations=isolations, by_name=bool(overrides), **more)
    return evacuate.evacuate_group(runs, entry, rules, test, recorded).call


def open_up(client: Any, job_id: int) -> None:
    """What is in the pipes let out as the pages ask it, so that joints may be opened."""
    for _ in range(6):
        with client.app.state.database.session() as session:
            job = jobs.load(session, job_id).job
        parts = work(job, Practice()).of(FlareStageResult).contents.parts()
        wet = {c: p for c, p in parts.items() if p.content in ("refrigerant", "mixed")}
        act = ""
        if any(p.valves for p in wet.values()):
            act = "shut"
        elif wet:
            act = "recovered"
        elif any(p.pressed for p in parts.values()):
            act = "bled"
        elif any(p.content == "vacuum" for p in parts.values()):
            act = "sweep"
        if not act:
            return
        data = {"act": act, "by": "Ida", "ports": [*wet] or [*parts]}
        weights = {"before_kg": "2 kg", "after_kg": "2.1 kg"} if act == "recovered" else {}
        assert client.post(f"/jobs/{job_id}/way-out", data=data | weights).status_code == 200


def make_joints(client: Any, job_id: int) -> None:
    """All joints of a job made, as the API keeps them."""
    with client.app.state.database.session() as session:
        job = jobs.load(session, job_id).job
        found = work(job, Practice()).of(FlareStageResult).joints
        for joint in (j for j in found if j.record is None):
            aim = joint.answer.result.aim_nm if joint.answer else 16.0
            made = JointRecord(
                place=joint.place,
                sides=tuple(joint.key.partition(":")[2].split("|")),
                look="good",
                applied_nm=aim,
                by="Ida",
                at=job.created_at,
            )
            jobs.append_record(session, job_id, made)
        session.commit()


__all__ = [
    "evacuate_call",
    "hold_call",
    "joints_of",
    "label_of",
    "make_joints",
    "open_up",
    "piping_of",
    "routed",
    "rules_of",
    "suspects_of",
    "words",
]
