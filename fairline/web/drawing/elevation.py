"""The run drawn to scale: an elevation seen from outside, what goes through the wall slanted."""

from dataclasses import dataclass
from itertools import pairwise

from markupsafe import Markup

from fairline.core.quantities import show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, path, tag, text

SLANT_X, SLANT_Y = 0.42, 0.30  # how far one metre into the house moves on the paper
MARGIN = 56.0
LETTER = 9.0  # how wide a letter of a dimension is, about

Spot = tuple[float, float]


@dataclass(frozen=True)
class Paper:
    """A sheet to draw on; narrow for a phone, so that letters keep their size."""

    width: float
    height: float


WIDE, NARROW = Paper(780, 360), Paper(372, 340)


def flat(point: list[float]) -> tuple[float, float]:
    """Metres on the paper: right and up."""
    x, y, z = point
    return x + SLANT_X * y, z + SLANT_Y * y


def elevation(
    points: list[list[float]], tight: tuple[int, ...], paper: Paper, system: System
) -> Markup:
    """The corners of a run (valve first) as twin tube, each leg numbered with its length."""
    places = [flat(p) for p in points]
    xs, ys = [p[0] for p in places], [p[1] for p in places]
    left, right = min(xs) - 0.6, max(xs) + 0.6
    bottom, top = min(0.0, *ys) - 0.15, max(*ys) + 0.35
    room_x, room_y = paper.width - 2 * MARGIN, paper.height - 2 * 40.0
    per_m = min(room_x / max(right - left, 1.0), room_y / max(top - bottom, 1.0), 160.0)
    shift = (paper.width - (right - left) * per_m) / 2

    def at(place: tuple[float, float]) -> tuple[float, float]:
        return shift + (place[0] - left) * per_m, paper.height - 40 - (place[1] - bottom) * per_m

    ground = at((0.0, 0.0))[1]
    drawn = [at(p) for p in places]
    parts: list[object] = [
        tag("path", d=f"M0 {ground:.1f}H{paper.width}", class_="ground"),
        text(paper.width - 8, ground + 18, "ground", "tick-text end"),
        _outdoor(drawn[0], per_m),
        _head(drawn[-1], per_m),
    ]
    gas = max(5.0, min(11.0, 0.05 * per_m))
    for i, (a, b) in enumerate(pairwise(drawn), start=1):
        hidden = points[i - 1][1] > 0 and points[i][1] > 0
        state = " tight" if i in tight else " inside" if hidden else ""
        parts.append(tag("path", d=path([a, b]), class_=f"gas{state}", stroke_width=gas))
    parts.append(tag("path", d=path(drawn), class_="liquid", stroke_width=gas / 3.2))
    # Labels keep clear of the two units as they do of each other.
    taken: list[Spot] = [
        (drawn[0][0] - 0.4 * per_m, drawn[0][1] + 0.11 * per_m),
        (drawn[-1][0] - 0.21 * per_m, drawn[-1][1]),
    ]
    for i in range(1, len(points)):
        long_m = _length(points[i - 1], points[i])
        parts.append(_dimension(i, drawn[i - 1], drawn[i], long_m, system, paper, taken))
    parts.append(_ruler(per_m, paper, system))
    told = "; ".join(
        f"leg {i} {show(_length(points[i - 1], points[i]), 'length', system).text}"
        for i in range(1, len(points))
    )
    label = f"Run drawn to scale, from the outdoor valves: {told}"
    size = "drawing-wide" if paper.width > 500 else "drawing-narrow"
    return drawing(paper.width, paper.height, label, f"elevation {size}", *parts)


def _length(a: list[float], b: list[float]) -> float:
    return float(sum((q - p) ** 2 for p, q in zip(a, b, strict=True)) ** 0.5)


def _outdoor(valve: tuple[float, float], per_m: float) -> Markup:
    """The outdoor unit, 0.8 × 0.55 m, its valves at the run's first corner."""
    w, h = 0.8 * per_m, 0.55 * per_m
    x, y = valve[0] - w, valve[1] - 0.3 * h
    return tag(
        "g",
        tag("rect", x=x, y=y, width=w, height=h, rx=4.0, class_="unit"),
        tag("circle", cx=x + 0.42 * w, cy=y + h / 2, r=0.38 * h, class_="fan"),
    )


def _head(joint: tuple[float, float], per_m: float) -> Markup:
    """The head, 0.85 × 0.29 m, around the run's last corner."""
    w, h = 0.85 * per_m, 0.29 * per_m
    return tag(
        "rect",
        x=joint[0] - 0.75 * w,
        y=joint[1] - 0.65 * h,
        width=w,
        height=h,
        rx=5.0,
        class_="unit head",
    )


def _dimension(
    number: int,
    a: Spot,
    b: Spot,
    length_m: float,
    system: System,
    paper: Paper,
    taken: list[Spot],
) -> Markup:
    """A leg's number and length beside its middle, where no other label stands yet."""
    x, y = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
    words = show(length_m, "length", system).text
    half = LETTER * (len(words) + 3) / 2
    across = [(x + half + 14, y + 5), (x - half - 14, y + 5)]
    along = [(x, y - 14), (x, y + 26)]
    upright = abs(b[1] - a[1]) > abs(b[0] - a[0])
    spots = [*across, *along] if upright else [*along, *across]
    spots += [(px, py + up) for px, py in spots for up in (-22.0, 22.0, 44.0)]
    inside = [s for s in spots if half < s[0] < paper.width - half and 14 < s[1] < paper.height]
    free = [s for s in inside if all(abs(s[0] - t[0]) > 84 or abs(s[1] - t[1]) > 20 for t in taken)]
    spot = (free or inside or spots)[0]
    taken.append(spot)
    return tag(
        "text",
        tag("tspan", f"{number}  ", class_="leg-number"),
        tag("tspan", words),
        x=spot[0],
        y=spot[1],
        class_="dimension middle",
    )


def _ruler(per_m: float, paper: Paper, system: System) -> Markup:
    """A drawn scale: one metre, or three feet."""
    length_m, words = (0.9144, "3 ft") if system == "us" else (1.0, "1 m")
    y = paper.height - 14
    return tag(
        "g",
        tag("path", d=f"M12 {y - 5:.1f}V{y:.1f}H{12 + length_m * per_m:.1f}v-5", class_="ruler"),
        text(18 + length_m * per_m, y, words, "tick-text"),
    )
