"""What a sound head does to the air: the split to expect, and a measured one held against it."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.calc.zone_capacity import AirState
from fairline.core.call import Answer, Authority, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.check import fault_call
from fairline.core.physics.constants import ATMOSPHERE_PA
from fairline.core.physics.moist_air import psychrometrics
from fairline.core.quantities import both

# Our own choices, tried on simulated heads of 9 to 36 kBTU/h.
LOADS = {"cool": (0.6, 1.3), "heat": (0.45, 1.4)}  # share of the rated capacity a head may give
CONTACT = 0.85  # of the air that passes a coil, what comes to its surface
COLDEST_COIL_C, COLDEST_AIR_C = 8.0, 2.0  # no sound coil is colder on the whole, no air leaves so
DRY_RH, HUMID_RH = 0.3, 0.7  # of rooms, where nobody measured
DEFROST_C = 7.0  # outdoors; under it heating falls, and a unit may be defrosting
FALLS_PER_K, FALLS_TO = 0.02, 0.4
NO_CHANGE_K = 0.3  # no more than two thermometers differ by


class ExpectedSplitRequest(Request):
    """Rated watts, the air that goes in, and how much of it; ``load``: shares of the rated watts.

    ``airflows_m3_s``: least and most, where the fan's speed is not known. ``unit_share``: with all
    zones running, the outdoor unit's capacity over the sum of its heads'. ``split_k``: measured,
    positive in the mode's direction.
    """

    rated_w: Annotated[float, Field(gt=0, le=1e7)]
    mode: Literal["cool", "heat"]
    airflow_m3_s: Annotated[float, Field(gt=0, le=1000)] | None = None
    airflows_m3_s: list[Annotated[float, Field(gt=0, le=1000)]] | None = None
    return_air: AirState
    outdoor_c: Annotated[float, Field(ge=-60, le=80)] | None = None
    pressure_pa: Annotated[float, Field(ge=30_000, le=150_000)] = ATMOSPHERE_PA
    load: list[Annotated[float, Field(gt=0, le=10)]] | None = None
    unit_share: Annotated[float, Field(gt=0, le=10)] | None = None
    split_k: Annotated[float, Field(ge=-200, le=200)] | None = None

    @model_validator(mode="after")
    def _whole(self) -> "ExpectedSplitRequest":
        if (self.airflow_m3_s is None) == (self.airflows_m3_s is None):
            raise ValueError("airflow_m3_s: give one of it and airflows_m3_s")
        for name, ends in (("airflows_m3_s", self.airflows_m3_s), ("load", self.load)):
            if ends is not None and (len(ends) != 2 or ends[0] > ends[1]):
                raise ValueError(f"{name}: two numbers are needed, the least first")
        return self

    @property
    def airflows(self) -> tuple[float, float]:
        """Least and most airflow, m³/s."""
        if self.airflows_m3_s is not None:
            return self.airflows_m3_s[0], self.airflows_m3_s[1]
        assert self.airflow_m3_s is not None
        return self.airflow_m3_s, self.airflow_m3_s

    @property
    def loads(self) -> tuple[float, float]:
        """Least and most share of the rated capacity."""
        low, high = self.load or LOADS[self.mode]
        return low * min(1.0, self.unit_share or 1.0), high


class ExpectedSplitResult(Frozen):
    """Least and most split of a sound head, K, positive in the mode's direction."""

    split_k: tuple[float, float]


class _Air(Frozen):
    """The return air: dry-air flow in kg/s, kg of water per kg, heat capacity in J/(kg·K)."""

    flow_kg_s: float
    w: float

    @property
    def heat_j_kg_k(self) -> float:
        return 1006.0 + 1860.0 * self.w

    def rise_k(self, watts: float) -> float:
        """By how much this air changes, of sensible watts."""
        return watts / (self.flow_kg_s * self.heat_j_kg_k)


def _air(request: ExpectedSplitRequest, airflow: float, assumed_rh: float) -> _Air:
    lib, air, p = psychrometrics(), request.return_air, request.pressure_pa
    if air.wet_bulb_c is not None:
        w = float(lib.GetHumRatioFromTWetBulb(air.dry_bulb_c, air.wet_bulb_c, p))
    else:
        rh = assumed_rh if air.relative_humidity is None else air.relative_humidity
        w = float(lib.GetHumRatioFromRelHum(air.dry_bulb_c, rh, p))
    # Dry-air flow: the moist density at the return state over 1 + w.
    return _Air(flow_kg_s=airflow / float(lib.GetMoistAirVolume(air.dry_bulb_c, w, p)), w=w)


def _surface_c(enthalpy: float, pressure_pa: float, below_c: float) -> float:
    """The temperature at which saturated air has this enthalpy, by halving."""
    lib = psychrometrics()
    low, high = -60.0, below_c
    for _ in range(60):
        middle = (low + high) / 2
        w = float(lib.GetHumRatioFromRelHum(middle, 1.0, pressure_pa))
        if float(lib.GetMoistAirEnthalpy(middle, w)) > enthalpy:
            high = middle
        else:
            low = middle
    return (low + high) / 2


