"""Evacuate: the isolated decay proves the system dry and tight."""

from itertools import pairwise
from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from fairline.core.calc.decay_shape import (
    MATERIAL_SHARE,
    Fit,
    Floats,
    Late,
    Reading,
    Shape,
    read_shape,
)
from fairline.core.calc.pressure_hold import MAX_READINGS
from fairline.core.calc.zone_capacity import saturation_pa
from fairline.core.call import Answer, Authority, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.quantities import both, duration

SETTLING_WINDOW_S = 120.0  # trapped gas over the limit this soon after closing is set aside …
SETTLING_WINDOW_SHARE = 0.2  # … but never over more than this share of the hold
PUFF_SHARE = 0.05  # of the hold: a reading over the limit that comes down again within it
LEAK_HOLDS = 5.0  # a certain leak that crosses within this many holds wants a look, however slow
LOOK_AHEAD_HOLDS = 300.0  # how far a course is followed until it passes the limit
SAME = 1 + 1e-9
TRIPLE_PA = 611.657  # below the triple point water is ice, or held in oil (IAPWS)
FEW_SHARE = 0.1  # of the hold: of few readings a shorter gap gives no slope of its own
ICE_SHARE = 0.4  # of the vapour pressure of ice: a level near it may be ice

Isolation = Literal["confirmed", "not_confirmed"]


class DecayReading(Request):
    t_s: Annotated[float, Field(ge=0, le=1e9)]
    pa: Annotated[float, Field(ge=0, le=200_000)]


class DecayRule(Request):
    max_pa: Annotated[float, Field(gt=0, le=200_000)]
    hold_s: Annotated[float, Field(gt=0, le=1e8)]


class VacuumDecayRequest(Request):
    """Absolute pressures in Pa from the moment the valve to the pump was closed.

    ``isolation``: whether the valve was shut and the pump seen off. A level course alone cannot
    tell that from a pump that still draws.
    """

    readings: Annotated[list[DecayReading], Field(min_length=1, max_length=MAX_READINGS)]
    rule: DecayRule
    ambient_c: Annotated[float, Field(ge=-80, le=150)]
    volume_m3: Annotated[float, Field(gt=0, le=10)] | None = None
    gauge_resolution_pa: Annotated[float, Field(ge=0, le=10_000)] | None = None
    isolation: Isolation = "confirmed"

    @model_validator(mode="after")
    def _in_order(self) -> "VacuumDecayRequest":
        for i, (a, b) in enumerate(pairwise(self.readings)):
            if b.t_s < a.t_s:
                raise ValueError(f"readings: reading {i + 2} is earlier than the one before it")
        return self


class VacuumDecayResult(Frozen):
    """Pressures in Pa, times in s; ``limit_in_s`` from closing until the course passes the limit.

    ``highest_pa``: over the hold, trapped gas that settles set aside.
    """

    start_pa: float
    end_pa: float
    held_s: float
    passes: bool
    shape: Shape
    highest_pa: float
    rate_pa_s: float | None = None
    plateau_pa: float | None = None
    leak_pa_m3_s: float | None = None
    water_boils_at_pa: float
    certainty: float | None = None
    limit_in_s: float | None = None
    fit: Fit | None = None


class _Course(Frozen):
    """What the readings say of the hold and of what follows it."""

    whole: bool  # a reading lies at the end of the hold or after it
    highest: float
    puff: bool  # it was over the limit for a moment, and level before and after
    over_after: float | None  # first reading over the limit after the hold, s
    reading: Reading
    few: bool
    rate: float | None
    limit_in: float | None
    soon: bool  # it passes the limit before the next hold is over
    leak: bool  # a straight rise that is certain


