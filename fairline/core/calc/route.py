"""The run: developed length of a bent tube, lift and cut length, against the sheet's limits."""

import math
from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Annotated

from pydantic import Field, model_validator

from fairline.core.call import (
    Answer,
    Call,
    Frozen,
    Limit,
    Request,
    Step,
    Verdict,
    sheet_limit,
)
from fairline.core.check import plural
from fairline.core.quantities import both

Coordinate = Annotated[float, Field(ge=-100_000, le=100_000)]
Point = Annotated[list[Coordinate], Field(min_length=3, max_length=3)]

STRAIGHT_RAD = 1e-6  # a smaller turn is no bend
REVERSAL_RAD = math.pi - 1e-6
NEEDED_WORDS = {
    "max_length_m": "length",
    "max_lift_m": "height",
    "min_length_m": "least length",
    "max_bends": "bends",
}


class RouteLimits(Request):
    min_length_m: Annotated[float, Field(ge=0)] | None = None
    max_length_m: Annotated[float, Field(ge=0)] | None = None
    max_lift_m: Annotated[float, Field(ge=0)] | None = None
    max_bends: Annotated[int, Field(ge=0)] | None = None


class RouteRequest(Request):
    """``points_m``: [x, y, z] with z up, first the outdoor valve, last the head."""

    points_m: Annotated[list[Point], Field(min_length=2, max_length=1000)]
    bend_radius_m: Annotated[float, Field(ge=0, le=100)]
    end_allowance_m: Annotated[float, Field(ge=0, le=1000)] = 0.0
    coil_m: Annotated[float, Field(ge=0, le=1000)] = 0.0
    limits: RouteLimits | None = None

    @model_validator(mode="after")
    def _legs_have_length(self) -> "RouteRequest":
        for i, (a, b) in enumerate(pairwise(self.points_m)):
            if math.dist(a, b) < 1e-9:
                raise ValueError(f"points_m: points {i + 1} and {i + 2} are the same place")
        return self


class RouteResult(Frozen):
    """Lengths along the tube in m; ``installed_length_m`` is developed length and coil."""

    developed_length_m: float
    corner_length_m: float
    bends: int
    bend_degrees: float
    lift_m: float
    cut_length_m: float
    installed_length_m: float
    tight_legs: tuple[int, ...] = ()


def turn_rad(a: Point, b: Point, c: Point) -> float:
    """The angle in rad by which the tube turns at ``b``: 0 straight on, π back on itself.

    atan2(|u × v|, u · v) of the two legs, which is exact near 0 and π; points in m.

    >>> round(turn_rad((0, 0, 0), (1, 0, 0), (1, 2, 0)), 4)
    1.5708
    """
    u = [q - p for p, q in zip(a, b, strict=True)]
    v = [q - p for p, q in zip(b, c, strict=True)]
    cross = (u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0])
    return math.atan2(math.hypot(*cross), sum(p * q for p, q in zip(u, v, strict=True)))


def sheet_limits(limits: Request | None) -> dict[str, Limit]:
    """Limits that came with a request, by name, as the equipment sheet's; blank ones are left out.

    >>> sheet_limits(RouteLimits(max_length_m=25))["max_length_m"].value
    25.0
    """
    given = limits.model_dump(exclude_none=True) if limits is not None else {}
    return {
        name: sheet_limit(
            limit=name.removesuffix("_m").replace("_", " "),
            value=float(value),
            unit="m" if name.endswith("_m") else name.removeprefix("max_"),
            source="limits of the request",
        )
        for name, value in given.items()
    }


def route(
    request: RouteRequest,
    governing: dict[str, Limit] | None = None,
    needed: tuple[str, ...] = (),
) -> Answer[RouteResult]:
    """Developed length of the run and its calls.

    Straight lengths minus 2·R·tan(θ/2) plus R·θ at each bend (plane geometry). ``governing``
    takes the place of the request's own limits where a job knows who says so; a limit of
    ``needed`` that nobody gives leaves the call unknown.

    >>> asked = {"points_m": [[0, 0, 0], [0, 0, 3], [4, 0, 3]], "bend_radius_m": 0.1}
    >>> round(route(RouteRequest.model_validate(asked)).result.developed_length_m, 3)
    6.957
    """
    found, saved = _measured(request)
    limits = sheet_limits(request.limits) if governing is None else governing
    faults = [*_tight(found, request.bend_radius_m), *_beyond(found, limits)]
    missing = [NEEDED_WORDS[name] for name in needed if name not in limits]
    return Answer[RouteResult](
        call=_call(found, faults, missing or ([] if limits else ["length and height"])),
        governed_by=tuple(limits.values()),
        working=_working(request, found, saved),
        findings=tuple(finding for finding, _, _ in faults),
        result=found,
    )


def _legs_m(request: RouteRequest) -> list[float]:
    return [math.dist(a, b) for a, b in pairwise(request.points_m)]


