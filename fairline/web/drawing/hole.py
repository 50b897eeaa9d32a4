"""A hole through a wall in section: which side is which, its layers, how the drill is tipped."""

from markupsafe import Markup

from fairline.web.drawing.svg import drawing, tag, text

WALL_LEFT, WALL_RIGHT, TOP, FOOT = 110.0, 250.0, 14.0, 166.0
FALL = 22.0  # drawn steeper than it is, so that an eye sees it
FROM_OUTSIDE = ("hole-masonry-out",)


def hole(procedure: str, tilt: str) -> Markup:
    """The wall of a procedure: inside on the left, outside on the right; ``tilt`` in words."""
    masonry = "masonry" in procedure
    outside = procedure in FROM_OUTSIDE
    middle = (TOP + FOOT) / 2
    parts = [
        tag(
            "rect",
            x=WALL_LEFT,
            y=TOP,
            width=WALL_RIGHT - WALL_LEFT,
            height=FOOT - TOP,
            class_="shell",
        )
    ]
    if masonry:
        for row in range(1, 5):
            y = TOP + row * (FOOT - TOP) / 5
            parts.append(tag("path", d=f"M{WALL_LEFT:g} {y:.0f}H{WALL_RIGHT:g}", class_="was"))
    else:
        parts.append(
            tag(
                "path", d=f"M{WALL_LEFT + 12:g} {TOP:g}V{FOOT:g}M226 {TOP:g}V{FOOT:g}", class_="was"
            )
        )
        parts.append(tag("path", d=f"M234 {TOP:g}V{FOOT:g}", class_="mark"))
    high, low = middle - FALL / 2, middle + FALL / 2
    shape = (
        f"M{WALL_LEFT:g} {high - 16:g}L{WALL_RIGHT:g} {low - 16:g}V{low + 16:g}"
        f"L{WALL_LEFT:g} {high + 16:g}Z"
    )
    parts.append(tag("path", d=shape, class_="content"))
    if outside:
        way = f"M330 {low + 13:g}L{WALL_LEFT - 20:g} {high - 3:g}"
        tip = f"M{WALL_LEFT - 6:g} {high - 14:g}L{WALL_LEFT - 22:g} {high - 3:g}l14 12"
    else:
        way = f"M30 {high - 13:g}L{WALL_RIGHT + 20:g} {low + 3:g}"
        tip = f"M{WALL_RIGHT + 8:g} {low - 10:g}L{WALL_RIGHT + 22:g} {low + 3:g}l-16 8"
    parts.append(tag("path", d=way + tip, class_="hose"))
    parts += [
        text(8, 30, "Inside", "cylinder-text"),
        text(8, 50, "higher", "cylinder-text"),
        text(268, 140, "Outside", "cylinder-text"),
        text(268, 160, "lower", "cylinder-text"),
    ]
    if not masonry:
        parts.append(text(188, 186, "weather barrier", "cylinder-text stop"))
    if tilt:
        parts.append(text(268, 40, tilt, "cylinder-text stop"))
    way_words = "from outside, pointing up" if outside else "from inside, tipped down"
    said = f"Section of the wall: inside higher than outside; drilled {way_words}"
    return drawing(360.0, 192.0, f"{said}{', ' + tilt if tilt else ''}", "cylinder", *parts)
