"""The parts of a job: its machines, its tubes, every joint as it is made, every end left open.

Nothing of schools, limits, notes, lengths or labels is in them: what these change is judged anew,
and no proof is void by it.
"""

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime

from fairline.core.check import capitalized
from fairline.core.equipment import Equipment
from fairline.core.flare.records import JointRecord
from fairline.core.parts import (
    CORE,
    IN,
    ONE_PAIR,
    OPEN,
    OUTDOOR,
    UNIT,
    Circuits,
    JointAct,
    Mark,
    PartChange,
    Subject,
    SubjectSince,
    joint_marks,
    part_words,
    place_words,
)
from fairline.core.proofs import Proofs
from fairline.core.route.joints import CAP, REDUCER, VALVE, JointSpec, Line
from fairline.core.route.piping import Piping, Size, Stretch, kind_of
from fairline.core.route.stage import RouteStageResult
from fairline.core.sheet import Tee
from fairline.core.survey.stage import SurveyEntry


def proofs_of(
    equipment: Equipment,
    survey: SurveyEntry,
    routed: RouteStageResult,
    records: Sequence[JointRecord],
    changes: tuple[PartChange, ...],
    subjects: Mapping[str, Subject],
    since: tuple[SubjectSince, ...],
    leaks: Iterable[tuple[str, datetime]] = (),
) -> tuple[Proofs, list[JointSpec]]:
    """The parts of a job with all that proofs are compared by; and its joints, caps among them.

    ``leaks``: where a leak was found (a joint's place, ``coil.A``), and when.
    """
    machines = machine_parts(equipment, survey, routed.pipes)
    corrected = Proofs(machines, changes=changes)
    specs = {spec.id: spec for spec in routed.joints}
    acts = tuple(_act(record, specs, corrected) for record in records)
    marks = joint_marks(acts)
    caps = open_ends(acts, routed, equipment, machines, changes)
    found: dict[str, Mark] = dict(machines)
    circuits = Circuits(machines)
    for key, mark in marks.items():
        if circuits.joins(key):
            found[f"joint:{key}"] = mark
    found |= {f"open:{cap.key}": (OPEN,) for cap in caps if cap.key not in marks}
    every = [*routed.joints, *caps]
    labels = {f"joint:{act.key}": _where(act.key, machines) for act in acts}
    labels |= {f"joint:{spec.key}": spec.label for spec in every}
    keys = {spec.id: f"joint:{spec.key}" for spec in every}
    keys |= {f"coil.{zone.id}": f"head:{zone.id}" for zone in routed.pipes.tree.zones}
    at = tuple((keys[place], when) for place, when in leaks if place in keys)
    return Proofs(found, subjects, since, changes, acts, at, labels), every


def _act(record: JointRecord, specs: Mapping[str, JointSpec], corrected: Proofs) -> JointAct:
    """A record as an act at a joint; one of before says its place alone."""
    line = record.place.split(".")[1] if record.place.count(".") else ""
    if record.sides:
        key = corrected.key_now(f"{line}:{'|'.join(record.sides)}", record.at)
    else:
        spec = specs.get(record.place)
        key = spec.key if spec is not None else f"{line}:{record.place}|"
    uid = record.uid or f"{record.at.timestamp():.6f}"
    loose = record.how == "loose"
    return JointAct(record.at, key, uid, record.did, loose, record.by, record.subject)


def _where(key: str, machines: Mapping[str, Mark]) -> str:
    """Where a joint is, or was, that the drawing does not name."""
    line, _, sides = key.partition(":")
    token, _, outlet = sides.partition("|")[0].partition(".")
    name = next((n for n, mark in machines.items() if mark[0] == token), "")
    at = OUTDOOR if name == UNIT else name
    if sides.endswith(f"|{CORE}") and name:
        return f"Valve core, {place_words(f'{at}.{outlet.partition(chr(46))[0]}')}"
    if not name or outlet == IN:
        what = part_words(name).lower() if name else "what is not there any more"
        return f"{capitalized(line)}, at {what}"
    return f"{capitalized(line)}, {place_words(f'{at}.{outlet.partition(chr(46))[0]}')}"


