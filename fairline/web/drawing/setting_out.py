"""The marks of a setting-out card where they lie, to scale, each with its number."""

from markupsafe import Markup

from fairline.core.mount.setting_out import Card, Mark
from fairline.web.drawing.svg import drawing, tag, text

WIDTH, MARGIN, TALLEST = 360.0, 34.0, 300.0
SAME_M = 0.02  # marks nearer to each other than this share a cross


def marks_drawn(card: Card) -> Markup:
    """Crosses where a mark has both measures, lines where it has one; nothing of fewer than two."""
    along = [m.along_m for m in card.marks if m.along_m is not None]
    up = [m.up_m for m in card.marks if m.up_m is not None]
    crosses = [m for m in card.marks if m.along_m is not None and m.up_m is not None]
    if len(along) < 2 or len(up) < 2 or not crosses:
        return Markup("")
    left, right, low, high = min(along), max(along), min(up), max(up)
    scale = min((WIDTH - 2 * MARGIN) / max(right - left, 0.05), TALLEST / max(high - low, 0.05))
    height = (high - low) * scale + 2 * MARGIN

    def at(mark: Mark) -> tuple[float, float]:
        x = MARGIN + ((mark.along_m if mark.along_m is not None else left) - left) * scale
        y = height - MARGIN - ((mark.up_m if mark.up_m is not None else low) - low) * scale
        return x, y

    parts: list[Markup] = []
    for numbers, mark in _together(card.marks):
        x, y = at(mark)
        said = " ".join(str(n) for n in numbers)
        if mark.along_m is None:
            parts += [
                tag("path", d=f"M4 {y:.1f}H{WIDTH - 4:g}", class_="was"),
                text(6, y - 5, said, "cylinder-text"),
            ]
        elif mark.up_m is None:
            parts += [
                tag("path", d=f"M{x:.1f} 6V{height - 6:.1f}", class_="was"),
                text(x + 4, 18, said, "cylinder-text"),
            ]
        else:
            parts += [
                tag("path", d=f"M{x - 7:.1f} {y:.1f}h14M{x:.1f} {y - 7:.1f}v14", class_="mark"),
                text(min(x + 7, WIDTH - 10 * len(said)), y - 6, said, "cylinder-text stop"),
            ]
    return drawing(WIDTH, height, f"{card.title}: where the numbered marks lie", "cylinder", *parts)


def _together(marks: tuple[Mark, ...]) -> list[tuple[list[int], Mark]]:
    """Marks that lie on one another, with all their numbers."""
    found: list[tuple[list[int], Mark]] = []
    for number, mark in enumerate(marks, 1):
        if mark.along_m is None and mark.up_m is None:
            continue
        same = next((numbers for numbers, other in found if _alike(mark, other)), None)
        if same is None:
            found.append(([number], mark))
        else:
            same.append(number)
    return found


def _alike(one: Mark, other: Mark) -> bool:
    pairs = ((one.along_m, other.along_m), (one.up_m, other.up_m))
    return all(
        (a is None) == (b is None) and (a is None or b is None or abs(a - b) < SAME_M)
        for a, b in pairs
    )
