"""What is said of a change: drawn wrong, or changed on site; and a machine that is exchanged.

An edit under a proof leaves a *question* for each part that it describes otherwise. Answered as a
correction, the proofs of before are of the same thing, drawn as it is now. Answered as a change,
another thing stands there: it gets a token of its own, and what was looked at of the one before is
open again.
"""

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from fairline.core.equipment import Equipment
from fairline.core.job import Job
from fairline.core.mount.stage import MountEntry
from fairline.core.parts import IN, OUTDOOR, UNIT, Ends, Mark, kind_of
from fairline.core.proofs import COVERS, Difference, Proof, Proofs
from fairline.core.readings import Run
from fairline.core.route.circuits import Ports
from fairline.core.route.joints import LINES, REDUCER, VALVE
from fairline.core.survey.stage import SurveyEntry
from fairline.core.survey.unboxing import Box
from fairline.core.wire.entry import WireEntry

Fresh = Callable[[], str]
LOOKED_AT_WALL = ("cable_fed",)  # what is looked at of a head again, when another one hangs there
LOOKED_AT_CEILING = ("level",)
LOOKED_AT_YARD = ("level", "anchored")


@dataclass(frozen=True)
class Question:
    """A part that an edit describes otherwise than a proof had it, and the proofs at stake."""

    difference: Difference
    at_stake: tuple[str, ...]


def questions(job: Job, proofs: Proofs) -> list[Question]:
    """Every part of which somebody has to say whether it was drawn wrong or changed on site.

    ``job`` is what counts of it. Of proofs of one kind on one thing the newest is asked about.
    """
    found: dict[tuple[str, Mark], tuple[Difference, list[str]]] = {}
    for kind, proof in _newest(job):
        kinds = COVERS[kind].kinds
        if kind in ("joint", "hold"):  # a joint is of the machine and the tube that it joins
            kinds = kinds | {"unit", "head", "box", "tee", "tube"}
        for difference in proofs.differences(proof.subject, proof.at, kinds - {"joint", "open"}):
            if difference.answered:
                continue
            key = difference.part, difference.now or ()
            found.setdefault(key, (difference, []))[1].append(COVERS[kind].words)
    return [Question(d, tuple(dict.fromkeys(of))) for d, of in found.values()]


def _newest(job: Job) -> Iterable[tuple[str, Proof]]:
    """Of every kind of proof the newest on each thing."""
    said = {p.run: p.open for p in job.recorded(Ports)}
    found: dict[tuple[object, ...], tuple[str, Proof]] = {}
    runs: Sequence[Run] = [r for r in job.runs if r.kind != "pull" and r.readings]
    for run in runs:
        ports = said.get(run.uid, ())
        found[run.kind, ports] = run.kind, Proof(run.uid, run.subject, run.started_at, ports)
    for record in job.records:
        if record.kind in COVERS:
            names = ("place", "joint", "zone", "mode", "cable", "side", "unit", "ports")
            what = tuple(getattr(record, name, None) for name in names)
            found[record.kind, *what] = record.kind, Proof.of(record)
    return found.values()


def ends_by_part(asked: Iterable[Difference], now: Callable[[str], Mark | None]) -> dict[str, Ends]:
    """The parts that an answer is about, each before and after."""
    return {d.part: Ends(then=d.then or (), now=now(d.part) or ()) for d in asked}


def moved_joints(
    asked: Iterable[Difference], equipment: Equipment, made: Iterable[str], used: Iterable[str]
) -> dict[str, str]:
    """The joints that a correction names anew: of a run connected elsewhere, of another size.

    ``made``: the joints that were made, ``used``: those that there are now, each by its key; what
    another run has is left to it.
    """
    taken, found = set(used), dict[str, str]()
    for difference in asked:
        then, now = difference.then, difference.now
        if kind_of(difference.part) != "tube" or not then or not now:
            continue
        end = difference.part.removeprefix("tube:")
        before, after = (_opening(mark[3], equipment) for mark in (then, now))
        last = _opening(f"{end}.{IN}", equipment)
        for line in LINES:
            found |= _pairs(line, before, after, equipment.tube_start(end), taken)
            found |= _pairs(line, last, last, equipment.tube(end), taken)
    known = set(made)
    return {old: new for old, new in found.items() if old in known}


