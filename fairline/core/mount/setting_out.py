"""The setting-out card: the few measurements to take on the real wall, in the order of use."""

import math

from fairline.core.calc.bracket_rail import BracketRailResult
from fairline.core.calc.ceiling_position import CeilingPositionRequest
from fairline.core.calc.head_position import HeadPositionRequest, HeadPositionResult
from fairline.core.call import Answer, Frozen
from fairline.core.mount.wall import WallPlace, off_the_body
from fairline.core.mount.yard import YardPlace
from fairline.core.quantities import both
from fairline.core.sheet import Head, Outdoor


class Mark(Frozen):
    """One mark to make: how far along and how far up, SI; ``note`` says what it is for."""

    what: str
    along_m: float | None = None
    up_m: float | None = None
    note: str = ""


class Card(Frozen):
    """The marks of one place; ``along`` and ``up`` say from where they are measured."""

    title: str
    along: str
    up: str
    marks: tuple[Mark, ...]


def wall_card(
    zone: str, place: WallPlace, head: Head, asked: HeadPositionRequest, result: HeadPositionResult
) -> Card:
    """Plate, screws, hole and pilot on a wall."""
    x, y = asked.head.x_m, asked.head.y_m
    mark_x, mark_y = head.from_mark(0.0, 0.0)
    marks = [
        Mark(what="Centre line of the head", along_m=x, note="Plumb line"),
        Mark(what="Underside of the head", up_m=y, note="Level line"),
        Mark(
            what="Plate's mark",
            along_m=x + mark_x,
            up_m=y + mark_y,
            note="The plate is not centred on the head" if abs(mark_x) > 1e-4 else "",
        ),
    ]
    seen = off_the_body(asked)
    for n, screw in enumerate(asked.screws):
        if f"screw {n + 1}" in seen:
            continue  # the sheet measures it from another point: nobody drills there
        held = n in result.screws_in_studs
        bad = n in result.screws_at_services
        note = "Leave out: pipe or wire" if bad else "Into the stud" if held else "Anchor"
        marks.append(
            Mark(what=f"Screw {n + 1}", along_m=x + screw.x_m, up_m=y + screw.y_m, note=note)
        )
    if asked.hole is not None and "the hole" not in seen:
        hole = asked.hole
        hx, hy = x + hole.x_m, y + hole.y_m
        marks.append(
            Mark(
                what="Centre of the hole, inside",
                along_m=hx,
                up_m=hy,
                note=f"Saw {both(hole.diameter_m, 'small')}",
            )
        )
        thick = place.thickness_m
        tilt = math.degrees(math.atan2(hole.fall_m, thick)) if thick else None
        way = (
            "Pilot from outside, hammer off near the face"
            if place.kind == "masonry"
            else "Pilot from inside, finish from outside"
        )
        marks.append(
            Mark(
                what="Pilot",
                along_m=hx,
                up_m=hy,
                note=f"{way}; drill tipped down {tilt:.1f}°" if tilt is not None else way,
            )
        )
        marks.append(
            Mark(
                what="Centre of the hole, outside",
                along_m=hx,
                up_m=hy - hole.fall_m,
                note=f"{both(hole.fall_m, 'small')} lower than inside",
            )
        )
    half = asked.head.width_m / 2
    marks.append(Mark(what="Left end of the head", along_m=x - half, note="To check by eye"))
    marks.append(Mark(what="Right end of the head", along_m=x + half, note="To check by eye"))
    return Card(
        title=f"Head {zone}, {head.model}",
        along="from the left corner",
        up="above the finished floor",
        marks=tuple(marks),
    )


def ceiling_card(zone: str, asked: CeilingPositionRequest, head: Head) -> Card:
    """Opening and hangers in the plan of a ceiling."""
    b = asked.body
    marks = [Mark(what="Centre of the head", along_m=b.x_m, up_m=b.y_m)]
    for what, sx, sy in (
        ("Opening, left far corner", -1, -1),
        ("Opening, right far corner", 1, -1),
        ("Opening, right near corner", 1, 1),
        ("Opening, left near corner", -1, 1),
    ):
        marks.append(
            Mark(what=what, along_m=b.x_m + sx * b.width_m / 2, up_m=b.y_m + sy * b.length_m / 2)
        )
    if b.hanger_width_m and b.hanger_length_m:
        for n, (sx, sy) in enumerate(((-1, -1), (1, -1), (1, 1), (-1, 1)), 1):
            marks.append(
                Mark(
                    what=f"Hanger {n}",
                    along_m=b.x_m + sx * b.hanger_width_m / 2,
                    up_m=b.y_m + sy * b.hanger_length_m / 2,
                )
            )
    return Card(
        title=f"Head {zone}, {head.model}",
        along="from the left wall",
        up="from the far wall",
        marks=tuple(marks),
    )


def yard_card(
    place: YardPlace, unit: Outdoor, found: Answer[BracketRailResult] | None
) -> Card | None:
    """The unit's feet, its base, and the rail ``found`` with its lags; None without a place."""
    if place.x_m is None or place.y_m is None or not unit.width_m:
        return None
    marks = [
        Mark(what="Left side of the unit", along_m=place.x_m),
        Mark(what="Right side of the unit", along_m=place.x_m + unit.width_m),
        Mark(what="Back of the unit, off the wall", up_m=place.y_m),
        Mark(what="Base above the ground", up_m=place.base_m or 0.0),
    ]
    if unit.feet_width_m:
        middle = place.x_m + unit.width_m / 2
        for what, side in (("Left feet", -1), ("Right feet", 1)):
            marks.append(Mark(what=what, along_m=middle + side * unit.feet_width_m / 2))
    if found is not None and place.support == "bracket" and place.rail_left_m is not None:
        marks.append(Mark(what="Left end of the rail", along_m=place.rail_left_m))
        for n, stud in enumerate(found.result.studs_m, 1):
            marks.append(Mark(what=f"Lag {n}", along_m=stud, note="Into the stud"))
    return Card(
        title=f"Outdoor unit, {unit.model}",
        along="from the wall's left end",
        up="off the wall, or above the ground",
        marks=tuple(marks),
    )
