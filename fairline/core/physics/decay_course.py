"""What the readings of an isolated decay say of its hold, and where its course leads after it."""

from typing import Annotated

import numpy as np
from pydantic import Field

from fairline.core.call import Frozen, Request
from fairline.core.physics.decay_fits import Floats
from fairline.core.physics.decay_shape import (
    FALL_SHARE,
    MATERIAL_SHARE,
    MIN_READINGS,
    SETTLING_S,
    ShapeReading,
    read_shape,
)

SETTLING_WINDOW_S = 120.0  # trapped gas over the limit this soon after closing is set aside …
SETTLING_WINDOW_SHARE = 0.2  # … but never over more than this share of the hold
PUFF_SHARE = 0.05  # of the hold: a reading over the limit that comes down again within it
LEAK_HOLDS = 5.0  # a certain leak that crosses within this many holds wants a look, however slow
LOOK_AHEAD_HOLDS = 300.0  # how far a course is followed until it passes the limit
SAME = 1 + 1e-9
FEW_SHARE = 0.1  # of the hold: of few readings a shorter gap gives no slope of its own


class DecayRule(Request):
    max_pa: Annotated[float, Field(gt=0, le=200_000)]
    hold_s: Annotated[float, Field(gt=0, le=1e8)]


class Course(Frozen):
    """What the readings say of the hold and of what follows it."""

    whole: bool  # a reading lies at the end of the hold or after it
    highest: float
    puff: bool  # it was over the limit for a moment, and level before and after
    over_after: float | None  # first reading over the limit after the hold, s
    reading: ShapeReading
    few: bool
    few_fall: bool  # few readings, and they fall as a shut system does not
    rate: float | None
    limit_in: float | None
    soon: bool  # it passes the limit before the next hold is over
    leak: bool  # a straight rise that is certain


def course(rule: DecayRule, resolution_pa: float, t: Floats, p: Floats, boils: float) -> Course:
    """What the readings say of the hold and of the next one.

    ``t`` in s from closing, in order; ``p``, ``resolution_pa`` and ``boils`` (where water boils at
    the coldest tube) in Pa, absolute.

    >>> import numpy as np
    >>> t = np.arange(0.0, 661.0, 60.0)
    >>> course(DecayRule(max_pa=66.7, hold_s=600), 1.0, t, 30.0 + 0 * t, 2339.0).highest
    30.0
    """
    after = np.flatnonzero(t >= rule.hold_s * (1 - 1e-9))
    whole = len(after) > 0
    end = int(after[0]) if whole else len(t) - 1
    highest, puff, quiet = _highest(t[: end + 1], p[: end + 1], rule)
    later = np.flatnonzero((t > t[end]) & (p > rule.max_pa * SAME))
    # The shape is that of the hold and what followed, without the puff of closing.
    quiet = max(quiet, _puff(t, p))
    reading = read_shape(t[quiet:], p[quiet:], rule.max_pa, resolution_pa, boils)
    few = reading.fit is None
    # Where readings go on after the hold, they are themselves the next hold.
    ahead = rule.hold_s
    span = float(t[-1])
    horizon = max(span, rule.hold_s) + ahead
    if few:
        rate: float | None = _few_rate(t, p, rule.hold_s)
        limit_in = _straight_in(t, p, rate or 0.0, rule.max_pa)
        soon = limit_in is not None and limit_in <= horizon * SAME
    else:
        rate, limit_in, soon = _followed(reading, rule, float(t[quiet]), span, horizon)
    material = MATERIAL_SHARE * rule.max_pa
    crossing = LEAK_HOLDS * rule.hold_s + max(span, rule.hold_s)
    leak = bool(
        rate
        and (reading.straight or reading.nearest in ("leak", "leak_and_moisture"))
        and not few
        and (rate * rule.hold_s > material or (limit_in is not None and limit_in <= crossing))
    )
    return Course(
        whole=whole,
        highest=highest,
        puff=puff,
        over_after=float(t[later[0]]) if len(later) else None,
        reading=reading,
        few=few,
        few_fall=few and _few_fall(t, p, resolution_pa),
        rate=rate,
        limit_in=limit_in,
        soon=soon,
        leak=leak,
    )


