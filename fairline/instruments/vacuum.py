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

from fairline.core.evacuate.rig import CORE
from fairline.core.physics.constants import (
    ATMOSPHERE_PA,
    FOOT_M,
    MICRON_PA,
    WATER_VAPOUR_CONSTANT,
    ZERO_C_K,
)
from fairline.core.physics.moist_air import saturation_pa
from fairline.core.physics.vacuum_flow import Floats, Hose, Rig
from fairline.instruments.gauge import STEADY, Sensor
from fairline.instruments.integrated import Integrated

Scenario = Literal[
    "sound",
    "wet",
    "leaking",
    "slow-leak",
    "frozen",
    "cold-night",
    "oil",
    "hose",
    "core",
    "passing",
    "open-valve",
    "at-pump",
    "pocket",
]
SCENARIOS: dict[str, str] = {
    "sound": "dry and tight",
    "wet": "water left in the line",
    "leaking": "a leaking flare",
    "slow-leak": "a pinhole",
    "frozen": "frozen water, a cold night",
    "cold-night": "dry and tight, the night cools it",
    "oil": "wet pump oil",
    "hose": "a long thin hose",
    "core": "the core left in",
    "passing": "a valve that passes to the pump",
    "open-valve": "the valve not closed",
    "at-pump": "the gauge at the pump",
    "pocket": "a slow pocket behind a screw",
}
CUBIC_FOOT_MINUTE = FOOT_M**3 / 60
USUAL = Rig(6 * CUBIC_FOOT_MINUTE, 2.0, (Hose(0.0095, 0.9),))  # where a job names no rig
USUAL_M3 = 0.0025
LATENT_J_KG = 2.5e6  # of evaporation near 0 °C; ice a tenth more
WATER_J_KG_K = 4186.0
TUBE_J_K, TUBE_W_K = 120.0, 0.6  # warmth of the tube that water lies in, and what reaches it
FREE_M3_S, UNDER_OIL_M3_S = 2e-3, 3.5e-6  # how fast vapour leaves a puddle, and water under oil
ICE_M3_S = 5e-5
LAST_DROP_KG = 1e-9  # below it a film is gone: less of it boils
OUTGAS_PA_M3 = 1.2e-3  # walls and oil give off Q = a/t from when the pump began
OUTGAS_FROM_S = 60.0
COOLS_OVER_S = 3600.0  # how slowly the tubes follow the air
# Pa, Pa, kg, °C, Pa, kg, °C: what the integration may err by
WITHIN = (1e-4, 1e-4, 1e-12, 1e-5, 1e-3, 1e-12, 1e-5)


@dataclass
class VacuumSystem:
    """A system on its pump. Pressures in Pa, volumes in m³; ``advance`` moves time on.

    ``leak_pa_m3_s``: into a vacuum; it goes with p₁² − p₂², viscous, and ends at the atmosphere.
    ``boil_m3_s``: how fast vapour leaves the water. ``passes_m3_s``: what a valve that does not
    close lets through to the pump; ``valve_open``: it is not closed at all. ``pocket_*``: a volume
    behind a small conductance, full of air when the pump begins. ``air_c``: of the air around;
    ``ambient_c``, of the tubes, follows it slowly.
    """

    volume_m3: float = USUAL_M3
    rig: Rig = USUAL
    ambient_c: float = 20.0
    air_c: float = field(default=math.nan)
    leak_pa_m3_s: float = 0.0
    water_kg: float = 0.0
    boil_m3_s: float = FREE_M3_S
    outgas_pa_m3: float = OUTGAS_PA_M3
    passes_m3_s: float = 0.0
    valve_open: bool = False
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
        if math.isnan(self.air_c):
            self.air_c = self.ambient_c
        if math.isnan(self.water_c):
            self.water_c = self.ambient_c
        system, flow = self.rig.flows(ATMOSPHERE_PA)
        self._at: Floats = np.log(system)
        self._speed: Floats = flow / system
        self._back_m3_s = self.speed_m3_s(max(2 * self.rig.ultimate_pa, 1.0))
        self._course: Integrated | None = None
        self._begun: tuple[float, ...] = ()
        self._pumped_before = 0.0

    @property
    def pressure_pa(self) -> float:
        return self.air_pa + self.vapour_pa

    def speed_m3_s(self, pa: float | None = None) -> float:
        """Pumping speed at the system: pump and hoses in series, worked out once as a table."""
        pa = self.pressure_pa if pa is None else pa
        return float(np.interp(math.log(max(pa, 1e-6)), self._at, self._speed))

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
        """Close the valve; one that was forgotten stays open."""
        self.pumping = self.valve_open

    def advance(self, seconds: float, pumping: bool) -> None:
        """Move on; ``pumping``: the valve to the pump is meant to be open."""
        self.pumping = pumping or self.valve_open
        if self._course is None or self._begun != (*self._state(), self.pumping):
            # Something was done to it from outside: a valve moved, a gauge put on.
            self._course = Integrated(self._slopes, self._state(), WITHIN)
            self._pumped_before = self.pumped_s
        air, vapour, water, water_c, pocket, out, tube_c = self._course.after(seconds)
        self.air_pa, self.vapour_pa = max(0.0, float(air)), max(0.0, float(vapour))
        self.water_kg, self.water_c = max(0.0, float(water)), float(water_c)
        self.pocket_pa, self.vapour_out_kg = float(pocket), float(out)
        self.ambient_c = float(tube_c)
        if self.pumping:
            self.pumped_s = self._pumped_before + self._course.t_s
        self._begun = (*self._state(), self.pumping)

    def _state(self) -> tuple[float, ...]:
        return (
            self.air_pa,
            self.vapour_pa,
            self.water_kg,
            self.water_c,
            self.pocket_pa,
            self.vapour_out_kg,
            self.ambient_c,
        )

    def _slopes(self, t_s: float, state: Floats) -> list[float]:
        """How each part of the state changes in a second."""
        air, vapour, water, water_c, pocket, _, tube_c = (float(v) for v in state)
        pressure = max(air + vapour, 1e-6)
        speed = self.speed_m3_s(pressure) if self.pumping else self.passes_m3_s
        pumped = self._pumped_before + (t_s if self.pumping else 0.0)
        outside = max(0.0, 1 - (pressure / ATMOSPHERE_PA) ** 2)
        leaks = self.leak_pa_m3_s * outside
        gives_off = self.outgas_pa_m3 / (pumped + OUTGAS_FROM_S)
        from_pocket = self.pocket_m3_s * (pocket - air) if self.pocket_m3 else 0.0
        gas = WATER_VAPOUR_CONSTANT * (tube_c + ZERO_C_K)
        cooling = (self.air_c - tube_c) / COOLS_OVER_S
        swells = cooling / (tube_c + ZERO_C_K)  # a gas shut in follows its temperature
        boils = 0.0
        if water > 0:
            film = water / (water + LAST_DROP_KG)
            boils = film * self.boil_m3_s * (saturation_pa(water_c) - vapour) / gas
        held = TUBE_J_K + max(water, 0.0) * WATER_J_KG_K
        warms = (TUBE_W_K * (tube_c - water_c) - LATENT_J_KG * boils) / held
        taken = speed * vapour
        # The rig's speed is nought at its ultimate pressure already: nothing is pulled past it, and
        # what lies under it takes up what the pump's oil gives off.
        if self.pumping and pressure < self.rig.ultimate_pa:
            taken = self._back_m3_s * (pressure - self.rig.ultimate_pa)
        return [
            (leaks + gives_off + from_pocket - speed * air) / self.volume_m3 + air * swells,
            (boils * gas - taken) / self.volume_m3 + vapour * swells,
            -boils,
            warms,
            -from_pocket / self.pocket_m3 if self.pocket_m3 else 0.0,
            taken / gas,
            cooling,
        ]


