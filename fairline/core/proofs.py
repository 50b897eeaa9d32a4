"""What a proof proved: the parts of a job, the subject that a proof names, and what stands of it.

A *part* is a name and a mark. The mark begins with what tells the part from every other one (the
token of a machine or tube, the id of a joint's making); what follows describes it (model, serial,
size, where it is connected). The machines and tubes of a job at one time are a *subject*, kept
once by its digest; records and runs name it. Joints are added by the moment of the proof: which
were made till then follows from the records of their making. ``COVERS`` says which parts each kind
of proof covers. ``Proofs.differences`` is the only comparison of what was with the job as it is
now: no stage has one of its own. That a proof *stands* says that its parts are the same, not what
is in them now.
"""

import hashlib
import json
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field, field_validator

from fairline.core.call import Call, Verdict
from fairline.core.entry import Entry, Moment, Record, Text
from fairline.core.physics.tubing import size_label

Mark = tuple[str, ...]
Parts = Mapping[str, Mark]
PartKind = Literal["unit", "head", "box", "tee", "tube", "joint", "open"]
Name = Annotated[str, Field(min_length=1, max_length=120)]
MarkText = Annotated[str, Field(max_length=420)]
UNIT = "unit"
OPEN = "open"  # the mark of an end that stands open
OUTDOOR = "outdoor"  # the place of the outdoor unit
IN = "in"  # the opening by which a run comes into its head, box or tee
JOIN = "join"  # a join on the way is called by this and its number
ONE_PAIR = "one"  # of an outdoor unit with one pair of valves before all its ports


class Subject(Entry):
    """The machines and tubes of a job at one time.

    ``found``: nobody kept it that day; it is the job as it was found when it was next changed.
    """

    parts: dict[Name, tuple[MarkText, ...]] = {}
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
    moved: Annotated[dict[Name, Name], Field(max_length=200)] = {}
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


@dataclass(frozen=True)
class Cover:
    """What a kind of proof covers: parts of these kinds, and how far a change of one reaches.

    ``each``: every part by itself. ``circuit``: all that stood open to each other when the change
    was made. ``own``: the machine or joint that it names. ``zone``: what leads to one head.
    """

    kinds: frozenset[str]
    reach: Literal["each", "circuit", "own", "zone"]


_ALL = frozenset({"unit", "head", "box", "tee", "tube", "joint", "open"})
COVERS: dict[str, Cover] = {
    "joint": Cover(frozenset({"joint"}), "own"),
    "leak-check": Cover(frozenset({"joint", "head"}), "own"),
    "hold": Cover(frozenset({"head", "box", "tee", "joint", "open"}), "each"),
    "pull": Cover(_ALL, "circuit"),
    "decay": Cover(_ALL, "circuit"),
    "weighing": Cover(_ALL, "circuit"),
    "release": Cover(_ALL, "circuit"),
    "landing": Cover(frozenset({"unit", "head", "box"}), "own"),
    "wire-end": Cover(frozenset({"unit", "head", "box"}), "own"),
    "switched-off": Cover(frozenset({"unit", "head"}), "own"),
    "proved-dead": Cover(frozenset({"unit", "head"}), "own"),
    "power-on": Cover(frozenset({"unit"}), "own"),
    "running": Cover(_ALL, "zone"),
}


