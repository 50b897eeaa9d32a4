"""The hole through a wall in figures: how the drill is tipped, how long bit and saw must be."""

import math

from fairline.core.call import Frozen

CHUCK_M = 0.05  # of a bit, in the chuck and beyond the far face; our own choice


class Drilling(Frozen):
    """``tilt_deg``: of the drill to the level. Lengths in m: the bit's in all, the saw's depth."""

    tilt_deg: float
    bit_m: float
    saw_m: float


def drilling(thickness_m: float, fall_m: float, both_sides: bool = False) -> Drilling:
    """Tilt and depths for a hole that falls by ``fall_m`` through a wall, in m (plane geometry).

    The axis of the hole is √(t² + f²) long, its tilt atan(f / t). ``both_sides``: the saw comes
    from both faces and meets in the middle.

    >>> d = drilling(0.30, 0.0127)
    >>> round(d.tilt_deg, 2), round(d.saw_m, 4), round(d.bit_m, 4)
    (2.42, 0.3003, 0.3503)
    """
    axis = math.hypot(thickness_m, fall_m)
    return Drilling(
        tilt_deg=math.degrees(math.atan2(fall_m, thickness_m)),
        bit_m=axis + CHUCK_M,
        saw_m=axis / 2 if both_sides else axis,
    )
