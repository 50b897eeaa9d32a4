"""Gas through hoses to a pump: conductance, throughput of a whole rig, time to pull down."""

from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from fairline.core.physics.constants import WATER_VAPOUR_CONSTANT, ZERO_C_K
from fairline.core.physics.moist_air import saturation_pa

Floats = npt.NDArray[np.float64]
Pressure = TypeVar("Pressure", float, Floats)
GRID = 1200  # points of the inlet's pressure, even in its logarithm
LEAST_OVER_ULTIMATE = 1e-6  # how near the pump's ultimate pressure the grid begins
HALVINGS = 80  # of the search for a hose's upstream pressure


@dataclass(frozen=True)
class Hose:
    """A round tube: bore and length in m."""

    bore_m: float
    length_m: float

    def conductance_m3_s(self, mean_pa: Pressure) -> Pressure:
        """Conductance for air at 20 °C at the mean of the pressures at its ends, in m³/s.

        Knudsen: C = 135·d⁴/l·p̄ + 12.1·d³/l·(1 + 192·d·p̄)/(1 + 237·d·p̄), C in l/s, d and l in
        cm, p̄ in mbar (handbooks of vacuum technology, quoted from memory).

        >>> round(Hose(0.00635, 1.8288).conductance_m3_s(33.33) * 3600, 2)  # 6 ft of 1/4 in, 250 µ
        0.19
        """
        d, length, p = self.bore_m * 100, self.length_m * 100, mean_pa / 100
        viscous = 135 * d**4 / length * p
        molecular = 12.1 * d**3 / length * (1 + 192 * d * p) / (1 + 237 * d * p)
        return (viscous + molecular) / 1000

    def upstream_pa(self, downstream_pa: Floats, flow: Floats) -> Floats:
        """The pressure that drives a throughput (Pa·m³/s) into what stands downstream, in Pa."""
        low = downstream_pa.copy()
        # The molecular conductance is the least: it gives the most that can be needed.
        high = downstream_pa + flow / (self.conductance_m3_s(0.0) * 0.8)
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            passed = self.conductance_m3_s((middle + downstream_pa) / 2) * (middle - downstream_pa)
            under = passed < flow
            low, high = np.where(under, middle, low), np.where(under, high, middle)
        found: Floats = (low + high) / 2
        return found


@dataclass(frozen=True)
class Rig:
    """A pump with its hoses in series: free speed in m³/s, ultimate pressure in Pa."""

    pump_m3_s: float
    ultimate_pa: float
    hoses: tuple[Hose, ...]

    def flows(self, most_pa: float) -> tuple[Floats, Floats]:
        """Pressures of the system up to ``most_pa`` in Pa, and the throughput at each, Pa·m³/s.

        The pump takes S·(p − ultimate) at its inlet; every hose adds the pressure that drives it.
        """
        span = np.geomspace(max(self.ultimate_pa, 1e-3) * LEAST_OVER_ULTIMATE, most_pa, GRID)
        inlet = self.ultimate_pa + span
        flow = self.pump_m3_s * span
        system = inlet
        for hose in self.hoses:
            system = hose.upstream_pa(system, flow)
        return system, flow

    def throughput(self, pa: float) -> float:
        """What it takes from a system at this pressure, in Pa·m³/s; nought at the ultimate."""
        if pa <= self.ultimate_pa:
            return 0.0
        system, flow = self.flows(pa)
        return float(np.exp(np.interp(np.log(pa), np.log(system), np.log(flow))))

    def speed_m3_s(self, pa: float) -> float:
        """Pumping speed at the system, in m³/s.

        >>> rig = Rig(0.001, 0.0, ())
        >>> round(rig.speed_m3_s(50.0), 6)
        0.001
        """
        return self.throughput(pa) / pa


def pull_s(rig: Rig, volume_m3: float, from_pa: float, to_pa: float, leak: float) -> float | None:
    """Time to pull a dry volume down, in s; None where it never gets there.

    ∫ V·dp / (throughput − leak): ``volume_m3`` in m³, pressures absolute in Pa, ``leak`` in
    Pa·m³/s. Dry, tight and without a hose it is (V/S)·ln(p₀/p₁).

    >>> round(pull_s(Rig(0.001, 0.0, ()), 0.004, 101_325.0, 50.0, 0.0) or 0.0, 1)
    30.5
    """
    if from_pa <= to_pa:
        return 0.0
    system, flow = rig.flows(from_pa)
    net = flow - leak
    at_target = rig.throughput(to_pa) - leak
    if at_target <= 0:
        return None
    inside = (system > to_pa) & (system <= from_pa)
    p = np.concatenate(([to_pa], system[inside], [from_pa]))
    f = np.concatenate(([at_target], net[inside], [rig.throughput(from_pa) - leak]))
    if np.any(f <= 0):
        return None
    return float(np.trapezoid(volume_m3 * p / f, np.log(p)))


def pull_course(rig: Rig, volume_m3: float, from_pa: float) -> tuple[Floats, Floats]:
    """A dry, tight pull from ``from_pa`` down: times in s and pressures in Pa, the first at 0.

    >>> t, p = pull_course(Rig(0.001, 1.0, ()), 0.004, 101_325.0)
    >>> float(t[0]), round(float(p[0]))
    (0.0, 101326)
    """
    system, flow = rig.flows(from_pa)
    p, f = system[::-1], flow[::-1]
    steps = volume_m3 * (p[:-1] / f[:-1] + p[1:] / f[1:]) / 2 * np.log(p[:-1] / p[1:])
    t: Floats = np.concatenate(([0.0], np.cumsum(steps)))
    return t, p


def boil_off_s(rig: Rig, water_kg: float, ambient_c: float, leak: float) -> float | None:
    """Time to pump water away as vapour at its saturation, in s; None where it never ends.

    m·R_w·T / (throughput at the saturation − leak): ``water_kg`` in kg, ``leak`` in Pa·m³/s. As
    fast as the rig takes it; warmth that comes too slowly makes it longer.

    >>> round(boil_off_s(Rig(0.001, 1.0, ()), 0.01, 20.0, 0.0) or 0.0)
    579
    """
    boils = saturation_pa(ambient_c)
    vapour = water_kg * WATER_VAPOUR_CONSTANT * (ambient_c + ZERO_C_K)  # Pa·m³
    net = rig.throughput(boils) - leak
    return vapour / net if net > 0 else None
