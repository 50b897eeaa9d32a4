"""The outdoor unit to scale: its plan before the wall, and the wall's elevation behind it."""

from dataclasses import replace

from markupsafe import Markup

from fairline.core.calc.outdoor_position import (
    OutdoorBody,
    OutdoorPositionRequest,
    OutdoorPositionResult,
)
from fairline.core.mount.yard import TALL_M, WAYS, InYard, YardPlace
from fairline.core.sheet import Outdoor
from fairline.core.survey.stage import SurveyEntry
from fairline.core.units import System
from fairline.web.drawing.board import (
    LETTER,
    NARROW,
    WIDE,
    Board,
    across,
    board,
    piece,
    plan_svg,
    ruler,
    upward,
)
from fairline.web.drawing.svg import tag, text

EMPTY_M = (5.0, 2.5)
AROUND_M = 1.0  # drawn beyond what has to stay clear
MOST_OF_WALL = 0.75  # of a wall: when more than that would be drawn, all of it is


def yard(
    place: YardPlace,
    survey: SurveyEntry,
    unit: Outdoor,
    asked: OutdoorPositionRequest | None,
    result: OutdoorPositionResult | None,
    system: System,
) -> list[Markup]:
    """Plan and elevation, each for a wide and a narrow screen."""
    return [
        drawn
        for width in (WIDE, NARROW)
        for drawn in (
            _plan(place, unit, asked, result, system, width),
            _elevation(place, survey, unit, asked, system, width),
        )
    ]


def _unit_above(
    b: Board, asked: OutdoorPositionRequest, result: OutdoorPositionResult | None
) -> list[object]:
    """The unit and the space it wants, where it would hold, and what is clear around it."""
    u, c = asked.unit, asked.clear
    wide, deep = u.width_m + c.left_m + c.right_m, u.depth_m + c.front_m + min(c.behind_m, u.y_m)
    parts: list[object] = [
        b.rect(u.x_m - c.left_m, max(u.y_m - c.behind_m, 0.0), wide, deep, "keep")
    ]
    near = result.nearest if result else None
    if near and abs(near.right_m) + abs(near.up_m) > 1e-3:
        parts.append(b.rect(near.x_m, near.y_m, u.width_m, u.depth_m, "ghost"))
    tip = f"M{b.x(u.x_m + u.width_m / 2) - 9:.1f} {b.y(u.y_m + u.depth_m) - 8:.1f}l9 8l9 -8"
    parts.append(
        piece(
            b,
            "outdoor-unit",
            ("outdoor.x_m", "outdoor.y_m"),
            (u.x_m, u.y_m),
            f"The outdoor unit, {b.say(u.x_m)} from the wall's left end, "
            f"{b.say(u.y_m)} off the wall",
            b.rect(u.x_m, u.y_m, u.width_m, u.depth_m, "head"),
            tag("path", d=tip, class_="blows"),
        )
    )
    return parts + _clear_around(b, asked, result) if result else parts


def _clear_around(
    b: Board, asked: OutdoorPositionRequest, result: OutdoorPositionResult
) -> list[object]:
    """What is clear behind, at both sides and before the unit, against what it wants."""
    u, c = asked.unit, asked.clear

    def state(value: float, least: float) -> str:
        return "bad" if value < least - 1e-6 else ""

    middle, front = b.x(u.x_m + u.width_m / 2), u.y_m + u.depth_m
    parts: list[object] = [
        upward(b, 0, u.y_m, middle, b.say(u.y_m), state(u.y_m, c.behind_m)),
    ]
    left, right, before = result.clear_left_m, result.clear_right_m, result.clear_front_m
    height = b.y(u.y_m + u.depth_m / 2)
    if left is not None:
        x1 = u.x_m
        parts.append(across(b, x1 - left, x1, height, b.say(left), state(left, c.left_m)))
    if right is not None:
        x0 = u.x_m + u.width_m
        parts.append(across(b, x0, x0 + right, height, b.say(right), state(right, c.right_m)))
    if before is not None:
        bad = state(before, c.front_m)
        parts.append(upward(b, front, front + before, middle + 16, b.say(before), bad))
    return parts