def _least_cooling(request: ExpectedSplitRequest) -> float:
    """The least split in cooling: the least load in the most and dampest air, by its coil."""
    t, air = request.return_air.dry_bulb_c, _air(request, request.airflows[1], HUMID_RH)
    watts = request.loads[0] * request.rated_w
    lib = psychrometrics()
    h = float(lib.GetMoistAirEnthalpy(t, air.w))
    surface = _surface_c(h - watts / (CONTACT * air.flow_kg_s), request.pressure_pa, t)
    dew = float(lib.GetTDewPointFromHumRatio(t, air.w, request.pressure_pa)) if air.w else -60.0
    split = air.rise_k(watts) if surface > dew else CONTACT * (t - surface)
    return max(0.0, min(split, CONTACT * (t - COLDEST_COIL_C)))


def _ends(request: ExpectedSplitRequest) -> tuple[float, float]:
    """Least and most split, K."""
    low, high = request.loads
    most = _air(request, request.airflows[0], DRY_RH).rise_k(high * request.rated_w)
    if request.mode == "cool":
        most = max(0.0, min(most, request.return_air.dry_bulb_c - COLDEST_AIR_C))
        return min(_least_cooling(request), most), most
    least = _air(request, request.airflows[1], HUMID_RH).rise_k(low * request.rated_w)
    if request.outdoor_c is not None and request.outdoor_c < DEFROST_C:
        least *= max(FALLS_TO, 1 - FALLS_PER_K * (DEFROST_C - request.outdoor_c))
    return least, most


def expected_split(request: ExpectedSplitRequest) -> Answer[ExpectedSplitResult]:
    """The split a sound head gives, and where a measured one lies.

    Heating: load·rated/(ṁ·c_p). Cooling: at least what a coil of contact factor 0.85 gives whose
    surface follows from the enthalpy, at most all of it sensible. Moist air after ASHRAE
    Handbook—Fundamentals ch. 1; the shares are our own choice.

    >>> asked = {"rated_w": 3500.0, "mode": "heat", "airflow_m3_s": 0.18,
    ...          "return_air": {"dry_bulb_c": 20.0, "relative_humidity": 0.4}, "split_k": 16.0}
    >>> expected_split(ExpectedSplitRequest.model_validate(asked)).call.verdict.value
    'holds'
    """
    low, high = _ends(request)
    findings, call = _judge(request, low, high)
    return Answer[ExpectedSplitResult](
        call=call,
        governed_by=tuple(
            Limit(
                limit=name,
                value=value,
                unit="K",
                kind="temperature_difference",
                authority=Authority.COMMON,
                source="a sound head at these loads; our own choice",
            )
            for name, value in (("least split", low), ("most split", high))
        ),
        working=_working(request, low, high),
        findings=findings,
        result=ExpectedSplitResult(split_k=(low, high)),
    )


def _working(request: ExpectedSplitRequest, low: float, high: float) -> tuple[Step, ...]:
    loads, flows = request.loads, request.airflows
    return tuple(
        Step(
            step=name,
            expression=f"{share:.2f} of {request.rated_w:.0f} W in {flow:.3f} m³/s at "
            f"{request.return_air.dry_bulb_c:g} °C",
            value=value,
            unit="K",
            kind="temperature_difference",
        )
        for name, share, flow, value in (
            ("least split of a sound head", loads[0], flows[1], low),
            ("most split of a sound head", loads[1], flows[0], high),
        )
    )


def _judge(request: ExpectedSplitRequest, low: float, high: float) -> tuple[tuple[str, ...], Call]:
    split, cooling = request.split_k, request.mode == "cool"
    kind = "temperature_difference"
    expected = f"a sound head gives {both(low, kind)} to {both(high, kind)}"
    if split is None:
        return (), Call(
            verdict=Verdict.WAIT,
            because=f"The split is not measured; {expected}.",
            do_next="Measure return and supply air after 10 to 15 minutes at high fan.",
        )
    outdoor = request.outdoor_c
    if not cooling and outdoor is not None and outdoor < DEFROST_C and split <= 0:
        return ("defrost",), Call(
            verdict=Verdict.WAIT,
            because=f"No warm air, {both(outdoor, 'temperature')} outdoors: it may be defrosting.",
            do_next="Wait ten minutes, until the fan blows warm again, and measure.",
        )
    said = f"The air is {'cooled' if cooling else 'warmed'} by {both(split, kind)}"
    if abs(split) <= NO_CHANGE_K:
        return ("not_changed",), fault_call(
            "The air is not changed: supply and return are alike.",
            "Does the outdoor unit run? Wait out the start-up logic, check mode and set point, "
            "then measure again.",
        )
    if split < 0:
        words = ("warmed", "cooled") if cooling else ("cooled", "warmed")
        return ("wrong_way",), fault_call(
            f"The air is {words[0]}, not {words[1]}.",
            "Check mode and wiring, wait out the start-up logic, and measure again.",
        )
    if split < low:
        return ("weak",), fault_call(
            f"{said}; {expected}: weak.",
            "Is it at high fan, 10 to 15 minutes, filter clean? Then valves fully open, charge, "
            "and which tubes this call cools.",
        )
    if split > high:
        return ("explain_first",), fault_call(
            f"{said}; {expected}.",
            "Look first where the probe hangs in the supply air, and which speed the fan ran; "
            "then at filter and thermometers.",
            Verdict.WATCH,
        )
    return (), Call(verdict=Verdict.HOLDS, because=f"{said}; {expected}.")
