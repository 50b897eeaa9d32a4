"""A cassette or ducted head in its ceiling: joists, hangers, hatch, pump, and where it fits."""

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field

from fairline.core.calc.head_position import Place, moved
from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict
from fairline.core.nearest import Rect, nearest
from fairline.core.quantities import both

Name = Annotated[str, Field(min_length=1, max_length=100)]
Metres = Annotated[float, Field(ge=-1000, le=1000)]
Length = Annotated[float, Field(ge=0, le=1000)]
Size = Annotated[float, Field(gt=0, le=1000)]

FAR_WALL = ("away from the far wall", "towards the far wall")  # more and less of y


class CeilingThing(Request):
    """A light, duct, sprinkler or beam in the ceiling, from the room's left far corner."""

    id: Name
    x_m: Metres
    y_m: Metres
    width_m: Size
    length_m: Size

    @property
    def rect(self) -> Rect:
        return Rect(self.x_m, self.x_m + self.width_m, self.y_m, self.y_m + self.length_m)


class CeilingBody(Request):
    """The opening it needs, its hangers' rectangle, and its centre in the plan."""

    width_m: Size
    length_m: Size
    hanger_width_m: Size | None = None
    hanger_length_m: Size | None = None
    x_m: Metres
    y_m: Metres


class CeilingPositionRequest(Request):
    """All in metres. ``joists_m`` are joist centres; they run along x or along y.

    ``hung``: below the joists on rods and rails; ``between``: in the bay, no joist is cut;
    ``framed``: joists are cut and headed off by a licensed carpenter.
    """

    room_width_m: Size
    room_length_m: Size
    body: CeilingBody
    clear_m: Length = 0.0
    things: Annotated[list[CeilingThing], Field(max_length=200)] = []
    joists_along: Literal["x", "y"] = "x"
    joists_m: Annotated[list[Metres], Field(max_length=500)] = []
    joist_width_m: Size = 0.0381
    fixing: Literal["hung", "between", "framed"] = "hung"
    rails: bool = False


class CeilingPositionResult(Frozen):
    """Measured at the given place; hangers are numbered from left far, clockwise."""

    clear_m: float
    overlaps: tuple[str, ...]
    joists_cut: int
    bay_m: float | None
    hangers_off: tuple[int, ...]
    nearest: Place | None


def ceiling_position(request: CeilingPositionRequest) -> Answer[CeilingPositionResult]:
    """Measure a ceiling head's clearances, joists and hangers, and find the nearest place.

    >>> asked = {"room_width_m": 4.0, "room_length_m": 3.0, "rails": True,
    ...          "body": {"width_m": 0.6, "length_m": 0.6, "x_m": 2.0, "y_m": 1.5}}
    >>> round(ceiling_position(CeilingPositionRequest.model_validate(asked)).result.clear_m, 3)
    1.2
    """
    r = request
    result = _measured(r)
    faults: dict[str, str] = {}
    if result.overlaps:
        faults["overlap"] = f"The opening meets {', '.join(result.overlaps)}"
    if result.clear_m < r.clear_m - 1e-6:
        faults["clear"] = (
            f"{both(result.clear_m, 'small')} clear, {both(r.clear_m, 'small')} wanted"
        )
    if r.fixing == "between" and result.joists_cut:
        faults["joist_cut"] = f"The opening would cut {result.joists_cut} joists"
    if result.hangers_off and not r.rails and r.fixing == "hung":
        faults["hanger_off_joist"] = f"{len(result.hangers_off)} of 4 hangers miss a joist"
    place = result.nearest
    if not faults and r.fixing == "framed" and result.joists_cut:
        call = Call(
            verdict=Verdict.WATCH,
            because=f"{result.joists_cut} joists are cut and headed off.",
            do_next="A joist is cut only to a licensed person's design.",
        )
    elif not faults:
        call = Call(verdict=Verdict.HOLDS, because="Opening, joists and hangers agree.")
    else:
        wide = "joist_cut" in faults and result.bay_m is not None and place is None
        call = Call(
            verdict=Verdict.SHORT,
            because=f"{next(iter(faults.values()))}.",
            do_next=f"Move it {moved(place, *FAR_WALL)}: there everything holds."
            if place
            else "No joist bay is wide enough: hang it below, or have the joists headed off by a "
            "licensed carpenter."
            if wide
            else "Set rails across the joists, or move what is in the way.",
        )
    return Answer[CeilingPositionResult](
        call=call,
        working=(
            Step(
                step="clear to the nearest wall or thing",
                expression=f"centre {r.body.x_m:.3f}, {r.body.y_m:.3f}; half of "
                f"{r.body.width_m:.3f} × {r.body.length_m:.3f}",
                value=result.clear_m,
                unit="m",
            ),
        ),
        findings=tuple(faults),
        result=result,
    )


