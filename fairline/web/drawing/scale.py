"""The plate's scale: a measured value against the limit that governs."""

import math

from markupsafe import Markup

from fairline.core.call import Check
from fairline.core.quantities import grouped, show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, tag, text

WIDTH, HEIGHT, LEFT, RIGHT = 340.0, 74.0, 12.0, 328.0
DECADES = 1e6  # below the limit: what lies deeper stands at the scale's end


def scale(check: Check, kind: str, system: System) -> Markup | None:
    """The scale of one check, or None where value or limit is missing."""
    if check.value is None or check.limit is None:
        return None
    value, limit = check.value, check.limit.value
    logarithmic = kind == "vacuum" and value > 0 and limit > 0
    low, high = _span(value, limit, logarithmic)
    if not high > low:
        return None

    def x(v: float) -> float:
        if logarithmic:
            share = (math.log(max(v, low)) - math.log(low)) / (math.log(high) - math.log(low))
        else:
            share = (v - low) / (high - low)
        return LEFT + (RIGHT - LEFT) * min(max(share, 0.0), 1.0)

    def said(v: float) -> str:
        return show(v, kind, system).text if kind else grouped(v, 1)

    edge, at = x(limit), x(value)
    inside = (edge, RIGHT) if check.bound == "min" else (LEFT, edge)
    outside = (LEFT, edge) if check.bound == "min" else (edge, RIGHT)
    word = "at least" if check.bound == "min" else "at most"
    good = value >= limit - 1e-6 if check.bound == "min" else value <= limit + 1e-6
    label = f"{check.label}: {said(value)}, limit {word} {said(limit)}"
    return drawing(
        WIDTH,
        HEIGHT,
        label,
        "scale",
        tag("rect", x=inside[0], y=30.0, width=inside[1] - inside[0], height=14.0, class_="in"),
        tag("rect", x=outside[0], y=30.0, width=outside[1] - outside[0], height=14.0, class_="out"),
        tag("path", d=f"M{edge:.1f} 25V49", class_="edge"),
        text(_clear(edge), 67, f"{word} {said(limit)}", "said limit"),
        tag("path", d=f"M{at:.1f} 29l-8 -13h16z", class_="pointer good" if good else "pointer"),
        text(_clear(at), 12, said(value), "said"),
    )


def _clear(x: float) -> float:
    """Where a centred word still fits on the scale."""
    return min(max(x, 62.0), WIDTH - 62.0)


def _span(value: float, limit: float, logarithmic: bool) -> tuple[float, float]:
    if logarithmic:
        return max(min(value, limit), limit / DECADES) / 3, max(value, limit) * 3
    low = min(0.0, value, limit)
    high = max(value, limit) * 1.25
    return (low, high) if high > low else (low, low + 1.0)
