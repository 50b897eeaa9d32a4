"""The shape of an isolated vacuum decay, and where it leads.

Curves of what a closed system can do are fitted to the readings, weighted by the gauge's own
noise, and compared by the Bayesian information criterion (Schwarz 1978):

* flat            p = a
* straight        p = a + r·t                      a leak, heading for the atmosphere
* levelling off   p = a + b·(1 − e^(−t/τ))         water, a pocket of gas, trapped gas settling
* slowing         p = a + k·ln(1 + t/τ)            gas given off by walls and oil: a rate as 1/t
* and each of the last two with a straight part

A sensor's step or a spike that decays is put beside flat and straight where they alone fit
badly: neither is gas. Where a course leads is also read from the last half of the readings by
itself (``Reading.late``), so that a fitted curve never promises what they do not show. Shares and
times below are our own choice, tested on random decays of other make (tools/decays.py).
"""

from collections.abc import Iterator
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from fairline.core.call import Frozen

Shape = Literal[
    "steady",
    "leak",
    "moisture",
    "leak_and_moisture",
    "outgassing",
    "ice",
    "not_isolated",
    "undecided",
]
Floats = NDArray[np.float64]

MIN_READINGS = 8
MIN_SPAN_S = 60.0
MAX_POINTS = 240  # longer logs are averaged into this many bins
SETTLING_S = 60.0  # trapped gas settles with a time constant below this …
SETTLING_SHARE = 0.12  # … or below this share of the span
MATERIAL_SHARE = 0.05  # of the limit: a smaller rise over the span is no leak or moisture
BOTH_SHARE = 0.1  # beside a levelling rise, a straight part below this share of it is not told
FALL_SHARE = 0.025  # of the start: a larger fall is more than 7 K of cooling explains
NO_FIT = 1e300
BETTER_BIC = 10.0  # "very strong" evidence (Kass and Raftery 1995, quoted from memory)
NEARLY_BIC = 20.0  # curves that are at most this much worse are followed into the next hold too
BAD_FIT = 1.6  # χ² a reading above which a disturbance is looked for
STRAIGHT_RATIO = 0.65  # late slope over early slope: certainly above it, a rise is straight
COARSEST_PA = 6.7  # 50 microns: no gauge that tells microns shows coarser steps
SIGMAS = 2.0  # doubt of a slope that is looked ahead with


class Fit(Frozen):
    """One fitted curve. Pressures in Pa, ``rate`` in Pa/s, ``tau`` in s.

    ``slowing`` says that ``step`` is k of k·ln(1 + t/τ); else it is b of b·(1 − e^(−t/τ)).
    """

    bic: float
    start: float
    rate: float = 0.0
    step: float = 0.0
    tau: float = 0.0
    slowing: bool = False
    rate_error: float = 0.0
    jump: float = 0.0  # of the sensor, with everything after it
    jump_at: float = 0.0

    def at(self, t_s: float) -> float:
        rise = 0.0
        if self.tau and self.slowing:
            rise = self.step * float(np.log1p(t_s / self.tau))
        elif self.tau:
            rise = self.step * (1 - float(np.exp(-t_s / self.tau)))
        moved = self.jump if self.jump and t_s >= self.jump_at else 0.0
        return self.start + self.rate * t_s + rise + moved

    def passes_s(self, limit_pa: float, until_s: float) -> float | None:
        """When it first lies over a limit, to a thousandth of ``until_s``; None: not until then."""
        times = np.linspace(0.0, until_s, 1001)
        over = [float(t) for t in times if self.at(float(t)) > limit_pa * (1 + 1e-9)]
        return over[0] if over else None


class Late(Frozen):
    """The last half of the readings as a straight line: level in Pa at the end, slope in Pa/s."""

    level: float
    slope: float
    slope_error: float

    def most(self, ahead_s: float) -> float:
        """The highest that a course which does not steepen can reach in ``ahead_s``, Pa."""
        return self.level + max(0.0, self.slope + SIGMAS * self.slope_error) * ahead_s


class Reading(Frozen):
    """What the shape of a decay says; ``fit`` is the curve chosen, for the chart."""

    shape: Shape
    fit: Fit | None = None
    certainty: float | None = None
    late: Late | None = None
    others: tuple[Fit, ...] = ()  # curves nearly as good as the chosen one
    told: bool = False  # the chosen curve runs through the readings as their noise allows
    straight: bool = False  # the rise is certainly straight: its slope does not fall


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


