"""A board to place things on, to scale: paper, scale, dimensions, and pieces that move.

A piece carries the names of the fields that hold its place; the page's script moves it by
dragging and by arrow keys, and the form it belongs to does the rest.
"""

from dataclasses import dataclass

from markupsafe import Markup

from fairline.core.quantities import show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, tag, text

WIDE, NARROW = 780.0, 372.0
LETTER = 8.6  # how wide a letter of a label is, about


@dataclass(frozen=True)
class Board:
    """Metres to paper: ``right_m`` by ``up_m``, drawn ``per_m`` units a metre."""

    width: float
    height: float
    left: float
    foot: float
    per_m: float
    system: System
    right_m: float = 0.0  # what is drawn reaches so far
    up_m: float = 0.0
    downward: bool = False  # a plan whose far side is at the top has y running down

    def x(self, x_m: float) -> float:
        return self.left + x_m * self.per_m

    def y(self, y_m: float) -> float:
        return self.foot + (y_m if self.downward else -y_m) * self.per_m

    @property
    def wide(self) -> bool:
        return self.width > 500

    @property
    def suffix(self) -> str:
        return "w" if self.wide else "n"

    def rect(self, x_m: float, y_m: float, w_m: float, h_m: float, class_: str) -> Markup:
        """A rectangle given by its lower left corner (upper left on a plan that runs down)."""
        top = self.y(y_m) if self.downward else self.y(y_m + h_m)
        return tag(
            "rect",
            x=self.x(x_m),
            y=top,
            width=max(w_m * self.per_m, 0.5),
            height=max(h_m * self.per_m, 0.5),
            class_=class_,
        )

    def label_at(self, x_m: float, y_m: float, words: str) -> tuple[float, float]:
        """Where the middle of a label goes: at a place, and not over the edge of the paper."""
        half = LETTER * len(words) / 2 + 3
        x = min(max(self.x(x_m), half), self.width - half)
        return x, min(max(self.y(y_m), 14.0), self.height - 14.0) + 5

    def say(self, metres: float) -> str:
        return show(metres, "small", self.system).text


def board(
    width: float,
    right_m: float,
    up_m: float,
    system: System,
    most_height: float,
    downward: bool = False,
    margins: tuple[float, float, float, float] = (44.0, 20.0, 34.0, 16.0),
) -> Board:
    """A board as large as fits: margins left, right, foot and top of the drawn area."""
    left, right, foot, top = margins
    per_m = min(
        (width - left - right) / max(right_m, 0.1), (most_height - foot - top) / max(up_m, 0.1)
    )
    height = up_m * per_m + foot + top
    spare = (width - left - right - right_m * per_m) / 2
    return Board(
        width=width,
        height=height,
        left=left + spare,
        foot=top if downward else height - foot,
        per_m=per_m,
        system=system,
        right_m=right_m,
        up_m=up_m,
        downward=downward,
    )


def piece(
    b: Board,
    id: str,
    fields: tuple[str, str],
    at: tuple[float, float],
    label: str,
    *children: object,
) -> Markup:
    """A group that can be moved; ``at`` is what its two fields hold now, in metres."""
    return tag(
        "g",
        *children,
        id=f"{id}-{b.suffix}",
        class_="piece",
        tabindex="0",
        role="button",
        aria_label=f"{label}. Arrow keys move it, with Shift finely.",
        data_x=fields[0],
        data_y=fields[1],
        data_at_x=f"{at[0]:.6f}",
        data_at_y=f"{at[1]:.6f}",
    )


def across(b: Board, x0: float, x1: float, y_paper: float, words: str, state: str = "") -> Markup:
    """A dimension between two places along x (metres), at a height on the paper."""
    a, z = b.x(x0), b.x(x1)
    room = abs(z - a) > 7.2 * len(words) + 10
    return tag(
        "g",
        tag(
            "path",
            d=f"M{a:.1f} {y_paper - 5:.1f}v10M{z:.1f} {y_paper - 5:.1f}v10"
            f"M{a:.1f} {y_paper:.1f}H{z:.1f}",
            class_="measure",
        ),
        text((a + z) / 2, y_paper - 6 if room else y_paper - 9, words, "measure-text middle"),
        class_=f"dimension-line {state}".strip(),
    )


def upward(b: Board, y0: float, y1: float, x_paper: float, words: str, state: str = "") -> Markup:
    """A dimension between two heights (metres), at a place along x on the paper."""
    a, z = b.y(y0), b.y(y1)
    half = 4.4 * len(words)
    x_text = min(max(x_paper + half + 6, half + 2), b.width - half - 2)
    return tag(
        "g",
        tag(
            "path",
            d=f"M{x_paper - 5:.1f} {a:.1f}h10M{x_paper - 5:.1f} {z:.1f}h10"
            f"M{x_paper:.1f} {a:.1f}V{z:.1f}",
            class_="measure",
        ),
        text(x_text, (a + z) / 2 + 5, words, "measure-text middle"),
        class_=f"dimension-line {state}".strip(),
    )


def plan_svg(b: Board, id: str, label: str, *children: object) -> Markup:
    """The whole board, with what the script needs to turn a drag into metres."""
    size = "drawing-wide" if b.wide else "drawing-narrow"
    svg = drawing(b.width, b.height, label, f"placing {size}", *children)
    more = (
        f'<svg id="{id}-{b.suffix}" data-per-m="{b.per_m:.4f}" data-system="{b.system}" '
        f'data-up="{1 if b.downward else -1}" data-right="{b.right_m:.4f}" '
        f'data-far="{b.up_m:.4f}" '
    )
    opening = Markup(more)
    return Markup(str(svg).replace("<svg ", str(opening), 1).replace('role="img" ', ""))


def ruler(b: Board) -> Markup:
    """A drawn scale: three feet, or one metre."""
    length_m, words = (0.9144, "3 ft") if b.system == "us" else (1.0, "1 m")
    y = b.height - 8
    return tag(
        "g",
        tag("path", d=f"M8 {y - 5:.1f}V{y:.1f}H{8 + length_m * b.per_m:.1f}v-5", class_="ruler"),
        text(14 + length_m * b.per_m, y, words, "measure-text"),
    )
