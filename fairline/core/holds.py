"""One log may hold several holds: where nitrogen was let in or out, a new one begins.

A leak slows down only as the pressure that drives it falls; it never stops at once, and it never
raises the gauge. Nitrogen that is let in or out moves the gauge quickly, and then it stands.
That tells them apart in a log read every two minutes or closer. Of readings further apart nobody
can say it: they stay one hold, and a new one is begun by hand.
"""

from collections.abc import Iterable, Sequence
from typing import Literal

from fairline.core.calc.nitrogen import ATMOSPHERE_PA, ZERO_C_K
from fairline.core.call import Frozen
from fairline.core.readings import Reading, Run

# Our own choices, no published source.
WINDOW_S = 120.0  # changes are looked for within this time
SHARE = 0.02  # of the absolute pressure; what a pipe warms by in the window is less
STILL = 0.003  # of the absolute pressure, within the window: the gauge stands
LONGEST_S = 600.0  # letting nitrogen out takes no longer


class Change(Frozen):
    """Nitrogen let in or out: the last reading before it, the first after it, its size in Pa."""

    before: int
    after: int
    kind: Literal["let in", "let out"]
    by_pa: float


class Hold(Frozen):
    """A part of a log between two changes; ``began`` is the change before it.

    What was read while nitrogen went in or out belongs to no hold; the log keeps it.
    """

    run: Run
    began: Change | None = None


def changes(readings: Sequence[Reading], atmosphere_pa: float = ATMOSPHERE_PA) -> list[Change]:
    """Where nitrogen was let in or out, in order. Readings in order of time."""
    gauge = [r.gauge_pa or 0.0 for r in readings]
    least = SHARE * (min(gauge, default=0.0) + atmosphere_pa)
    if max(gauge, default=0.0) - min(gauge, default=0.0) <= least:
        return []
    times = [r.t_s for r in readings]
    # Pressure over temperature stays at constant volume: that leaves the pipe's warming out.
    sealed = [
        (p + atmosphere_pa) / ((r.pipe_c or 0.0) + ZERO_C_K)
        for p, r in zip(gauge, readings, strict=True)
    ]
    ahead = _ahead(times)
    found: list[Change] = []
    at = 0
    while at < len(times) - 1:
        to = ahead[at]
        moved = gauge[to] - gauge[at]
        if abs(sealed[to] / sealed[at] - 1) <= SHARE or abs(moved) <= SHARE * (
            gauge[at] + atmosphere_pa
        ):
            at += 1
            continue
        last, stands = _until_it_stands(gauge, sealed, times, ahead, at, atmosphere_pa)
        change = gauge[last] - gauge[at]
        took = times[last] - times[at]
        if change > 0 or (stands and took <= LONGEST_S):
            kind: Literal["let in", "let out"] = "let in" if change > 0 else "let out"
            found.append(Change(before=at, after=last, kind=kind, by_pa=abs(change)))
        at = last
    return found


def _ahead(times: Sequence[float]) -> list[int]:
    """For each reading the last one that is not more than the window later."""
    found, to = [], 0
    for at, t in enumerate(times):
        to = max(to, at)
        while to + 1 < len(times) and times[to + 1] - t <= WINDOW_S:
            to += 1
        found.append(to)
    return found


def _until_it_stands(
    gauge: Sequence[float], sealed: Sequence[float], times: Sequence[float],
    ahead: Sequence[int], at: int, atmosphere_pa: float,
) -> tuple[int, bool]:  # fmt: skip
    """The end of the window in which the gauge stands again, and whether it was seen to."""
    here = ahead[at]
    while (to := ahead[here]) > here:
        moved = abs(gauge[to] - gauge[here]) / (gauge[here] + atmosphere_pa)
        if min(moved, abs(sealed[to] / sealed[here] - 1)) <= STILL:
            seen = times[to] - times[here] >= WINDOW_S / 2
            return (to if seen else here), seen
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
