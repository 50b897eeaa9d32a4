"""A cylinder on its scale: how full it is, and the mark at which to stop."""

from markupsafe import Markup

from fairline.core.quantities import show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, path, tag, text

TOP, FOOT, LEFT, WIDE = 34.0, 150.0, 40.0, 84.0  # of the cylinder on the paper
ROOM = 0.25  # of its height above the weight before, and below the mark


def cylinder(before_kg: float, now_kg: float, stop_kg: float, system: System) -> Markup:
    """The weight before, the weight now and the mark; drawn to scale between the two."""
    low, high = sorted((before_kg, stop_kg))
    tall, span = FOOT - TOP, max(high - low, 1e-6)

    def y(kg: float) -> float:
        share = min(max((kg - low) / span, -0.2), 1.2)
        return FOOT - tall * (ROOM + (1 - 2 * ROOM) * share)

    said = [show(kg, "cylinder", system).text for kg in (before_kg, now_kg, stop_kg)]
    level, right = y(now_kg), LEFT + WIDE
    # Two words that would lie on each other stand apart.
    before_y = min(y(before_kg), y(stop_kg) - 20) if before_kg >= stop_kg else y(before_kg)
    return drawing(
        300.0,
        180.0,
        f"The cylinder on its scale: {said[0]} before, {said[1]} now, stop at {said[2]}",
        "cylinder",
        tag("rect", x=LEFT, y=TOP, width=WIDE, height=FOOT - TOP, rx=16.0, class_="shell"),
        tag("rect", x=LEFT, y=level, width=WIDE, height=FOOT - level, rx=4.0, class_="content"),
        tag("rect", x=LEFT + WIDE / 2 - 9, y=TOP - 14, width=18.0, height=14.0, class_="shell"),
        tag("rect", x=LEFT - 14, y=FOOT, width=WIDE + 28, height=9.0, class_="scale"),
        tag("path", d=path([(LEFT, y(before_kg)), (right + 8, y(before_kg))]), class_="was"),
        text(right + 14, before_y + 5, f"{said[0]} before", "cylinder-text"),
        tag("path", d=path([(LEFT - 10, y(stop_kg)), (right + 8, y(stop_kg))]), class_="mark"),
        text(right + 14, y(stop_kg) + 6, f"stop {said[2]}", "cylinder-text stop"),
    )
