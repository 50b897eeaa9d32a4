"""The pressure test: what nitrogen should read at this pipe temperature, and what is left over."""

import math
from itertools import pairwise
from typing import Annotated

from pydantic import Field, model_validator

from fairline.core.calc.nitrogen import (
    ATMOSPHERE_PA,
    COLDEST_C,
    HOTTEST_C,
    ZERO_C_K,
    density_mol_m3,
    pressure_pa,
)
from fairline.core.call import Answer, Authority, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.quantities import both, duration

MAX_READINGS = 200_000


class HoldReading(Request):
    t_s: Annotated[float, Field(ge=0, le=1e9)]
    gauge_pa: Annotated[float, Field(ge=-120_000, le=2e7)]
    pipe_c: Annotated[float, Field(ge=COLDEST_C, le=HOTTEST_C)]


class RequiredHold(Request):
    gauge_pa: Annotated[float, Field(gt=0, le=2e7)]
    hold_s: Annotated[float, Field(ge=0, le=1e8)]


class PressureHoldRequest(Request):
    """Gauge pressures in Pa over ``atmosphere_pa``; pipe temperatures in °C."""

    readings: Annotated[list[HoldReading], Field(min_length=1, max_length=MAX_READINGS)]
    required: RequiredHold
    max_gauge_pa: Annotated[float, Field(gt=0, le=2e8)]
    atmosphere_pa: Annotated[float, Field(ge=30_000, le=120_000)] = ATMOSPHERE_PA
    gauge_resolution_pa: Annotated[float, Field(ge=0, le=1e6)]
    thermometer_uncertainty_k: Annotated[float, Field(ge=0, le=50)]
    volume_m3: Annotated[float, Field(gt=0, le=10)] | None = None

    @model_validator(mode="after")
    def _in_order(self) -> "PressureHoldRequest":
        for i, (a, b) in enumerate(pairwise(self.readings)):
            if b.t_s < a.t_s:
                raise ValueError(f"readings: reading {i + 2} is earlier than the one before it")
        for i, r in enumerate(self.readings):
            if r.gauge_pa + self.atmosphere_pa <= 0:
                raise ValueError(f"readings: reading {i + 1} is below a perfect vacuum")
        return self


class PressureHoldResult(Frozen):
    expected_gauge_pa: float
    unexplained_pa: float
    uncertainty_pa: float
    held_s: float
    leak_pa_m3_s: float | None = None


def uncertainty_pa(
    absolute_pa: float, temperature_k: float, resolution_pa: float, thermometer_k: float
) -> float:
    """Coverage-2 uncertainty of measured minus expected, from two readings of each instrument.

    2·√(2·(resolution/√12)² + 2·(P/T·u_T)²): a rectangular distribution for the gauge's
    resolution (JCGM 100:2008, 4.3.7, quoted from memory), P/T from the gas law.
    """
    gauge = resolution_pa / math.sqrt(12)
    thermometer = absolute_pa / temperature_k * thermometer_k
    return 2 * math.sqrt(2 * gauge**2 + 2 * thermometer**2)


