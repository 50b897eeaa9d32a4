"""The shortest plan of a job's tasks: who, when, which waits are filled, when it is ready."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime, time, timedelta
from itertools import pairwise

from fairline.core.errors import FairLineError
from fairline.core.plan.crew import SKILLS, CrewBook
from fairline.core.plan.job_plan import DayPlan, JobPlan, Slot
from fairline.core.plan.tasks import PlanTask
from fairline.core.plan.working_days import WorkingDays
from fairline.core.quantities import duration
from fairline.core.schedule import LIMIT_S, SECONDS, Work, cycle, slacks
from fairline.core.team_schedule import Member, Span, TeamSchedule, nobody_can, shortest_for

STAYS = timedelta(hours=2)  # between two tasks on one site: our own choice
FARTHEST = timedelta(days=366)  # a plan looks no farther ahead


class PlanError(FairLineError, ValueError):
    """Why there is no plan: a sentence for a person."""


@dataclass(frozen=True)
class Hand:
    """One who works on a job; ``elsewhere``: when another job keeps him, travel counted."""

    name: str
    skills: frozenset[str]
    elsewhere: tuple[tuple[datetime, datetime], ...] = ()


@dataclass(frozen=True)
class Terms:
    """What a plan goes by: from when on, who, the hours of a day and the days of a week.

    ``slots``: when another trade comes, by its name; ``rain``: days on which no tubing is opened.
    ``start`` has its zone. ``limit_s``: how long a shorter one is looked for.
    """

    start: datetime
    hands: tuple[Hand, ...]
    opens: time = time(8)
    closes: time = time(16, 30)
    weekdays: tuple[int, ...] = tuple(range(7))
    slots: Mapping[str, datetime] = field(default_factory=dict)
    rain: tuple[date, ...] = ()
    limit_s: float = LIMIT_S

    @property
    def days(self) -> WorkingDays:
        return WorkingDays(self.start, self.opens, self.closes, self.weekdays)

    @property
    def day_s(self) -> float:
        return 3600.0 * (self.closes.hour - self.opens.hour) + 60.0 * (
            self.closes.minute - self.opens.minute
        )


def terms_of(
    plan: JobPlan,
    crew: CrewBook,
    now: datetime,
    elsewhere: Mapping[str, Sequence[tuple[datetime, datetime]]],
) -> Terms:
    """What a kept plan goes by now. Raises PlanError where it names somebody who is not there."""
    known = {p.name: p for p in crew.people}
    if unknown := [n for n in plan.names if n not in known]:
        raise PlanError(f"{unknown[0]} is not among the company's people any more")
    hands = [
        Hand(name, frozenset(known[name].skills), tuple(elsewhere.get(name, ())))
        for name in plan.names
    ] or [Hand(f"Person {n + 1}", frozenset(SKILLS)) for n in range(plan.count)]
    return Terms(
        start=max(plan.start, now) if plan.start else now,
        hands=tuple(hands),
        opens=time.fromisoformat(crew.opens),
        closes=time.fromisoformat(crew.closes),
        weekdays=crew.days,
        slots=plan.slots,
        rain=plan.rain,
    )


def planned(tasks: Sequence[PlanTask], terms: Terms, made_at: datetime) -> DayPlan | None:
    """The shortest plan of what is left to do; None where nothing is. Raises PlanError."""
    left = [t for t in tasks if not t.done]
    if not left:
        return None
    parts, days = _parted(left, terms), terms.days
    works = [_work(task, parts, terms, days) for task in parts.values()]
    team = [Member(h.name, h.skills, _spans(h, days)) for h in terms.hands]
    _check(works, parts, team)
    found = shortest_for(works, days, team, terms.limit_s)
    return DayPlan(
        made_at=made_at,
        slots=_slots(works, parts, found, days),
        ready=days.moment(found.end),
        gap_s=None if found.optimal else (found.end - found.bound) / SECONDS,
    )


def _check(works: Sequence[Work], parts: Mapping[str, PlanTask], team: Sequence[Member]) -> None:
    """Raises PlanError for what no plan can have."""
    if again := cycle(works):
        raise PlanError(f"{parts[again].words} comes after itself")
    for work in works:
        if why := nobody_can([work], team):
            told = why.replace(work.id, parts[work.id].words, 1)
            for skill, words in SKILLS.items():
                told = told.replace(f"({skill})", f"({words[0].lower()}{words[1:]})")
            raise PlanError(told)


def _parted(left: Sequence[PlanTask], terms: Terms) -> dict[str, PlanTask]:
    """The tasks by id; one longer than a day in parts that follow each other."""
    found: dict[str, PlanTask] = {}
    for task in left:
        count = 1 if task.waits else max(1, math.ceil(task.duration_s / terms.day_s - 1e-9))
        before = ""
        for n in range(count):
            id = task.id if n == count - 1 else f"{task.id}#{n + 1}"
            found[id] = replace(
                task,
                id=id,
                duration_s=task.duration_s / count,
                after=(before,) if before else task.after,
                words=f"{task.words}, part {n + 1} of {count}" if count > 1 else task.words,
            )
            before = id
    return found


def _work(task: PlanTask, known: Mapping[str, PlanTask], terms: Terms, days: WorkingDays) -> Work:
    earliest = [
        at for at in (task.earliest, terms.slots.get(task.trade) if task.trade else None) if at
    ]
    if any(at - terms.start > FARTHEST for at in earliest):
        raise PlanError(f"{task.words} is more than a year away")
    return Work(
        id=task.id,
        duration=round(task.duration_s * SECONDS),
        crew=0 if task.trade else task.crew,
        after=tuple(a for a in dict.fromkeys(task.after) if a in known),
        trade=task.trade,
        earliest=max([0, *(days.units(at) for at in earliest)]),
        waits=task.waits,
        not_on=days.numbers(terms.rain) if task.opens else frozenset(),
        skill=task.skill,
        who=task.who,
    )


def _spans(hand: Hand, days: WorkingDays) -> tuple[Span, ...]:
    """When somebody is elsewhere, from the beginning on, what overlaps as one."""
    found: list[Span] = []
    for start, end in sorted((days.units(a), days.units(b)) for a, b in hand.elsewhere):
        if end <= 0:
            continue
        if found and start <= found[-1][1]:
            found[-1] = (found[-1][0], max(end, found[-1][1]))
        else:
            found.append((max(start, 0), end))
    return tuple(found)


def _slots(
    works: Sequence[Work],
    parts: Mapping[str, PlanTask],
    found: TeamSchedule,
    days: WorkingDays,
) -> tuple[Slot, ...]:
    spare = slacks(works, found.starts, found.end)
    made = [
        Slot(
            id=w.id,
            words=parts[w.id].words,
            stage=parts[w.id].stage,
            start=days.moment(found.starts[w.id]),
            end=days.moment(found.starts[w.id] + w.duration),
            slack_s=spare[w.id] / SECONDS,
            people=found.people.get(w.id, ()),
            trade=w.trade,
            waits=w.waits,
        )
        for w in works
    ]
    return tuple(sorted(made, key=lambda slot: (slot.start, slot.end)))


def delay_words(plan: DayPlan, without: DayPlan, why: str) -> str:
    """What something costs, in one sentence: ready when, instead of when, and whose slot moves."""
    late = (plan.ready - without.ready).total_seconds()
    zone = plan.ready.tzinfo
    before = without.ready.astimezone(zone)
    if abs(late) < 60:
        said = f"{why}: no later, ready {_said(plan.ready, before)}"
    else:
        said = (
            f"{why}: ready {_said(plan.ready, before)} instead of {_said(before, plan.ready)}, "
            f"{duration(abs(late))} {'later' if late > 0 else 'sooner'}"
        )
    moved = _moved_trades(plan, without)
    return said + "".join(f"; {one}" for one in moved) + "."


def _said(at: datetime, other: datetime) -> str:
    """A weekday and an hour; with the date where the other is in another week."""
    far = abs((at.date() - other.date()).days) > 6
    return f"{at:%a %d %b %H:%M}" if far else f"{at:%a %H:%M}"


def _moved_trades(plan: DayPlan, without: DayPlan) -> list[str]:
    """Another trade that must come at another time than it was told."""
    before = {s.id: s for s in without.slots if s.trade}
    return [
        f"the {s.trade}'s slot moves to {s.start:%a %d %b %H:%M}"
        for s in plan.slots
        if s.trade and s.id in before and abs(s.start - before[s.id].start) >= timedelta(minutes=1)
    ]


def by_person(plan: DayPlan, names: Iterable[str] = ()) -> dict[str, list[Slot]]:
    """The slots of each person, in order; ``names``: also those who have none."""
    found: dict[str, list[Slot]] = {name: [] for name in names}
    for slot in plan.slots:
        for name in slot.people:
            found.setdefault(name, []).append(slot)
    return found


def kept_elsewhere(
    plans: Iterable[tuple[DayPlan, float]], travel_s: float, now: datetime
) -> dict[str, list[tuple[datetime, datetime]]]:
    """When other jobs keep people: their slots, with the way from and to this site around them.

    Each plan with its own travel in s; the longer of the two ways counts. What is over is over.
    """
    found: dict[str, list[tuple[datetime, datetime]]] = {}
    for plan, own_s in plans:
        way = timedelta(seconds=max(own_s, travel_s))
        for name, own in by_person(plan).items():
            for start, end in stays(own):
                if end + way > now:
                    found.setdefault(name, []).append((start - way, end + way))
    return found


def stays(slots: Sequence[Slot]) -> list[tuple[datetime, datetime]]:
    """When somebody is on a site: for a short while between two tasks nobody drives elsewhere."""
    found: list[tuple[datetime, datetime]] = []
    for slot in sorted(slots, key=lambda s: s.start):
        if found and slot.start - found[-1][1] < STAYS:
            found[-1] = (found[-1][0], max(found[-1][1], slot.end))
        else:
            found.append((slot.start, slot.end))
    return found


def clashes(plans: Mapping[str, tuple[DayPlan, float]]) -> list[tuple[str, datetime, str, str]]:
    """Who is wanted at two jobs at once, or with no time for the way: name, when, both jobs."""
    stays: dict[str, list[tuple[datetime, datetime, str, float]]] = {}
    for job, (plan, way) in plans.items():
        for slot in plan.slots:
            for name in slot.people:
                stays.setdefault(name, []).append((slot.start, slot.end, job, way))
    found = []
    for name, own in stays.items():
        own.sort(key=lambda stay: stay[:2])
        for before, after in pairwise(own):
            need = timedelta(seconds=max(before[3], after[3]))
            if before[2] != after[2] and after[0] < before[1] + need:
                found.append((name, after[0], before[2], after[2]))
    return sorted(found, key=lambda one: one[1])
