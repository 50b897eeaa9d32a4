"""The state of the pipes: every act folded, in the order in which the acts were done.

A pure function of the acts: of their moments, else of their numbers. Each act is judged by the
state before it (``needs.NEEDS``) and then changes it, whether or not it was in order. What stands
open to each other shares what is let in or out: circuits whose valves are open, through the outdoor
unit; those that a rig joins while it pulls or decays.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from types import MappingProxyType
from typing import Any

from fairline.core.call import Call, Check, Verdict
from fairline.core.contents.act import Act, in_order
from fairline.core.contents.needs import BY_NAME, NEEDS, STATES, Row, rows_of
from fairline.core.contents.part import NOUGHT_PA, Content, Part
from fairline.core.contents.steps import STEPS
from fairline.core.parts import UNIT, Circuits, Parts, joint_marks, kind_of
from fairline.core.proofs import Proofs
from fairline.core.quantities import both

VALVE_END = "|valve"  # the end of a joint's key where an isolation valve sits
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
class Told:
    """One act of the story: which circuits it changed, what they hold since, what was wrong."""

    act: Act
    circuits: tuple[str, ...]
    after: Mapping[str, Part]
    findings: tuple[Finding, ...] = ()


@dataclass
class Seats:
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
    """What every circuit holds; ``story`` tells how it came to it. ``tags``: what they are called.

    A circuit goes by the run that leaves the outdoor unit, or by the run behind an isolation valve.
    ``tied``: one pair of valves before all ports. ``lost``: the act since which nobody knows how
    many grams are in the system. ``whole``: weighings, by their ids, that took all of it out.
    """

    now: Mapping[str, Part] = field(default_factory=dict)
    story: tuple[Told, ...] = ()
    circuits: tuple[str, ...] = ()
    tied: bool = False
    charged: bool = False
    lost: Act | None = None
    whole: frozenset[str] = frozenset()
    places: Callable[[str], tuple[str, ...]] | None = field(default=None, compare=False)
    unmade: Mapping[str, Sequence[str]] = field(default_factory=dict)
    seats: "Seats" = field(default_factory=lambda: Seats())

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

    def since(self, moment: datetime, circuits: Iterable[str], *kinds: str) -> list[Told]:
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
        named = self.places(act.place) if self.places and _has_place(act) else ()
        circuits = act.ports or named or _unsaid(act, self.now, self.circuits, self.tied)
        ends = self.unmade if act.kind in ("nitrogen", "released") else None
        return judged(act, {c: self.part(c) for c in circuits}, self.many, ends)

    @property
    def many(self) -> bool:
        return len(self.circuits) > 1


def _has_place(act: Act) -> bool:
    """Whether an act is done at one part of the job, by its name."""
    return act.kind in ("joint", "machine", "look") and bool(act.place)


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
    return words[0].upper() + words[1:]


# --- the fold ---------------------------------------------------------------------------------


def fold(
    acts: Iterable[Act],
    proofs: Proofs,
    charged: bool = False,
    required: Mapping[str, str] = MappingProxyType({}),
) -> Contents:
    """The state of the pipes after all acts of a job.

    ``proofs`` has the machines and tubes of every moment; ``charged``: a charged kit, whose lines
    are neither evacuated nor under nitrogen. ``required``: the joints that close the lines, by
    their keys, in words.
    """
    every = list(acts)
    on_ports = {a.run: a.ports for a in every if a.kind == "ports"}
    seen = {a.run for a in every if a.kind == "seen"}
    open_to = {(a.run, a.place) for a in every if a.kind == "parted" and "open" in a.said}
    places = _Places(proofs, required)
    now = places.here(proofs.now)
    folding = _Folding({}, charged, frozenset(open_to))
    for act in in_order(every):
        if act.kind in ("ports", "seen", "parted"):
            continue
        act = replace(act, ports=on_ports.get(act.uid, act.ports))
        if act.uid in seen:
            act = replace(act, said=act.said | {"seen"})
        folding.add(act, places)
    return Contents(
        now=folding.state,
        story=tuple(folding.story),
        circuits=now.circuits,
        tied=now.tied,
        charged=charged,
        lost=folding.lost,
        whole=frozenset(folding.whole),
        places=now.of,
        unmade=places.unmade(now, None),
        seats=folding.seats,
    )


@dataclass(frozen=True)
class _Here:
    """The circuits of a job at one moment; ``tied``: all behind one pair of valves."""

    parts: Parts
    circuits: tuple[str, ...]
    tied: bool
    branches: frozenset[str]

    def of_run(self, run: str) -> str:
        """The circuit of a run: its own behind an isolation valve, else that which feeds it."""
        return run if run in self.branches else Circuits(self.parts).root(run)

    def of(self, name: str) -> tuple[str, ...]:
        """The circuits of a part; all of the outdoor unit's."""
        if name == UNIT:
            return self.circuits
        run = Circuits(self.parts).run(name)
        return (self.of_run(run),)


