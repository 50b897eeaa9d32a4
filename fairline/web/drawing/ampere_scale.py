"""One ampere scale: MCA and MOP as its marks, and in lanes what stands between them or does not."""

from collections.abc import Callable, Iterator

from markupsafe import Markup

from fairline.core.wire.supply import Mark, SupplyResult
from fairline.web.drawing.svg import drawing, tag, text

WIDTH, LEFT, RIGHT, TOP, LANE = 360.0, 12.0, 336.0, 34.0, 40.0
LANES: tuple[tuple[Mark, str], ...] = (
    ("breaker", "Breaker"),
    ("fuse", "Fuses"),
    ("ampacity", "Conductor carries"),
    ("disconnect", "Disconnect"),
)
NARROW = 8.0  # two marks nearer than this have their words on two lines
MARK_WIDE = 86.0  # of the words of a mark
LETTER = 8.2  # how wide a letter of a lane's words is, about


def ampere_scale(one: SupplyResult) -> Markup | None:
    """The scale of one circuit; None while neither MCA nor MOP is known."""
    marks = one.marks
    mca, mop = marks.get("MCA"), marks.get("MOP")
    if mca is None or mop is None:
        return None
    most = max(marks.values()) * 1.15

    def x(amps: float) -> float:
        return LEFT + (RIGHT - LEFT) * amps / most

    lanes = [(mark, words) for mark, words in LANES if mark in marks]
    bottom = TOP + LANE * max(1, len(lanes)) + 4
    mca_end = max(x(mca), LEFT + MARK_WIDE)  # its words end at the mark, and begin on the paper
    close = x(mop) < mca_end + NARROW or mca_end > x(mca)
    said = ", ".join(f"{words.lower()} {marks[m]:g} A" for m, words in lanes)
    label = f"{one.title}, one ampere scale: MCA {mca:g} A, MOP {mop:g} A, {said or 'no circuit'}"
    return drawing(
        WIDTH,
        bottom + 6,
        label,
        "ampere-scale",
        tag("rect", x=x(mca), y=TOP, width=x(mop) - x(mca), height=bottom - TOP, class_="in"),
        tag("rect", x=x(mop), y=TOP, width=RIGHT + 12 - x(mop), height=bottom - TOP, class_="out"),
        tag("path", d=f"M{x(mca):.1f} {TOP - 4}V{bottom}M{x(mop):.1f} {TOP - 4}V{bottom}"),
        text(mca_end, 13, f"MCA {mca:g} A", "mark mca"),
        text(min(x(mop), RIGHT - 62), 28 if close else 13, f"MOP {mop:g} A", "mark mop"),
        *(part for n, (mark, words) in enumerate(lanes) for part in _lane(one, n, mark, words, x)),
    )


def _good(one: SupplyResult, mark: Mark) -> bool:
    amps, mca, mop = one.marks[mark], one.marks["MCA"], one.marks["MOP"]
    return mca <= amps <= mop if mark in ("breaker", "fuse") else amps >= mca


def _lane(
    one: SupplyResult, n: int, mark: Mark, words: str, x: Callable[[float], float]
) -> Iterator[Markup]:
    """A lane: its words above, a bar to where it stands, its amperes at the end."""
    amps = one.marks[mark]
    y, at = TOP + LANE * n, x(amps)
    state = "good" if _good(one, mark) else "bad"
    yield text(LEFT, y + 15, words, "lane")
    yield tag("rect", x=LEFT, y=y + 21, width=at - LEFT, height=10.0, class_=f"bar {state}")
    yield tag("path", d=f"M{at:.1f} {y + 16:.1f}v20", class_=f"end {state}")
    yield text(
        min(max(at, LEFT + LETTER * len(words) + 52), RIGHT + 8),
        y + 15,
        f"{amps:g} A",
        f"amps {state}",
    )
