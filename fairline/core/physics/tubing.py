"""Copper tube: nominal sizes, walls, and how much liquid refrigerant a tube holds."""

import math
from functools import cache
from importlib.resources import files
from json import loads
from typing import Any

from fairline.core.call import Frozen
from fairline.core.physics.constants import INCH_M

SIZE_TOLERANCE_MM = 0.1  # the one tolerance within which two diameters are the same tube


def same_size(a_mm: float, b_mm: float) -> bool:
    """Whether two outside diameters in mm name the same tube: they differ by 0.1 mm at most.

    >>> same_size(7.94, 8.0), same_size(6.35, 6.5)
    (True, False)
    """
    return abs(a_mm - b_mm) <= SIZE_TOLERANCE_MM + 1e-9


@cache
def table(name: str) -> dict[str, Any]:
    """A committed reference table (``tables/NAME.json``); each names its source.

    Raises FileNotFoundError where there is none of that name.

    >>> len(table("tube")["rows"])
    6
    """
    content: dict[str, Any] = loads(
        (files("fairline.core") / "tables" / f"{name}.json").read_text("utf-8")
    )
    return content


class Tube(Frozen):
    """A nominal tube size; ``label`` is its inch size as it is spoken, ``od_mm`` as printed."""

    label: str
    od_mm: float
    od_in: float
    wall_in: float

    @property
    def bore_m(self) -> float:
        return (self.od_in - 2 * self.wall_in) * INCH_M

    @property
    def bore_area_m2(self) -> float:
        return math.pi / 4 * self.bore_m**2


@cache
def tubes() -> tuple[Tube, ...]:
    """The nominal sizes of soft copper tube, the smallest first (ASTM B280, quoted from memory).

    >>> [tube.label for tube in tubes()][:3]
    ['1/4', '3/8', '1/2']
    """
    return tuple(Tube(**row) for row in table("tube")["rows"])


def tube_at(od_mm: float) -> Tube | None:
    """The nominal size within 0.1 mm of an outside diameter in mm; None where there is none.

    >>> tube_at(9.5).label, tube_at(10.0)
    ('3/8', None)
    """
    near = min(tubes(), key=lambda t: abs(t.od_mm - od_mm))
    return near if same_size(near.od_mm, od_mm) else None


def size_label(od_mm: float) -> str:
    """A tube size in words, from its outside diameter in mm; a metric one where no inch size fits.

    >>> size_label(6.35), size_label(10.0)
    ('1/4 in (6.35 mm)', '10 mm')
    """
    tube = tube_at(od_mm)
    return f"{tube.label} in ({tube.od_mm:g} mm)" if tube else f"{od_mm:g} mm"


def full_liquid_kg_per_m(refrigerant: str, od_mm: float) -> float | None:
    """Mass in kg of saturated liquid at 24 °C that fills one metre of tube; None where not known.

    Density · π/4 · bore²; density: CoolProp (committed table); bore: ASTM B280 wall (from memory).
    ``od_mm``: outside diameter.

    >>> round(full_liquid_kg_per_m("R-32", 6.35) or 0.0, 4)
    0.0177
    """
    density = table("liquid_density")["kg_per_m3"].get(refrigerant)
    tube = tube_at(od_mm)
    if density is None or tube is None:
        return None
    return float(density) * tube.bore_area_m2
