"""What a proof proved, and what stands of it: one comparison for every stage.

Records and runs name the subject (``core/parts``) that the job had when they were made; joints are
added by the moment of the proof: which were made till then follows from the records of their
making. ``COVERS`` says which parts each kind of proof covers. ``Proofs.differences`` is the only
comparison of what was with the job as it is now: no stage has one of its own. That a proof
*stands* says that its parts are the same, not what is in them now.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Literal

from fairline.core.call import Call, Verdict
from fairline.core.entry import Record
from fairline.core.parts import (
    CORE,
    Circuits,
    JointAct,
    Mark,
    PartChange,
    Parts,
    Subject,
    SubjectSince,
    is_entered,
    joint_marks,
    kind_of,
    part_words,
    place_words,
)

LEAK = "a leak"  # what a difference is that no edit made


@dataclass(frozen=True)
class Cover:
    """What a kind of proof covers, and what it is called.

    ``kinds`` of parts. ``reach``: how far a change of one goes. ``each``: that part by itself.
    ``circuit``: all that stood open to each other when the change was made. ``own``: the machine
    or joint that the proof names. ``zone``: what leads to one head.
    """

    words: str
    kinds: frozenset[str]
    reach: Literal["each", "circuit", "own", "zone"]


_ALL = frozenset({"unit", "head", "box", "tee", "tube", "joint", "open"})
_SEALED = frozenset({"head", "box", "tee", "joint", "open"})  # what nitrogen finds leaks in
_TERMINALS = frozenset({"unit", "head", "box"})
COVERS: dict[str, Cover] = {  # by the kind of record or run
    "joint": Cover("the making of a joint", frozenset({"joint"}), "own"),
    "leak-check": Cover("a look for leaks", frozenset({"joint", "head"}), "own"),
    "hold": Cover("the nitrogen hold", _SEALED, "each"),
    "pull": Cover("the pull", _ALL, "circuit"),
    "decay": Cover("the decay", _ALL, "circuit"),
    "weighing": Cover("what was weighed", _ALL, "circuit"),
    "release": Cover("the opening of the valves", _ALL, "circuit"),
    "valve-steps": Cover("the opening of the valves", _ALL, "circuit"),
    "landing": Cover("what was landed", _TERMINALS, "own"),
    "wire-end": Cover("a finished end of a cable", _TERMINALS, "own"),
    "switched-off": Cover("the switching off", _TERMINALS, "own"),
    "proved-dead": Cover("the proof that it is dead", _TERMINALS, "own"),
    "power-on": Cover("the first start", frozenset({"unit"}), "own"),
    "running": Cover("the measurement of a running zone", _ALL, "zone"),
    "called": Cover("the call of a zone", _ALL, "zone"),
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
    job had which. ``acts``: what was done at joints. ``leaks``: parts at which a leak was found,
    and when. ``labels``: what joints are called.
    """

    now: Parts
    subjects: Mapping[str, Subject] = field(default_factory=dict)
    since: tuple[SubjectSince, ...] = ()
    changes: tuple[PartChange, ...] = ()
    acts: tuple[JointAct, ...] = ()
    leaks: tuple[tuple[str, datetime], ...] = ()
    labels: Mapping[str, str] = field(default_factory=dict, compare=False)

    def key_now(self, key: str, at: datetime) -> str:
        """A joint as it is called now, by the corrections since it was made at ``at``."""
        for change in self.changes:
            if change.at > at and self._corrects(change):
                key = change.moved.get(key, key)
        return key

    def _corrects(self, change: PartChange) -> bool:
        """Whether a correction counts: not where the edit that it is about was taken back."""
        back = any(self.now.get(n, ()) == ends.then for n, ends in change.parts.items())
        return change.how == "corrected" and not back

    def at_beginning(self, subject: str, at: datetime) -> Parts:
        """The parts that a proof made at ``at`` had: those it names, and the joints till then."""
        named = self.machines(subject, at)
        circuits = Circuits(dict(named))
        for key, mark in joint_marks(self.acts, at).items():
            if circuits.joins(key):
                named[f"joint:{key}"] = mark
        return named

    def machines(self, subject: str, at: datetime) -> dict[str, Mark]:
        """The machines and tubes that a proof names, described as corrections since describe them.

        Where it names none it is of a job of before: those that the job had then, as far as that
        is known, else as it was first found.
        """
        kept = self.subjects.get(subject)
        if kept is None and self.since:
            earlier = [s for s in self.since if s.at <= at] or self.since[:1]
            kept = self.subjects.get(earlier[-1].subject)
        named = dict(kept.parts) if kept else {n: m for n, m in self.now.items() if is_entered(n)}
        for change in self.changes:
            if change.at > at and self._corrects(change):
                _correct(named, change)
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
        joints = bool(wanted & {"joint", "open"})
        then = self.at_beginning(subject, at) if joints else self.machines(subject, at)
        every = [
            replace(difference, label=self.labels.get(name) or part_words(name))
            for name in then.keys() | self.now.keys()
            if (joints or is_entered(name))
            and (difference := self._difference(name, then.get(name), self.now.get(name), at))
        ]
        doubted = {m[0] for d in every if not d.answered for m in (d.then, d.now) if m}
        found = [
            d
            for d in every
            if kind_of(d.part) in wanted and only(d.part) and not _follows(d, doubted)
        ]
        return sorted(found, key=lambda d: (not is_entered(d.part), d.part))

    def _difference(
        self, name: str, then: Mark | None, now: Mark | None, at: datetime
    ) -> Difference | None:
        if then and now and (leak := self._leak(name, then, now, at)) is not None:
            return leak
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

    def _leak(self, name: str, then: Mark, now: Mark, at: datetime) -> Difference | None:
        """A leak that was found at a part after it was proved; what is another part is no leak."""
        found = [when for part, when in self.leaks if part == name and when >= at]
        if not found or then[0] != now[0]:
            return None
        return Difference(name, then, now, True, at=found[0], what=LEAK)

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
    if is_entered(difference.part) or (difference.then and difference.now):
        return False
    opening, _, tube = difference.part.split(":", 2)[2].partition("|")
    return bool({opening.partition(".")[0], tube.partition("+")[0]} & doubted)


