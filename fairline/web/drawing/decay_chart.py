"""The vacuum chart: pull and decay on a log scale, the limit's band, what the shape heads for."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from fairline.core.calc.vacuum_decay import VacuumDecayResult
from fairline.core.evacuate.expected_course import BAND, Expected
from fairline.core.quantities import duration, from_si, grouped, show
from fairline.core.readings import VacuumRun
from fairline.core.units import KINDS, System
from fairline.web.drawing.chart import Frame, time_axis
from fairline.web.drawing.svg import drawing, path, tag, text

DECADE_STEPS = (1, 2, 5)
FOLLOWED_HOLDS = 3.0  # a course is drawn on to the limit within so many holds
LEAST_PA = 0.05  # the least that the logarithmic scale draws
HOLD_WORDS = 34.0  # from the top of the plot, how far down the name of the hold reaches


@dataclass(frozen=True)
class Plot:
    """The plot area in time and pressure: Pa on a logarithmic scale, s from the left."""

    frame: Frame
    span: float
    low: float
    high: float

    def x(self, t: float) -> float:
        return self.frame.left + (self.frame.x1 - self.frame.left) * min(t / self.span, 1.0)

    def y(self, pa: float) -> float:
        share = math.log(max(pa, self.low) / self.low) / math.log(self.high / self.low)
        return self.frame.y1 - (self.frame.y1 - self.frame.top) * min(share, 1.0)


def decay_chart(
    run: VacuumRun,
    frame: Frame,
    system: System,
    limit_pa: float,
    hold_s: float | None,
    result: VacuumDecayResult | None = None,
    expected: Expected | None = None,
    events: Sequence[tuple[float, str]] = (),
) -> Markup:
    """One pull or decay. The limit is ``limit_pa``; a decay also shows its hold and its fit.

    ``expected``: of a pull, the course of a dry, tight one; ``events``: seconds and words.
    """
    drawn = run.readings.absolute().thinned()
    t_s = drawn.t_s - drawn.t_s[:1]
    points = [(t, max(p, LEAST_PA)) for t, p in zip(t_s.tolist(), drawn.pa.tolist(), strict=True)]
    values = [p for _, p in points] + [limit_pa]
    if result and result.plateau_pa:
        values.append(result.plateau_pa)
    plot = Plot(frame, _span(points, hold_s, result), min(values) / 1.8, max(values) * 2.2)
    parts: list[object] = [*_ground(plot, system, limit_pa, hold_s)]
    if expected is not None:
        parts += _expected(expected, plot)
    for at, words in events:
        if 0 <= at <= plot.span:
            mark = f"M{plot.x(at):.1f} {frame.top + 20}V{frame.y1}"
            parts.append(tag("path", d=mark, class_="hold"))
            parts.append(text(plot.x(at) + 4, frame.y1 - 8, words, "note"))
    if result is not None and len(points) > 2:
        parts += _fitted(result, plot)
    if result is not None:
        parts += _plateau(result, plot, limit_pa, system)
    way = path([(plot.x(t), plot.y(p)) for t, p in points])
    parts.append(tag("path", d=way, class_="measured"))
    if points:
        t, p = points[-1]
        parts.append(tag("circle", cx=plot.x(t), cy=plot.y(p), r=6.0, class_="now"))
    return drawing(
        frame.width,
        frame.height,
        _told(run, system, limit_pa, result),
        "chart" + (" chart-wide" if frame.width > 500 else " chart-narrow"),
        *parts,
    )


def _span(
    points: Sequence[tuple[float, float]], hold_s: float | None, result: VacuumDecayResult | None
) -> float:
    """How far the time axis goes: the hold, and on to where the course passes the limit."""
    span = max([hold_s or 0.0, points[-1][0] if points else 0.0, 60.0])
    crosses = result.limit_in_s if result is not None else None
    if crosses is not None and hold_s and span < crosses <= FOLLOWED_HOLDS * hold_s:
        return crosses * 1.05
    return span


def _ground(plot: Plot, system: System, limit_pa: float, hold_s: float | None) -> list[Markup]:
    """The limit's band, the axes, the limit and the hold."""
    frame, limit_y = plot.frame, plot.y(limit_pa)
    k = KINDS["vacuum"]
    unit = k.us_unit if system == "us" else k.si_unit
    parts = [
        tag(
            "rect",
            x=frame.left,
            y=limit_y,
            width=frame.x1 - frame.left,
            height=frame.y1 - limit_y,
            class_="band",
        )
    ]
    for value, shown in _levels(from_si(plot.low, unit, k), from_si(plot.high, unit, k)):
        level = plot.y(value * from_unit(unit))
        parts.append(tag("path", d=f"M{frame.left} {level:.1f}H{frame.x1}", class_="gridline"))
        parts.append(text(frame.left - 8, level + 5, shown, "tick-text end"))
    axis, _ = time_axis(frame, plot.span, "since the valve closed" if hold_s else "of pulling")
    said = show(limit_pa, "vacuum", system).text
    parts += [
        axis,
        tag("path", d=f"M{frame.left} {limit_y:.1f}H{frame.x1}", class_="limit"),
        text(
            frame.x1 - 4,
            limit_y + 17,
            f"limit {said}" if hold_s else f"pull to {said}",
            "note good end",
        ),
    ]
    if hold_s:
        at = plot.x(hold_s)
        parts.append(tag("path", d=f"M{at:.1f} {frame.top}V{frame.y1}", class_="hold"))
        parts.append(text(at - 6, frame.top + 16, f"hold {duration(hold_s)}", "note end"))
    return parts