def _measured(request: RouteRequest) -> tuple[RouteResult, float]:
    """The lengths along the tube, and how much its bends save of the way round the corners, m."""
    points, radius, legs = request.points_m, request.bend_radius_m, _legs_m(request)
    turns = [turn_rad(*points[i : i + 3]) for i in range(len(points) - 2)]
    bends = [turn for turn in turns if turn > STRAIGHT_RAD]
    tangents = [_tangent_m(turn, radius) for turn in turns]
    taken = [0.0, *tangents, 0.0]
    tight = tuple(i + 1 for i, leg in enumerate(legs) if taken[i] + taken[i + 1] > leg * (1 + 1e-9))
    possible = [turn for turn in bends if turn < REVERSAL_RAD]
    saved = math.fsum(2 * _tangent_m(turn, radius) - radius * turn for turn in possible)
    corner = math.fsum(legs)
    developed = corner - saved
    if tight:  # it cannot be bent so: no tube is shorter than the straight way, nor less than none
        developed = max(developed, math.dist(points[0], points[-1]))
    installed = developed + request.coil_m
    found = RouteResult(
        developed_length_m=developed,
        corner_length_m=corner,
        bends=len(bends),
        bend_degrees=math.degrees(math.fsum(bends)),
        lift_m=points[-1][2] - points[0][2],
        cut_length_m=installed + 2 * request.end_allowance_m,
        installed_length_m=installed,
        tight_legs=tight,
    )
    return found, saved


def _tangent_m(turn: float, radius_m: float) -> float:
    """How much of each leg beside a corner its bend takes: R·tan(θ/2); endless back on itself."""
    if turn <= STRAIGHT_RAD:
        return 0.0
    return math.inf if turn >= REVERSAL_RAD else radius_m * math.tan(turn / 2)


def _working(request: RouteRequest, found: RouteResult, saved: float) -> tuple[Step, ...]:
    legs, corner, developed = _legs_m(request), found.corner_length_m, found.developed_length_m
    return (
        Step(
            step="straight legs, corner to corner",
            expression=" + ".join(f"{leg:.3f}" for leg in legs[:12])
            + (" + …" if len(legs) > 12 else ""),
            value=corner,
            unit="m",
        ),
        Step(
            step="saved by the bends, Σ 2·R·tan(θ/2) − R·θ",
            expression=f"{plural(found.bends, 'bend')}, {found.bend_degrees:.0f}° in all, "
            f"R = {request.bend_radius_m:.3f}",
            value=saved,
            unit="m",
        ),
        Step(
            step="developed length",
            expression=f"{corner:.3f} − {saved:.3f}",
            value=developed,
            unit="m",
        ),
        Step(
            step="cut length",
            expression=f"{developed:.3f} + 2 · {request.end_allowance_m:.3f}"
            f" + {request.coil_m:.3f}",
            value=found.cut_length_m,
            unit="m",
        ),
    )


# a limit's name: what it finds, kind of quantity (blank: a count), what is wrong, what to do
BEYOND = {
    "max_length_m": (
        "too_long",
        "length",
        "{0} of tube is over the {1} allowed.",
        "Find a shorter way or move the outdoor unit.",
    ),
    "min_length_m": (
        "too_short",
        "length",
        "{0} of tube is under the least of {1}.",
        "Add a flat coil behind the unit to reach the least length.",
    ),
    "max_lift_m": (
        "lift_exceeded",
        "length",
        "A lift of {0} is over the {1} allowed.",
        "Bring the outdoor unit nearer to the head's height.",
    ),
    "max_bends": (
        "too_many_bends",
        "",
        "{0} bends are more than the {1} allowed.",
        "Take out a bend.",
    ),
}
Beyond = tuple[str, str, str]  # what was found, what is wrong, what to do


def _tight(found: RouteResult, radius_m: float) -> Iterator[Beyond]:
    """The first leg that has no room for its bends."""
    for leg in found.tight_legs[:1]:
        wrong = f"Leg {leg} is too short for its bends at a radius of {radius_m * 1000:.0f} mm."
        yield "bend_does_not_fit", wrong, f"Lengthen leg {leg} or use a tighter bender."


def _beyond(found: RouteResult, limits: dict[str, Limit]) -> Iterator[Beyond]:
    """Each limit that the run does not keep to."""
    values = {
        "max_length_m": found.installed_length_m,
        "min_length_m": found.installed_length_m,
        "max_lift_m": abs(found.lift_m),
        "max_bends": float(found.bends),
    }
    for name, (finding, kind, text, act) in BEYOND.items():
        limit, value = limits.get(name), values[name]
        if limit is None:
            continue
        over = limit.value - value if name == "min_length_m" else value - limit.value
        if over > 1e-9:
            said = [both(v, kind) if kind else f"{v:.0f}" for v in (value, limit.value)]
            yield finding, text.format(*said), act


def _call(found: RouteResult, faults: Sequence[Beyond], missing: Sequence[str]) -> Call:
    """``missing``: the limits that nobody gives, in words."""
    length = both(found.installed_length_m, "length")
    if faults:
        because = " ".join(wrong for _, wrong, _ in faults)
        return Call(verdict=Verdict.SHORT, because=because, do_next=faults[0][2])
    if missing:
        words = " and ".join(missing)
        return Call(
            verdict=Verdict.UNKNOWN,
            because=f"The run is {length}; nobody gives a limit for its {words}.",
            do_next=f"Enter the sheet's limit for {words}.",
        )
    return Call(
        verdict=Verdict.HOLDS,
        because=f"{length} with {plural(found.bends, 'bend')} is within every limit given.",
    )