@dataclass(frozen=True)
class Proof:
    """What a proof is compared by: its id, the parts it names, its moment, the ports it was on."""

    uid: str
    subject: str
    at: datetime
    ports: tuple[str, ...] = ()

    @classmethod
    def of(cls, record: Record) -> "Proof":
        ports: tuple[str, ...] = getattr(record, "ports", ())
        return cls(record.uid, record.subject, record.at, ports)


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

    A joint that was opened is none. A nut that was left loose and torqued later was made once.
    """
    marks: dict[str, Mark] = {}
    loose: set[str] = set()
    for act in sorted(acts, key=lambda a: a.at):
        if until is not None and act.at > until:
            break
        before = marks.get(act.key)
        if act.did == "opened":
            marks.pop(act.key, None)
        elif before and (act.did == "tightened" or (act.key in loose and not act.loose)):
            marks[act.key] = (before[0], act.uid)
        else:
            marks[act.key] = (act.uid, act.uid)
        (loose.add if act.loose else loose.discard)(act.key)
    return marks


@dataclass(frozen=True)
class Difference:
    """A part that is another one now than a proof proved, or may be.

    ``then`` and ``now`` are None where there was none, or is none. ``answered``: it is known that
    it changed; else somebody has to say whether it was only drawn wrong. ``at``, ``by`` and
    ``what`` are of the act or edit that changed it, as far as they were kept. ``label`` is what the
    part is called.
    """

    part: str
    then: Mark | None
    now: Mark | None
    answered: bool
    label: str = ""
    at: datetime | None = None
    by: str = ""
    what: str = ""


def _alike(then: Mark, now: Mark) -> bool:
    """Whether two marks describe the same; what was not said yet differs from nothing."""
    long = max(len(then), len(now))
    a, b = (tuple(m) + ("",) * (long - len(m)) for m in (then, now))
    return all(x == y or not x or not y for x, y in zip(a, b, strict=True))


@dataclass(frozen=True)
class Proofs:
    """What the parts of a job are, what they were, and what is known of the changes between.

    ``now``: the parts. ``subjects``: those that records and runs name. ``since``: from when on the
    job had which. ``acts``: what was done at joints. ``labels``: what joints are called.
    """

    now: Parts
    subjects: Mapping[str, Subject] = field(default_factory=dict)
    since: tuple[SubjectSince, ...] = ()
    changes: tuple[PartChange, ...] = ()
    acts: tuple[JointAct, ...] = ()
    labels: Mapping[str, str] = field(default_factory=dict, compare=False)

    def key_now(self, key: str, at: datetime) -> str:
        """A joint as it is called now, by the corrections since it was made at ``at``."""
        for change in self.changes:
            if change.at > at and self._corrects(change):
                key = change.moved.get(key, key)
        return key

    def _corrects(self, change: PartChange) -> bool:
        """Whether a correction counts: not where the edit that it is about was taken back."""
        back = any(ends.then and self.now.get(n) == ends.then for n, ends in change.parts.items())
        return change.how == "corrected" and not back

    def at_beginning(self, subject: str, at: datetime) -> Parts:
        """The parts that a proof made at ``at`` had: those that it names, and the joints till then.

        Where it names none it is of a job of before: the one as it was first found.
        """
        first = self.since[0].subject if self.since else ""
        kept = self.subjects.get(subject) or self.subjects.get(first)
        named = dict(kept.parts) if kept else {n: m for n, m in self.now.items() if entered(n)}
        for change in self.changes:
            if change.at > at and self._corrects(change):
                _correct(named, change)
        circuits = Circuits({**named})
        for key, mark in joint_marks(self.acts, at).items():
            if circuits.joins(key):
                named[f"joint:{key}"] = mark
        return named

    def subject_at(self, began: str, start: datetime, at: datetime) -> str:
        """The subject at a moment within a run that began with ``began``."""
        later = [s for s in self.since if start < s.at <= at]
        return later[-1].subject if later else began

    def differences(
        self,
        subject: str,
        at: datetime,
        kinds: Iterable[str],
        only: Callable[[str], bool] = lambda name: True,
    ) -> list[Difference]:
        """The parts of some kinds that are not, or may not be, those of a proof made at ``at``.

        Of joints the making counts; that one was tightened since, without opening it, does not.
        """
        wanted = frozenset(kinds)
        then = self.at_beginning(subject, at)
        every = [
            replace(difference, label=self.labels.get(name) or part_words(name))
            for name in then.keys() | self.now.keys()
            if (difference := self._difference(name, then.get(name), self.now.get(name), at))
        ]
        doubted = {m[0] for d in every if not d.answered for m in (d.then, d.now) if m}
        found = [
            d
            for d in every
            if kind_of(d.part) in wanted and only(d.part) and not _follows(d, doubted)
        ]
        return sorted(found, key=lambda d: (not entered(d.part), d.part))

    def _difference(
        self, name: str, then: Mark | None, now: Mark | None, at: datetime
    ) -> Difference | None:
        if kind_of(name) in ("joint", "open"):
            if (then and then[0]) == (now and now[0]):
                return None
            return self._told(Difference(name, then, now, True), at)
        if then is not None and now is not None:
            if _same_thing(then, now) and _alike(then[1:], now[1:]):
                return None
            if not _same_thing(then, now):
                return self._told(Difference(name, then, now, True), at)
        return self._told(Difference(name, then, now, self._said(name, then, now)), at)

    def _said(self, name: str, then: Mark | None, now: Mark | None) -> bool:
        """Whether it was said how a part came from one mark to another."""
        reached = {then or ()}
        for change in self.changes:
            step = change.parts.get(name)
            if step is not None and reached & {step.then, step.now}:
                reached |= {step.then, step.now}
        return len(reached) > 1 and (now or ()) in reached

    def _told(self, difference: Difference, at: datetime) -> Difference:
        """A difference with since when, and by whom."""
        part, now = difference.part, difference.now
        if kind_of(part) == "joint" and now is not None:
            act = next((a for a in self.acts if a.uid == now[0]), None)
            return replace(difference, at=act.at, by=act.by) if act else difference
        for one in (s for s in self.since if s.at > at):
            kept = self.subjects.get(one.subject)
            mark = kept.parts.get(part) if kept is not None else None
            if mark == now:
                return replace(difference, at=one.at, by=one.by, what=one.what)
        return difference


def _follows(difference: Difference, doubted: set[str]) -> bool:
    """Whether a joint came or went with a machine or tube of which nobody said what it is."""
    if entered(difference.part) or (difference.then and difference.now):
        return False
    opening, _, tube = difference.part.split(":", 2)[2].partition("|")
    return bool({opening.partition(".")[0], tube.partition("+")[0]} & doubted)


def changed_parts(then: Parts, now: Parts) -> list[Difference]:
    """The machines and tubes that are others, or described otherwise, in words for an edit."""
    names = sorted(n for n in then.keys() | now.keys() if entered(n) and then.get(n) != now.get(n))
    return [Difference(n, then.get(n), now.get(n), True) for n in names]


def _same_thing(a: Mark, b: Mark) -> bool:
    """Whether two marks are of one machine or tube, however it is described.

    A tube that was connected anew on site is another one at its start.
    """
    return a[:1] == b[:1] and a[4:5] == b[4:5]


def _correct(named: dict[str, Mark], change: PartChange) -> None:
    """Describe parts of before as a correction does."""
    for name, ends in change.parts.items():
        was = named.get(name)
        if (was is None and not ends.then) or (was and ends.then and _same_thing(was, ends.then)):
            named.pop(name, None)
            if ends.now:
                named[name] = ends.now


def entered(part: str) -> bool:
    """Whether a part follows from what is entered, and not from what was done at joints."""
    return kind_of(part) not in ("joint", "open")


DRAWN_OR_CHANGED = "Say whether it was drawn wrong, or changed on site."


def undecided(differences: Sequence[Difference], what: str) -> Call:
    """The call while nobody said whether an edit under a proof was a change or a correction."""
    return Call(
        verdict=Verdict.WAIT,
        because=f"{words(differences[0])}: {what} rests on how it was before.",
        do_next=DRAWN_OR_CHANGED,
    )


def words(difference: Difference) -> str:
    """What differs, as a clause: ``Head A was exchanged``; while nobody answered, what is drawn."""
    label, then, now = difference.label or part_words(difference.part), *_ends(difference)
    if not then or not now:
        if difference.answered:
            return f"{label} was {'put in' if not then else 'taken out'}"
        return f"{label} is {'drawn now' if not then else 'not drawn any more'}"
    if kind_of(difference.part) == "joint":
        return f"{label} was made again"
    pairs = [(a, b) for a, b in zip(then[1:4], now[1:4], strict=False) if a and b and a != b]
    was, is_ = (" and ".join(place_words(pair[n]) for pair in pairs) for n in (0, 1))
    if not difference.answered:
        return f"{label} is drawn otherwise: {was}, now {is_}"
    return f"{label} was changed from {was} to {is_}" if pairs else f"{label} was exchanged"


def _ends(difference: Difference) -> tuple[Mark, Mark]:
    return difference.then or (), difference.now or ()


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
            return f"{other.capitalize()} {kind[3:]}"


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
        """Whether these parts have a joint with the sides of ``key``: ``gas:outdoor.A|A``.

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
        if other in ("valve", "reducer"):
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
        """The run through which a run is fed, at the outdoor unit."""
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
