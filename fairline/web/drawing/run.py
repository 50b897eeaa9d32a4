"""One run drawn to scale: its elevation, unrolled wall by wall, and its plan with the others.

What can be moved names the fields it changes: a leg's end stretches that leg, a leg between two
others slides and takes from one what it gives to the other.
"""

import json
from dataclasses import dataclass

from markupsafe import Markup

from fairline.core.quantities import show
from fairline.core.route.entry import OUTDOOR, STEP, Level
from fairline.core.route.piping import LegDrawn, Piping, Point, Stretch
from fairline.core.route.traps import Trap
from fairline.core.units import System
from fairline.web.drawing.board import NARROW, WIDE, Board, board, plan_svg, ruler
from fairline.web.drawing.labels import Labels
from fairline.web.drawing.svg import path, tag, text

UPRIGHT = ("up", "down")
SHORTEST_LABELLED = 30.0  # on the plan a shorter leg has no room for its length
TICK_LETTER = 7.0  # how wide a letter of a small label is, about
Flat = tuple[float, float]
Put = tuple[str, str, float, float]  # a field, the axis that moves it, its sign, what it holds


@dataclass(frozen=True)
class Face:
    """A leg on paper: from where to where, in metres; ``sense`` of its way along the paper."""

    leg: LegDrawn
    start: Flat
    end: Flat
    sense: float


def unrolled(legs: tuple[LegDrawn, ...]) -> tuple[list[Face], list[float]]:
    """The legs with all walls laid into one plane, and the places of the folds between them.

    Along one wall right and left are kept; where the run turns off a wall it goes on the way it
    was going.
    """
    if not legs:
        return [], []
    u, sense, axis, before = 0.0, 1.0, "", ""
    faces, folds = [], []
    for leg in legs:
        dz = leg.end[2] - leg.start[2]
        if leg.direction in UPRIGHT:
            faces.append(Face(leg, (u, leg.start[2]), (u, leg.end[2]), 1.0 if dz > 0 else -1.0))
            continue
        now = "x" if leg.direction in ("left", "right") else "y"
        if not axis:
            sense = -1.0 if leg.direction == "left" else 1.0
        elif now == axis and leg.direction != before:
            sense = -sense
        elif now != axis:
            folds.append(u)
        axis, before = now, leg.direction
        end = u + sense * leg.length_m
        faces.append(Face(leg, (u, leg.start[2]), (end, leg.end[2]), sense))
        u = end
    return faces, folds


def _planned(legs: tuple[LegDrawn, ...]) -> list[Face]:
    return [
        Face(leg, leg.start[:2], leg.end[:2], sum(STEP[leg.direction][:2]) or 1.0) for leg in legs
    ]


def _box(points: list[Flat], spare: float) -> tuple[float, float, float, float]:
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    return min(xs) - spare, min(ys) - spare, max(xs) + spare, max(ys) + spare


class _Paper:
    """A board whose lower left corner is not at nought."""

    def __init__(
        self, width: float, box: tuple[float, float, float, float], system: System, most: float
    ) -> None:
        self.left, self.foot, right, top = box
        self.b: Board = board(
            width,
            right - self.left,
            top - self.foot,
            system,
            most,
            margins=(14.0, 14.0, 26.0, 12.0),
        )
        self.labels = Labels(self.b.width, self.b.height)

    def at(self, place: Flat) -> Flat:
        return self.b.x(place[0] - self.left), self.b.y(place[1] - self.foot)


def run_drawings(
    stretch: Stretch, pipes: Piping, levels: tuple[Level, ...], traps: list[Trap], system: System
) -> list[Markup]:
    """Elevation and plan, each for a wide and a narrow screen; none without a leg."""
    if not stretch.legs:
        return []
    return [
        drawn
        for width in (WIDE, NARROW)
        for drawn in (
            _elevation(stretch, levels, traps, system, width),
            _plan(stretch, pipes, system, width),
        )
    ]


