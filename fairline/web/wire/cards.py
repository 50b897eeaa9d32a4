"""The cards that fit into the lids: what lies under each screw, and what is set at the controls."""

from dataclasses import dataclass

from fairline.core.call import Verdict
from fairline.core.check import capitalized
from fairline.core.wire.stage import WireStageResult
from fairline.core.wire.wiring import Block, Cable
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.plate import VERDICT_WORDS


@dataclass(frozen=True)
class CardRow:
    """One screw: its name, the conductor that belongs there, of which cable, and where to."""

    screw: str
    colour: str
    cable: str
    to: str


@dataclass(frozen=True)
class Card:
    """A card for one lid: its unit, its blocks, and what is set there."""

    title: str
    blocks: tuple[tuple[str, tuple[CardRow, ...]], ...]
    settings: tuple[tuple[str, str], ...] = ()
    power: str = ""


def cards(judged: JudgedJob) -> list[Card]:
    """A card for each unit, the outdoor unit first."""
    worked = judged.of(WireStageResult)
    units = list(dict.fromkeys(b.unit for b in worked.wiring.blocks.values()))
    units.sort(key=lambda u: (u != "outdoor", len(u) == 1, u))
    return [_card(unit, worked, judged) for unit in units]


def _card(unit: str, worked: WireStageResult, judged: JudgedJob) -> Card:
    blocks = [b for b in worked.wiring.blocks.values() if b.unit == unit]
    own = next((s for s in worked.supplies if s.unit == unit), None)
    power = ""
    if own is not None and own.rating.mca_a is not None and own.rating.mop_a is not None:
        found = next((c for c in own.checks if c.id == f"{unit}_breaker"), None)
        breaker = f", breaker {own.entry.breaker_a:g} A" if own.entry.breaker_a else ""
        if breaker and found is not None and found.call.verdict in (Verdict.STOP, Verdict.SHORT):
            breaker += f": {VERDICT_WORDS[found.call.verdict].lower()}, {found.call.do_next}"
        power = f"MCA {own.rating.mca_a:g} A, MOP {own.rating.mop_a:g} A{breaker}"
    title = own.title if own is not None else blocks[0].title.split(",")[0]
    return Card(
        title=capitalized(title),
        blocks=tuple((b.title, _rows(b, worked)) for b in blocks),
        settings=_settings(unit, judged),
        power=power,
    )


def _rows(block: Block, worked: WireStageResult) -> tuple[CardRow, ...]:
    ends = [
        (cable, side)
        for cable in worked.wiring.cables.values()
        for side in cable.sides
        if cable.block(side) == block.id
    ]
    return tuple(
        CardRow(
            screw=name,
            colour=cable.colours[n] or "not said",
            cable=cable.letter or "supply",
            to=_far(cable, side, worked),
        )
        for n, name in enumerate(block.places)
        for cable, side in ends
    )


def _far(cable: Cable, side: str, worked: WireStageResult) -> str:
    other = cable.end if side == "start" else cable.start
    return worked.wiring.blocks[other].title if other else "disconnect"


def _settings(unit: str, judged: JudgedJob) -> tuple[tuple[str, str], ...]:
    pipes, entry = judged.pipes, judged.job.wire
    if unit in pipes.outlets and unit.startswith("box"):
        return tuple(
            (f"Port {p}", f"head {z}" if (z := pipes.used.get(f"{unit}-{p}")) else "not used")
            for p in pipes.outlets[unit]
        )
    if unit == "outdoor" and pipes.addresses:
        told = {z: a.whole for z, a in entry.addresses.items()}
        return tuple((f"Head {z}", told.get(z) or a) for z, a in pipes.addresses.items())
    if unit in pipes.addresses:
        own = entry.addresses.get(unit)
        said = (own.whole if own else "") or pipes.addresses[unit]
        return (("Refrigerant circuit and head", said),)
    return ()
