"""A job in brief: what the board shows of it without judging it again."""

from pydantic import Field

from fairline.core.call import Call, Frozen, StageCall, Verdict
from fairline.core.clocks import Clock, clocks
from fairline.core.counted import counts
from fairline.core.found_by import found_by
from fairline.core.hand_over.visits import next_due, visits
from fairline.core.job import Job
from fairline.core.line import LineResult, current_stage

URGENCY = (  # what needs a person comes first; what holds is done
    Verdict.STOP,
    Verdict.SHORT,
    Verdict.UNKNOWN,
    Verdict.WAIT,
    Verdict.WATCH,
    Verdict.HOLDS,
)
UNJUDGED = -1  # a job that cannot be judged needs a person before all others


class StageBrief(Frozen):
    """A stage on the small line: as a ``StageCall`` without its checks and working."""

    call: Call
    summary: str = ""
    started: bool = True
    progress: float | None = None


class Brief(Frozen):
    """A job on the board; ``failed`` is why it cannot be judged, and then it has no stages.

    ``to_charge_kg``: what is still to be weighed in of ``refrigerant``; None where nothing is, or
    it is not known yet. ``due_on`` is the day of the next visit, ``due`` what for;
    ``last_on`` that of the last act; ``clocks`` run by themselves. ``found_by`` is kept beside
    it, for the search.
    """

    uid: str
    name: str
    site: str = ""
    equipment: str = ""
    practice: bool = False
    handed_over: bool = False
    at: str = ""
    stages: dict[str, StageBrief] = {}
    refrigerant: str = ""
    to_charge_kg: float | None = None
    due_on: str = ""
    due: str = ""
    last_on: str = ""
    clocks: tuple[Clock, ...] = ()
    found_by: str = Field(default="", exclude=True)
    failed: str = ""

    @property
    def urgency(self) -> int:
        if self.failed or self.at not in self.stages:
            return UNJUDGED
        if self.handed_over:
            return len(URGENCY)
        return URGENCY.index(self.stages[self.at].call.verdict)


def last_day(job: Job) -> str:
    """The day (UTC, ``2026-12-01``) of the last act on a job; of its beginning before any."""
    moments = [job.created_at, *(r.at for r in job.records), *(r.started_at for r in job.runs)]
    return max(moments).date().isoformat()


def _to_charge_kg(charge: StageCall) -> float | None:
    """What is still to be weighed in; None where nothing waits for it."""
    checks = {c.id: c for c in charge.checks}
    added, weighed = checks.get("added"), checks.get("weighed")
    if added is None or weighed is None or weighed.call.verdict is not Verdict.WAIT:
        return None
    left = (added.value or 0.0) - (weighed.value or 0.0)
    return left if left > 0 else None


def brief(job: Job, worked: LineResult) -> Brief:
    """A judged job in brief."""
    stages = worked.calls
    counted = [r for r in job.records if counts(r, job.strikes, job.head.practice)]
    visit = next_due(visits(job.mount, job.commission, counted))
    return Brief(
        due_on=visit.on if visit else "",
        due=visit.words[:300] if visit else "",
        last_on=last_day(job),
        clocks=() if job.handed_over is not None else clocks(worked),
        found_by=found_by(job),
        uid=job.uid,
        name=job.head.name,
        site=job.head.site,
        equipment=job.equipment.name[:400],
        practice=job.head.practice,
        handed_over=job.handed_over is not None,
        at=current_stage(stages),
        refrigerant=job.equipment.outdoor.sheet.refrigerant if job.equipment.outdoor else "",
        to_charge_kg=_to_charge_kg(stages["charge"]) if "charge" in stages else None,
        stages={
            name: StageBrief(call=s.call, summary=s.summary, started=s.started, progress=s.progress)
            for name, s in stages.items()
        },
    )
