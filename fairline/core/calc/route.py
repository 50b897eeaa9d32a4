"""The run: developed length of a bent tube, lift and cut length, against the sheet's limits."""

import math
from itertools import pairwise
from typing import Annotated

from pydantic import Field, model_validator

from fairline.core.call import (
    Answer,
    Authority,
    Call,
    Frozen,
    Limit,
    Request,
    Step,
    Verdict,
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
        name: Limit(
            limit=name.removesuffix("_m").replace("_", " "),
            value=float(value),
            unit="m" if name.endswith("_m") else name.removeprefix("max_"),
            authority=Authority.SHEET,
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
    points, radius = request.points_m, request.bend_radius_m
    legs = [math.dist(a, b) for a, b in pairwise(points)]
    turns = [turn_rad(*points[i : i + 3]) for i in range(len(points) - 2)]
    bends = [t for t in turns if t > STRAIGHT_RAD]
    tangents = [
        math.inf if t >= REVERSAL_RAD else radius * math.tan(t / 2) if t > STRAIGHT_RAD else 0.0
        for t in turns
    ]
    taken = [0.0, *tangents, 0.0]
    tight = tuple(i + 1 for i, leg in enumerate(legs) if taken[i] + taken[i + 1] > leg * (1 + 1e-9))
    corner = math.fsum(legs)
    saved = math.fsum(
        2 * tangent - radius * turn
        for turn, tangent in zip(turns, tangents, strict=True)
        if turn > STRAIGHT_RAD and math.isfinite(tangent)
    )
    developed = corner - saved
    if tight:  # it cannot be bent so: no tube is shorter than the straight way, nor less than none
        developed = max(developed, math.dist(points[0], points[-1]))
    lift = points[-1][2] - points[0][2]
    installed = developed + request.coil_m
    cut = installed + 2 * request.end_allowance_m
    degrees = math.degrees(math.fsum(bends))
    working = (
        Step(
            step="straight legs, corner to corner",
            expression=" + ".join(f"{leg:.3f}" for leg in legs[:12])
            + (" + …" if len(legs) > 12 else ""),
            value=corner,
            unit="m",
        ),
        Step(
            step="saved by the bends, Σ 2·R·tan(θ/2) − R·θ",
            expression=f"{plural(len(bends), 'bend')}, {degrees:.0f}° in all, R = {radius:.3f}",
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
            value=cut,
            unit="m",
        ),
    )
    limits = sheet_limits(request.limits) if governing is None else governing
    findings, reasons = [], []
    if tight:
        findings.append("bend_does_not_fit")
        reasons.append(
            (
                f"Leg {tight[0]} is too short for its bends at a radius of {radius * 1000:.0f} mm.",
                f"Lengthen leg {tight[0]} or use a tighter bender.",
            )
        )
    for name, value, finding, kind, text, act in (
        (
            "max_length_m",
            installed,
            "too_long",
            "length",
            "{0} of tube is over the {1} allowed.",
            "Find a shorter way or move the outdoor unit.",
        ),
        (
            "min_length_m",
            installed,
            "too_short",
            "length",
            "{0} of tube is under the least of {1}.",
            "Add a flat coil behind the unit to reach the least length.",
        ),
        (
            "max_lift_m",
            abs(lift),
            "lift_exceeded",
            "length",
            "A lift of {0} is over the {1} allowed.",
            "Bring the outdoor unit nearer to the head's height.",
        ),
        (
            "max_bends",
            float(len(bends)),
            "too_many_bends",
            "",
            "{0} bends are more than the {1} allowed.",
            "Take out a bend.",
        ),
    ):
        limit = limits.get(name)
        if limit is None:
            continue
        over = limit.value - value if name == "min_length_m" else value - limit.value
        if over > 1e-9:
            findings.append(finding)
            said = [both(v, kind) if kind else f"{v:.0f}" for v in (value, limit.value)]
            reasons.append((text.format(*said), act))
    missing = [NEEDED_WORDS[name] for name in needed if name not in limits]
    if reasons:
        call = Call(
            verdict=Verdict.SHORT, because=" ".join(r for r, _ in reasons), do_next=reasons[0][1]
        )
    elif missing or not limits:
        words = " and ".join(missing) or "length and height"
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"The run is {both(installed, 'length')}; nobody gives a limit for its "
            f"{words}.",
            do_next=f"Enter the sheet's limit for {words}.",
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{both(installed, 'length')} with {plural(len(bends), 'bend')} is within "
            "every limit given.",
        )
    return Answer[RouteResult](
        call=call,
        governed_by=tuple(limits.values()),
        working=working,
        findings=tuple(findings),
        result=RouteResult(
            developed_length_m=developed,
            corner_length_m=corner,
            bends=len(bends),
            bend_degrees=degrees,
            lift_m=lift,
            cut_length_m=cut,
            installed_length_m=installed,
            tight_legs=tight,
        ),
    )