def _plan(
    place: YardPlace,
    unit: Outdoor,
    asked: OutdoorPositionRequest | None,
    result: OutdoorPositionResult | None,
    system: System,
    width: float,
) -> Markup:
    wall_m, deep_m = place.wall_m or EMPTY_M[0], place.yard_m or EMPTY_M[1]
    (from_m, to_m), shown_m = _window(asked, wall_m, deep_m)
    paper = board(
        width,
        to_m - from_m,
        shown_m,
        system,
        330.0,
        downward=True,
        margins=(20.0, 20.0, 34.0, 34.0),
    )
    b = replace(paper, left=paper.left - from_m * paper.per_m, right_m=wall_m, up_m=deep_m)
    parts: list[object] = [
        b.rect(0, 0, wall_m, deep_m, "surface"),
        tag("rect", x=b.x(0), y=b.foot - 14, width=wall_m * b.per_m, height=14.0, class_="house"),
        text(
            min(b.x(wall_m), width - 20) - 4,
            b.foot - 19,
            "house wall, from above",
            "measure-text end",
        ),
    ]
    for n, thing in enumerate(place.things):
        if thing.whole:
            parts.append(_thing_above(b, n, place))
    told = f"The yard from above, wall {b.say(wall_m)} long"
    if asked and place.x_m is not None and place.y_m is not None:
        u = asked.unit
        parts += _unit_above(b, asked, result)
        told += f"; the unit {b.say(u.x_m)} from its left end, {b.say(u.y_m)} off it"
    parts.append(ruler(b))
    return plan_svg(b, "yard", told, *parts)


def _window(
    asked: OutdoorPositionRequest | None, wall_m: float, deep_m: float
) -> tuple[tuple[float, float], float]:
    """What of a wide lot is drawn: the unit's surroundings along the wall, and how deep."""
    if asked is None:
        return (0.0, wall_m), deep_m
    u, c = asked.unit, asked.clear
    low, high = u.x_m - c.left_m - AROUND_M, u.x_m + u.width_m + c.right_m + AROUND_M
    deep = min(deep_m, u.y_m + u.depth_m + c.front_m + AROUND_M)
    if high - low > wall_m * MOST_OF_WALL:
        return (0.0, wall_m), deep
    return (max(low, 0.0), min(high, wall_m)), deep


def _thing_above(b: Board, n: int, place: YardPlace) -> Markup:
    thing = place.things[n]
    x, y = thing.x_m or 0.0, thing.y_m or 0.0
    w, d = thing.width_m or 0.1, thing.depth_m or 0.1
    kind = thing.kind.replace("-", " ")
    inner: list[object] = [b.rect(x, y, w, d, f"thing {WAYS[thing.kind]} {thing.kind}")]
    if thing.kind == "sash":
        hinge, swing = (b.x(x), b.y(y)), min(w, d) * b.per_m
        inner.append(
            tag(
                "path",
                d=f"M{hinge[0] + swing:.1f} {hinge[1]:.1f}A{swing:.1f} {swing:.1f} 0 0 1 "
                f"{hinge[0]:.1f} {hinge[1] + swing:.1f}L{hinge[0]:.1f} {hinge[1]:.1f}",
                class_="swing",
            )
        )
    wide = w * b.per_m > 8.2 * (len(kind) + 3)
    words = f"{n + 1} {kind}" if wide else str(n + 1)
    inner.append(text(*b.label_at(x + w / 2, y + d / 2, words), words, "thing-text middle"))
    name = f"outdoor.things.{n}"
    return piece(
        b, f"outdoor-thing-{n}", (f"{name}.x_m", f"{name}.y_m"), (x, y), f"{n + 1}, {kind}", *inner
    )


def _elevation(
    place: YardPlace,
    survey: SurveyEntry,
    unit: Outdoor,
    asked: OutdoorPositionRequest | None,
    system: System,
    width: float,
) -> Markup:
    """The wall from the yard: the unit on its base, studs behind a rail, snow and flood."""
    wall_m = place.wall_m or EMPTY_M[0]
    base = max(place.base_m or 0.0, 0.0)
    tall_m = max(TALL_M, base + (unit.height_m or 0.6) + 0.3)
    b = board(width, wall_m, tall_m, system, 300.0, margins=(20.0, 20.0, 30.0, 14.0))
    parts: list[object] = [b.rect(0, 0, wall_m, tall_m, "surface")]
    for stud in place.stud_list():
        parts.append(b.rect(stud - 0.019, 0, 0.038, tall_m, "stud"))
    for n, thing in enumerate(place.things, 1):
        if thing.whole:
            parts += _thing_seen(b, n, thing, tall_m)
    for level, name in ((survey.snow_m, "snow"), (survey.flood_m, "flood")):
        if level:
            high, words = min(level, tall_m), f"{name} {b.say(level)}"
            parts.append(b.rect(0, 0, wall_m, high, f"level {name}"))
            parts.append(_level_words(b, place, wall_m, b.y(high), words, tall_m))
    told = f"The wall from the yard, {b.say(wall_m)} long"
    if asked:
        parts += _unit_seen(b, place, asked.unit, base)
        told += f"; the unit's base {b.say(base)} above the ground"
    floor = f"M{b.x(0) - 14:.1f} {b.y(0):.1f}H{b.x(wall_m) + 14:.1f}"
    parts.append(tag("path", d=floor, class_="floor"))
    return plan_svg(b, "yard-elevation", told, *parts)


