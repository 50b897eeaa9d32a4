"""A head on its wall: clearances, hole and screws, and the nearest place where all of it holds."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict
from fairline.core.nearest import EPSILON, Rect, nearest
from fairline.core.quantities import both

Name = Annotated[str, Field(min_length=1, max_length=100)]
Metres = Annotated[float, Field(ge=-1000, le=1000)]
Length = Annotated[float, Field(ge=0, le=1000)]
Size = Annotated[float, Field(gt=0, le=1000)]

STUD_EDGE_M = 0.006  # a screw this near a stud's edge splits it: our own choice
FAR_M = 1e6


class WallItem(Request):
    """Something on or in the wall, from the left corner and the finished floor.

    ``flush``: window, door, light; nothing may overlap it. ``standing``: curtain, shelf,
    furniture, beam; the head keeps its clearances. ``service``: pipe or wire inside the wall;
    hole and screws keep clear.
    """

    id: Name
    way: Literal["flush", "standing", "service"]
    x_m: Metres
    y_m: Metres
    width_m: Size
    height_m: Size

    @property
    def rect(self) -> Rect:
        return Rect(self.x_m, self.x_m + self.width_m, self.y_m, self.y_m + self.height_m)


class HeadBody(Request):
    """The head: ``x_m`` its centre line from the left corner, ``y_m`` its underside's height."""

    width_m: Size
    height_m: Size
    x_m: Metres
    y_m: Metres


class HeadClear(Request):
    """What is to stay clear around the head, and the range of its underside's height."""

    left_m: Length = 0.0
    right_m: Length = 0.0
    above_m: Length = 0.0
    below_m: Length = 0.0
    low_m: Length = 0.0
    high_m: Length | None = None


class PlatePoint(Request):
    """A point of the plate, right of the head's centre line and above its underside."""

    x_m: Metres
    y_m: Metres


class WallHole(Request):
    """The hole behind the head; ``fall_m`` is how much lower it leaves the wall outside."""

    x_m: Metres
    y_m: Metres
    diameter_m: Size
    fall_m: Length = 0.0
    stud_margin_m: Length = 0.0
    service_margin_m: Length = 0.0


class HeadPositionRequest(Request):
    """All in metres. ``studs_m`` are stud centres; ``in_studs`` how many screws must meet one."""

    wall_width_m: Size
    ceiling_m: Size
    studs_m: Annotated[list[Metres], Field(max_length=500)] = []
    stud_width_m: Size = 0.0381
    items: Annotated[list[WallItem], Field(max_length=200)] = []
    head: HeadBody
    clear: HeadClear = HeadClear()
    hole: WallHole | None = None
    screws: Annotated[list[PlatePoint], Field(max_length=60)] = []
    screw_margin_m: Length = 0.0
    in_studs: Annotated[int, Field(ge=0, le=60)] = 0

    @model_validator(mode="after")
    def _screws_enough(self) -> "HeadPositionRequest":
        if self.in_studs > len(self.screws):
            raise ValueError("in_studs asks for more screws than there are")
        return self


class Place(Frozen):
    x_m: float
    y_m: float
    right_m: float  # how far it moves: right and up of where it was
    up_m: float


class HeadPositionResult(Frozen):
    """Measured at the given place; a clearance under 0 overlaps. None: nothing to measure to."""

    clear_left_m: float
    clear_right_m: float
    clear_above_m: float
    clear_below_m: float
    overlaps: tuple[str, ...]
    hole_stud_m: float | None
    hole_service_m: float | None
    hole_meets: tuple[str, ...]
    screws_in_studs: tuple[int, ...]
    screws_at_services: tuple[int, ...]
    nearest: Place | None


