"""The wall to scale, seen from the room: studs, windows, the head with plate, screws and hole."""

from markupsafe import Markup

from fairline.core.calc.head_position import HeadPositionRequest, HeadPositionResult
from fairline.core.mount.wall import WAYS, WallPlace
from fairline.core.sheet import Head
from fairline.core.units import System
from fairline.web.drawing.board import (
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
from fairline.web.drawing.svg import path, tag, text

EMPTY_M = (4.0, 2.5)  # the wall that is drawn before one is measured


def wall(
    zone: str,
    place: WallPlace,
    head: Head,
    asked: HeadPositionRequest | None,
    result: HeadPositionResult | None,
    system: System,
) -> list[Markup]:
    """The wall for a wide and a narrow screen."""
    return [_drawn(zone, place, head, asked, result, system, w) for w in (WIDE, NARROW)]


def _drawn(
    zone: str,
    place: WallPlace,
    head: Head,
    asked: HeadPositionRequest | None,
    result: HeadPositionResult | None,
    system: System,
    width: float,
) -> Markup:
    wide_m, tall_m = place.width_m or EMPTY_M[0], place.ceiling_m or EMPTY_M[1]
    b = board(width, wide_m, tall_m, system, 440.0 if width > 500 else 400.0)
    prefix = f"walls.{zone}"
    parts: list[object] = [b.rect(0, 0, wide_m, tall_m, "surface")]
    for stud in place.stud_list():
        half = (place.stud_width_m or 0.0381) / 2
        parts.append(b.rect(stud - half, 0, 2 * half, tall_m, "stud"))
    parts.append(_edges(b, wide_m, tall_m))
    parts += [_thing(b, prefix, n, place) for n, t in enumerate(place.things) if t.whole]
    told = f"Wall of zone {zone}, {b.say(wide_m)} wide, ceiling at {b.say(tall_m)}"
    size = (head.width_m or 0.8, head.height_m or 0.3)
    if place.x_m is not None and place.y_m is not None:
        if asked and result:
            parts += _clear_zone(b, place, asked)
            parts += _dimensions(b, place, asked, result, wide_m)
        parts.append(_head(b, prefix, place, size, asked, result))
        told += f"; head centred {b.say(place.x_m)} from the left corner, underside "
        told += f"{b.say(place.y_m)} above the floor"
        if result and result.nearest and (result.nearest.right_m or result.nearest.up_m):
            near = result.nearest
            if abs(near.right_m) + abs(near.up_m) > 1e-3:
                parts.append(b.rect(near.x_m - size[0] / 2, near.y_m, *size, "ghost"))
                told += f"; everything holds at {b.say(near.x_m)} and {b.say(near.y_m)}"
    parts.append(ruler(b))
    return plan_svg(b, f"wall-{zone}", told, *parts)


def _edges(b: Board, wide_m: float, tall_m: float) -> Markup:
    """Floor, ceiling and the two corners."""
    left, right, floor, top = b.x(0), b.x(wide_m), b.y(0), b.y(tall_m)
    return tag(
        "g",
        tag(
            "path",
            d=path([(left, top), (left, floor), (right, floor), (right, top)], True),
            class_="corner",
        ),
        tag("path", d=f"M{left - 14:.1f} {floor:.1f}H{right + 14:.1f}", class_="floor"),
    )


def _thing(b: Board, prefix: str, n: int, place: WallPlace) -> Markup:
    thing = place.things[n]
    x, y = thing.x_m or 0.0, thing.y_m or 0.0
    w, h = thing.width_m or 0.1, thing.height_m or 0.1
    wide = w * b.per_m
    words = f"{n + 1} {thing.kind}" if wide > 8.2 * (len(thing.kind) + 3) else str(n + 1)
    inner: list[object] = [b.rect(x, y, w, h, f"thing {WAYS[thing.kind]} {thing.kind}")]
    if thing.kind == "window":
        mid, low, high = b.x(x + w / 2), b.y(y), b.y(y + h)
        inner.append(tag("path", d=f"M{mid:.1f} {low:.1f}V{high:.1f}", class_="mullion"))
    inner.append(text(*b.label_at(x + w / 2, y + h / 2, words), words, "thing-text middle"))
    name = f"{prefix}.things.{n}"
    return piece(
        b,
        f"{prefix.replace('.', '-')}-thing-{n}",
        (f"{name}.x_m", f"{name}.y_m"),
        (x, y),
        f"{n + 1}, {thing.kind}, {b.say(x)} from the left, {b.say(y)} above the floor",
        *inner,
    )


def _clear_zone(b: Board, place: WallPlace, asked: HeadPositionRequest) -> list[object]:
    """What the limits keep clear around the head, as a dashed frame."""
    x, y, half = place.x_m or 0.0, place.y_m or 0.0, asked.head.width_m / 2
    c = asked.clear
    return [
        b.rect(
            x - half - c.left_m,
            y - c.below_m,
            2 * half + c.left_m + c.right_m,
            asked.head.height_m + c.above_m + c.below_m,
            "keep",
        )
    ]


def _head(
    b: Board,
    prefix: str,
    place: WallPlace,
    size: tuple[float, float],
    asked: HeadPositionRequest | None,
    result: HeadPositionResult | None,
) -> Markup:
    x, y = place.x_m or 0.0, place.y_m or 0.0
    inner: list[object] = [
        b.rect(x - size[0] / 2, y, *size, "head"),
        tag("path", d=f"M{b.x(x):.1f} {b.y(y) + 7:.1f}V{b.y(y + size[1]) - 7:.1f}", class_="axis"),
    ]
    if asked and asked.hole:
        hole = asked.hole
        bad = result is not None and (
            (result.hole_stud_m is not None and result.hole_stud_m < hole.stud_margin_m - 1e-6)
            or (
                result.hole_service_m is not None
                and result.hole_service_m < hole.service_margin_m - 1e-6
            )
            or bool(result.hole_meets)
        )
        inner.append(
            tag(
                "circle",
                cx=b.x(x + hole.x_m),
                cy=b.y(y + hole.y_m),
                r=max(hole.diameter_m / 2 * b.per_m, 3.0),
                class_="hole bad" if bad else "hole",
            )
        )
    for n, screw in enumerate(asked.screws if asked else []):
        held = result is not None and n in result.screws_in_studs
        at_service = result is not None and n in result.screws_at_services
        state = "screw bad" if at_service else "screw held" if held else "screw"
        inner.append(
            tag("circle", cx=b.x(x + screw.x_m), cy=b.y(y + screw.y_m), r=3.6, class_=state)
        )
    return piece(
        b,
        f"{prefix.replace('.', '-')}-head",
        (f"{prefix}.x_m", f"{prefix}.y_m"),
        (x, y),
        f"The head, centred {b.say(x)} from the left corner, underside {b.say(y)} up",
        *inner,
    )


def _dimensions(
    b: Board,
    place: WallPlace,
    asked: HeadPositionRequest,
    m: HeadPositionResult,
    wide_m: float,
) -> list[object]:
    """What lies free on each side, and the height of the underside."""
    x, y, half = place.x_m or 0.0, place.y_m or 0.0, asked.head.width_m / 2
    c, level = asked.clear, b.y(y) + 16.0  # below the head, where no other figure stands
    top = y + asked.head.height_m

    def state(value: float, least: float) -> str:
        return "bad" if value < least - 1e-6 else ""

    parts: list[object] = [
        across(
            b,
            x - half - m.clear_left_m,
            x - half,
            level,
            b.say(m.clear_left_m),
            state(m.clear_left_m, c.left_m),
        ),
        across(
            b,
            x + half,
            x + half + m.clear_right_m,
            level,
            b.say(m.clear_right_m),
            state(m.clear_right_m, c.right_m),
        ),
        upward(
            b,
            top,
            top + m.clear_above_m,
            b.x(x) + 4,
            b.say(m.clear_above_m),
            state(m.clear_above_m, c.above_m),
        ),
        upward(b, 0.0, y, b.x(min(x + half * 0.55, wide_m)), b.say(y), state(y, c.low_m)),
    ]
    return parts
