"""The nitrogen chart: what was read against what the pipe's temperature explains, with its band."""

from markupsafe import Markup

from fairline.core.pressure_test.curve import CurvePoint
from fairline.core.quantities import duration, from_si, grouped, scale, show
from fairline.core.units import KINDS, System
from fairline.web.drawing.chart import Frame, ticks, time_axis
from fairline.web.drawing.svg import drawing, path, tag, text


def hold_chart(
    points: list[CurvePoint], frame: Frame, system: System, hold_s: float, leaking: bool
) -> Markup:
    """Measured and expected gauge pressure over time; the band is coverage 2."""
    k = KINDS["gauge"]
    unit = k.us_unit if system == "us" else k.si_unit
    factor = scale(unit, k.si)[0]
    span = max(points[-1].t_s, hold_s, 60.0)
    low, high = _range(points, 0.5 * factor)

    def x(t: float) -> float:
        return frame.left + (frame.x1 - frame.left) * t / span

    def y(p: float) -> float:
        return frame.y1 - (frame.y1 - frame.top) * (p - low) / (high - low)

    upper = [(x(p.t_s), y(p.expected_pa + p.doubt_pa)) for p in points]
    lower = [(x(p.t_s), y(p.expected_pa - p.doubt_pa)) for p in reversed(points)]
    parts: list[object] = []
    levels = ticks(from_si(low, unit, k), from_si(high, unit, k))
    places = _places(levels)
    for level in levels:
        at = y(level * factor)
        parts.append(tag("path", d=f"M{frame.left} {at:.1f}H{frame.x1}", class_="gridline"))
        parts.append(text(frame.left - 8, at + 5, grouped(level, places), "tick-text end"))
    parts.append(
        text(4, frame.height - 4, k.us_label if system == "us" else k.si_label, "tick-text")
    )
    axis, _ = time_axis(frame, span, "since the hold began")
    parts.append(axis)
    if hold_s <= span:
        parts.append(tag("path", d=f"M{x(hold_s):.1f} {frame.top}V{frame.y1}", class_="hold"))
        parts.append(text(x(hold_s) - 6, frame.top + 16, f"hold {duration(hold_s)}", "note end"))
    if len(points) > 1:
        parts.append(tag("path", d=path(upper + lower, close=True), class_="band"))
        parts.append(
            tag("path", d=path([(x(p.t_s), y(p.expected_pa)) for p in points]), class_="fit")
        )
        parts.append(
            tag(
                "path",
                d=path([(x(p.t_s), y(p.gauge_pa)) for p in points]),
                class_="measured leaking" if leaking else "measured",
            )
        )
    if points[-1].t_s < hold_s:  # what it may read at the end of the hold, as warm as now
        (x0, top), (x1, foot) = upper[-1], (x(hold_s), lower[0][1])
        ahead = [(x0, top), (x1, top), (x1, foot), (x0, foot)]
        parts.append(tag("path", d=path(ahead, close=True), class_="band ahead"))
    if len(points) <= 40:
        parts += [
            tag("circle", cx=x(p.t_s), cy=y(p.gauge_pa), r=4.5, class_="read") for p in points
        ]
    last = points[-1]
    parts.append(tag("circle", cx=x(last.t_s), cy=y(last.gauge_pa), r=6.5, class_="now"))
    label = (
        f"Nitrogen hold: {len(points)} points, read {show(last.gauge_pa, 'gauge', system).text}, "
        f"expected {show(last.expected_pa, 'gauge', system).text}, uncertainty "
        f"{show(last.doubt_pa, 'pressure_difference', system).text}"
    )
    return drawing(
        frame.width,
        frame.height,
        label,
        "chart" + (" chart-wide" if frame.width > 500 else " chart-narrow"),
        *parts,
    )


def _places(levels: list[float]) -> int:
    """How many decimal places tell the levels of an axis apart."""
    step = levels[1] - levels[0] if len(levels) > 1 else 1.0
    return 0 if step >= 1 else 1 if step >= 0.1 else 2


def _range(points: list[CurvePoint], least_room: float) -> tuple[float, float]:
    """The lowest and highest pressure of all points and their band, with room beyond."""
    low = min(min(p.gauge_pa, p.expected_pa - p.doubt_pa) for p in points)
    high = max(max(p.gauge_pa, p.expected_pa + p.doubt_pa) for p in points)
    room = max((high - low) * 0.12, least_room)
    return low - room, high + room