def head_position(request: HeadPositionRequest) -> Answer[HeadPositionResult]:
    """Measure a head's clearances, hole and screws, and find the nearest place where all hold.

    The hole is kept clear as the rectangle that it sweeps through the wall, falling outwards.

    >>> asked = {"wall_width_m": 4.0, "ceiling_m": 2.6, "studs_m": [],
    ...          "head": {"width_m": 0.8, "height_m": 0.3, "x_m": 2.0, "y_m": 2.0}}
    >>> round(head_position(HeadPositionRequest.model_validate(asked)).result.clear_left_m, 3)
    1.6
    """
    result = _measured(request)
    faults = _faults(request, result)
    if not faults:
        call = Call(verdict=Verdict.HOLDS, because="Every clearance, the hole and the screws hold.")
    else:
        place = result.nearest
        call = Call(
            verdict=Verdict.STOP
            if "screw_at_service" in faults or "hole_at_service" in faults
            else Verdict.SHORT,
            because=f"{next(iter(faults.values()))}.",
            do_next=f"Move the head {moved(place)}: there everything holds."
            if place
            else "No place on this wall holds: another head, another outlet or another wall.",
        )
    head = request.head
    working = [
        Step(
            step="clear at the left",
            expression=f"{head.x_m:.3f} − {head.width_m:.3f} / 2 − nearest edge",
            value=result.clear_left_m,
            unit="m",
        ),
        Step(
            step="clear at the right",
            expression=f"nearest edge − {head.x_m:.3f} − {head.width_m:.3f} / 2",
            value=result.clear_right_m,
            unit="m",
        ),
        Step(
            step="clear above",
            expression=f"nearest edge − {head.y_m:.3f} − {head.height_m:.3f}",
            value=result.clear_above_m,
            unit="m",
        ),
    ]
    return Answer[HeadPositionResult](
        call=call, working=tuple(working), findings=tuple(faults), result=result
    )


def moved(place: Place, forth: str = "up", back: str = "down") -> str:
    """A move in words, in both unit systems; ``not at all`` where it is under half a millimetre.

    ``forth`` and ``back`` say what more and less of y means on this drawing.

    >>> moved(Place(x_m=1, y_m=2, right_m=0.0508, up_m=-0.0254))
    '51\xa0mm (2") to the right and 25\xa0mm (1") down'
    """
    parts = []
    if abs(place.right_m) > 5e-4:
        parts.append(
            f"{both(abs(place.right_m), 'small')} to the {'right' if place.right_m > 0 else 'left'}"
        )
    if abs(place.up_m) > 5e-4:
        parts.append(f"{both(abs(place.up_m), 'small')} {forth if place.up_m > 0 else back}")
    return " and ".join(parts) or "not at all"


def _body(head: HeadBody) -> Rect:
    half = head.width_m / 2
    return Rect(head.x_m - half, head.x_m + half, head.y_m, head.y_m + head.height_m)


def _clearances(r: HeadPositionRequest, body: Rect) -> tuple[list[float], list[str]]:
    """What is clear at the left, right, above and below (m), and the items that the head covers."""
    clear = [body.x0, r.wall_width_m - body.x1, r.ceiling_m - body.y1, body.y0]
    middle_x, middle_y = (body.x0 + body.x1) / 2, (body.y0 + body.y1) / 2
    overlaps = []
    for item in r.items:
        if item.way == "service":
            continue
        rect = item.rect
        beside = rect.y0 < body.y1 - EPSILON and rect.y1 > body.y0 + EPSILON
        over = rect.x0 < body.x1 - EPSILON and rect.x1 > body.x0 + EPSILON
        if beside and over:
            overlaps.append(item.id)
        if beside and item.way != "flush":
            left = (rect.x0 + rect.x1) / 2 < middle_x
            side, gap = (0, body.x0 - rect.x1) if left else (1, rect.x0 - body.x1)
            clear[side] = min(clear[side], gap)
        if over and item.way != "flush":
            above = (rect.y0 + rect.y1) / 2 > middle_y
            side, gap = (2, rect.y0 - body.y1) if above else (3, body.y0 - rect.y1)
            clear[side] = min(clear[side], gap)
    return clear, overlaps


