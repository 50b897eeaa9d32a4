"""The shortest schedule of tasks in working hours: a constraint model, and a plain first guess.

Times are whole milliseconds from the plan's beginning. The solver (OR-Tools, CP-SAT) is loaded only
where a plan is asked for.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

SECONDS = 1000  # in a second
PROVEN_TASKS = 8  # so many are always solved to the end
LIMIT_S = 1.5  # how long more of them are looked for: an answer within a second or two
MOST_CHOICES = 60_000  # days times tasks for the solver; beyond it the first guess stands


@dataclass(frozen=True)
class Work:
    """One task. ``crew`` people of the company are kept by it, none by another trade's.

    ``waits``: it needs nobody, and begins the moment what is before it ends.
    """

    id: str
    duration: int
    crew: int
    after: tuple[str, ...]
    trade: str = ""
    earliest: int = 0
    overnight: bool = False
    waits: bool = False


@dataclass(frozen=True)
class Hours:
    """The working hours: the first day's opening and closing, and those of every day after it.

    ``first``: when the first day opens, from the plan's beginning on; negative where it is open
    already. ``length``: from opening to closing. ``day``: a whole day.
    """

    first: int
    length: int
    day: int = 86_400 * SECONDS

    def window(self, number: int) -> tuple[int, int]:
        """Opening and closing of a day, by its number, never before the beginning."""
        opens = self.first + number * self.day
        return max(opens, 0), opens + self.length

    def next_start(self, at: int, task: Work) -> int:
        """The first moment from ``at`` on at which a task may begin."""
        number = max((at - self.first) // self.day, 0)
        while True:
            opens, closes = self.window(number)
            start = max(at, opens)
            if start + (1 if task.overnight else task.duration) <= closes and start < closes:
                return start
            if task.duration == 0 and start == closes:
                return start
            number += 1


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
    for task in _ordered(tasks):
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
        start = hours.next_start(at, task)
        free = kept.free(start, task)
        if free == start:
            return start
        at = max(free, start + 1)


def _ordered(tasks: Sequence[Work]) -> list[Work]:
    """Tasks so that each stands after those before it, the longest way to the end first."""
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
        task = max(ready, key=lambda t: (way(t.id), -len(t.after)))
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


def shortest(tasks: Sequence[Work], hours: Hours, crew: int) -> Schedule:
    """The schedule that ends soonest, and how soon any could end."""
    guess = first_guess(tasks, hours, crew)
    durations = {t.id: t.duration for t in tasks}
    end = max(guess[id] + durations[id] for id in guess)
    days = (end - hours.first) // hours.day + 2
    if days * len(tasks) > MOST_CHOICES:
        return Schedule(guess, end, min(end, _longest_way(tasks)))
    return _solved(tasks, hours, crew, guess, end, days)


def _longest_way(tasks: Sequence[Work]) -> int:
    ends: dict[str, int] = {}
    for task in _ordered(tasks):
        ready = max([task.earliest, *(ends[a] for a in task.after)], default=0)
        ends[task.id] = ready + task.duration
    return max(ends.values())


def _solved(
    tasks: Sequence[Work], hours: Hours, crew: int, guess: Mapping[str, int], end: int, days: int
) -> Schedule:
    from ortools.sat.python import cp_model  # takes a second to load

    model = cp_model.CpModel()
    starts = {t.id: _start_var(cp_model, model, t, hours, end, days) for t in tasks}
    ends = {t.id: starts[t.id] + t.duration for t in tasks}
    for task in tasks:
        _follow(model, task, starts, ends)
    _capacities(model, tasks, starts, crew)
    makespan = model.new_int_var(0, end, "makespan")
    model.add_max_equality(makespan, list(ends.values()))
    model.minimize(makespan)
    for id, at in guess.items():
        model.add_hint(starts[id], at)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1  # the same answer every time
    solver.parameters.random_seed = 1
    if len(tasks) > PROVEN_TASKS:
        solver.parameters.max_deterministic_time = LIMIT_S
        solver.parameters.max_time_in_seconds = 2 * LIMIT_S
    state = solver.solve(model)
    if state not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return Schedule(guess, end, min(end, _longest_way(tasks)))
    found = {id: int(solver.value(var)) for id, var in starts.items()}
    best = max(found[t.id] + t.duration for t in tasks)
    bound = best if state == cp_model.OPTIMAL else int(solver.best_objective_bound)
    return Schedule(_pushed_forward(tasks, hours, crew, found, best), best, bound)


def _start_var(cp_model: Any, model: Any, task: Work, hours: Hours, end: int, days: int) -> Any:
    """When a task may start: a wait at any hour, work inside the hours of a day."""
    if task.waits:
        return model.new_int_var(task.earliest, max(end, task.earliest), task.id)
    spans = []
    for number in range(days):
        opens, closes = hours.window(number)
        last = closes - 1 if task.overnight and task.duration else closes - task.duration
        opens = max(opens, task.earliest)
        if opens <= last:
            spans.append([opens, last])
    return model.new_int_var_from_domain(cp_model.Domain.from_intervals(spans), task.id)


def _follow(model: Any, task: Work, starts: Mapping[str, Any], ends: Mapping[str, Any]) -> None:
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
