"""What is measured of a running zone: air states, current, the drain."""

from typing import Literal

from pydantic import model_validator

from fairline.core.calc.zone_capacity import AirState
from fairline.core.entry import AirflowM3S, CurrentA, FractionOf1, Record, TemperatureC, Text

Mode = Literal["cool", "heat"]
MODES: tuple[Mode, ...] = ("cool", "heat")
MODE_WORDS = {"cool": "Cooling", "heat": "Heating"}


class Running(Record):
    """One measurement of the running zone: dry-bulbs, and humidity 0–1 or wet-bulb if measured.

    ``fan`` is the speed that ran, as the head's sheet names it; ``simulated``: no thermometer
    measured it.
    """

    struck = "a measurement of the running zone"

    kind: Literal["running"] = "running"
    zone: Text = ""  # blank: the only one
    mode: Mode
    return_c: TemperatureC = None
    return_rh: FractionOf1 = None
    return_wet_c: TemperatureC = None
    supply_c: TemperatureC = None
    supply_rh: FractionOf1 = None
    supply_wet_c: TemperatureC = None
    airflow_m3_s: AirflowM3S = None
    fan: Text = ""
    outdoor_c: TemperatureC = None
    current_a: CurrentA = None
    drain: Literal["", "runs", "stands"] = ""
    simulated: bool = False

    @model_validator(mode="after")
    def _states_are_whole(self) -> "Running":
        for side in ("return", "supply"):
            dry = getattr(self, f"{side}_c")
            rh, wet = getattr(self, f"{side}_rh"), getattr(self, f"{side}_wet_c")
            if dry is None:
                raise ValueError(f"{side}: the dry-bulb temperature is needed")
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
        if self.airflow_m3_s is not None and self.airflow_m3_s <= 0:
            raise ValueError("the airflow must be above nought")
        return self

    def state(self, side: Literal["return", "supply"]) -> AirState:
        return AirState(
            dry_bulb_c=getattr(self, f"{side}_c"),
            wet_bulb_c=getattr(self, f"{side}_wet_c"),
            relative_humidity=getattr(self, f"{side}_rh"),
        )
