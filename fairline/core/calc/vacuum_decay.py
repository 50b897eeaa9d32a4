"""Evacuate: the isolated decay proves the system dry and tight."""

from itertools import pairwise
from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from fairline.core.calc.pressure_hold import MAX_READINGS
from fairline.core.call import Answer, Asked, Authority, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.physics.decay_course import SAME, Course, DecayRule, course
from fairline.core.physics.decay_fits import Fit, Floats
from fairline.core.physics.decay_shape import RISES, SEEN_RESTLESS, LateTrend, Shape
from fairline.core.physics.decay_words import (
    MAY_BE,
    MAY_BE_BELOW,
    NOT_SEEN,
    READ_ON,
    SHAPE_ACTS,
    STEEPENS,
)
from fairline.core.physics.moist_air import saturation_pa
from fairline.core.quantities import both, duration

TRIPLE_PA = 611.657  # below the triple point water is ice, or held in oil (IAPWS)
CLEAR_RISE = 0.2  # of the start: no pump's level wanders so far up; our own choice
CALM: tuple[Shape, ...] = ("steady", "outgassing", "undecided", "leak")
ICE_SHARE = 0.4  # of the vapour pressure of ice: a level near it may be ice

Isolation = Literal["confirmed", "not_confirmed"]


class DecayReading(Asked):
    t_s: Annotated[float, Field(ge=0, le=1e9)]
    pa: Annotated[float, Field(ge=0, le=200_000)]


class DecayQuestion(Request):
    """What a decay is asked, its readings apart.

    ``isolation``: whether the valve was shut and the pump seen off. A level course alone cannot
    tell that from a pump that still draws.
    """

    rule: DecayRule
    ambient_c: Annotated[float, Field(ge=-80, le=150)]
    volume_m3: Annotated[float, Field(gt=0, le=10)] | None = None
    gauge_resolution_pa: Annotated[float, Field(ge=0, le=10_000)] | None = None
    isolation: Isolation = "confirmed"


class VacuumDecayRequest(DecayQuestion):
    """Absolute pressures in Pa from the moment the valve to the pump was closed."""

    readings: Annotated[list[DecayReading], Field(min_length=1, max_length=MAX_READINGS)]

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


def vacuum_decay(
    request: VacuumDecayRequest, limits: tuple[Limit, ...] | None = None
) -> Answer[VacuumDecayResult]:
    """Judge an isolated decay: does it stay under the limit, what makes it rise, where it leads.

    The hold is judged on every reading from closing up to the first at or after its end.
    ``holds`` also asks that the course does not pass the limit within the next hold.

    >>> asked = {"readings": [{"t_s": 0, "pa": 30}, {"t_s": 60, "pa": 80}],
    ...          "rule": {"max_pa": 66.7, "hold_s": 600}, "ambient_c": 20}
    >>> vacuum_decay(VacuumDecayRequest.model_validate(asked)).call.verdict.value
    'short'
    """
    t = np.array([r.t_s for r in request.readings])
    p = np.array([r.pa for r in request.readings])
    return decay(request, t, p, limits)


def decay(
    request: DecayQuestion, t: Floats, p: Floats, limits: tuple[Limit, ...] | None = None
) -> Answer[VacuumDecayResult]:
    """As ``vacuum_decay``, of readings as arrays: times in s in order, absolute pressures in Pa.

    >>> question = DecayQuestion(rule=DecayRule(max_pa=66.7, hold_s=60), ambient_c=20)
    >>> decay(question, np.array([0.0, 60.0]), np.array([30.0, 80.0])).call.verdict.value
    'short'
    """
    t = t - t[0]
    boils = saturation_pa(request.ambient_c)
    seen = course(request.rule, request.gauge_resolution_pa or 0.0, t, p, boils)
    shape = _shape(request, seen, p, boils)
    fit = seen.reading.fit
    plateau = fit.plateau if fit is not None and shape in _LEVELLING else None
    rate = seen.rate if shape in ("leak", "leak_and_moisture") or seen.few else None
    leak = rate * request.volume_m3 if rate is not None and request.volume_m3 else None
    result = VacuumDecayResult(
        start_pa=float(p[0]),
        end_pa=float(p[-1]),
        held_s=float(t[-1]),
        passes=seen.highest <= request.rule.max_pa * SAME,
        shape=shape,
        highest_pa=seen.highest,
        rate_pa_s=rate,
        plateau_pa=plateau,
        leak_pa_m3_s=leak if leak is None or leak > 0 else None,
        water_boils_at_pa=boils,
        certainty=seen.reading.certainty,
        limit_in_s=seen.limit_in,
        fit=fit,
    )
    findings: list[str] = [shape] if shape not in ("steady", "undecided") else []
    if seen.few:
        findings.append("too_few_readings")
    call = _judge(request, result, seen)
    if call.verdict is Verdict.HOLDS and request.isolation == "not_confirmed":
        # Without the act nothing holds: a valve that passes to a running pump rises and levels off.
        findings = ["not_isolated"]
        call = Call(verdict=Verdict.UNKNOWN, because=NOT_SEEN, do_next=SHAPE_ACTS["not_isolated"])
    if call.verdict is Verdict.WATCH and seen.soon:
        findings.append("crosses_soon")
    return Answer[VacuumDecayResult](
        call=call,
        governed_by=_limits(request.rule) if limits is None else limits,
        working=_working(request, result, seen),
        findings=tuple(dict.fromkeys(findings)),
        result=result,
    )