class _Places:
    """Which circuits a job had at which moment, worked out once for each set of parts."""

    def __init__(self, proofs: Proofs, required: Mapping[str, str]) -> None:
        self.proofs, self.required = proofs, required
        self._valves = {
            act.key.partition(":")[2].removesuffix(VALVE_END)
            for act in proofs.acts
            if act.key.endswith(VALVE_END)
        }
        self._found: dict[tuple[str, int], _Here] = {}

    def at(self, act: Act) -> _Here:
        later = sum(change.at > act.at for change in self.proofs.changes)
        subject = act.subject if act.subject in self.proofs.subjects else str(act.at)
        key = (subject, later)
        if key not in self._found:
            self._found[key] = self.here(self.proofs.machines(act.subject, act.at))
        return self._found[key]

    def unmade(self, here: _Here, moment: datetime | None) -> dict[str, list[str]]:
        """Of each circuit the joints that were not made at a moment (None: by now), in words."""
        made, parts = joint_marks(self.proofs.acts, moment), Circuits(here.parts)
        found: dict[str, list[str]] = {}
        for key, label in self.required.items():
            if key not in made and parts.joins(key):
                for circuit in here.of(f"joint:{key}"):
                    found.setdefault(circuit, []).append(label)
        return found

    def before(self, act: Act) -> _Here:
        """The circuits when the job last had a machine that is gone."""
        for one in reversed(self.proofs.since):
            kept = self.proofs.subjects.get(one.subject)
            if kept is not None and one.at <= act.at and act.place in kept.parts:
                return self.here(kept.parts)
        return self.at(act)

    def here(self, parts: Parts) -> _Here:
        known = Circuits(parts)
        tokens = {m[0]: n for n, m in parts.items() if kind_of(n) in ("unit", "box", "tee")}
        branches = set()
        for place, run in known.starts.items():
            machine, _, outlet = place.partition(".")
            name = UNIT if machine == "outdoor" else machine
            token = next((t for t, n in tokens.items() if n == name), "")
            if f"{token}.{outlet}" in self._valves and name != UNIT:
                branches.add(run)
        roots = sorted(run for place, run in known.starts.items() if place.startswith("outdoor."))
        return _Here(
            parts,
            (*roots, *sorted(branches)),
            known.one and len(roots) > 1,
            frozenset(branches),
        )


def _unsaid(
    act: Act, state: Mapping[str, Part], circuits: Sequence[str], tied: bool
) -> tuple[str, ...]:
    """The circuits of an act that names none.

    Nitrogen, pump and scale are on what is shut while anything is; what is shut or drawn down is
    what stands open. Else it is all of them.
    """
    shut = [c for c in circuits if not state.get(c, Part()).valves]
    open_ = [c for c in circuits if c not in shut]
    if act.kind in ("shut", "pumped-down") or {"out", "running"} & act.said:
        return tuple(open_ or circuits)
    if act.kind == "released" or tied:
        return tuple(circuits)
    return tuple(shut or circuits)


Change = Callable[[Part], Part]


