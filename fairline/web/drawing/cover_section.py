"""A line cover in section: tubes, cables and drains as they are packed into it."""

from markupsafe import Markup

from fairline.core.quantities import show
from fairline.core.route.cover import Cover
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, tag, text

WIDE = 300.0  # of the drawing, for the inside of the cover
LABELS = {"tube": "", "cable": "~", "drain": "W"}


def cover_section(cover: Cover, system: System) -> Markup:
    """The cover with what lies in it; empty where it does not go in."""
    if cover.places is None:
        return Markup("")
    sold = f"{show(cover.sold_m, 'small', system).text} cover: " if cover.sold_m else ""
    words = f"{sold}{cover.bundle.words}"
    scale = WIDE / cover.across_m
    high = cover.deep_m * scale
    parts = [tag("rect", x=10.0, y=10.0, width=WIDE, height=high, rx=8.0, class_="shell")]
    largest_first = sorted(cover.bundle.kinds, key=lambda one: -one[1])
    for (kind, _), (x, y, r) in zip(largest_first, cover.places, strict=True):
        at = {"cx": 10 + x * scale, "cy": 10 + high - y * scale}
        look = "content" if kind == "tube" else "shell"
        parts.append(tag("circle", r=r * scale, class_=look, **at))
        if label := LABELS[kind]:
            parts.append(text(at["cx"] - 5, at["cy"] + 5, label, "cylinder-text"))
    parts.append(text(10, high + 32, words, "cylinder-text"))
    return drawing(WIDE + 20, high + 40, f"The cover in section: {words}", "cylinder", *parts)