def _elevation(
    stretch: Stretch, levels: tuple[Level, ...], traps: list[Trap], system: System, width: float
) -> Markup:
    faces, folds = unrolled(stretch.legs)
    box = _box(_elevation_points(stretch, faces, levels), 0.45)
    paper = _Paper(width, box, system, 400.0 if width > 500 else 380.0)
    parts: list[object] = [_cut_wall(f, paper, box) for f in faces if f.leg.crosses]
    parts += _levels(paper, levels, box, faces[-1].end)
    for fold in folds:
        top, foot = paper.at((fold, box[3])), paper.at((fold, box[1]))
        parts.append(tag("path", d=path([top, foot]), class_="fold"))
    parts += _tube(stretch, faces, paper)
    for trap in traps:
        if trap.run == stretch.id and (spot := _on(faces, trap.at)):
            parts.append(_trap(paper.at(spot), trap.kind))
    parts += _ends(stretch, faces, paper)
    parts += _numbers(stretch, faces, paper, system)
    if not stretch.kit:
        parts += _handles(stretch, faces, paper, "e", UPRIGHT)
    told = "; ".join(
        f"{f.leg.direction} {show(f.leg.length_m, 'length', system).text}" for f in faces
    )
    parts.append(ruler(paper.b))
    return plan_svg(
        paper.b,
        f"elevation-{stretch.id}",
        f"Run {stretch.id} unrolled, seen from outside, to scale: {told}",
        *parts,
    )


def _elevation_points(stretch: Stretch, faces: list[Face], levels: tuple[Level, ...]) -> list[Flat]:
    """What the paper must hold: the run, the ground, and the floors that are near it."""
    points = [faces[0].start, *(f.end for f in faces), (0.0, 0.0)]
    low, high = min(p[1] for p in points), max(p[1] for p in points)
    known = [lv.height_m for lv in levels if lv.height_m is not None]
    points += [(0.0, h) for h in known if low - 0.5 < h < high + 1.2]
    if stretch.start == OUTDOOR:
        points.append((faces[0].start[0] - 0.5, faces[0].start[1]))
    return points


def _cut_wall(face: Face, paper: _Paper, box: tuple[float, float, float, float]) -> Markup:
    a, z = paper.at((face.start[0], box[3])), paper.at((face.end[0], box[1]))
    left, wide = min(a[0], z[0]), abs(z[0] - a[0])
    return tag("rect", x=left, y=a[1], width=wide, height=z[1] - a[1], class_="wall-cut")


def _levels(
    paper: _Paper, levels: tuple[Level, ...], box: tuple[float, float, float, float], head: Flat
) -> list[Markup]:
    """The ground and every floor, named at the end where the head does not hang."""
    hangs = paper.at(head)
    shown = [(0.0, "ground"), *((lv.height_m, lv.name) for lv in levels if lv.height_m)]
    found = []
    for height, name in shown:
        if height is not None and box[1] <= height <= box[3]:
            a, z = paper.at((box[0], height)), paper.at((box[2], height))
            found.append(tag("path", d=path([a, z]), class_="level" if height else "ground"))
            left = abs(hangs[1] - a[1]) < 40 and hangs[0] > paper.b.width - 160
            half = TICK_LETTER * len(name) / 2
            spot, anchor = (8.0, "start") if left else (paper.b.width - 8, "end")
            found.append(text(spot, a[1] - 5, name, f"tick-text {anchor}"))
            paper.labels.keep_clear(spot + (half if left else -half), a[1] - 5, half)
    return found


def _plan(stretch: Stretch, pipes: Piping, system: System, width: float) -> Markup:
    faces = _planned(stretch.legs)
    others = [s for s in pipes.stretches if s.id != stretch.id and s.legs]
    points = [faces[0].start, *(f.end for f in faces)]
    points += [leg.end[:2] for s in others for leg in s.legs]
    box = _box(points, 0.5)
    paper = _Paper(width, box, system, 330.0)
    parts: list[object] = _plan_wall(pipes, others, paper, box)
    for other in others:
        corners = [paper.at(other.legs[0].start[:2]), *(paper.at(x.end[:2]) for x in other.legs)]
        parts.append(tag("path", d=path(corners), class_="gas other"))
        parts.append(text(corners[-1][0] + 6, corners[-1][1] - 6, other.id, "tick-text"))
    parts += _tube(stretch, faces, paper)
    parts += [_upright(f, paper) for f in faces if f.leg.direction in UPRIGHT]
    lying = [f for f in faces if f.leg.direction not in UPRIGHT]
    long = [f for f in lying if f.leg.length_m * paper.b.per_m > SHORTEST_LABELLED]
    parts += _numbers(stretch, long, paper, system)
    if not stretch.kit:
        parts += _handles(stretch, lying, paper, "p", ("in", "out"))
    parts.append(ruler(paper.b))
    return plan_svg(
        paper.b,
        f"plan-{stretch.id}",
        f"Run {stretch.id} from above, to scale, with the others beside it",
        *parts,
    )


