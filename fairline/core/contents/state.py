"""The state of the pipes, what led to it, and what an act on it is refused by."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import capitalized
from fairline.core.contents.act import Act
from fairline.core.contents.needs import BY_NAME, NEEDS, STATES, Row, rows_of
from fairline.core.contents.part import Part
from fairline.core.contents.places import has_place, unsaid
from fairline.core.contents.steps import STEPS
from fairline.core.quantities import both

JUDGED_LATER = ("nitrogen", "pump", "decay", "weigh in", "weigh in, running", "release")


@dataclass(frozen=True)
class Finding:
    """An act that the state before it refused. ``standing``: nothing since has put it right."""

    act: Act
    circuits: tuple[str, ...]
    row: str
    state: str
    verdict: Verdict
    because: str
    steps: tuple[str, ...] = ()
    standing: bool = True

    @property
    def call(self) -> Call:
        """The finding as a call: what was wrong, and the first step out of it."""
        do_next = STEPS[self.steps[0]].words if self.steps else "Ask who knows this system."
        return Call(verdict=self.verdict, because=self.because, do_next=do_next)


@dataclass(frozen=True)
class ActOutcome:
    """One act of the story: which circuits it changed, what they hold since, what was wrong."""

    act: Act
    circuits: tuple[str, ...]
    after: Mapping[str, Part]
    findings: tuple[Finding, ...] = ()


@dataclass
class ValveSeats:
    """Shut valves with refrigerant behind them: when valves were opened, and each side read."""

    opened_at: datetime | None = None
    read_at: dict[str, datetime] = field(default_factory=dict)

    def unread(self, circuit: str, part: Part, state: Mapping[str, Part]) -> bool:
        """Whether a circuit is opened first beside others that are charged, and nobody read it."""
        if part.valves or self.opened_at is None or part.since is not None or part.ends:
            return False
        wet = any(p.valves and p.content == "refrigerant" for p in state.values())
        return wet and self.read_at.get(circuit, self.opened_at) <= self.opened_at

    def add(self, act: Act, circuits: Iterable[str]) -> None:
        """What an act says of it."""
        if act.kind == "released":
            self.opened_at = act.at
        elif act.kind in ("bled", "nitrogen", "pump", "decay", "weighed"):
            self.read_at |= dict.fromkeys(circuits, act.at)


@dataclass(frozen=True)
class Contents:
    """What every circuit holds; ``story`` tells how it came to it.

    A circuit goes by the run that leaves the outdoor unit, or by the run behind an isolation valve.
    ``tied``: one pair of valves before all ports. ``lost``: the act since which nobody knows how
    many grams are in the system. ``whole``: weighings, by their ids, that took all of it out.
    """

    now: Mapping[str, Part] = field(default_factory=dict)
    story: tuple[ActOutcome, ...] = ()
    circuits: tuple[str, ...] = ()
    tied: bool = False
    charged: bool = False
    lost: Act | None = None
    whole: frozenset[str] = frozenset()
    places: Callable[[str], tuple[str, ...]] | None = field(default=None, compare=False)
    unmade: Mapping[str, Sequence[str]] = field(default_factory=dict)
    seats: "ValveSeats" = field(default_factory=lambda: ValveSeats())

    def of(self, name: str) -> Part:
        """What a part of the job holds, by the part's name: the first of its circuits."""
        circuits = self.places(name) if self.places else ()
        return self.part(next(iter(circuits), ""))

    def part(self, circuit: str) -> Part:
        """What one circuit holds now."""
        part = self.now.get(circuit) or self._fresh
        return replace(part, seat=self.seats.unread(circuit, part, self.now))

    def parts(self, ports: Iterable[str] = ()) -> dict[str, Part]:
        """What the circuits of some ports hold; those that there are, where none is named."""
        named = [p for p in ports if p] or list(self.circuits)
        return {circuit: self.part(circuit) for circuit in named}

    def since(self, moment: datetime, circuits: Iterable[str], *kinds: str) -> list[ActOutcome]:
        """The acts of some kinds on any of some circuits after a moment, in order."""
        on = set(circuits)
        return [
            told
            for told in self.story
            if told.act.at > moment and told.act.kind in kinds and on & set(told.circuits)
        ]

    def at(self, moment: datetime, circuit: str) -> Part:
        """What one circuit held at a moment."""
        part = self._fresh
        for told in self.story:
            if told.act.at > moment:
                break
            part = told.after.get(circuit, part)
        return part

    @property
    def _fresh(self) -> Part:
        return Part("charged") if self.charged else Part()

    @property
    def findings(self) -> tuple[Finding, ...]:
        return tuple(f for told in self.story for f in told.findings)

    @property
    def refrigerant(self) -> bool:
        """Whether refrigerant is, or may be, in any circuit that there is."""
        return any(p.content in ("refrigerant", "mixed") for p in self.parts().values())

    @property
    def words(self) -> str:
        """What is in the pipes, in words; blank where it is air, or nothing was let in."""
        found = dict.fromkeys(
            p.words.partition(",")[0]
            for p in self.parts().values()
            if p.content not in ("air", "charged", "recovered", "pumped-down")
            and (p.content != "nitrogen" or p.pressed)
        )
        return " and ".join(found)

    def refused(self, act: Act) -> list[Finding]:
        """What keeps an act from being done now; nothing where it may be done."""
        named = self.places(act.place) if self.places and has_place(act) else ()
        circuits = act.ports or named or unsaid(act, self.now, self.circuits, self.tied)
        ends = self.unmade if act.kind in ("nitrogen", "released") else None
        return judged(act, {c: self.part(c) for c in circuits}, self.many, ends)

    @property
    def many(self) -> bool:
        return len(self.circuits) > 1


