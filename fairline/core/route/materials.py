"""The materials list of a job: from its runs, joints, drains and ports, as a van is loaded."""

from collections import Counter
from collections.abc import Sequence

from fairline.core.calc.materials import (
    GROUPS,
    Group,
    Line,
    MaterialLeg,
    MaterialRun,
    MaterialsRequest,
    Part,
    Unit,
)
from fairline.core.calc.materials import materials as work_out
from fairline.core.equipment import Equipment
from fairline.core.physics.tubing import size_label
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.route.drain import Drains
from fairline.core.route.entry import OUTDOOR, RouteEntry
from fairline.core.route.joints import LINES, JointSpec, isolated, reduced
from fairline.core.route.piping import Piping, Stretch
from fairline.core.route.ports import SparePort
from fairline.core.route.traps import Trap, trap_m

DEFAULT_TAIL_M = 1.0  # of cable at each end; our own choice


def request(
    entry: RouteEntry, pipes: Piping, bent: Sequence[Trap], rules: Rules
) -> MaterialsRequest | None:
    """What the runs ask for; None while none has a length."""
    runs = [_run(s, pipes, bent, rules) for s in pipes.stretches if s.result is not None]
    if not runs:
        return None
    cover, support = rules.value("cover_section_m"), rules.value("support_every_m")
    tail = entry.cable_tail_m
    return MaterialsRequest(
        runs=runs,
        cover=entry.covered != "no",
        cover_section_m=max(cover or 0.0, 0.1),
        furring=entry.siding_steps == "yes",
        support_every_m=max(support or 0.0, 0.1),
        cable_tail_m=DEFAULT_TAIL_M if tail is None else tail,
    )


def _run(stretch: Stretch, pipes: Piping, bent: Sequence[Trap], rules: Rules) -> MaterialRun:
    """A run's legs; a control pair goes to a trunk's head and back, a cable to any other."""
    tube = stretch.kit_m if stretch.kit_m is not None else stretch.cut_m
    cables, tails = _cables(stretch, pipes, rules)
    return MaterialRun(
        id=stretch.id,
        legs=[
            MaterialLeg(
                direction=leg.direction,
                length_m=leg.length_m,
                setting=leg.setting,
                kept=leg.kept,
                crosses=leg.crosses,
                shared=leg.number == 0,
            )
            for leg in stretch.legs
        ],
        tube_m=tube or 0.0,
        liquid_od_mm=stretch.tube.liquid_mm,
        gas_od_mm=stretch.tube.gas_mm,
        cables=cables,
        cable_tails=tails,
        cable_m=max(0.0, stretch.result.cut_length_m - stretch.coil_m) if stretch.result else None,
        trap_m=trap_m(stretch.id, pipes, bent),
        kit=bool(stretch.kit),
    )


def _cables(stretch: Stretch, pipes: Piping, rules: Rules) -> tuple[int, int | None]:
    """How many cables run along it, and their ends with a tail.

    A trunk's control pair passes every tee uncut, goes to a head and back, and ends at the last.
    """
    if rules.outdoor is None or rules.outdoor.system != "trunk":
        return 1, None
    at_unit = 1 if stretch.start == OUTDOOR else 0
    if stretch.kind != "head":
        return 1, at_unit
    heads = [s.id for s in pipes.stretches if s.kind == "head"]
    last = stretch.outlet == "on" or stretch.id == heads[-1]
    return (1, 1 + at_unit) if last else (2, 2 + at_unit)


def materials(
    entry: RouteEntry,
    pipes: Piping,
    bent: Sequence[Trap],
    spare: Sequence[SparePort],
    drains: Drains,
    joints: Sequence[JointSpec],
    equipment: Equipment,
    rules: Rules,
) -> list[Line]:
    """Every line, grouped in the order a van is loaded."""
    asked = request(entry, pipes, bent, rules)
    lines = [_of_cable(x, rules) for x in work_out(asked).result.lines] if asked else []
    kits = Counter(s.kit for s in pipes.stretches if s.kit)
    lines += [
        _pieces("tube", f"Pre-charged kit, {name}", n, "chosen, never cut")
        for name, n in kits.items()
    ]
    if asked and rules.school("cable").name == "apart":
        lines.append(_conduit(asked))
    lines += _fittings(entry, pipes, spare, equipment, joints, rules)
    lines += _drains(entry, drains)
    order = list(GROUPS)
    return sorted(lines, key=lambda x: order.index(x.group))


