"""What the readings of a nitrogen hold say of each other: which are at rest, and which fell.

A reading is held against every earlier one at which the gas was at rest (a reference), so that a
fall after a rise is found too; the more pairs there are, the more a fall has to exceed its doubt,
so that many readings cry no wolf.
"""

from dataclasses import dataclass, replace
from statistics import NormalDist
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from fairline.core.physics.constants import ZERO_C_K
from fairline.core.physics.nitrogen import density_mol_m3, pressure_pa

Floats = NDArray[np.float64]
Number = TypeVar("Number", float, NDArray[np.float64])

REST_S = 600.0  # gas that has just been let in comes to rest in about this (common practice) …
REST_UNTIL_S = 1800.0  # … and a reading not later than this shows whether it did; our own choice
REST_SHARE = 0.03  # of the absolute pressure: what coming to rest may take or give; our own choice
ROUNDING_SHARE = 1e-6  # of the absolute pressure: what arithmetic alone may leave over
DENSE = 240  # readings from which on medians are compared, not single readings
SPANS = 24  # the medians' equal spans of time
STEP_OF_MEDIANS = 1.2  # of the resolution: two medians may differ by a whole step of the gauge
ONE_SIDED = 0.02275  # what two standard deviations leave on one side
COVERAGE = 2.0


@dataclass(frozen=True)
class Instruments:
    """What the gauge and the thermometer can hide. Pa and K, standard doubts but the resolution."""

    atmosphere_pa: float
    resolution_pa: float
    thermometer_k: float
    barometer_pa: float = 0.0

    def doubt_pa(self, gauge_pa: Number, pipe_c: Number) -> Number:
        """Coverage-2 uncertainty of measured minus expected at a reading."""
        return uncertainty_pa(
            gauge_pa + self.atmosphere_pa,
            pipe_c + ZERO_C_K,
            self.resolution_pa,
            self.thermometer_k,
            self.barometer_pa,
        )


@dataclass(frozen=True)
class Fall:
    """The largest fall beyond its doubt: by how much in Pa, and from when to when in s.

    ``below_first``: it lies below the reading that the hold counts from, too. ``stood``: nothing
    fell from any later reading at which the gas was at rest, and one was held against others.
    ``stays``: what was read last is beyond its doubt too.
    """

    by_pa: float
    from_s: float
    at_s: float
    below_first: bool
    stood: bool = False
    stays: bool = False


@dataclass(frozen=True)
class HoldCourse:
    """``base``: the number of the reading a hold counts from; ``fall``: None where none is."""

    base: int
    fall: Fall | None


def uncertainty_pa(
    absolute_pa: Number,
    temperature_k: Number,
    resolution_pa: float,
    thermometer_k: float,
    barometer_pa: float = 0.0,
) -> Number:
    """Coverage-2 uncertainty of measured minus expected, from two readings of each instrument.

    2·√(2·(resolution/√12)² + 2·(P/T·u_T)² + 2·u_B²): a rectangular distribution for the gauge's
    resolution (JCGM 100:2008, 4.3.7, quoted from memory), P/T from the gas law, u_B of the
    barometer that the gauge reads against. Pa, K.

    >>> round(uncertainty_pa(2e6, 293.15, 6895.0, 0.5))
    11171
    """
    gauge = resolution_pa / 12**0.5
    thermometer = absolute_pa / temperature_k * thermometer_k
    doubt: Number = COVERAGE * (2 * gauge**2 + 2 * thermometer**2 + 2 * barometer_pa**2) ** 0.5
    return doubt


def losses_pa(gauge_pa: Floats, pipe_c: Floats, atmosphere_pa: float, since: int = 0) -> Floats:
    """How far each reading lies below what nitrogen sealed in at one of them would show, in Pa.

    ``gauge_pa`` gauge, ``pipe_c`` of the pipe, ``since`` the number of the reading
    it is compared with (``nitrogen.pressure_pa`` at the density of that reading).

    >>> losses_pa(np.array([2.0e6, 1.9e6]), np.array([20.0, 20.0]), 101_325.0).round().tolist()
    [-0.0, 100000.0]
    """
    density = density_mol_m3(
        float(gauge_pa[since]) + atmosphere_pa, float(pipe_c[since]) + ZERO_C_K
    )
    expected: Floats = pressure_pa(density, pipe_c + ZERO_C_K) - atmosphere_pa - gauge_pa
    return expected


def sigmas(count: int) -> float:
    """How many standard doubts a fall has to exceed where so many are looked at; 2 at least.

    >>> round(sigmas(1), 3), round(sigmas(100), 2)
    (2.0, 3.51)
    """
    return max(COVERAGE, NormalDist().inv_cdf(1 - ONE_SIDED / max(count, 1)))


