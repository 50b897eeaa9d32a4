"""A circuit's way from the panel to its unit: what each stretch meets, and what bears it."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from fairline.core.call import Call, Check, Verdict, deciding
from fairline.core.check import capitalized, fault_call, waiting_check
from fairline.core.wire.entry import Supply

OUTSIDE = {"weather", "sun", "buried", "knocks"}
EXPOSED = {
    "weather": "rain",
    "sun": "sunlight",
    "buried": "the ground",
    "knocks": "impact",
    "attic": "an attic's heat",
    "inside": "the inside",
}
CONDUITS = {  # what each kind bears: common practice after NEC 342 to 362, from memory
    "emt": {"inside", "attic", "weather", "sun", "knocks"},
    "rigid": {"inside", "attic", "weather", "sun", "buried", "knocks"},
    "pvc-40": {"inside", "attic", "weather", "sun", "buried"},
    "pvc-80": {"inside", "attic", "weather", "sun", "buried", "knocks"},
    "liquid-tight": {"inside", "attic", "weather", "sun"},
}
CONDUIT_WORDS = {
    "emt": "thin metal tube (EMT)",
    "rigid": "rigid metal conduit",
    "pvc-40": "plastic conduit, schedule 40",
    "pvc-80": "plastic conduit, schedule 80",
    "liquid-tight": "liquid-tight flexible",
}


WAY_WORDS = {"sheathed": "indoor sheathed cable", "outdoor-cable": "outdoor-rated cable"}
MET = {
    "inside": "indoors",
    "attic": "in an attic",
    "weather": "in the rain",
    "sun": "in the sun",
    "buried": "in the ground",
    "knocks": "where it is struck",
}
LABEL = "Way of the circuit"


def along(entry: Supply) -> Supply:
    """The circuit with what its stretches say of all of it: their length, and what they meet.

    A length that is typed for the whole gives way to stretches that are all measured.
    """
    if not entry.stretches:
        return entry
    lengths = [s.length_m for s in entry.stretches]
    met = dict.fromkeys([s.meets for s in entry.stretches if s.meets] + [*entry.exposures])
    ways = [s.way for s in entry.stretches if s.way]
    return entry.model_copy(
        update={
            "length_m": entry.length_m if None in lengths else sum(x for x in lengths if x),
            "exposures": tuple(met),
            "way": entry.way or (ways[0] if ways else None),
        }
    )


def stretches(entry: Supply) -> list[Supply]:
    """Each stretch as if it were all of the circuit; the circuit itself where it has none."""
    found = []
    for s in entry.stretches:
        own = {"way": s.way, "conduit": s.conduit, "inside": s.inside}
        said = {name: value for name, value in own.items() if value is not None}
        met = (s.meets,) if s.meets else ()
        given = {"exposures": met, "length_m": s.length_m, "stretches": ()}
        found.append(entry.model_copy(update=said | given))
    return found or [entry]


@dataclass(frozen=True, eq=False)
class StretchResult:
    """A stretch of the way in words, its length in m, and whether it bears what it meets."""

    words: str
    length_m: float | None
    call: Call


def way(entry: Supply) -> list[StretchResult]:
    """Every stretch of the circuit's way, in order from the panel."""
    return [StretchResult(_words(one), one.length_m, _judged(one)) for one in stretches(entry)]


def _words(one: Supply) -> str:
    conduit = CONDUIT_WORDS.get(one.conduit or "", "conduit")
    laid = WAY_WORDS.get(one.way, conduit) if one.way else "not said"
    return ", ".join([*(MET[e] for e in one.exposures), laid])


def way_checks(entry: Supply, every: Sequence[StretchResult]) -> list[Check]:
    """How the circuit runs against what it meets on its way, stretch by stretch."""
    found = [*_warm(entry)]
    if len(every) == 1:
        return [Check(id="way", label=LABEL, call=every[0].call), *found]
    named = [
        one.call.model_copy(update={"because": f"Stretch {n}, {one.words}. {one.call.because}"})
        for n, one in enumerate(every, 1)
    ]
    return [Check(id="way", label=LABEL, call=deciding(named)), *found]


def _judged(entry: Supply) -> Call:
    if entry.way is None or not entry.exposures:
        asked = "How the circuit runs is not said.", "Say its way, and what it is exposed to."
        return waiting_check("way", LABEL, *asked).call
    if entry.way == "conduit" and entry.conduit is None:
        asked = "The kind of conduit is not said.", "Say the kind of conduit."
        return waiting_check("way", LABEL, *asked).call
    return _way_call(entry)


def _warm(entry: Supply) -> Iterator[Check]:
    """An attic is warmer than the 30 °C of the ampacity table: the air there is asked."""
    if "attic" in entry.exposures and entry.ambient_c is None:
        yield waiting_check(
            "attic",
            "Warm air on the way",
            "The circuit passes an attic; the warmest air there is not entered.",
            "Enter the warmest air on its way: a hot attic takes some of what the wire carries.",
        )


def _way_call(entry: Supply) -> Call:
    meets = [e for e in entry.exposures if e in OUTSIDE]
    if entry.way == "sheathed" and meets:
        return fault_call(
            f"Indoor sheathed cable runs exposed to {', '.join(EXPOSED[e] for e in meets)}.",
            "Run wires in rated conduit, or outdoor-rated cable, from where it leaves the house.",
        )
    if entry.way == "outdoor-cable" and "knocks" in meets:
        return fault_call(
            "An outdoor-rated cable lies where it can be struck.",
            "Put it into conduit where it can be struck.",
        )
    if entry.way != "conduit" or entry.conduit is None:
        return Call(verdict=Verdict.HOLDS, because="The cable is rated for what it is exposed to.")
    if entry.inside == "sheathed" and {"weather", "buried"} & {*meets}:
        return fault_call(
            "Indoor sheathed cable lies in a conduit outdoors: inside it is wet too (300.9).",
            "Pull wires rated for wet places through it, from where it leaves the house.",
        )
    words = capitalized(CONDUIT_WORDS[entry.conduit])
    if bad := [e for e in entry.exposures if e not in CONDUITS[entry.conduit]]:
        return fault_call(
            f"{words} does not bear {', '.join(EXPOSED[e] for e in bad)}.",
            "Take a kind that does, or guard it; local code decides.",
        )
    return Call(verdict=Verdict.HOLDS, because=f"{words} is rated for it.")
