"""A circuit's way from panel to unit as one bar, to scale: each stretch, and what it lies in."""

from markupsafe import Markup

from fairline.core.call import Verdict
from fairline.core.quantities import show
from fairline.core.units import System
from fairline.core.wire.supply import SupplyResult
from fairline.core.wire.supply_way import StretchResult
from fairline.web.drawing.svg import drawing, tag, text

WIDE, HIGH, LINE = 340.0, 26.0, 24.0
LEAST = 18.0  # of a stretch, so that its number goes in


def supply_way(one: SupplyResult, system: System) -> Markup | None:
    """The bar with a line of words for each stretch; None where the way has no stretches."""
    if len(one.way) < 2:
        return None
    lengths = [s.length_m or 0.0 for s in one.way]
    whole = sum(lengths) or 1.0
    spare = WIDE - LEAST * len(lengths)
    parts, x = [], 10.0
    top = 24.0
    for n, (stretch, length) in enumerate(zip(one.way, lengths, strict=True), 1):
        wide = LEAST + spare * length / whole
        fits = stretch.call.verdict is Verdict.HOLDS
        look = "content" if fits else "shell"
        parts.append(tag("rect", x=x, y=top, width=wide, height=HIGH, class_=look))
        parts.append(text(x + 5, top + 18, str(n), "cylinder-text"))
        words = _words(stretch, system)
        y = top + HIGH + LINE * n
        parts.append(text(10, y, f"{n}  {words}{'' if fits else ': look'}", "cylinder-text"))
        x += wide
    said = "; ".join(_words(s, system) for s in one.way)
    ends = [
        text(10, 16, "panel", "cylinder-text"),
        text(WIDE - 22, 16, "unit", "cylinder-text"),
    ]
    label = f"Way of the circuit, {one.title}, from the panel: {said}"
    high = top + HIGH + LINE * len(lengths) + 10
    return drawing(WIDE + 20, high, label, "cylinder", *ends, *parts)


def _words(stretch: StretchResult, system: System) -> str:
    if stretch.length_m is None:
        return stretch.words
    return f"{show(stretch.length_m, 'length', system).text} {stretch.words}"