def _plan_wall(
    pipes: Piping, others: list[Stretch], paper: _Paper, box: tuple[float, float, float, float]
) -> list[object]:
    """The wall that is crossed, with its words at the end on which no other run ends."""
    wall = next((leg for s in pipes.stretches for leg in s.legs if leg.crosses), None)
    if wall is None:
        return []
    y0, y1 = sorted((wall.start[1], wall.end[1]))
    a, z = paper.at((box[0], y1)), paper.at((box[2], y0))
    ends = [paper.at(s.legs[-1].end[:2]) for s in others]
    left = not any(abs(x - a[0]) < 70 and abs(y - a[1]) < 26 for x, y in ends)
    spot, anchor = (a[0] + 4, "tick-text") if left else (z[0] - 4, "tick-text end")
    paper.labels.keep_clear(spot + (21 if left else -21), a[1] - 5, 24.0)
    return [
        tag("rect", x=a[0], y=a[1], width=z[0] - a[0], height=z[1] - a[1], class_="wall-cut"),
        text(spot, a[1] - 5, "inside", anchor),
    ]


def _upright(face: Face, paper: _Paper) -> Markup:
    """A leg that goes up or down, seen from above."""
    x, y = paper.at(face.start)
    mark = "M-5 0H5M0 -5V5" if face.leg.direction == "up" else "M-4 -4L4 4M-4 4L4 -4"
    return tag(
        "g",
        tag("circle", cx=0.0, cy=0.0, r=7.0, class_="upright"),
        tag("path", d=mark, class_="upright-mark"),
        transform=f"translate({x:.1f} {y:.1f})",
    )


def _tube(stretch: Stretch, faces: list[Face], paper: _Paper) -> list[Markup]:
    gas = max(5.0, min(10.0, 0.05 * paper.b.per_m))
    found = []
    for face in faces:
        state = (
            " tight"
            if stretch.tight(face.leg)
            else ("" if face.leg.setting == "outside" else " inside")
        )
        ends = [paper.at(face.start), paper.at(face.end)]
        found.append(tag("path", d=path(ends), class_=f"gas{state}", stroke_width=gas))
    corners = [paper.at(faces[0].start), *(paper.at(f.end) for f in faces)]
    found.append(tag("path", d=path(corners), class_="liquid", stroke_width=gas / 3.2))
    return found


def _ends(stretch: Stretch, faces: list[Face], paper: _Paper) -> list[Markup]:
    """What the run begins and ends at, drawn about as large as it is."""
    found = []
    for name, spot in ((stretch.start, faces[0].start), (stretch.id, faces[-1].end)):
        x, y = paper.at(spot)
        w, h = {"o": (0.8, 0.55), "b": (0.45, 0.3), "t": (0.14, 0.14)}.get(name[0], (0.85, 0.29))
        w, h = w * paper.b.per_m, h * paper.b.per_m
        left = x - w if name == OUTDOOR else x - w / 2
        body = tag("rect", x=left, y=y - h / 2, width=w, height=h, rx=4.0, class_="unit")
        fan = tag("circle", cx=left + 0.42 * w, cy=y, r=0.38 * h, class_="fan")
        found.append(tag("g", body, fan if name == OUTDOOR else None))
        paper.labels.keep_clear(left + w / 2, y, w / 2)
        if name != OUTDOOR:
            found.append(
                text(x, y + 5, name.replace("tee", "T").replace("box", "box "), "unit-text middle")
            )
    return found


def _numbers(stretch: Stretch, faces: list[Face], paper: _Paper, system: System) -> list[Markup]:
    return [
        paper.labels.beside(
            paper.at(f.start),
            paper.at(f.end),
            str(f.leg.number) if f.leg.number else stretch.along,
            show(f.leg.length_m, "length", system).text,
            "shared" if not f.leg.number else "",
        )
        for f in faces
    ]


