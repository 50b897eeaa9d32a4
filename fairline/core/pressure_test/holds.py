"""One log may hold several holds: where nitrogen was let in or out, a new one begins.

A leak slows down only as the pressure that drives it falls; it never stops at once, and it never
raises the gauge. Nitrogen that is let in or out moves the gauge quickly, and then it stands.
That tells them apart in a log read every two minutes or closer. Of readings further apart nobody
can say it: they stay one hold, and a new one is begun by hand.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from fairline.core.call import Frozen
from fairline.core.physics.constants import ATMOSPHERE_PA, ZERO_C_K
from fairline.core.proofs import Proofs
from fairline.core.readings import HoldReadings, HoldRun

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

    What was read while nitrogen went in or out belongs to no hold; the log keeps it. ``parted``: a
    joint was made in the middle of the log, and this is what was read from then on.
    """

    run: HoldRun
    began: Change | None = None
    parted: bool = False

    @property
    def since(self) -> datetime:
        """When it began: its log, or the change that parted it from the one before."""
        own = self.began is not None or self.parted
        began_s = float(self.run.readings.t_s[0]) if own else 0.0
        return self.run.started_at + timedelta(seconds=began_s)

    def subject(self, proofs: Proofs) -> str:
        """The parts that it was on, by their digest; blank where nobody kept them."""
        return proofs.subject_at(self.run.subject, self.run.started_at, self.since)


def changes(readings: HoldReadings, atmosphere_pa: float = ATMOSPHERE_PA) -> tuple[Change, ...]:
    """Where nitrogen was let in or out, in order. Readings in order of time."""
    absolute = readings.gauge_pa + atmosphere_pa
    if len(absolute) < 2 or np.ptp(absolute) <= SHARE * absolute.min():
        return ()
    times, kelvin = readings.t_s, readings.pipe_c + ZERO_C_K
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


def holds(
    runs: Iterable[HoldRun],
    atmosphere_pa: float = ATMOSPHERE_PA,
    made: Iterable[datetime] = (),
) -> list[Hold]:
    """Every nitrogen hold with a reading, in order, each log parted at its changes.

    ``made``: when joints were made; one that was made in the middle of a hold parts it too.
    """
    found, moments = [], sorted(made)
    for run in runs:
        if not run.readings:
            continue
        parted = changes(run.readings, atmosphere_pa)
        starts = [0, *(c.after for c in parted)]
        ends = [*(c.before + 1 for c in parted), len(run.readings)]
        for start, end, began in zip(starts, ends, [None, *parted], strict=True):
            own = run.readings.only(slice(start, end))
            part = run.model_copy(update={"readings": own}) if parted else run
            found += _at_makings(Hold(run=part, began=began), moments)
    return found


def _at_makings(hold: Hold, moments: Iterable[datetime]) -> list[Hold]:
    """A hold parted where joints were made between its readings."""
    found, times = [hold], hold.run.readings.t_s
    for moment in moments:
        after_s = (moment - hold.run.started_at).total_seconds()
        last = found[-1].run
        if not times[0] < after_s <= times[-1]:
            continue
        at = int(np.searchsorted(last.readings.t_s, after_s))
        if 0 < at < len(last.readings):
            ends = (last.readings.only(slice(0, at)), last.readings.only(slice(at, None)))
            before, after = (last.model_copy(update={"readings": own}) for own in ends)
            found[-1:] = [replace(found[-1], run=before), Hold(run=after, parted=True)]
    return found