def step_seen_pa(p: Floats) -> float:
    """The step the gauge shows in, from its readings alone: the least gap between two levels.

    0 where the readings do not come in steps of one size.
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
    inverse = np.linalg.pinv(design.T @ design)
    found = inverse @ (design.T @ (p / sigma))
    chi2 = float(np.sum((p / sigma - design @ found) ** 2))
    return found, chi2, np.diag(inverse)


def _plain(t: Floats, p: Floats, sigma: Floats, rate: bool) -> Fit:
    columns = [np.ones(len(t)), t] if rate else [np.ones(len(t))]
    found, chi2, variance = _solve(columns, p, sigma)
    return Fit(
        bic=chi2 + len(columns) * float(np.log(len(t))),
        start=float(found[0]),
        rate=float(found[1]) if rate else 0.0,
        rate_error=float(np.sqrt(variance[1])) if rate else 0.0,
    )


def _curved(t: Floats, p: Floats, sigma: Floats, rate: bool, slowing: bool) -> Fit:
    """The best curve that slows down, with or without a straight part; τ by a narrowing search."""
    ones, penalty, span = np.ones(len(t)), float(np.log(len(t))), float(t[-1])
    # A gas that slows as 1/t is seen to slow only where τ is no longer than the readings reach.
    longest = span if slowing else 3 * span
    low = np.log(max(span / 300, float(np.min(np.diff(t))) / 2, 0.2))
    high = np.log(max(longest, 2 * float(np.exp(low))))
    best: Fit | None = None
    for points in (25, 9, 9, 9):
        for tau in np.exp(np.linspace(low, high, points)):
            shape = np.log1p(t / tau) if slowing else 1 - np.exp(-t / tau)
            columns = [ones, shape] + ([t] if rate else [])
            found, chi2, variance = _solve(columns, p, sigma)
            if found[1] < 0 or (rate and found[2] < 0):
                continue
            fit = Fit(
                bic=chi2 + (len(columns) + 1) * penalty,
                start=float(found[0]),
                step=float(found[1]),
                tau=float(tau),
                slowing=slowing,
                rate=float(found[2]) if rate else 0.0,
                rate_error=float(np.sqrt(variance[2])) if rate else 0.0,
            )
            if best is None or fit.bic < best.bic:
                best = fit
        if best is None:
            return Fit(bic=NO_FIT, start=float(p[0]))
        width = (high - low) / (points - 1)
        low = float(np.log(best.tau)) - width
        high = min(float(np.log(best.tau)) + width, float(np.log(longest)))
        high = max(high, low + 1e-6)
    assert best is not None
    return best


def _disturbed(t: Floats, p: Floats, sigma: Floats) -> Iterator[Fit]:
    """Flat and straight courses with a sensor's step, or a spike that decays, put on them."""
    ones, span, penalty = np.ones(len(t)), float(t[-1]), float(np.log(len(t)))
    for at in np.linspace(0.0, 0.97, 50) * span:
        after = (t >= at).astype(float)
        shapes = [(after, 0.0)] if at > 0 else []
        shapes += [
            (after * np.exp(-np.maximum(t - at, 0) / tau), tau)
            for tau in span * np.array([0.008, 0.02, 0.05, 0.1])
        ]
        for shape, tau in shapes:
            for rate in (False, True):
                columns = [ones, shape] + ([t] if rate else [])
                found, chi2, variance = _solve(columns, p, sigma)
                yield Fit(
                    bic=chi2 + (len(columns) + 2) * penalty,
                    start=float(found[0]),
                    rate=float(found[2]) if rate else 0.0,
                    rate_error=float(np.sqrt(variance[2])) if rate else 0.0,
                    jump=0.0 if tau else float(found[1]),
                    jump_at=0.0 if tau else float(at),
                )


def _late(t: Floats, p: Floats, sigma: Floats, step_pa: float) -> Late:
    """The last half of the readings as a line, deaf to single spikes (Huber's weights)."""
    half = t >= t[-1] / 2
    if np.count_nonzero(half) < 3:
        half = np.arange(len(t)) >= len(t) - 3
    x, y, s = t[half], p[half], sigma[half]
    weight = np.ones(len(x))
    found, variance = np.zeros(2), np.zeros(2)
    scale = 1.0
    for _ in range(8):
        found, _, variance = _solve([np.ones(len(x)), x - t[-1]], y, s / np.sqrt(weight))
        off = np.abs(y - found[0] - found[1] * (x - t[-1])) / s
        scale = max(1.0, float(np.median(off)) / 0.6745)
        weight = np.minimum(1.0, 1.5 * scale / np.maximum(off, 1e-9))
    # What a gauge's steps hide can lean one way over the whole half.
    hidden = step_pa / 2 / max(float(x[-1] - x[0]), 1.0)
    error = scale * float(np.sqrt(variance[1]))
    return Late(level=float(found[0]), slope=float(found[1]), slope_error=error + hidden)


def _slope_ratio(t: Floats, p: Floats, sigma: Floats) -> tuple[float, float]:
    """Slope of the last half over that of the first, trapped gas aside, and its doubt."""
    span = float(t[-1])
    settled = t >= min(SETTLING_S, SETTLING_SHARE * span)
    middle = (float(t[settled][0]) + span) / 2
    slopes, errors = [], []
    for part in (settled & (t <= middle), settled & (t >= middle)):
        if np.count_nonzero(part) < 3:
            return 0.0, NO_FIT
        line = _plain(t[part] - t[part][0], p[part], sigma[part], rate=True)
        slopes.append(line.rate)
        errors.append(line.rate_error)
    if slopes[0] <= 0:
        return 0.0, NO_FIT
    ratio = slopes[1] / slopes[0]
    doubt = float(np.hypot(errors[1], ratio * errors[0])) / slopes[0]
    return ratio, doubt


