"""The kinds of multi-zone systems side by side: tube, joints, cable, addresses for these heads.

Home runs, a branch box, a trunk with tees, worked out from how far each head is along the way, and
how much of that way they share. Joints and cables are counted as the systems are made.
"""

from collections.abc import Sequence
from typing import Literal

from fairline.core.call import Frozen

Way = Literal["home-runs", "box", "trunk"]
WAYS: dict[Way, str] = {
    "home-runs": "Home runs: a line set from the unit to each head",
    "box": "Branch box: one main pair, a pair from the box to each head",
    "trunk": "Trunk: one pair, a tee at each head but the last",
}


class WayWorked(Frozen):
    """What a kind of system takes. Lengths in m, of pairs of tubes and of cable."""

    way: Way
    words: str
    tube_m: float
    joints: int
    cable_m: float
    addresses: str


def compared(ways_m: Sequence[float], shared_m: float) -> list[WayWorked]:
    """The three kinds for heads that are each ``ways_m`` from the unit, ``shared_m`` of it shared;
    none for fewer than two heads.

    Home runs: every way whole, four joints a head, a cable each. Box: the shared way once, four
    joints a head and four of the main pair. Trunk: the shared way once, two joints at each head,
    two at the unit and six at each tee (in, on, off, both tubes); its control pair goes to each
    head and back to its tee, but for the last.

    >>> [(w.way, w.tube_m, w.joints) for w in compared([10.0, 12.0, 14.0], 6.0)]
    [('home-runs', 36.0, 12), ('box', 24.0, 16), ('trunk', 24.0, 20)]
    """
    heads = len(ways_m)
    if heads < 2:
        return []
    shared = min([shared_m, *ways_m])
    own = sum(m - shared for m in ways_m)
    found: list[tuple[Way, float, int, float, str]] = [
        ("home-runs", sum(ways_m), 4 * heads, sum(ways_m), "none: port and cable by letter"),
        ("box", shared + own, 4 * heads + 4, shared + own, "ports set as used at the box"),
        (
            "trunk",
            shared + own,
            2 * heads + 2 + 6 * (heads - 1),
            shared + 2 * own - (max(ways_m) - shared),
            "one at each head, on one circuit",
        ),
    ]
    return [
        WayWorked(way=w, words=WAYS[w], tube_m=t, joints=j, cable_m=c, addresses=a)
        for w, t, j, c, a in found
    ]
