"""The vacuum chart: pull and decay on a log scale, the limit's band, what the shape heads for."""

import math

from markupsafe import Markup

from fairline.core.calc.vacuum_decay import VacuumDecayResult
from fairline.core.quantities import duration, from_si, grouped, show
from fairline.core.readings import VacuumRun
from fairline.core.units import KINDS, System
from fairline.web.drawing.chart import Frame, time_axis
from fairline.web.drawing.svg import drawing, path, tag, text

DECADE_STEPS = (1, 2, 5)
LEAST_PA = 0.05  # the least that the logarithmic scale draws


def decay_chart(
    run: VacuumRun,
    frame: Frame,
    system: System,
    limit_pa: float,
    hold_s: float | None,
    result: VacuumDecayResult | None = None,
) -> Markup:
    """One pull or decay. The limit is ``limit_pa``; a decay also shows its hold and its fit."""
    drawn = run.readings.absolute().thinned()
    t_s = drawn.t_s - drawn.t_s[:1]
    points = [(t, max(p, LEAST_PA)) for t, p in zip(t_s.tolist(), drawn.pa.tolist(), strict=True)]
    span = max([hold_s or 0.0, points[-1][0] if points else 0.0, 60.0])
    values = [p for _, p in points] + [limit_pa]
    if result and result.plateau_pa:
        values.append(result.plateau_pa)
    low, high = min(values) / 1.8, max(values) * 2.2
    k = KINDS["vacuum"]
    unit = k.us_unit if system == "us" else k.si_unit

    def x(t: float) -> float:
        return frame.left + (frame.x1 - frame.left) * min(t / span, 1.0)

    def y(p: float) -> float:
        share = math.log(max(p, low) / low) / math.log(high / low)
        return frame.y1 - (frame.y1 - frame.top) * min(share, 1.0)

    parts: list[object] = [
        tag(
            "rect",
            x=frame.left,
            y=y(limit_pa),
            width=frame.x1 - frame.left,
            height=frame.y1 - y(limit_pa),
            class_="band",
        )
    ]
    for value, shown in _levels(from_si(low, unit, k), from_si(high, unit, k)):
        level = y(value * from_unit(unit))
        parts.append(tag("path", d=f"M{frame.left} {level:.1f}H{frame.x1}", class_="gridline"))
        parts.append(text(frame.left - 8, level + 5, shown, "tick-text end"))
    axis, _ = time_axis(frame, span, "since the valve closed" if hold_s else "of pulling")
    parts.append(axis)
    parts.append(tag("path", d=f"M{frame.left} {y(limit_pa):.1f}H{frame.x1}", class_="limit"))
    parts.append(
        text(
            frame.x1 - 4,
            y(limit_pa) + 17,
            f"limit {show(limit_pa, 'vacuum', system).text}"
            if hold_s
            else f"pull to {show(limit_pa, 'vacuum', system).text}",
            "note good end",
        )
    )
    if hold_s:
        parts.append(tag("path", d=f"M{x(hold_s):.1f} {frame.top}V{frame.y1}", class_="hold"))
        parts.append(text(x(hold_s) - 6, frame.top + 16, f"hold {duration(hold_s)}", "note end"))
    if result and result.fit and len(points) > 2:
        fit = result.fit
        ahead = [(x(span * i / 80), y(fit.at(span * i / 80))) for i in range(81)]
        parts.append(tag("path", d=path(ahead), class_="fit"))
    if result and result.plateau_pa and result.plateau_pa > limit_pa * 1.3:
        level = y(result.plateau_pa)
        parts.append(tag("path", d=f"M{frame.left} {level:.1f}H{frame.x1}", class_="plateau"))
        parts.append(
            text(
                frame.left + 8,
                level - 8,
                f"levels off at {show(result.plateau_pa, 'vacuum', system).text}",
                "note",
            )
        )
    parts.append(tag("path", d=path([(x(t), y(p)) for t, p in points]), class_="measured"))
    if points:
        t, p = points[-1]
        parts.append(tag("circle", cx=x(t), cy=y(p), r=6.0, class_="now"))
    return drawing(
        frame.width,
        frame.height,
        _told(run, system, limit_pa, result),
        "chart" + (" chart-wide" if frame.width > 500 else " chart-narrow"),
        *parts,
    )


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
