"""What the tasks of a job took, from the acts that were recorded, and what the house learns of it.

A task's time is from its first to its last act of a day, less the waits in between. Acts that were
all ticked at once say nothing.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import datetime, tzinfo
from statistics import median
from typing import Annotated

from pydantic import Field

from fairline.core.commission.records import Running, WaterTest
from fairline.core.entry import Entry, Record
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.flare.records import JointRecord
from fairline.core.flare.stage import FlareStageResult
from fairline.core.job import Job
from fairline.core.line import LineResult
from fairline.core.plan.tasks import PlanTask
from fairline.core.plan.times import HouseTimes, task_times
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.procedures.records import ProcedureSteps
from fairline.core.wire.records import Landing, WireEnd

LEAST_SHARE = 0.2  # of what is usual; less was ticked afterwards: our own choice
ENOUGH = 3  # jobs from which a median is taken: our own choice
BY_LIST = {
    "hole-frame": "hole",
    "hole-open": "hole",
    "hole-masonry-in": "hole",
    "hole-masonry-out": "hole",
    "hang": "hang",
    "hang-concrete": "hang",
    "hang-ceiling": "hang",
    "run": "run",
    "drain-run": "drain",
}
Span = tuple[datetime, datetime]


class Took(Entry):
    """What a task of a finished job took: its kind (``core/plan/times``), of how many, in s."""

    kind: Annotated[str, Field(max_length=40)]
    count: Annotated[float, Field(gt=0, le=10_000)]
    seconds: Annotated[float, Field(gt=0, le=366 * 86_400)]


class TookOnJob(Entry):
    """What a job's tasks took, by their ids; ``heads``: its size."""

    heads: Annotated[int, Field(ge=1, le=64)] = 1
    tasks: Annotated[dict[str, Took], Field(max_length=400)] = {}


def took(job: Job, worked: LineResult, tasks: Sequence[PlanTask], zone: tzinfo) -> TookOnJob:
    """What each task took, as far as the acts say; ``zone``: in which a day is a day.

    Nothing for a training job: what is simulated is no time of the house's.
    """
    heads = max(1, len(job.survey.now))
    if job.head.practice:
        return TookOnJob(heads=heads)
    known, waits = {t.id: t for t in tasks}, list(_waits(job, worked))
    acts: dict[str, list[datetime]] = {}
    places = {j.place: j for j in worked.of(FlareStageResult).joints}
    for record in job.records:
        for id in _tasks_of(record, places):
            acts.setdefault(id, []).append(record.at)
    found = {}
    for id, moments in acts.items():
        task = known.get(id)
        if task is None or not task.time:
            continue
        seconds = _worked_s(sorted(moments), waits, zone) * _share(task, len(moments))
        if seconds >= LEAST_SHARE * task_times()[task.time].each_s * task.count:
            found[id] = Took(kind=task.time, count=task.count, seconds=round(seconds, 1))
    return TookOnJob(heads=heads, tasks=found)


def _tasks_of(record: Record, places: Mapping[str, object]) -> Iterator[str]:
    """The tasks, by their ids, that an act belongs to."""
    match record:
        case ProcedureSteps(procedure="set-outdoor"):
            yield "outdoor"
        case ProcedureSteps(procedure=name, place=place) if name in BY_LIST:
            yield f"{BY_LIST[name]}-{place}"
        case JointRecord(place=place, how=how, did="made"):
            run = getattr(places.get(place), "run", "")
            yield f"{'brazed' if how == 'brazed' else 'joint'}-{run}"
        case Landing(cable=cable) | WireEnd(cable=cable):
            yield f"cable-{cable}"
        case LeakCheck():
            yield "search"
        case Running(zone=zone) | WaterTest(zone=zone):
            yield f"zone-{zone}"


def _share(task: PlanTask, acts: int) -> float:
    """What is done once for each act took one longer than from the first to the last of them."""
    each = task.time in ("joint", "brazed", "search")
    return acts / (acts - 1) if each and acts > 1 else 1.0


def _waits(job: Job, worked: LineResult) -> Iterator[Span]:
    """Holds under nitrogen, and the decay: nobody was needed."""
    for run in (*job.holds, worked.of(EvacuateStageResult).decay):
        if run is not None and run.ended_at is not None:
            yield run.started_at, run.ended_at


def _worked_s(moments: Sequence[datetime], waits: Sequence[Span], zone: tzinfo) -> float:
    """From the first to the last act of each day, less the waits in between, in s."""
    days: dict[object, list[datetime]] = {}
    for at in moments:
        days.setdefault(at.astimezone(zone).date(), []).append(at)
    total = 0.0
    for own in days.values():
        first, last = own[0], own[-1]
        total += (last - first).total_seconds() - _covered_s(waits, first, last)
    return total


def _covered_s(waits: Sequence[Span], first: datetime, last: datetime) -> float:
    """How much of a time waits cover, each moment once, in s."""
    covered, until = 0.0, first
    for start, end in sorted(waits):
        begin, stop = max(start, until), min(end, last)
        if stop > begin:
            covered += (stop - begin).total_seconds()
            until = stop
    return covered


def learned(jobs: Iterable[TookOnJob], heads: int, set_by_house: HouseTimes) -> HouseTimes:
    """The house's times with what its own finished jobs of this size took, where it set none.

    The median for one of what a task is counted by, from three jobs on; ``heads`` of the job that
    is planned: single-zone and multi-zone jobs are not mixed.
    """
    found: dict[str, list[float]] = {}
    for job in jobs:
        if (job.heads <= 1) is not (heads <= 1):
            continue
        own: dict[str, list[float]] = {}
        for one in job.tasks.values():
            own.setdefault(one.kind, []).append(one.seconds / one.count)
        for kind, each in own.items():
            found.setdefault(kind, []).append(median(each))
    medians = {k: median(v) for k, v in found.items() if k in task_times() and len(v) >= ENOUGH}
    counts = {k: len(v) for k, v in found.items() if k in task_times()}
    return set_by_house.model_copy(update={"learned": medians, "jobs": counts})
