"""The demo's lists of steps: ticked as far as each invented job is."""

from datetime import datetime

from fairline.core.job import Job
from fairline.core.line import work
from fairline.core.practice import Practice
from fairline.core.procedures.records import ProcedureSteps
from fairline.core.stages import IN_ORDER


def by_hand(job: Job, at: datetime, by: str, through: str = "hand-over") -> Job:
    """A job with every list of its stages ticked, ``through`` the one that is named."""
    steps = ticked(job, at, by, through)
    return job.model_copy(update={"records": (*job.records, *steps)})


def ticked(
    job: Job, at: datetime, by: str, through: str = "hand-over"
) -> tuple[ProcedureSteps, ...]:
    """What ticks all that is left of a job's lists, up to a stage."""
    names = [stage.name for stage in IN_ORDER]
    asked = set(names[: names.index(through) + 1])
    return tuple(
        ProcedureSteps(
            procedure=one.asked.procedure.name,
            place=one.asked.at.place,
            token=one.asked.at.token,
            steps=tuple(step.name for step in one.left),
            by=by,
            at=at,
        )
        for name, done in work(job, Practice()).done.items()
        if name in asked
        for one in done.worked.procedures
        if one.left
    )
