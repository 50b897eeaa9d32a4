"""Writing SVG: elements with their attributes escaped, numbers kept short."""

import re

from markupsafe import Markup, escape

from fairline.core.hand_over.records import STROKES, strokes_of


def number(value: float) -> str:
    return f"{value:.1f}".rstrip("0").rstrip(".") if value % 1 else f"{value:.0f}"


SPECIAL = frozenset("&<>\"'")


def tag(name: str, *children: object, **attributes: object) -> Markup:
    """``tag("path", d="M0 0", class_="run")``; ``_`` in a name stands for ``-``."""
    parts = [f"<{name}"]
    for key, value in attributes.items():
        if value is None:
            continue
        text = number(value) if isinstance(value, float) else str(value)
        if not SPECIAL.isdisjoint(text):
            text = str(escape(text))
        parts.append(f' {key.rstrip("_").replace("_", "-")}="{text}"')
    inside = "".join(str(escape(c)) for c in children if c is not None)
    parts.append(f">{inside}</{name}>" if inside else "/>")
    return Markup("".join(parts))


def path(points: list[tuple[float, float]], close: bool = False) -> str:
    """Path data through points."""
    if not points:
        return ""
    data = "M" + "L".join(f"{number(x)} {number(y)}" for x, y in points)
    return data + ("Z" if close else "")


def text(x: float, y: float, content: str, class_: str) -> Markup:
    return tag("text", content, x=float(x), y=float(y), class_=class_)


def drawing(
    width: float, height: float, label: str, class_: str, *children: object, **more: object
) -> Markup:
    """A whole drawing with its text equivalent; one with links or buttons is a group of them."""
    leads = any("<a " in str(child) or "<g role" in str(child) for child in children)
    return tag(
        "svg",
        tag("title", label),
        *children,
        viewBox=f"0 0 {number(width)} {number(height)}",
        role="group" if leads else "img",
        aria_label=label,
        class_=class_,
        **more,
    )


def ink(strokes: str) -> str:
    """A drawn signature as path data; a dot is a line of no length. What is none gives nothing."""
    if not re.fullmatch(STROKES, strokes):
        return ""
    return "".join(
        path([(float(x), float(y)) for x, y in (points if len(points) > 1 else points * 2)])
        for points in strokes_of(strokes)
    )
