"""Dips of a line, read from its own points: where it goes down and comes up again.

One school slopes runs back to the unit without a dip; oil and liquid lie in each (common practice,
no source). Where traps are wanted a dip is none of the planned ones either.
"""

from fairline.core.call import Call, Check, Frozen, Verdict
from fairline.core.quantities import both
from fairline.core.route.piping import Piping, Point, Stretch

LEAST_M = 0.02  # a shallower dip is none; our own choice


class Dip(Frozen):
    """A low place of a run: where, and how deep below the lower of its two sides, m."""

    at: Point
    deep_m: float


def dips(stretch: Stretch) -> list[Dip]:
    """Every low place between two higher ones, in order from the unit; each with its depth."""
    if not stretch.legs:
        return []
    points = [stretch.legs[0].start, *(leg.end for leg in stretch.legs)]
    return [
        Dip(at=points[n], deep_m=deep)
        for n in _lows([p[2] for p in points])
        if (deep := _depth([p[2] for p in points], n)) >= LEAST_M
    ]


def _lows(heights: list[float]) -> list[int]:
    """Places lower than what is before and after; of a level one the first point."""
    found = []
    for n in range(1, len(heights) - 1):
        after = next((h for h in heights[n + 1 :] if abs(h - heights[n]) > 1e-9), None)
        if heights[n - 1] > heights[n] + 1e-9 and after is not None and after > heights[n]:
            found.append(n)
    return found


def _depth(heights: list[float], n: int) -> float:
    """How far a low place is below the lower of the highest points on its two sides."""
    return min(max(heights[:n]), max(heights[n + 1 :])) - heights[n]


def dip_checks(pipes: Piping, traps_wanted: bool) -> list[Check]:
    """One check of each run that dips; none where a school sets traps in the gas line."""
    if traps_wanted:
        return []
    found = []
    for stretch in pipes.stretches:
        low = dips(stretch)
        if not low:
            continue
        deep = ", ".join(both(d.deep_m, "small") for d in low)
        call = Call(
            verdict=Verdict.WATCH,
            because=f"Run {stretch.id} goes down and comes up again by {deep}: oil and liquid lie "
            "there.",
            do_next="Lead it so that it falls one way, or know why it dips.",
        )
        part = f"runs.{stretch.id}"
        found.append(Check(id=f"dips_{stretch.id}", label="Dips", call=call, part=part))
    return found
