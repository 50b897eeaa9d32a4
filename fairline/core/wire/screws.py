"""The screws of a terminal block: what belongs under each, what lies there, how it is finished."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from fairline.core.call import Verdict
from fairline.core.wire.entry import Colour
from fairline.core.wire.interconnect import EndResult
from fairline.core.wire.landed import Landed, LandedConductor
from fairline.core.wire.records import Landing
from fairline.core.wire.wiring import Wiring


@dataclass(frozen=True, eq=False)
class Screw:
    """One screw of the block of a cable's end.

    ``wanted``: the colour that belongs under it, None where any does. ``lies``: the conductor of
    this cable under it. ``others``: the other cables with a conductor under it. ``wrong``: the
    worst verdict of the faults that name it.
    """

    name: str
    wanted: Colour | None
    lies: LandedConductor | None
    others: tuple[str, ...]
    wrong: Verdict | None

    @property
    def right(self) -> bool:
        """Whether the conductor that belongs here lies here, pulled or not."""
        return self.lies is not None and self.lies.colour == self.wanted

    @property
    def state(self) -> str:
        """The verdict of its fault; else ``todo``, ``wait`` (not pulled), ``holds``, ``watch``."""
        if self.lies is None:
            return "todo"
        if self.wrong is not None:
            return self.wrong.value
        if not self.lies.pulled:
            return "wait"
        return "holds" if self.wanted in (None, self.lies.colour) else "watch"


def screws(end: EndResult, wiring: Wiring, lies: Landed) -> list[Screw]:
    """Every screw of an end's block, in the block's order."""
    return [
        Screw(
            name=name,
            wanted=wiring.colour_at(end.cable, end.side, name),
            lies=lies.under(end.cable.id, end.side, end.block.id, name),
            others=tuple(_others(end, name, wiring, lies)),
            wrong=end.wrong.get(name),
        )
        for name in end.block.places
    ]


def _others(end: EndResult, name: str, wiring: Wiring, lies: Landed) -> Iterator[str]:
    """The other cables under a screw, by title; the pairs of a chain share theirs."""
    if end.cable.kind == "pair":
        return
    for cable, side, _ in lies.on(end.block.id, name):
        if (cable, side) != (end.cable.id, end.side):
            yield wiring.cables[cable].title if cable in wiring.cables else cable


def required_finish(end: EndResult, wiring: Wiring) -> dict[str, str]:
    """How an end is finished where all of it is in order: the fields of its ``WireEnd``."""
    finish = {"letter": end.cable.letter, "tip": "taken"}
    finish |= {"slack": "yes", "strain": "yes", "cover": "yes"}
    if wiring.asks_plug(end.cable, end.side):
        finish["plug"] = "out"
    if end.cable.kind == "pair" and wiring.shield is not None:
        finish["shield"] = "grounded" if wiring.grounds_shield(end.block.unit) else "taped"
    return finish


def missing_landings(
    end: EndResult, wiring: Wiring, lies: Landed, by: str, at: datetime
) -> list[Landing]:
    """A landing for each screw whose conductor is not under it and pulled, a microsecond apart."""
    left = [s for s in screws(end, wiring, lies) if not (s.right and s.lies and s.lies.pulled)]
    return [
        Landing(
            cable=end.cable.id,
            side=end.side,
            block=end.block.id,
            terminal=screw.name,
            colour=screw.wanted,
            pulled=True,
            by=by,
            at=at + timedelta(microseconds=n),
        )
        for n, screw in enumerate(left, 1)
    ]