def _puff(t: Floats, p: Floats) -> int:
    """From which reading on the puff of closing is over; 0 where there was none.

    What falls within a minute of closing, and stands from then on.
    """
    after = np.flatnonzero(t >= SETTLING_S)
    if len(after) < MIN_READINGS or after[0] == 0:
        return 0
    settled = float(np.median(p[after[:3]]))
    if settled > (1 + 2 * FALL_SHARE) * float(np.quantile(p[2 * len(p) // 3 :], 0.9)):
        return 0  # it falls on: that is no puff
    return int(after[0]) if float(p[0]) > (1 + 2 * FALL_SHARE) * settled else 0


def _followed(
    reading: ShapeReading, rule: DecayRule, since: float, span: float, horizon: float
) -> tuple[float | None, float | None, bool]:
    """Where the fitted course leads: its straight rate, when it passes the limit, whether soon.

    Soon where any curve that the readings allow passes before ``horizon``; where none runs
    through them well, where their last half leads. Times from closing, in s.
    """
    fit, late = reading.fit, reading.late
    assert fit is not None and late is not None
    until = LOOK_AHEAD_HOLDS * max(rule.hold_s, span)
    near = fit.passes_s(rule.max_pa, 4 * rule.hold_s)
    passes = near if near is not None else fit.passes_s(rule.max_pa, until)
    limit_in = None if passes is None else passes + since
    allowed = (fit, *reading.others) if reading.told else ()
    soon = any(f.at(horizon - since) > rule.max_pa * SAME for f in allowed)
    if not allowed:
        soon = late.most(horizon - span) > rule.max_pa * SAME
    soon = soon or (limit_in is not None and limit_in <= horizon)
    return (fit.rate if fit.rate > 0 else None), limit_in, soon


def _few_rate(t: Floats, p: Floats, hold_s: float) -> float:
    """Of few readings the rise is taken as straight: the steepest that ends at the last one."""
    rates = [
        float(p[-1] - p[i]) / float(t[-1] - t[i])
        for i in range(len(t) - 1)
        if t[-1] - t[i] >= max(min(FEW_SHARE * hold_s, t[-1]), 1e-9)
    ]
    return max(rates, default=0.0)


def _few_fall(t: Floats, p: Floats, resolution_pa: float) -> bool:
    """Whether few readings fall for longer than a puff at closing, and more than cooling explains.

    Where there is but one reading after the puff, the one at closing is all that it can be held
    against.
    """
    after = p[t >= SETTLING_S]
    calm = after if len(after) > 1 else p
    third = (len(calm) + 2) // 3
    early, late = float(np.min(calm[:third])), float(np.max(calm[-third:]))
    if np.all(np.diff(calm) <= 0):
        early, late = float(calm[0]), float(calm[-1])
    return early - late > max(2 * FALL_SHARE * early, 2 * resolution_pa)


def _straight_in(t: Floats, p: Floats, rate: float, limit: float) -> float | None:
    """When few readings, joined by straight lines and drawn on by ``rate``, pass the limit."""
    over = np.flatnonzero(p > limit * SAME)
    if len(over) == 0:
        return float(t[-1]) + (limit - float(p[-1])) / rate if rate > 0 else None
    at = int(over[0])
    if at == 0:
        return 0.0
    return float(np.interp(limit, [p[at - 1], p[at]], [t[at - 1], t[at]]))


def _highest(t: Floats, p: Floats, rule: DecayRule) -> tuple[float, bool, int]:
    """The highest pressure of the hold; whether it was over the limit only for a moment; from
    which reading on trapped gas has settled.

    Trapped gas is set aside: readings over the limit that come down within the settling window
    and stay down.
    """
    over = np.flatnonzero(p > rule.max_pa * SAME)
    highest = float(np.max(p))
    if len(over) == 0:
        return highest, False, 0
    first, last = int(over[0]), int(over[-1])
    if last + 1 == len(p):
        return highest, False, 0
    if t[last] <= min(SETTLING_WINDOW_S, SETTLING_WINDOW_SHARE * rule.hold_s):
        return float(np.max(p[last + 1 :])), False, last + 1
    if first == 0 or t[last] - t[first] > PUFF_SHARE * rule.hold_s:
        return highest, False, 0
    before, after = float(np.median(p[:first])), float(np.median(p[last + 1 :]))
    return highest, after <= before + MATERIAL_SHARE * rule.max_pa, 0
