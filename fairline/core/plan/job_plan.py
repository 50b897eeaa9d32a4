"""What is kept of a job's plan: its terms, what a person moved, the house's own tasks, the days."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from fairline.core.call import Frozen
from fairline.core.entry import Entry, Moment, Text
from fairline.core.plan.tasks import PlanTask
from fairline.core.quantities import duration

OWN = "own-"  # before the number of a task of the house's own
LAST = "leave"
LONGEST_S = 30 * 86_400.0
Id = Annotated[str, Field(min_length=1, max_length=80)]
LongS = Annotated[float, Field(ge=0, le=LONGEST_S)]
Done = Literal["crew", "trade", "wait"]


class OwnTask(Entry):
    """A task of the house's own: slab, sheathing, paint; or a thing that is on its way.

    ``by``: our crew, another trade (``trade``), or a wait that needs nobody. ``after`` and
    ``before``: tasks by their ids. ``earliest``: not before then, such as the day a bracket comes.
    """

    id: Id
    words: Annotated[Text, Field(min_length=1)]
    by: Done = "crew"
    trade: Text = ""
    duration_s: LongS = 3600.0
    crew: Annotated[int, Field(ge=1, le=20)] = 1
    after: Annotated[tuple[Id, ...], Field(max_length=60)] = ()
    before: Annotated[tuple[Id, ...], Field(max_length=60)] = ()
    earliest: Moment | None = None
    over: bool = False


class Moved(Entry):
    """What a person said of one task: not before, by whom, how long."""

    earliest: Moment | None = None
    who: Text = ""
    duration_s: LongS | None = None


class JobPlan(Entry):
    """What a plan of one job goes by. ``names``: its people; none: ``count`` of them, unnamed.

    ``slots``: when another trade comes, by its name. ``travel_s``: from another site to this one.
    """

    start: Moment | None = None
    names: Annotated[tuple[Text, ...], Field(max_length=20)] = ()
    count: Annotated[int, Field(ge=1, le=20)] = 2
    travel_s: Annotated[float, Field(ge=0, le=86_400)] = 0.0
    slots: Annotated[dict[Text, Moment], Field(max_length=20)] = {}
    rain: Annotated[tuple[date, ...], Field(max_length=60)] = ()
    moved: Annotated[dict[Id, Moved], Field(max_length=400)] = {}
    own: Annotated[tuple[OwnTask, ...], Field(max_length=60)] = ()


class Slot(Frozen):
    """A task in a plan, or one of the parts into which a long one falls (``task#1``).

    ``waits``: it needs nobody; ``trade``: another's people do it. ``slack_s``: how much later it
    may end with nothing delayed.
    """

    id: str
    words: str
    stage: str
    start: Moment
    end: Moment
    slack_s: float
    people: tuple[str, ...] = ()
    trade: str = ""
    waits: bool = False

    @property
    def task(self) -> str:
        """The task that it is a part of."""
        return self.id.partition("#")[0]

    @property
    def spare(self) -> str:
        """How much later it may end, in words."""
        return duration(self.slack_s)

    @property
    def critical(self) -> bool:
        """Whether it may not end later without the whole being ready later."""
        return self.slack_s < 1.0


class DayPlan(Frozen):
    """A plan: its slots by their beginning, and when all is ready.

    ``gap_s``: by how much a plan might still be shorter; None where it is proven that none is.
    ``said``: what changed against the plan before it, in a sentence.
    """

    made_at: Moment
    slots: tuple[Slot, ...]
    ready: Moment
    gap_s: float | None = None
    said: str = ""

    @property
    def proven(self) -> bool:
        return self.gap_s is None

    @property
    def gap(self) -> str:
        return duration(self.gap_s or 0.0)


def with_own(tasks: Sequence[PlanTask], plan: JobPlan) -> list[PlanTask]:
    """The job's tasks with the house's own among them, and with what a person said of each."""
    own = [_own(task) for task in plan.own]
    known = {t.id for t in (*tasks, *own)}
    first: dict[str, tuple[str, ...]] = {}
    for task in plan.own:
        for later in task.before:
            first[later] = (*first.get(later, ()), task.id)
    every = [
        replace(t, after=tuple(a for a in (*t.after, *first.get(t.id, ())) if a in known))
        for t in (*tasks, *own)
    ]
    ends = _own_ends(every)
    return [
        replace(_said(t, plan), after=(*t.after, *ends) if t.id == LAST else t.after) for t in every
    ]


def _own_ends(every: Sequence[PlanTask]) -> list[str]:
    """The house's own tasks that nothing follows, without those that come after leaving."""
    behind = {LAST}
    while True:
        more = {t.id for t in every if behind & set(t.after)} - behind
        if not more:
            break
        behind |= more
    followed = {a for t in every for a in t.after}
    return [t.id for t in every if t.id.startswith(OWN) and t.id not in followed | behind]


def _own(task: OwnTask) -> PlanTask:
    return PlanTask(
        id=task.id,
        words=task.words,
        stage="",
        time="",
        duration_s=task.duration_s,
        crew=task.crew if task.by == "crew" else 0,
        after=task.after,
        done=task.over,
        trade=(task.trade or "another trade") if task.by == "trade" else "",
        earliest=task.earliest,
    )


def _said(task: PlanTask, plan: JobPlan) -> PlanTask:
    moved = plan.moved.get(task.id)
    if moved is None:
        return task
    long = task.duration_s if moved.duration_s is None else moved.duration_s
    return replace(task, earliest=moved.earliest or task.earliest, who=moved.who, duration_s=long)
