"""A plan of the day: tasks with their order, crew, trades, slots and waits, as short as can be."""

from datetime import date, datetime, time, timedelta
from typing import Annotated

from pydantic import Field, field_validator, model_validator

from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict
from fairline.core.quantities import duration
from fairline.core.schedule import SECONDS, EveryDay, Schedule, Work, cycle, shortest, slacks

LIMIT_S = 2.4  # how long a shorter plan is looked for: an answer within five seconds
Id = Annotated[str, Field(min_length=1, max_length=100)]
Crew = Annotated[int, Field(ge=0, le=100)]
DurationS = Annotated[float, Field(ge=0, le=366 * 86_400)]


def _moment(value: str, what: str) -> datetime:
    try:
        return datetime.fromisoformat(value)
    except ValueError:
        raise ValueError(f"{what}: type a moment like 2026-11-02T08:00") from None


class Task(Request):
    """``crew`` people are kept by it; 0: a wait. ``trade``: another trade's own people do it."""

    id: Id
    duration_s: DurationS
    crew: Crew
    after: Annotated[list[Id], Field(max_length=300)] = []
    trade: Id | None = None
    earliest: Annotated[str, Field(max_length=40)] | None = None
    overnight_ok: bool = False

    @property
    def waits(self) -> bool:
        """Whether nobody is needed: it begins the moment that what is before it ends."""
        return self.crew == 0 and self.trade is None


class Day(Request):
    """The working hours of every day, ``08:00``."""

    start: Annotated[str, Field(pattern=r"^\d\d:\d\d$")]
    end: Annotated[str, Field(pattern=r"^\d\d:\d\d$")]

    @field_validator("start", "end")
    @classmethod
    def _hour(cls, value: str) -> str:
        try:
            time.fromisoformat(value)
        except ValueError:
            raise ValueError("type an hour like 08:00") from None
        return value

    @model_validator(mode="after")
    def _opens_before_it_closes(self) -> "Day":
        if self.length_s <= 0:
            raise ValueError("day: it ends before it starts")
        return self

    @property
    def length_s(self) -> float:
        opens, closes = (time.fromisoformat(t) for t in (self.start, self.end))
        return (closes.hour - opens.hour) * 3600.0 + (closes.minute - opens.minute) * 60.0


class DayPlanRequest(Request):
    """Tasks in any order; moments as ISO, all with an offset or all without one."""

    tasks: Annotated[list[Task], Field(min_length=1, max_length=300)]
    crew: Annotated[int, Field(ge=0, le=100)]
    day: Day
    start: Annotated[str, Field(max_length=40)]

    @model_validator(mode="after")
    def _fits(self) -> "DayPlanRequest":
        begins, known = _moment(self.start, "start"), set[str]()
        for task in self.tasks:
            if task.id in known:
                raise ValueError(f"tasks: {task.id} stands twice")
            known.add(task.id)
        for task in self.tasks:
            self._task_fits(task, known, begins)
        if again := cycle([Work(t.id, 0, 0, tuple(t.after)) for t in self.tasks]):
            raise ValueError(f"tasks: {again} comes after itself")
        return self

    def _task_fits(self, task: Task, known: set[str], begins: datetime) -> None:
        unknown = [a for a in task.after if a not in known]
        if unknown:
            raise ValueError(f"tasks: {task.id} comes after {unknown[0]}, which is not there")
        if task.trade is None and task.crew > self.crew:
            raise ValueError(
                f"tasks: {task.id} needs {task.crew} people, and there are {self.crew}"
            )
        fits = task.waits or task.overnight_ok or task.duration_s <= self.day.length_s
        if not fits:
            raise ValueError(f"tasks: {task.id} is longer than the working day")
        if task.earliest is not None:
            slot = _moment(task.earliest, f"tasks: {task.id}: earliest")
            if slot.tzinfo is not None and begins.tzinfo is None:
                raise ValueError(f"tasks: {task.id}: earliest has an offset, and start has none")


class Planned(Frozen):
    """When a task is done; ``slack_s``: how much later it may end without delaying anything."""

    id: str
    start: str
    end: str
    slack_s: float


class DayPlanResult(Frozen):
    tasks: tuple[Planned, ...]
    makespan_s: float
    optimal: bool
    gap_s: float | None = None
    days: int


