"""The pressure test: what nitrogen should read at this pipe temperature, and what is left over."""

from itertools import pairwise
from typing import Annotated

import numpy as np
from pydantic import Field, model_validator

from fairline.core.call import (
    Answer,
    Asked,
    Call,
    Frozen,
    Limit,
    Request,
    Step,
    Verdict,
    sheet_limit,
)
from fairline.core.physics.constants import ATMOSPHERE_PA, ZERO_C_K
from fairline.core.physics.hold_course import (
    ROUNDING_SHARE,
    Fall,
    Floats,
    Instruments,
    hold_course,
)
from fairline.core.physics.nitrogen import COLDEST_C, HOTTEST_C, density_mol_m3, pressure_pa
from fairline.core.quantities import above, both, duration

MAX_READINGS = 200_000
SHORTEST_S = 1e-3  # readings nearer to each other than this are of one moment
HIDDEN_SHARE = 0.1  # of the absolute pressure: a doubt that hides so much tells nothing


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
    """At the last reading, from the first at rest; ``from_s`` is when that was.

    ``lowest_pa``: the largest fall beyond its doubt from a reading at rest to a later one, and
    ``lowest_at_s`` when; None where there is none.
    """

    expected_gauge_pa: float
    unexplained_pa: float
    uncertainty_pa: float
    held_s: float
    leak_pa_m3_s: float | None = None
    from_s: float = 0.0
    lowest_pa: float | None = None
    lowest_at_s: float | None = None


Columns = tuple[Floats, Floats, Floats]  # times in s, gauge Pa, pipe °C