def _pairs(line: str, before: str, after: str, tube: str, taken: set[str]) -> dict[str, str]:
    """The joints at one end of a tube, as they were called, and as they are called now."""
    found = {}
    for suffix, other in (
        ("", tube),
        ("", VALVE),
        (f".{VALVE}", tube),
        ("", REDUCER),
        (f".{REDUCER}", tube),
    ):
        old, there = f"{line}:{before}{suffix}|{other}", f"{line}:{after}{suffix}"
        named = [f"{there}|{other}"] + [f"{there}|{x}" for x in (tube, REDUCER) if x != other]
        new = next((name for name in named if name in taken), None)
        if old not in taken and new is not None:
            found[old] = new
    return found


def _opening(place: str, equipment: Equipment) -> str:
    at, _, outlet = place.partition(".")
    return f"{equipment.machine(at)}.{outlet}"


def changed(equipment: Equipment, asked: Iterable[Difference], fresh: Fresh) -> Equipment:
    """The equipment after a change on site: what is another one has another token."""
    for difference in asked:
        then, now = difference.then, difference.now
        if not then or not now or then[0] != now[0]:
            continue  # what came in has its own, and what went has none
        name = difference.part.removeprefix("tube:").removeprefix("head:")
        if kind_of(difference.part) != "tube":
            place = OUTDOOR if difference.part == UNIT else name
            equipment = exchanged(equipment, place, "machine", fresh)
        elif then[1:3] != now[1:3] and all((*then[1:2], *now[1:2])):
            equipment = exchanged(equipment, name, "tube", fresh)
        else:
            anew = equipment.connections | {name: fresh()}
            equipment = equipment.model_copy(update={"connections": anew})
    return equipment


def exchanged(
    equipment: Equipment, place: str, what: Literal["machine", "tube"], fresh: Fresh
) -> Equipment:
    """Another machine, or another tube, at a place; also one of the same model."""
    part = "machines" if what == "machine" else "tubes"
    return equipment.model_copy(update={part: getattr(equipment, part) | {place: fresh()}})


def looked_at_again(
    survey: SurveyEntry,
    mount: MountEntry,
    wire: WireEntry,
    places: Iterable[str],
    serials: Collection[str] = (),
) -> tuple[SurveyEntry, MountEntry, WireEntry]:
    """The entries without what was seen of machines that are not there any more, or set at them.

    ``serials``: places whose serial is that of the one that came.
    """
    boxes = dict(survey.boxes)
    walls, ceilings, yard = dict(mount.walls), dict(mount.ceilings), mount.outdoor
    addresses, ports = dict(wire.addresses), dict(wire.box_ports)
    for place in places:
        addresses.pop(place, None)
        ports.pop(place, None)
        box = boxes.pop(place, None)
        if box is not None and place in serials:
            boxes[place] = Box(serial=box.serial)
        if place == OUTDOOR:
            yard = _blank(yard, LOOKED_AT_YARD)
        if place in walls:
            walls[place] = _blank(walls[place], LOOKED_AT_WALL)
        if place in ceilings:
            ceilings[place] = _blank(ceilings[place], LOOKED_AT_CEILING)
    return (
        survey.model_copy(update={"boxes": boxes}),
        mount.model_copy(update={"walls": walls, "ceilings": ceilings, "outdoor": yard}),
        wire.model_copy(update={"addresses": addresses, "box_ports": ports}),
    )


def _blank(entry: Any, names: Iterable[str]) -> Any:
    return entry.model_copy(update=dict.fromkeys(names))


@dataclass(frozen=True)
class ChangedParts:
    """A proof that is older than a change: what it was, and what is another one since."""

    kind: str
    by: str
    proof: Proof
    differences: tuple[Difference, ...]


def changed_parts_of(job: Job, proofs: Proofs) -> list[ChangedParts]:
    """The proofs of a job that do not cover all that they covered any more, the newest first.

    A making is told at its joint, and what was done at the terminals of a machine beside it.
    """
    every = [
        *((r.kind, r.by, Proof.of(r)) for r in job.records if r.kind in COVERS),
        *((r.kind, r.started_by, Proof(r.uid, r.subject, r.started_at)) for r in job.runs),
    ]
    found = []
    for kind, by, proof in every:
        if COVERS[kind].reach == "own" or kind == "pull":
            continue
        kinds = COVERS[kind].kinds - {"open"}
        different = [d for d in proofs.differences(proof.subject, proof.at, kinds) if d.answered]
        if different:
            found.append(ChangedParts(kind, by, proof, tuple(different)))
    return sorted(found, key=lambda o: o.proof.at, reverse=True)
