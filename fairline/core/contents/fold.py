"""The fold: every act of a job, in the order in which the acts were done, becomes a state.

A pure function of the acts: of their moments, else of their numbers. Each act is judged by the
state before it (``needs.NEEDS``) and then changes it, whether or not it was in order. What stands
open to each other shares what is let in or out: circuits whose valves are open, through the outdoor
unit; those that a rig joins, where it is said that they were not shut off.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType

from fairline.core.call import Verdict
from fairline.core.contents.act import Act, in_order
from fairline.core.contents.changes import change_of
from fairline.core.contents.needs import rows_of
from fairline.core.contents.part import Part
from fairline.core.contents.places import CircuitHistory, CircuitsThen, has_place, unsaid
from fairline.core.contents.state import (
    JUDGED_LATER,
    ActOutcome,
    Contents,
    Finding,
    ValveSeats,
    judged,
)
from fairline.core.parts import UNIT
from fairline.core.proofs import Proofs


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
    places = CircuitHistory(proofs, required)
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


@dataclass
class _Folding:
    """The state as far as the acts are folded.

    ``rig``: the circuits that the rig of a run joins; ``open_to``: runs and ports of which it is
    said that the others stood open as that port was opened.
    """

    state: dict[str, Part]
    charged: bool
    open_to: frozenset[tuple[str, str]] = frozenset()
    story: list[ActOutcome] = field(default_factory=list)
    seats: ValveSeats = field(default_factory=ValveSeats)
    rig: tuple[str, ...] = ()
    rig_run: str = ""
    lost: Act | None = None
    whole: list[str] = field(default_factory=list)

    def add(self, act: Act, places: CircuitHistory) -> None:
        here = places.at(act)
        circuits = self._circuits(act, here, places)
        before = {c: self._seated(c) for c in circuits}
        closes = act.kind in ("nitrogen", "released")
        ends = places.unmade(here, act.at) if closes else None
        found = judged(act, before, len(here.circuits) > 1, ends)
        reached = self._together(circuits, here, act)
        change = change_of(act, found)
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
        self.story.append(ActOutcome(act, tuple(reached), after, tuple(found)))

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

    def _circuits(self, act: Act, here: CircuitsThen, places: CircuitHistory) -> tuple[str, ...]:
        """The circuits that an act is done on."""
        if act.ports:
            return act.ports
        if act.kind == "machine" and act.place and act.place not in here.parts:
            return places.before(act).of(act.place)
        if has_place(act):
            return here.of(act.place)
        if act.kind == "exposure" and act.place not in ("", "all"):
            return (here.of_run(act.place),)
        return unsaid(act, self.state, here.circuits, here.tied)

    def _together(self, circuits: Sequence[str], here: CircuitsThen, act: Act) -> list[str]:
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
