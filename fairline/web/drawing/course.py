"""The course of a zone's supply air over the minutes, small."""

from markupsafe import Markup

from fairline.core.commission.zone import Trend
from fairline.core.quantities import show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, path, tag, text


def course(trend: Trend, system: System) -> Markup:
    """Every reading a point, the first and the last with their values."""
    minutes = [m for m, _ in trend.points]
    air = [c for _, c in trend.points]
    low, high, long = min(air), max(air), max(minutes[-1], 1e-6)
    span = max(high - low, 0.5)

    def at(m: float, c: float) -> tuple[float, float]:
        return 24 + 260 * m / long, 24 + 60 * (high - c) / span

    points = [at(m, c) for m, c in trend.points]
    said = [show(c, "temperature", system).text for c in (air[0], air[-1])]
    return drawing(
        360.0,
        116.0,
        f"Supply air over {minutes[-1]:.0f} minutes: {said[0]} to {said[1]}. {trend.because}",
        "cylinder",
        tag("path", d=path(points), class_="hose"),
        *(tag("circle", cx=x, cy=y, r=5.0, class_="shell") for x, y in points),
        text(24, 110, f"{said[0]} at first", "cylinder-text"),
        text(points[-1][0] + 10, points[-1][1] + 6, said[1], "cylinder-text stop"),
    )
