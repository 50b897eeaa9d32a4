"""Leaks: what a fall of pressure means, in Pa·m³/s and in grams of refrigerant a year."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict
from fairline.core.physics.constants import ATMOSPHERE_PA, GAS_CONSTANT, YEAR_S
from fairline.core.physics.tubing import table
from fairline.core.quantities import duration, grouped, rounded

REFERENCE_K = 293.15  # at which a throughput is counted
# A fall counts beyond twice its standard doubt. A leak that loses just so much is seen half the
# time; one that loses 1.645 standard doubts more is seen 95 times in 100 (normal distribution).
SEEN_95 = 1 + 1.645 / 2

Refrigerant = Literal["R-32", "R-454B", "R-410A"]


class LeakRateRequest(Request):
    """``uncertainty_pa``: of the pressure lost. ``leak_g_year``: a leak that has to be shown."""

    volume_m3: Annotated[float, Field(gt=0, le=10)]
    gauge_pa: Annotated[float, Field(gt=1000, le=2e7)]
    uncertainty_pa: Annotated[float, Field(gt=0, le=1e6)]
    held_s: Annotated[float, Field(ge=0, le=1e8)]
    refrigerant: Refrigerant
    atmosphere_pa: Annotated[float, Field(ge=30_000, le=120_000)] = ATMOSPHERE_PA
    lost_pa: Annotated[float, Field(ge=-1e7, le=1e7)] | None = None
    leak_g_year: Annotated[float, Field(gt=0, le=1e9)] | None = None

    @model_validator(mode="after")
    def _lost_is_there(self) -> "LeakRateRequest":
        if self.lost_pa is not None and self.lost_pa > self.gauge_pa + self.atmosphere_pa:
            raise ValueError("lost_pa: more is lost than there was")
        return self


class LeakRateResult(Frozen):
    """Smallest leak the test can have shown so far, the leak seen, the time a leak would take."""

    smallest_pa_m3_s: float | None
    smallest_g_year: float | None
    leak_pa_m3_s: float | None = None
    leak_g_year: float | None = None
    needed_s: float | None = None


def grams_a_year(
    leak_pa_m3_s: float, gauge_pa: float, refrigerant: Refrigerant, atmosphere_pa: float
) -> float:
    """Grams of refrigerant a year through the hole that loses this much nitrogen in the test.

    Laminar flow of a gas through a fine hole: Q ∝ (p₁² − p₂²)/η (Poiseuille for a compressible
    gas; EN 1779 uses it to convert between gases, quoted from memory). Working pressure is the
    dew pressure at 40 °C; m = Q·M/(R·T).

    >>> round(grams_a_year(1e-5, 2.07e6, "R-32", 101_325.0), 1)
    10.5

    >>> round(grams_a_year(1e-5, 2.07e6, "R-32", 101_325.0), 1)
    10.5
    """
    gases = table("leaking_gas")
    gas = gases["refrigerants"][refrigerant]
    test, outside = (gauge_pa + atmosphere_pa) ** 2, atmosphere_pa**2
    drive = (gas["dew_40c_pa"] ** 2 - outside) / (test - outside)
    thinner = gases["nitrogen_viscosity_pa_s"] / gas["viscosity_pa_s"]
    throughput = leak_pa_m3_s * drive * thinner
    return float(throughput * gas["kg_per_mol"] / (GAS_CONSTANT * REFERENCE_K) * YEAR_S * 1000)


def _said(grams: float) -> str:
    """Grams to two digits: no more is known of a leak."""
    return grouped(rounded(grams, 2), 0)


def leak_rate(request: LeakRateRequest) -> Answer[LeakRateResult]:
    """Q = V·Δp/t: the smallest leak a hold shows 95 times in 100, and the time a leak would need.

    Volume in m³, pressures in Pa, time in s. Without a leak to look for nothing is proven.

    >>> asked = {"volume_m3": 0.002, "gauge_pa": 2.0e6, "uncertainty_pa": 8000.0, "held_s": 3600.0,
    ...          "refrigerant": "R-32"}
    >>> round(leak_rate(LeakRateRequest.model_validate(asked)).result.smallest_g_year)
    9115
    """
    volume, doubt, held = request.volume_m3, request.uncertainty_pa, request.held_s

    def grams(leak: float) -> float:
        return grams_a_year(leak, request.gauge_pa, request.refrigerant, request.atmosphere_pa)

    least = SEEN_95 * doubt
    smallest = volume * least / held if held > 0 else None
    seen = None
    if request.lost_pa is not None and request.lost_pa > doubt and held > 0:
        seen = volume * request.lost_pa / held
    needed = None
    if request.leak_g_year is not None:
        needed = volume * least * grams(1.0) / request.leak_g_year
    steps = [
        Step(
            step="grams a year for each Pa·m³/s of nitrogen in this test",
            expression=f"{request.refrigerant} at its dew pressure of 40 °C, (p₁² − p₂²)/η",
            value=grams(1.0),
            unit="g/a",
        )
    ]
    if smallest is not None:
        steps.append(
            Step(
                step="smallest leak this hold shows 95 times in 100",
                expression=f"{volume:.5f} m³ · {SEEN_95:.3f} · {doubt:.0f} Pa / {held:.0f} s",
                value=smallest,
                unit="Pa·m³/s",
            )
        )
    if seen is not None:
        call = Call(
            verdict=Verdict.SHORT,
            because=f"About {_said(grams(seen))} g a year would be lost at working pressure.",
            do_next="Find the joint that leaks.",
        )
    elif smallest is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="Nothing has been held yet.",
            do_next="Hold, and read pressure and pipe temperature again.",
        )
    elif needed is not None and held < needed * (1 - 1e-9):
        call = Call(
            verdict=Verdict.WAIT,
            because=f"A leak of {_said(grams(smallest))} g a year could still hide.",
            do_next=f"Hold for another {duration(needed - held)} to show "
            f"{request.leak_g_year:g} g a year.",
        )
    elif needed is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"A leak of {_said(grams(smallest))} g a year would be seen 95 times in 100; "
            "nobody says which leak has to be found.",
            do_next="Say how much a year may be lost, or look at every joint with bubbles.",
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"A leak of {request.leak_g_year:g} g a year would have been seen at least "
            "95 times in 100.",
        )
    return Answer[LeakRateResult](
        call=call,
        working=tuple(steps),
        findings=("leak",) if seen is not None else (),
        result=LeakRateResult(
            smallest_pa_m3_s=smallest,
            smallest_g_year=grams(smallest) if smallest is not None else None,
            leak_pa_m3_s=seen,
            leak_g_year=grams(seen) if seen is not None else None,
            needed_s=needed,
        ),
    )
