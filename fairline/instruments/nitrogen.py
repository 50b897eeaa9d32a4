"""A system under nitrogen and the digital gauge on it, simulated: real gas at constant volume.

Filling warms the gas, which settles to the pipe within minutes; the pipe follows the air. A leak
takes nitrogen out as p₁² − p₂², viscous, and ends at the atmosphere, which moves with the weather.
All rates are our own choice.
"""

import random
from dataclasses import dataclass, field
from typing import Literal

from fairline.core.physics.constants import ATMOSPHERE_PA, GAS_CONSTANT, PSI_PA, ZERO_C_K
from fairline.core.physics.nitrogen import density_mol_m3, pressure_pa
from fairline.instruments.gauge import STEADY, Sensor
from fairline.instruments.integrated import Floats, Integrated

Scenario = Literal["sound", "cooling", "leaking", "weather"]
SCENARIOS: dict[str, str] = {
    "sound": "tight, the air steady",
    "cooling": "tight, the evening cools",
    "leaking": "a leaking flare",
    "weather": "tight, the barometer falls",
}
SETTLES_S = 120.0
FILLED_K = 1.5  # of the gas over the pipe as the regulator is shut
WITHIN = (1e-4, 1e-6, 1e-6, 1e-3)  # mol/m³, K, °C, Pa: what the integration may err by


@dataclass
class NitrogenSystem:
    """Nitrogen sealed in. Pa, m³, °C, s; ``advance`` moves time on.

    ``warmer_k``: how much warmer than the pipe filling left the gas. ``leak_pa_m3_s``: at the
    pressure it was filled to. ``weather_pa_s``: how fast the barometer moves.
    """

    gauge_pa: float
    volume_m3: float = 0.0015
    pipe_c: float = 20.0
    air_c: float = 20.0
    lag_s: float = 3600.0  # how slowly the pipe follows the air
    leak_pa_m3_s: float = 0.0
    warmer_k: float = 0.0
    weather_pa_s: float = 0.0
    atmosphere_pa: float = ATMOSPHERE_PA

    def __post_init__(self) -> None:
        first = self.gauge_pa + self.atmosphere_pa
        self._drives = max(first**2 - self.atmosphere_pa**2, 1.0)
        self._density = density_mol_m3(first, self.gas_k)
        state = (self._density, self.warmer_k, self.pipe_c, self.atmosphere_pa)
        self._course = Integrated(self._slopes, state, WITHIN)

    @property
    def gas_k(self) -> float:
        return self.pipe_c + self.warmer_k + ZERO_C_K

    def advance(self, seconds: float) -> None:
        density, warmer, pipe, atmosphere = self._course.after(seconds)
        self._density, self.warmer_k = float(density), float(warmer)
        self.pipe_c, self.atmosphere_pa = float(pipe), float(atmosphere)
        self.gauge_pa = pressure_pa(self._density, self.gas_k) - self.atmosphere_pa

    def _slopes(self, _: float, state: Floats) -> list[float]:
        density, warmer, pipe_c, atmosphere = (float(v) for v in state)
        kelvin = pipe_c + warmer + ZERO_C_K
        lost = 0.0
        if self.leak_pa_m3_s:
            driving = pressure_pa(density, kelvin) ** 2 - atmosphere**2
            flow = self.leak_pa_m3_s * max(0.0, driving) / self._drives
            lost = flow / (GAS_CONSTANT * kelvin) / self.volume_m3
        pipe = (self.air_c - pipe_c) / self.lag_s
        return [-lost, -warmer / SETTLES_S, pipe, self.weather_pa_s]


@dataclass
class DigitalGauge:
    """Reads pressure to a tenth of a psi and the pipe to a tenth of a kelvin."""

    system: NitrogenSystem
    seed: int = 1
    resolution_pa: float = 0.1 * PSI_PA
    scatter_k: float = 0.1
    sensor: Sensor = STEADY
    _chance: random.Random = field(init=False)

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)
        self._shown = self.sensor.fresh()

    def read(self, since_s: float = 0.0) -> tuple[float, float] | None:
        """Gauge pressure in Pa and pipe temperature in °C, as shown; None where it dropped out."""
        seen = self._shown.follow(self.system.gauge_pa, since_s, self._chance)
        if seen is None:
            return None
        pressure = round(seen / self.resolution_pa) * self.resolution_pa
        return pressure, round(self.system.pipe_c + self._chance.gauss(0, self.scatter_k), 1)


def system(scenario: Scenario, gauge_pa: float, volume_m3: float) -> NitrogenSystem:
    """A system of this volume, filled to a pressure, in one of the scenarios."""
    return NitrogenSystem(
        gauge_pa=gauge_pa,
        volume_m3=volume_m3,
        air_c=9.0 if scenario == "cooling" else 20.0,
        # Two parts in a hundred in ten minutes at first.
        leak_pa_m3_s=0.02 * gauge_pa * volume_m3 / 600.0 if scenario == "leaking" else 0.0,
        weather_pa_s=-200.0 / 3600.0 if scenario == "weather" else 0.0,
        warmer_k=FILLED_K,
    )
