"""The shape of an isolated vacuum decay, and where it leads.

The curves of what a closed system can do (``decay_fits``) are fitted to the readings and compared;
what two of them would mean and the readings do not settle is ``undecided``. Where a course leads is
also read from the last half of the readings by itself (``Reading.late``), so that a fitted curve
never promises what they do not show. Shares and times below are our own choice, tested on random
decays of other make (tools/decays.py).
"""

from typing import Literal, get_args

import numpy as np

from fairline.core.call import Frozen
from fairline.core.physics.decay_fits import (
    NO_FIT,
    Fit,
    Floats,
    Law,
    binned,
    curved,
    disturbed,
    noise_pa,
    plain,
    solve,
    step_seen_pa,
)

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
MIN_READINGS = 8
MIN_SPAN_S = 60.0
SETTLING_S = 60.0  # trapped gas settles with a time constant below this …
SETTLING_SHARE = 0.12  # … or below this share of the span
MATERIAL_SHARE = 0.05  # of the limit: a smaller rise over the span is no leak or moisture
BOTH_SHARE = 0.1  # beside a levelling rise, a straight part below this share of it is not told
FALL_SHARE = 0.025  # of the start: a larger fall is more than 7 K of cooling explains
BETTER_BIC = 10.0  # "very strong" evidence (Kass and Raftery 1995, quoted from memory)
QUICK_S = 20.0  # time constant of a rise over a valve or out of a hose …
QUICK_SHARE = 0.25  # … which is no water where it stays below this share of where water boils
NEARLY_BIC = 20.0  # curves that are at most this much worse are followed into the next hold too
BAD_FIT = 1.6  # χ² a reading above which a disturbance is looked for
STRAIGHT_RATIO = 0.65  # late slope over early slope: certainly above it, a rise is straight …
SURELY_STRAIGHT = 0.85  # … and above this it is no gas that is given off more slowly in time
STEEPENS = 1.1  # certainly above it, the slope grows: no leak's does
ENDS_STRAIGHT = 0.85  # last quarter over the one before
CERTAIN_SIGMAS = 5.0  # beyond it a slope is certain
SIGMAS = 2.0  # doubt of a slope that is looked ahead with
CERTAIN = 0.75  # of what a shape means; under it, it is undecided
EVEN = 0.5  # of two meanings that the curves alone do not tell apart
SEEN_RESTLESS = 24  # readings from which on a level's unrest shows
WANDERS = 3.0  # times what white noise leaves of the means of twelfths: the level is restless
RISES = 12.0  # times what is left of the twelfths: a rise is one, whatever a pump does
MEANING = {  # shapes that ask for the same
    "steady": "dry",
    "outgassing": "dry",
    "moisture": "wet",
    "leak": "leak",
    "leak_and_moisture": "leak",
    "ice": "wet",
}


class LateTrend(Frozen):
    """The last half of the readings as a straight line: level in Pa at the end, slope in Pa/s."""

    level: float
    slope: float
    slope_error: float

    def most(self, ahead_s: float) -> float:
        """The highest that a course which does not steepen can reach in ``ahead_s``, Pa."""
        return self.level + max(0.0, self.slope + SIGMAS * self.slope_error) * ahead_s


class ShapeReading(Frozen):
    """What the shape of a decay says; ``fit`` is the curve chosen, for the chart.

    Where it is ``undecided``, ``nearest`` is what the chosen curve would mean, and ``besides`` what
    the next best does that means something else.
    """

    shape: Shape
    nearest: Shape = "undecided"
    besides: Shape | None = None
    fit: Fit | None = None
    certainty: float | None = None
    late: LateTrend | None = None
    others: tuple[Fit, ...] = ()  # curves nearly as good as the chosen one
    told: bool = False  # the chosen curve runs through the readings as their noise allows
    straight: bool = False  # the rise is certainly straight: its slope does not fall
    surely_straight: bool = False  # and not even as slowly as that of gas given off
    steepens: bool = False  # its slope certainly grows, as ice that warms makes it
    restless: bool = False  # it wanders as a pump's level does and shut gas does not
    wander: float = 0.0  # Pa: what the curve leaves of the means of twelfths


def _late(t: Floats, p: Floats, sigma: Floats, step_pa: float) -> LateTrend:
    """The last half of the readings as a line, deaf to single spikes (Huber's weights)."""
    half = t >= t[-1] / 2
    if np.count_nonzero(half) < 3:
        half = np.arange(len(t)) >= len(t) - 3
    x, y, s = t[half], p[half], sigma[half]
    weight = np.ones(len(x))
    found, variance = np.zeros(2), np.zeros(2)
    scale = 1.0
    for _ in range(8):
        found, _, variance = solve([np.ones(len(x)), x - t[-1]], y, s / np.sqrt(weight))
        off = np.abs(y - found[0] - found[1] * (x - t[-1])) / s
        scale = max(1.0, float(np.median(off)) / 0.6745)
        weight = np.minimum(1.0, 1.5 * scale / np.maximum(off, 1e-9))
    # What a gauge's steps hide can lean one way over the whole half.
    hidden = step_pa / 2 / max(float(x[-1] - x[0]), 1.0)
    error = scale * float(np.sqrt(variance[1]))
    return LateTrend(level=float(found[0]), slope=float(found[1]), slope_error=error + hidden)


