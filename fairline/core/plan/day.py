"""The shortest plan of a job's tasks: who, when, which waits are filled, when it is ready."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

from pydantic import ValidationError

from fairline.core.calc.day_plan import Day, DayPlanRequest, day_plan
from fairline.core.calc.day_plan import Task as Asked
from fairline.core.call import Call
from fairline.core.errors import FairLineError
from fairline.core.plan.tasks import PlanTask
from fairline.core.problem import from_validation
from fairline.core.quantities import duration


class PlanError(FairLineError, ValueError):
    """Why there is no plan: a sentence for a person."""


@dataclass(frozen=True)
class Terms:
    """What a plan goes by: from when on, how many people, the hours of a day.

    ``slot``: when the other trade comes; ``rain``: a day on which no tubing is opened.
    """

    start: datetime
    crew: int
    opens: str = "08:00"
    closes: str = "16:30"
    slot: datetime | None = None
    rain: date | None = None


@dataclass(frozen=True)
class Slot:
    """A task in the plan, or one of the parts into which a long one falls."""

    task: PlanTask
    start: datetime
    end: datetime
    slack_s: float

    @property
    def spare(self) -> str:
        """How much later it may end, in words."""
        return duration(self.slack_s)

    @property
    def critical(self) -> bool:
        """Whether it may not end later without the whole being ready later."""
        return self.slack_s < 1.0


@dataclass(frozen=True)
class DayPlan:
    """The plan: its slots by their beginning, when it is ready, the days with work, the call.

    ``proven``: no plan is shorter; else ``gap_s`` says by how much one might be.
    """

    slots: tuple[Slot, ...]
    ready: datetime
    days: int
    call: Call
    proven: bool
    gap_s: float

    @property
    def gap(self) -> str:
        return duration(self.gap_s)


def planned(tasks: Sequence[PlanTask], terms: Terms) -> DayPlan | None:
    """The shortest plan of what is left to do; None where nothing is. Raises PlanError."""
    left = [t for t in tasks if not t.done]
    if not left:
        return None
    parts = _parted(left, terms)
    try:
        request = DayPlanRequest(
            tasks=[_asked(task, parts, terms) for task in parts.values()],
            crew=terms.crew,
            day=Day(start=terms.opens, end=terms.closes),
            start=terms.start.isoformat(),
        )
    except ValidationError as error:
        raise PlanError(str(from_validation(error)["detail"])) from None
    answer = day_plan(request)
    slots = sorted(
        (
            Slot(
                parts[t.id],
                datetime.fromisoformat(t.start),
                datetime.fromisoformat(t.end),
                t.slack_s,
            )
            for t in answer.result.tasks
        ),
        key=lambda slot: (slot.start, slot.end),
    )
    return DayPlan(
        slots=tuple(slots),
        ready=terms.start + timedelta(seconds=answer.result.makespan_s),
        days=answer.result.days,
        call=answer.call,
        proven=answer.result.optimal,
        gap_s=answer.result.gap_s or 0.0,
    )


def _parted(left: Sequence[PlanTask], terms: Terms) -> dict[str, PlanTask]:
    """The tasks by id; one longer than a day in parts that follow each other."""
    day_s = Day(start=terms.opens, end=terms.closes).length_s
    found: dict[str, PlanTask] = {}
    for task in left:
        count = 1 if task.waits else math.ceil(task.duration_s / day_s - 1e-9)
        before = ""
        for n in range(max(1, count)):
            id = task.id if n == count - 1 or count <= 1 else f"{task.id}#{n + 1}"
            found[id] = replace(
                task,
                id=id,
                duration_s=task.duration_s / max(1, count),
                after=(before,) if before else task.after,
                words=f"{task.words}, part {n + 1} of {count}" if count > 1 else task.words,
            )
            before = id
    return found


def _asked(task: PlanTask, known: dict[str, PlanTask], terms: Terms) -> Asked:
    earliest = terms.slot if task.trade else None
    if task.opens and terms.rain is not None:
        dry = datetime.combine(
            terms.rain + timedelta(days=1), datetime.min.time(), terms.start.tzinfo
        )
        earliest = max(dry, earliest) if earliest else dry
    return Asked(
        id=task.id,
        duration_s=task.duration_s,
        crew=task.crew,
        after=[a for a in task.after if a in known],
        trade=task.trade or None,
        earliest=earliest.isoformat() if earliest else None,
    )


def delay_words(plan: DayPlan, without: DayPlan, why: str) -> str:
    """What something costs, in one sentence: ready when, instead of when.

    Blank where it costs nothing.
    """
    late = (plan.ready - without.ready).total_seconds()
    if late < 60:
        return f"{why} costs no time: there is other work."
    return (
        f"{why}: ready {plan.ready:%a %H:%M} instead of {without.ready:%a %H:%M}, "
        f"{duration(late)} later."
    )


def people(plan: DayPlan, crew: int) -> dict[int, list[Slot]]:
    """The slots of each person, by number from 1: whoever is free first takes the next task."""
    free = {n: datetime.min.replace(tzinfo=plan.ready.tzinfo) for n in range(1, crew + 1)}
    found: dict[int, list[Slot]] = {n: [] for n in free}
    for slot in plan.slots:
        if slot.task.trade:
            continue
        able = sorted((n for n in free if free[n] <= slot.start), key=lambda n: (-len(found[n]), n))
        for n in able[: slot.task.crew]:
            found[n].append(slot)
            free[n] = slot.end
    return found
