"""Studs of a wall and joists of a ceiling: each one found, or by spacing from the first."""

from collections.abc import Sequence
from typing import Annotated

from fairline.core.entry import Entry, SmallM, between

LEAST_SPACING_M = 0.05
STUD_M = 0.0381  # 1½ in, the common dressed thickness


SpacingM = Annotated[SmallM, between(LEAST_SPACING_M, 3.0, "small")]


class Stud(Entry):
    """The centre of one stud or joist, from the left corner."""

    x_m: SmallM = None


def stud_centres(
    found: Sequence[Stud], first_m: float | None, spacing_m: float | None, width_m: float | None
) -> list[float]:
    """Centres within the width, in order; nothing where neither way is entered."""
    centres = sorted({s.x_m for s in found if s.x_m is not None})
    if centres or first_m is None or not spacing_m or not width_m:
        return centres
    step, at = max(spacing_m, LEAST_SPACING_M), first_m
    while at < min(width_m, 100.0):
        if at > 0:
            centres.append(round(at, 6))
        at += step
    return centres
