"""An outdoor unit before its wall: clearances, sashes, vents, and the nearest place that holds."""

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.calc.head_position import Place, moved
from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict
from fairline.core.nearest import Rect, nearest
from fairline.core.quantities import both

Name = Annotated[str, Field(min_length=1, max_length=100)]
Metres = Annotated[float, Field(ge=-1000, le=1000)]
Length = Annotated[float, Field(ge=0, le=1000)]
Size = Annotated[float, Field(gt=0, le=1000)]
Way = Literal["solid", "sash", "vent", "bedroom", "boundary"]

EVERYWHERE_M = 1e4
OFF_THE_WALL = ("off the wall", "nearer the wall")  # what more and less of y means here


class YardThing(Request):
    """Something near the unit: along the wall, off the wall, and its range of heights.

    ``solid`` stands there; ``sash`` swings out as far as ``depth_m``; ``vent``, ``bedroom``
    window and ``boundary`` are kept at a distance.
    """

    id: Name
    way: Way
    x_m: Metres
    y_m: Metres = 0.0
    width_m: Size
    depth_m: Size
    bottom_m: Length = 0.0
    top_m: Length = 100.0

    @model_validator(mode="after")
    def _upright(self) -> "YardThing":
        if self.top_m < self.bottom_m:
            raise ValueError("top_m is below bottom_m")
        return self

    @property
    def rect(self) -> Rect:
        return Rect(self.x_m, self.x_m + self.width_m, self.y_m, self.y_m + self.depth_m)


class OutdoorBody(Request):
    """The unit: ``x_m`` its left side along the wall, ``y_m`` the gap behind, ``base_m`` up.

    ``least_base_m``: how far down it may be set, where its height is free (bracket, stand).
    """

    width_m: Size
    depth_m: Size
    height_m: Size
    x_m: Metres
    y_m: Length
    base_m: Length = 0.0
    least_base_m: Length | None = None


class OutdoorClear(Request):
    behind_m: Length = 0.0
    left_m: Length = 0.0
    right_m: Length = 0.0
    front_m: Length = 0.0
    above_m: Length = 0.0
    vent_m: Length | None = None
    bedroom_m: Length | None = None
    boundary_m: Length | None = None


class OutdoorPositionRequest(Request):
    """All in metres; the wall runs along x from 0 to ``wall_m``, the yard reaches ``yard_m``."""

    wall_m: Size
    yard_m: Size
    unit: OutdoorBody
    clear: OutdoorClear = OutdoorClear()
    things: Annotated[list[YardThing], Field(max_length=100)] = []


class OutdoorPositionResult(Frozen):
    """Measured at the given place; None where nothing stands on that side."""

    clear_behind_m: float
    clear_left_m: float | None
    clear_right_m: float | None
    clear_front_m: float | None
    clear_above_m: float | None
    sashes: tuple[str, ...]
    overlaps: tuple[str, ...]
    intake_vents: tuple[str, ...]
    distances_m: dict[str, float]
    corners: tuple[str, ...] = ()
    beyond: tuple[str, ...] = ()
    nearest: Place | None
    lower_to_m: float | None = None


def outdoor_position(request: OutdoorPositionRequest) -> Answer[OutdoorPositionResult]:
    """Measure an outdoor unit's clearances and find the nearest place where all of them hold.

    A sash is kept clear over the whole square it swings in; distances are straight lines, and
    the nearest place keeps them with square corners, which is on the safe side.

    >>> asked = {"wall_m": 5.0, "yard_m": 3.0, "clear": {"behind_m": 0.1},
    ...          "unit": {"width_m": 0.8, "depth_m": 0.3, "height_m": 0.6, "x_m": 1.0, "y_m": 0.2}}
    >>> outdoor_position(OutdoorPositionRequest.model_validate(asked)).result.clear_behind_m
    0.2
    """
    r = request
    result = _measured(r)
    faults = _faults(r, result)
    place = result.nearest
    lower = _lower(r) if faults else None
    if lower is not None:
        result = result.model_copy(update={"lower_to_m": lower})
    if not faults:
        call = Call(verdict=Verdict.HOLDS, because="Every clearance around the unit holds.")
    else:
        call = Call(
            verdict=Verdict.SHORT,
            because=f"{next(iter(faults.values()))}.",
            do_next=f"Lower the unit to {both(lower, 'length')} above the ground: there everything "
            "holds."
            if lower is not None
            else f"Move the unit {moved(place, *OFF_THE_WALL)}: there everything holds."
            if place
            else "No place along this wall holds: another wall, or move what stands there.",
        )
    working = [
        Step(step=f"clear {side}", expression="unit's side to the nearest thing", value=v, unit="m")
        for side, v in (
            ("behind", result.clear_behind_m),
            ("left", result.clear_left_m),
            ("right", result.clear_right_m),
            ("in front", result.clear_front_m),
            ("above", result.clear_above_m),
        )
        if v is not None
    ]
    return Answer[OutdoorPositionResult](
        call=call, working=tuple(working), findings=tuple(faults), result=result
    )