def vacuum_decay(
    request: VacuumDecayRequest, limits: tuple[Limit, ...] | None = None
) -> Answer[VacuumDecayResult]:
    """Judge an isolated decay: does it stay under the limit, what makes it rise, where it leads.

    The hold is judged on every reading from closing up to the first at or after its end.
    ``holds`` also asks that the course does not pass the limit within the next hold.
    """
    t = np.array([r.t_s for r in request.readings])
    p = np.array([r.pa for r in request.readings])
    t = t - t[0]
    boils = saturation_pa(request.ambient_c)
    course = _course(request, t, p, boils)
    shape = _shape(request, course, p, boils)
    fit = course.reading.fit
    levels = fit is not None and bool(fit.tau) and not fit.slowing and shape in _LEVELLING
    plateau = fit.start + fit.step if levels and fit is not None else None
    rate = course.rate if shape in ("leak", "leak_and_moisture") or course.few else None
    leak = rate * request.volume_m3 if rate is not None and request.volume_m3 else None
    result = VacuumDecayResult(
        start_pa=float(p[0]),
        end_pa=float(p[-1]),
        held_s=float(t[-1]),
        passes=course.highest <= request.rule.max_pa * SAME,
        shape=shape,
        highest_pa=course.highest,
        rate_pa_s=rate,
        plateau_pa=plateau,
        leak_pa_m3_s=leak if leak is None or leak > 0 else None,
        water_boils_at_pa=boils,
        certainty=course.reading.certainty,
        limit_in_s=course.limit_in,
        fit=fit,
    )
    findings: list[str] = [shape] if shape not in ("steady", "undecided") else []
    if course.few:
        findings.append("too_few_readings")
    call = _judge(request, result, course)
    if call.verdict is Verdict.WATCH and course.soon:
        findings.append("crosses_soon")
    return Answer[VacuumDecayResult](
        call=call,
        governed_by=_limits(request.rule) if limits is None else limits,
        working=_working(request, result, course),
        findings=tuple(dict.fromkeys(findings)),
        result=result,
    )


_MAY_BE_ICE: tuple[Shape, ...] = (
    "steady", "outgassing", "moisture", "leak_and_moisture", "undecided",
)  # fmt: skip
_LEVELLING: tuple[Shape, ...] = ("moisture", "leak_and_moisture", "outgassing", "ice")


def _course(request: VacuumDecayRequest, t: Floats, p: Floats, boils: float) -> _Course:
    rule = request.rule
    after = np.flatnonzero(t >= rule.hold_s * (1 - 1e-9))
    whole = len(after) > 0
    end = int(after[0]) if whole else len(t) - 1
    highest, puff, quiet = _highest(t[: end + 1], p[: end + 1], rule)
    later = np.flatnonzero((t > t[end]) & (p > rule.max_pa * SAME))
    # The shape is that of the hold and what followed, until it is over the limit for good.
    reading = read_shape(
        t[quiet:], p[quiet:], rule.max_pa, request.gauge_resolution_pa or 0.0, boils
    )
    few = reading.fit is None
    # Where readings go on after the hold, they are themselves the next hold.
    ahead = rule.hold_s
    span = float(t[-1])
    horizon = max(span, rule.hold_s) + ahead
    if few:
        rate: float | None = _few_rate(t, p, rule.hold_s)
        limit_in = _straight_in(float(p[-1]), rate or 0.0, span, rule.max_pa)
        soon = limit_in is not None and limit_in <= horizon * SAME
    else:
        rate, limit_in, soon = _followed(reading, rule, float(t[quiet]), span, horizon)
    material = MATERIAL_SHARE * rule.max_pa
    crossing = LEAK_HOLDS * rule.hold_s + max(span, rule.hold_s)
    leak = bool(
        rate
        and (reading.straight or reading.shape in ("leak", "leak_and_moisture"))
        and not few
        and (rate * rule.hold_s > material or (limit_in is not None and limit_in <= crossing))
    )
    return _Course(
        whole=whole,
        highest=highest,
        puff=puff,
        over_after=float(t[later[0]]) if len(later) else None,
        reading=reading,
        few=few,
        rate=rate,
        limit_in=limit_in,
        soon=soon,
        leak=leak,
    )


def _followed(
    reading: Reading, rule: DecayRule, since: float, span: float, horizon: float
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
        if t[-1] - t[i] >= min(FEW_SHARE * hold_s, t[-1])
    ]
    return max(rates, default=0.0)


def _straight_in(last: float, rate: float, span: float, limit: float) -> float | None:
    if last > limit * SAME:
        return span
    return span + (limit - last) / rate if rate > 0 else None


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