def _screws_at_services(r: HeadPositionRequest) -> tuple[int, ...]:
    grown = [i.rect.grown(*[r.screw_margin_m] * 4) for i in r.items if i.way == "service"]
    spots = [(r.head.x_m + s.x_m, r.head.y_m + s.y_m) for s in r.screws]
    return tuple(n for n, spot in enumerate(spots) for rect in grown if rect.holds(*spot))


def _measured(r: HeadPositionRequest) -> HeadPositionResult:
    clear, overlaps = _clearances(r, _body(r.head))
    stud_gaps: list[float] = []
    services: list[float] = []
    meets: list[str] = []
    if r.hole:
        swept, half = _swept(r.hole, r.head), r.stud_width_m / 2
        stud_gaps = [max(s - half - swept.x1, swept.x0 - s - half) for s in r.studs_m]
        services = [_apart(swept, i.rect) for i in r.items if i.way == "service"]
        meets = [i.id for i in r.items if i.way == "flush" and _apart(swept, i.rect) < 0]
    return HeadPositionResult(
        clear_left_m=clear[0],
        clear_right_m=clear[1],
        clear_above_m=clear[2],
        clear_below_m=clear[3],
        overlaps=tuple(overlaps),
        hole_stud_m=min(stud_gaps, default=None),
        hole_service_m=min(services, default=None),
        hole_meets=tuple(meets),
        screws_in_studs=tuple(_in_studs(r, r.head.x_m)),
        screws_at_services=_screws_at_services(r),
        nearest=_nearest(r),
    )


def _faults(r: HeadPositionRequest, m: HeadPositionResult) -> dict[str, str]:
    """Finding codes with the sentence that says it, the gravest first."""
    c, tiny, top = r.clear, 1e-6, r.clear.high_m
    small = "small"
    tests = (
        (
            "hole_at_service",
            r.hole
            and m.hole_service_m is not None
            and m.hole_service_m < r.hole.service_margin_m - tiny,
            "The hole comes too near a pipe or wire",
        ),
        (
            "screw_at_service",
            bool(m.screws_at_services),
            "A screw of the plate comes too near a pipe or wire",
        ),
        ("overlap", bool(m.overlaps), f"The head covers {', '.join(m.overlaps)}"),
        (
            "hole_in_stud",
            r.hole and m.hole_stud_m is not None and m.hole_stud_m < r.hole.stud_margin_m - tiny,
            "The hole meets a stud",
        ),
        ("hole_meets", bool(m.hole_meets), f"The hole meets {', '.join(m.hole_meets)}"),
        (
            "left",
            m.clear_left_m < c.left_m - tiny,
            f"{both(m.clear_left_m, small)} at the left, {both(c.left_m, small)} wanted",
        ),
        (
            "right",
            m.clear_right_m < c.right_m - tiny,
            f"{both(m.clear_right_m, small)} at the right, {both(c.right_m, small)} wanted",
        ),
        (
            "above",
            m.clear_above_m < c.above_m - tiny,
            f"{both(m.clear_above_m, small)} above, {both(c.above_m, small)} wanted",
        ),
        (
            "below",
            m.clear_below_m < c.below_m - tiny,
            f"{both(m.clear_below_m, small)} below, {both(c.below_m, small)} wanted",
        ),
        (
            "low",
            r.head.y_m < c.low_m - tiny,
            f"The underside is {both(r.head.y_m, 'length')} up, {both(c.low_m, 'length')} wanted",
        ),
        (
            "high",
            top is not None and r.head.y_m > top + tiny,
            f"The underside is {both(r.head.y_m, 'length')} up, {both(top or 0, 'length')} at most",
        ),
        (
            "studs_missed",
            len(m.screws_in_studs) < r.in_studs,
            f"{len(m.screws_in_studs)} screws meet a stud, {r.in_studs} wanted",
        ),
    )
    return {code: text for code, wrong, text in tests if wrong}


