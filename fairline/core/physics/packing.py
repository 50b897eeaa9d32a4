"""Whether round things fit side by side into a rectangle: the cover of a line set.

A search over corner places: each circle touches two of what is there already (walls, circles), the
largest first. What it finds fits, every distance is checked; what it does not find within its most
tries is said not to fit, which is on the safe side.
"""

import math
from collections.abc import Iterator, Sequence

Circle = tuple[float, float, float]  # centre across and up, radius; one unit of length

TINY = 1e-9
MOST_TRIES = 1_500  # places looked at, some tenths of a second; our own choice


def packed(
    diameters: Sequence[float], width: float, height: float, most: int = MOST_TRIES
) -> tuple[Circle, ...] | None:
    """Places for circles in a rectangle, or None where none were found. One unit of length.

    >>> packed([0.05, 0.05], 0.10, 0.05) is not None, packed([0.05, 0.06], 0.10, 0.06) is None
    (True, True)
    """
    radii = sorted((d / 2 for d in diameters), reverse=True)
    if sum(math.pi * r * r for r in radii) > width * height:
        return None
    tries = [most]

    def place(placed: tuple[Circle, ...], left: Sequence[float]) -> tuple[Circle, ...] | None:
        if not left:
            return placed
        for x, y in _corners(placed, left[0], width, height):
            tries[0] -= 1
            if tries[0] < 0:
                return None
            found = place((*placed, (x, y, left[0])), left[1:])
            if found is not None:
                return found
        return None

    return place((), radii)


def _corners(
    placed: Sequence[Circle], r: float, width: float, height: float
) -> Iterator[tuple[float, float]]:
    """Places of a circle that touches two of the walls and circles there, the lowest first."""
    if 2 * r > min(width, height) + TINY:
        return
    lines_x, lines_y = (r, width - r), (r, height - r)
    found = {(x, y) for x in lines_x for y in lines_y}
    for n, (cx, cy, cr) in enumerate(placed):
        reach = cr + r
        for x in lines_x:
            if (rest := reach * reach - (x - cx) ** 2) >= 0:
                found |= {(x, cy + math.sqrt(rest)), (x, cy - math.sqrt(rest))}
        for y in lines_y:
            if (rest := reach * reach - (y - cy) ** 2) >= 0:
                found |= {(cx + math.sqrt(rest), y), (cx - math.sqrt(rest), y)}
        for dx, dy, dr in placed[n + 1 :]:
            found |= set(_touching(cx, cy, reach, dx, dy, dr + r))
    for x, y in sorted(found, key=lambda at: (round(at[1], 9), round(at[0], 9))):
        inside = r - TINY <= x <= width - r + TINY and r - TINY <= y <= height - r + TINY
        if inside and all(math.hypot(x - cx, y - cy) >= r + cr - TINY for cx, cy, cr in placed):
            yield x, y


def _touching(
    ax: float, ay: float, ra: float, bx: float, by: float, rb: float
) -> Iterator[tuple[float, float]]:
    """Where two circles round two centres meet."""
    apart = math.hypot(bx - ax, by - ay)
    if apart < TINY or apart > ra + rb or apart < abs(ra - rb):
        return
    along = (ra * ra - rb * rb + apart * apart) / (2 * apart)
    off = math.sqrt(max(ra * ra - along * along, 0.0))
    ux, uy = (bx - ax) / apart, (by - ay) / apart
    for sign in (1.0, -1.0):
        yield ax + along * ux - sign * off * uy, ay + along * uy + sign * off * ux