def _shape(request: VacuumDecayRequest, course: _Course, p: Floats, boils: float) -> Shape:
    """The shape by the act and the temperature too, not by the curve alone."""
    reading = course.reading
    shape = reading.shape
    rises = course.rate is not None and course.rate > 0
    if request.isolation == "not_confirmed" and not course.few and shape == "steady":
        assert reading.fit is not None and reading.late is not None
        rise = reading.fit.at(request.rule.hold_s) - reading.fit.at(0.0)
        doubt = max(request.gauge_resolution_pa or 0.0, 0.01 * float(p[0]))
        return "steady" if rise > doubt else "not_isolated"
    if request.isolation == "not_confirmed" and course.few:
        grew = float(np.max(p) - p[0]) > max(request.gauge_resolution_pa or 0.0, 0.02 * p[0])
        return "undecided" if grew and rises else "not_isolated"
    freezing = request.ambient_c < 0
    end = float(np.median(p[-max(3, len(p) // 10) :])) if len(p) > 3 else float(p[-1])
    near_ice = ICE_SHARE * boils <= end <= 1.2 * boils
    if freezing and near_ice and shape in _MAY_BE_ICE:
        return "ice"
    if freezing and shape == "not_isolated" and near_ice:
        return "ice"
    return shape


def _words(request: VacuumDecayRequest, result: VacuumDecayResult, course: _Course) -> str:
    """What makes it rise, in one sentence; none of a leak where there is none."""
    plateau, boils = result.plateau_pa, result.water_boils_at_pa
    near = f" near {both(plateau, 'vacuum')}" if plateau else ""
    if result.shape == "moisture":
        if plateau and plateau < TRIPLE_PA:
            return (
                f"The rise slows and levels off{near}: that is below where free water boils, so "
                "it is ice, water held in oil, or gas from a pocket."
            )
        if plateau and plateau < 0.5 * boils:
            return (
                f"The rise slows and levels off{near}: water that is colder than "
                f"{both(request.ambient_c, 'temperature')}, or nearly gone."
            )
        return f"The rise slows and levels off{near}: water is boiling."
    return {
        "leak": "It rises straight on, heading for the atmosphere: a leak.",
        "leak_and_moisture": "Part of the rise levels off, part goes straight on: water and a "
        "leak.",
        "outgassing": f"The rise slows{near}: gas given off by walls, oil or a pocket.",
        "ice": f"At {both(request.ambient_c, 'temperature')} ice gives {both(boils, 'vacuum')}: "
        "this level may be frozen water.",
        "not_isolated": "It does not rise: the gauge may still see the pump."
        if request.isolation == "not_confirmed"
        else "It falls: the pump still draws on it.",
        "steady": "It stays level.",
        "undecided": "There are too few readings to tell what makes it move.",
    }[result.shape]


SHAPE_ACTS: dict[Shape, str] = {
    "leak": "Break with nitrogen, pressure-test and bubble every joint, then pull again.",
    "moisture": "Break with dry nitrogen, let it dwell, change the pump oil, warm the line and "
    "pull again, three times.",
    "leak_and_moisture": "Pressure-test and bubble the joints first, then dry with nitrogen "
    "sweeps.",
    "outgassing": "Pull on for as long again, then close the valve and time it once more.",
    "ice": "Warm the line above freezing, sweep with dry nitrogen and pull again.",
    "not_isolated": "Shut the valve between pump and gauge, see the pump off, then time it again.",
    "steady": "Pull lower, then close the valve again.",
    "undecided": "Log at least eight readings over a minute, then judge again.",
}


def _judge(request: VacuumDecayRequest, result: VacuumDecayResult, course: _Course) -> Call:
    rule, shape = request.rule, result.shape
    told, limit = _words(request, result, course), both(rule.max_pa, "vacuum")
    highest = both(course.highest, "vacuum")
    if not result.passes and course.puff:
        return Call(
            verdict=Verdict.WATCH,
            because=f"It showed {highest} for a moment, over the {limit} allowed, and was level "
            "before and after: gas cannot do that, a gauge or a knock on the hose can.",
            do_next="Look at gauge and hose, then time the hold again.",
        )
    if not result.passes:
        return Call(
            verdict=Verdict.SHORT,
            because=f"It reached {highest} within the hold, over the {limit} allowed. {told}",
            do_next=SHAPE_ACTS[shape],
        )
    if shape == "not_isolated":
        return Call(verdict=Verdict.UNKNOWN, because=told, do_next=SHAPE_ACTS[shape])
    if course.over_after is not None:
        late = course.over_after <= 2 * rule.hold_s * SAME
        return Call(
            verdict=Verdict.SHORT if late else Verdict.WATCH,
            because=f"It passed the hold and was over {limit} "
            f"{duration(course.over_after)} after closing. {told}",
            do_next=SHAPE_ACTS[shape if shape != "steady" else "undecided"],
        )
    if not course.whole:
        left = duration(rule.hold_s - result.held_s)
        return Call(
            verdict=Verdict.WAIT,
            because=f"{highest} is under {limit} so far. {told}",
            do_next=f"Keep the valve shut for another {left}.",
        )
    if shape == "ice":
        return Call(
            verdict=Verdict.WATCH,
            because=f"{highest} at most, under {limit}, but not proven dry. {told}",
            do_next=SHAPE_ACTS["ice"],
        )
    if course.leak:
        crosses = (
            f" It crosses {limit} in {duration(_left(course, result))}."
            if (course.limit_in is not None)
            else ""
        )
        return Call(
            verdict=Verdict.WATCH,
            because=f"It passed, but rises straight on: a small leak.{crosses}",
            do_next="Find the leak with nitrogen and bubbles, then pull again.",
        )
    if course.soon:
        return Call(
            verdict=Verdict.WATCH,
            because=f"It passed, but may be over {limit} before another "
            f"{duration(rule.hold_s)} are over. {told}",
            do_next="Keep the valve shut and read on until it is level, or pull lower.",
        )
    if course.limit_in is not None and shape in ("moisture", "leak_and_moisture"):
        return Call(
            verdict=Verdict.WATCH,
            because=f"It passed, but where it leads lies over {limit}. {told}",
            do_next=SHAPE_ACTS[shape],
        )
    return Call(
        verdict=Verdict.HOLDS,
        because=f"{highest} at most in {duration(rule.hold_s)}, under {limit}. {told}",
    )


def _left(course: _Course, result: VacuumDecayResult) -> float:
    return max((course.limit_in or 0.0) - result.held_s, 0.0)


def _working(
    request: VacuumDecayRequest, result: VacuumDecayResult, course: _Course
) -> tuple[Step, ...]:
    working = [
        Step(
            step="highest over the hold, trapped gas that settles set aside",
            expression=f"every reading up to the end of {request.rule.hold_s:.0f} s",
            value=course.highest,
            unit="Pa",
        ),
        Step(
            step="rise since the valve closed",
            expression=f"{result.end_pa:.2f} − {result.start_pa:.2f}",
            value=result.end_pa - result.start_pa,
            unit="Pa",
        ),
        Step(
            step="vapour pressure of water at this temperature",
            expression=f"at {request.ambient_c:g} °C" + (", over ice" * (request.ambient_c < 0)),
            value=result.water_boils_at_pa,
            unit="Pa",
        ),
    ]
    late: Late | None = course.reading.late
    if late is not None and not course.reading.told:
        ahead = request.rule.hold_s
        working.append(
            Step(
                step="at most at the end of the next hold, by the last half of the readings",
                expression=f"{late.level:.2f} + ({late.slope:.3g} + 2·{late.slope_error:.2g})·"
                f"{ahead:.0f}",
                value=late.most(ahead),
                unit="Pa",
            )
        )
    if result.rate_pa_s is not None:
        working.append(
            Step(
                step="straight rise",
                expression="steepest line to the last reading"
                if course.few
                else "slope of the fitted line",
                value=result.rate_pa_s,
                unit="Pa/s",
            )
        )
    fit = result.fit
    if result.plateau_pa is not None and fit is not None:
        working.append(
            Step(
                step="levels off",
                expression=f"p = {fit.start:.1f} + {fit.step:.1f}·(1 − e^(−t/{fit.tau:.0f} s))",
                value=result.plateau_pa,
                unit="Pa",
            )
        )
    return tuple(working)


def _limits(rule: DecayRule) -> tuple[Limit, ...]:
    return (
        Limit(
            limit="decay limit",
            value=rule.max_pa,
            unit="Pa",
            authority=Authority.HOUSE,
            source="rule of the request",
        ),
        Limit(
            limit="hold",
            value=rule.hold_s,
            unit="s",
            authority=Authority.HOUSE,
            source="rule of the request",
        ),
    )