def _meets_height(r: OutdoorPositionRequest, thing: YardThing) -> bool:
    top = r.unit.base_m + r.unit.height_m
    return thing.bottom_m < top - 1e-9 and thing.top_m > r.unit.base_m + 1e-9


def _measured(r: OutdoorPositionRequest) -> OutdoorPositionResult:
    u, around = r.unit, _Surroundings(r)
    for thing in r.things:
        if thing.way in ("vent", "bedroom", "boundary"):
            around.kept_away(thing)
        elif _meets_height(r, thing):
            around.beside(thing)
        elif thing.way == "solid":
            around.over(thing)
    sides = around.sides
    return OutdoorPositionResult(
        clear_behind_m=min(u.y_m, sides.get("behind", u.y_m)),
        clear_left_m=sides.get("left"),
        clear_right_m=sides.get("right"),
        clear_front_m=sides.get("front"),
        clear_above_m=sides.get("above"),
        sashes=tuple(around.sashes),
        overlaps=tuple(around.overlaps),
        intake_vents=tuple(around.vents),
        corners=tuple(around.corners) if not around.overlaps else (),
        beyond=_beyond(r),
        distances_m=around.distances,
        nearest=_nearest(r),
    )


class _Surroundings:
    """What stands around the unit, gathered thing by thing: the gap at each side, and what is in
    the way."""

    def __init__(self, r: OutdoorPositionRequest) -> None:
        u = self.unit = r.unit
        self.request = r
        self.body = Rect(u.x_m, u.x_m + u.width_m, u.y_m, u.y_m + u.depth_m)
        self.sides: dict[str, float] = {}
        self.distances: dict[str, float] = {}
        self.sashes: list[str] = []
        self.overlaps: list[str] = []
        self.vents: list[str] = []
        self.corners: list[str] = []

    def _gap(self, side: str, gap: float) -> None:
        self.sides[side] = min(self.sides.get(side, gap), gap)

    def _meets(self, rect: Rect) -> tuple[bool, bool]:
        """Whether it stands beside the unit, and whether before or behind it."""
        body = self.body
        beside = rect.y0 < body.y1 - 1e-9 and rect.y1 > body.y0 + 1e-9
        before = rect.x0 < body.x1 - 1e-9 and rect.x1 > body.x0 + 1e-9
        return beside, before

    def kept_away(self, thing: YardThing) -> None:
        """A vent, a bedroom window, the boundary: how far, and whether it blows into the intake."""
        r, body = self.request, self.body
        self.distances[thing.id] = _distance(body, self.unit, thing)
        intake = body.grown(r.clear.left_m, 0.0, body.y0, 0.0)
        if thing.way == "vent" and _overlap(intake, thing.rect) and _meets_height(r, thing):
            self.vents.append(thing.id)

    def over(self, thing: YardThing) -> None:
        """Something solid above the unit."""
        top = self.unit.base_m + self.unit.height_m
        if all(self._meets(thing.rect)) and thing.bottom_m >= top - 1e-9:
            self._gap("above", thing.bottom_m - top)

    def beside(self, thing: YardThing) -> None:
        """Something at the unit's height."""
        rect, body = thing.rect, self.body
        beside, before = self._meets(rect)
        if beside and before:
            (self.sashes if thing.way == "sash" else self.overlaps).append(thing.id)
        if thing.way == "sash":
            return
        corners = _at_corners(self.request, rect) if not beside and not before else []
        if any(_overlap(body, grown) for grown in corners):
            self.corners.append(thing.id)
        if beside:
            left = (rect.x0 + rect.x1) / 2 < (body.x0 + body.x1) / 2
            self._gap(*(("left", body.x0 - rect.x1) if left else ("right", rect.x0 - body.x1)))
        if before:
            behind = (rect.y0 + rect.y1) / 2 < (body.y0 + body.y1) / 2
            self._gap(*(("behind", body.y0 - rect.y1) if behind else ("front", rect.y0 - body.y1)))


def _at_corners(r: OutdoorPositionRequest, rect: Rect) -> list[Rect]:
    """What stands off a corner of the unit forbids the lesser of the two clearances beside it."""
    c = r.clear
    return [
        rect.grown(m, 0.0, m, 0.0)
        if (right, front) == (1, 1)
        else rect.grown(0.0, m, m, 0.0)
        if front
        else rect.grown(m, 0.0, 0.0, m)
        if right
        else rect.grown(0.0, m, 0.0, m)
        for right in (0, 1)
        for front in (0, 1)
        for m in (min(c.right_m if right else c.left_m, c.front_m if front else c.behind_m),)
    ]