def changed_parts(then: Parts, now: Parts) -> list[Difference]:
    """The machines and tubes that are others, or described otherwise, in words for an edit."""
    names = sorted(
        n for n in then.keys() | now.keys() if is_entered(n) and then.get(n) != now.get(n)
    )
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


DRAWN_OR_CHANGED = "Say whether it was drawn wrong, or changed on site."


def undecided(differences: Sequence[Difference], what: str) -> Call:
    """The call while nobody said whether an edit under a proof was a change or a correction."""
    return Call(
        verdict=Verdict.WAIT,
        because=f"{difference_words(differences[0])}: {what} rests on how it was before.",
        do_next=DRAWN_OR_CHANGED,
    )


def asked_again(differences: Sequence[Difference], what: str, since: str, do_next: str) -> Call:
    """The call of a proof whose parts are others now: what changed ``since`` it, and what to do.

    ``what`` is what the proof is called; while it is doubted only that is said.
    """
    doubts = [d for d in differences if not d.answered]
    if doubts:
        return undecided(doubts, what)
    because = f"{difference_words(differences[0])} {since}"
    return Call(verdict=Verdict.WAIT, because=because, do_next=do_next)


def difference_words(difference: Difference) -> str:
    """What differs, as a clause: ``Head A was exchanged``; while nobody answered, what is drawn."""
    if difference.what == LEAK:
        return f"{difference.label or part_words(difference.part)} was found leaking"
    label, then, now = difference.label or part_words(difference.part), *_ends(difference)
    if difference.part.endswith(f"|{CORE}"):
        return f"{label} was changed in the open"
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
