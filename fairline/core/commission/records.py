"""What is measured and seen of running zones: calls, air states, current, water, all zones on."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, model_validator

from fairline.core.calc.zone_capacity import AirState
from fairline.core.entry import (
    AirflowM3S,
    CurrentA,
    DurationS,
    FractionOf1,
    OneOf,
    Record,
    TemperatureC,
    Text,
    VoltageV,
    YesNo,
    blank,
)

Mode = Literal["cool", "heat"]
MODES: tuple[Mode, ...] = ("cool", "heat")
MODE_WORDS = {"cool": "Cooling", "heat": "Heating"}
Seen = Literal["cold", "warm", "quiet", "vanes", "tubes"]
SEEN_WORDS: dict[str, str] = {
    "cold": "it blows cold",
    "warm": "it blows warm",
    "quiet": "quiet",
    "vanes": "vanes move",
    "tubes": "both tubes cold, or both warm",
}
WARMEST_RETURN_C = 50.0  # no room is warmer: a Fahrenheit typed as Celsius
Watts = Annotated[Annotated[float, Field(ge=0, le=100_000)] | None, BeforeValidator(blank)]


class Running(Record):
    """One measurement of the running zone: dry-bulbs, and humidity 0–1 or wet-bulb if measured.

    The supply alone, or what was only ``seen``, is taken in too. ``fan`` is the speed that ran, as
    the head's sheet names it; ``minutes_s``: how long it ran before. Current and ``watts`` are of
    this zone or of the whole system (``power_of``). ``simulated``: no thermometer measured it.
    """

    struck = "a measurement of the running zone"

    kind: Literal["running"] = "running"
    zone: Text = ""  # blank: the only one
    mode: Mode
    seen: Annotated[tuple[Seen, ...], Field(max_length=8)] = ()
    return_c: TemperatureC = None
    return_rh: FractionOf1 = None
    return_wet_c: TemperatureC = None
    supply_c: TemperatureC = None
    supply_rh: FractionOf1 = None
    supply_wet_c: TemperatureC = None
    airflow_m3_s: AirflowM3S = None
    fan: Text = ""
    minutes_s: DurationS = None
    outdoor_c: TemperatureC = None
    set_c: TemperatureC = None
    display_c: TemperatureC = None
    probe: Text = ""
    current_a: CurrentA = None
    watts: Watts = None
    volts: VoltageV = None
    power_of: OneOf[Literal["zone", "system"]] = None
    drain: Literal["", "runs", "stands"] = ""
    simulated: bool = False

    @model_validator(mode="after")
    def _says_something(self) -> "Running":
        if self.supply_c is None and self.return_c is None and not self.seen:
            raise ValueError("supply: type what the thermometer shows, or tap what you saw")
        if self.supply_c is None and self.return_c is not None:
            raise ValueError("supply: the dry-bulb temperature is needed")
        if self.airflow_m3_s is not None and self.airflow_m3_s <= 0:
            raise ValueError("the airflow must be above nought")
        return self

    @model_validator(mode="after")
    def _states_are_whole(self) -> "Running":
        for side in ("return", "supply"):
            dry = getattr(self, f"{side}_c")
            rh, wet = getattr(self, f"{side}_rh"), getattr(self, f"{side}_wet_c")
            if dry is None:
                if rh is not None or wet is not None:
                    raise ValueError(f"{side}: the dry-bulb temperature is needed")
                continue
            if rh is not None and wet is not None:
                raise ValueError(f"{side}: give relative humidity or wet-bulb, not both")
            if rh is not None and rh > 1:
                raise ValueError(f"{side}: relative humidity cannot be above 100 %")
            if wet is not None and wet < -60:
                raise ValueError(f"{side}: that wet-bulb is no air of a house")
            if wet is not None and wet > dry:
                raise ValueError(f"{side}: wet-bulb cannot be above dry-bulb")
            if not -60 <= dry <= 150:
                raise ValueError(f"{side}: {dry:.0f} °C is no air temperature of a house")
        if self.return_c is not None and self.return_c > WARMEST_RETURN_C:
            asked = f"{self.return_c:.0f} °C is no room: type {self.return_c:.0f} F if it is that"
            raise ValueError(f"return: {asked}")
        return self

    @property
    def both_airs(self) -> bool:
        """Whether return and supply were measured: enough to go on."""
        return self.return_c is not None and self.supply_c is not None

    def state(self, side: Literal["return", "supply"]) -> AirState:
        return AirState(
            dry_bulb_c=getattr(self, f"{side}_c"),
            wet_bulb_c=getattr(self, f"{side}_wet_c"),
            relative_humidity=getattr(self, f"{side}_rh"),
        )


class Called(Record):
    """One head called alone: the ports whose tubes answered; none where nothing did."""

    struck = "a call of one zone"

    kind: Literal["called"] = "called"
    zone: Annotated[Text, Field(min_length=1)]
    ports: Annotated[tuple[Text, ...], Field(max_length=40)] = ()
    simulated: bool = False


class WaterTest(Record):
    """Water poured into a head's pan: how it left, and what stood three minutes after the stop."""

    struck = "a water test of a head"

    kind: Literal["water-test"] = "water-test"
    zone: Text = ""
    runs: Literal["runs", "stands"]
    after_stop: OneOf[Literal["dry", "back"]] = None
    pump: YesNo = None


class WholeSystem(Record):
    """All zones on: what the system draws, what was seen at it. Kept each time, and compared."""

    struck = "a look at the whole system"

    kind: Literal["whole-system"] = "whole-system"
    mode: Mode
    current_a: CurrentA = None
    watts: Watts = None
    outdoor_c: TemperatureC = None
    addresses: YesNo = None
    quiet: YesNo = None
    sweat: YesNo = None
    defrost: YesNo = None