def _of_cable(line: Line, rules: Rules) -> Line:
    """The cable with its conductors, where the sheet says how many and how thick."""
    unit = rules.outdoor
    if line.group != "cable" or unit is None or not unit.terminals:
        return line
    if unit.system == "trunk":
        return line.model_copy(update={"size": "shielded pair"})
    gauge = f" × {unit.cable_gauge}" if unit.cable_gauge else ""
    return line.model_copy(update={"size": f"{len(unit.terminals) + 1}{gauge}, ground with it"})


def _conduit(asked: MaterialsRequest) -> Line:
    """A way of its own for the cable, where the school keeps it apart from the line set."""
    own = ((run.id, sum(leg.length_m for leg in run.legs if not leg.shared)) for run in asked.runs)
    parts = tuple(Part(run=run, quantity=length) for run, length in own if length)
    return Line(
        group="cable",
        item="Conduit or cover for the cable, apart",
        unit="m",
        parts=parts,
        quantity=sum(p.quantity for p in parts),
    )


def _pieces(group: Group, item: str, count: int, origin: str, size: str = "") -> Line:
    return Line(
        group=group, item=item, quantity=float(count), unit="pieces", origin=origin, size=size
    )


def _reducers(pipes: Piping) -> list[Line]:
    """Where a tube is not of the size of the port that it ends on."""
    reducers = Counter(
        f"{size_label(own or 0)} to {size_label(tube or 0)}"
        for s in pipes.stretches
        for at in (s.at_start, s.at_end)
        for own, tube in ((at.of(line), s.tube.of(line)) for line in LINES)
        if reduced(tube, own)
    )
    return [
        _pieces("fittings", "Reducer, with washer or bushing", n, "port against tube", size)
        for size, n in reducers.items()
    ]


def _fittings(
    entry: RouteEntry,
    pipes: Piping,
    spare: Sequence[SparePort],
    equipment: Equipment,
    joints: Sequence[JointSpec],
    rules: Rules,
) -> list[Line]:
    found: list[Line] = []
    sheets = Counter(
        sheet.name
        for s in pipes.stretches
        if s.kind != "head" and (sheet := equipment.fitting(s.id)) is not None
    )
    found += [_pieces("fittings", name, n, "the tree") for name, n in sheets.items()]
    found += _reducers(pipes)
    boxes = [s.id for s in pipes.stretches if s.kind == "box"]
    covers = sum(len(pipes.outlets.get(box, ())) for box in boxes)
    if covers:
        found.append(_pieces("insulation", "Cover of a box port", covers, "used or not"))
    valves = [s.id for s in pipes.stretches if isolated(s, entry, rules)]
    kept = [port for port in spare if port.kept]
    if valves or kept:
        told = ", ".join([*valves, *(f"{p.words}, kept" for p in kept)])
        found.append(_pieces("fittings", "Isolation valve, pair", len(valves) + len(kept), told))
    if spare:
        found.append(
            _pieces(
                "fittings",
                "Cap for an unused port, pair",
                len(spare),
                ", ".join(p.words for p in spare),
            )
        )
    of_kind = Counter((j.kind, j.size or "") for j in joints)
    for (kind, size), count in sorted(of_kind.items()):
        item = "Flare nut, spare of each joint" if kind == "flare" else "Brazed joint, rod for"
        found.append(_pieces("fittings", item, count, f"{count} of the joint list", size))
    return found


def _drains(entry: RouteEntry, drains: Drains) -> list[Line]:
    """Pipe by size, supports, insulation and tees of all drains."""
    rows: dict[tuple[str, str, Unit], list[Part]] = {}
    for zone, worked in drains.items():
        if worked is None:
            continue
        run, result = entry.drain(zone), worked.result
        size = f"{both(run.bore_m, 'tube')} inside" if run.bore_m else ""
        wanted: list[tuple[str, str, Unit, float]] = [
            ("Drain pipe", size, "m", result.length_m),
            ("Drain support", "", "pieces", float(result.supports)),
        ]
        if run.insulated == "yes":
            wanted.append(("Drain insulation", size, "m", result.length_m))
        if run.ends == "joins":
            wanted.append(("Drain tee", size, "pieces", 1.0))
        if run.ends == "stack":
            wanted.append(("Stack tee, reducer to ¾ in slip", "", "pieces", 1.0))
        for item, of_size, unit, quantity in wanted:
            if quantity:
                part = Part(run=zone, quantity=quantity)
                rows.setdefault((item, of_size, unit), []).append(part)
    return [
        Line(
            group="drain",
            item=item,
            size=size,
            unit=unit,
            parts=tuple(parts),
            quantity=sum(p.quantity for p in parts),
        )
        for (item, size, unit), parts in rows.items()
    ]