def pressure_hold(
    request: PressureHoldRequest, limits: tuple[Limit, ...] | None = None
) -> Answer[PressureHoldResult]:
    """Judge a nitrogen hold on what the pipe's temperature does not explain."""
    readings, atmosphere = request.readings, request.atmosphere_pa
    first, last = readings[0], readings[-1]
    density = density_mol_m3(first.gauge_pa + atmosphere, first.pipe_c + ZERO_C_K)
    expected = pressure_pa(density, last.pipe_c + ZERO_C_K) - atmosphere
    unexplained = last.gauge_pa - expected
    doubt = uncertainty_pa(
        last.gauge_pa + atmosphere,
        last.pipe_c + ZERO_C_K,
        request.gauge_resolution_pa,
        request.thermometer_uncertainty_k,
    )
    held = last.t_s - first.t_s
    leak = (
        None if request.volume_m3 is None or held <= 0 else -unexplained * request.volume_m3 / held
    )
    working = (
        Step(
            step="nitrogen sealed in, from the first reading",
            expression=f"{first.gauge_pa + atmosphere:.0f} Pa absolute at "
            f"{first.pipe_c + ZERO_C_K:.2f} K",
            value=density,
            unit="mol/m³",
        ),
        Step(
            step="expected now, real gas at constant volume",
            expression=f"at {last.pipe_c + ZERO_C_K:.2f} K, less {atmosphere:.0f} Pa of air",
            value=expected,
            unit="Pa",
        ),
        Step(
            step="not explained by temperature",
            expression=f"{last.gauge_pa:.0f} − {expected:.0f}",
            value=unexplained,
            unit="Pa",
        ),
        Step(
            step="uncertainty of gauge and thermometer, coverage 2",
            expression=f"2·√(2·({request.gauge_resolution_pa:.0f}/√12)² + 2·("
            f"{last.gauge_pa + atmosphere:.0f}/{last.pipe_c + ZERO_C_K:.1f}·"
            f"{request.thermometer_uncertainty_k:g})²)",
            value=doubt,
            unit="Pa",
        ),
    )
    finding, call = _judge(request, unexplained, doubt, held)
    return Answer[PressureHoldResult](
        call=call,
        governed_by=_limits(request) if limits is None else limits,
        working=working,
        findings=(finding,) if finding else (),
        result=PressureHoldResult(
            expected_gauge_pa=expected,
            unexplained_pa=unexplained,
            uncertainty_pa=doubt,
            held_s=held,
            leak_pa_m3_s=leak,
        ),
    )


def _judge(
    request: PressureHoldRequest, unexplained: float, doubt: float, held: float
) -> tuple[str | None, Call]:
    first, last, need = request.readings[0], request.readings[-1], request.required
    peak = max(r.gauge_pa for r in request.readings)
    if peak > request.max_gauge_pa:
        return "over_pressure", Call(
            verdict=Verdict.STOP,
            because=f"{both(peak, 'gauge')} is over the most this equipment may see, "
            f"{both(request.max_gauge_pa, 'gauge')}.",
            do_next="Shut the cylinder, let the pressure down slowly at the regulator.",
        )
    if first.gauge_pa < need.gauge_pa - request.gauge_resolution_pa:
        return "under_test_pressure", Call(
            verdict=Verdict.SHORT,
            because=f"The hold began at {both(first.gauge_pa, 'gauge')}, under the "
            f"{both(need.gauge_pa, 'gauge')} of this test.",
            do_next=f"Raise the nitrogen to {both(need.gauge_pa, 'gauge')} and start again.",
        )
    said = both(abs(unexplained), "pressure_difference")
    margin = both(doubt, "pressure_difference")
    if unexplained < -doubt:
        return "leak", Call(
            verdict=Verdict.SHORT,
            because=f"{said} is gone that temperature does not explain; gauge and thermometer "
            f"could only hide {margin}. It leaks.",
            do_next="Bubble every joint, two to three minutes each, and start the hold again.",
        )
    if unexplained > doubt:
        return "unexplained_rise", Call(
            verdict=Verdict.WATCH,
            because=f"The gauge reads {said} more than the pipe's temperature explains: the "
            "temperature is wrong, perhaps sun on the line.",
            do_next="Put the probe on shaded pipe under insulation and read again.",
        )
    if held < need.hold_s:
        left = need.hold_s - held
        return None, Call(
            verdict=Verdict.WAIT,
            because=f"Nothing is lost so far (within {margin}).",
            do_next=f"Hold for another {duration(left)}, then read pressure and pipe temperature.",
        )
    moved = last.gauge_pa - first.gauge_pa
    told = "The pressure stood still"
    if abs(moved) > request.gauge_resolution_pa:
        word = "fell" if moved < 0 else "rose"
        told = f"The pressure {word} by {both(abs(moved), 'pressure_difference')} with the pipe"
    return None, Call(
        verdict=Verdict.HOLDS,
        because=f"{told}; what temperature does not explain, {said}, is within {margin}.",
    )


def _limits(request: PressureHoldRequest) -> tuple[Limit, ...]:
    return tuple(
        Limit(limit=name, value=value, unit=unit, authority=Authority.SHEET, source="the request")
        for name, value, unit in (
            ("most pressure", request.max_gauge_pa, "Pa"),
            ("test pressure", request.required.gauge_pa, "Pa"),
            ("hold", request.required.hold_s, "s"),
        )
    )
