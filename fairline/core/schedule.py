"""The shortest schedule of tasks in working hours: a constraint model, and a plain first guess.

Times are whole milliseconds from the plan's beginning. The solver (OR-Tools, CP-SAT) is loaded only
where a plan is asked for.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol

SECONDS = 1000  # in a second
PROVEN_TASKS = 8  # so many are always solved to the end
LIMIT_S = 1.2  # how long more of them are looked for, twice that on a slow machine
MOST_CHOICES = 60_000  # days times tasks for the solver; beyond it the first guess stands


@dataclass(frozen=True)
class Work:
    """One task. ``crew`` people of the company are kept by it, none by another trade's.

    ``waits``: it needs nobody, and begins the moment what is before it ends. ``not_on``: days, by
    their number, on which it may not begin. ``skill``: one of its people must have it; ``who``: one
    that must be among them.
    """

    id: str
    duration: int
    crew: int
    after: tuple[str, ...]
    trade: str = ""
    earliest: int = 0
    overnight: bool = False
    waits: bool = False
    not_on: frozenset[int] = frozenset()
    skill: str = ""
    who: str = ""


class Hours(Protocol):
    """The working hours of days that are numbered from 0, in ms from the plan's beginning."""

    def window(self, number: int) -> tuple[int, int]:
        """Opening and closing of a day, never before the beginning."""
        ...

    def day_at(self, at: int) -> int:
        """A day that closes no later than the first that is open at ``at`` or after it."""
        ...

    def until(self, end: int) -> int:
        """So many days that the last of them opens after ``end``."""
        ...


