"""Which nitrogen hold answers for which part: the newest that was on it as it is now."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import plural
from fairline.core.parts import UNIT, Circuits, kind_of, part_words
from fairline.core.pressure_test.holds import Hold
from fairline.core.proofs import COVERS, Difference, Proofs, difference_words, undecided

SAID = 2  # parts that are named in a sentence; the page lists all
KINDS = COVERS["hold"].kinds - {"open"}  # an open end is told where it is to be capped


@dataclass(frozen=True)
class Bare:
    """A part that no nitrogen was on as it is now; ``why`` is how it differs from the last hold."""

    part: str
    label: str
    why: Difference | None


@dataclass(frozen=True)
class Covered:
    """The holds that answer for a part, the newest first, each with its parts; and what is bare.

    ``unsaid``: on a system of several circuits nobody said on which ports a hold was.
    """

    holds: tuple[tuple[Hold, tuple[str, ...]], ...] = ()
    bare: tuple[Bare, ...] = ()
    unsaid: bool = False

    @property
    def older(self) -> tuple[tuple[Hold, tuple[str, ...]], ...]:
        """All but the newest hold that answer for something."""
        return self.holds[1:]


def ports_differ(said: Mapping[str, tuple[str, ...]], circuits: Sequence[str]) -> bool:
    """Whether anything that names its ports names not all of them: then nothing said is none."""
    return any(set(circuits) - set(ports) for ports in said.values())


def covered(
    all_holds: Sequence[Hold],
    proofs: Proofs,
    ports: Mapping[str, tuple[str, ...]],
    circuits: Sequence[str],
    unmade: Mapping[str, str] = MappingProxyType({}),
) -> Covered:
    """Every part that nitrogen proves, and which hold was the newest on it.

    ``ports``: by run, the circuits that were open to the nitrogen; ``circuits``: all there are,
    none where the system is one. ``unmade``: joints that took the place of others and are not made
    yet, each with its run.
    """
    needed = _needed(proofs, unmade)
    found: dict[str, Difference] = {}
    open_, differ = list(needed), ports_differ(ports, circuits)
    holds: list[tuple[Hold, tuple[str, ...]]] = []
    unsaid, different = False, dict[str, Difference]()
    for n, hold in enumerate(reversed(all_holds)):
        subject, said = hold.subject(proofs), ports.get(hold.run.uid)
        every = proofs.differences(subject, hold.since, KINDS | {"tube", "unit"})
        different = {d.part: d for d in every}
        nobody_said = bool(circuits) and said is None and differ
        unsaid = unsaid or (nobody_said and n == 0)
        asked = [] if nobody_said else open_
        own = [p for p in asked if _was_open(p, said, circuits, proofs, subject, hold)]
        for part in different.keys() & own:
            found.setdefault(part, different[part])
        mine = tuple(p for p in own if p not in different.keys() | unmade.keys())
        open_ = [p for p in open_ if p not in mine]
        if mine or n == 0:
            holds.append((hold, mine))
    if not all_holds:
        return Covered((), (), unsaid=False)
    bare = [
        _bare(part, proofs, found.get(part) or _of_run(unmade.get(part), different))
        for part in open_
    ]
    return Covered(tuple(holds), tuple(bare), unsaid)


def _bare(part: str, proofs: Proofs, why: Difference | None) -> Bare:
    return Bare(part, proofs.labels.get(part) or part_words(part), why)


def _needed(proofs: Proofs, unmade: Mapping[str, str]) -> list[str]:
    """Every part that nitrogen proves: those there are, and joints that are not made yet."""
    needed = [n for n in sorted(proofs.now) if kind_of(n) in KINDS]
    return needed + [name for name in unmade if name not in needed]


def _of_run(run: str | None, different: Mapping[str, Difference]) -> Difference | None:
    """What became another one of a run, so that its joint is another one too."""
    if run is None:
        return None
    return next(
        (d for name in (f"tube:{run}", f"head:{run}", run, UNIT) if (d := different.get(name))),
        None,
    )


def _was_open(
    part: str,
    said: tuple[str, ...] | None,
    circuits: Sequence[str],
    proofs: Proofs,
    subject: str,
    hold: Hold,
) -> bool:
    """Whether a part lay in a circuit that the nitrogen was in.

    A valve that is kept for a later head is on no circuit: it is tested with all of them.
    """
    if not circuits or said is None:
        return True
    then = proofs.at_beginning(subject, hold.since)
    circuit = Circuits(then if part in then else proofs.now).of(part)
    return circuit in said or (circuit not in circuits and set(circuits) <= set(said))


def bare_checks(found: Covered) -> list[Check]:
    """What has to come under nitrogen yet, and why; one check for all that is bare."""
    checks = []
    if found.unsaid:
        told = Call(
            verdict=Verdict.WAIT,
            because="On which ports the nitrogen was is not said: it proves none.",
            do_next="Say which ports were open to the nitrogen.",
        )
        checks.append(Check(id="ports", label="Ports under nitrogen", call=told))
    doubts = [b.why for b in found.bare if b.why is not None and not b.why.answered]
    if doubts:
        call = undecided(doubts, "the nitrogen hold")
        checks.append(Check(id="changed", label="Changed since the hold", call=call))
    elif found.bare and not found.unsaid:
        names = "; ".join(b.label for b in found.bare[:SAID])
        others = len(found.bare) - SAID
        more = f" and {plural(others, 'other part')}" if others > 0 else ""
        call = Call(
            verdict=Verdict.WAIT,
            because=f"No nitrogen was on this as it is now: {names}{more}.{_why(found.bare)}",
            do_next=f"Put nitrogen on {names}{more}, at the test pressure, for the whole hold.",
        )
        checks.append(Check(id="bare", label="Not under nitrogen yet", call=call))
    return checks


def _why(bare: Sequence[Bare]) -> str:
    first = next((b.why for b in bare if b.why is not None), None)
    if first is None:
        return ""
    return f" {difference_words(first)}."