def _ends_straight(t: Floats, p: Floats, sigma: Floats) -> bool:
    """Whether the rise of the last quarter is certainly as fast as that of the quarter before."""
    ratio, doubt = _slope_ratio(t, p, sigma, float(t[-1]) / 2)
    return ratio - SIGMAS * doubt > ENDS_STRAIGHT


def _slope_ratio(t: Floats, p: Floats, sigma: Floats, since: float) -> tuple[float, float]:
    """Slope of the last half over that of the first of what follows ``since``, and its doubt."""
    after = t >= since
    middle = (since + float(t[-1])) / 2
    slopes, errors = [], []
    for part in (after & (t <= middle), after & (t >= middle)):
        if np.count_nonzero(part) < 3:
            return 0.0, NO_FIT
        line = plain(t[part] - t[part][0], p[part], sigma[part], rate=True)
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
) -> ShapeReading:
    """The shape of a decay: leak, water, both, gas given off, ice, steady, not isolated.

    ``times_s`` rises; pressures are absolute, in Pa. ``saturation_pa``: of water at the tube's
    temperature; nothing over it is called water. Under 8 readings or 60 s it is ``undecided``.

    >>> t = np.arange(0.0, 1200.0, 10.0)
    >>> read_shape(t, 30.0 + 0.1 * t, 66.7).shape, read_shape(t, 30.0 + 0 * t, 66.7).shape
    ('leak', 'steady')
    """
    t, p = times_s - times_s[0], pressures_pa
    span = float(t[-1])
    if len(t) < MIN_READINGS or span < MIN_SPAN_S:
        return ShapeReading(shape="undecided")
    step_pa = max(resolution_pa, step_seen_pa(p))
    sigma = noise_pa(t, p, step_pa)
    means = _means(t, p, sigma, step_pa)
    fits, best = _best_of(*means)
    late = _late(*means, step_pa)
    line = fits[1]
    if _falls(*means, best, step_pa) or _slopes_down(means[0], means[1], line, best):
        return ShapeReading(
            shape="not_isolated", nearest="not_isolated", fit=line, late=late, certainty=0.95
        )
    ratio, doubt = _slope_ratio(*means, min(SETTLING_S, SETTLING_SHARE * span))
    least = ratio - SIGMAS * doubt
    steepens = bool(best.rate > 0 and least > STEEPENS)
    straight = _is_straight(best, least) and not steepens

    def name(fit: Fit) -> Shape:
        return _name(fit, span, limit_pa, MATERIAL_SHARE * limit_pa, saturation_pa)

    nearest = name(best)
    if steepens and MEANING[nearest] == "leak":
        nearest = "ice"
    certainty, besides = _certainty(best, nearest, [(f.bic, name(f)) for f in fits])
    warming = nearest == "leak_and_moisture" and _warms(means, span, best, saturation_pa)
    fitting = best.bic <= BAD_FIT * len(means[0])
    wander, restless = _unrest(t, p, sigma, best)
    return ShapeReading(
        shape="undecided" if certainty < CERTAIN or warming or steepens else nearest,
        nearest=nearest,
        besides="moisture" if warming else besides,
        fit=best,
        certainty=min(certainty, EVEN) if warming else certainty,
        late=late,
        straight=straight,
        surely_straight=straight and least > SURELY_STRAIGHT,
        steepens=steepens,
        others=_near(best, fits) if fitting else (),
        told=fitting,
        restless=restless,
        wander=wander,
    )


def _means(t: Floats, p: Floats, sigma: Floats, step_pa: float) -> tuple[Floats, Floats, Floats]:
    """A long log as means of equal spans: times, pressures, their standard deviations."""
    mean_t, mean_p, count = binned(t, p)
    white = np.interp(mean_t, t, sigma) / np.sqrt(count)
    # Steps of the gauge do not average out as noise does where the course stands still.
    steps = step_pa / np.sqrt(12) / np.sqrt(np.maximum(count, 1)) ** 0.5
    return mean_t, mean_p, np.maximum(white, steps)


def _best_of(t: Floats, p: Floats, sigma: Floats) -> tuple[list[Fit], Fit]:
    """Every curve fitted, level and line first, and the best: a simpler one unless surely worse."""
    fits = [plain(t, p, sigma, rate=False), plain(t, p, sigma, rate=True)]
    laws: tuple[Law, ...] = tuple(law for law in get_args(Law) if law)
    fits += [curved(t, p, sigma, rate, law) for rate in (False, True) for law in laws]
    best = fits[0]
    for candidate in fits[1:]:
        if candidate.bic < best.bic - BETTER_BIC:
            best = candidate
    if best.bic > BAD_FIT * len(t):
        knocked = min(disturbed(t, p, sigma), key=lambda f: f.bic, default=best)
        if knocked.bic < best.bic - 2 * BETTER_BIC:
            best = knocked
            fits.append(knocked)
    return fits, best


