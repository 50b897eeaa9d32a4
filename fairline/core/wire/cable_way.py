"""How a cable of the interconnect runs, leg by leg with its tubes, and what its jacket bears."""

from collections.abc import Iterator

from fairline.core.call import Call, Verdict
from fairline.core.check import fault_call
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR, CableBeside
from fairline.core.route.piping import LegDrawn, Piping
from fairline.core.wire.entry import CableEntry
from fairline.core.wire.wiring import Cable, Wiring

CLASS_2_V = 30.0  # to ground; up to it a cable may not share a raceway: NEC 725.136, from memory
IN_THE_AIR = ("outside", "roof")


def legs_of(cable: Cable, wiring: Wiring, pipes: Piping) -> list[LegDrawn]:
    """The legs that a cable goes along: from its far unit back to the one that feeds it."""
    end, start = wiring.blocks.get(cable.end), wiring.blocks.get(cable.start)
    at, stop = end.unit if end else "", start.unit if start else OUTDOOR
    found: list[LegDrawn] = []
    seen: set[str] = set()
    while at and at not in (stop, OUTDOOR) and at not in seen:
        seen.add(at)
        stretch = pipes.get(at)
        if stretch is None:
            break
        found = [*stretch.legs, *found]
        at = stretch.start
    return found


def way_calls(
    cable: Cable, is_: CableEntry, legs: list[LegDrawn], rules: Rules
) -> Iterator[tuple[str, Call]]:
    """What is wrong or not said of a cable's way, each under a name: way, sunlight, burial."""
    if (shared := _apart(cable, is_.way, legs, rules)) is not None:
        yield "way", shared
    if (lit := _sunlight(cable, is_, legs)) is not None:
        yield "sunlight", lit
    if (wet := _burial(cable, is_, legs)) is not None:
        yield "burial", wet


def _apart(
    cable: Cable, way: CableBeside | None, legs: list[LegDrawn], rules: Rules
) -> Call | None:
    """What shares its way: local code first, then the school the job follows."""
    code = rules.yes("cable_apart")
    apart = code if code is not None else rules.school("cable").name == "apart"
    who = "local code" if code is not None else rules.who_chose("cable")
    ways = {leg.cable or way for leg in legs} or {way}
    if None in ways:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{cable.title}: how it runs is not said.",
            do_next="Say whether it runs with the line set, or in a way of its own.",
        )
    here = _places([leg for leg in legs if leg.cable == "lines"])
    if "lines" in ways and apart:
        return fault_call(
            f"{cable.title} runs with the line set{here}; {who} keeps them apart.",
            "Give it a cover or conduit of its own, or let this job differ with its reason.",
        )
    volts = rules.outdoor.to_ground_v if rules.outdoor else None
    small = cable.kind == "pair" or (volts is not None and volts <= CLASS_2_V)
    if "supply" in ways and (small or apart):
        here = _places([leg for leg in legs if leg.cable == "supply"])
        return fault_call(
            f"{cable.title} shares a raceway with the supply{here}.",
            "Give it a raceway of its own: the supply disturbs it.",
        )
    return None


def _sunlight(cable: Cable, is_: CableEntry, legs: list[LegDrawn]) -> Call | None:
    """Sunlight on a jacket that nothing covers: it is marked for it, or covered."""
    lit = [leg for leg in legs if _in_sun(leg, leg.cable or is_.way)]
    if not lit or is_.sunlight == "yes":
        return None
    at = _places(lit)
    if is_.sunlight is None:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{cable.title} lies in the sun{at}; whether its jacket bears it is not said.",
            do_next="Read the jacket: it is marked for sunlight, or it goes into a cover.",
        )
    return fault_call(
        f"{cable.title} lies in the sun{at}; its jacket is not marked for sunlight.",
        "Put it into a cover or conduit, or pull one that is marked for it.",
    )


def _in_sun(leg: LegDrawn, way: CableBeside | None) -> bool:
    """Whether sun reaches the cable: bare, or beside lines that are taped without it."""
    if leg.setting not in IN_THE_AIR or way == "supply":
        return False
    return leg.kept == "bare" or (leg.kept == "tape" and way == "own")


def _burial(cable: Cable, is_: CableEntry, legs: list[LegDrawn]) -> Call | None:
    """In the ground without a sleeve or conduit: a cable made for direct burial."""
    sunk = [
        leg
        for leg in legs
        if leg.setting == "buried" and leg.kept != "sleeve" and (leg.cable or is_.way) != "supply"
    ]
    if not sunk or is_.burial == "yes":
        return None
    at = _places(sunk)
    if is_.burial is None:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{cable.title} lies in the ground{at}; nobody says that it is made for it.",
            do_next="Read the jacket: it is made for direct burial, or it goes into conduit.",
        )
    return fault_call(
        f"{cable.title} lies in the ground{at} and is not made for it.",
        "Lead it in conduit, or pull a cable for direct burial.",
    )


def _places(legs: list[LegDrawn]) -> str:
    """Where, in words; blank where the legs have no numbers of their own."""
    numbers = sorted({leg.number for leg in legs if leg.number})
    if not numbers:
        return ""
    words = "leg" if len(numbers) == 1 else "legs"
    return f" ({words} {', '.join(str(n) for n in numbers)})"
