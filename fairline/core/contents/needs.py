"""The one table of acts and what they need: which state of a part refuses which act.

Common practice, no source, but where a line says otherwise. ``stop``: somebody or something can be
hurt, and nobody can pass it over; ``wait`` and ``unknown`` may be passed over by name where the act
can carry a name. ``steps`` lead out of it, in order (``steps.STEPS``).
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from fairline.core.call import Verdict
from fairline.core.contents.act import Act
from fairline.core.contents.part import Part

BY_NAME = "by name"  # what an act says that somebody answers for
State = Callable[[Part], bool]
STATES: dict[str, State] = {  # what can be said of a part, by name
    "refrigerant": lambda p: p.content == "refrigerant",
    "leaking": lambda p: p.content == "refrigerant" and bool(p.leaks),
    "mixed": lambda p: p.content == "mixed",
    "charged": lambda p: p.content == "charged",
    "pressed": lambda p: p.pressed,
    "vacuum": lambda p: p.content == "vacuum",
    "pump on": lambda p: p.pump,
    "open": lambda p: p.content in ("air", "purge"),
    "emptied": lambda p: p.content in ("recovered", "pumped-down"),
    "flat": lambda p: p.content == "nitrogen" and not p.pressed,
    "no refrigerant": lambda p: p.content not in ("refrigerant", "mixed", "charged"),
    "no pressure": lambda p: (
        not p.pressed and p.content not in ("refrigerant", "mixed", "charged", "purge")
    ),
    "no vacuum": lambda p: p.content not in ("vacuum", "refrigerant", "mixed", "charged"),
    "not pumped": lambda p: not (p.content == "vacuum" and p.pumped),
    "valves open": lambda p: p.valves,
    "seat unread": lambda p: p.seat,
    "charged and open": lambda p: p.valves and p.content == "refrigerant",
    "valves shut": lambda p: not p.valves,
    "ends open": lambda p: bool(p.ends),  # or what was never made up (``state.judged``)
    "open, untested": lambda p: bool(p.ends),  # the same, where no nitrogen was on it either
    "raining": lambda p: p.raining is not None,
    "not tested": lambda p: not p.tested,
    "never pumped nor tested": lambda p: not p.tested and not p.pumped,
}

TAKE_OUT = ("shut", "take-out")
MEND = ("shut", "recover", "mend", "nitrogen", "bleed", "pump", "decay", "weigh", "release")
CLEAN = ("shut", "recover", "nitrogen", "bleed", "pump", "decay", "weigh", "release")


@dataclass(frozen=True)
class Row:
    """A state that refuses an act: how it is judged, why, and the steps out of it.

    ``but``: what the act may say so that it is not refused.
    """

    state: str
    verdict: Verdict
    because: str
    steps: tuple[str, ...] = ()
    but: frozenset[str] = frozenset()


STOP, WAIT, UNKNOWN = Verdict.STOP, Verdict.WAIT, Verdict.UNKNOWN
_REFRIGERANT = "Refrigerant is in {part}"
_MIXED = "What is in {part} is not known: refrigerant may be"
_PRESSED = "Nitrogen stands in {part}{gauge}"
_UNTESTED = "The pump was on {part}, and no nitrogen had been on it as it is now."
_ROOF = frozenset({"roof"})
_READ = frozenset({"read"})  # a vacuum was read then: the nitrogen was gone

NEEDS: Mapping[str, tuple[Row, ...]] = {
    "open tubing": (  # a joint made or opened, a machine exchanged
        Row("leaking", STOP, f"{_REFRIGERANT}, and it leaks.", MEND),
        Row("refrigerant", STOP, f"{_REFRIGERANT}.", (*TAKE_OUT, "join")),
        Row("mixed", STOP, f"{_MIXED}.", ("shut", "recover", "join")),
        Row("pressed", STOP, f"{_PRESSED}.", ("bleed", "join")),
        Row("vacuum", WAIT, "{part} is under vacuum: it would draw in air.", ("break", "join")),
        Row("raining", WAIT, "It rains on {part}: nobody opens tubing in rain.", ("dry",), _ROOF),
        Row(
            "seat unread",
            WAIT,
            "Refrigerant stands behind the shut valve of {part}, whose seat may pass, and nobody "
            "read what is on this side.",
            ("read", "join"),
        ),
    ),
    "parting": (
        Row(
            "charged",
            STOP,
            "A charged kit is in {part}: it is connected once. Parted again it is a new kit, or "
            "its maker's written way.",
        ),
    ),
    "tighten": (
        Row(
            "valves open",
            WAIT,
            "A flare under refrigerant is tightened once, with both valves shut.",
            ("shut", "join"),
            frozenset({"core"}),
        ),
    ),
    "flame": (  # brazing
        Row("charged", STOP, "A charged kit is in {part}: never a flame on it."),
        Row("refrigerant", STOP, f"{_REFRIGERANT}: a flame makes it poisonous.", (*TAKE_OUT,)),
        Row("mixed", STOP, f"{_MIXED}: a flame makes it poisonous.", ("shut", "recover")),
        Row("pressed", STOP, f"{_PRESSED}: it only flows while one brazes.", ("bleed",)),
        Row("vacuum", WAIT, "{part} is under vacuum: nitrogen flows while one brazes.", ("break",)),
        Row("raining", WAIT, "It rains on {part}: nobody opens tubing in rain.", ("dry",), _ROOF),
    ),
    "flow": (  # purge and sweep
        Row("charged", STOP, "A charged kit is in {part}: no nitrogen is let into it."),
        Row("refrigerant", STOP, f"{_REFRIGERANT}: no nitrogen goes into it.", CLEAN),
        Row("mixed", STOP, f"{_MIXED}: no more nitrogen goes into it.", CLEAN),
    ),
    "nitrogen": (
        Row("charged", STOP, "A charged kit is in {part}: no nitrogen is let into it."),
        Row("leaking", STOP, f"{_REFRIGERANT}, and it leaks: no nitrogen goes into it.", MEND),
        Row("refrigerant", STOP, f"{_REFRIGERANT}: no nitrogen goes into it.", CLEAN),
        Row("mixed", STOP, f"{_MIXED}: no more nitrogen goes into it.", CLEAN),
        Row("pump on", WAIT, "The pump is on {part}.", ("break",)),
        Row("ends open", WAIT, "{part} stands open: {ends}.", ("mend",)),
    ),
    "pump": (
        Row("charged", STOP, "A charged kit is in {part}: no pump is ever connected to it."),
        Row("leaking", STOP, f"{_REFRIGERANT}, and it leaks: the pump stays off it.", MEND),
        Row("refrigerant", STOP, f"{_REFRIGERANT}: the pump stays off it.", TAKE_OUT),
        Row("mixed", STOP, f"{_MIXED}: the pump stays off it.", ("shut", "recover")),
        Row("pressed", STOP, f"{_PRESSED}: it breaks pump and gauge.", ("bleed",), _READ),
        Row("ends open", WAIT, "{part} stands open: {ends}.", ("mend",)),
        Row(
            "not tested",
            WAIT,
            _UNTESTED,
            ("nitrogen", "bleed"),
            frozenset({BY_NAME}),
        ),
    ),
    "decay": (
        Row("charged", STOP, "A charged kit is in {part}: no pump is ever connected to it."),
        Row("refrigerant", STOP, f"{_REFRIGERANT}: no vacuum can be read in it.", TAKE_OUT),
        Row("mixed", STOP, f"{_MIXED}: no vacuum can be read in it.", ("shut", "recover")),
        Row("pressed", STOP, f"{_PRESSED}: no vacuum can be read in it.", ("bleed",), _READ),
        Row(
            "never pumped nor tested",
            WAIT,
            _UNTESTED,
            ("nitrogen", "bleed"),
            frozenset({BY_NAME}),
        ),
        Row("ends open", WAIT, "{part} stands open: {ends}.", ("mend",)),
        Row(
            "not pumped",
            UNKNOWN,
            "No pump was on {part} before its valve was shut, as far as is said.",
            ("pump",),
            frozenset({"seen"}),
        ),
    ),
    "bubbles": (
        Row("no pressure", WAIT, "Nothing presses in {part}: bubbles show nothing.", ("nitrogen",)),
    ),
    "probe": (
        Row(
            "no refrigerant",
            WAIT,
            "No refrigerant and no tracer is in {part}: a probe finds nothing.",
            (),
            frozenset({"tracer"}),
        ),
    ),
    "weigh in": (
        Row("mixed", STOP, f"{_MIXED}: nothing is weighed onto it.", CLEAN),
        Row("pressed", STOP, f"{_PRESSED}: no refrigerant goes onto it.", ("bleed", "pump")),
        Row("ends open", STOP, "{part} stands open: {ends}.", ("mend",)),
        Row("pump on", WAIT, "The pump is on {part} still.", ("decay",)),
        Row("no vacuum", WAIT, "{part} holds {content}: it is charged into a vacuum.", ("pump",)),
        Row(
            "charged and open",
            WAIT,
            "The valves of {part} are open: what is weighed in now goes in while it runs.",
            (),
            frozenset({"running"}),
        ),
    ),
    "weigh in, running": (
        Row("valves shut", WAIT, "The valves of {part} are not open.", ("release",)),
        Row("leaking", WAIT, f"{_REFRIGERANT}, and it leaks: first mend it.", MEND),
    ),
    "recover": (
        Row("no refrigerant", WAIT, "No refrigerant is in {part}: there is nothing to recover."),
        Row(
            "leaking",
            STOP,
            "{part} leaks: the compressor would draw air. Recover by machine.",
            (),
            frozenset({"by machine"}),
        ),
    ),
    "pump down": (
        Row(
            "leaking",
            STOP,
            "{part} leaks: pumped down, the compressor draws air and can burst.",
            MEND,
        ),
        Row("mixed", STOP, f"{_MIXED}: it is not drawn into the unit.", ("shut", "recover")),
        Row("no refrigerant", WAIT, "No refrigerant is in {part}: there is nothing to pump down."),
        Row("valves shut", WAIT, "The valves of {part} are not open.", ("release",)),
    ),
    "release": (
        Row("mixed", STOP, f"{_MIXED}: it is not let into the unit.", CLEAN),
        Row("pressed", STOP, f"{_PRESSED}: it would go into the unit.", ("bleed", "pump")),
        Row(
            "open, untested",
            STOP,
            "{part} stands open, and refrigerant would come out: {ends}.",
            ("mend",),
        ),
        Row("pump on", STOP, "The pump is on {part}: it would draw refrigerant.", ("decay",)),
        Row(
            "no vacuum",
            WAIT,
            "{part} holds {content}, no vacuum.",
            ("pump", "decay"),
            frozenset({BY_NAME}),
        ),
    ),
}


def rows_of(act: Act) -> tuple[str, ...]:
    """The rows of the table that an act is judged by.

    >>> from datetime import UTC, datetime
    >>> rows_of(Act("weighed", "weighing", "w", datetime(2026, 1, 1, tzinfo=UTC)))
    ('weigh in',)
    """
    for kind, said, rows in ROWS:
        if act.kind == kind and said <= act.said:
            return rows
    return ()


def _said(*words: str) -> frozenset[str]:
    return frozenset(words)


# Which rows judge an act, by its kind and what it says: the first that fits.
ROWS: tuple[tuple[str, frozenset[str], tuple[str, ...]], ...] = (
    ("joint", _said("tightened"), ("tighten",)),
    ("joint", _said("opened"), ("parting", "open tubing")),
    ("joint", _said("purge"), ("open tubing", "flow")),
    ("joint", _said("brazed"), ("flame", "open tubing")),
    ("joint", _said(), ("open tubing",)),
    ("machine", _said(), ("open tubing",)),
    ("exposure", _said("opened"), ("open tubing",)),
    ("look", _said("probe"), ("probe",)),
    ("look", _said(), ("bubbles",)),
    ("sweep", _said(), ("flow",)),
    ("nitrogen", _said(), ("nitrogen",)),
    ("pump", _said(), ("pump",)),
    ("decay", _said(), ("decay",)),
    ("weighed", _said("out"), ("recover",)),
    ("weighed", _said("running"), ("weigh in, running",)),
    ("weighed", _said(), ("weigh in",)),
    ("released", _said(), ("release",)),
    ("pumped-down", _said(), ("pump down",)),
)
