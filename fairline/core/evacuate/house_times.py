"""How long the house's own finished jobs took under the pump, beside what a dry one would take."""

from collections.abc import Iterable, Sequence
from statistics import median
from typing import Annotated

from pydantic import Field

from fairline.core.entry import Entry, Text
from fairline.core.quantities import duration
from fairline.core.readings import VacuumRun

KEPT = 500  # jobs that are remembered, the newest


class PullTime(Entry):
    """A job that was handed over: how many heads, and how long it was pulled in all, in s."""

    job: Text
    heads: Annotated[int, Field(ge=1, le=64)]
    pull_s: Annotated[float, Field(gt=0, le=1e8)]


class PullTimes(Entry):
    """What the house remembers, the newest last."""

    jobs: Annotated[tuple[PullTime, ...], Field(max_length=KEPT)] = ()

    def with_job(self, one: PullTime) -> "PullTimes":
        """With one more job; one that is known is replaced."""
        others = [other for other in self.jobs if other.job != one.job]
        return PullTimes(jobs=tuple([*others, one][-KEPT:]))


def pulled_s(runs: Iterable[VacuumRun], decay: VacuumRun | None) -> float | None:
    """From the first pull to the valve that was shut for the decay that counts; None: not known.

    What a simulated gauge read is no time of the house's.
    """
    known = list(runs)
    pulls = [run.started_at for run in known if run.kind == "pull"]
    if decay is None or not pulls or any(run.readings.simulated.any() for run in known):
        return None
    long = (decay.started_at - min(pulls)).total_seconds()
    return long if long > 0 else None


def own_times(times: Sequence[PullTime], heads: int) -> str:
    """The house's own times for jobs of this size, in a sentence; blank where there are none."""
    single = heads <= 1
    alike = sorted(one.pull_s for one in times if (one.heads <= 1) is single)
    if not alike:
        return ""
    what = "single-zone" if single else "multi-zone"
    if len(alike) == 1:
        return f"Your own: {duration(alike[0])} on one {what} job."
    return (
        f"Your own: {duration(median(alike))} at the middle of {len(alike)} {what} jobs, "
        f"{duration(alike[0])} to {duration(alike[-1])}."
    )
