"""A line cover in section: tubes, cables and drains as they are packed into it."""

from collections.abc import Sequence

from markupsafe import Markup

from fairline.core.physics.packing import packed
from fairline.web.drawing.svg import drawing, tag, text

WIDE = 300.0  # of the drawing, for the inside of the cover


def cover_section(
    kinds: Sequence[tuple[str, float]], across_m: float, deep_m: float, words: str
) -> Markup:
    """``kinds``: what each round thing is (tube, cable, drain) and its diameter, m."""
    found = packed([d for _, d in kinds], across_m, deep_m)
    if found is None:
        return Markup("")
    scale = WIDE / across_m
    high = deep_m * scale
    parts = [tag("rect", x=10.0, y=10.0, width=WIDE, height=high, rx=8.0, class_="shell")]
    left = sorted(kinds, key=lambda one: -one[1])
    for (kind, _), (x, y, r) in zip(left, found, strict=True):
        at = {"cx": 10 + x * scale, "cy": 10 + high - y * scale}
        look = "content" if kind == "tube" else "shell"
        parts.append(tag("circle", r=r * scale, class_=look, **at))
        label = {"tube": "", "cable": "~", "drain": "W"}[kind]
        if label:
            parts.append(text(at["cx"] - 5, at["cy"] + 5, label, "cylinder-text"))
    parts.append(text(10, high + 32, words, "cylinder-text"))
    return drawing(WIDE + 20, high + 40, f"The cover in section: {words}", "cylinder", *parts)
