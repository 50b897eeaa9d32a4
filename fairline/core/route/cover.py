"""The cover of the lines along a wall: what lies in it, and the least size that takes it.

Tubes with their insulation, cables and drains are packed into the inside of a cover
(``physics/packing``). Which sizes are sold, and their insides, is our own assumption of common
ones; the one at hand is measured and typed.
"""

from functools import lru_cache

from fairline.core.call import Call, Check, Frozen, Verdict
from fairline.core.check import fault_call, plural
from fairline.core.physics.constants import INCH_M
from fairline.core.physics.packing import packed
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.route.entry import RouteEntry
from fairline.core.route.piping import Piping, Stretch

INSULATION_M = 0.009  # of the wall of a tube's insulation; our own choice
CABLE_M = 0.012  # across, four conductors; our own choice
DRAIN_M = 0.021  # across, of a head's drain where nobody measured it; our own choice
DRAIN_WALL_M = 0.002  # of a drain pipe; our own choice
COVERS: tuple[tuple[float, float, float], ...] = (  # sold as, inside across and deep, m
    (3 * INCH_M, 0.064, 0.050),
    (4 * INCH_M, 0.090, 0.062),
    (5.5 * INCH_M, 0.130, 0.085),
    (6.5 * INCH_M, 0.155, 0.095),
)


class Bundle(Frozen):
    """What lies in one cover, diameters in m: tubes with insulation, cables, drains."""

    runs: tuple[str, ...]
    tubes_m: tuple[float, ...]
    cables_m: tuple[float, ...]
    drains_m: tuple[float, ...]

    @property
    def kinds(self) -> tuple[tuple[str, float], ...]:
        """What each round thing is, and its diameter in m."""
        named = (("tube", self.tubes_m), ("cable", self.cables_m), ("drain", self.drains_m))
        return tuple((kind, d) for kind, found in named for d in found)

    @property
    def diameters_m(self) -> tuple[float, ...]:
        return (*self.tubes_m, *self.cables_m, *self.drains_m)

    @property
    def words(self) -> str:
        counted = (
            (len(self.runs), "line set"),
            (len(self.cables_m), "cable"),
            (len(self.drains_m), "drain"),
        )
        return ", ".join(plural(n, word) for n, word in counted if n)


@lru_cache(maxsize=512)
def fits(diameters_m: tuple[float, ...], across_m: float, deep_m: float) -> bool:
    """Whether round things fit into a cover of this inside, m.

    >>> fits((0.0244, 0.0275, 0.012, 0.021), 0.064, 0.050)
    True
    """
    return packed(diameters_m, across_m, deep_m) is not None


def least_cover(diameters_m: tuple[float, ...]) -> tuple[float, float, float] | None:
    """The least of the sizes sold that takes them; None where none does.

    >>> round(least_cover((0.0244, 0.0275) * 2 + (0.012,) * 2 + (0.021,))[0] / INCH_M)
    4
    """
    return next((c for c in COVERS if fits(diameters_m, c[1], c[2])), None)


def bundles(entry: RouteEntry, pipes: Piping, rules: Rules) -> list[Bundle]:
    """What lies together in each cover: a run with those that keep to its path."""
    if entry.covered == "no":
        return []
    apart = rules.school("cable").name == "apart"
    leaders = [s for s in pipes.stretches if not s.along and _outdoors(s)]
    return [_bundle(s, entry, pipes, apart) for s in leaders]


def _outdoors(stretch: Stretch) -> bool:
    return any(
        leg.setting in ("outside", "room") and not leg.crosses and leg.kept in (None, "cover")
        for leg in stretch.legs
    )


def _bundle(leader: Stretch, entry: RouteEntry, pipes: Piping, apart: bool) -> Bundle:
    runs = [leader, *(s for s in pipes.stretches if s.along == leader.id)]
    tubes = [
        mm / 1000 + 2 * INSULATION_M
        for s in runs
        for mm in (s.tube.liquid_mm, s.tube.gas_mm)
        if mm is not None
    ]
    zones = [s.id for s in runs if s.kind == "head" and entry.drain(s.id).ends != "joins"]
    bores = [entry.drain(z).bore_m for z in zones]
    drains = [b + 2 * DRAIN_WALL_M if b else DRAIN_M for b in bores]
    return Bundle(
        runs=tuple(s.id for s in runs),
        tubes_m=tuple(tubes),
        cables_m=() if apart else (CABLE_M,) * len(runs),
        drains_m=tuple(drains),
    )


def cover_checks(entry: RouteEntry, pipes: Piping, rules: Rules) -> list[Check]:
    """Every cover against what lies in it; nothing where no size is typed and one sold takes it."""
    found = []
    for bundle in bundles(entry, pipes, rules):
        if not bundle.tubes_m:
            continue
        name = bundle.runs[0]
        call = _call(bundle, entry)
        if call is not None:
            found.append(Check(id=f"cover_{name}", label=f"Cover, run {name}", call=call))
    return found


def _call(bundle: Bundle, entry: RouteEntry) -> Call | None:
    least = least_cover(bundle.diameters_m)
    across, deep = entry.cover_across_m, entry.cover_deep_m
    if across and deep:
        said = f"{both(across, 'small')} by {both(deep, 'small')} inside"
        if fits(bundle.diameters_m, across, deep):
            return Call(verdict=Verdict.HOLDS, because=f"{bundle.words} lie in {said}.")
        wider = next((c for c in COVERS if c[1] > across and c == least), least)
        size = f"Take a cover of {both(wider[0], 'small')}" if wider else "Take two covers"
        return fault_call(f"{bundle.words} do not lie in {said} without being pressed.", f"{size}.")
    if least is None:
        return fault_call(
            f"{bundle.words}: no cover that is sold takes them.", "Take two covers side by side."
        )
    return None