def _fitted(result: VacuumDecayResult, plot: Plot) -> list[Markup]:
    """The fitted course, and the band in which the readings leave its straight part."""
    fit, span = result.fit, plot.span
    if fit is None:
        return []
    ahead = [(plot.x(span * i / 80), plot.y(fit.at(span * i / 80))) for i in range(81)]
    curve = tag("path", d=path(ahead), class_="fit")
    if fit.rate_error <= 0:
        return [curve]
    times = [span * i / 40 for i in range(41)]
    doubts = [2 * fit.rate_error * t for t in times]
    over = [(plot.x(t), plot.y(fit.at(t) + d)) for t, d in zip(times, doubts, strict=True)]
    under = [
        (plot.x(t), plot.y(max(fit.at(t) - d, LEAST_PA)))
        for t, d in zip(times, doubts, strict=True)
    ]
    band = tag("path", d=path([*over, *reversed(under)], close=True), class_="known")
    return [band, curve]


def _plateau(
    result: VacuumDecayResult, plot: Plot, limit_pa: float, system: System
) -> list[Markup]:
    """The level at which the course levels off, where it lies well over the limit."""
    if not result.plateau_pa or result.plateau_pa <= limit_pa * 1.3:
        return []
    frame, level = plot.frame, plot.y(result.plateau_pa)
    words = f"levels off at {show(result.plateau_pa, 'vacuum', system, True).text}"
    under = level - 8 < frame.top + HOLD_WORDS  # the name of the hold stands above
    return [
        tag("path", d=f"M{frame.left} {level:.1f}H{frame.x1}", class_="plateau"),
        text(frame.left + 8, level + 18 if under else level - 8, words, "note"),
    ]


def _expected(course: Expected, plot: Plot) -> list[Markup]:
    """A dry, tight pull as this rig takes it, and the band in which it is known."""
    keep = slice(None, None, max(1, len(course.t_s) // 80))
    drawn = list(zip(course.t_s[keep].tolist(), course.pa[keep].tolist(), strict=True))

    def way(factor: float) -> list[tuple[float, float]]:
        return [(plot.x(t * factor), plot.y(p)) for t, p in drawn if t * factor <= plot.span]

    band = [*way(1 / BAND), *reversed(way(BAND))]
    return [
        tag("path", d=path(band, close=True), class_="known"),
        tag("path", d=path(way(1.0)), class_="fit"),
    ]


def from_unit(unit: str) -> float:
    """Pa in one of the shown unit."""
    from fairline.core.quantities import scale

    return scale(unit, "pascal")[0]


def _levels(low: float, high: float) -> list[tuple[float, str]]:
    """Values 1, 2, 5 of each decade in the shown unit, thinned where there are many."""
    found = []
    for decade in range(math.floor(math.log10(low)), math.ceil(math.log10(high)) + 1):
        found += [(m * 10.0**decade, m) for m in DECADE_STEPS]
    inside = [(v, m) for v, m in found if low <= v <= high]
    if len(inside) > 9:
        inside = [(v, m) for v, m in inside if m == 1]
    return [(v, grouped(v, 0 if v >= 1 else 1)) for v, _ in inside]


def _told(run: VacuumRun, system: System, limit_pa: float, result: VacuumDecayResult | None) -> str:
    word = "Decay" if run.kind == "decay" else "Pull"
    read = run.readings.absolute()
    if not read:
        return f"{word}: no reading yet"
    first, last = float(read.pa[0]), float(read.pa[-1])
    shape = f", shape {result.shape.replace('_', ' ')}" if result else ""
    return (
        f"{word}: {len(read)} readings from {show(first, 'vacuum', system).text} to "
        f"{show(last, 'vacuum', system).text}; limit {show(limit_pa, 'vacuum', system).text}{shape}"
    )
