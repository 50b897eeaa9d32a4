"""A system under vacuum and the micron gauge on it, simulated: the job's own volume on its rig.

Air and vapour are counted apart, and mass is kept: what the rig takes, what boils, what leaks in.
Water takes its warmth from the tube it lies in, cools as it boils, and freezes where the pump is
faster than the warmth. All rates are our own choice, after what such systems do.
"""

import math
import random
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np

from fairline.core.physics.constants import (
    ATMOSPHERE_PA,
    FOOT_M,
    MICRON_PA,
    WATER_VAPOUR_CONSTANT,
    ZERO_C_K,
)
from fairline.core.physics.moist_air import saturation_pa
from fairline.core.physics.vacuum_flow import Floats, Hose, Rig

Scenario = Literal[
    "sound", "wet", "leaking", "slow-leak", "frozen", "oil", "hose", "passing", "at-pump", "pocket"
]
SCENARIOS: dict[str, str] = {
    "sound": "dry and tight",
    "wet": "water left in the line",
    "leaking": "a leaking flare",
    "slow-leak": "a pinhole",
    "frozen": "frozen water, a cold night",
    "oil": "wet pump oil",
    "hose": "a long thin hose, core in",
    "passing": "a valve that passes to the pump",
    "at-pump": "the gauge at the pump",
    "pocket": "a slow pocket behind a screw",
}
CUBIC_FOOT_MINUTE = FOOT_M**3 / 60
USUAL = Rig(6 * CUBIC_FOOT_MINUTE, 2.0, (Hose(0.0095, 0.9),))  # where a job names no rig
USUAL_M3 = 0.0025
STEP_S = 0.5
LATENT_J_KG = 2.5e6  # of evaporation near 0 °C; ice a tenth more
WATER_J_KG_K = 4186.0
TUBE_J_K, TUBE_W_K = 120.0, 0.6  # warmth of the tube that water lies in, and what reaches it
FREE_M3_S, UNDER_OIL_M3_S = 2e-3, 3.5e-6  # how fast vapour leaves a puddle, and water under oil
ICE_M3_S = 5e-5
OUTGAS_PA_M3 = 1.2e-3  # walls and oil give off Q = a/t from when the pump began
OUTGAS_FROM_S = 60.0


