"""Running a zone: capacity from airflow and the state of return and supply air."""

from functools import cache
from types import ModuleType
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import Answer, Authority, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.quantities import both

LOW_SHARE = 0.7  # of the rated capacity; common practice, no published source
HIGH_SHARE = 1.6  # above this an input is doubtful; our own choice


class AirState(Request):
    """Air by dry-bulb and one of wet-bulb or relative humidity (0–1)."""

    dry_bulb_c: Annotated[float, Field(ge=-60, le=150)]
    wet_bulb_c: Annotated[float, Field(ge=-60, le=150)] | None = None
    relative_humidity: Annotated[float, Field(ge=0, le=1)] | None = None

    @model_validator(mode="after")
    def _one_humidity(self) -> "AirState":
        if (self.wet_bulb_c is None) == (self.relative_humidity is None):
            raise ValueError("give one of wet_bulb_c and relative_humidity")
        if self.wet_bulb_c is not None and self.wet_bulb_c > self.dry_bulb_c:
            raise ValueError("wet_bulb_c: wet-bulb cannot be above dry-bulb")
        return self


class ZoneCapacityRequest(Request):
    """``airflow_m3_s`` is measured at the return state."""

    airflow_m3_s: Annotated[float, Field(gt=0, le=1000)]
    return_air: AirState
    supply_air: AirState
    pressure_pa: Annotated[float, Field(ge=30_000, le=150_000)] = 101_325.0
    mode: Literal["cool", "heat"]
    rated_w: Annotated[float, Field(gt=0, le=1e7)] | None = None


class ZoneCapacityResult(Frozen):
    """Powers in W, positive in the mode's direction; condensate only in cooling."""

    total_w: float
    sensible_w: float
    latent_w: float
    split_k: float
    condensate_kg_h: float | None = None
    rated_share: float | None = None


@cache
def psychrometrics() -> ModuleType:
    """PsychroLib in SI: ASHRAE Handbook—Fundamentals ch. 1, psychrometrics."""
    import psychrolib

    psychrolib.SetUnitSystem(psychrolib.SI)
    module: ModuleType = psychrolib
    return module


def humidity_ratio(air: AirState, pressure_pa: float) -> float:
    """kg of water per kg of dry air. A wet-bulb drier than dry air counts as dry air."""
    lib = psychrometrics()
    if air.wet_bulb_c is not None:
        return float(lib.GetHumRatioFromTWetBulb(air.dry_bulb_c, air.wet_bulb_c, pressure_pa))
    return float(lib.GetHumRatioFromRelHum(air.dry_bulb_c, air.relative_humidity, pressure_pa))


def saturation_pa(temperature_c: float) -> float:
    """Vapour pressure of water, over ice below 0 °C (ASHRAE Handbook—Fundamentals ch. 1)."""
    return float(psychrometrics().GetSatVapPres(temperature_c))


def zone_capacity(request: ZoneCapacityRequest) -> Answer[ZoneCapacityResult]:
    """Total, sensible and latent capacity from air states.

    Q = m·(h_return − h_supply); sensible at the supply's humidity, latent the rest, with m the
    dry-air flow at the return state (ASHRAE Handbook—Fundamentals ch. 1).
    """
    lib = psychrometrics()
    back, out, p = request.return_air, request.supply_air, request.pressure_pa
    w_back, w_out = humidity_ratio(back, p), humidity_ratio(out, p)
    volume = float(lib.GetMoistAirVolume(back.dry_bulb_c, w_back, p))
    flow = request.airflow_m3_s / volume
    h_back = float(lib.GetMoistAirEnthalpy(back.dry_bulb_c, w_back))
    h_dry = float(lib.GetMoistAirEnthalpy(back.dry_bulb_c, w_out))
    h_out = float(lib.GetMoistAirEnthalpy(out.dry_bulb_c, w_out))
    sign = 1.0 if request.mode == "cool" else -1.0
    total = sign * flow * (h_back - h_out)
    latent = sign * flow * (h_back - h_dry)
    sensible = sign * flow * (h_dry - h_out)
    split = sign * (back.dry_bulb_c - out.dry_bulb_c)
    condensate = max(0.0, flow * (w_back - w_out) * 3600) if request.mode == "cool" else None
    working = (
        Step(
            step="dry-air flow",
            expression=f"{request.airflow_m3_s:.4f} / {volume:.4f}",
            value=flow,
            unit="kg/s",
        ),
        Step(
            step="enthalpy of the return air",
            expression=f"{back.dry_bulb_c:g} °C, {w_back * 1000:.2f} g/kg",
            value=h_back,
            unit="J/kg",
        ),
        Step(
            step="enthalpy of the supply air",
            expression=f"{out.dry_bulb_c:g} °C, {w_out * 1000:.2f} g/kg",
            value=h_out,
            unit="J/kg",
        ),
        Step(
            step="total capacity",
            expression=f"{flow:.4f} · |{h_back:.0f} − {h_out:.0f}|",
            value=total,
            unit="W",
        ),
    )
    findings: list[str] = []
    limits: tuple[Limit, ...] = ()
    share = None if request.rated_w is None else total / request.rated_w
    verb = "cools" if request.mode == "cool" else "heats"
    if total <= 0 or split <= 0:
        findings.append("wrong_way")
        other = "warmed" if request.mode == "cool" else "cooled"
        call = Call(
            verdict=Verdict.SHORT,
            because=f"The air is {other}, not {'cooled' if request.mode == 'cool' else 'warmed'}.",
            do_next="Check mode and wiring, wait out the start-up logic, and measure again.",
        )
    elif share is None:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"The head {verb} with {both(total, 'power')}; no rated value is "
            "known to hold it against.",
        )
    else:
        limits = (
            Limit(
                limit="least share of rated capacity",
                value=LOW_SHARE,
                unit="1",
                authority=Authority.COMMON,
                source="no published source",
            ),
        )
        text = f"The head {verb} with {both(total, 'power')}, {share:.0%} of its rated value"
        if share < LOW_SHARE:
            findings.append("low_capacity")
            call = Call(
                verdict=Verdict.WATCH,
                because=f"{text}.",
                do_next="Check fan speed, filter and run time, then measure again.",
            )
        elif share > HIGH_SHARE:
            findings.append("implausible_capacity")
            call = Call(
                verdict=Verdict.WATCH,
                because=f"{text}: more than a machine gives.",
                do_next="Check the airflow and the thermometers.",
            )
        else:
            call = Call(verdict=Verdict.HOLDS, because=f"{text}.")
    return Answer[ZoneCapacityResult](
        call=call,
        governed_by=limits,
        working=working,
        findings=tuple(findings),
        result=ZoneCapacityResult(
            total_w=total,
            sensible_w=sensible,
            latent_w=latent,
            split_k=split,
            condensate_kg_h=condensate,
            rated_share=share,
        ),
    )
