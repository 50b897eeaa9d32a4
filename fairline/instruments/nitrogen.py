"""A system under nitrogen and the digital gauge on it, simulated: real gas at constant volume.

The pipe's temperature drifts towards the air's; a leak takes nitrogen out. The gauge rounds to
its resolution, the thermometer scatters.
"""

import math
import random
from dataclasses import dataclass, field
from typing import Literal

from fairline.core.physics.constants import ATMOSPHERE_PA, GAS_CONSTANT, PSI_PA, ZERO_C_K
from fairline.core.physics.nitrogen import density_mol_m3, pressure_pa

Scenario = Literal["sound", "cooling", "leaking"]
SCENARIOS: dict[Scenario, str] = {
    "sound": "tight, the air steady",
    "cooling": "tight, the evening cools",
    "leaking": "a leaking flare",
}


@dataclass
class NitrogenSystem:
    """Nitrogen sealed in. Pa, m³, °C, s; ``advance`` moves time on."""

    gauge_pa: float
    volume_m3: float = 0.0015
    pipe_c: float = 20.0
    air_c: float = 20.0
    lag_s: float = 3600.0  # how slowly the pipe follows the air
    leak_pa_m3_s: float = 0.0

    def __post_init__(self) -> None:
        self._density = density_mol_m3(self.gauge_pa + ATMOSPHERE_PA, self.pipe_c + ZERO_C_K)

    def advance(self, seconds: float) -> None:
        kelvin = self.pipe_c + ZERO_C_K
        lost = self.leak_pa_m3_s * seconds / (GAS_CONSTANT * kelvin) / self.volume_m3
        self._density = max(self._density - lost, ATMOSPHERE_PA / (GAS_CONSTANT * kelvin))
        self.pipe_c += (self.air_c - self.pipe_c) * (1 - math.exp(-seconds / self.lag_s))
        self.gauge_pa = pressure_pa(self._density, self.pipe_c + ZERO_C_K) - ATMOSPHERE_PA


@dataclass
class DigitalGauge:
    """Reads pressure to a tenth of a psi and the pipe to a tenth of a kelvin."""

    system: NitrogenSystem
    seed: int = 1
    resolution_pa: float = 0.1 * PSI_PA
    scatter_k: float = 0.1
    _chance: random.Random = field(init=False)

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)

    def read(self) -> tuple[float, float]:
        """Gauge pressure in Pa and pipe temperature in °C, as shown."""
        pressure = round(self.system.gauge_pa / self.resolution_pa) * self.resolution_pa
        return pressure, round(self.system.pipe_c + self._chance.gauss(0, self.scatter_k), 1)


def system(scenario: Scenario, gauge_pa: float, volume_m3: float) -> NitrogenSystem:
    """A system of this volume, filled to a pressure, in one of the scenarios."""
    made = NitrogenSystem(gauge_pa=gauge_pa, volume_m3=volume_m3)
    if scenario == "cooling":
        made.air_c = 9.0
    if scenario == "leaking":
        made.leak_pa_m3_s = 0.02 * made.gauge_pa * volume_m3 / 600.0  # two parts in a hundred
    return made