def judged(
    act: Act,
    parts: Mapping[str, Part],
    many: bool = False,
    ends: Mapping[str, Sequence[str]] | None = None,
) -> list[Finding]:
    """What is wrong with an act on parts as they are: of each row the first state that refuses."""
    found = []
    for name in rows_of(act):
        for circuit, part in parts.items():
            open_ends = (ends or {}).get(circuit, ())
            row = _refusing(NEEDS[name], act, part, open_ends)
            if row is None:
                continue
            because, verdict = _words(row, circuit, part, many, open_ends), row.verdict
            if BY_NAME in row.but and (named := _named(act, part)):
                because, verdict = f"{because} By name of {named}.", Verdict.WATCH
            found.append(Finding(act, (circuit,), name, row.state, verdict, because, row.steps))
    return found


def _named(act: Act, part: Part) -> str:
    """Who answers for an act that its part refuses, and why; blank where nobody does."""
    if BY_NAME in act.said:
        return f"{act.by}: {act.why}"
    return part.named if act.kind in ("pump", "decay") else ""


def _refusing(rows: Sequence[Row], act: Act, part: Part, open_ends: Sequence[str]) -> Row | None:
    unmade = {"ends open": bool(open_ends), "open, untested": bool(open_ends) and not part.tested}
    for row in rows:
        true = STATES[row.state](part) or unmade.get(row.state, False)
        if true and not ((row.but - {BY_NAME}) & act.said):
            return row
    return None


def _words(row: Row, circuit: str, part: Part, many: bool, open_ends: Sequence[str]) -> str:
    where = f"port {circuit}" if many else "the lines"
    gauge = f" at {both(part.gauge_pa, 'gauge')}" if part.gauge_pa is not None else ""
    named = "; ".join([*open_ends][:2]) or "a joint that was opened"
    words = row.because.format(part=where, gauge=gauge, content=part.words, ends=named)
    return capitalized(words)


def checks(contents: Contents, stage_kinds: Iterable[str]) -> list[Check]:
    """What stands out of order of the acts of a stage, as checks of its call.

    ``stage_kinds``: the kinds of its records and runs. One check for an act: the worst of it.
    """
    kinds, found = set(stage_kinds), dict[str, Finding]()
    for finding in contents.findings:
        counts = finding.verdict is Verdict.STOP or finding.row in JUDGED_LATER
        if not finding.standing or finding.act.of not in kinds or not counts:
            continue
        held = found.get(finding.act.uid)
        if held is None or (held.verdict is not Verdict.STOP and finding.verdict is Verdict.STOP):
            found[finding.act.uid] = finding
    return [
        Check(id=f"order_{uid}", label="Order of work", call=f.call) for uid, f in found.items()
    ]
