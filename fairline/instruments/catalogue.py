"""Every simulated instrument that can be put on a job, made from what a person chooses."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from fairline.core.errors import FairLineError
from fairline.core.instrument import What
from fairline.core.physics.constants import PSI_PA
from fairline.core.physics.vacuum_flow import Hose, Rig
from fairline.instruments import nitrogen, vacuum
from fairline.instruments.gauge import USUAL_SENSOR
from fairline.instruments.on_runs import Manometer, Micron
from fairline.instruments.process import Instrument
from fairline.instruments.spot import AirThermometer, Scale, WrenchInHand

AIRS: dict[str, tuple[str, float, float]] = {  # words, °C, relative humidity
    "return": ("return air, cooling", 24.0, 0.50),
    "supply": ("supply air, cooling", 12.5, 0.93),
    "return-heat": ("return air, heating", 20.0, 0.40),
    "supply-heat": ("supply air, heating", 41.0, 0.13),
}
SCENARIOS: dict[What, Mapping[str, str]] = {
    "micron": vacuum.SCENARIOS,
    "manometer": nitrogen.SCENARIOS,
    "thermometer": {name: words for name, (words, _, _) in AIRS.items()},
    "scale": {"flows": "refrigerant leaves the cylinder", "stands": "the valve is shut"},
    "wrench": {"set": "as it was set"},
}
LEAKS: dict[str, float] = {  # Pa·m³/s into a vacuum
    "a pinhole": 7e-5,
    "a small leak": 3e-4,
    "a plain leak": 1.2e-3,
    "a wide leak": 2e-2,
}
WATERS: dict[str, float] = {"a drop, 0.2 g": 2e-4, "a splash, 4 g": 4e-3, "a slug, 30 g": 3e-2}
MOST = 1000.0  # of any size, in its own unit
OVER_TEST_PA = 1e4  # what a gauge is filled to beyond the test, so that its steps do not decide


NOWHERE: Mapping[str, Any] = {  # what a job says of its rig that says nothing
    "volume_m3": None,
    "pump_m3_s": None,
    "ultimate_pa": 0.0,
    "hoses": (),
    "ambient_c": 20.0,
    "test_gauge_pa": None,
}


class ChoiceError(FairLineError):
    """What cannot be simulated: a system that nobody knows, or a size that is none."""


@dataclass(frozen=True)
class Choice:
    """An instrument and what is behind it: kg, N·m, Pa·m³/s; nought where it does not matter."""

    what: What
    scenario: str = ""
    leak_pa_m3_s: float = 0.0
    water_kg: float = 0.0
    start_kg: float = 10.0
    to_go_kg: float = 0.4
    set_nm: float = 16.0

    def __post_init__(self) -> None:
        sizes = (self.leak_pa_m3_s, self.water_kg, self.start_kg, self.to_go_kg)
        if not all(math.isfinite(size) and 0 <= size <= MOST for size in sizes):
            raise ChoiceError("a size lies between nought and a thousand")
        if not 0 < self.set_nm <= MOST:
            raise ChoiceError("set the wrench to a torque above nought")


def made(choice: Choice, rig: Mapping[str, Any], seed: int) -> Instrument:
    """The instrument on a job's own volume, rig and test, as ``GET …/rig`` tells them.

    Raises ChoiceError for a system that is not known.
    """
    known = SCENARIOS[choice.what]
    scenario = choice.scenario or next(iter(known))
    if scenario not in known:
        raise ChoiceError(f"no system is called {scenario}; one of {', '.join(known)}")
    return MAKERS[choice.what](choice, scenario, rig, seed)


def _micron(choice: Choice, scenario: Any, rig: Mapping[str, Any], seed: int) -> Instrument:
    drive = None
    if rig["pump_m3_s"]:
        hoses = tuple(Hose(h["bore_mm"] / 1000, h["length_m"]) for h in rig["hoses"])
        drive = Rig(rig["pump_m3_s"], rig["ultimate_pa"], hoses)
    sizes = vacuum.Sizes(choice.leak_pa_m3_s, choice.water_kg)
    plant = vacuum.system(scenario, rig["ambient_c"], rig["volume_m3"], drive, sizes)
    return Micron(plant, seed)


def _manometer(choice: Choice, scenario: Any, rig: Mapping[str, Any], seed: int) -> Instrument:
    asked = rig["test_gauge_pa"] or 300 * PSI_PA
    volume = rig["volume_m3"] or nitrogen.NitrogenSystem(asked).volume_m3
    return Manometer(nitrogen.system(scenario, asked + OVER_TEST_PA, volume), seed)


def _scale(choice: Choice, scenario: str, rig: Mapping[str, Any], seed: int) -> Instrument:
    leaves = choice.to_go_kg if scenario == "flows" else 0.0
    return Scale(choice.start_kg, to_go_kg=leaves, seed=seed, sensor=USUAL_SENSOR)


def _thermometer(choice: Choice, scenario: str, rig: Mapping[str, Any], seed: int) -> Instrument:
    _, air_c, humidity = AIRS[scenario]
    return AirThermometer(air_c, humidity, seed=seed, sensor=USUAL_SENSOR)


def _wrench(choice: Choice, scenario: str, rig: Mapping[str, Any], seed: int) -> Instrument:
    return WrenchInHand(choice.set_nm, seed=seed)


MAKERS: dict[What, Callable[[Choice, Any, Mapping[str, Any], int], Instrument]] = {
    "micron": _micron,
    "manometer": _manometer,
    "scale": _scale,
    "thermometer": _thermometer,
    "wrench": _wrench,
}