def hold_course(t: Floats, gauge_pa: Floats, pipe_c: Floats, by: Instruments) -> HoldCourse:
    """Which reading a hold counts from, and whether it fell more than its doubt explains.

    ``t`` in s, in order; ``gauge_pa`` gauge, in Pa; ``pipe_c`` in °C.

    >>> t, gauge = np.array([0.0, 600.0, 1200.0]), np.array([2.0e6, 2.0e6, 1.9e6])
    >>> by = Instruments(atmosphere_pa=101_325.0, resolution_pa=6895.0, thermometer_k=0.5)
    >>> round(hold_course(t, gauge, np.full(3, 20.0), by).fall.by_pa)
    100000
    """
    base = _settled(t, gauge_pa, pipe_c, by)
    first_s = float(t[0])
    t, gauge, pipe = t[base:], gauge_pa[base:], pipe_c[base:]
    if len(t) < DENSE:
        return HoldCourse(base, _fall(t, gauge, pipe, by, first_s, medians=False))
    fall = _fall(*_medians(t, gauge, pipe), by, first_s, medians=True)
    return HoldCourse(base, fall or _single(t, gauge, pipe, by))


def _settled(t: Floats, gauge: Floats, pipe: Floats, by: Instruments) -> int:
    """The reading at which gas that filling had warmed or cooled had come to rest; 0: the first."""
    later = np.flatnonzero(t - t[0] >= REST_S)
    if len(later) == 0 or t[later[0]] - t[0] > REST_UNTIL_S:
        return 0
    at = int(later[0])
    moved = abs(float(losses_pa(gauge[[0, at]], pipe[[0, at]], by.atmosphere_pa)[1]))
    most = REST_SHARE * (float(gauge[0]) + by.atmosphere_pa)
    return at if by.doubt_pa(float(gauge[at]), float(pipe[at])) < moved <= most else 0


def _medians(t: Floats, gauge: Floats, pipe: Floats) -> tuple[Floats, Floats, Floats]:
    edges = np.linspace(t[0], t[-1], SPANS + 1)
    index = np.clip(np.searchsorted(edges, t, side="right") - 1, 0, SPANS - 1)
    parts = [np.flatnonzero(index == n) for n in range(SPANS)]
    full = [p for p in parts if len(p)]
    return tuple(np.array([np.median(of[p]) for p in full]) for of in (t, gauge, pipe))  # type: ignore[return-value]


def _references(t: Floats, losses: list[Floats], standard: Floats, first_s: float) -> list[int]:
    """The readings at which the gas was at rest: not within ten minutes of being let in."""
    asked, filled, found = sigmas(len(t) - 1), -np.inf, [0]
    for n in range(1, len(t)):
        if found[-1] == n - 1 and -losses[n - 1][n] > asked * standard[n]:
            filled = t[n]
        if t[n] - first_s >= REST_S and t[n] - filled >= REST_S:
            found.append(n)
    return found


def _fall(
    t: Floats, gauge: Floats, pipe: Floats, by: Instruments, first_s: float, medians: bool
) -> Fall | None:
    """The largest fall from a reference to a later reading, beyond its doubt."""
    standard = by.doubt_pa(gauge, pipe) / COVERAGE
    losses = [losses_pa(gauge, pipe, by.atmosphere_pa, n) for n in range(len(t))]
    at_rest = _references(t, losses, standard, first_s)
    k = COVERAGE if medians else sigmas(sum(len(t) - 1 - n for n in at_rest))
    least = np.maximum(k * standard, ROUNDING_SHARE * (gauge + by.atmosphere_pa))
    if medians:  # what the gauge's step hides stays in a median
        least = np.maximum(least, STEP_OF_MEDIANS * by.resolution_pa)
    found: list[Fall] = []
    below_first = False
    for n in at_rest:
        later = np.where(np.arange(len(t)) > n, losses[n], -np.inf)
        beyond = later > least
        below_first = below_first or (n == 0 and bool(beyond.any()))
        if beyond.any():
            at = int(np.argmax(np.where(beyond, later, -np.inf)))
            fell = Fall(float(later[at]), float(t[n]), float(t[at]), below_first)
            found.append(replace(fell, stays=bool(beyond[-1])))
    if not found:
        return None
    if not below_first:
        return max(found, key=lambda f: f.by_pa)
    return replace(found[0], stood=len(found) == 1 and at_rest[1:] not in ([], [len(t) - 1]))


def _single(t: Floats, gauge: Floats, pipe: Floats, by: Instruments) -> Fall | None:
    """A single reading of many that lies too far below the first for the medians to be right."""
    standard = by.doubt_pa(gauge, pipe) / COVERAGE
    loss = losses_pa(gauge, pipe, by.atmosphere_pa)
    least = np.maximum(sigmas(len(t)) * standard, ROUNDING_SHARE * (gauge + by.atmosphere_pa))
    beyond = np.where(loss > least, loss, -np.inf)
    at = int(np.argmax(beyond))
    fell = Fall(float(loss[at]), float(t[0]), float(t[at]), True, stays=bool(beyond[-1] > 0))
    return fell if beyond[at] > 0 else None
