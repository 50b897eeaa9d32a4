"""Oil traps in the gas line, where the sheet asks for them or the school chose them.

At the foot of a rise, every so far along it, and inverted at the valves of an outdoor unit that
stands above its heads (common practice, no published source).
"""

import math
from collections.abc import Callable, Sequence
from typing import Literal

from fairline.core.call import Frozen
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR
from fairline.core.route.piping import LegDrawn, Piping, Point, Stretch

LEAST_RISE_M = 1.0  # a shorter rise has no foot to speak of; our own choice


BENDS = 3  # of a trap: a quarter, a half, a quarter


class Trap(Frozen):
    run: str
    kind: Literal["foot", "rise", "inverted"]
    at: Point


def who_wants(rules: Rules) -> tuple[bool, str]:
    """Whether traps are set, and who says so: the sheet, else the school."""
    sheet = rules.outdoor.traps if rules.outdoor else None
    if sheet is not None:
        return sheet == "foot-and-rise", "the sheet"
    return rules.school("traps").name == "foot-and-rise", rules.who_chose("traps")


def traps(pipes: Piping, rules_of: Callable[[str], Rules]) -> list[Trap]:
    """Every trap of the system; none where the school of a run's day forbids them."""
    found = []
    for stretch in pipes.stretches:
        rules = rules_of(stretch.id)
        every = rules.value("trap_every_m")
        if not who_wants(rules)[0] or not every:
            continue
        for rise in _rises(stretch):
            found += _along(stretch.id, rise, every)
        if stretch.start == OUTDOOR and (stretch.lift_m or 0.0) < 0 and stretch.legs:
            found.append(Trap(run=stretch.id, kind="inverted", at=stretch.legs[0].start))
    return found


def trap_m(run: str, pipes: Piping, found: Sequence[Trap]) -> float:
    """Gas tube that a run's traps take beyond its way, in m.

    A trap is bent from the tube at the radius R of the other bends: a quarter down, a half, a
    quarter up again, 2πR of tube over 4R of way (plane geometry), so (2π − 4)·R each.
    """
    stretch = pipes.get(run)
    count = sum(t.run == run for t in found)
    if stretch is None or not count:
        return 0.0
    return count * (2 * math.pi - 4) * stretch.radius_m


def trap_bends(run: str, found: Sequence[Trap]) -> int:
    """Bends that a run's traps add to those of its way."""
    return BENDS * sum(t.run == run for t in found)


def _rises(stretch: Stretch) -> list[tuple[Point, Point]]:
    """Upright parts of a run, legs of one direction taken together.

    A run that keeps to another's path has a gas tube of its own in it, and traps of its own.
    """
    found: list[tuple[Point, Point]] = []
    last: LegDrawn | None = None
    for leg in stretch.legs:
        upright = leg.direction in ("up", "down")
        if upright and last is not None and last.direction == leg.direction:
            found[-1] = (found[-1][0], leg.end)
        elif upright:
            found.append((leg.start, leg.end))
        last = leg
    return [(a, b) for a, b in found if abs(a[2] - b[2]) >= LEAST_RISE_M]


def _along(run: str, rise: tuple[Point, Point], every: float) -> list[Trap]:
    foot, top = sorted(rise, key=lambda p: p[2])
    found = [Trap(run=run, kind="foot", at=foot)]
    height = foot[2] + every
    while height < top[2] - LEAST_RISE_M / 2:
        found.append(Trap(run=run, kind="rise", at=(foot[0], foot[1], height)))
        height += every
    return found
