"""What is wrong with a cable as it lies: each fault by name, with what to do about it."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from fairline.core.call import Call, Verdict
from fairline.core.check import fault_call, plural
from fairline.core.wire.entry import GROUND_COLOURS, NEUTRAL_COLOURS
from fairline.core.wire.landed import Landed, LandedConductor
from fairline.core.wire.records import GROUND, Side, WireEnd
from fairline.core.wire.wiring import Cable, Wiring


@dataclass(frozen=True)
class Fault:
    """A fault of a cable; ``code`` names its kind, ``side`` its end, None where of both.

    ``screws``: the terminals that it is of, by end; none where it is of the whole end.
    """

    code: str
    cable: str
    call: Call
    side: Side | None = None
    screws: tuple[tuple[Side, str], ...] = ()


def named(terminal: str) -> str:
    return "the ground screw" if terminal == GROUND else terminal


Screws = tuple[tuple[Side, str], ...]


def _stop(code: str, cable: Cable, because: str, do_next: str, screws: Screws = ()) -> Fault:
    call = fault_call(because, f"Power off, prove dead. {do_next}", Verdict.STOP)
    return Fault(code, cable.id, call, screws=screws)


def _short(code: str, cable: Cable, because: str, do_next: str, screws: Screws = ()) -> Fault:
    return Fault(code, cable.id, fault_call(because, do_next), screws=screws)


def faults(cable: Cable, wiring: Wiring, lies: Landed) -> list[Fault]:
    """Every fault of one cable's landings and of how its ends were finished."""
    return [
        *_split(cable, wiring, lies),
        *_numbers(cable, wiring, lies),
        *_colours(cable, wiring, lies),
        *_grounds(cable, wiring, lies),
        *_neutral(cable, wiring, lies),
        *(
            replace(f, side=side)
            for side in cable.sides
            for f in _finish(cable, side, wiring, lies)
        ),
    ]


def _title(wiring: Wiring, block: str) -> str:
    found = wiring.blocks.get(block)
    return found.title if found else block


def _split(cable: Cable, wiring: Wiring, lies: Landed) -> Iterator[Fault]:
    for side in cable.sides:
        blocks = sorted({x.block for x in lies.at(cable.id, side)})
        if len(blocks) > 1:
            where = " and ".join(_title(wiring, b) for b in blocks)
            yield _stop(
                "split",
                cable,
                f"{cable.title}: one end lies on two blocks, {where}.",
                "Land all its conductors on one block.",
            )


def _place(wiring: Wiring, x: LandedConductor) -> int | None:
    """The number of a terminal in its block: what counts, for names may differ."""
    block = wiring.blocks.get(x.block)
    if block is None or x.terminal not in block.places:
        return None
    return -1 if x.terminal == GROUND else block.places.index(x.terminal)


def _numbers(cable: Cable, wiring: Wiring, lies: Landed) -> Iterator[Fault]:
    """A conductor on one number here and on another there."""
    if len(cable.sides) < 2:
        return
    far = {x.colour: x for x in lies.at(cable.id, "end")}
    for x in lies.at(cable.id, "start"):
        other = far.get(x.colour)
        if other is not None and _place(wiring, x) != _place(wiring, other):
            yield _stop(
                "number",
                cable,
                f"{cable.title}: {x.colour} lies on {named(x.terminal)} at the "
                f"{_title(wiring, x.block)} and on {named(other.terminal)} at "
                f"{_title(wiring, other.block)}.",
                "Land number to number, the same conductor at both ends.",
                (("start", x.terminal), ("end", other.terminal)),
            )


def _colours(cable: Cable, wiring: Wiring, lies: Landed) -> Iterator[Fault]:
    """Another colour at each end of what should be one conductor, or than the job chose."""
    if len(cable.sides) < 2:
        return
    start = {_place(wiring, x): x for x in lies.at(cable.id, "start")}
    end = {_place(wiring, x): x for x in lies.at(cable.id, "end")}
    here, there = ({x.colour for x in of.values()} for of in (start, end))
    block = wiring.planned(cable.id, "end")
    for place, x in start.items():
        y = end.get(place)
        if y is not None and x.colour != y.colour and not (x.colour in there and y.colour in here):
            yield _short(
                "colour",
                cable,
                f"{cable.title}: under {named(x.terminal)} lies {x.colour} at one end and "
                f"{y.colour} at the other.",
                "Trace the conductor; the same colour lies at both ends.",
                (("start", x.terminal), ("end", y.terminal)),
            )
        elif y is not None and x.colour == y.colour and place is not None and block is not None:
            chosen = cable.colours[place]
            ground = place == -1 and x.colour in GROUND_COLOURS
            if chosen is not None and x.colour != chosen and not ground:
                told = f"{cable.title}: {x.colour} lies on {named(x.terminal)} at both ends; this "
                call = fault_call(
                    f"{told}job's colour there is {chosen}.",
                    "It works; land it as the other cables, or mark it for whoever comes after.",
                    Verdict.WATCH,
                )
                both: Screws = (("start", x.terminal), ("end", y.terminal))
                yield Fault("chosen", cable.id, call, screws=both)


def _grounds(cable: Cable, wiring: Wiring, lies: Landed) -> Iterator[Fault]:
    """An end without its ground, or a ground where it does not belong."""
    for side in cable.sides:
        of = lies.at(cable.id, side)
        where = _title(wiring, lies.block_of(cable.id, side) or cable.block(side))
        grounded = [x for x in of if x.terminal == GROUND]
        if cable.kind != "pair" and not grounded and lies.finish(cable.id, side) is not None:
            yield _stop(
                "ground",
                cable,
                f"{cable.title}: no ground at the {where}.",
                "Land the ground conductor under the ground screw and pull it.",
            )
        for x in of:
            is_ground = x.colour in GROUND_COLOURS
            if is_ground != (x.terminal == GROUND):
                what = "the ground conductor" if is_ground else x.colour
                yield _stop(
                    "ground-colour",
                    cable,
                    f"{cable.title}: {what} lies on {named(x.terminal)} at the {where}.",
                    "Only the ground conductor goes under the ground screw, and it goes nowhere "
                    "else.",
                    ((side, x.terminal),),
                )


