"""What a drawing of the system calls its parts, and what it says of each run."""

from fairline.core.charge.stage import ChargeStageResult
from fairline.core.quantities import show
from fairline.core.route.entry import OUTDOOR
from fairline.core.units import System
from fairline.web.frame.judged_job import JudgedJob


def part_names(judged: JudgedJob) -> dict[str, str]:
    """Rooms of heads with their addresses, the model of the outdoor unit."""
    found = {
        h.zone: " ".join(x for x in (judged.pipes.addresses.get(h.zone), h.room) if x)
        for h in judged.job.survey.now
    }
    outdoor = judged.rules.outdoor
    return found | {OUTDOOR: outdoor.model if outdoor else "outdoor unit"}


def grams_by_run(judged: JudgedJob, system: System) -> dict[str, str]:
    """What each run asks for of the added charge, in a person's units; blank without a worksheet.

    A run whose length is not known has none.
    """
    worked = judged.of(ChargeStageResult)
    if worked.answer is None:
        return {}
    shares = {s.id: s.kg for s in worked.answer.result.breakdown if s.length_m is not None}
    return {
        s.id: show(shares[s.id], "charge", system).text
        for s in judged.pipes.stretches
        if s.id in shares
    }
