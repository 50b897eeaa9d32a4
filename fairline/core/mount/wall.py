"""A wall with a head on it: what is entered, and where on it everything holds."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from fairline.core.calc.fastener_load import FastenerLoadRequest, fastener_load
from fairline.core.calc.head_position import (
    HeadBody,
    HeadClear,
    HeadPositionRequest,
    HeadPositionResult,
    PlatePoint,
    WallHole,
    WallItem,
    head_position,
)
from fairline.core.call import Answer, Verdict
from fairline.core.entry import (
    DistanceM,
    Entry,
    LongText,
    SizeM,
    SmallM,
    Text,
    WallM,
    WeightKg,
    YesNo,
    blank,
)
from fairline.core.limit_list import LimitName
from fairline.core.mount.placed import SLACK_M, with_nearest
from fairline.core.mount.stud import STUD_M, SpacingM, Stud, stud_centres
from fairline.core.mount.throw import InFront
from fairline.core.practice import Rules
from fairline.core.sheet import Head
from fairline.core.sheet.part import Outlet

TOP_ROW_M = 0.02  # screws this near the topmost are pulled like it

WAYS: dict[str, Literal["flush", "standing", "service"]] = {
    "window": "flush",
    "door": "flush",
    "light": "flush",
    "socket": "flush",
    "curtain": "standing",
    "furniture": "standing",
    "shelf": "standing",
    "beam": "standing",
    "pipe": "service",
    "wire": "service",
}
ThingKind = Literal[
    "window", "door", "curtain", "furniture", "shelf", "beam", "light", "socket", "pipe", "wire"
]


class WallThing(Entry):
    """Something on or in the wall, from the left corner and the finished floor."""

    kind: ThingKind = "window"
    x_m: SmallM = None
    y_m: SmallM = None
    width_m: SizeM = None
    height_m: SizeM = None

    @property
    def whole(self) -> bool:
        return None not in (self.x_m, self.y_m) and bool(
            (self.width_m or 0) > 0 and (self.height_m or 0) > 0
        )


class WallPlace(Entry):
    """The wall as it is, and the head on it: ``x_m`` its centre line, ``y_m`` its underside.

    ``kind``: a framed wall, one that is open still (its sheathing comes later), or masonry.
    """

    width_m: WallM = None
    ceiling_m: WallM = None
    kind: Annotated[Literal["frame", "open", "masonry"] | None, BeforeValidator(blank)] = None
    thickness_m: SizeM = None
    stud_first_m: SmallM = None
    stud_spacing_m: SpacingM = None
    stud_width_m: SizeM = None
    studs: Annotated[tuple[Stud, ...], Field(max_length=60)] = ()
    things: Annotated[tuple[WallThing, ...], Field(max_length=60)] = ()
    x_m: SmallM = None
    y_m: SmallM = None
    front_m: DistanceM = None
    in_front: Annotated[tuple[InFront, ...], Field(max_length=12)] = ()
    low_reason: Text = ""
    outlet: Text = ""
    hole_fall_m: SmallM = None
    anchor_rated_kg: WeightKg = None
    plate: Annotated[Literal["level", "slight", "off"] | None, BeforeValidator(blank)] = None
    hole_m: SizeM = None
    looked: YesNo = None
    drain_low: YesNo = None
    cable_fed: YesNo = None
    drain_side: Annotated[Literal["left", "right"] | None, BeforeValidator(blank)] = None
    notes: LongText = ""

    def stud_list(self) -> list[float]:
        """Stud centres: each one found, else by spacing from the first."""
        return stud_centres(self.studs, self.stud_first_m, self.stud_spacing_m, self.width_m)


def outlet(place: WallPlace, head: Head) -> Outlet | None:
    return head.outlet(place.outlet)


def request(
    place: WallPlace, head: Head, rules: Rules, slack_m: float = 0.0, way_out: Outlet | None = None
) -> HeadPositionRequest | None:
    """The wall as the computation wants it; None while a size or the place is not known."""
    if place.x_m is None or place.y_m is None:
        return None
    if not (head.width_m and head.height_m and place.width_m and place.ceiling_m):
        return None
    screws = [head.from_mark(s.x_m, s.y_m) for s in head.screws]
    studs = place.stud_list()
    held = len(screws) >= 2 and len(studs) >= 1 and not anchors_do(place, head, rules)

    def limit_m(name: LimitName, slack: float = slack_m) -> float:
        return (rules.value(name) or 0.0) + slack

    return HeadPositionRequest(
        wall_width_m=place.width_m,
        ceiling_m=place.ceiling_m,
        studs_m=studs,
        stud_width_m=place.stud_width_m or STUD_M,
        items=[_item(t, n) for n, t in enumerate(place.things, 1) if t.whole],
        head=HeadBody(width_m=head.width_m, height_m=head.height_m, x_m=place.x_m, y_m=place.y_m),
        clear=HeadClear(
            left_m=limit_m("head_left"),
            right_m=limit_m("head_right"),
            above_m=limit_m("head_ceiling"),
            below_m=limit_m("head_below"),
            low_m=_low(place, head, rules) + slack_m,
            high_m=_high(head, rules),
        ),
        hole=_hole(place, head, rules, slack_m, way_out or outlet(place, head)),
        screws=[PlatePoint(x_m=x, y_m=y) for x, y in screws],
        screw_margin_m=limit_m("hole_service", 0.0),
        in_studs=2 if held else 0,
    )


def _item(thing: WallThing, number: int) -> WallItem:
    """What hangs on the wall or stands in it, as the computation wants it."""
    return WallItem(
        id=f"the {thing.kind} ({number})",
        way=WAYS[thing.kind],
        x_m=thing.x_m or 0.0,
        y_m=thing.y_m or 0.0,
        width_m=thing.width_m or 1.0,
        height_m=thing.height_m or 1.0,
    )


def _hole(
    place: WallPlace, head: Head, rules: Rules, slack_m: float, way_out: Outlet | None
) -> WallHole | None:
    """The hole behind the head; None where the lines leave it at a side."""
    size = rules.value("hole_size")
    if way_out is None or way_out.way != "back" or not size:
        return None
    x, y = head.from_mark(way_out.x_m, way_out.y_m)
    return WallHole(
        x_m=x,
        y_m=y,
        diameter_m=place.hole_m or size,
        fall_m=max(rules.value("hole_fall") or 0.0, place.hole_fall_m or 0.0),
        stud_margin_m=(rules.value("hole_stud") or 0.0) + slack_m,
        service_margin_m=(rules.value("hole_service") or 0.0) + slack_m,
    )


def off_the_body(asked: HeadPositionRequest) -> list[str]:
    """The hole and the screws that do not lie behind the head, in words: they would be seen."""
    half, height, tiny = asked.head.width_m / 2, asked.head.height_m, 1e-4
    points = [(f"screw {n}", s.x_m, s.y_m, 0.0) for n, s in enumerate(asked.screws, 1)]
    if asked.hole is not None:
        points.append(("the hole", asked.hole.x_m, asked.hole.y_m, asked.hole.diameter_m / 2))
    return [
        name
        for name, x, y, r in points
        if y - r < -tiny or y + r > height + tiny or abs(x) + r > half + tiny
    ]


def _low(place: WallPlace, head: Head, rules: Rules) -> float:
    """The least height, which a written reason lifts; a console stands where its sheet says."""
    if head.form == "console" and head.min_height_m is None:
        return 0.0
    if place.low_reason and place.y_m is not None:
        return min(place.y_m, rules.value("head_low") or 0.0)
    return rules.value("head_low") or 0.0


def _high(head: Head, rules: Rules) -> float | None:
    limit = rules.limit("head_high")
    if head.form == "console" and head.max_height_m is None:
        return None
    return limit.value if limit else None


def position(
    asked: HeadPositionRequest, place: WallPlace, head: Head, rules: Rules
) -> Answer[HeadPositionResult]:
    """The head measured where it hangs; the nearest place is sought with a pencil's width."""
    here = head_position(asked)
    if here.call.verdict is Verdict.HOLDS:
        return here
    return with_nearest(here, request(place, head, rules, SLACK_M), head_position, "the head")


