"""A line from the outdoor unit to the last head, its stations numbered along it."""

from collections.abc import Sequence

from markupsafe import Markup

from fairline.web.drawing.svg import drawing, tag, text

ROW, TOP, LEFT = 46.0, 30.0, 30.0


def line_walk(stations: Sequence[str]) -> Markup:
    """Both tubes from station to station; each with its number and name."""
    end = TOP + ROW * (len(stations) - 1)
    parts = [
        tag("path", d=f"M{LEFT - 5:g} {TOP:g}V{end:g}", class_="tube"),
        tag("path", d=f"M{LEFT + 8:g} {TOP:g}V{end:g}", class_="filled"),
    ]
    for n, station in enumerate(stations):
        y = TOP + n * ROW
        parts.append(tag("circle", cx=LEFT + 1, cy=y, r=15.0, class_="shell"))
        parts.append(text(LEFT - 4, y + 5, str(n + 1), "cylinder-text"))
        parts.append(text(LEFT + 28, y + 6, station, "cylinder-text stop"))
    return drawing(360.0, end + 28, "Along the line: " + ", ".join(stations), "cylinder", *parts)
