"""The parts of a job: its machines, tubes and joints, each a name and a mark.

The mark begins with what tells a part from every other one (the token of a machine or tube, the id
of a joint's making); what follows describes it (model, serial, size, where it is connected). The
machines and tubes of a job at one time are a *subject*, kept once by its digest.
"""

import hashlib
import json
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field, field_validator

from fairline.core.check import capitalized
from fairline.core.entry import Entry, Moment, Record, Text
from fairline.core.physics.tubing import size_label

Mark = tuple[str, ...]
Parts = Mapping[str, Mark]
Name = Annotated[
    str,
    Field(pattern=r"^(unit|head:[A-Z]|box[1-9]|tee[1-9]\d?|tube:([A-Z]|box[1-9]|tee[1-9]\d?))$"),
]
Key = Annotated[str, Field(pattern=r"^(gas|liquid):[A-Za-z0-9]+\.[\w.]{1,40}\|[\w+]{1,60}$")]
MarkText = Annotated[str, Field(max_length=420)]
UNIT = "unit"
OPEN = "open"  # the mark of an end that stands open
OUTDOOR = "outdoor"  # the place of the outdoor unit
IN = "in"  # the opening by which a run comes into its head, box or tee
CORE = "core"  # of a service port: a joint of the unit's own that can be changed
JOIN = "join"  # a join on the way is called by this and its number
ONE_PAIR = "one"  # of an outdoor unit with one pair of valves before all its ports


class Subject(Entry):
    """The machines and tubes of a job at one time.

    ``found``: nobody kept it that day; it is the job as it was found when it was next changed.
    """

    parts: dict[Name, Annotated[tuple[MarkText, ...], Field(min_length=1, max_length=6)]] = {}
    found: bool = False

    @field_validator("parts")
    @classmethod
    def _sorted(cls, value: dict[str, Mark]) -> dict[str, Mark]:
        return dict(sorted(value.items()))


class SubjectSince(Entry):
    """From when on a job had the parts of a subject, and by whose act or edit."""

    at: Moment
    subject: Text
    by: Text = ""
    what: Text = ""


class Ends(Entry):
    """A part before and after a change; empty where there was none, or is none any more."""

    then: tuple[MarkText, ...] = ()
    now: tuple[MarkText, ...] = ()


class PartChange(Record):
    """What an edit under a proof was, or a machine exchanged on site.

    ``corrected``: it was drawn wrong, the same thing stands there as before. ``changed``: another
    thing stands there. ``exchanged``: another machine of whatever model; ``serial`` is that of the
    one that went. ``moved``: of a correction, joints that were named wrong, by their keys.
    """

    struck = "what was said of a change"

    kind: Literal["part-change"] = "part-change"
    how: Literal["corrected", "changed", "exchanged"]
    parts: Annotated[dict[Name, Ends], Field(max_length=200)] = {}
    moved: Annotated[dict[Key, Key], Field(max_length=200)] = {}
    reason: Annotated[Text, Field(min_length=1)]
    serial: Text = ""


def digest(parts: Parts) -> str:
    """The digest of a subject: the first 16 hex digits of the SHA-256 of its sorted parts.

    >>> digest({"unit": ("a",)}) == digest({"unit": ("a",)}) != digest({"unit": ("b",)})
    True
    """
    said = json.dumps(sorted((name, list(mark)) for name, mark in parts.items()))
    return hashlib.sha256(said.encode()).hexdigest()[:16]


def kind_of(part: str) -> str:
    """The kind of a part by its name.

    >>> kind_of("head:A"), kind_of("box1"), kind_of("joint:gas:A.in|A")
    ('head', 'box', 'joint')
    """
    return part.partition(":")[0].rstrip("0123456789")


def is_entered(part: str) -> bool:
    """Whether a part follows from what is entered, and not from what was done at joints."""
    return kind_of(part) not in ("joint", "open")


def part_words(part: str) -> str:
    """A part in words.

    >>> part_words("tube:A"), part_words("head:B"), part_words("unit"), part_words("tee2")
    ('The tube of run A', 'Head B', 'The outdoor unit', 'Tee 2')
    """
    kind, _, rest = part.partition(":")
    match kind_of(part):
        case "unit":
            return "The outdoor unit"
        case "head":
            return f"Head {rest}"
        case "tube":
            return f"The tube of run {rest}"
        case "joint" | "open":
            return f"A joint of the {rest.partition(':')[0]} tube"
        case other:
            return f"{capitalized(other)} {kind[3:]}"


def place_words(described: str) -> str:
    """What describes a part, in words: a pair of sizes, a place, or a name as it is.

    >>> place_words("6.35x9.52"), place_words("outdoor.C"), place_words("tee2.off")
    ('1/4 and 3/8 in', 'port C of the outdoor unit', 'the way off of tee 2')
    """
    if re.fullmatch(r"[\d.]+x[\d.]+", described):
        sizes = [size_label(float(mm)).partition(" in")[0] for mm in described.split("x")]
        return f"{' and '.join(sizes)} in"
    place = re.fullmatch(r"(outdoor|box|tee)(\d*)\.(\w+)", described)
    if place is None:
        return described
    at, number, outlet = place.groups()
    if at == "tee":
        return f"the way {outlet} of tee {number}"
    return f"port {outlet} of {'the outdoor unit' if at == 'outdoor' else f'box {number}'}"


@dataclass(frozen=True)
class JointAct:
    """What was done at a joint: ``key`` names it by its sides, ``uid`` is the record's."""

    at: datetime
    key: str
    uid: str
    did: Literal["made", "tightened", "opened", "capped"]
    loose: bool = False
    by: str = ""
    subject: str = ""


