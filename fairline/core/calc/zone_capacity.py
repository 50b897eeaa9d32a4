"""Running a zone: capacity from airflow and the state of return and supply air."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import Answer, Authority, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.physics.constants import ATMOSPHERE_PA, HOUR_S
from fairline.core.physics.moist_air import psychrometrics
from fairline.core.quantities import both

LOW_SHARE = 0.7  # of the rated capacity; common practice, no published source
HIGH_SHARE = {"cool": 1.3, "heat": 1.4}  # above this an input is doubtful; our own choice
DOUBTFUL_SHARE = 0.05  # of the sensible part: more latent the wrong way is a wrong humidity


class AirState(Request):
    """Air by dry-bulb, and one of wet-bulb or relative humidity (0–1) where it was measured."""

    dry_bulb_c: Annotated[float, Field(ge=-60, le=150)]
    wet_bulb_c: Annotated[float, Field(ge=-60, le=150)] | None = None
    relative_humidity: Annotated[float, Field(ge=0, le=1)] | None = None

    @model_validator(mode="after")
    def _one_humidity(self) -> "AirState":
        if self.wet_bulb_c is not None and self.relative_humidity is not None:
            raise ValueError("give one of wet_bulb_c and relative_humidity, not both")
        if self.wet_bulb_c is not None and self.wet_bulb_c > self.dry_bulb_c:
            raise ValueError("wet_bulb_c: wet-bulb cannot be above dry-bulb")
        return self

    @property
    def humid(self) -> bool:
        return self.wet_bulb_c is not None or self.relative_humidity is not None


class ZoneCapacityRequest(Request):
    """``airflow_m3_s`` is measured at the return state."""

    airflow_m3_s: Annotated[float, Field(gt=0, le=1000)]
    return_air: AirState
    supply_air: AirState
    pressure_pa: Annotated[float, Field(ge=30_000, le=150_000)] = ATMOSPHERE_PA
    mode: Literal["cool", "heat"]
    rated_w: Annotated[float, Field(gt=0, le=1e7)] | None = None


class ZoneCapacityResult(Frozen):
    """Powers in W, positive in the mode's direction; condensate only in cooling.

    Without humidity, cooling has no total, no latent part and no condensate that is known.
    """

    total_w: float | None
    sensible_w: float
    latent_w: float | None
    split_k: float
    condensate_kg_h: float | None = None
    rated_share: float | None = None


def humidity_ratio(air: AirState, pressure_pa: float) -> float:
    """kg of water per kg of dry air at a pressure in Pa; 0 where humidity was not measured.

    ASHRAE Handbook—Fundamentals ch. 1 by PsychroLib. A wet-bulb drier than dry air counts
    as dry air.

    >>> air = AirState(dry_bulb_c=26.0, relative_humidity=0.5)
    >>> round(humidity_ratio(air, 101_325.0), 4)
    0.0105
    """
    lib = psychrometrics()
    if air.wet_bulb_c is not None:
        return float(lib.GetHumRatioFromTWetBulb(air.dry_bulb_c, air.wet_bulb_c, pressure_pa))
    if air.relative_humidity is None:
        return 0.0
    return float(lib.GetHumRatioFromRelHum(air.dry_bulb_c, air.relative_humidity, pressure_pa))


class _Powers(Frozen):
    """What the air gives up, in W and in the mode's direction; ``doubtful``: by its humidity."""

    flow_kg_s: float
    volume_m3_kg: float
    h_back: float
    h_out: float
    w_back: float
    w_out: float
    total: float | None
    sensible: float
    latent: float | None
    doubtful: bool


def _powers(request: ZoneCapacityRequest) -> _Powers:
    """Q = m·(h_return − h_supply), m the dry-air flow at the return state.

    Heating never has a latent part. Without both humidities only the sensible part is known: it
    hardly depends on them, since moist air is lighter by about what it holds more.
    """
    lib = psychrometrics()
    back, out, p = request.return_air, request.supply_air, request.pressure_pa
    both_humid = back.humid and out.humid
    w_back = humidity_ratio(back, p) if both_humid else 0.0
    w_out = humidity_ratio(out, p) if both_humid else 0.0
    volume = float(lib.GetMoistAirVolume(back.dry_bulb_c, w_back, p))
    flow = request.airflow_m3_s / volume
    h_back = float(lib.GetMoistAirEnthalpy(back.dry_bulb_c, w_back))
    h_dry = float(lib.GetMoistAirEnthalpy(back.dry_bulb_c, w_out))
    h_out = float(lib.GetMoistAirEnthalpy(out.dry_bulb_c, w_out))
    cooling = request.mode == "cool"
    sign = 1.0 if cooling else -1.0
    sensible, latent = sign * flow * (h_dry - h_out), sign * flow * (h_back - h_dry)
    # Air cannot leave a cooling head with more water than it had, nor a heating head with less.
    wrong = -latent if cooling else abs(latent)
    doubtful = both_humid and wrong > DOUBTFUL_SHARE * abs(sensible)
    total: float | None = sensible + latent
    latent_w: float | None = latent
    if not cooling:
        total, latent_w = sensible, 0.0
    elif not both_humid:
        total, latent_w = None, None
    elif doubtful:
        total, latent_w = sensible, 0.0
    return _Powers(
        flow_kg_s=flow,
        volume_m3_kg=volume,
        h_back=h_back,
        h_out=h_out,
        w_back=w_back,
        w_out=w_out,
        total=total,
        sensible=sensible,
        latent=latent_w,
        doubtful=doubtful,
    )