def _is_straight(best: Fit, least_ratio: float) -> bool:
    """Whether a rise goes on as it began, or is a certain line that no curve betters."""
    if best.rate > 0 and least_ratio > STRAIGHT_RATIO:
        return True
    certain = CERTAIN_SIGMAS * best.rate_error
    return not best.law and not best.jump and best.rate > 2 * certain > 0


def _certainty(
    best: Fit, nearest: Shape, named: list[tuple[float, Shape]]
) -> tuple[float, Shape | None]:
    """How sure the meaning of the best curve is (0 to 1), and the best shape of another meaning."""
    other = [(bic, shape) for bic, shape in named if MEANING[shape] != MEANING[nearest]]
    bic, besides = min(other, default=(NO_FIT, None))
    behind = min(max(bic - best.bic, -60.0), 60.0)
    return 1 / (1 + float(np.exp(-behind / 2))), besides


def _warms(
    means: tuple[Floats, Floats, Floats], span_s: float, best: Fit, saturation_pa: float | None
) -> bool:
    """Whether a leak beside water is not settled: the readings do not show how much is straight.

    Water that cooled as it boiled warms again, and its rise goes on as beside a leak.
    """
    if saturation_pa is None or float(means[1][-1]) > 1.1 * saturation_pa:
        return False
    return best.tau > span_s or not _ends_straight(*means)


def _near(best: Fit, fits: list[Fit]) -> tuple[Fit, ...]:
    """The other curves that are nearly as good: they are followed into the next hold too."""
    return tuple(f for f in fits if f is not best and f.bic < best.bic + NEARLY_BIC)


def _unrest(t: Floats, p: Floats, sigma: Floats, best: Fit) -> tuple[float, bool]:
    """What a curve leaves of the means of twelfths, Pa; whether that is more than noise does."""
    edges = np.linspace(0.0, float(t[-1]), 13)
    index = np.clip(np.searchsorted(edges, t, side="right") - 1, 0, 11)
    count = np.bincount(index, minlength=12)
    if len(t) < SEEN_RESTLESS or not count.all():
        return 0.0, False
    off = p - best.along(t)
    means = np.bincount(index, weights=off, minlength=12) / count
    left = float(np.std(means))
    white = float(np.median(sigma)) / float(np.sqrt(np.median(count)))
    return left, left > WANDERS * white


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
    after = p[t >= SETTLING_S]
    late = p[t >= span - (span - min(SETTLING_S, span)) / 3]
    knocked = best.jump_at > SETTLING_S / 2  # a sensor's step, or a spike that decays: no fall
    if (
        len(after) >= 3 and len(late) and not knocked
    ):  # what falls after the puff of closing, however noisy
        fell = float(np.median(after[:3])) - float(np.quantile(late, 0.9))
        if fell > max(2 * FALL_SHARE * float(np.median(after[:3])), 2 * step_pa):
            return True
    first = min(float(np.quantile(early, 0.25)), float(np.median(p[:3])))
    last = float(np.quantile(end, 0.25)) - min(best.jump, 0.0)
    doubt = 5 * float(np.median(sigma)) / np.sqrt(max(1.0, min(len(early), len(end)) / 2))
    return bool(first - last > max(FALL_SHARE * first, doubt, 1.25 * step_pa))


def _slopes_down(t: Floats, p: Floats, line: Fit, best: Fit) -> bool:
    """Whether the whole course falls, slowly but certainly; a spike or a step down is no fall."""
    span = float(t[-1])
    certain = max(2 * FALL_SHARE * line.start, CERTAIN_SIGMAS * line.rate_error * span)
    if best.jump or -line.rate * span <= certain:
        return False
    return _median_slope(t, p) < line.rate / 2


def _median_slope(t: Floats, p: Floats) -> float:
    """Siegel's repeated median: a slope that up to half of the readings cannot turn."""
    apart = t[None, :] - t[:, None]
    np.fill_diagonal(apart, np.nan)
    return float(np.median(np.nanmedian((p[None, :] - p[:, None]) / apart, axis=1)))


def _name(
    fit: Fit, span: float, limit_pa: float, material: float, saturation_pa: float | None
) -> Shape:
    """What a fitted curve means; rises too small to matter against the limit do not count."""
    rise = fit.at(span) - fit.start - fit.jump - fit.rate * span
    leaks = fit.rate * span > max(material, BOTH_SHARE * rise)
    plateau = fit.start + fit.step
    if fit.law == "slowing":
        if leaks:
            return "leak"
        return "outgassing" if rise > material else "steady"
    quick = fit.tau <= max(SETTLING_S, SETTLING_SHARE * span)
    levels = fit.step > material and not (quick and plateau <= limit_pa)
    wet = levels and (saturation_pa is None or plateau <= 1.1 * saturation_pa)
    settles = fit.tau <= QUICK_S
    if settles and saturation_pa is not None and plateau < QUICK_SHARE * saturation_pa:
        wet = False  # trapped gas that settled: water takes longer, or goes further
    if leaks and wet:
        return "leak_and_moisture"
    if leaks:
        return "leak"
    if not levels:
        return "steady"
    return "moisture" if wet and plateau > limit_pa else "outgassing"
