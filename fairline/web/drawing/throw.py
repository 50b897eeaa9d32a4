"""A room from the side: the head, the line of its air, what stands before it."""

from collections.abc import Sequence

from markupsafe import Markup

from fairline.core.mount.throw import InFront, Reach
from fairline.core.quantities import show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, tag, text

LEFT, FLOOR, WIDE, HIGH = 24.0, 150.0, 320.0, 130.0


def throw(
    things: Sequence[InFront], underside_m: float, throw_m: float, found: Reach, system: System
) -> Markup:
    """``underside_m``: of the head above the floor; ``throw_m``: how far its air goes when free;
    ``found``: how far it does go."""
    shown = [t for t in things if t.whole]
    wide = max(throw_m, *(t.away_m or 0.0 for t in shown), 1.0) * 1.1
    high = max(underside_m + 0.3, *(t.top_m or 0.0 for t in shown), 2.0) * 1.05
    across, up = WIDE / wide, HIGH / high

    def at(x: float, y: float) -> tuple[float, float]:
        return LEFT + x * across, FLOOR - y * up

    x0, y0 = at(0.0, underside_m)
    x1, y1 = at(throw_m, 0.0)
    parts = [
        tag("path", d=f"M{LEFT:g} 10V{FLOOR:g}H{LEFT + WIDE:g}", class_="hose"),
        tag("rect", x=x0, y=y0 - 16, width=22.0, height=16.0, class_="content"),
        tag("path", d=f"M{x0 + 12:.1f} {y0:.1f}L{x1:.1f} {y1:.1f}", class_="was"),
    ]
    for thing in shown:
        x, y = at(thing.away_m or 0.0, thing.top_m or 0.0)
        stops = (thing.what or "what stands there") == found.stopped_by
        parts.append(
            tag("rect", x=x, y=y, width=14.0, height=FLOOR - y, class_="shell")
            if not stops
            else tag("path", d=f"M{x:.1f} {y:.1f}V{FLOOR:g}", class_="mark")
        )
        parts.append(text(x + 18, max(y + 14, 14), thing.what[:16], "cylinder-text"))
    said = show(found.reach_m, "length", system).text
    words = f"reaches {said}" if not found.stopped_by else f"{found.stopped_by} at {said}"
    parts.append(text(LEFT, FLOOR + 22, words, "cylinder-text stop"))
    return drawing(360.0, 182.0, f"The room from the side: the air {words}", "cylinder", *parts)