def _beyond(r: OutdoorPositionRequest) -> tuple[str, ...]:
    """Ends of the wall and of the yard that the unit stands beyond."""
    u, tiny = r.unit, 1e-6
    ends = (
        ("the wall's left end", u.x_m < -tiny),
        ("the wall's right end", u.x_m + u.width_m > r.wall_m + tiny),
        ("the yard's end", u.y_m + u.depth_m > r.yard_m + tiny),
    )
    return tuple(name for name, past in ends if past)


def _lower(r: OutdoorPositionRequest) -> float | None:
    """The highest base below the present one at which everything holds where it stands."""
    u = r.unit
    if u.least_base_m is None:
        return None
    tops = {t.bottom_m - u.height_m - extra for t in r.things for extra in (0.0, r.clear.above_m)}
    for base in sorted(tops, reverse=True):
        if u.least_base_m - 1e-9 <= base < u.base_m - 1e-6:
            lowered = r.model_copy(update={"unit": u.model_copy(update={"base_m": max(base, 0.0)})})
            if not _faults(lowered, _measured(lowered)):
                return max(base, 0.0)
    return None


def _overlap(a: Rect, b: Rect) -> bool:
    return a.x0 < b.x1 and b.x0 < a.x1 and a.y0 < b.y1 and b.y0 < a.y1


def _distance(body: Rect, unit: OutdoorBody, thing: YardThing) -> float:
    """Straight line between two boxes."""
    rect = thing.rect
    gaps = (
        max(rect.x0 - body.x1, body.x0 - rect.x1, 0.0),
        max(rect.y0 - body.y1, body.y0 - rect.y1, 0.0),
        max(thing.bottom_m - unit.base_m - unit.height_m, unit.base_m - thing.top_m, 0.0),
    )
    return math.hypot(*gaps)


def _faults(r: OutdoorPositionRequest, m: OutdoorPositionResult) -> dict[str, str]:
    c, tiny = r.clear, 1e-6
    found: dict[str, str] = {}
    if m.overlaps:
        found["overlap"] = f"The unit stands in {', '.join(m.overlaps)}"
    if m.corners:
        found["corner"] = f"{', '.join(m.corners)} stands at a corner of the unit"
    if m.beyond:
        found["beyond"] = f"The unit stands beyond {' and '.join(m.beyond)}"
    if m.sashes:
        found["sash"] = f"{', '.join(m.sashes)} swings into the unit"
    if m.intake_vents:
        found["vent_into_intake"] = f"{', '.join(m.intake_vents)} blows into the unit's intake"
    for side, value, least in (
        ("behind", m.clear_behind_m, c.behind_m),
        ("left", m.clear_left_m, c.left_m),
        ("right", m.clear_right_m, c.right_m),
        ("front", m.clear_front_m, c.front_m),
        ("above", m.clear_above_m, c.above_m),
    ):
        if value is not None and value < least - tiny:
            found[side] = (
                f"{both(max(value, 0.0), 'small')} clear {side}, {both(least, 'small')} wanted"
            )
    wanted = {"vent": c.vent_m, "bedroom": c.bedroom_m, "boundary": c.boundary_m}
    for thing in r.things:
        least_m = wanted.get(thing.way)
        if least_m is not None and m.distances_m[thing.id] < least_m - tiny:
            found[thing.way] = (
                f"{both(m.distances_m[thing.id], 'length')} to {thing.id}, "
                f"{both(least_m, 'length')} wanted"
            )
    return found


def _nearest(r: OutdoorPositionRequest) -> Place | None:
    u, c = r.unit, r.clear
    bounds = Rect(0.0, r.wall_m - u.width_m, c.behind_m, r.yard_m - u.depth_m)
    keep = {"vent": c.vent_m, "bedroom": c.bedroom_m, "boundary": c.boundary_m}
    forbidden: list[Rect] = []
    for thing in r.things:
        # A point is the unit's left rear corner: what it meets grows by its width and depth.
        covers = thing.rect.grown(u.width_m, 0.0, u.depth_m, 0.0)
        if thing.way in keep:
            least = keep[thing.way]
            away = max(thing.bottom_m - u.base_m - u.height_m, u.base_m - thing.top_m, 0.0)
            if least is not None and away < least:
                forbidden.append(covers.grown(least, least, least, least))
            if thing.way == "vent" and _meets_height(r, thing):
                forbidden.append(covers.grown(0.0, c.left_m, 0.0, EVERYWHERE_M))
        elif _meets_height(r, thing):
            forbidden.append(covers)
            if thing.way == "solid":
                forbidden.append(covers.grown(c.right_m, c.left_m, 0.0, 0.0))
                forbidden.append(covers.grown(0.0, 0.0, c.front_m, c.behind_m))
                forbidden += _at_corners(r, covers)
        elif thing.way == "solid" and 0 <= thing.bottom_m - u.base_m - u.height_m < c.above_m:
            forbidden.append(covers)
    found = nearest(u.x_m, u.y_m, bounds, forbidden)
    if found is None:
        return None
    x, y = found
    return Place(x_m=x, y_m=y, right_m=x - u.x_m, up_m=y - u.y_m)
