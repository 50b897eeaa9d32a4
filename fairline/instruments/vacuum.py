"""A system under vacuum and the micron gauge on it, simulated.

Air is pumped through a hose, leaks in, and is given off by walls and oil; water boils at its
vapour pressure while any is left. The pump's speed through the hose follows Knudsen's formula.
"""

import math
import random
from dataclasses import dataclass
from typing import Literal

from fairline.core.physics.constants import (
    ATMOSPHERE_PA,
    MICRON_PA,
    WATER_VAPOUR_CONSTANT,
    ZERO_C_K,
)
from fairline.core.physics.moist_air import saturation_pa
from fairline.core.physics.vacuum_flow import Hose

Scenario = Literal["sound", "wet", "leaking"]
SCENARIOS: dict[str, str] = {
    "sound": "dry and tight",
    "wet": "water left in the line",
    "leaking": "a leaking flare",
}


@dataclass
class VacuumSystem:
    """A small split system on its pump. Pressures in Pa; ``advance`` moves time on."""

    volume_m3: float = 0.0025
    pump_m3_s: float = 0.0009
    ultimate_pa: float = 3.0
    bore_m: float = 0.0095
    hose_m: float = 0.9
    ambient_c: float = 20.0
    leak_pa_m3_s: float = 0.0
    water_kg: float = 0.0
    boil_s: float = 240.0
    outgas_pa_m3_s: float = 4e-6
    trapped_pa: float = 3.0
    air_pa: float = ATMOSPHERE_PA
    vapour_pa: float = 0.0
    pocket_pa: float = 0.0

    @property
    def pressure_pa(self) -> float:
        return self.air_pa + self.vapour_pa

    def speed_m3_s(self) -> float:
        """Pumping speed at the system: pump and hose in series."""
        hose = Hose(self.bore_m, self.hose_m).conductance_m3_s(max(self.pressure_pa / 2, 0.1))
        return 1 / (1 / self.pump_m3_s + 1 / hose)

    def isolate(self) -> None:
        """Close the valve: gas trapped in cores and fittings comes out in the next seconds."""
        self.pocket_pa = self.trapped_pa

    def advance(self, seconds: float, pumping: bool) -> None:
        """Move on in steps of at most a second; each part relaxes exactly over its step."""
        left = seconds
        while left > 1e-9:
            step = min(1.0, left)
            left -= step
            source = self.leak_pa_m3_s + self.outgas_pa_m3_s
            if pumping:
                speed = self.speed_m3_s()
                keep = math.exp(-speed / self.volume_m3 * step)
                floor = self.ultimate_pa + source / speed
                self.air_pa = floor + (self.air_pa - floor) * keep
                self.vapour_pa *= keep
            else:
                self.air_pa += source / self.volume_m3 * step
                out = self.pocket_pa * (1 - math.exp(-step / 12.0))
                self.pocket_pa -= out
                self.air_pa += out
            self._boil(step)
            self.air_pa = min(self.air_pa, ATMOSPHERE_PA)

    def _boil(self, step: float) -> None:
        """Water heads for its own vapour pressure, as fast as warmth reaches it."""
        if self.water_kg <= 0:
            return
        # Cold spots under the line's lowest point keep the plateau below saturation in the room.
        plateau = 0.2 * saturation_pa(self.ambient_c)
        rise = max(0.0, plateau - self.vapour_pa) * (1 - math.exp(-step / self.boil_s))
        mass = rise * self.volume_m3 / (WATER_VAPOUR_CONSTANT * (self.ambient_c + ZERO_C_K))
        mass = min(mass, self.water_kg)
        self.water_kg -= mass
        self.vapour_pa += (
            mass * WATER_VAPOUR_CONSTANT * (self.ambient_c + ZERO_C_K) / self.volume_m3
        )


def system(scenario: Scenario, ambient_c: float = 20.0) -> VacuumSystem:
    """The system behind one of the scenarios a person can choose."""
    if scenario == "wet":
        return VacuumSystem(ambient_c=ambient_c, water_kg=0.004)
    if scenario == "leaking":
        return VacuumSystem(ambient_c=ambient_c, leak_pa_m3_s=1.2e-3)
    return VacuumSystem(ambient_c=ambient_c)


@dataclass
class MicronGauge:
    """Reads the system with a gauge's own noise and steps of one micron."""

    system: VacuumSystem
    seed: int = 0
    noise_share: float = 0.008

    def __post_init__(self) -> None:
        self._random = random.Random(self.seed)

    def read_pa(self) -> float:
        value = self.system.pressure_pa * (1 + self._random.gauss(0, self.noise_share))
        return max(1, round(value / MICRON_PA)) * MICRON_PA
