"""The cover of the lines along a wall: what lies in it, and the least size that takes it.

Tubes with their insulation, cables and drains are packed into the inside of a cover
(``physics/packing``). Which sizes are sold, and their insides, is our own assumption of common
ones; the one at hand is measured and typed.
"""

from collections.abc import Sequence
from functools import lru_cache

from fairline.core.call import Call, Check, Frozen, Verdict
from fairline.core.check import fault_call, plural
from fairline.core.physics.constants import INCH_M
from fairline.core.physics.packing import Circle, packed
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
Places = tuple[Circle, ...] | None


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


class Cover(Frozen):
    """A bundle in its cover, inside across and deep in m; ``sold_m``: what it is sold as.

    ``places`` are centres and radii in m, the largest first; None where it does not go in. The one
    that is typed has no ``sold_m``; ``least_m`` is the least that is sold and takes the bundle.
    """

    bundle: Bundle
    across_m: float
    deep_m: float
    places: tuple[Circle, ...] | None
    sold_m: float | None = None
    least_m: float | None = None


@lru_cache(maxsize=512)
def laid(diameters_m: tuple[float, ...], across_m: float, deep_m: float) -> Places:
    """Where round things lie in a cover of this inside, m; None where they do not go in.

    >>> laid((0.0244, 0.0275, 0.012, 0.021), 0.064, 0.050) is not None
    True
    """
    return packed(diameters_m, across_m, deep_m)


def least_cover(diameters_m: tuple[float, ...]) -> tuple[float, float, float] | None:
    """The least of the sizes sold that takes them; None where none does.

    >>> round(least_cover((0.0244, 0.0275) * 2 + (0.012,) * 2 + (0.021,))[0] / INCH_M)
    4
    """
    return next((c for c in COVERS if laid(diameters_m, c[1], c[2]) is not None), None)


def covers(entry: RouteEntry, pipes: Piping, rules: Rules) -> list[Cover]:
    """Every bundle in the cover that is typed, else in the least that is sold; the widest where
    none takes it."""
    return [_cover(b, entry) for b in bundles(entry, pipes, rules) if b.tubes_m]


def _cover(bundle: Bundle, entry: RouteEntry) -> Cover:
    least = least_cover(bundle.diameters_m)
    sold, across, deep = least or COVERS[-1]
    typed = bool(entry.cover_across_m and entry.cover_deep_m)
    if typed:
        across, deep = entry.cover_across_m or across, entry.cover_deep_m or deep
    return Cover(
        bundle=bundle,
        across_m=across,
        deep_m=deep,
        places=laid(bundle.diameters_m, across, deep),
        sold_m=None if typed else sold,
        least_m=least[0] if least else None,
    )


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


def cover_checks(found: Sequence[Cover]) -> list[Check]:
    """Every cover against what lies in it; nothing where no size is typed and one sold takes it."""
    calls = [(cover.bundle.runs[0], _call(cover)) for cover in found]
    return [
        Check(id=f"cover_{name}", label=f"Cover, run {name}", call=call)
        for name, call in calls
        if call is not None
    ]


def _call(cover: Cover) -> Call | None:
    words = cover.bundle.words
    larger = (
        f"Take a cover of {both(cover.least_m, 'small')}."
        if cover.least_m is not None
        else "Take two covers side by side."
    )
    if cover.sold_m is not None:
        if cover.places is not None:
            return None
        return fault_call(f"{words}: no cover that is sold takes them.", larger)
    said = f"{both(cover.across_m, 'small')} by {both(cover.deep_m, 'small')} inside"
    if cover.places is not None:
        return Call(verdict=Verdict.HOLDS, because=f"{words} lie in {said}.")
    return fault_call(f"{words} do not lie in {said} without being pressed.", larger)
