"""A job in brief: what the board shows of it without judging it again."""

from fairline.core.call import Call, Frozen, StageCall, Verdict
from fairline.core.job import Job

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
    """A job on the board; ``failed`` is why it cannot be judged, and then it has no stages."""

    uid: str
    name: str
    site: str = ""
    equipment: str = ""
    practice: bool = False
    handed_over: bool = False
    at: str = ""
    stages: dict[str, StageBrief] = {}
    failed: str = ""

    @property
    def urgency(self) -> int:
        if self.failed or self.at not in self.stages:
            return UNJUDGED
        if self.handed_over:
            return len(URGENCY)
        return URGENCY.index(self.stages[self.at].call.verdict)


def brief(job: Job, at: str, stages: dict[str, StageCall]) -> Brief:
    """A judged job in brief."""
    return Brief(
        uid=job.uid,
        name=job.head.name,
        site=job.head.site,
        equipment=job.equipment.name[:400],
        practice=job.head.practice,
        handed_over=job.handed_over is not None,
        at=at,
        stages={
            name: StageBrief(call=s.call, summary=s.summary, started=s.started, progress=s.progress)
            for name, s in stages.items()
        },
    )