_MAY_BE_ICE: tuple[Shape, ...] = (
    "steady",
    "outgassing",
    "moisture",
    "leak_and_moisture",
    "undecided",
)
_LEVELLING: tuple[Shape, ...] = ("moisture", "leak_and_moisture", "outgassing", "ice")


def _shape(request: DecayQuestion, seen: Course, p: Floats, boils: float) -> Shape:
    """The shape by the act and the temperature too, not by the curve alone."""
    shape = seen.reading.shape
    if request.isolation == "not_confirmed" and len(p) > 1 and (seen.few or shape in CALM):
        return shape if _shown_shut(request, seen, p) else "not_isolated"
    if seen.few_fall:
        shape = "not_isolated"
    freezing = request.ambient_c < 0
    end = float(np.median(p[-max(3, len(p) // 10) :])) if len(p) > 3 else float(p[-1])
    near_ice = ICE_SHARE * boils <= end <= 1.2 * boils
    if freezing and near_ice and shape in _MAY_BE_ICE:
        return "ice"
    if freezing and shape == "not_isolated" and near_ice:
        return "ice"
    if freezing and shape == "leak" and near_ice:
        return "undecided"  # ice that warms rises straight on, as a leak does
    return shape


def _shown_shut(request: DecayQuestion, seen: Course, p: Floats) -> bool:
    """Whether it rises as no pump's own level does: then the valve is shut, whoever saw it."""
    reading = seen.reading
    if reading.fit is None:
        rise = float(np.max(p) - p[0]) if seen.rate else 0.0
        least = CLEAR_RISE if seen.whole else 0.02  # on the way there is time to say it
    else:
        rise = reading.fit.at(request.rule.hold_s) - reading.fit.at(0.0)
        unclear = reading.restless or (seen.whole and len(p) < SEEN_RESTLESS)
        least = CLEAR_RISE if unclear else 0.01
    doubt = max(request.gauge_resolution_pa or 0.0, least * float(p[0]), RISES * reading.wander)
    return rise > doubt


def _words(request: DecayQuestion, result: VacuumDecayResult, seen: Course) -> str:
    """What makes it rise, in one sentence; none of a leak where there is none."""
    plateau, boils = result.plateau_pa, result.water_boils_at_pa
    near = f" near {both(plateau, 'vacuum', True)}" if plateau else ""
    if result.shape == "moisture":
        if plateau and plateau < TRIPLE_PA:
            return (
                f"The rise slows and levels off{near}: that is below where free water boils, so "
                "it is ice, water held in oil, gas from a pocket, or a leak that a valve passes on "
                "to the pump."
            )
        if plateau and plateau < 0.5 * boils:
            return (
                f"The rise slows and levels off{near}: water that is colder than "
                f"{both(request.ambient_c, 'temperature')}, or nearly gone."
            )
        return f"The rise slows and levels off{near}: water is boiling."
    return {
        "leak": "It rises straight on, heading for the atmosphere: a leak.",
        "leak_and_moisture": "Part of the rise levels off, part goes straight on: water and a leak."
        if result.end_pa >= TRIPLE_PA
        else "Part of the rise slows, part goes straight on: a leak, or gas that comes slowly out "
        "of a pocket.",
        "outgassing": f"The rise slows{near}: gas given off by walls, oil or a pocket.",
        "ice": f"At {both(request.ambient_c, 'temperature')} ice gives {both(boils, 'vacuum')}: "
        "this level may be frozen water.",
        "not_isolated": _sees_the_pump(request, seen),
        "steady": "It stays level.",
        "undecided": _either(seen, result.end_pa),
    }[result.shape]


def _sees_the_pump(request: DecayQuestion, seen: Course) -> str:
    if request.isolation == "not_confirmed":
        return "It rises no more than a pump's own level may: the gauge may still see the pump."
    if seen.few_fall:
        return "It fell, by too few readings to tell why: the pump may still draw on it."
    return "It falls: the pump still draws on it."


def _either(seen: Course, end_pa: float) -> str:
    """What cannot be told apart yet."""
    first, other = seen.reading.nearest, seen.reading.besides
    if seen.reading.steepens:
        return STEEPENS
    if seen.few or first not in MAY_BE:
        return "There are too few readings to tell what makes it move."
    if other is None or other == first:
        other = "ice" if first == "leak" else "leak"
    may_be = MAY_BE | (MAY_BE_BELOW if end_pa < TRIPLE_PA else {})
    return f"It may be {may_be[first]}, or {may_be[other]}: these readings do not tell which."


def _act(request: DecayQuestion, result: VacuumDecayResult, seen: Course) -> str:
    """What the shape asks for."""
    confirmed = request.isolation == "confirmed"
    if result.shape == "not_isolated" and confirmed and seen.few_fall:
        return "Look at valve and pump, and read the gauge again: shut gas stays where it is."
    if result.shape == "undecided" and seen.reading.steepens:
        return SHAPE_ACTS["ice"]
    if result.shape == "leak" and not seen.few and not seen.reading.surely_straight:
        return READ_ON.format(duration(result.held_s))
    slowly = result.shape == "leak_and_moisture" and result.end_pa < TRIPLE_PA
    if (result.shape == "undecided" and not seen.few) or (slowly and not seen.reading.straight):
        return READ_ON.format(duration(result.held_s))
    return SHAPE_ACTS[result.shape]


def _judge(request: DecayQuestion, result: VacuumDecayResult, seen: Course) -> Call:
    rule, shape = request.rule, result.shape
    told, limit = _words(request, result, seen), both(rule.max_pa, "vacuum")
    highest, act = both(seen.highest, "vacuum"), _act(request, result, seen)
    if not result.passes and seen.puff:
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
            do_next=act,
        )
    if shape == "not_isolated":
        return Call(verdict=Verdict.UNKNOWN, because=told, do_next=act)
    if seen.over_after is not None:
        late = seen.over_after <= 2 * rule.hold_s * SAME
        return Call(
            verdict=Verdict.SHORT if late else Verdict.WATCH,
            because=f"It passed the hold and was over {limit} "
            f"{duration(seen.over_after)} after closing. {told}",
            do_next=act if shape != "steady" else SHAPE_ACTS["undecided"],
        )
    if not seen.whole:
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
    if seen.leak:
        crosses = (
            f" It crosses {limit} in {duration(_left(seen, result))}."
            if (seen.limit_in is not None)
            else ""
        )
        return Call(
            verdict=Verdict.WATCH,
            because=(
                f"It passed. {told}{crosses}"
                if shape == "undecided"
                else f"It passed, but rises straight on: a small leak.{crosses}"
            ),
            do_next="Find the leak with nitrogen and bubbles, then pull again."
            if seen.reading.surely_straight and shape == "leak"
            else READ_ON.format(duration(result.held_s)),
        )
    if seen.soon:
        return Call(
            verdict=Verdict.WATCH,
            because=f"It passed, but may be over {limit} before another "
            f"{duration(rule.hold_s)} are over. "
            + ("Its readings scatter too much to tell." if shape == "steady" else told),
            do_next="Keep the valve shut and read on until it is level, or pull lower.",
        )
    if seen.limit_in is not None and shape in ("moisture", "leak_and_moisture"):
        return Call(
            verdict=Verdict.WATCH,
            because=f"It passed, but where it leads lies over {limit}. {told}",
            do_next=act,
        )
    return Call(
        verdict=Verdict.HOLDS,
        because=f"{highest} at most in {duration(rule.hold_s)}, under {limit}. {told}",
    )


def _left(seen: Course, result: VacuumDecayResult) -> float:
    return max((seen.limit_in or 0.0) - result.held_s, 0.0)


def _working(request: DecayQuestion, result: VacuumDecayResult, seen: Course) -> tuple[Step, ...]:
    working = [
        Step(
            step="highest over the hold, trapped gas that settles set aside",
            expression=f"every reading up to the end of {request.rule.hold_s:.0f} s",
            value=seen.highest,
            unit="Pa",
            kind="vacuum",
        ),
        Step(
            step="rise since the valve closed",
            expression=f"{result.end_pa:.2f} − {result.start_pa:.2f}",
            value=result.end_pa - result.start_pa,
            unit="Pa",
            kind="vacuum",
        ),
        Step(
            step="vapour pressure of water at this temperature",
            expression=f"at {request.ambient_c:g} °C" + (", over ice" * (request.ambient_c < 0)),
            value=result.water_boils_at_pa,
            unit="Pa",
            kind="vacuum",
        ),
    ]
    late: LateTrend | None = seen.reading.late
    if late is not None and not seen.reading.told:
        ahead = request.rule.hold_s
        working.append(
            Step(
                step="at most at the end of the next hold, by the last half of the readings",
                expression=f"{late.level:.2f} + ({late.slope:.3g} + 2·{late.slope_error:.2g})·"
                f"{ahead:.0f}",
                value=late.most(ahead),
                unit="Pa",
                kind="vacuum",
            )
        )
    if result.rate_pa_s is not None:
        working.append(
            Step(
                step="straight rise",
                expression="steepest line to the last reading"
                if seen.few
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
                kind="vacuum",
            )
        )
    return tuple(working)


def _limits(rule: DecayRule) -> tuple[Limit, ...]:
    return (
        Limit(
            limit="decay limit",
            value=rule.max_pa,
            unit="Pa",
            kind="vacuum",
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