def _on(faces: list[Face], point: Point) -> Flat | None:
    """Where a point of the run lies on the unrolled paper."""
    for face in faces:
        a, z = face.leg.start, face.leg.end
        inside = all(
            min(p, q) - 1e-6 <= v <= max(p, q) + 1e-6 for p, q, v in zip(a, z, point, strict=True)
        )
        if inside:
            return (face.start[0], point[2]) if face.leg.direction in UPRIGHT else face.start
    return None


def _trap(at: Flat, kind: str) -> Markup:
    bend = "M-7 -8V0A7 7 0 0 0 7 0V-8" if kind != "inverted" else "M-7 8V0A7 7 0 0 1 7 0V8"
    return tag("path", d=bend, class_="trap", transform=f"translate({at[0]:.1f} {at[1]:.1f})")


def _handles(
    stretch: Stretch, faces: list[Face], paper: _Paper, prefix: str, upward: tuple[str, ...]
) -> list[Markup]:
    """The ends of own legs to stretch them, and legs between two others to slide them."""
    slides = [_slide(stretch, face, faces, paper, prefix, upward) for face in faces]
    return [s for s in slides if s is not None] + [
        _end_handle(stretch, face, paper, prefix) for face in faces if face.leg.number
    ]


def _slide(
    stretch: Stretch,
    face: Face,
    faces: list[Face],
    paper: _Paper,
    prefix: str,
    upward: tuple[str, ...],
) -> Markup | None:
    """An own leg that slides between its neighbours; None where one of them cannot give way."""
    by_leg = {id(f.leg): f for f in faces}
    order = list(stretch.legs)
    at = order.index(face.leg)
    before = order[at - 1] if at else None
    after = order[at + 1] if at + 1 < len(order) else None
    if not face.leg.number or before is None or not before.number:
        return None
    up = face.leg.direction in upward
    sides = [before] if after is None else [before, after]
    # Sliding a leg beside the wall would change the wall's thickness.
    if any(x.crosses or id(x) not in by_leg or (x.direction in upward) == up for x in sides):
        return None
    puts = [_put(stretch, by_leg[id(x)], sign) for x, sign in zip(sides, (1.0, -1.0), strict=False)]
    name = f"{prefix}-slide-{stretch.id}-{face.leg.number}"
    grip = tag("path", d=path([paper.at(face.start), paper.at(face.end)]), class_="grip")
    return _piece(paper, name, face.start, puts, f"Leg {face.leg.number}, slide", grip)


def _end_handle(stretch: Stretch, face: Face, paper: _Paper, prefix: str) -> Markup:
    x, y = paper.at(face.end)
    return _piece(
        paper,
        f"{prefix}-end-{stretch.id}-{face.leg.number}",
        face.end,
        [_put(stretch, face, 1.0)],
        f"Leg {face.leg.number}, longer or shorter",
        tag("circle", cx=x, cy=y, r=7.0, class_="handle"),
        tag("circle", cx=x, cy=y, r=22.0, class_="grip"),
    )


def _put(stretch: Stretch, face: Face, sign: float) -> Put:
    name = f"runs.{stretch.id}.legs.{face.leg.number - 1}.length_m"
    axis = "y" if abs(face.end[1] - face.start[1]) > 1e-9 else "x"
    moved = (face.end[1] - face.start[1]) if axis == "y" else (face.end[0] - face.start[0])
    return name, axis, sign * (1.0 if moved >= 0 else -1.0), face.leg.length_m


def _piece(
    paper: _Paper, name: str, at: Flat, puts: list[Put], label: str, *children: object
) -> Markup:
    """A group that moves several fields at once; ``at`` is its place on the paper in metres."""
    return tag(
        "g",
        *children,
        id=f"{name}-{paper.b.suffix}",
        class_="piece",
        tabindex="0",
        role="button",
        aria_label=f"{label}. Arrow keys move it, with Shift finely.",
        data_at_x=f"{at[0]:.6f}",
        data_at_y=f"{at[1]:.6f}",
        data_puts=json.dumps([[n, a, s, round(v, 6)] for n, a, s, v in puts]),
    )