@dataclass
class _Folding:
    """The state as far as the acts are folded.

    ``rig``: the circuits that the rig of a run joins; ``open_to``: runs and ports of which it is
    said that the others stood open as that port was opened.
    """

    state: dict[str, Part]
    charged: bool
    open_to: frozenset[tuple[str, str]] = frozenset()
    story: list[Told] = field(default_factory=list)
    seats: Seats = field(default_factory=Seats)
    rig: tuple[str, ...] = ()
    rig_run: str = ""
    lost: Act | None = None
    whole: list[str] = field(default_factory=list)

    def add(self, act: Act, places: _Places) -> None:
        here = places.at(act)
        circuits = self._circuits(act, here, places)
        before = {c: self._seated(c) for c in circuits}
        closes = act.kind in ("nitrogen", "released")
        ends = places.unmade(here, act.at) if closes else None
        found = judged(act, before, len(here.circuits) > 1, ends)
        reached = self._together(circuits, here, act)
        change = _change(act, found)
        after = {c: change(self.part(c)) for c in reached}
        if act.kind in ("joint", "machine"):  # the joints of the others were not opened
            others = [c for c in reached if c not in circuits]
            after |= {c: replace(after[c], tested=self.part(c).tested) for c in others}
        if self.charged and act.kind in ("joint", "machine"):  # what is connected is a charged kit
            air = {c: p for c, p in after.items() if p.content == "air"}
            after |= {c: replace(p, content="charged") for c, p in air.items()}
        self._weigh(act, reached, found)
        self.seats.add(act, circuits)
        self.state |= after
        if act.kind in ("pump", "decay"):
            self.rig, self.rig_run = tuple(circuits), act.uid
        elif act.kind in ("released", "nitrogen"):
            self.rig = ()
        if all(f.verdict is Verdict.WATCH for f in found):
            self._put_right(act, reached)
        self.story.append(Told(act, tuple(reached), after, tuple(found)))

    def _seated(self, circuit: str) -> Part:
        part = self.part(circuit)
        return replace(part, seat=self.seats.unread(circuit, part, self.state))

    def _weigh(self, act: Act, reached: Sequence[str], found: Sequence[Finding]) -> None:
        """Whether the grams in the system are known: not after a leak, until all is weighed."""
        parts = [self.part(c) for c in reached]
        wet = any(p.content in ("refrigerant", "mixed") for p in parts)
        opened = any(f.row in ("open tubing", "flame") and f.state != "pressed" for f in found)
        lets_out = act.kind == "released" and any(p.ends for p in parts)
        leaks = act.kind == "look" and "leak" in act.said
        if (wet and (leaks or opened)) or lets_out:
            self.lost = act
        if "emptied" in act.said and any(p.valves for p in parts):
            self.whole.append(act.uid)
        if act.uid in self.whole or (act.kind == "machine" and act.place == UNIT):
            self.lost = None

    def part(self, circuit: str) -> Part:
        return self.state.get(circuit) or (Part("charged") if self.charged else Part())

    def _circuits(self, act: Act, here: _Here, places: _Places) -> tuple[str, ...]:
        """The circuits that an act is done on."""
        if act.ports:
            return act.ports
        if act.kind == "machine" and act.place and act.place not in here.parts:
            return places.before(act).of(act.place)
        if _has_place(act):
            return here.of(act.place)
        if act.kind == "exposure" and act.place not in ("", "all"):
            return (here.of_run(act.place),)
        return _unsaid(act, self.state, here.circuits, here.tied)

    def _together(self, circuits: Sequence[str], here: _Here, act: Act) -> list[str]:
        """Those circuits with all that stands open to them."""
        found = list(circuits)
        opens = act.kind in ("joint", "machine", "exposure", "sweep")
        if opens and any((self.rig_run, c) in self.open_to for c in found):
            found += self.rig
        shares = opens or act.kind in ("nitrogen", "weighed", "bled")
        if here.tied or (shares and any(self.part(c).valves for c in found)):
            found += [c for c in here.circuits if here.tied or self.part(c).valves]
        return list(dict.fromkeys(found))

    def _put_right(self, act: Act, circuits: Iterable[str]) -> None:
        """What an act in order puts right of what was out of order before."""
        on, rows = set(circuits), set(rows_of(act))
        clean = act.kind in ("nitrogen", "pump", "pumped-down") or "emptied" in act.said
        for n, told in enumerate(self.story):
            left = tuple(
                replace(f, standing=False)
                if f.standing
                and set(f.circuits) <= on
                and (
                    clean
                    or (act.kind == "bled" and f.state == "pressed")
                    or (rows & {f.row} and f.row in JUDGED_LATER)
                )
                else f
                for f in told.findings
            )
            if left != told.findings:
                self.story[n] = replace(told, findings=left)


def _change(act: Act, found: Sequence[Finding]) -> Change:
    """What an act does to a part that it reaches."""
    onto = any(f.state in ("refrigerant", "leaking", "mixed") for f in found)
    does = CHANGES.get(act.kind)
    return (lambda p: p) if does is None else lambda p: does(p, act, onto)


def _new(part: Part, act: Act, content: Content, **more: Any) -> Part:
    """A part with another content since an act; with the same one only what ``more`` says."""
    if part.content == content:
        return replace(part, **more)
    return replace(part, content=content, since=act.at, by=act.by, **more)