def _level_words(
    b: Board, place: YardPlace, wall_m: float, y: float, words: str, tall_m: float
) -> Markup:
    """The name of a level, at an end of its line where no number of a thing stands."""
    numbers = [
        b.label_at(*_middle(thing, tall_m), str(n))
        for n, thing in enumerate(place.things, 1)
        if thing.whole
    ]
    wide = LETTER * len(words)
    spots = [(x, y + up) for up in (-5.0, 15.0) for x in (b.x(wall_m) - 6, b.x(0) + 6)]

    def clear(spot: tuple[float, float]) -> bool:
        middle = spot[0] - wide / 2 if spot[0] > b.width / 2 else spot[0] + wide / 2
        return all(abs(middle - x) > wide / 2 + 12 or abs(spot[1] - at) > 18 for x, at in numbers)

    x, at = next((spot for spot in spots if clear(spot)), spots[0])
    return text(x, at, words, f"measure-text {'end' if x > b.width / 2 else 'start'}")


def _middle(thing: InYard, tall_m: float) -> tuple[float, float]:
    """The middle of a thing as it is seen from the yard, in m."""
    low = max(thing.bottom_m or 0.0, 0.0)
    top = thing.top_m if thing.top_m is not None else tall_m
    return (thing.x_m or 0.0) + (thing.width_m or 0.1) / 2, (low + min(top, tall_m)) / 2


def _thing_seen(b: Board, n: int, thing: InYard, tall_m: float) -> list[Markup]:
    """Something in the yard as it stands before the wall, with its number."""
    x, wide = thing.x_m or 0.0, thing.width_m or 0.1
    low = max(thing.bottom_m or 0.0, 0.0)
    top = thing.top_m if thing.top_m is not None else tall_m
    kind = f"thing {WAYS[thing.kind]} {thing.kind} seen"
    return [
        b.rect(x, low, wide, max(top - low, 0.02), kind),
        text(*b.label_at(*_middle(thing, tall_m), str(n)), str(n), "thing-text middle"),
    ]


def _unit_seen(b: Board, place: YardPlace, u: OutdoorBody, base: float) -> list[Markup]:
    """The unit on its base, its fan, and the rail with its lags."""
    parts = _legs(b, place, u, base) if base > 0 else []
    parts.append(b.rect(u.x_m, base, u.width_m, u.height_m, "head"))
    parts.append(
        tag(
            "circle",
            cx=b.x(u.x_m + 0.42 * u.width_m),
            cy=b.y(base + u.height_m / 2),
            r=0.36 * u.height_m * b.per_m,
            class_="fan",
        )
    )
    up = base + min(place.arm_m or 0.4, u.height_m)
    left = place.rail_left_m
    if place.support == "bracket" and place.rail_m and left is not None:
        parts.append(b.rect(left, up, place.rail_m, 0.05, "rail"))
        parts += [
            tag("circle", cx=b.x(stud), cy=b.y(up + 0.025), r=4.0, class_="screw held")
            for stud in place.stud_list()
            if left < stud < left + place.rail_m
        ]
    if base > 0:
        parts.append(upward(b, 0, base, b.x(u.x_m + u.width_m) + 8, b.say(base)))
    return parts


def _legs(b: Board, place: YardPlace, u: OutdoorBody, base: float) -> list[Markup]:
    """What carries the unit: a stand's or pad's feet from the ground, or a bracket's arms."""
    from_ground = place.support in ("stand", "pad")
    inset = 0.12 * u.width_m
    legs = [
        b.rect(at - 0.025, 0, 0.05, base, "leg")
        if from_ground
        else b.rect(at - 0.025, base - 0.05, 0.05, 0.05, "leg")
        for at in (u.x_m + inset, u.x_m + u.width_m - inset)
    ]
    if place.support == "pad":
        legs.append(b.rect(u.x_m - 0.05, 0, u.width_m + 0.1, base, "leg"))
    return legs
