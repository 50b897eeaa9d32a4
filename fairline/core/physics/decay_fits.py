"""Curves that a closed system's pressure can follow, fitted to readings by their own noise.

* flat            p = a
* straight        p = a + r·t                      a leak, heading for the atmosphere
* levelling off   p = a + b·(1 − e^(−t/τ))         water, a pocket of gas, trapped gas settling
* emptying        p = a + b·t/(t + τ)              gas behind a viscous way: its flow goes with p²
* slowing         p = a + k·ln(1 + t/τ)            gas given off by walls and oil: a rate as 1/t
* and each of the last three with a straight part

A sensor's step or a spike that decays is put beside flat and straight: neither is gas. Pressures
in Pa, times in s. Curves are compared by the Bayesian information criterion (Schwarz 1978).
"""

from collections.abc import Iterator
from itertools import product
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from fairline.core.call import Frozen

Floats = NDArray[np.float64]
Law = Literal["", "levelling", "emptying", "slowing"]

MAX_POINTS = 240  # longer logs are averaged into this many bins
NO_FIT = 1e300
COARSEST_PA = 6.7  # 50 microns: no gauge that tells microns shows coarser steps
SENSOR_PA = 10.0  # 75 microns: a larger step is no sensor's; our own choice
SPIKE_PA = 27.0  # 200 microns, of a spike that decays; our own choice


class Fit(Frozen):
    """One fitted curve. Pressures in Pa, ``rate`` in Pa/s, ``tau`` in s.

    ``law`` says what ``step`` is: b of what levels off or empties, k of what slows.
    """

    bic: float
    start: float
    rate: float = 0.0
    step: float = 0.0
    tau: float = 0.0
    law: Law = ""
    rate_error: float = 0.0
    jump: float = 0.0  # of the sensor, with everything after it
    jump_at: float = 0.0  # when it jumped, or a spike began that decays

    @property
    def plateau(self) -> float | None:
        """Where it levels off in the end; None where it does not."""
        return self.start + self.step if self.law in ("levelling", "emptying") else None

    def at(self, t_s: float) -> float:
        return float(self.along(np.array([t_s]))[0])

    def along(self, t: Floats) -> Floats:
        """The curve at times in s, Pa."""
        rise = self.step * course_of(self.law, t, self.tau) if self.law else 0.0
        moved = np.where(t >= self.jump_at, self.jump, 0.0) if self.jump else 0.0
        return np.asarray(self.start + self.rate * t + rise + moved)

    def passes_s(self, limit_pa: float, until_s: float) -> float | None:
        """When it first lies over a limit, to a thousandth of ``until_s``; None: not until then."""
        times = np.linspace(0.0, until_s, 1001)
        over = np.flatnonzero(self.along(times) > limit_pa * (1 + 1e-9))
        return float(times[over[0]]) if len(over) else None


def course_of(law: Law, t: Floats, tau: float | Floats) -> Floats:
    """The law's own course at times ``t`` with the time constant ``tau``, both in s, from 0.

    ``levelling`` 1 − e^(−t/τ) and ``emptying`` t/(t + τ) go to 1; ``slowing`` is ln(1 + t/τ).

    >>> course_of("emptying", np.array([0.0, 10.0, 90.0]), 10.0).tolist()
    [0.0, 0.5, 0.9]
    """
    if law == "slowing":
        return np.asarray(np.log1p(t / tau))
    if law == "emptying":
        return np.asarray(t / (t + tau))
    return np.asarray(1 - np.exp(-t / tau))


def binned(t: Floats, p: Floats, points: int = MAX_POINTS) -> tuple[Floats, Floats, Floats]:
    """A long log as means of equal spans: times, values, and how many readings each stands for.

    >>> binned(np.arange(4.0), np.array([1.0, 3.0, 5.0, 7.0]), points=2)[1].tolist()
    [2.0, 6.0]
    """
    if len(t) <= points:
        return t, p, np.ones(len(t))
    edges = np.linspace(t[0], t[-1], points + 1)
    index = np.clip(np.searchsorted(edges, t, side="right") - 1, 0, points - 1)
    count = np.bincount(index, minlength=points).astype(float)
    full = count > 0
    mean_t = np.bincount(index, weights=t, minlength=points)[full] / count[full]
    mean_p = np.bincount(index, weights=p, minlength=points)[full] / count[full]
    return mean_t, mean_p, count[full]


