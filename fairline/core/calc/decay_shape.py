"""The shape of an isolated vacuum decay: steady, leak, moisture, both, or not isolated.

Four curves are fitted to the readings, weighted by the gauge's own noise, and compared by the
Bayesian information criterion (Schwarz 1978):

* flat            p = a
* straight        p = a + r·t                    a leak, heading for the atmosphere
* levelling off   p = a + b·(1 − e^(−t/τ))       water boiling off, or trapped gas settling
* both            p = a + r·t + b·(1 − e^(−t/τ))

Trapped gas settles within the first part of the hold and stays low; water takes minutes and
levels off at a vapour pressure. Shares and times below are our own choice, tested on random
decays.
"""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from fairline.core.call import Frozen

Shape = Literal["steady", "leak", "moisture", "leak_and_moisture", "not_isolated", "undecided"]
Floats = NDArray[np.float64]

MIN_READINGS = 8
MIN_SPAN_S = 60.0
MAX_POINTS = 240  # longer logs are averaged into this many bins
SETTLING_S = 60.0  # trapped gas settles with a time constant below this …
SETTLING_SHARE = 0.12  # … or below this share of the span
SMALL_STEP_SHARE = 0.3  # of the limit: a step below it may take twice as long to settle
MATERIAL_SHARE = 0.05  # of the limit: a smaller rise over the span is no leak or moisture
BOTH_SHARE = 0.1  # beside a levelling rise, a straight part below this share of it is not told
NO_FIT = 1e300
BETTER_BIC = 10.0  # "very strong" evidence (Kass and Raftery 1995, quoted from memory)


class Fit(Frozen):
    """One fitted curve. Pressures in Pa, ``rate`` in Pa/s, ``tau`` in s."""

    bic: float
    start: float
    rate: float = 0.0
    step: float = 0.0
    tau: float = 0.0
    rate_error: float = 0.0

    def at(self, t_s: float) -> float:
        rise = self.step * (1 - float(np.exp(-t_s / self.tau))) if self.tau else 0.0
        return self.start + self.rate * t_s + rise


class Reading(Frozen):
    """What the shape of a decay says; ``fit`` is the curve chosen, for the chart."""

    shape: Shape
    fit: Fit | None = None
    certainty: float | None = None


def binned(t: Floats, p: Floats, points: int = MAX_POINTS) -> tuple[Floats, Floats, Floats]:
    """Means of equal spans of a long log, and how many readings each stands for."""
    if len(t) <= points:
        return t, p, np.ones(len(t))
    edges = np.linspace(t[0], t[-1], points + 1)
    index = np.clip(np.searchsorted(edges, t, side="right") - 1, 0, points - 1)
    count = np.bincount(index, minlength=points).astype(float)
    full = count > 0
    mean_t = np.bincount(index, weights=t, minlength=points)[full] / count[full]
    mean_p = np.bincount(index, weights=p, minlength=points)[full] / count[full]
    return mean_t, mean_p, count[full]


