"""How much nitrogen a system holds: its tubes and the coils of its heads.

The outdoor unit's valves stay shut during the test, so its own volume does not count.
"""

from collections.abc import Collection

from fairline.core.call import Frozen, Step
from fairline.core.physics.tubing import tube_at
from fairline.core.practice import Rules
from fairline.core.route.piping import Piping

COIL_M3_PER_W = 0.25e-3 / 1000  # a head's coil, a quarter litre a kilowatt; our own choice


class Volume(Frozen):
    tubes_m3: float
    coils_m3: float
    guessed: bool  # a sheet is silent about its coil
    working: tuple[Step, ...]

    @property
    def total_m3(self) -> float:
        return self.tubes_m3 + self.coils_m3


def volume(pipes: Piping, rules: Rules, runs: Collection[str] | None = None) -> Volume | None:
    """Bore area times length of both tubes, and the coils; None while not known.

    Of every run, or of some where one asks for what lies behind one pair of valves.
    """
    if pipes.total_m is None:
        return None
    tubes = 0.0
    for stretch in pipes.stretches:
        if runs is not None and stretch.id not in runs:
            continue
        for mm in (stretch.tube.liquid_mm, stretch.tube.gas_mm):
            tube = tube_at(mm) if mm is not None else None
            if tube is None:
                return None
            tubes += tube.bore_area_m2 * (stretch.length_m or 0.0)
    heads = [
        head
        for zone in pipes.tree.zones
        if (head := rules.heads.get(zone.id)) is not None and (runs is None or zone.id in runs)
    ]
    told = sum(head.coil_m3 or 0.0 for head in heads)
    silent = sum((head.cool_w or 0.0) * COIL_M3_PER_W for head in heads if head.coil_m3 is None)
    return Volume(
        tubes_m3=tubes,
        coils_m3=told + silent,
        guessed=silent > 0,
        working=(
            Step(
                step="volume of the tubes",
                expression="Σ bore area · length, both tubes (ASTM B280 walls, from memory)",
                value=tubes * 1000,
                unit="l",
            ),
            Step(
                step="volume of the heads' coils",
                expression=f"{told * 1000:.2f} l from the sheets; where a sheet is silent, 0.25 l "
                "a kilowatt, our own choice",
                value=(told + silent) * 1000,
                unit="l",
            ),
        ),
    )
