"""How far a head's air goes before something in front of it stops it, seen from the side.

The air leaves at the head's underside and comes down in a straight line to the floor at the end of
its throw; what stands above that line at its distance is in the way. That line is our own choice:
no source gives one. What reaches above the underside sends the air back to the head's own sensor.
"""

from collections.abc import Sequence

from fairline.core.call import Call, Check, Frozen, Verdict
from fairline.core.check import fault_call
from fairline.core.entry import DistanceM, Entry, Text
from fairline.core.quantities import both

BACK_SHARE = 0.5  # of the throw: nearer than that the air comes back; our own choice


class InFront(Entry):
    """Something before a head: what it is, how far off, how high its top is."""

    what: Text = ""
    away_m: DistanceM = None
    top_m: DistanceM = None

    @property
    def whole(self) -> bool:
        return bool(self.away_m and self.top_m)


class Reach(Frozen):
    """``reach_m``: how far the air goes; ``stopped_by``: what ends it there; ``over``: it stands
    higher than the head's underside."""

    reach_m: float
    stopped_by: str = ""
    over: bool = False


def line_m(at_m: float, underside_m: float, throw_m: float) -> float:
    """The height of the air's line at a distance, m.

    >>> line_m(3.0, 2.0, 6.0)
    1.0
    """
    return underside_m * max(0.0, 1 - at_m / throw_m)


def reach(things: Sequence[InFront], underside_m: float, throw_m: float) -> Reach:
    """How far the air goes: to the first thing whose top stands above its line.

    >>> tall = InFront(what="wardrobe", away_m=2.0, top_m=2.2)
    >>> reach([tall], 2.0, 6.0).over, reach([], 2.0, 6.0).reach_m
    (True, 6.0)
    """
    in_the_way = [
        t
        for t in things
        if t.whole
        and (t.away_m or 0.0) < throw_m
        and (t.top_m or 0.0) > line_m(t.away_m or 0.0, underside_m, throw_m) + 1e-9
    ]
    if not in_the_way:
        return Reach(reach_m=throw_m)
    first = min(in_the_way, key=lambda t: t.away_m or 0.0)
    return Reach(
        reach_m=first.away_m or 0.0,
        stopped_by=first.what or "what stands there",
        over=(first.top_m or 0.0) > underside_m + 1e-9,
    )


def known_reach(
    things: Sequence[InFront], underside_m: float | None, throw_m: float | None
) -> Reach | None:
    """How far the air goes; None where nothing stands there, or a height or throw is not known."""
    if underside_m is None or not throw_m or not any(t.whole for t in things):
        return None
    return reach(things, underside_m, throw_m)


def throw_check(zone: str, found: Reach, throw_m: float, low: bool) -> Check:
    """What stands before a head.

    ``low``: the head hangs lower than it should, as under a knee wall: nothing may stand there.
    """
    said = f"{found.stopped_by.capitalize()} stops the air after {both(found.reach_m, 'length')}"
    far = f"it reaches {both(throw_m, 'length')} by the sheet"
    if not found.stopped_by:
        call = Call(verdict=Verdict.HOLDS, because=f"Nothing stands in the air's way: {far}.")
    elif found.over and (low or found.reach_m < BACK_SHARE * throw_m):
        call = fault_call(
            f"{said}: it comes back to the head's own sensor, which then stops too early.",
            "Another wall, a floor console, or agree that it goes.",
        )
    elif low:
        call = fault_call(
            f"{said}: before a head this low nothing may stand.",
            "Agree that it goes, split the vanes left and right, or take a floor console.",
        )
    else:
        call = fault_call(
            f"{said}; {far}.",
            "Hang it higher, turn it to the free side, or agree that this corner stays warmer.",
            Verdict.WATCH,
        )
    return Check(
        id=f"{zone}_in_front",
        label="What stands in front",
        call=call,
        value=found.reach_m,
        unit="m",
        kind="length",
    )