def other_outlets(place: WallPlace, head: Head, rules: Rules) -> list[str]:
    """Other ways out through the back with which the head holds where it is, or near it."""
    now = outlet(place, head)
    found = []
    for way_out in head.outlets:
        if now is None or way_out.name == now.name or way_out.way != "back":
            continue
        asked = request(place, head, rules, 0.0, way_out)
        if asked and head_position(asked).call.verdict is Verdict.HOLDS:
            found.append(way_out.name)
    return found


def anchors(place: WallPlace, head: Head, rules: Rules) -> FastenerLoadRequest | None:
    """All screws of the plate taken as anchors; None while weight or screws are unknown."""
    rated = place.anchor_rated_kg or rules.value("anchor_rated")
    if head.weight_kg is None or not head.screws or not rated:
        return None
    heights = [s.y_m or 0.0 for s in head.screws]
    arm = max(heights) - min(heights)
    if arm <= 0 and head.mark_y_m is not None:
        # One row of screws: the head turns about its underside, where it leans on the wall.
        arm = max(0.0, head.from_mark(0.0, max(heights))[1])
    return FastenerLoadRequest(
        weight_kg=max(head.weight_kg, 0.01),
        carried_kg=rules.value("lines_weight") or 0.0,
        fasteners=len(head.screws),
        rated_kg=rated,
        margin=rules.value("anchor_factor") or 4.0,
        reach_m=(head.depth_m or 0.0) / 2,
        arm_m=arm,
        pulled=sum(h >= max(heights) - TOP_ROW_M for h in heights),
    )


def anchors_do(place: WallPlace, head: Head, rules: Rules) -> bool:
    asked = anchors(place, head, rules)
    return asked is not None and fastener_load(asked).call.verdict is Verdict.HOLDS