FAULTS: dict[str, dict[str, Any]] = {
    "sound": {},
    "wet": {"water_kg": 0.004, "boil_m3_s": UNDER_OIL_M3_S},
    "leaking": {"leak_pa_m3_s": 1.2e-3},
    "slow-leak": {"leak_pa_m3_s": 7e-5},
    "frozen": {"water_kg": 0.002, "boil_m3_s": ICE_M3_S},
    "passing": {"passes_m3_s": 1e-5, "leak_pa_m3_s": 1e-3},
    "open-valve": {"valve_open": True},
    "at-pump": {"at_pump": True, "leak_pa_m3_s": 1.2e-3},
    "pocket": {"pocket_m3": 8e-6, "pocket_m3_s": 2.5e-9},
}
COLD_NIGHT_C = -24.4  # −12 °F: ice gives about 500 microns
NIGHT_COOLS_K = 15.0
WET_OIL_PA = 95.0
THIN_HOSE = Hose(0.0045, 3.0)


@dataclass(frozen=True)
class Sizes:
    """A leak or water of a size, beside what a scenario has; nought for none."""

    leak_pa_m3_s: float = 0.0
    water_kg: float = 0.0


NO_SIZES = Sizes()


def system(
    scenario: Scenario,
    ambient_c: float = 20.0,
    volume_m3: float | None = None,
    rig: Rig | None = None,
    sizes: Sizes = NO_SIZES,
) -> VacuumSystem:
    """The system behind one of the scenarios a person can choose, on the job's volume and rig."""
    drive = rig or USUAL
    if scenario == "oil":
        drive = replace(drive, ultimate_pa=WET_OIL_PA)
    if scenario == "hose":
        drive = replace(drive, hoses=(*drive.hoses, THIN_HOSE))
    if scenario == "core":
        drive = replace(drive, hoses=(*drive.hoses, Hose(CORE.bore_mm / 1000, CORE.length_m)))
    cold = min(ambient_c, COLD_NIGHT_C) if scenario == "frozen" else ambient_c
    faults = dict(FAULTS.get(scenario, {}))
    if sizes.leak_pa_m3_s:
        faults["leak_pa_m3_s"] = sizes.leak_pa_m3_s
    if sizes.water_kg:
        faults = {"boil_m3_s": UNDER_OIL_M3_S} | faults | {"water_kg": sizes.water_kg}
    made = VacuumSystem(volume_m3=volume_m3 or USUAL_M3, rig=drive, ambient_c=cold, **faults)
    if scenario == "cold-night":
        made.air_c = ambient_c - NIGHT_COOLS_K
    return made


@dataclass
class MicronGauge:
    """Reads the system with a gauge's own noise, lag, drop-outs and steps of one micron."""

    system: VacuumSystem
    seed: int = 0
    noise_share: float = 0.008
    sensor: Sensor = STEADY

    def __post_init__(self) -> None:
        self._random = random.Random(self.seed)
        self._shown = self.sensor.fresh()

    def read_pa(self, since_s: float = 0.0) -> float | None:
        """What it shows ``since_s`` after the reading before; None while it has dropped out."""
        value = self._shown.follow(self.system.seen_pa, since_s, self._random)
        if value is None:
            return None
        value *= 1 + self._random.gauss(0, self.noise_share)
        return max(1, round(value / MICRON_PA)) * MICRON_PA
