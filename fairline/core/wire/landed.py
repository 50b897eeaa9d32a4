"""What lies where: the last of all landings, the same however they were entered."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from fairline.core.wire.entry import Colour
from fairline.core.wire.records import Landing, Side, WireEnd

End = tuple[str, Side]


@dataclass(frozen=True)
class LandedConductor:
    """A conductor under a terminal."""

    block: str
    terminal: str
    colour: Colour
    pulled: bool
    at: datetime


@dataclass(frozen=True, eq=False)
class Landed:
    """All that is landed: by cable and end, each conductor; and how the ends were finished."""

    conductors: Mapping[End, tuple[LandedConductor, ...]] = field(default_factory=dict)
    finishes: Mapping[End, WireEnd] = field(default_factory=dict)

    def at(self, cable: str, side: Side) -> tuple[LandedConductor, ...]:
        return self.conductors.get((cable, side), ())

    def under(self, cable: str, side: Side, block: str, terminal: str) -> LandedConductor | None:
        """The conductor of a cable's end that lies under a terminal."""
        of = self.at(cable, side)
        return next((x for x in of if (x.block, x.terminal) == (block, terminal)), None)

    def finish(self, cable: str, side: Side) -> WireEnd | None:
        return self.finishes.get((cable, side))

    def on(self, block: str, terminal: str) -> list[tuple[str, Side, LandedConductor]]:
        """What lies under one terminal, of whichever cable."""
        return [
            (cable, side, lies)
            for (cable, side), all_ in self.conductors.items()
            for lies in all_
            if (lies.block, lies.terminal) == (block, terminal)
        ]

    def block_of(self, cable: str, side: Side) -> str:
        """The block on which an end lies; blank while nothing of it does, or on several."""
        blocks = {lies.block for lies in self.at(cable, side)}
        return next(iter(blocks)) if len(blocks) == 1 else ""


def landed(landings: Iterable[Landing], finishes: Sequence[WireEnd]) -> Landed:
    """Fold the landings: a conductor lies under one terminal, a terminal holds one of a cable."""
    ends: dict[End, dict[tuple[str, str], LandedConductor]] = {}
    for one in sorted(landings, key=lambda r: r.at):
        lying = ends.setdefault((one.cable, one.side), {})
        lying.pop((one.block, one.terminal), None)
        if one.colour is None:
            continue
        for place in [p for p, lies in lying.items() if lies.colour == one.colour]:
            del lying[place]
        lying[one.block, one.terminal] = LandedConductor(
            one.block, one.terminal, one.colour, one.pulled, one.at
        )
    return Landed(
        conductors={
            end: tuple(sorted(of.values(), key=lambda x: (x.block, x.terminal)))
            for end, of in sorted(ends.items())
            if of
        },
        finishes={(f.cable, f.side): f for f in sorted(finishes, key=lambda r: r.at)},
    )
