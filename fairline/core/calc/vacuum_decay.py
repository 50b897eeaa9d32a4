"""Evacuate: the isolated decay proves the system dry and tight."""

from itertools import pairwise
from typing import Annotated

import numpy as np
from pydantic import Field, model_validator

from fairline.core.calc.decay_shape import Fit, Shape, read_shape
from fairline.core.calc.pressure_hold import MAX_READINGS
from fairline.core.calc.zone_capacity import saturation_pa
from fairline.core.call import Answer, Authority, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.quantities import both, duration

SETTLING_WINDOW_S = 60.0  # a spike of trapped gas this soon after closing is set aside …
SETTLING_WINDOW_SHARE = 0.1  # … but never more than this share of the hold
SOON_HOLDS = 1.0  # a leak that would cross the limit within this many more holds wants a look


class DecayReading(Request):
    t_s: Annotated[float, Field(ge=0, le=1e9)]
    pa: Annotated[float, Field(ge=0, le=200_000)]


class DecayRule(Request):
    max_pa: Annotated[float, Field(gt=0, le=200_000)]
    hold_s: Annotated[float, Field(gt=0, le=1e8)]


class VacuumDecayRequest(Request):
    """Absolute pressures in Pa from the moment the valve to the pump was closed."""

    readings: Annotated[list[DecayReading], Field(min_length=1, max_length=MAX_READINGS)]
    rule: DecayRule
    ambient_c: Annotated[float, Field(ge=-80, le=150)]
    volume_m3: Annotated[float, Field(gt=0, le=10)] | None = None
    gauge_resolution_pa: Annotated[float, Field(ge=0, le=10_000)] | None = None

    @model_validator(mode="after")
    def _in_order(self) -> "VacuumDecayRequest":
        for i, (a, b) in enumerate(pairwise(self.readings)):
            if b.t_s < a.t_s:
                raise ValueError(f"readings: reading {i + 2} is earlier than the one before it")
        return self


class VacuumDecayResult(Frozen):
    start_pa: float
    end_pa: float
    held_s: float
    passes: bool
    shape: Shape
    rate_pa_s: float | None = None
    plateau_pa: float | None = None
    leak_pa_m3_s: float | None = None
    water_boils_at_pa: float
    certainty: float | None = None
    fit: Fit | None = None


def vacuum_decay(
    request: VacuumDecayRequest, limits: tuple[Limit, ...] | None = None
) -> Answer[VacuumDecayResult]:
    """Judge an isolated decay: does it stay under the limit, and what makes it rise."""
    rule = request.rule
    t = np.array([r.t_s for r in request.readings])
    p = np.array([r.pa for r in request.readings])
    t = t - t[0]
    held = float(t[-1])
    window = min(SETTLING_WINDOW_S, SETTLING_WINDOW_SHARE * rule.hold_s)
    judged = p[(t >= window) & (t <= rule.hold_s * (1 + 1e-9))]
    if held < window or len(judged) == 0:
        judged = p[-1:]
    highest = float(np.max(judged))
    passes = highest <= rule.max_pa
    boils = saturation_pa(request.ambient_c)
    reading = read_shape(t, p, rule.max_pa, request.gauge_resolution_pa or 0.0)
    fit = reading.fit
    leaking = reading.shape in ("leak", "leak_and_moisture")
    wet = reading.shape in ("moisture", "leak_and_moisture")
    rate = fit.rate if fit and leaking else None
    plateau = fit.start + fit.step if fit and wet else None
    leak = rate * request.volume_m3 if rate is not None and request.volume_m3 else None
    result = VacuumDecayResult(
        start_pa=float(p[0]),
        end_pa=float(p[-1]),
        held_s=held,
        passes=passes,
        shape=reading.shape,
        rate_pa_s=rate,
        plateau_pa=plateau,
        leak_pa_m3_s=leak,
        water_boils_at_pa=boils,
        certainty=reading.certainty,
        fit=fit,
    )
    working = [
        Step(
            step=f"highest over the hold, trapped gas of the first {window:.0f} s set aside",
            expression=f"of {len(judged)} readings",
            value=highest,
            unit="Pa",
        ),
        Step(
            step="rise since the valve closed",
            expression=f"{p[-1]:.2f} − {p[0]:.2f}",
            value=float(p[-1] - p[0]),
            unit="Pa",
        ),
        Step(
            step="water boils at this temperature",
            expression=f"at {request.ambient_c:g} °C",
            value=boils,
            unit="Pa",
        ),
    ]
    if rate is not None:
        working.append(
            Step(
                step="straight rise", expression="slope of the fitted line", value=rate, unit="Pa/s"
            )
        )
    if plateau is not None and fit is not None:
        working.append(
            Step(
                step="levels off",
                expression=f"p = {fit.start:.1f} + {fit.step:.1f}·(1 − e^(−t/{fit.tau:.0f} s))",
                value=plateau,
                unit="Pa",
            )
        )
    findings: list[str] = [reading.shape] if reading.shape not in ("steady", "undecided") else []
    call = _judge(request, result, highest)
    if call.verdict is Verdict.WATCH:
        findings.append("crosses_soon")
    return Answer[VacuumDecayResult](
        call=call,
        governed_by=_limits(rule) if limits is None else limits,
        working=tuple(working),
        findings=tuple(findings),
        result=result,
    )