def _swept(hole: WallHole, head: HeadBody) -> Rect:
    x, y, radius = head.x_m + hole.x_m, head.y_m + hole.y_m, hole.diameter_m / 2
    return Rect(x - radius, x + radius, y - radius - hole.fall_m, y + radius)


def _apart(a: Rect, b: Rect) -> float:
    """How far two rectangles are apart along the axis that keeps them apart; under 0: overlap."""
    return max(a.x0 - b.x1, b.x0 - a.x1, a.y0 - b.y1, b.y0 - a.y1)


def _in_studs(r: HeadPositionRequest, x: float) -> list[int]:
    """Which screws meet a stud, with the head's centre line at ``x``."""
    reach = r.stud_width_m / 2 - STUD_EDGE_M + EPSILON
    return [
        n for n, s in enumerate(r.screws) if any(abs(x + s.x_m - c) <= reach for c in r.studs_m)
    ]


def _nearest(r: HeadPositionRequest) -> Place | None:
    """In the plane of the head's place, what each thing forbids is one or two rectangles."""
    head, clear = r.head, r.clear
    half, tall = head.width_m / 2, head.height_m
    bounds = Rect(
        clear.left_m + half,
        r.wall_width_m - clear.right_m - half,
        max(clear.low_m, clear.below_m),
        min(r.ceiling_m - clear.above_m - tall, FAR_M if clear.high_m is None else clear.high_m),
    )
    forbidden: list[Rect] = []
    for item in r.items:
        rect = item.rect
        covers = rect.grown(half, half, tall, 0.0)
        if item.way != "service":
            forbidden.append(covers)
        if item.way == "standing":
            forbidden.append(covers.grown(clear.right_m, clear.left_m, 0.0, 0.0))
            forbidden.append(covers.grown(0.0, 0.0, clear.above_m, clear.below_m))
        if r.hole is not None and item.way != "standing":
            gap = r.hole.service_margin_m if item.way == "service" else 0.0
            around = r.hole.diameter_m / 2 + gap
            grown = rect.grown(around, around, around, around + r.hole.fall_m)
            forbidden.append(_shifted(grown, r.hole.x_m, r.hole.y_m))
        if item.way == "service":
            for s in r.screws:
                forbidden.append(_shifted(rect.grown(*[r.screw_margin_m] * 4), s.x_m, s.y_m))
    if r.hole is not None:
        around = r.hole.diameter_m / 2
        reach = r.stud_width_m / 2 + around + r.hole.stud_margin_m
        for stud in r.studs_m:
            band = Rect(stud - reach, stud + reach, -FAR_M, FAR_M)
            forbidden.append(_shifted(band, r.hole.x_m, 0.0))
        bounds = Rect(
            max(bounds.x0, around - r.hole.x_m),
            min(bounds.x1, r.wall_width_m - around - r.hole.x_m),
            max(bounds.y0, around + r.hole.fall_m - r.hole.y_m),
            min(bounds.y1, r.ceiling_m - around - r.hole.y_m),
        )
    reach = r.stud_width_m / 2 - STUD_EDGE_M
    breaks = (
        [c + side - s.x_m for s in r.screws for c in r.studs_m for side in (-reach, reach)]
        if r.in_studs
        else []
    )
    found = nearest(
        head.x_m,
        head.y_m,
        bounds,
        forbidden,
        (lambda x: len(_in_studs(r, x)) >= r.in_studs) if r.in_studs else (lambda x: True),
        breaks,
    )
    if found is None:
        return None
    x, y = found
    return Place(x_m=x, y_m=y, right_m=x - head.x_m, up_m=y - head.y_m)


def _shifted(rect: Rect, x: float, y: float) -> Rect:
    """What is forbidden to the head where it is a point of the head that must stay out."""
    return Rect(rect.x0 - x, rect.x1 - x, rect.y0 - y, rect.y1 - y)
