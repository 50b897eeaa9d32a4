"""A cylinder on its scale: how full it is, the mark at which to stop, the twin tube that fills."""

from markupsafe import Markup

from fairline.core.quantities import show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, path, tag, text

TOP, FOOT, LEFT, WIDE = 34.0, 150.0, 30.0, 84.0  # of the cylinder on the paper
ROOM = 0.25  # of its height above the weight before, and below the mark
TUBES = 322.0  # where the twin tube stands


def cylinder(before_kg: float, now_kg: float, stop_kg: float, system: System) -> Markup:
    """The weight before, the weight now and the mark; drawn to scale between the two.

    The twin tube is as full as what moved is of what is to move.
    """
    low, high = sorted((before_kg, stop_kg))
    tall, span = FOOT - TOP, max(high - low, 1e-6)

    def y(kg: float) -> float:
        share = min(max((kg - low) / span, -0.2), 1.2)
        return FOOT - tall * (ROOM + (1 - 2 * ROOM) * share)

    said = [show(kg, "cylinder", system).text for kg in (before_kg, now_kg, stop_kg)]
    level, right = y(now_kg), LEFT + WIDE
    done = min(max((before_kg - now_kg) / (before_kg - stop_kg), 0.0), 1.0) if span > 1e-6 else 0.0
    # Two words that would lie on each other stand apart.
    before_y = min(y(before_kg), y(stop_kg) - 20) if before_kg >= stop_kg else y(before_kg)
    filled = done if before_kg >= stop_kg else 1.0 - done
    return drawing(
        360.0,
        180.0,
        f"The cylinder on its scale: {said[0]} before, {said[1]} now, stop at {said[2]}",
        "cylinder",
        tag("rect", x=LEFT, y=TOP, width=WIDE, height=FOOT - TOP, rx=16.0, class_="shell"),
        tag("rect", x=LEFT, y=level, width=WIDE, height=FOOT - level, rx=4.0, class_="content"),
        tag("rect", x=LEFT + WIDE / 2 - 9, y=TOP - 14, width=18.0, height=14.0, class_="shell"),
        tag("rect", x=LEFT - 14, y=FOOT, width=WIDE + 28, height=9.0, class_="scale"),
        tag("path", d=f"M{LEFT + WIDE / 2:g} 20V8H{TUBES:g}V26", class_="hose"),
        tag("path", d=path([(LEFT, y(before_kg)), (right + 8, y(before_kg))]), class_="was"),
        text(right + 14, before_y + 5, f"{said[0]} before", "cylinder-text"),
        tag("path", d=path([(LEFT - 10, y(stop_kg)), (right + 8, y(stop_kg))]), class_="mark"),
        text(right + 14, y(stop_kg) + 6, f"stop {said[2]}", "cylinder-text stop"),
        *_twin_tube(filled),
    )


def _twin_tube(filled: float) -> list[Markup]:
    """The liquid and the gas tube, filled from below."""
    level = FOOT - (FOOT - 26.0) * filled
    return [
        tag("path", d=f"M{x:g} {FOOT:g}V26", class_=f"tube {side}")
        for x, side in ((TUBES, "liquid"), (TUBES + 16, "gas"))
    ] + [tag("path", d=f"M{TUBES:g} {FOOT:g}V{level:.1f}", class_="filled")]