def zone_capacity(request: ZoneCapacityRequest) -> Answer[ZoneCapacityResult]:
    """Total, sensible and latent capacity from air states.

    Q = m·(h_return − h_supply); sensible at the supply's humidity, latent the rest, with m the
    dry-air flow at the return state (ASHRAE Handbook—Fundamentals ch. 1). W, K, kg/h.

    >>> asked = {"airflow_m3_s": 0.18, "mode": "cool",
    ...          "return_air": {"dry_bulb_c": 26.0, "relative_humidity": 0.5},
    ...          "supply_air": {"dry_bulb_c": 12.0, "relative_humidity": 0.9}}
    >>> round(zone_capacity(ZoneCapacityRequest.model_validate(asked)).result.total_w)
    4395
    """
    back, out, cooling = request.return_air, request.supply_air, request.mode == "cool"
    q = _powers(request)
    split = (1.0 if cooling else -1.0) * (back.dry_bulb_c - out.dry_bulb_c)
    water = None
    if cooling and q.total is not None:
        water = 0.0 if q.doubtful else max(0.0, q.flow_kg_s * (q.w_back - q.w_out) * HOUR_S)
    share = None
    if request.rated_w is not None and q.total is not None:
        share = q.total / request.rated_w
    findings, limits, call = _judge(request, q, split, share)
    return Answer[ZoneCapacityResult](
        call=call,
        governed_by=limits,
        working=_working(request, q),
        findings=findings,
        result=ZoneCapacityResult(
            total_w=q.total,
            sensible_w=q.sensible,
            latent_w=q.latent,
            split_k=split,
            condensate_kg_h=water,
            rated_share=share,
        ),
    )


def _working(request: ZoneCapacityRequest, q: _Powers) -> tuple[Step, ...]:
    steps = [
        Step(
            step="dry-air flow",
            expression=f"{request.airflow_m3_s:.4f} / {q.volume_m3_kg:.4f}",
            value=q.flow_kg_s,
            unit="kg/s",
        )
    ]
    humid = request.return_air.humid and request.supply_air.humid
    if humid:
        steps += [
            Step(
                step=f"enthalpy of the {name} air",
                expression=f"{air.dry_bulb_c:g} °C, {w * 1000:.2f} g/kg",
                value=h,
                unit="J/kg",
            )
            for name, air, w, h in (
                ("return", request.return_air, q.w_back, q.h_back),
                ("supply", request.supply_air, q.w_out, q.h_out),
            )
        ]
    whole = humid and request.mode == "cool" and not q.doubtful
    steps.append(
        Step(
            step="total capacity" if whole else "sensible capacity",
            expression=f"{q.flow_kg_s:.4f} · |{q.h_back:.0f} − {q.h_out:.0f}|"
            if whole
            else f"{q.flow_kg_s:.4f} · heat capacity · |{request.return_air.dry_bulb_c:g} − "
            f"{request.supply_air.dry_bulb_c:g}|",
            value=q.total if whole and q.total is not None else q.sensible,
            unit="W",
        )
    )
    return tuple(steps)


def _judge(
    request: ZoneCapacityRequest, q: _Powers, split: float, share: float | None
) -> tuple[tuple[str, ...], tuple[Limit, ...], Call]:
    """Findings, the limit that was used, and the call."""
    cooling = request.mode == "cool"
    verb = "cools" if cooling else "heats"
    if split <= 0 or (q.total is not None and q.total <= 0):
        words = ("warmed", "cooled") if cooling else ("cooled", "warmed")
        return (
            ("wrong_way",),
            (),
            Call(
                verdict=Verdict.SHORT,
                because="The air is not changed: supply and return are alike."
                if split == 0
                else f"The air is {words[0]}, not {words[1]}.",
                do_next="Check mode and wiring, wait out the start-up logic, and measure again.",
            ),
        )
    if q.doubtful:
        told = "takes up water in cooling" if cooling else "gains or loses water in heating"
        return (
            ("humidity_doubtful",),
            (),
            Call(
                verdict=Verdict.WATCH,
                because=f"By these humidities the air {told}, which no head does; only the "
                f"sensible part counts, {both(q.sensible, 'power', True)}.",
                do_next="Let the hygrometer settle in each air stream and measure again.",
            ),
        )
    if q.total is None:
        return (
            ("capacity_not_proven",),
            (),
            Call(
                verdict=Verdict.WATCH,
                because=f"The head {verb} with a split of {both(split, 'temperature_difference')}; "
                "without humidity its capacity is not proven.",
                do_next="Measure wet-bulb or humidity in both air streams to prove the capacity.",
            ),
        )
    said = f"The head {verb} with {both(q.total, 'power', True)}"
    if request.rated_w is None:
        return (
            ("no_rated_value",),
            (),
            Call(
                verdict=Verdict.UNKNOWN,
                because=f"{said}; no rated value is known to hold it against.",
                do_next="Enter the head's rated capacity on its sheet.",
            ),
        )
    least = Limit(
        limit="least share of rated capacity",
        value=LOW_SHARE,
        unit="1",
        authority=Authority.COMMON,
        source="no published source",
    )
    share = 0.0 if share is None else share
    text = f"{said}, {share:.0%} of its rated value"
    if share < LOW_SHARE:
        return (
            ("low_capacity",),
            (least,),
            Call(
                verdict=Verdict.WATCH,
                because=f"{text}.",
                do_next="Check fan speed, filter and run time, then measure again.",
            ),
        )
    if share > HIGH_SHARE[request.mode]:
        return (
            ("implausible_capacity",),
            (least,),
            Call(
                verdict=Verdict.WATCH,
                because=f"{text}: more than a machine gives.",
                do_next="Look first where the probe hangs in the supply air, and which speed the "
                "fan really ran; then at the thermometers.",
            ),
        )
    return (), (least,), Call(verdict=Verdict.HOLDS, because=f"{text}.")