def _opened(part: Part, act: Act, onto: bool) -> Part:
    """Opened: what was in it is gone, or air came to it; its nitrogen proves the joint no more."""
    said = act.said
    if "tightened" in said:
        return part if "core" in said else replace(part, leaks=part.leaks - {act.place})
    if part.content == "charged" and "opened" not in said:
        return part
    ends = part.ends
    if act.kind == "joint":
        ends = ends | {act.place} if "opened" in said else ends - {act.place}
    content: Content = "mixed" if onto and part.valves else "purge" if "purge" in said else "air"
    leaks = part.leaks - {act.place}
    shut = {"gauge_pa": None, "pump": False, "pumped": False, "tested": False, "named": ""}
    return _new(part, act, content, ends=ends, leaks=leaks, **shut)


def _exposed(part: Part, act: Act, onto: bool) -> Part:
    raining = act.at if "rain" in act.said else None
    if "opened" in act.said:
        return replace(_opened(part, act, onto), raining=raining)
    if "sealed" in act.said:
        return _new(part, act, "nitrogen", gauge_pa=None, raining=raining)
    return replace(part, raining=raining)


def _nitrogen(part: Part, act: Act, onto: bool) -> Part:
    high = act.gauge_pa is not None and act.gauge_pa > NOUGHT_PA
    values = {"gauge_pa": act.gauge_pa, "pump": False, "pumped": False, "named": ""}
    return _new(
        part,
        act,
        "mixed" if onto else "nitrogen",
        tested=part.tested or (high and not onto),
        **values,
    )


def _bled(part: Part, act: Act, onto: bool) -> Part:
    """Nitrogen let out: what is left as the gauge read it; of another content nothing changes."""
    return replace(part, gauge_pa=act.gauge_pa or 0.0) if part.content == "nitrogen" else part


def _swept(part: Part, act: Act, onto: bool) -> Part:
    content: Content = "mixed" if onto else "nitrogen"
    return _new(part, act, content, gauge_pa=0.0, pump=False, pumped=False)


def _pumped(part: Part, act: Act, onto: bool) -> Part:
    return part if onto else _new(part, act, "vacuum", gauge_pa=None, pump=True, pumped=True)


def _shut_off(part: Part, act: Act, onto: bool) -> Part:
    if onto:
        return part
    pumped = part.pumped or "seen" in act.said
    return _new(part, act, "vacuum", gauge_pa=None, pump=False, pumped=pumped)


def _weighed(part: Part, act: Act, onto: bool) -> Part:
    """Refrigerant weighed in or taken out; all of it where the gauge came to nought."""
    if "emptied" in act.said:
        return _new(part, act, "recovered", gauge_pa=0.0, pump=False, pumped=False)
    if {"out", "running"} & act.said or part.content == "refrigerant":
        return part
    content: Content = "mixed" if _spoilt(part) else "refrigerant"
    return _new(part, act, content, pump=False, gauge_pa=None)


def _released(part: Part, act: Act, onto: bool) -> Part:
    content: Content = "mixed" if onto or _spoilt(part) else "refrigerant"
    return _new(part, act, content, valves=True, pump=False, named="")


def _spoilt(part: Part) -> bool:
    """Whether refrigerant that is let into a part mixes with what is in it."""
    return part.content in ("air", "purge", "mixed") or part.pressed or bool(part.ends)


def _valves_shut(part: Part, act: Act, onto: bool) -> Part:
    return replace(part, valves=False)


def _drawn_down(part: Part, act: Act, onto: bool) -> Part:
    content: Content = "mixed" if onto else "pumped-down"
    return _new(part, act, content, valves=False, gauge_pa=0.0)


def _looked(part: Part, act: Act, onto: bool) -> Part:
    found = "leak" in act.said and part.content in ("refrigerant", "mixed")
    return replace(part, leaks=part.leaks | {act.place}) if found else part


def _let_run(part: Part, act: Act, onto: bool) -> Part:
    return replace(part, named=f"{act.by}: {act.why}")


CHANGES: Mapping[str, Callable[[Part, Act, bool], Part]] = {
    "joint": _opened,
    "machine": _opened,
    "exposure": _exposed,
    "nitrogen": _nitrogen,
    "bled": _bled,
    "sweep": _swept,
    "pump-by-name": _let_run,
    "pump": _pumped,
    "decay": _shut_off,
    "weighed": _weighed,
    "released": _released,
    "shut": _valves_shut,
    "pumped-down": _drawn_down,
    "look": _looked,
}


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
