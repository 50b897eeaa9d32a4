"""One log may hold several holds: where nitrogen was let in or out, a new one begins.

A leak slows down only as the pressure that drives it falls; it never stops at once, and it never
raises the gauge. Nitrogen that is let in or out moves the gauge quickly, and then it stands.
That tells them apart in a log read every two minutes or closer. Of readings further apart nobody
can say it: they stay one hold, and a new one is begun by hand.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from fairline.core.calc.nitrogen import ATMOSPHERE_PA, ZERO_C_K
from fairline.core.call import Frozen
from fairline.core.readings import Reading, Run

# Our own choices, no published source.
WINDOW_S = 120.0  # changes are looked for within this time
SHARE = 0.02  # of the absolute pressure; what a pipe warms by in the window is less
STILL = 0.003  # of the absolute pressure, within the window: the gauge stands
LONGEST_S = 600.0  # letting nitrogen out takes no longer

Array = NDArray[Any]


class Change(Frozen):
    """Nitrogen let in or out: the last reading before it, the first after it, its size in Pa."""

    before: int
    after: int
    kind: Literal["let in", "let out"]
    by_pa: float


@dataclass(frozen=True)
class Hold:
    """A part of a log between two changes; ``began`` is the change before it.

    What was read while nitrogen went in or out belongs to no hold; the log keeps it.
    """

    run: Run
    began: Change | None = None


class _Same:
    """Readings by identity: they never change, and to compare a day's log takes long."""

    def __init__(self, readings: Sequence[Reading]) -> None:
        self.readings = readings

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.readings is self.readings

    def __hash__(self) -> int:
        return id(self.readings)


def changes(
    readings: Sequence[Reading], atmosphere_pa: float = ATMOSPHERE_PA
) -> tuple[Change, ...]:
    """Where nitrogen was let in or out, in order. Readings in order of time."""
    return _changes(_Same(readings), atmosphere_pa)


@lru_cache(maxsize=4)
def _changes(of: _Same, atmosphere_pa: float) -> tuple[Change, ...]:
    readings = of.readings
    absolute = np.array([r.gauge_pa for r in readings], dtype=float) + atmosphere_pa
    if len(absolute) < 2 or np.ptp(absolute) <= SHARE * absolute.min():
        return ()
    times = np.array([r.t_s for r in readings], dtype=float)
    kelvin = np.array([r.pipe_c for r in readings], dtype=float) + ZERO_C_K
    # Pressure over temperature stays at constant volume: that leaves the pipe's warming out.
    sealed = absolute / kelvin
    # For each reading the last one that is at most the window later, and what moved till then.
    ahead = np.searchsorted(times, times + WINDOW_S, side="right") - 1
    by_gauge, by_sealed = absolute[ahead] / absolute - 1, sealed[ahead] / sealed - 1
    moved = np.sign(by_gauge) * np.minimum(np.abs(by_gauge), np.abs(by_sealed))
    found: list[Change] = []
    at = 0
    for jump in np.flatnonzero(np.abs(moved) > SHARE):
        if jump < at:
            continue
        rises = bool(moved[jump] > 0)
        last, stands = _until_it_ends(moved if rises else -moved, times, ahead, int(jump))
        by = abs(float(absolute[last] - absolute[jump]))
        if rises or (stands and times[last] - times[jump] <= LONGEST_S):
            kind: Literal["let in", "let out"] = "let in" if rises else "let out"
            found.append(Change(before=int(jump), after=last, kind=kind, by_pa=by))
        at = last
    return tuple(found)


def _until_it_ends(moved: Array, times: Array, ahead: Array, at: int) -> tuple[int, bool]:
    """Where a change no longer goes on, a window later, and whether the gauge was seen to stand.

    ``moved`` is positive the way the change goes. It ends where the gauge stands or turns: a leak
    after a refill is the new hold's, and is judged there.
    """
    here = int(ahead[at])
    while (to := int(ahead[here])) > here:
        if moved[here] <= STILL:
            seen = bool(times[to] - times[here] >= WINDOW_S / 2)
            stands = seen and bool(moved[here] >= -STILL)
            return (to if stands else here), stands
        here = to
    return here, False


def holds(runs: Iterable[Run], atmosphere_pa: float = ATMOSPHERE_PA) -> list[Hold]:
    """Every nitrogen hold with a reading, in order, each log parted at its changes."""
    found = []
    for run in runs:
        if run.kind != "hold" or not run.readings:
            continue
        parted = changes(run.readings, atmosphere_pa)
        starts = [0, *(c.after for c in parted)]
        ends = [*(c.before + 1 for c in parted), len(run.readings)]
        for start, end, began in zip(starts, ends, [None, *parted], strict=True):
            part = run if not parted else run.model_copy(
                update={"readings": run.readings[start:end]}
            )  # fmt: skip
            found.append(Hold(run=part, began=began))
    return found