def read_shape(
    times_s: Floats,
    pressures_pa: Floats,
    limit_pa: float,
    resolution_pa: float = 0.0,
    saturation_pa: float | None = None,
) -> Reading:
    """Tell the shapes of a decay apart. ``times_s`` rises; pressures are absolute, in Pa.

    ``saturation_pa``: of water at the tube's temperature; nothing over it is called water.
    """
    t, p = times_s - times_s[0], pressures_pa
    span = float(t[-1])
    if len(t) < MIN_READINGS or span < MIN_SPAN_S:
        return Reading(shape="undecided")
    step_pa = max(resolution_pa, step_seen_pa(p))
    sigma = noise_pa(t, p, step_pa)
    mean_t, mean_p, count = binned(t, p)
    # Steps of the gauge do not average out as noise does where the course stands still.
    mean_sigma = np.interp(mean_t, t, sigma) / np.sqrt(count)
    mean_sigma = np.maximum(
        mean_sigma, step_pa / np.sqrt(12) / np.sqrt(np.maximum(count, 1)) ** 0.5
    )
    late = _late(mean_t, mean_p, mean_sigma, step_pa)
    flat = _plain(mean_t, mean_p, mean_sigma, rate=False)
    line = _plain(mean_t, mean_p, mean_sigma, rate=True)
    fits = [
        flat,
        line,
        *(
            _curved(mean_t, mean_p, mean_sigma, rate, slowing)
            for rate in (False, True)
            for slowing in (False, True)
        ),
    ]
    best = flat
    for candidate in fits[1:]:
        if candidate.bic < best.bic - BETTER_BIC:
            best = candidate
    if best.bic > BAD_FIT * len(mean_t):
        disturbed = min(_disturbed(mean_t, mean_p, mean_sigma), key=lambda f: f.bic)
        if disturbed.bic < best.bic - 2 * BETTER_BIC:
            best = disturbed
            fits.append(disturbed)
    material = MATERIAL_SHARE * limit_pa
    if _falls(mean_t, mean_p, mean_sigma, best, step_pa):
        return Reading(shape="not_isolated", fit=line, late=late, certainty=0.95)
    ratio, doubt = _slope_ratio(mean_t, mean_p, mean_sigma)
    straight = best.rate > 0 and ratio - SIGMAS * doubt > STRAIGHT_RATIO
    shape = _name(best, span, limit_pa, material, saturation_pa)
    others = [f.bic for f in fits if _name(f, span, limit_pa, material, saturation_pa) != shape]
    behind = min(others, default=NO_FIT) - best.bic
    certainty = 1 / (1 + float(np.exp(-min(max(behind, -60.0), 60.0) / 2)))
    near = (
        ()
        if best.bic > BAD_FIT * len(mean_t)
        else tuple(f for f in fits if f is not best and f.bic < best.bic + NEARLY_BIC)
    )
    return Reading(
        shape=shape,
        fit=best,
        certainty=certainty,
        late=late,
        straight=straight,
        others=near,
        told=best.bic <= BAD_FIT * len(mean_t),
    )


def _falls(t: Floats, p: Floats, sigma: Floats, best: Fit, step_pa: float) -> bool:
    """Whether it falls for longer than a puff at closing does, and more than cooling explains.

    Lower quartiles of two parts of the course, so that a spike in either is not seen; a sensor's
    single step is no fall.
    """
    span = float(t[-1])
    window = min(SETTLING_S, SETTLING_SHARE * span)
    early = p[(t >= window) & (t <= window + 0.2 * span)]
    end = p[t >= 0.8 * span]
    if len(early) == 0 or len(end) == 0:
        return False
    first = min(float(np.quantile(early, 0.25)), float(np.median(p[:3])))
    last = float(np.quantile(end, 0.25)) - min(best.jump, 0.0)
    doubt = 5 * float(np.median(sigma)) / np.sqrt(max(1.0, min(len(early), len(end)) / 2))
    return bool(first - last > max(FALL_SHARE * first, doubt, 1.25 * step_pa))


def _name(
    fit: Fit, span: float, limit_pa: float, material: float, saturation_pa: float | None
) -> Shape:
    """What a fitted curve means; rises too small to matter against the limit do not count."""
    rise = fit.at(span) - fit.start - fit.jump - fit.rate * span
    leaks = fit.rate * span > max(material, BOTH_SHARE * rise)
    plateau = fit.start + fit.step
    if fit.slowing:
        if leaks:
            return "leak"
        return "outgassing" if rise > material else "steady"
    quick = fit.tau <= max(SETTLING_S, SETTLING_SHARE * span)
    levels = fit.step > material and not (quick and plateau <= limit_pa)
    wet = levels and (saturation_pa is None or plateau <= 1.1 * saturation_pa)
    if leaks and wet:
        return "leak_and_moisture"
    if leaks:
        return "leak"
    if not levels:
        return "steady"
    return "moisture" if wet and plateau > limit_pa else "outgassing"
