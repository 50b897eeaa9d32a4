"""Writing SVG: elements with their attributes escaped, numbers kept short."""

from markupsafe import Markup, escape


def number(value: float) -> str:
    return f"{value:.1f}".rstrip("0").rstrip(".") if value % 1 else f"{value:.0f}"


def tag(name: str, *children: object, **attributes: object) -> Markup:
    """``tag("path", d="M0 0", class_="run")``; ``_`` in a name stands for ``-``."""
    parts = []
    for key, value in attributes.items():
        if value is None:
            continue
        text = number(value) if isinstance(value, float) else str(value)
        parts.append(f' {key.rstrip("_").replace("_", "-")}="{escape(text)}"')
    inside = Markup("").join(escape(c) for c in children if c is not None)
    head = Markup(f"<{name}{''.join(parts)}")
    return head + (Markup(">") + inside + Markup(f"</{name}>") if inside else Markup("/>"))


def path(points: list[tuple[float, float]], close: bool = False) -> str:
    """Path data through points."""
    if not points:
        return ""
    data = "M" + "L".join(f"{number(x)} {number(y)}" for x, y in points)
    return data + ("Z" if close else "")


def text(x: float, y: float, content: str, class_: str) -> Markup:
    return tag("text", content, x=float(x), y=float(y), class_=class_)


def drawing(width: float, height: float, label: str, class_: str, *children: object) -> Markup:
    """A whole drawing with its text equivalent."""
    return tag(
        "svg",
        tag("title", label),
        *children,
        viewBox=f"0 0 {number(width)} {number(height)}",
        role="img",
        aria_label=label,
        class_=class_,
    )
