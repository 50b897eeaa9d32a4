"""The ceiling to scale, seen from below: joists, lights, the head with hangers and hatch."""

from markupsafe import Markup

from fairline.core.calc.ceiling_position import CeilingPositionRequest, CeilingPositionResult
from fairline.core.mount.ceiling import CeilingPlace
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
from fairline.web.drawing.svg import tag, text

EMPTY_M = (4.0, 3.0)


def ceiling(
    zone: str,
    place: CeilingPlace,
    asked: CeilingPositionRequest | None,
    result: CeilingPositionResult | None,
    system: System,
) -> list[Markup]:
    """The plan for a wide and a narrow screen."""
    return [_drawn(zone, place, asked, result, system, w) for w in (WIDE, NARROW)]


def _drawn(
    zone: str,
    place: CeilingPlace,
    asked: CeilingPositionRequest | None,
    result: CeilingPositionResult | None,
    system: System,
    width: float,
) -> Markup:
    wide_m, long_m = place.width_m or EMPTY_M[0], place.length_m or EMPTY_M[1]
    b = board(width, wide_m, long_m, system, 440.0 if width > 500 else 400.0, downward=True)
    parts: list[object] = [b.rect(0, 0, wide_m, long_m, "surface")]
    half = (place.stud_width_m or 0.0381) / 2
    for joist in place.joist_list():
        if place.joists_along == "x":
            parts.append(b.rect(0, joist - half, wide_m, 2 * half, "stud"))
        else:
            parts.append(b.rect(joist - half, 0, 2 * half, long_m, "stud"))
    parts.append(b.rect(0, 0, wide_m, long_m, "corner"))
    prefix = f"ceilings.{zone}"
    for n, thing in enumerate(place.things):
        if thing.whole:
            parts.append(_thing(b, prefix, n, place))
    told = f"Ceiling of zone {zone} from below, {b.say(wide_m)} by {b.say(long_m)}"
    if asked and place.x_m is not None and place.y_m is not None:
        body = asked.body
        x0, y0 = body.x_m - body.width_m / 2, body.y_m - body.length_m / 2
        parts += [
            across(b, 0.0, x0, b.y(body.y_m), b.say(x0)),
            upward(b, 0.0, y0, b.x(body.x_m), b.say(y0)),
            _head(b, prefix, asked, result),
        ]
        told += (
            f"; head centred {b.say(body.x_m)} from the left wall, {b.say(body.y_m)} from the far"
        )
        near = result.nearest if result else None
        if near and abs(near.right_m) + abs(near.up_m) > 1e-3:
            parts.append(
                b.rect(
                    near.x_m - body.width_m / 2,
                    near.y_m - body.length_m / 2,
                    body.width_m,
                    body.length_m,
                    "ghost",
                )
            )
    parts.append(ruler(b))
    return plan_svg(b, f"ceiling-{zone}", told, *parts)


def _thing(b: Board, prefix: str, n: int, place: CeilingPlace) -> Markup:
    thing = place.things[n]
    x, y = thing.x_m or 0.0, thing.y_m or 0.0
    w, length = thing.width_m or 0.1, thing.length_m or 0.1
    name = f"{prefix}.things.{n}"
    return piece(
        b,
        f"{prefix.replace('.', '-')}-thing-{n}",
        (f"{name}.x_m", f"{name}.y_m"),
        (x, y),
        f"{n + 1}, {thing.kind}",
        b.rect(x, y, w, length, f"thing standing {thing.kind}"),
        text(*b.label_at(x + w / 2, y + length / 2, str(n + 1)), str(n + 1), "thing-text middle"),
    )


def _head(
    b: Board, prefix: str, asked: CeilingPositionRequest, result: CeilingPositionResult | None
) -> Markup:
    body = asked.body
    inner: list[object] = [
        b.rect(
            body.x_m - body.width_m / 2,
            body.y_m - body.length_m / 2,
            body.width_m,
            body.length_m,
            "head",
        )
    ]
    if body.hanger_width_m and body.hanger_length_m:
        w, h = body.hanger_width_m / 2, body.hanger_length_m / 2
        for n, (sx, sy) in enumerate(((-1, 1), (1, 1), (1, -1), (-1, -1)), 1):
            off = result is not None and n in result.hangers_off and not asked.rails
            inner.append(
                tag(
                    "circle",
                    cx=b.x(body.x_m + sx * w),
                    cy=b.y(body.y_m + sy * h),
                    r=4.0,
                    class_="screw" if off else "screw held",
                )
            )
    return piece(
        b,
        f"{prefix.replace('.', '-')}-head",
        (f"{prefix}.x_m", f"{prefix}.y_m"),
        (body.x_m, body.y_m),
        "The head in its ceiling",
        *inner,
    )
