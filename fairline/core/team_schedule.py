"""The shortest schedule for people by name: skills, days elsewhere, tasks that are one's own.

As ``core/schedule``, but each person is a resource of his own; times are ms from the beginning.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from random import Random
from typing import Any

from fairline.core.schedule import (
    LIMIT_S,
    MOST_CHOICES,
    PROVEN_TASKS,
    Hours,
    Work,
    follow,
    next_start,
    ordered,
    shortest,
    solver_for,
    soonest,
    start_var,
)

Span = tuple[int, int]
TRIED = 2000  # tasks in all, in the orders that the first guess is the best of
TOLD_APART = 60  # tasks up to which people who are alike are told apart for a better plan


@dataclass(frozen=True)
class Member:
    """A person of the team; ``elsewhere``: when he is kept by something else."""

    name: str
    skills: frozenset[str] = frozenset()
    elsewhere: tuple[Span, ...] = ()

    def may(self, task: Work) -> bool:
        """Whether he can be the one whose skill a task asks for."""
        return not task.skill or task.skill in self.skills


@dataclass(frozen=True)
class TeamSchedule:
    """When every task starts and who does it; ``bound``: no plan ends sooner."""

    starts: Mapping[str, int]
    people: Mapping[str, tuple[str, ...]]
    end: int
    bound: int

    @property
    def optimal(self) -> bool:
        return self.bound >= self.end


def nobody_can(tasks: Iterable[Work], team: Sequence[Member]) -> str:
    """Why the first task that nobody of the team can do is not done; blank where all can be."""
    for task in tasks:
        if task.trade or not task.crew:
            continue
        if task.crew > len(team):
            return f"{task.id} needs {task.crew} people, and there are {len(team)}"
        if task.who and task.who not in {m.name for m in team}:
            return f"{task.id} is for {task.who}, who is not on this job"
        if not any(m.may(task) for m in team):
            return f"{task.id} needs somebody who can do it ({task.skill}), and nobody here can"
        own = next((m for m in team if m.name == task.who), None)
        if own and task.crew == 1 and not own.may(task):
            return f"{task.id} is for {task.who}, who cannot do it ({task.skill})"
    return ""


class _Kept:
    """When each person and each trade is kept already."""

    def __init__(self, team: Sequence[Member]) -> None:
        self.team = team
        self.spans: dict[str, list[Span]] = {m.name: list(m.elsewhere) for m in team}
        self.trades: dict[str, list[Span]] = {}

    def free(self, start: int, task: Work) -> tuple[tuple[str, ...], int]:
        """Who does a task from ``start`` on; nobody, and the next moment to try, where none can."""
        end = start + task.duration
        if task.trade:
            clash = _clash(self.trades.get(task.trade, []), start, end)
            return (), max((e for _, e in clash), default=start)
        if not task.crew:
            return (), start
        free = [m for m in self.team if not _clash(self.spans[m.name], start, end)]
        if chosen := _chosen(free, task):
            return tuple(m.name for m in chosen), start
        ends = [e for own in self.spans.values() for _, e in _clash(own, start, end)]
        return (), min((e for e in ends if e > start), default=start + 1)

    def keep(self, task: Work, start: int, people: Sequence[str]) -> None:
        span = (start, start + task.duration)
        if task.trade:
            self.trades.setdefault(task.trade, []).append(span)
        for name in people:
            self.spans[name].append(span)


def _clash(spans: Iterable[Span], start: int, end: int) -> list[Span]:
    return [s for s in spans if s[0] < end and start < s[1]]


def _chosen(free: Sequence[Member], task: Work) -> list[Member]:
    """Who of those that are free does a task: those who can do the least besides; none: nobody."""
    plain = sorted(free, key=lambda m: len(m.skills))
    first = next((m for m in plain if m.name == task.who), None)
    if task.who and first is None:
        return []
    chosen = [first] if first else []
    if not any(m.may(task) for m in chosen):
        able = next((m for m in plain if m.may(task) and m not in chosen), None)
        if able is None or len(chosen) >= task.crew:
            return []
        chosen.append(able)
    chosen += [m for m in plain if m not in chosen][: task.crew - len(chosen)]
    return chosen if len(chosen) == task.crew else []


def _placed(
    task: Work, ready: int, hours: Hours, kept: _Kept, people: Sequence[str] = ()
) -> tuple[int, tuple[str, ...]]:
    """When a task begins at the soonest and who does it: ``people``, or whoever is free."""
    if task.waits:
        return ready, ()
    at = ready
    while True:
        start = next_start(hours, at, task)
        if people:
            spans = [s for name in people for s in kept.spans[name]]
            clash = _clash(spans, start, start + task.duration)
            found, again = tuple(people), max((e for _, e in clash), default=start)
        else:
            found, again = kept.free(start, task)
        if again == start and (found or not task.crew or task.trade):
            return start, found
        at = max(again, start + 1)


def _in_turn(
    tasks: Sequence[Work], hours: Hours, team: Sequence[Member], people: Mapping[str, Any]
) -> TeamSchedule | None:
    """Each task as soon as it can be, in this order; None where one stands before what it needs."""
    by_id, starts, done_by = (
        {t.id: t for t in tasks},
        dict[str, int](),
        dict[str, tuple[str, ...]](),
    )
    kept = _Kept(team)
    for task in tasks:
        if any(a not in starts for a in task.after):
            return None
        ready = max(
            [task.earliest, *(starts[a] + by_id[a].duration for a in task.after)], default=0
        )
        starts[task.id], done_by[task.id] = _placed(
            task, ready, hours, kept, people.get(task.id, ())
        )
        kept.keep(task, starts[task.id], done_by[task.id])
    end = max(starts[t.id] + t.duration for t in tasks)
    return TeamSchedule(starts, done_by, end, 0)


def shortest_for(
    tasks: Sequence[Work], hours: Hours, team: Sequence[Member], limit_s: float = LIMIT_S
) -> TeamSchedule:
    """The schedule that ends soonest for these people, and how soon any could end.

    Every task must be one that they can do (``nobody_can``), and none longer than a day.
    """
    guess = _best_guess(tasks, hours, team)
    found = [guess]
    if _all_alike(tasks, team):
        found.append(_alike(tasks, hours, team, limit_s))
    if not found[-1].optimal and (len(found) == 1 or len(tasks) <= TOLD_APART):
        found.append(_solved(tasks, hours, team, min(found, key=lambda one: one.end), limit_s))
    best = min(found, key=lambda one: one.end)
    bound = max(one.bound for one in found)
    return TeamSchedule(best.starts, best.people, best.end, min(bound, best.end))


def _best_guess(tasks: Sequence[Work], hours: Hours, team: Sequence[Member]) -> TeamSchedule:
    """The best of some orders of the tasks, each as soon as it can be; the same ones every time."""
    least = soonest(tasks, hours, len(team))
    chance, best = Random(1), None
    for n in range(max(1, TRIED // len(tasks)) if len(tasks) > PROVEN_TASKS else 1):
        weights = {t.id: 0.5 + chance.random() for t in tasks} if n else None
        found = _in_turn(ordered(tasks, weights), hours, team, {})
        assert found is not None  # in an order that has what comes first first
        if best is None or found.end < best.end:
            best = found
        if best.end <= least:
            break
    assert best is not None
    return TeamSchedule(best.starts, best.people, best.end, min(least, best.end))


def _all_alike(tasks: Sequence[Work], team: Sequence[Member]) -> bool:
    """Whether it makes no difference who does what."""
    asked = {t.skill for t in tasks if t.skill and t.crew and not t.trade}
    return not any(t.who for t in tasks) and all(
        asked <= m.skills and not m.elsewhere for m in team
    )


def _alike(
    tasks: Sequence[Work], hours: Hours, team: Sequence[Member], limit_s: float
) -> TeamSchedule:
    """People who are alike are counted; names are given in the order in which tasks begin."""
    counted = shortest(tasks, hours, len(team), limit_s)
    order = _by_start(tasks, counted.starts)
    named = _in_turn(order, hours, team, {})
    assert named is not None  # what comes first stands first in this order
    return TeamSchedule(named.starts, named.people, named.end, counted.bound)


def _by_start(tasks: Sequence[Work], starts: Mapping[str, int]) -> list[Work]:
    """In the order in which they begin; of those that begin together, what comes first first."""
    rank = {t.id: n for n, t in enumerate(ordered(tasks))}
    return sorted(tasks, key=lambda t: (starts[t.id], rank[t.id]))


def _solved(
    tasks: Sequence[Work], hours: Hours, team: Sequence[Member], guess: TeamSchedule, limit_s: float
) -> TeamSchedule:
    days = hours.until(guess.end)
    least = soonest(tasks, hours, len(team))
    if days * len(tasks) * max(len(team), 1) > MOST_CHOICES:
        return TeamSchedule(guess.starts, guess.people, guess.end, min(guess.end, least))
    from ortools.sat.python import cp_model  # takes a second to load

    model = cp_model.CpModel()
    starts = {t.id: start_var(cp_model, model, t, hours, guess.end, days) for t in tasks}
    ends = {t.id: starts[t.id] + t.duration for t in tasks}
    for task in tasks:
        follow(model, task, starts, ends)
    chosen = _who_does_what(model, tasks, starts, team, guess)
    makespan = model.new_int_var(min(least, guess.end), guess.end, "makespan")
    model.add_max_equality(makespan, list(ends.values()))
    model.minimize(makespan)
    for id, at in guess.starts.items():
        model.add_hint(starts[id], at)
    solver = solver_for(cp_model, len(tasks), limit_s)
    solver.parameters.linearization_level = 2  # proves more where people are told apart
    state = solver.solve(model)
    if state not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return TeamSchedule(guess.starts, guess.people, guess.end, min(guess.end, least))
    found = {id: int(solver.value(var)) for id, var in starts.items()}
    best = max(found[t.id] + t.duration for t in tasks)
    people = {
        id: tuple(name for name, var in of.items() if solver.value(var))
        for id, of in chosen.items()
    }
    bound = best if state == cp_model.OPTIMAL else int(solver.best_objective_bound)
    sooner = _in_turn(_by_start(tasks, found), hours, team, people)
    if sooner is not None and sooner.end <= best:
        return TeamSchedule(sooner.starts, sooner.people, sooner.end, bound)
    return TeamSchedule(found, people, best, bound)


def _who_does_what(
    model: Any,
    tasks: Sequence[Work],
    starts: Mapping[str, Any],
    team: Sequence[Member],
    guess: TeamSchedule,
) -> dict[str, dict[str, Any]]:
    """A choice for each task and person, nobody at two things at once; each trade at one."""
    chosen: dict[str, dict[str, Any]] = {}
    spans: dict[str, list[Any]] = {
        m.name: [model.new_fixed_size_interval_var(s, e - s, "elsewhere") for s, e in m.elsewhere]
        for m in team
    }
    for task in (t for t in tasks if t.crew and not t.trade):
        of = chosen[task.id] = {m.name: model.new_bool_var(f"{task.id} {m.name}") for m in team}
        for name, var in of.items():
            spans[name].append(
                model.new_optional_fixed_size_interval_var(
                    starts[task.id], task.duration, var, f"{task.id} {name}"
                )
            )
            model.add_hint(var, name in guess.people[task.id])
        model.add(sum(of.values()) == task.crew)
        if task.who:
            model.add(of[task.who] == 1)
        if task.skill:
            model.add_bool_or([of[m.name] for m in team if m.may(task)])
    for own in spans.values():
        model.add_no_overlap(own)
    for trade in dict.fromkeys(t.trade for t in tasks if t.trade):
        model.add_no_overlap(
            [
                model.new_fixed_size_interval_var(starts[t.id], t.duration, t.id)
                for t in tasks
                if t.trade == trade
            ]
        )
    return chosen
