"""Which circuits a job had at which moment, and which of them an act is on that names none."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from fairline.core.contents.act import Act
from fairline.core.contents.part import Part
from fairline.core.parts import UNIT, Circuits, Parts, joint_marks, kind_of
from fairline.core.proofs import Proofs

VALVE_END = "|valve"  # the end of a joint's key where an isolation valve sits


@dataclass(frozen=True)
class CircuitsThen:
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


class CircuitHistory:
    """Which circuits a job had at which moment, worked out once for each set of parts."""

    def __init__(self, proofs: Proofs, required: Mapping[str, str]) -> None:
        self.proofs, self.required = proofs, required
        self._valves = {
            act.key.partition(":")[2].removesuffix(VALVE_END)
            for act in proofs.acts
            if act.key.endswith(VALVE_END)
        }
        self._found: dict[tuple[str, int], CircuitsThen] = {}

    def at(self, act: Act) -> CircuitsThen:
        later = sum(change.at > act.at for change in self.proofs.changes)
        subject = act.subject if act.subject in self.proofs.subjects else str(act.at)
        key = (subject, later)
        if key not in self._found:
            self._found[key] = self.here(self.proofs.machines(act.subject, act.at))
        return self._found[key]

    def unmade(self, here: CircuitsThen, moment: datetime | None) -> dict[str, list[str]]:
        """Of each circuit the joints that were not made at a moment (None: by now), in words."""
        made, parts = joint_marks(self.proofs.acts, moment), Circuits(here.parts)
        found: dict[str, list[str]] = {}
        for key, label in self.required.items():
            if key not in made and parts.joins(key):
                for circuit in here.of(f"joint:{key}"):
                    found.setdefault(circuit, []).append(label)
        return found

    def before(self, act: Act) -> CircuitsThen:
        """The circuits when the job last had a machine that is gone."""
        for one in reversed(self.proofs.since):
            kept = self.proofs.subjects.get(one.subject)
            if kept is not None and one.at <= act.at and act.place in kept.parts:
                return self.here(kept.parts)
        return self.at(act)

    def here(self, parts: Parts) -> CircuitsThen:
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
        return CircuitsThen(
            parts,
            (*roots, *sorted(branches)),
            known.one and len(roots) > 1,
            frozenset(branches),
        )


def unsaid(
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


def has_place(act: Act) -> bool:
    """Whether an act is done at one part of the job, by its name."""
    return act.kind in ("joint", "machine", "look") and bool(act.place)