def _measured(r: CeilingPositionRequest) -> CeilingPositionResult:
    b = r.body
    body = Rect(
        b.x_m - b.width_m / 2,
        b.x_m + b.width_m / 2,
        b.y_m - b.length_m / 2,
        b.y_m + b.length_m / 2,
    )
    gaps = [body.x0, r.room_width_m - body.x1, body.y0, r.room_length_m - body.y1]
    overlaps = []
    for thing in r.things:
        t = thing.rect
        gap = max(t.x0 - body.x1, body.x0 - t.x1, t.y0 - body.y1, body.y0 - t.y1)
        if gap < -1e-9:
            overlaps.append(thing.id)
        gaps.append(gap)
    low, high = (body.y0, body.y1) if r.joists_along == "x" else (body.x0, body.x1)
    half = r.joist_width_m / 2
    cut = [j for j in r.joists_m if j + half > low + 1e-9 and j - half < high - 1e-9]
    joists = sorted(r.joists_m)
    bays = [q - p - r.joist_width_m for p, q in pairwise(joists)]
    return CeilingPositionResult(
        clear_m=min(gaps),
        overlaps=tuple(overlaps),
        joists_cut=len(cut),
        bay_m=max(bays, default=None),
        hangers_off=tuple(_hangers_off(r, b.x_m, b.y_m)),
        nearest=_nearest(r),
    )


def _hangers_off(r: CeilingPositionRequest, x: float, y: float) -> list[int]:
    """Which of the four hangers meet no joist; none while no joist is known."""
    b = r.body
    if b.hanger_width_m is None or b.hanger_length_m is None or not r.joists_m:
        return []
    w, h = b.hanger_width_m / 2, b.hanger_length_m / 2
    spots = [(x - w, y + h), (x + w, y + h), (x + w, y - h), (x - w, y - h)]
    across = [s[1] if r.joists_along == "x" else s[0] for s in spots]
    reach = r.joist_width_m / 2 + 1e-9
    return [n for n, a in enumerate(across, 1) if not any(abs(a - j) <= reach for j in r.joists_m)]


def _nearest(r: CeilingPositionRequest) -> Place | None:
    """Solved with the joists across y; a plan with joists across x is turned for it."""
    b, c = r.body, r.clear_m
    half_w, half_l = b.width_m / 2, b.length_m / 2
    bounds = Rect(c + half_w, r.room_width_m - c - half_w, c + half_l, r.room_length_m - c - half_l)
    forbidden = [t.rect.grown(half_w + c, half_w + c, half_l + c, half_l + c) for t in r.things]
    far = 1e6
    if r.fixing == "between":
        reach = r.joist_width_m / 2
        for j in r.joists_m:
            forbidden.append(
                Rect(-far, far, j - reach - half_l, j + reach + half_l)
                if r.joists_along == "x"
                else Rect(j - reach - half_w, j + reach + half_w, -far, far)
            )
    hangs = r.fixing == "hung" and not r.rails and bool(r.joists_m) and b.hanger_width_m is not None
    across_x = r.joists_along == "y"
    half_hanger = ((b.hanger_width_m if across_x else b.hanger_length_m) or 0.0) / 2
    breaks = [
        j + end + side * half_hanger
        for j in r.joists_m
        for end in (-r.joist_width_m / 2, r.joist_width_m / 2)
        for side in (-1, 1)
    ]

    def fits(at: float) -> bool:
        x, y = (at, b.y_m) if across_x else (b.x_m, at)
        return not hangs or not _hangers_off(r, x, y)

    if across_x:
        found = nearest(b.x_m, b.y_m, bounds, forbidden, fits, breaks if hangs else ())
    else:
        turned = nearest(
            b.y_m,
            b.x_m,
            Rect(bounds.y0, bounds.y1, bounds.x0, bounds.x1),
            [Rect(f.y0, f.y1, f.x0, f.x1) for f in forbidden],
            fits,
            breaks if hangs else (),
        )
        found = (turned[1], turned[0]) if turned else None
    if found is None:
        return None
    x, y = found
    return Place(x_m=x, y_m=y, right_m=x - b.x_m, up_m=y - b.y_m)