SHAPE_WORDS = {
    "leak": "It rises straight on, heading for the atmosphere: a leak.",
    "moisture": "The rise slows and levels off{0}: water is boiling, not a leak.",
    "leak_and_moisture": "Part of the rise levels off, part goes straight on: water and a leak.",
    "not_isolated": "It does not rise at all: the gauge may still see the pump.",
    "steady": "It stays level.",
    "undecided": "There are too few readings to tell its shape.",
}
SHAPE_ACTS = {
    "leak": "Break with nitrogen, pressure-test and bubble every joint, then pull again.",
    "moisture": "Break with dry nitrogen, let it dwell, change the pump oil and pull again, "
    "three times.",
    "leak_and_moisture": "Pressure-test and bubble the joints first, then dry with nitrogen "
    "sweeps.",
    "not_isolated": "Check that the valve between pump and gauge is shut, then time it again.",
    "steady": "Pull lower, then close the valve again.",
    "undecided": "Log at least eight readings over a minute, then judge again.",
}


def _judge(request: VacuumDecayRequest, result: VacuumDecayResult, highest: float) -> Call:
    rule, shape = request.rule, result.shape
    levels = f" near {both(result.plateau_pa, 'vacuum')}" if result.plateau_pa else ""
    told = SHAPE_WORDS[shape].format(levels)
    limit = both(rule.max_pa, "vacuum")
    if not result.passes:
        return Call(
            verdict=Verdict.SHORT,
            because=f"It reached {both(highest, 'vacuum')} within the hold, over the {limit} "
            f"allowed. {told}",
            do_next=SHAPE_ACTS[shape],
        )
    if shape == "not_isolated":
        return Call(verdict=Verdict.UNKNOWN, because=told, do_next=SHAPE_ACTS[shape])
    if result.held_s < rule.hold_s:
        left = duration(rule.hold_s - result.held_s)
        return Call(
            verdict=Verdict.WAIT,
            because=f"{both(highest, 'vacuum')} is under {limit} so far. {told}",
            do_next=f"Keep the valve shut for another {left}.",
        )
    if result.rate_pa_s and shape in ("leak", "leak_and_moisture"):
        crosses_s = (rule.max_pa - result.end_pa) / result.rate_pa_s
        if crosses_s < SOON_HOLDS * rule.hold_s:
            return Call(
                verdict=Verdict.WATCH,
                because=f"It passed, but its straight rise crosses {limit} in "
                f"{duration(max(crosses_s, 0.0))}: a small leak.",
                do_next="Hold longer, or find the leak with nitrogen and bubbles now.",
            )
    return Call(
        verdict=Verdict.HOLDS,
        because=f"{both(highest, 'vacuum')} at most in {duration(rule.hold_s)}, under {limit}. "
        f"{told}",
    )


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