def pressure_hold(
    request: PressureHoldRequest,
    limits: tuple[Limit, ...] | None = None,
    columns: Columns | None = None,
) -> Answer[PressureHoldResult]:
    """Judge a nitrogen hold on what the pipe's temperature does not explain.

    ``columns``: all the readings of a log as arrays, of which the request then names the first,
    the highest and the last only.

    >>> asked = {"readings": [{"t_s": 0, "gauge_pa": 2.1e6, "pipe_c": 20.0},
    ...                       {"t_s": 600, "gauge_pa": 2.0e6, "pipe_c": 20.0}],
    ...          "required": {"gauge_pa": 2.0e6, "hold_s": 600}, "max_gauge_pa": 4e6,
    ...          "gauge_resolution_pa": 6895, "thermometer_uncertainty_k": 0.5}
    >>> pressure_hold(PressureHoldRequest.model_validate(asked)).findings
    ('leak',)
    """
    readings, atmosphere = request.readings, request.atmosphere_pa
    by = Instruments(
        atmosphere_pa=atmosphere,
        resolution_pa=request.gauge_resolution_pa,
        thermometer_k=request.thermometer_uncertainty_k,
        barometer_pa=request.barometer_uncertainty_pa,
    )
    t, gauge, pipe = _columns(readings) if columns is None else columns
    course, last = hold_course(t, gauge, pipe, by), readings[-1]
    since = HoldReading(
        t_s=float(t[course.base]),
        gauge_pa=float(gauge[course.base]),
        pipe_c=float(pipe[course.base]),
    )
    density = density_mol_m3(since.gauge_pa + atmosphere, since.pipe_c + ZERO_C_K)
    expected = pressure_pa(density, last.pipe_c + ZERO_C_K) - atmosphere
    unexplained = last.gauge_pa - expected
    doubt = by.doubt_pa(last.gauge_pa, last.pipe_c)
    held = last.t_s - since.t_s
    held = held if held >= SHORTEST_S else 0.0
    leak = (
        None if request.volume_m3 is None or held <= 0 else -unexplained * request.volume_m3 / held
    )
    working = (
        Step(
            step="nitrogen sealed in, from the first reading"
            if course.base == 0
            else f"nitrogen sealed in, at rest after {duration(since.t_s - readings[0].t_s)}",
            expression=f"{since.gauge_pa + atmosphere:.0f} Pa absolute at "
            f"{since.pipe_c + ZERO_C_K:.2f} K",
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
    findings, call = _judge(request, unexplained, doubt, held, course.fall)
    return Answer[PressureHoldResult](
        call=call,
        governed_by=_limits(request) if limits is None else limits,
        working=working,
        findings=findings,
        result=PressureHoldResult(
            expected_gauge_pa=expected,
            unexplained_pa=unexplained,
            uncertainty_pa=doubt,
            held_s=held,
            leak_pa_m3_s=leak,
            from_s=since.t_s - readings[0].t_s,
            lowest_pa=course.fall.by_pa if course.fall else None,
            lowest_at_s=course.fall.at_s - since.t_s if course.fall else None,
        ),
    )


def _columns(readings: list[HoldReading]) -> Columns:
    t, gauge, pipe = (
        np.array([getattr(r, name) for r in readings]) for name in ("t_s", "gauge_pa", "pipe_c")
    )
    return t, gauge, pipe


def _judge(
    request: PressureHoldRequest, unexplained: float, doubt: float, held: float, fall: Fall | None
) -> tuple[tuple[str, ...], Call]:
    """Findings and the call; what can hurt and what was not reached before what was lost."""
    first, last, need = request.readings[0], request.readings[-1], request.required
    peak = max(r.gauge_pa for r in request.readings)
    if above(peak, request.max_gauge_pa, "gauge"):
        return ("over_pressure",), Call(
            verdict=Verdict.STOP,
            because=f"{both(peak, 'gauge')} is over the most this equipment may see, "
            f"{both(request.max_gauge_pa, 'gauge')}.",
            do_next="Shut the cylinder, let the pressure down slowly at the regulator.",
        )
    if first.gauge_pa < need.gauge_pa - request.gauge_resolution_pa:
        return ("under_test_pressure",), under_test_pressure(first.gauge_pa, need.gauge_pa)
    absolute = first.gauge_pa + request.atmosphere_pa
    rounding = ROUNDING_SHARE * absolute
    said = both(abs(unexplained), "pressure_difference")
    margin = both(doubt, "pressure_difference")
    if fall is not None:
        return _fell(fall, unexplained < -max(doubt, rounding), said, margin)
    if doubt > HIDDEN_SHARE * absolute:
        return ("too_uncertain",), Call(
            verdict=Verdict.UNKNOWN,
            because=f"Gauge and thermometer could hide {margin}, more than a tenth of the "
            "pressure: this proves nothing.",
            do_next="Take a better thermometer, on the pipe, and a finer gauge.",
        )
    if unexplained > max(doubt, rounding):
        return ("unexplained_rise",), Call(
            verdict=Verdict.WATCH,
            because=f"The gauge reads {said} more than the pipe's temperature explains: the "
            "temperature is wrong, perhaps sun on the line.",
            do_next="Put the probe on shaded pipe under insulation and read again.",
        )
    if held < need.hold_s:
        left = need.hold_s - held
        return (), Call(
            verdict=Verdict.WAIT,
            because=f"Nothing is lost so far (within {margin}).",
            do_next=f"Hold for another {duration(left)}, then read pressure and pipe temperature.",
        )
    moved = last.gauge_pa - first.gauge_pa
    told = "The pressure stood still"
    if abs(moved) > request.gauge_resolution_pa:
        word = "fell" if moved < 0 else "rose"
        told = f"The pressure {word} by {both(abs(moved), 'pressure_difference')} with the pipe"
    return (), Call(
        verdict=Verdict.HOLDS,
        because=f"{told}; what temperature does not explain, {said}, is within {margin}.",
    )


def under_test_pressure(gauge_pa: float, wanted_pa: float) -> Call:
    """The call of a hold that began too low: ``short``. Both pressures are gauge, in Pa.

    >>> under_test_pressure(1e6, 2e6).verdict.value
    'short'
    """
    return Call(
        verdict=Verdict.SHORT,
        because=f"The hold began at {both(gauge_pa, 'gauge')}, under the "
        f"{both(wanted_pa, 'gauge')} of this test.",
        do_next=f"Raise the nitrogen to {both(wanted_pa, 'gauge')} and start again.",
    )


def _fell(fall: Fall, gone: bool, said: str, margin: str) -> tuple[tuple[str, ...], Call]:
    """A fall beyond its doubt: at the last reading, on the way, or after a rise."""
    lost, after = both(fall.by_pa, "pressure_difference"), duration(fall.at_s - fall.from_s)
    if not fall.below_first:
        return ("leak", "fell_after_rise"), Call(
            verdict=Verdict.SHORT,
            because=f"It rose, and then {lost} went in {after} that temperature does not explain: "
            "sun on the line, nitrogen that was warm when it was let in, or a leak.",
            do_next="Keep the sun off line and probe, let nitrogen that was let in come to rest "
            "for ten minutes, and begin the hold again; if it falls again, bubble every joint.",
        )
    if gone and fall.stood:
        return ("leak",), Call(
            verdict=Verdict.SHORT,
            because=f"{said} went at the beginning that temperature does not explain, and nothing "
            "since: nitrogen that was far warmer than the pipe, or a leak.",
            do_next="Begin the hold again from what stands now; if it falls again, bubble every "
            "joint, two to three minutes each.",
        )
    if gone or fall.stays:
        return ("leak",), Call(
            verdict=Verdict.SHORT,
            because=f"{said if gone else lost} is gone that temperature does not explain; gauge "
            f"and thermometer could only hide {margin}. It leaks.",
            do_next="Bubble every joint, two to three minutes each, and start the hold again.",
        )
    return ("leak",), Call(
        verdict=Verdict.SHORT,
        because=f"{lost} was gone after {after} that temperature does not explain, and came back: "
        "nitrogen was let in, or a reading is wrong. It does not hold.",
        do_next="Leave the cylinder shut and begin the hold again.",
    )


def _limits(request: PressureHoldRequest) -> tuple[Limit, ...]:
    return tuple(
        sheet_limit(limit=name, value=value, unit=unit, source="the request")
        for name, value, unit in (
            ("most pressure", request.max_gauge_pa, "Pa"),
            ("test pressure", request.required.gauge_pa, "Pa"),
            ("hold", request.required.hold_s, "s"),
        )
    )
