"""The nearest place where everything holds, among forbidden rectangles: exact, no search grid.

The place of a head on its wall, a cassette in its ceiling and an outdoor unit in its yard is one
point (x, y). Each thing it must keep clear of forbids an open rectangle of such points. Between
two neighbouring edges in x the forbidden y do not change, so the nearest free point has its x at
the wanted place or at an edge, and its y by walking out of the intervals that cover it there.
"""

from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

EPSILON = 1e-9


class Rect(NamedTuple):
    """Points strictly between ``x0`` and ``x1``, and ``y0`` and ``y1``; all in metres."""

    x0: float
    x1: float
    y0: float
    y1: float

    def holds(self, x: float, y: float) -> bool:
        return (
            self.x0 + EPSILON < x < self.x1 - EPSILON and self.y0 + EPSILON < y < self.y1 - EPSILON
        )

    def grown(self, left: float, right: float, down: float, up: float) -> "Rect":
        return Rect(self.x0 - left, self.x1 + right, self.y0 - down, self.y1 + up)


def nearest(
    x: float,
    y: float,
    bounds: Rect,
    forbidden: Sequence[Rect],
    fits_x: Callable[[float], bool] = lambda x: True,
    breaks: Iterable[float] = (),
) -> tuple[float, float] | None:
    """The free point nearest to (x, y) within ``bounds`` (closed); None where there is none.

    ``fits_x`` may forbid more values of x; ``breaks`` are the ends of its intervals, which
    belong to what it allows. Time grows with edges times rectangles.
    """
    if bounds.x0 > bounds.x1 + EPSILON or bounds.y0 > bounds.y1 + EPSILON:
        return None
    edges = {x, bounds.x0, bounds.x1, *breaks}
    for rect in forbidden:
        edges |= {rect.x0, rect.x1}
    inside = [e for e in edges if bounds.x0 - EPSILON <= e <= bounds.x1 + EPSILON]
    best: tuple[float, float, float] | None = None
    for at in sorted(inside, key=lambda e: abs(e - x)):
        across = (at - x) ** 2
        if best is not None and across >= best[0]:
            break
        if not fits_x(at):
            continue
        spans = [
            (r.y0, r.y1) for r in forbidden if r.x0 + EPSILON < at < r.x1 - EPSILON and r.y1 > r.y0
        ]
        free = _nearest_free(y, bounds.y0, bounds.y1, spans)
        if free is not None and (best is None or across + (free - y) ** 2 < best[0]):
            best = (across + (free - y) ** 2, at, free)
    return None if best is None else (best[1], best[2])


def _nearest_free(
    y: float, low: float, high: float, spans: list[tuple[float, float]]
) -> float | None:
    """The value of [low, high] outside every open span that is nearest to ``y``."""
    start = min(max(y, low), high)
    found = []
    up = start
    for span in sorted(spans):
        if span[0] + EPSILON < up < span[1] - EPSILON:
            up = span[1]
    if up <= high + EPSILON:
        found.append(up)
    down = start
    for span in sorted(spans, key=lambda s: -s[1]):
        if span[0] + EPSILON < down < span[1] - EPSILON:
            down = span[0]
    if down >= low - EPSILON:
        found.append(down)
    return min(found, key=lambda v: abs(v - y), default=None)