@dataclass(frozen=True)
class EveryDay:
    """The same hours on every day.

    ``first``: when the first day opens, from the plan's beginning on; negative where it is open
    already. ``length``: from opening to closing. ``day``: a whole day.
    """

    first: int
    length: int
    day: int = 86_400 * SECONDS

    def window(self, number: int) -> tuple[int, int]:
        opens = self.first + number * self.day
        return max(opens, 0), opens + self.length

    def day_at(self, at: int) -> int:
        return max((at - self.first) // self.day, 0)

    def until(self, end: int) -> int:
        return (end - self.first) // self.day + 2


def next_start(hours: Hours, at: int, task: Work) -> int:
    """The first moment from ``at`` on at which a task may begin."""
    number = hours.day_at(at)
    while True:
        opens, closes = hours.window(number)
        start = max(at, opens)
        if number not in task.not_on and start <= _last_start(task, closes):
            return start
        number += 1


def _last_start(task: Work, closes: int) -> int:
    """When a task must have begun by, on a day that closes then."""
    if task.overnight and task.duration:
        return closes - 1
    return closes - task.duration


@dataclass(frozen=True)
class Schedule:
    """When every task starts; ``bound``: no plan ends sooner."""

    starts: Mapping[str, int]
    end: int
    bound: int

    @property
    def optimal(self) -> bool:
        return self.bound >= self.end


@dataclass
class _Kept:
    """People and trades that are kept already, for the first guess."""

    crew: int
    spans: list[tuple[int, int, int, str]] = field(default_factory=list)

    def free(self, start: int, task: Work) -> int:
        """The first moment from ``start`` on at which enough people are free; ``start`` if now."""
        end = start + task.duration
        clashing = [s for s in self.spans if s[0] < end and start < s[1]]
        if task.trade:
            later = [s[1] for s in clashing if s[3] == task.trade]
            return max(later, default=start)
        edges = {start, *(s[0] for s in clashing if s[0] > start)}
        for at in sorted(edges):
            busy = sum(s[2] for s in clashing if s[0] <= at < s[1])
            if busy + task.crew > self.crew:
                return min(s[1] for s in clashing if s[0] <= at < s[1] and s[2])
        return start


def first_guess(tasks: Sequence[Work], hours: Hours, crew: int) -> dict[str, int]:
    """A plan by the order of what comes after what: each task as soon as it can be."""
    by_id, starts = {t.id: t for t in tasks}, dict[str, int]()
    kept = _Kept(crew)
    for task in ordered(tasks):
        ready = max(
            [task.earliest, *(starts[a] + by_id[a].duration for a in task.after)], default=0
        )
        start = ready if task.waits else _placed(task, ready, hours, kept)
        starts[task.id] = start
        if not task.waits:
            kept.spans.append((start, start + task.duration, task.crew, task.trade))
    return starts


def _placed(task: Work, ready: int, hours: Hours, kept: _Kept) -> int:
    at = ready
    while True:
        start = next_start(hours, at, task)
        free = kept.free(start, task)
        if free == start:
            return start
        at = max(free, start + 1)


def ordered(tasks: Sequence[Work], weights: Mapping[str, float] | None = None) -> list[Work]:
    """Tasks so that each stands after those before it, the longest way to the end first.

    ``weights``: by which each task's way is multiplied, to try another order.
    """
    weight = weights or {}
    by_id = {t.id: t for t in tasks}
    follows: dict[str, list[str]] = {t.id: [] for t in tasks}
    for task in tasks:
        for before in task.after:
            follows[before].append(task.id)
    tail: dict[str, int] = {}

    def way(id: str) -> int:
        if id not in tail:
            tail[id] = by_id[id].duration + max((way(f) for f in follows[id]), default=0)
        return tail[id]

    rest = dict(by_id)
    found: list[Work] = []
    done: set[str] = set()
    while rest:
        ready = [t for t in rest.values() if all(a in done for a in t.after)]
        task = max(ready, key=lambda t: (way(t.id) * weight.get(t.id, 1.0), -len(t.after)))
        found.append(task)
        done.add(task.id)
        del rest[task.id]
    return found


def cycle(tasks: Sequence[Work]) -> str:
    """A task that comes after itself; blank where none does."""
    left = {t.id: set(t.after) for t in tasks}
    while True:
        free = [id for id, before in left.items() if not before]
        if not free:
            return next(iter(left), "")
        for id in free:
            del left[id]
        for before in left.values():
            before.difference_update(free)


def shortest(tasks: Sequence[Work], hours: Hours, crew: int, limit_s: float = LIMIT_S) -> Schedule:
    """The schedule that ends soonest, and how soon any could end."""
    guess = first_guess(tasks, hours, crew)
    durations = {t.id: t.duration for t in tasks}
    end = max(guess[id] + durations[id] for id in guess)
    days = hours.until(end)
    if days * len(tasks) > MOST_CHOICES:
        return Schedule(guess, end, min(end, soonest(tasks, hours, crew)))
    return _solved(tasks, hours, crew, guess, (end, days, limit_s))


def soonest(tasks: Sequence[Work], hours: Hours, crew: int) -> int:
    """A moment before which no plan ends: the longest way, or all the work by all the people."""
    return max(longest_way(tasks), _work_alone(tasks, hours, crew))


def _work_alone(tasks: Sequence[Work], hours: Hours, count: int) -> int:
    """When so many people could be ready at the soonest if nothing had to wait for anything."""
    left = sum(t.duration * t.crew for t in tasks if t.crew and not t.trade and not t.overnight)
    if not left or not count:
        return 0
    number = 0
    while True:
        opens, closes = hours.window(number)
        if left <= (closes - opens) * count:
            return opens + -(-left // count)
        left -= max(0, closes - opens) * count
        number += 1


def longest_way(tasks: Sequence[Work]) -> int:
    ends: dict[str, int] = {}
    for task in ordered(tasks):
        ready = max([task.earliest, *(ends[a] for a in task.after)], default=0)
        ends[task.id] = ready + task.duration
    return max(ends.values())


def _solved(
    tasks: Sequence[Work],
    hours: Hours,
    crew: int,
    guess: Mapping[str, int],
    most: tuple[int, int, float],
) -> Schedule:
    """``most``: the end that is known to be possible, the days up to it, and how long to look."""
    end, days, limit_s = most
    from ortools.sat.python import cp_model  # takes a second to load

    model = cp_model.CpModel()
    starts = {t.id: start_var(cp_model, model, t, hours, end, days) for t in tasks}
    ends = {t.id: starts[t.id] + t.duration for t in tasks}
    for task in tasks:
        follow(model, task, starts, ends)
    _capacities(model, tasks, starts, crew)
    makespan = model.new_int_var(min(soonest(tasks, hours, crew), end), end, "makespan")
    model.add_max_equality(makespan, list(ends.values()))
    model.minimize(makespan)
    for id, at in guess.items():
        model.add_hint(starts[id], at)
    solver = solver_for(cp_model, len(tasks), limit_s)
    state = solver.solve(model)
    if state not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return Schedule(guess, end, min(end, soonest(tasks, hours, crew)))
    found = {id: int(solver.value(var)) for id, var in starts.items()}
    best = max(found[t.id] + t.duration for t in tasks)
    bound = best if state == cp_model.OPTIMAL else int(solver.best_objective_bound)
    return Schedule(_pushed_forward(tasks, hours, crew, found, best), best, bound)


def solver_for(cp_model: Any, count: int, limit_s: float) -> Any:
    """A solver that gives the same answer every time; of many tasks it stops at the limit."""
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    solver.parameters.use_overload_checker_in_cumulative = True
    solver.parameters.use_timetable_edge_finding_in_cumulative = True
    if count > PROVEN_TASKS:
        solver.parameters.max_deterministic_time = limit_s
        solver.parameters.max_time_in_seconds = 2 * limit_s
    return solver


def start_var(cp_model: Any, model: Any, task: Work, hours: Hours, end: int, days: int) -> Any:
    """When a task may start: a wait at any hour, work inside the hours of a day."""
    if task.waits:
        return model.new_int_var(task.earliest, max(end, task.earliest), task.id)
    spans = []
    for number in range(days):
        opens, closes = hours.window(number)
        opens, last = max(opens, task.earliest), _last_start(task, closes)
        if number not in task.not_on and opens <= last:
            spans.append([opens, last])
    return model.new_int_var_from_domain(cp_model.Domain.from_intervals(spans), task.id)


def follow(model: Any, task: Work, starts: Mapping[str, Any], ends: Mapping[str, Any]) -> None:
    if task.waits:
        model.add_max_equality(starts[task.id], [task.earliest, *(ends[a] for a in task.after)])
        return
    for before in task.after:
        model.add(starts[task.id] >= ends[before])


def _capacities(model: Any, tasks: Sequence[Work], starts: Mapping[str, Any], crew: int) -> None:
    spans = {
        t.id: model.new_fixed_size_interval_var(starts[t.id], t.duration, t.id)
        for t in tasks
        if not t.waits
    }
    own = [t for t in tasks if t.crew and not t.trade]
    model.add_cumulative([spans[t.id] for t in own], [t.crew for t in own], crew)
    for trade in dict.fromkeys(t.trade for t in tasks if t.trade):
        model.add_no_overlap([spans[t.id] for t in tasks if t.trade == trade])


def _pushed_forward(
    tasks: Sequence[Work], hours: Hours, crew: int, found: Mapping[str, int], end: int
) -> Mapping[str, int]:
    """The same plan with every task as soon as it can be, in the order in which they start."""
    by_id, starts = {t.id: t for t in tasks}, dict[str, int]()
    kept = _Kept(crew)
    order = sorted(tasks, key=lambda t: (found[t.id], found[t.id] + t.duration))
    for task in order:
        if any(a not in starts for a in task.after):
            return found
        ready = max(
            [task.earliest, *(starts[a] + by_id[a].duration for a in task.after)], default=0
        )
        start = ready if task.waits else _placed(task, ready, hours, kept)
        starts[task.id] = start
        if not task.waits:
            kept.spans.append((start, start + task.duration, task.crew, task.trade))
    sooner = max(starts[t.id] + t.duration for t in tasks) <= end
    return starts if sooner else found


def slacks(tasks: Sequence[Work], starts: Mapping[str, int], end: int) -> dict[str, int]:
    """How much later each may end, the others as they are, with nothing after it delayed."""
    ends = {t.id: starts[t.id] + t.duration for t in tasks}
    limits = dict.fromkeys(ends, end)
    for task in tasks:
        for before in task.after:
            limits[before] = min(limits[before], starts[task.id])
    return {id: limits[id] - ends[id] for id in ends}