@dataclass
class VacuumSystem:
    """A system on its pump. Pressures in Pa, volumes in m³; ``advance`` moves time on.

    ``leak_pa_m3_s``: into a vacuum; it goes with p₁² − p₂², viscous, and ends at the atmosphere.
    ``boil_m3_s``: how fast vapour leaves the water. ``passes_m3_s``: what a valve that does not
    close lets through to the pump. ``pocket_*``: a volume behind a small conductance, full of air
    when the pump begins.
    """

    volume_m3: float = USUAL_M3
    rig: Rig = USUAL
    ambient_c: float = 20.0
    leak_pa_m3_s: float = 0.0
    water_kg: float = 0.0
    boil_m3_s: float = FREE_M3_S
    outgas_pa_m3: float = OUTGAS_PA_M3
    passes_m3_s: float = 0.0
    pocket_m3: float = 0.0
    pocket_m3_s: float = 0.0
    at_pump: bool = False
    air_pa: float = ATMOSPHERE_PA
    vapour_pa: float = 0.0
    pocket_pa: float = ATMOSPHERE_PA
    water_c: float = field(default=math.nan)
    pumped_s: float = 0.0
    pumping: bool = True
    vapour_out_kg: float = 0.0

    def __post_init__(self) -> None:
        if math.isnan(self.water_c):
            self.water_c = self.ambient_c
        system, flow = self.rig.flows(ATMOSPHERE_PA)
        self._at: Floats = np.log(system)
        self._speed: Floats = flow / system

    @property
    def pressure_pa(self) -> float:
        return self.air_pa + self.vapour_pa

    def speed_m3_s(self) -> float:
        """Pumping speed at the system: pump and hoses in series, worked out once as a table."""
        return float(np.interp(math.log(max(self.pressure_pa, 1e-6)), self._at, self._speed))

    @property
    def seen_pa(self) -> float:
        """What a gauge sees where it sits: the system, or the pump's own side."""
        if not self.at_pump:
            return self.pressure_pa
        if not self.pumping:
            return self.rig.ultimate_pa
        inlet = self.rig.ultimate_pa + self.speed_m3_s() * self.pressure_pa / self.rig.pump_m3_s
        return min(inlet, self.pressure_pa)

    def isolate(self) -> None:
        """Close the valve."""
        self.pumping = False

    def advance(self, seconds: float, pumping: bool) -> None:
        """Move on in steps of at most half a second; each part relaxes exactly over its step."""
        self.pumping = pumping
        left = seconds
        while left > 1e-9:
            step = min(STEP_S, left)
            left -= step
            self._step(step)

    def _step(self, step: float) -> None:
        speed = self.speed_m3_s() if self.pumping else self.passes_m3_s
        if self.pumping:
            self.pumped_s += step
        outside = max(0.0, 1 - (self.pressure_pa / ATMOSPHERE_PA) ** 2)
        source = self.leak_pa_m3_s * outside + self.outgas_pa_m3 / (self.pumped_s + OUTGAS_FROM_S)
        if self.pocket_m3:
            source += self._from_pocket(step)
        if speed > 0:
            # The rig's speed is nought at its ultimate pressure already: nothing is pulled past it.
            keep = math.exp(-speed / self.volume_m3 * step)
            floor = source / speed
            self.air_pa = floor + (self.air_pa - floor) * keep
        else:
            self.air_pa += source / self.volume_m3 * step
        self._boil(step, speed)
        self.air_pa = min(self.air_pa, ATMOSPHERE_PA)

    def _from_pocket(self, step: float) -> float:
        """What a pocket gives off meanwhile, Pa·m³/s; it loses just that."""
        rate = self.pocket_m3_s * (self.pocket_pa - self.air_pa)
        rate = max(0.0, min(rate, self.pocket_pa * self.pocket_m3 / step))
        self.pocket_pa -= rate * step / self.pocket_m3
        return rate

    def _boil(self, step: float, speed: float) -> None:
        """Water boils as warmth reaches it, and its vapour goes the way of the air."""
        gas = WATER_VAPOUR_CONSTANT * (self.ambient_c + ZERO_C_K)
        out = self.vapour_pa * (1 - math.exp(-speed / self.volume_m3 * step)) if speed > 0 else 0.0
        self.vapour_pa -= out
        self.vapour_out_kg += out * self.volume_m3 / gas
        if self.water_kg <= 0:
            return
        behind = saturation_pa(self.water_c) - self.vapour_pa
        share = 1 - math.exp(-self.boil_m3_s / self.volume_m3 * step)
        boiled = min(behind * share * self.volume_m3 / gas, self.water_kg)
        held = TUBE_J_K + self.water_kg * WATER_J_KG_K
        warmed = TUBE_W_K * (self.ambient_c - self.water_c) * step
        self.water_c += (warmed - LATENT_J_KG * boiled) / held
        self.water_kg -= boiled
        self.vapour_pa += boiled * gas / self.volume_m3


FAULTS: dict[str, dict[str, Any]] = {
    "sound": {},
    "wet": {"water_kg": 0.004, "boil_m3_s": UNDER_OIL_M3_S},
    "leaking": {"leak_pa_m3_s": 1.2e-3},
    "slow-leak": {"leak_pa_m3_s": 7e-5},
    "frozen": {"water_kg": 0.002, "boil_m3_s": ICE_M3_S},
    "passing": {"passes_m3_s": 1e-5, "leak_pa_m3_s": 1e-3},
    "at-pump": {"at_pump": True, "leak_pa_m3_s": 1.2e-3},
    "pocket": {"pocket_m3": 8e-6, "pocket_m3_s": 2.5e-9},
}
COLD_NIGHT_C = -24.4  # −12 °F: ice gives about 500 microns


def system(
    scenario: Scenario,
    ambient_c: float = 20.0,
    volume_m3: float | None = None,
    rig: Rig | None = None,
) -> VacuumSystem:
    """The system behind one of the scenarios a person can choose, on the job's volume and rig."""
    drive = rig or USUAL
    if scenario == "oil":
        drive = replace(drive, ultimate_pa=95.0)
    if scenario == "hose":
        drive = replace(drive, hoses=(*drive.hoses, Hose(0.0045, 1.8), Hose(0.002, 0.01)))
    cold = min(ambient_c, COLD_NIGHT_C) if scenario == "frozen" else ambient_c
    faults = FAULTS.get(scenario, {})
    return VacuumSystem(volume_m3=volume_m3 or USUAL_M3, rig=drive, ambient_c=cold, **faults)


@dataclass
class MicronGauge:
    """Reads the system with a gauge's own noise and steps of one micron."""

    system: VacuumSystem
    seed: int = 0
    noise_share: float = 0.008

    def __post_init__(self) -> None:
        self._random = random.Random(self.seed)

    def read_pa(self) -> float:
        value = self.system.seen_pa * (1 + self._random.gauss(0, self.noise_share))
        return max(1, round(value / MICRON_PA)) * MICRON_PA