def noise_pa(t: Floats, p: Floats, resolution_pa: float) -> Floats:
    """Standard deviation of each reading: a fixed part and a part in proportion to pressure.

    Taken from how far each reading lies off the line through its neighbours, so that no
    smooth rise counts as noise.
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


def _solve(columns: list[Floats], p: Floats, sigma: Floats) -> tuple[Floats, float, Floats]:
    """Weighted least squares: coefficients, χ², and their variances."""
    design = np.stack(columns, axis=1) / sigma[:, None]
    normal = design.T @ design
    target = design.T @ (p / sigma)
    inverse = np.linalg.pinv(normal)
    found = inverse @ target
    chi2 = float(np.sum((p / sigma - design @ found) ** 2))
    return found, chi2, np.diag(inverse)


def _fit(t: Floats, p: Floats, sigma: Floats, rate: bool, step: bool) -> Fit:
    """The best curve of one family; τ by a search that narrows."""
    ones, penalty = np.ones(len(t)), np.log(len(t))
    if not step:
        columns = [ones, t] if rate else [ones]
        found, chi2, variance = _solve(columns, p, sigma)
        return Fit(
            bic=chi2 + len(columns) * penalty,
            start=float(found[0]),
            rate=float(found[1]) if rate else 0.0,
            rate_error=float(np.sqrt(variance[1])) if rate else 0.0,
        )
    span = t[-1] - t[0]
    low, high = np.log(max(span / 300, float(np.min(np.diff(t))) / 2, 0.2)), np.log(3 * span)
    best: Fit | None = None
    for points in (25, 9, 9, 9):
        taus = np.exp(np.linspace(low, high, points))
        for tau in taus:
            columns = [ones, 1 - np.exp(-t / tau)] + ([t] if rate else [])
            found, chi2, variance = _solve(columns, p, sigma)
            if found[1] < 0 or (rate and found[2] < 0):
                continue
            fit = Fit(
                bic=chi2 + (len(columns) + 1) * penalty,
                start=float(found[0]),
                step=float(found[1]),
                tau=float(tau),
                rate=float(found[2]) if rate else 0.0,
                rate_error=float(np.sqrt(variance[2])) if rate else 0.0,
            )
            if best is None or fit.bic < best.bic:
                best = fit
        if best is None:
            return Fit(bic=NO_FIT, start=float(p[0]))
        width = (high - low) / (points - 1)
        low, high = np.log(best.tau) - width, np.log(best.tau) + width
    assert best is not None
    return best


def read_shape(
    times_s: Floats, pressures_pa: Floats, limit_pa: float, resolution_pa: float = 0.0
) -> Reading:
    """Tell the shapes of a decay apart. ``times_s`` rises; pressures are absolute, in Pa."""
    t, p = times_s - times_s[0], pressures_pa
    span = float(t[-1])
    if len(t) < MIN_READINGS or span < MIN_SPAN_S:
        return Reading(shape="undecided")
    if float(np.ptp(p)) == 0.0 and resolution_pa < 0.1 * float(p[0]):
        return Reading(shape="not_isolated", fit=Fit(bic=0.0, start=float(p[0])))
    sigma = noise_pa(t, p, resolution_pa)
    mean_t, mean_p, count = binned(t, p)
    mean_sigma = np.interp(mean_t, t, sigma) / np.sqrt(count)
    flat, straight, level, mixed = (
        _fit(mean_t, mean_p, mean_sigma, rate=rate, step=step)
        for rate, step in ((False, False), (True, False), (False, True), (True, True))
    )
    best = flat
    for candidate in (straight, level, mixed):
        if candidate.bic < best.bic - BETTER_BIC:
            best = candidate
    material = MATERIAL_SHARE * limit_pa
    fall = -straight.rate * span
    if fall > max(5 * straight.rate_error * span, 0.02 * straight.start, 0.5 * resolution_pa):
        return Reading(shape="not_isolated", fit=straight)
    shape = _name(best, span, limit_pa, material)
    others = [
        f.bic for f in (flat, straight, level, mixed) if _name(f, span, limit_pa, material) != shape
    ]
    behind = min(others, default=NO_FIT) - best.bic
    certainty = 1 / (1 + float(np.exp(-min(max(behind, -60.0), 60.0) / 2)))
    return Reading(shape=shape, fit=best, certainty=certainty)


def _name(fit: Fit, span: float, limit_pa: float, material: float) -> Shape:
    """What a fitted curve means; rises too small to matter against the limit do not count."""
    leaks = fit.rate * span > max(material, BOTH_SHARE * fit.step)
    quick = fit.tau <= max(SETTLING_S, SETTLING_SHARE * span)
    small = fit.step <= SMALL_STEP_SHARE * limit_pa and fit.tau <= 2 * SETTLING_SHARE * span
    settles = (quick or small) and fit.start + fit.step <= limit_pa
    boils = fit.step > material and not settles
    if leaks and boils:
        return "leak_and_moisture"
    if leaks:
        return "leak"
    return "moisture" if boils else "steady"
