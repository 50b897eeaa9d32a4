"""A unit's own board as its sheet shows it: where terminals, switches and plug are."""

from collections.abc import Sequence

from markupsafe import Markup

from fairline.core.sheet.part import BoardMark
from fairline.web.drawing.svg import drawing, tag, text

WIDTH, HEIGHT, EDGE, LINE = 320.0, 200.0, 10.0, 22.0


def unit_board(marks: Sequence[BoardMark]) -> Markup:
    """The board as a rectangle with numbered marks, and what each is; empty without marks."""
    if not marks:
        return Markup("")
    parts = [tag("rect", x=EDGE, y=EDGE, width=WIDTH, height=HEIGHT, rx=6.0, class_="shell")]
    for n, mark in enumerate(marks, 1):
        x = EDGE + WIDTH * (mark.x_percent or 0) / 100
        y = EDGE + HEIGHT * (mark.y_percent or 0) / 100
        parts.append(tag("circle", cx=x, cy=y, r=12.0, class_="shell"))
        parts.append(text(x - 4.5 * len(str(n)), y + 6, str(n), "cylinder-text"))
        words = f"{n}  {mark.what}"
        parts.append(text(EDGE, HEIGHT + 2 * EDGE + LINE * n, words, "cylinder-text"))
    told = "; ".join(
        f"{m.what}: {m.x_percent or 0} % from the left, {m.y_percent or 0} % from the top"
        for m in marks
    )
    height = HEIGHT + 2 * EDGE + LINE * len(marks) + 8
    return drawing(WIDTH + 2 * EDGE, height, f"On the board: {told}", "cylinder", *parts)
