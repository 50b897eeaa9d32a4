"""The outdoor unit before its wall: what is entered, and its judgement."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from fairline.core.calc.bracket_rail import BracketRailRequest, BracketRailResult, bracket_rail
from fairline.core.calc.outdoor_position import (
    OFF_THE_WALL,
    OutdoorBody,
    OutdoorClear,
    OutdoorPositionRequest,
    OutdoorPositionResult,
    Way,
    YardThing,
    outdoor_position,
)
from fairline.core.call import Answer, Verdict
from fairline.core.entry import (
    Count,
    DateText,
    Entry,
    LongText,
    OneOf,
    SizeM,
    SmallM,
    SpanM,
    WallM,
    WeightKg,
    YesNo,
    blank,
)
from fairline.core.limit_list import LimitName
from fairline.core.mount.placed import SLACK_M, with_nearest
from fairline.core.mount.stud import SpacingM, stud_centres
from fairline.core.practice import Rules
from fairline.core.sheet import Outdoor

YARD = "outdoor"  # the yard's key among the places
TALL_M = 2.5  # how high a thing is taken to reach where nobody says

YardKind = Literal[
    "wall",
    "fence",
    "shrub",
    "meter",
    "sash",
    "dryer-vent",
    "gas-vent",
    "bedroom-window",
    "property-line",
    "eave",
]
WAYS: dict[str, Way] = {
    "wall": "solid",
    "fence": "solid",
    "shrub": "solid",
    "meter": "solid",
    "eave": "solid",
    "sash": "sash",
    "dryer-vent": "vent",
    "gas-vent": "vent",
    "bedroom-window": "bedroom",
    "property-line": "boundary",
}


class InYard(Entry):
    """Something near the unit: along the wall, off the wall, and between which heights."""

    kind: YardKind = "wall"
    x_m: SmallM = None
    y_m: SmallM = None
    width_m: SizeM = None
    depth_m: SizeM = None
    bottom_m: SpanM = None
    top_m: SpanM = None

    @property
    def whole(self) -> bool:
        return self.x_m is not None and bool((self.width_m or 0) > 0 and (self.depth_m or 0) > 0)


class YardPlace(Entry):
    """The yard along one wall; ``x_m`` the unit's left side, ``y_m`` the gap behind it.

    ``above_free``: somebody looked up, and no eave, balcony or branch is above it. ``pulled``:
    fasteners of the bracket's top row, the ones that are pulled; ``lifted``: the unit
    hangs or stands already. ``posts``: of a stand of one's own. ``look_again``: the day on which
    a base on soft ground is looked at again. ``held_rated_kg``: what one fastener
    at a corner of a pad, stand or roof frame is rated for.
    """

    wall_m: WallM = None
    yard_m: WallM = None
    things: Annotated[tuple[InYard, ...], Field(max_length=60)] = ()
    x_m: SmallM = None
    y_m: SmallM = None
    base_m: SpanM = None
    support: Annotated[
        Literal["pad", "bracket", "stand", "roof"] | None, BeforeValidator(blank)
    ] = None
    bedroom_wall: YesNo = None
    rail_m: SizeM = None
    rail_left_m: SmallM = None
    stud_first_m: SmallM = None
    stud_spacing_m: SpacingM = None
    blocked: YesNo = None
    wall: Annotated[Literal["frame", "masonry"] | None, BeforeValidator(blank)] = None
    fasteners: Count = None
    pulled: Count = None
    fastener_rated_kg: WeightKg = None
    arm_m: SizeM = None
    above_free: YesNo = None
    people: Count = None
    lifted: YesNo = None
    aid: Annotated[Literal["none", "dolly", "hoist"] | None, BeforeValidator(blank)] = None
    frost_drain: Annotated[Literal["open", "hose", "plugged"] | None, BeforeValidator(blank)] = None
    pad_width_m: SizeM = None
    pad_depth_m: SizeM = None
    posts: Count = None
    post_depth_m: SizeM = None
    held_rated_kg: WeightKg = None
    ground: OneOf[Literal["firm", "soft"]] = None
    look_again: DateText = ""
    looked_again: YesNo = None
    level: YesNo = None
    anchored: YesNo = None
    notes: LongText = ""

    def stud_list(self) -> list[float]:
        return stud_centres((), self.stud_first_m, self.stud_spacing_m, self.wall_m)


def request(
    place: YardPlace, unit: Outdoor, rules: Rules, slack_m: float = 0.0, wet_m: float = 0.0
) -> OutdoorPositionRequest | None:
    """The yard as the computation wants it; ``wet_m`` is how high flood or snow comes."""
    if not (unit.width_m and unit.depth_m and unit.height_m and place.wall_m and place.yard_m):
        return None
    if place.x_m is None or place.y_m is None:
        return None

    def least(name: LimitName) -> float:
        return (rules.value(name) or 0.0) + slack_m

    least_base_m = min(100.0, max(0.0, wet_m + (rules.value("outdoor_under") or 0.0)))
    return OutdoorPositionRequest(
        wall_m=place.wall_m,
        yard_m=place.yard_m,
        unit=OutdoorBody(
            width_m=unit.width_m,
            depth_m=unit.depth_m,
            height_m=unit.height_m,
            x_m=place.x_m,
            y_m=max(place.y_m, 0.0),
            base_m=max(place.base_m or 0.0, 0.0),
            least_base_m=least_base_m if place.support in ("bracket", "stand") else None,
        ),
        clear=OutdoorClear(
            behind_m=least("outdoor_behind"),
            left_m=least("outdoor_left"),
            right_m=least("outdoor_right"),
            front_m=least("outdoor_front"),
            above_m=least("outdoor_above"),
            vent_m=rules.value("vent_distance"),
            bedroom_m=rules.value("bedroom_distance"),
            boundary_m=rules.value("boundary_distance"),
        ),
        things=[
            YardThing(
                id=f"the {t.kind.replace('-', ' ')} ({n})",
                way=WAYS[t.kind],
                x_m=t.x_m or 0.0,
                y_m=t.y_m or 0.0,
                width_m=t.width_m or 1.0,
                depth_m=t.depth_m or 1.0,
                bottom_m=max(t.bottom_m or 0.0, 0.0),
                top_m=max(t.top_m if t.top_m is not None else TALL_M, t.bottom_m or 0.0),
            )
            for n, t in enumerate(place.things, 1)
            if t.whole
        ],
    )


def position(
    asked: OutdoorPositionRequest, place: YardPlace, unit: Outdoor, rules: Rules, wet_m: float
) -> Answer[OutdoorPositionResult]:
    """The unit measured where it stands; the nearest place is sought with a pencil's width."""
    here = outdoor_position(asked)
    if here.call.verdict is Verdict.HOLDS or here.result.lower_to_m is not None:
        return here
    roomy = request(place, unit, rules, SLACK_M, wet_m)
    return with_nearest(here, roomy, outdoor_position, "the unit", *OFF_THE_WALL)


def rail(
    place: YardPlace, unit: Outdoor, least_studs: float = 2.0
) -> Answer[BracketRailResult] | None:
    if not place.rail_m or place.rail_left_m is None:
        return None
    return bracket_rail(
        BracketRailRequest(
            rail_m=place.rail_m,
            left_m=place.rail_left_m,
            studs_m=place.stud_list(),
            arms_m=unit.feet_width_m or None,
            blocked=place.blocked == "yes",
            least_studs=max(1, min(20, round(least_studs))),
        )
    )