def _neutral(cable: Cable, wiring: Wiring, lies: Landed) -> Iterator[Fault]:
    """Live and neutral exchanged at a unit that has a neutral."""
    if cable.kind != "supply":
        return
    names = wiring.blocks[cable.end].terminals
    if "N" not in [n.upper() for n in names]:
        return
    for x in lies.at(cable.id, "end"):
        neutral = x.terminal.upper() == "N"
        if x.terminal != GROUND and neutral != (x.colour in NEUTRAL_COLOURS):
            yield _stop(
                "neutral",
                cable,
                f"{cable.title}: {x.colour} lies on {x.terminal}: live and neutral are exchanged.",
                "The neutral goes to N, the hot conductor to L.",
                (("end", x.terminal),),
            )


def _at(cable: Cable, where: str) -> str:
    """An end of a cable in words; a supply has but one."""
    return cable.title if cable.kind == "supply" else f"{cable.title}, {where}"


def _finish(cable: Cable, side: Side, wiring: Wiring, lies: Landed) -> Iterator[Fault]:
    done = lies.finish(cable.id, side)
    if done is None:
        return
    where = _title(wiring, lies.block_of(cable.id, side) or cable.block(side))
    said = _at(cable, where)
    if done.tip == "bare":
        yield _short(
            "tip",
            cable,
            f"{said}: bare strands under a screw.",
            "Crimp the lug or ferrule that the terminal takes.",
        )
    if done.slack == "no":
        yield _short("slack", cable, f"{said}: no slack loop.", "Leave a loop to re-make it once.")
    if done.strain == "no":
        yield _short(
            "strain", cable, f"{said}: no strain relief.", "Clamp the jacket where it enters."
        )
    if done.plug == "in":
        yield _short(
            "plug",
            cable,
            f"{said}: the factory's test plug is still in.",
            "Take the test plug out before power comes on.",
        )
    yield from _letter(cable, said, side, done, wiring, lies)
    yield from _shield(cable, said, side, done, wiring)


def _letter(
    cable: Cable, said: str, side: Side, done: WireEnd, wiring: Wiring, lies: Landed
) -> Iterator[Fault]:
    """The letter at an end against that of the tubes at the block it lies on."""
    if cable.kind != "cable":
        return
    at = lies.block_of(cable.id, side) or cable.block(side)
    belongs = next((c.letter for c in wiring.cables.values() if c.block(side) == at), cable.letter)
    if not done.letter:
        yield _short("letter", cable, f"{said}: no letter.", f"Mark it {belongs} at both ends.")
    elif done.letter.casefold() != belongs.casefold():
        yield _short(
            "letter",
            cable,
            f"{said}: it is marked {done.letter}, the tubes there are {belongs}.",
            "Find which is wrong, the letter or the landing, before power comes on.",
        )


def _shield(cable: Cable, said: str, side: Side, done: WireEnd, wiring: Wiring) -> Iterator[Fault]:
    """The shield of a pair, grounded where the sheet says and nowhere else."""
    if cable.kind != "pair" or wiring.shield is None:
        return
    wanted = wiring.grounds_shield(wiring.blocks[cable.block(side)].unit)
    if done.shield is not None and (done.shield == "grounded") != wanted:
        word = "grounded" if wanted else "taped back, joined to the next, not grounded"
        yield _short(
            "shield",
            cable,
            f"{said}: the shield is {done.shield}; the sheet wants it {word}.",
            f"Make the shield {word}.",
        )


def left_at(cable: Cable, side: Side, wiring: Wiring, lies: Landed) -> Call | None:
    """What is left to do at one end of a cable."""
    block = wiring.planned(cable.id, side)
    assert block is not None
    of, where = lies.at(cable.id, side), block.title
    said, wanted = _at(cable, where), len(block.places)
    loose = sum(not x.pulled for x in of)
    if len(of) < wanted:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{said}: {len(of)} of {plural(wanted, 'conductor')} landed.",
            do_next=f"Land {said}: number to number, and pull each.",
        )
    if loose:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{said}: {plural(loose, 'conductor')} landed and not pulled.",
            do_next="Pull each conductor: a loose one burns.",
        )
    done = lies.finish(cable.id, side)
    if unsaid := _unsaid(cable, side, done, wiring):
        return Call(
            verdict=Verdict.WAIT,
            because=f"{said}: {unsaid} not said.",
            do_next=f"Finish the end at the {where} and say so.",
        )
    if done is not None and done.cover == "no":
        return Call(
            verdict=Verdict.WAIT,
            because=f"{said}: the cover is off.",
            do_next=f"Put the cover on at the {where}.",
        )
    return None


def _unsaid(cable: Cable, side: Side, done: WireEnd | None, wiring: Wiring) -> str:
    """What nobody has said of an end yet, in words."""
    if done is None:
        return "how it was finished is"
    asked: dict[str, str | None] = {
        "lug or ferrule": done.tip,
        "slack": done.slack,
        "strain relief": done.strain,
    }
    asked["cover"] = done.cover
    if wiring.asks_plug(cable, side):
        asked["the test plug"] = done.plug
    if cable.kind == "pair" and wiring.shield is not None:
        asked["the shield"] = done.shield
    blank = [name for name, said in asked.items() if said is None]
    return f"{', '.join(blank)} {'is' if len(blank) == 1 else 'are'}" if blank else ""
