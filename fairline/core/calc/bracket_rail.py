"""A wall bracket's rail against the studs behind it."""

from typing import Annotated

from pydantic import Field

from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict
from fairline.core.check import plural
from fairline.core.quantities import both

Metres = Annotated[float, Field(ge=-1000, le=1000)]
Size = Annotated[float, Field(gt=0, le=100)]

RAIL_END_M = 0.02  # a lag nearer the rail's end tears it: our own choice


class BracketRailRequest(Request):
    """All in metres along the wall; ``arms_m`` is the distance between the two arms.

    ``least_studs``: how many the rail has to reach.
    """

    rail_m: Size
    left_m: Metres
    studs_m: Annotated[list[Metres], Field(max_length=500)]
    arms_m: Size | None = None
    blocked: bool = False
    least_studs: Annotated[int, Field(ge=1, le=20)] = 2


class BracketRailResult(Frozen):
    """Studs under the rail, their outer distance, and where the rail would meet two or more."""

    studs_m: tuple[float, ...]
    span_m: float
    blocking: bool
    best_left_m: float | None


def bracket_rail(request: BracketRailRequest) -> Answer[BracketRailResult]:
    """A rail must reach its studs, two or more, its arms within them; else block between.

    A stud counts where its centre lies under the rail, clear of its ends.

    >>> asked = {"rail_m": 0.76, "left_m": 0.3, "studs_m": [0.4, 0.8, 1.2]}
    >>> bracket_rail(BracketRailRequest.model_validate(asked)).result.studs_m
    (0.4, 0.8)
    """
    r = request
    reached = _reached(r, r.left_m)
    span = max(reached) - min(reached) if reached else 0.0
    best = _best(r)
    steps = (
        Step(
            step="studs under the rail, outer distance",
            expression=" , ".join(f"{s:.3f}" for s in reached) or "none",
            value=span,
            unit="m",
        ),
    )
    findings: tuple[str, ...] = ()
    if r.blocked:
        call = Call(verdict=Verdict.HOLDS, because="The rail is on blocking between the studs.")
    elif len(reached) < r.least_studs:
        findings = ("misses_studs",)
        count = plural(len(reached), "stud") if reached else "no stud"
        call = Call(
            verdict=Verdict.SHORT,
            because=f"The {both(r.rail_m, 'small')} rail reaches {count}, {r.least_studs} are "
            "wanted.",
            do_next=f"Shift the rail to {both(best, 'length')}: there it reaches {r.least_studs}."
            if best is not None
            else f"Set blocking between the studs: this rail reaches no {r.least_studs} of them "
            "anywhere.",
        )
    elif r.arms_m is not None and span < r.arms_m - 1e-6:
        findings = ("arms_outside_studs",)
        call = Call(
            verdict=Verdict.WATCH,
            because=f"Two studs {both(span, 'small')} apart, arms {both(r.arms_m, 'small')} "
            "apart: an arm hangs outside.",
            do_next="Block between the studs under the arms, or take a longer rail.",
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"The rail reaches {len(reached)} studs, {both(span, 'small')} apart.",
        )
    return Answer[BracketRailResult](
        call=call,
        working=steps,
        findings=findings,
        result=BracketRailResult(
            studs_m=tuple(reached),
            span_m=span,
            blocking=bool(findings),
            best_left_m=best,
        ),
    )


def _reached(r: BracketRailRequest, left: float) -> list[float]:
    low, high = left + RAIL_END_M, left + r.rail_m - RAIL_END_M
    return sorted(s for s in set(r.studs_m) if low - 1e-9 <= s <= high + 1e-9)


def _best(r: BracketRailRequest) -> float | None:
    """The nearest place of the rail's left end where it reaches the studs it has to."""
    room = r.rail_m - 2 * RAIL_END_M
    studs = sorted(set(r.studs_m))
    places = []
    for a, b in zip(studs, studs[r.least_studs - 1 :], strict=False):
        if b - a <= room + 1e-9:
            least, most = b - room - RAIL_END_M, a - RAIL_END_M
            places.append(min(max(r.left_m, least), most))
    return min(places, key=lambda p: abs(p - r.left_m), default=None)