def step_seen_pa(p: Floats) -> float:
    """The step in Pa that the gauge shows in, from its readings alone: the least gap of two levels.

    0 where the readings do not come in steps of one size.

    >>> step_seen_pa(np.array([30.0, 30.0, 32.5, 32.5, 30.0, 35.0] * 3))
    2.5
    """
    levels = np.unique(p)
    if len(levels) < 2 or len(levels) > max(4, len(p) // 3):
        return 0.0
    gaps = np.diff(levels)
    least = float(np.min(gaps))
    whole = gaps / least
    even = float(np.max(np.abs(whole - np.round(whole)))) < 0.05
    return least if even and least <= COARSEST_PA else 0.0


def noise_pa(t: Floats, p: Floats, resolution_pa: float) -> Floats:
    """Standard deviation of each reading in Pa: a fixed part and a part in proportion to pressure.

    Taken from how far each reading lies off the line through its neighbours, so that no smooth rise
    counts as noise. ``t`` in s, ``p`` in Pa.

    >>> t = np.arange(0.0, 600.0, 10.0)
    >>> bool(noise_pa(t, 30.0 + 0.01 * t, 0.0).max() < 0.01)
    True
    """
    floor = np.full(len(p), max(resolution_pa / np.sqrt(12), 1e-4 * float(np.max(p)), 1e-6))
    if len(p) < 5:
        return floor
    left, right = t[1:-1] - t[:-2], t[2:] - t[1:-1]
    span = np.where(left + right > 0, left + right, 1.0)
    weight = np.where(left + right > 0, left / span, 0.5)
    off = p[1:-1] - ((1 - weight) * p[:-2] + weight * p[2:])
    square = off**2 / (1 + (1 - weight) ** 2 + weight**2)
    middle = p[1:-1]
    order = np.argsort(middle)
    low, high = order[: len(order) // 2], order[len(order) // 2 :]
    # Half of χ²(1) lies below 0.455: the median is deaf to single spikes.
    q_low, q_high = np.median(square[low]) / 0.455, np.median(square[high]) / 0.455
    m_low, m_high = np.mean(middle[low] ** 2), np.mean(middle[high] ** 2)
    slope = max(0.0, (q_high - q_low) / (m_high - m_low)) if m_high > 1.5 * m_low else 0.0
    fixed = max(0.0, q_low - slope * m_low) if slope else float(np.median(square) / 0.455)
    sigma: Floats = np.maximum(np.sqrt(fixed + slope * p**2), floor)
    return sigma


def solve(columns: list[Floats], p: Floats, sigma: Floats) -> tuple[Floats, float, Floats]:
    """Weighted least squares: coefficients, χ², and the variances of the coefficients.

    ``columns``: the model's terms at each reading; ``p`` and ``sigma`` in Pa. Normal equations with
    the Moore-Penrose inverse.

    >>> t = np.array([0.0, 1.0, 2.0])
    >>> solve([np.ones(3), t], 5.0 + 2.0 * t, np.ones(3))[0].round(6).tolist()
    [5.0, 2.0]
    """
    design = np.stack(columns, axis=1) / sigma[:, None]
    inverse = np.linalg.pinv(design.T @ design)
    found = inverse @ (design.T @ (p / sigma))
    chi2 = float(np.sum((p / sigma - design @ found) ** 2))
    return found, chi2, np.diag(inverse)


def plain(t: Floats, p: Floats, sigma: Floats, rate: bool) -> Fit:
    """The best level (p = a), or with ``rate`` the best straight line (p = a + b·t), as a ``Fit``.

    Bayesian information criterion: χ² + k·ln n (Schwarz 1978, quoted from memory).

    >>> t = np.arange(0.0, 60.0, 10.0)
    >>> round(plain(t, 30.0 + 0.5 * t, np.ones(6), rate=True).rate, 6)
    0.5
    """
    columns = [np.ones(len(t)), t] if rate else [np.ones(len(t))]
    found, chi2, variance = solve(columns, p, sigma)
    return Fit(
        bic=chi2 + len(columns) * float(np.log(len(t))),
        start=float(found[0]),
        rate=float(found[1]) if rate else 0.0,
        rate_error=float(np.sqrt(variance[1])) if rate else 0.0,
    )


def curved(t: Floats, p: Floats, sigma: Floats, rate: bool, law: Law) -> Fit:
    """The best curve of a law that slows down, with or without a straight part.

    The time constant τ is found by a narrowing search, from a 300th of the span to three spans.

    >>> t = np.arange(0.0, 900.0, 10.0)
    >>> p = 30.0 + 20.0 * (1 - np.exp(-t / 120.0))
    >>> round(curved(t, p, np.ones(90), False, "levelling").step)
    20
    """
    span = float(t[-1])
    # A gas that slows as 1/t is seen to slow only where τ is no longer than the readings reach.
    longest = span if law == "slowing" else 3 * span
    low = np.log(max(span / 300, float(np.min(np.diff(t))) / 2, 0.2))
    high = np.log(max(longest, 2 * float(np.exp(low))))
    best: Fit | None = None
    for points in (25, 9, 9, 9):
        found = _best_of(t, p, sigma, rate, law, np.exp(np.linspace(low, high, points)))
        if found is not None and (best is None or found.bic < best.bic):
            best = found
        if best is None:
            break
        width = (high - low) / (points - 1)
        low = float(np.log(best.tau)) - width
        high = min(float(np.log(best.tau)) + width, float(np.log(longest)))
        high = max(high, low + 1e-6)
    return best or Fit(bic=NO_FIT, start=float(p[0]))


def _best_of(t: Floats, p: Floats, sigma: Floats, rate: bool, law: Law, taus: Floats) -> Fit | None:
    """The best curve of a law among several τ, all fitted at once; None where none rises."""
    shapes = course_of(law, t[None, :], taus[:, None])
    columns = [np.ones_like(shapes), shapes] + ([np.broadcast_to(t, shapes.shape)] if rate else [])
    design = np.stack(columns, axis=2) / sigma[:, None]
    turned, aim = np.swapaxes(design, 1, 2), p / sigma
    inverse = np.linalg.pinv(turned @ design)
    found = np.einsum("mij,mj->mi", inverse, turned @ aim)
    chi2 = np.sum((aim - np.einsum("mnk,mk->mn", design, found)) ** 2, axis=1)
    falls = np.any(found[:, 1:] < 0, axis=1)
    if falls.all():
        return None
    at = int(np.argmin(np.where(falls, np.inf, chi2)))
    return Fit(
        bic=float(chi2[at]) + (len(columns) + 1) * float(np.log(len(t))),
        start=float(found[at, 0]),
        step=float(found[at, 1]),
        tau=float(taus[at]),
        law=law,
        rate=float(found[at, 2]) if rate else 0.0,
        rate_error=float(np.sqrt(inverse[at, 2, 2])) if rate else 0.0,
    )


def disturbed(t: Floats, p: Floats, sigma: Floats) -> Iterator[Fit]:
    """Level and straight courses with a sensor's step, or a spike that decays, put on them.

    Steps up to 10 Pa and spikes up to 27 Pa, at 50 moments of the span.

    >>> t = np.arange(0.0, 600.0, 10.0)
    >>> p = 30.0 + 5.0 * (t >= 300.0)
    >>> round(min(disturbed(t, p, np.ones(60)), key=lambda fit: fit.bic).jump, 1)
    5.0
    """
    ones, span, penalty = np.ones(len(t)), float(t[-1]), float(np.log(len(t)))
    for at in np.linspace(0.0, 0.97, 50) * span:
        after = (t >= at).astype(float)
        shapes = [(after, 0.0)] if at > 0 else []
        shapes += [
            (after * np.exp(-np.maximum(t - at, 0) / tau), tau)
            for tau in span * np.array([0.008, 0.02, 0.05, 0.1])
        ]
        for (shape, tau), rate in product(shapes, (False, True)):
            columns = [ones, shape] + ([t] if rate else [])
            found, chi2, variance = solve(columns, p, sigma)
            if abs(float(found[1])) > (SPIKE_PA if tau else SENSOR_PA):
                continue
            yield Fit(
                bic=chi2 + (len(columns) + 2) * penalty,
                start=float(found[0]),
                rate=float(found[2]) if rate else 0.0,
                rate_error=float(np.sqrt(variance[2])) if rate else 0.0,
                jump=0.0 if tau else float(found[1]),
                jump_at=float(at),
            )
