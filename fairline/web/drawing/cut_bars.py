"""The cut plan as bars to scale: every piece of stock with its cuts and what is left of it."""

from markupsafe import Markup

from fairline.core.quantities import show
from fairline.core.route.cutting import TubeCut
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, tag, text

ROW = 64.0


def cut_bars(pieces: tuple[TubeCut, ...], system: System) -> list[Markup]:
    """The bars for a wide and a narrow screen; none without a piece."""
    return [_drawn(pieces, system, w) for w in (780.0, 372.0)] if pieces else []


def _drawn(pieces: tuple[TubeCut, ...], system: System, width: float) -> Markup:
    whole = [sum(length for _, length in p.cuts) + (p.left_m or 0.0) for p in pieces]
    per_m = (width - 24) / max(*whole, 0.1)
    times: dict[str, int] = {}
    for piece in pieces:
        for run, _ in piece.cuts:
            times[run] = times.get(run, 0) + 1
    parts: list[object] = []
    for n, (piece, long) in enumerate(zip(pieces, whole, strict=True)):
        y, x = 34.0 + n * ROW, 12.0
        said = show(long, "length", system).text
        parts.append(text(12.0, y - 7, f"{piece.name}, {said}", "run-small"))
        for run, length in piece.cuts:
            joined = times[run] > 1
            w = length * per_m
            words = f"{run}  {show(length, 'length', system).text}"
            parts.append(
                tag(
                    "rect", x=x, y=y, width=w, height=28.0, class_="cut joined" if joined else "cut"
                )
            )
            short = words if w > 9.2 * len(words) else run if w > 14 else ""
            parts.append(text(x + w / 2, y + 20, short, "cut-text middle"))
            x += w
        left = (piece.left_m or 0.0) * per_m
        if left > 0.5:
            parts.append(tag("rect", x=x, y=y, width=left, height=28.0, class_="cut left"))
            rest = show(piece.left_m or 0.0, "length", system).text
            parts.append(
                text(x + left / 2, y + 20, rest if left > 9 * len(rest) else "", "run-small middle")
            )
    told = "; ".join(
        f"{p.name}: " + ", ".join(f"{r} {show(m, 'length', system).text}" for r, m in p.cuts)
        for p in pieces
    )
    size = "drawing-wide" if width > 500 else "drawing-narrow"
    return drawing(
        width, 34.0 + len(pieces) * ROW, f"Cut plan to scale. {told}", f"schematic {size}", *parts
    )