def day_plan(request: DayPlanRequest) -> Answer[DayPlanResult]:
    """The shortest plan: crew and trades never over what there is, work inside the hours of a day.

    Waits begin at any hour and run through the night; every day is a working day. Solved by a
    constraint solver, proven or with the gap to what could be sooner.

    >>> asked = {"tasks": [{"id": "hang", "duration_s": 7200, "crew": 2},
    ...                    {"id": "hold", "duration_s": 3600, "crew": 0, "after": ["hang"]}],
    ...          "crew": 2, "day": {"start": "08:00", "end": "16:30"}, "start": "2026-11-02T07:00"}
    >>> result = day_plan(DayPlanRequest.model_validate(asked)).result
    >>> result.makespan_s, result.tasks[1].start
    (14400.0, '2026-11-02T10:00:00')
    """
    begins = datetime.fromisoformat(request.start)
    tasks = [_work(task, begins) for task in request.tasks]
    schedule = shortest(tasks, _hours(request.day, begins), request.crew, LIMIT_S)
    result = _result(tasks, schedule, begins)
    return Answer[DayPlanResult](
        call=_call(result, begins),
        working=tuple(
            Step(step=t.id, expression=f"{t.start} to {t.end}", value=t.slack_s, unit="s of slack")
            for t in result.tasks
        ),
        findings=() if schedule.optimal else ("not_proven",),
        result=result,
    )


def _units(seconds: float) -> int:
    return round(seconds * SECONDS)


def _work(task: Task, begins: datetime) -> Work:
    slot = datetime.fromisoformat(task.earliest) if task.earliest is not None else begins
    if slot.tzinfo is None and begins.tzinfo is not None:
        slot = slot.replace(tzinfo=begins.tzinfo)
    return Work(
        id=task.id,
        duration=_units(task.duration_s),
        crew=0 if task.trade is not None else task.crew,
        after=tuple(dict.fromkeys(task.after)),
        trade=task.trade or "",
        earliest=max(_units((slot - begins).total_seconds()), 0),
        overnight=task.overnight_ok,
        waits=task.waits,
    )


def _hours(day: Day, begins: datetime) -> EveryDay:
    opens = datetime.combine(begins.date(), time.fromisoformat(day.start), begins.tzinfo)
    first = _units((opens - begins).total_seconds())
    length = _units(day.length_s)
    if first + length <= 0:  # that day is over
        first += 86_400 * SECONDS
    return EveryDay(first, length)


def _result(tasks: list[Work], schedule: Schedule, begins: datetime) -> DayPlanResult:
    ends = {t.id: schedule.starts[t.id] + t.duration for t in tasks}
    spare = slacks(tasks, schedule.starts, schedule.end)
    planned = tuple(
        Planned(
            id=t.id,
            start=_iso(begins, schedule.starts[t.id]),
            end=_iso(begins, ends[t.id]),
            slack_s=spare[t.id] / SECONDS,
        )
        for t in tasks
    )
    worked = {
        day
        for t in tasks
        if t.crew
        for day in _days(_at(begins, schedule.starts[t.id]), _at(begins, ends[t.id]))
    }
    return DayPlanResult(
        tasks=planned,
        makespan_s=schedule.end / SECONDS,
        optimal=schedule.optimal,
        gap_s=None if schedule.optimal else (schedule.end - schedule.bound) / SECONDS,
        days=len(worked),
    )


def _days(start: datetime, end: datetime) -> set[date]:
    """The calendar days on which something runs; one that ends at midnight is not on the next."""
    last = end - timedelta(microseconds=1) if end > start else end
    count = (last.date() - start.date()).days
    return {start.date() + timedelta(days=n) for n in range(count + 1)}


def _at(begins: datetime, units: int) -> datetime:
    return begins + timedelta(milliseconds=units)


def _iso(begins: datetime, units: int) -> str:
    return _at(begins, units).isoformat()


def _call(result: DayPlanResult, begins: datetime) -> Call:
    end = begins + timedelta(seconds=result.makespan_s)
    days = f"{result.days} day{'' if result.days == 1 else 's'} of work"
    first = min(result.tasks, key=lambda t: t.start)
    because = f"Ready {end:%A %Y-%m-%d %H:%M}, {days}."
    if result.optimal:
        return Call(verdict=Verdict.HOLDS, because=because, do_next=f"Begin with {first.id}.")
    return Call(
        verdict=Verdict.WATCH,
        because=f"{because} It may be shorter by up to {duration(result.gap_s or 0.0)}.",
        do_next=f"Begin with {first.id}.",
    )
