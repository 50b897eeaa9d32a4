"""Simulated instruments that are read at a tap: a cylinder on a scale, air at a head, a wrench."""

import math
import random
from dataclasses import dataclass
from typing import Any

from fairline.instruments.gauge import STEADY, Sensor
from fairline.instruments.torque_wrench import TorqueWrench


@dataclass
class Scale:
    """A cylinder on a scale, in kg, in steps of 5 g; refrigerant leaves it until enough is gone.

    ``rate_kg_s`` while the valve is open; ``to_go_kg``: what leaves in all, nought to stand still.
    """

    start_kg: float = 10.0
    rate_kg_s: float = 0.002
    to_go_kg: float = 0.0
    seed: int = 1
    resolution: float = 0.005
    noise_kg: float = 0.002
    sensor: Sensor = STEADY
    what: str = "scale"
    kinds: tuple[str, ...] = ()
    every_s: float = 1.0

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)
        self._shown = self.sensor.fresh()
        self.gone_kg = 0.0

    def begin(self, kind: str, last_pa: float | None) -> None:
        pass

    def after(self, seconds: float, kind: str) -> dict[str, Any] | None:
        self.gone_kg = min(self.gone_kg + self.rate_kg_s * seconds, self.to_go_kg)
        seen = self._shown.follow(self.start_kg - self.gone_kg, seconds, self._chance)
        if seen is None:
            return None
        seen += self._chance.gauss(0, self.noise_kg)
        return {"mass_kg": round(round(seen / self.resolution) * self.resolution, 6)}


@dataclass
class AirThermometer:
    """A probe in the air of a head, in °C and relative humidity: it comes to rest over minutes.

    ``from_c`` is where it begins, ``air_c`` and ``humidity`` where it ends.
    """

    air_c: float = 13.0
    humidity: float = 0.9
    from_c: float = 24.0
    seed: int = 1
    resolution: float = 0.1
    settles_s: float = 240.0
    noise_k: float = 0.05
    sensor: Sensor = STEADY
    what: str = "thermometer"
    kinds: tuple[str, ...] = ()
    every_s: float = 2.0

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)
        self._shown = self.sensor.fresh()
        self._at_s = 0.0

    def begin(self, kind: str, last_pa: float | None) -> None:
        pass

    def after(self, seconds: float, kind: str) -> dict[str, Any] | None:
        self._at_s += seconds
        left = math.exp(-self._at_s / self.settles_s)
        true = self.air_c + (self.from_c - self.air_c) * left
        seen = self._shown.follow(true, seconds, self._chance)
        if seen is None:
            return None
        seen += self._chance.gauss(0, self.noise_k)
        damp = min(1.0, max(0.0, self.humidity + self._chance.gauss(0, 0.005)))
        steps = round(seen / self.resolution) * self.resolution
        return {"air_c": round(steps, 6), "humidity": round(damp, 2)}


@dataclass
class WrenchInHand:
    """A click wrench as somebody set it, pulled every so often. It does not know the joint."""

    set_nm: float
    seed: int = 1
    resolution: float = 0.1
    what: str = "wrench"
    kinds: tuple[str, ...] = ()
    every_s: float = 20.0

    def __post_init__(self) -> None:
        self._wrench = TorqueWrench(self.set_nm, self.seed)

    def begin(self, kind: str, last_pa: float | None) -> None:
        pass

    def after(self, seconds: float, kind: str) -> dict[str, Any] | None:
        clicked = round(self._wrench.click() / self.resolution) * self.resolution
        return {"torque_nm": round(clicked, 6)}