def joint_marks(acts: Iterable[JointAct], until: datetime | None = None) -> dict[str, Mark]:
    """Every joint as it is made at a time: the id of its making, then of the last act on it.

    A joint that was opened is none. A nut that was left loose and torqued later was made once. A
    valve core that was changed through the tool was never open: it is the joint that it was.
    """
    marks: dict[str, Mark] = {}
    loose: set[str] = set()
    for act in sorted(acts, key=lambda a: a.at):
        if until is not None and act.at > until:
            break
        before = marks.get(act.key)
        if act.did == "tightened" and act.key.endswith(f"|{CORE}"):
            continue
        if act.did == "opened":
            marks.pop(act.key, None)
        elif before and (act.did == "tightened" or (act.key in loose and not act.loose)):
            marks[act.key] = (before[0], act.uid)
        else:
            marks[act.key] = (act.uid, act.uid)
        (loose.add if act.loose else loose.discard)(act.key)
    return marks


@dataclass(frozen=True)
class Circuits:
    """Which circuit each part of a subject belongs to: what stands open to each other.

    A circuit is called by the run that leaves the outdoor unit; ``""`` where the whole system is
    one: a single zone, a box, a trunk, or one pair of valves before all ports.
    """

    parts: Parts

    @cached_property
    def starts(self) -> dict[str, str]:
        """The run that starts at a place: ``outdoor.A``, ``box1.B``, ``tee1.on``."""
        return {
            mark[3]: name.removeprefix("tube:")
            for name, mark in self.parts.items()
            if name.startswith("tube:") and len(mark) > 3
        }

    @cached_property
    def _places(self) -> dict[str, str]:
        """Where every machine stands, by its token."""
        found = {}
        for name, mark in self.parts.items():
            if kind_of(name) in ("unit", "head", "box", "tee"):
                found[mark[0]] = OUTDOOR if name == UNIT else name.removeprefix("head:")
        return found

    @cached_property
    def one(self) -> bool:
        """Whether all of it is one circuit."""
        unit = self.parts.get(UNIT, ())
        roots = sum(place.startswith(f"{OUTDOOR}.") for place in self.starts)
        return roots < 2 or (len(unit) > 3 and unit[3] == ONE_PAIR)

    def joins(self, key: str) -> bool:
        """Whether these parts have a joint with the sides of ``key``: ``gas:outdoor.A|tubeA``.

        >>> parts = {"unit": ("outdoor", ""), "tube:A": ("A", "", "", "outdoor.C", "")}
        >>> [Circuits(parts).joins(f"gas:outdoor.{x}") for x in ("C|A", "A|A", "B|cap", "C|valve")]
        [True, False, True, True]
        """
        opening, _, other = key.partition(":")[2].partition("|")
        machine, outlet = (*opening.split("."), "")[:2]
        if machine.startswith(JOIN):
            return self._tubes.get(outlet) == other
        at = self._places.get(machine)
        if at is None:
            return False
        run = at if outlet == IN else self.starts.get(f"{at}.{outlet}", "")
        if other == "cap":
            return not run or (outlet == IN and run not in self._tubes)
        if other in ("valve", "reducer", CORE):
            return True
        return bool(run) and other == (self._tubes if outlet == IN else self._tube_starts).get(run)

    @cached_property
    def _tubes(self) -> dict[str, str]:
        """The tube of every run, by its token."""
        return {
            n.removeprefix("tube:"): m[0] for n, m in self.parts.items() if n.startswith("tube:")
        }

    @cached_property
    def _tube_starts(self) -> dict[str, str]:
        """The tube of every run at its start, where it may have been connected anew."""
        marks = {n.removeprefix("tube:"): m for n, m in self.parts.items() if n.startswith("tube:")}
        anew = {run: mark[4] if len(mark) > 4 else "" for run, mark in marks.items()}
        return {run: f"{m[0]}+{anew[run]}" if anew[run] else m[0] for run, m in marks.items()}

    def root(self, run: str) -> str:
        """The run through which a run, or a free port of a box, is fed at the outdoor unit.

        >>> parts = {"unit": ("u1", ""), "tube:box1": ("t1", "", "", "outdoor.A"),
        ...          "tube:C": ("t2", "", "", "box1.C")}
        >>> [Circuits(parts).root(n) for n in ("C", "box1.D", "outdoor.D")]
        ['box1', 'box1', 'outdoor.D']
        """
        at = run.partition(".")[0]  # of a free port its place: fed as its machine is
        run = run if at == OUTDOOR else at
        seen: set[str] = set()
        before = {run: place.partition(".")[0] for place, run in self.starts.items()}
        while run in before and before[run] != OUTDOOR and run not in seen:
            seen.add(run)
            run = before[run]
        return run

    def of(self, name: str) -> str:
        """The circuit of a part; ``""`` where all is one, or it is the outdoor unit."""
        return "" if self.one or name == UNIT else self.root(self.run(name))

    def run(self, name: str) -> str:
        """The run that a part belongs to; of a port without one its place, ``outdoor.D``.

        >>> parts = {"unit": ("u1", "", "", ""), "tube:A": ("t1", "", "", "outdoor.C")}
        >>> [Circuits(parts).run(n) for n in ("joint:gas:u1.C|t1", "joint:gas:u1.D|valve")]
        ['A', 'outdoor.D']
        """
        kind = kind_of(name)
        if kind in ("head", "tube"):
            return name.partition(":")[2]
        if kind in ("box", "tee"):
            return name
        machine, outlet = name.split(":", 2)[2].partition("|")[0].split(".")[:2]
        at = self._places.get(machine, machine)
        if outlet == IN or machine.startswith(JOIN):
            return outlet if machine.startswith(JOIN) else at
        return self.starts.get(f"{at}.{outlet}", f"{at}.{outlet}")
