"""The pressure test: what nitrogen should read at this pipe temperature, and what is left over."""

import math
from itertools import pairwise
from typing import Annotated, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from fairline.core.call import Answer, Asked, Authority, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.physics.constants import ATMOSPHERE_PA, ZERO_C_K
from fairline.core.physics.nitrogen import COLDEST_C, HOTTEST_C, density_mol_m3, pressure_pa
from fairline.core.quantities import above, both, duration

Floats = NDArray[np.float64]
Number = TypeVar("Number", float, NDArray[np.float64])

MAX_READINGS = 200_000
SHORTEST_S = 1e-3  # readings nearer to each other than this are of one moment
HIDDEN_SHARE = 0.1  # of the absolute pressure: a doubt that hides so much tells nothing
ROUNDING_SHARE = 1e-6  # of the absolute pressure: what arithmetic alone may leave over


class HoldReading(Asked):
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
    barometer_uncertainty_pa: Annotated[float, Field(ge=0, le=20_000)] = 0.0
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
    """At the last reading; ``lowest_pa``: the largest loss at any reading beyond its doubt."""

    expected_gauge_pa: float
    unexplained_pa: float
    uncertainty_pa: float
    held_s: float
    leak_pa_m3_s: float | None = None
    lowest_pa: float | None = None
    lowest_at_s: float | None = None


def uncertainty_pa(
    absolute_pa: Number,
    temperature_k: Number,
    resolution_pa: float,
    thermometer_k: float,
    barometer_pa: float = 0.0,
) -> Number:
    """Coverage-2 uncertainty of measured minus expected, from two readings of each instrument.

    2·√(2·(resolution/√12)² + 2·(P/T·u_T)² + 2·u_B²): a rectangular distribution for the gauge's
    resolution (JCGM 100:2008, 4.3.7, quoted from memory), P/T from the gas law, u_B of the
    barometer that the gauge reads against. Pa, K.

    >>> round(uncertainty_pa(2e6, 293.15, 6895.0, 0.5))
    11171
    """
    gauge = resolution_pa / math.sqrt(12)
    thermometer = absolute_pa / temperature_k * thermometer_k
    doubt: Number = 2 * (2 * gauge**2 + 2 * thermometer**2 + 2 * barometer_pa**2) ** 0.5
    return doubt


def losses_pa(gauge_pa: Floats, pipe_c: Floats, atmosphere_pa: float) -> Floats:
    """How far each reading lies below what real nitrogen sealed in at the first one would show."""
    density = density_mol_m3(float(gauge_pa[0]) + atmosphere_pa, float(pipe_c[0]) + ZERO_C_K)
    expected: Floats = pressure_pa(density, pipe_c + ZERO_C_K) - atmosphere_pa - gauge_pa
    return expected


def _lowest(request: "PressureHoldRequest") -> tuple[float, float] | None:
    """The reading that lies furthest below its own expectation, beyond its own doubt.

    How far in Pa, and when in s from the first; None where there is none.
    """
    readings = request.readings
    gauge, pipe = np.array([r.gauge_pa for r in readings]), np.array([r.pipe_c for r in readings])
    loss = losses_pa(gauge, pipe, request.atmosphere_pa)
    absolute = gauge + request.atmosphere_pa
    doubt = uncertainty_pa(
        absolute,
        pipe + ZERO_C_K,
        request.gauge_resolution_pa,
        request.thermometer_uncertainty_k,
        request.barometer_uncertainty_pa,
    )
    beyond = loss > np.maximum(doubt, ROUNDING_SHARE * absolute)
    if not np.any(beyond):
        return None
    at = int(np.argmax(np.where(beyond, loss, -np.inf)))
    return float(loss[at]), readings[at].t_s - readings[0].t_s


def _doubt(request: "PressureHoldRequest", r: HoldReading) -> float:
    return uncertainty_pa(
        r.gauge_pa + request.atmosphere_pa,
        r.pipe_c + ZERO_C_K,
        request.gauge_resolution_pa,
        request.thermometer_uncertainty_k,
        request.barometer_uncertainty_pa,
    )


def pressure_hold(
    request: PressureHoldRequest, limits: tuple[Limit, ...] | None = None
) -> Answer[PressureHoldResult]:
    """Judge a nitrogen hold on what the pipe's temperature does not explain.

    >>> asked = {"readings": [{"t_s": 0, "gauge_pa": 2.1e6, "pipe_c": 20.0},
    ...                       {"t_s": 600, "gauge_pa": 2.0e6, "pipe_c": 20.0}],
    ...          "required": {"gauge_pa": 2.0e6, "hold_s": 600}, "max_gauge_pa": 4e6,
    ...          "gauge_resolution_pa": 6895, "thermometer_uncertainty_k": 0.5}
    >>> pressure_hold(PressureHoldRequest.model_validate(asked)).findings
    ('leak',)
    """
    readings, atmosphere = request.readings, request.atmosphere_pa
    first, last = readings[0], readings[-1]
    density = density_mol_m3(first.gauge_pa + atmosphere, first.pipe_c + ZERO_C_K)
    expected = pressure_pa(density, last.pipe_c + ZERO_C_K) - atmosphere
    unexplained = last.gauge_pa - expected
    doubt = _doubt(request, last)
    lowest = _lowest(request)
    held = last.t_s - first.t_s
    held = held if held >= SHORTEST_S else 0.0
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
            f"{request.thermometer_uncertainty_k:g})²"
            + (
                f" + 2·{request.barometer_uncertainty_pa:.0f}²"
                * (request.barometer_uncertainty_pa > 0)
            )
            + ")",
            value=doubt,
            unit="Pa",
        ),
    )
    finding, call = _judge(request, unexplained, doubt, held, lowest)
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
            lowest_pa=lowest[0] if lowest else None,
            lowest_at_s=lowest[1] if lowest else None,
        ),
    )


def _judge(
    request: PressureHoldRequest,
    unexplained: float,
    doubt: float,
    held: float,
    lowest: tuple[float, float] | None,
) -> tuple[str | None, Call]:
    first, last, need = request.readings[0], request.readings[-1], request.required
    peak = max(r.gauge_pa for r in request.readings)
    if above(peak, request.max_gauge_pa, "gauge"):
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
    absolute = first.gauge_pa + request.atmosphere_pa
    rounding = ROUNDING_SHARE * absolute
    said = both(abs(unexplained), "pressure_difference")
    margin = both(doubt, "pressure_difference")
    if unexplained < -max(doubt, rounding):
        return "leak", Call(
            verdict=Verdict.SHORT,
            because=f"{said} is gone that temperature does not explain; gauge and thermometer "
            f"could only hide {margin}. It leaks.",
            do_next="Bubble every joint, two to three minutes each, and start the hold again.",
        )
    if lowest is not None:
        return "leak", Call(
            verdict=Verdict.SHORT,
            because=f"{both(lowest[0], 'pressure_difference')} was gone after "
            f"{duration(lowest[1])} that temperature does not explain, and came back: nitrogen "
            "was let in, or a reading is wrong. It does not hold.",
            do_next="Leave the cylinder shut and begin the hold again.",
        )
    if doubt > HIDDEN_SHARE * absolute:
        return "too_uncertain", Call(
            verdict=Verdict.UNKNOWN,
            because=f"Gauge and thermometer could hide {margin}, more than a tenth of the "
            "pressure: this proves nothing.",
            do_next="Take a better thermometer, on the pipe, and a finer gauge.",
        )
    if unexplained > max(doubt, rounding):
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