def machine_parts(equipment: Equipment, survey: SurveyEntry, pipes: Piping) -> dict[str, Mark]:
    """Every machine and tube of the piping: its token, and what describes it."""
    outdoor = equipment.outdoor.sheet if equipment.outdoor else None
    one = ONE_PAIR if outdoor is not None and outdoor.one_valve_pair == "yes" else ""
    model = outdoor.name if outdoor is not None else ""
    serial = survey.box(OUTDOOR).serial
    found: dict[str, Mark] = {UNIT: (equipment.machine(OUTDOOR), model, serial, one)}
    for run in pipes.stretches:
        sheet = equipment.head(run.id) if run.kind == "head" else equipment.fitting(run.id)
        name = sheet.name if sheet is not None and not run.kit else ""
        if run.kind == "head":
            head = equipment.head(run.id)
            said = (head.name if head else "", survey.box(run.id).serial)
            found[f"head:{run.id}"] = (equipment.machine(run.id), *said)
        else:
            found[run.id] = (equipment.machine(run.id), name)
        anew = equipment.connections.get(run.id, "")
        tube = (equipment.tube(run.id), _size(run.tube), run.kit, _start(run), anew)
        found[f"tube:{run.id}"] = tube
    return found


def _size(tube: Size) -> str:
    if tube.liquid_mm is None or tube.gas_mm is None:
        return ""
    return f"{tube.liquid_mm:g}x{tube.gas_mm:g}"


def _start(run: Stretch) -> str:
    """Where a run is connected: ``outdoor.C``."""
    return f"{run.start}.{run.outlet or 'A'}"


def valves_made(proofs: Proofs) -> set[str]:
    """The ports of the outdoor unit on which an isolation valve was made: ``outdoor-D``."""
    unit = proofs.now[UNIT][0]
    keys = (act.key.partition(":")[2] for act in proofs.acts if f"joint:{act.key}" in proofs.now)
    openings = (key.partition("|")[0] for key in keys if key.endswith(f"|{VALVE}"))
    return {
        f"{OUTDOOR}-{opening.partition('.')[2]}"
        for opening in openings
        if opening.partition(".")[0] == unit
    }


def open_ends(
    acts: Iterable[JointAct],
    routed: RouteStageResult,
    equipment: Equipment,
    machines: Mapping[str, Mark],
    changes: Iterable[PartChange],
) -> list[JointSpec]:
    """Every opening that a joint was made on and that nothing is on any more: it wants a cap."""
    at = {
        mark[0]: OUTDOOR if name == UNIT else name.removeprefix("head:")
        for name, mark in machines.items()
        if not name.startswith("tube:")
    }
    used = {(spec.line, spec.sides[0]) for spec in routed.joints}
    never = {
        ends.then[0]
        for change in changes
        if change.how == "corrected"
        for name, ends in change.parts.items()
        if name.startswith("tube:") and ends.then and not ends.now
    }
    found: dict[str, JointSpec] = {}
    for act in acts:
        line, _, sides = act.key.partition(":")
        opening, _, other = sides.partition("|")
        machine, _, outlet = opening.partition(".")
        gone = (line, opening) not in used and machine in at
        if other == CORE:
            continue  # a core that is out is told by its own act
        inner = outlet.partition(".")[2]  # behind a valve or reducer that is gone with it
        behind = inner == REDUCER or (inner and (line, opening.rpartition(".")[0]) not in used)
        if line not in ("gas", "liquid") or not gone or behind or other.split("+")[0] in never:
            continue
        spec = _cap(line, at[machine], opening, routed.pipes, equipment)  # type: ignore[arg-type]
        found[spec.key] = spec
    return list(found.values())


def _cap(line: Line, at: str, opening: str, pipes: Piping, equipment: Equipment) -> JointSpec:
    """The cap on an open end, as a joint: its torque is that of the connection's size."""
    outlet = opening.partition(".")[2]
    where = {"outdoor": "the outdoor unit", "head": f"head {at}", "box": f"box {at[3:]}"}
    kind = kind_of(at) if at != OUTDOOR else OUTDOOR
    port = "" if outlet == "in" else f", port {outlet.partition('.')[0]}"
    sheet = equipment.fitting(at)
    return JointSpec(
        id=f"{at}-{outlet.replace('.', '-')}.{line}.{CAP}",
        run=at,
        line=line,
        end="start",
        kind=sheet.joints if isinstance(sheet, Tee) else "flare",
        od_mm=pipes.sizes.get(f"{at}-{outlet.partition('.')[0]}", Size()).of(line),
        label=f"{capitalized(line)}, {where.get(kind, f'tee {at[3:]}')}{port}: cap",
        sides=(opening, CAP),
        cap=True,
    )
