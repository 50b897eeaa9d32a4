"""The piping worked out: every run in space, its sizes, its length, and the tree they make.

All that shows, counts or prices a run reads it from here: drawing, schematic, charge, labels,
joints, cut plan and materials.
"""

from collections.abc import Iterable, Mapping, Sequence

from fairline.core.calc.route import RouteRequest, RouteResult
from fairline.core.calc.route import route as work_out
from fairline.core.calc.system_tree import (
    SystemTreeRequest,
    SystemTreeResult,
    TreeNode,
    TreeRun,
    system_tree,
)
from fairline.core.call import Answer, Frozen, Limit, Step
from fairline.core.equipment import LETTERS, Equipment
from fairline.core.limit_list import TREE_LIMITS
from fairline.core.physics.tubing import tube_at
from fairline.core.practice import Rules
from fairline.core.route.entry import (
    OUTDOOR,
    STEP,
    CableBeside,
    Direction,
    Kept,
    Leg,
    LineRun,
    RouteEntry,
    Setting,
)
from fairline.core.sheet import BranchBox, Kit, Outdoor, Tee
from fairline.core.sheet.part import TubePair
from fairline.core.survey.stage import SurveyEntry

SPRING_RADIUS_ODS = 5.0  # centre-line radius by spring: common practice, no published source
FALLBACK_RADIUS_M = 0.08

Point = tuple[float, float, float]


class LegDrawn(Frozen):
    """A leg where it runs: which of its run's, from where to where, in what setting."""

    number: int  # of the run's own legs, from 1; 0 for one of a shared path
    direction: Direction
    start: Point
    end: Point
    setting: Setting
    kept: Kept | None = None
    cable: CableBeside | None = None
    crosses: bool = False  # goes through the house's outside wall

    @property
    def length_m(self) -> float:
        return float(sum((b - a) ** 2 for a, b in zip(self.start, self.end, strict=True)) ** 0.5)


class Size(Frozen):
    """Liquid and gas tube, outside diameters in mm; None where nothing says."""

    liquid_mm: float | None = None
    gas_mm: float | None = None

    def of(self, line: str) -> float | None:
        return self.liquid_mm if line == "liquid" else self.gas_mm


class Stretch(Frozen):
    """One run worked out. ``length_m`` is what holds refrigerant: as built, else as planned."""

    id: str  # what it ends in
    start: str
    outlet: str
    tag: str  # what its tubes and cable are marked with, at both ends
    kind: str  # head, box or tee
    tube: Size
    at_start: Size
    at_end: Size
    legs: tuple[LegDrawn, ...]
    shared: int  # how many of the legs run along another's
    along: str
    result: RouteResult | None
    coil_m: float
    kit: str
    kit_m: float | None
    planned_m: float | None
    built_m: float | None
    radius_m: float = FALLBACK_RADIUS_M  # of its bends
    working: tuple[Step, ...] = ()

    @property
    def length_m(self) -> float | None:
        return self.planned_m if self.built_m is None else self.built_m

    @property
    def cut_m(self) -> float | None:
        """What has to be cut, with both tails; a kit is never cut."""
        return self.result.cut_length_m if self.result and not self.kit else None

    @property
    def lift_m(self) -> float | None:
        return self.legs[-1].end[2] - self.legs[0].start[2] if self.legs else None

    @property
    def end(self) -> Point | None:
        return self.legs[-1].end if self.legs else None

    def tight(self, leg: LegDrawn) -> bool:
        """Whether a leg is too short for its bends."""
        return bool(self.result) and self.legs.index(leg) + 1 in (
            self.result.tight_legs if self.result else ()
        )


class Piping(Frozen):
    """The whole system: its stretches from the outdoor unit outward, and the tree's answer."""

    stretches: tuple[Stretch, ...]
    tree: SystemTreeResult
    answer: Answer[SystemTreeResult]
    outlets: dict[str, tuple[str, ...]]  # of the outdoor unit and every box
    used: dict[str, str]  # "outdoor-A": the run on it
    sizes: dict[str, Size]  # "outdoor-A": its connections
    unfed: tuple[str, ...]
    addresses: dict[str, str] = {}  # of a trunk's heads: refrigerant circuit and head
    adders_kg: tuple[float, ...] = ()  # what boxes and tees add to the charge by their sheets

    def get(self, end: str) -> Stretch | None:
        return next((s for s in self.stretches if s.id == end), None)

    @property
    def total_m(self) -> float | None:
        """All that holds refrigerant; None while a run of it is not known."""
        known = [s.length_m for s in self.stretches]
        if not known or self.tree.faults or any(v is None for v in known):
            return None
        return sum(v for v in known if v is not None)

    @property
    def built(self) -> bool:
        """Whether any length is what was measured as built."""
        return any(s.built_m is not None for s in self.stretches)

    def path(self, zone: str) -> tuple[str, ...]:
        return next((z.path for z in self.tree.zones if z.id == zone), ())


def bend_radius_m(entry: RouteEntry, gas_mm: float | None) -> tuple[float, str]:
    """The centre-line radius in m, and where it comes from."""
    if entry.bend_radius_m:
        return entry.bend_radius_m, "the bender's own"
    if gas_mm:
        return SPRING_RADIUS_ODS * gas_mm / 1000, "5 × the gas tube by spring, common practice"
    return FALLBACK_RADIUS_M, "our own choice: no tube size is known"


def kind_of(end: str) -> str:
    return "head" if len(end) == 1 else end[:3]


def _mm(od_m: float | None) -> float | None:
    if od_m is None:
        return None
    tube = tube_at(od_m * 1000)
    return tube.od_mm if tube else round(od_m * 1000, 3)


def _size(liquid_m: float | None, gas_m: float | None) -> Size:
    return Size(liquid_mm=_mm(liquid_m), gas_mm=_mm(gas_m))


def _pair(pair: TubePair) -> Size:
    return _size(pair.liquid_od_m, pair.gas_od_m)


def outlet_names(ports: tuple[TubePair, ...]) -> tuple[str, ...]:
    """Ports by their letters, else A, B, C … in order."""
    return tuple(p.letter or LETTERS[n] for n, p in enumerate(ports))


def own_legs(entry: RouteEntry, end: str, seen: tuple[str, ...] = ()) -> list[tuple[int, Leg]]:
    """A run's legs with those of the path it keeps to first; each with its number, 0 if shared."""
    run = entry.run(end)
    legs: list[tuple[int, Leg]] = []
    if run.along and run.along in entry.runs and run.along not in (*seen, end):
        if entry.run(run.along).fed_from == run.fed_from:
            path = own_legs(entry, run.along, (*seen, end))
            legs = [(0, leg) for _, leg in path[: run.along_legs or 0]]
    return legs + [(n, leg) for n, leg in enumerate(run.legs, 1) if leg.real]


def _drawn(legs: list[tuple[int, Leg]], start: Point, inside: bool) -> tuple[list[LegDrawn], bool]:
    found = []
    for number, leg in legs:
        step = STEP[leg.direction]
        end = (
            start[0] + step[0] * (leg.length_m or 0.0),
            start[1] + step[1] * (leg.length_m or 0.0),
            start[2] + step[2] * (leg.length_m or 0.0),
        )
        crosses = leg.direction in ("in", "out") and (
            leg.setting == "wall" or (leg.setting is None and leg.direction == "in" and not inside)
        )
        setting: Setting = leg.setting or ("wall" if crosses else "room" if inside else "outside")
        if crosses:
            inside = leg.direction == "in"
        elif leg.setting in ("room", "attic"):
            inside = True
        elif leg.setting in ("outside", "roof"):
            inside = False
        found.append(
            LegDrawn(
                number=number,
                direction=leg.direction,
                start=start,
                end=end,
                setting=setting,
                kept=leg.kept,
                cable=leg.cable,
                crosses=crosses,
            )
        )
        start = end
    return found, inside


def outlets_taken(
    entry: RouteEntry, outlets: Mapping[str, tuple[str, ...]], order: Iterable[str]
) -> dict[str, str]:
    """The outlet of every run; those that name none take the first that is free, in ``order``."""
    taken = {end: run.outlet for end, run in entry.runs.items() if run.outlet}
    for end in order:
        run = entry.run(end)
        if run.outlet or not run.fed_from:
            continue
        names = outlets.get(run.fed_from) or (
            ("off", "on") if kind_of(run.fed_from) == "tee" else ()
        )
        used = {o for e, o in taken.items() if entry.run(e).fed_from == run.fed_from}
        free = [n for n in names if n not in used]
        if free:
            taken[end] = free[0]
    return taken


def outlets_of(
    entry: RouteEntry, equipment: Equipment, outdoor: Outdoor | None
) -> dict[str, tuple[str, ...]]:
    """The outlets of the outdoor unit and of every box, by their letters."""
    found: dict[str, tuple[str, ...]] = {}
    if outdoor is not None:
        found[OUTDOOR] = outlet_names(outdoor.ports) or ("A",)
    for end in entry.runs:
        sheet = equipment.fitting(end)
        if kind_of(end) == "box" and isinstance(sheet, BranchBox):
            found[end] = outlet_names(sheet.ports)
    return found


class _Builder:
    """Works the runs out from the outdoor unit outward."""

    def __init__(
        self, entry: RouteEntry, survey: SurveyEntry, equipment: Equipment, rules: Rules
    ) -> None:
        self.entry, self.survey, self.equipment, self.rules = entry, survey, equipment, rules
        self.outdoor = equipment.outdoor.sheet if equipment.outdoor else rules.outdoor
        self.done: dict[str, Stretch] = {}
        self.inside: dict[str, bool] = {OUTDOOR: False}
        self.outlets = outlets_of(entry, equipment, self.outdoor)
        self.taken = outlets_taken(entry, self.outlets, sorted(entry.runs))

    def connection(self, at: str, outlet: str) -> Size:
        """The tube sizes of an outlet."""
        if at == OUTDOOR or kind_of(at) == "box":
            ports: tuple[TubePair, ...] = ()
            if at == OUTDOOR and self.outdoor is not None:
                ports = self.outdoor.ports
            elif isinstance(box := self.equipment.fitting(at), BranchBox):
                ports = box.ports
            named = [p for n, p in zip(outlet_names(ports), ports, strict=True) if n == outlet]
            return _pair(named[0]) if named else Size()
        if isinstance(tee := self.equipment.fitting(at), Tee):
            if outlet == "on":
                return _size(tee.liquid_on_m, tee.gas_on_m)
            return _size(tee.liquid_off_m, tee.gas_off_m)
        return Size()

    def entrance(self, end: str) -> Size:
        """The tube sizes at what a run ends in."""
        if kind_of(end) == "head":
            head = self.equipment.head(end)
            return _size(head.liquid_od_m, head.gas_od_m) if head else Size()
        sheet = self.equipment.fitting(end)
        if isinstance(sheet, BranchBox):
            return _size(sheet.main_liquid_od_m, sheet.main_gas_od_m)
        if isinstance(sheet, Tee):
            return _size(sheet.liquid_in_m, sheet.gas_in_m)
        return Size()

    def _tag(self, end: str, outlet: str) -> str:
        """What a run's tubes and cable are marked with: the port's letter, or what it ends in."""
        at = self.entry.run(end).fed_from
        if kind_of(end) != "head" or not outlet or kind_of(at) == "tee":
            return end
        if at == OUTDOOR:
            return outlet
        boxes = sum(kind_of(e) == "box" for e in self.entry.runs)
        return outlet if boxes == 1 else f"{at[3:]}{outlet}"

    def _start_of(self, run: LineRun) -> tuple[float, float, float]:
        """Where a run begins: where the one before it ends, else at the outdoor unit's valves."""
        before = self.done.get(run.fed_from) if run.fed_from in self.entry.runs else None
        return (before.end if before else None) or (0.0, 0.0, self.entry.valve_height_m or 0.0)

    def stretch(self, end: str) -> Stretch:
        run = self.entry.run(end)
        outlet = self.taken.get(end, "")
        at_start, at_end = self.connection(run.fed_from, outlet), self.entrance(end)
        kit = self.equipment.fitting(end) if run.kit else None
        tube = _tube(run, kit, at_start, at_end)
        start = self._start_of(run)
        drawn, self.inside[end] = _drawn(
            own_legs(self.entry, end), start, self.inside.get(run.fed_from, False)
        )
        radius, _ = bend_radius_m(self.entry, tube.gas_mm)
        coil, kit_m = run.coil_m or 0.0, kit.length_m if isinstance(kit, Kit) else None
        answer = _worked(drawn, radius, self.entry, coil)
        if answer and kit_m is not None:
            tails = 2 * (self.entry.end_allowance_m or 0.0)
            coil = max(0.0, kit_m - answer.result.developed_length_m - tails)
            answer = _worked(drawn, radius, self.entry, coil)
        planned = None
        if answer and not answer.result.tight_legs:
            planned = kit_m if kit_m is not None else answer.result.installed_length_m
        return Stretch(
            id=end,
            start=run.fed_from,
            outlet=outlet,
            tag=self._tag(end, outlet),
            kind=kind_of(end),
            tube=tube,
            at_start=at_start,
            at_end=at_end,
            legs=tuple(drawn),
            shared=sum(1 for leg in drawn if leg.number == 0),
            along=run.along,
            result=answer.result if answer else None,
            coil_m=coil,
            kit=kit.name if isinstance(kit, Kit) else "",
            kit_m=kit_m,
            planned_m=planned,
            built_m=run.built_m or None,
            radius_m=radius,
            working=answer.working if answer else (),
        )


def _tube(run: LineRun, kit: object, at_start: Size, at_end: Size) -> Size:
    """The tubes of a run: as entered, as the kit's, as its end's connection, as its outlet's."""
    own = _size(run.liquid_od_m, run.gas_od_m)
    of_kit = _size(kit.liquid_od_m, kit.gas_od_m) if isinstance(kit, Kit) else Size()
    return Size(
        liquid_mm=of_kit.liquid_mm or own.liquid_mm or at_end.liquid_mm or at_start.liquid_mm,
        gas_mm=of_kit.gas_mm or own.gas_mm or at_end.gas_mm or at_start.gas_mm,
    )


def _worked(
    legs: list[LegDrawn], radius: float, entry: RouteEntry, coil_m: float
) -> Answer[RouteResult] | None:
    if not legs:
        return None
    points = [list(legs[0].start), *(list(leg.end) for leg in legs)]
    request = RouteRequest(
        points_m=points,
        bend_radius_m=radius,
        end_allowance_m=entry.end_allowance_m or 0.0,
        coil_m=coil_m,
    )
    return work_out(request, {})


def piping(entry: RouteEntry, survey: SurveyEntry, equipment: Equipment, rules: Rules) -> Piping:
    """The system as it is entered, worked out; faults of its tree are told, never raised."""
    builder = _Builder(entry, survey, equipment, rules)
    now = [h.zone for h in survey.now]
    ends = [e for e in entry.runs if kind_of(e) != "head" or e in now]
    fed = [e for e in ends if entry.run(e).fed_from]
    order = _built_outwards(builder, entry, fed)
    governing: dict[str, Limit] = {n: x for n in TREE_LIMITS if (x := rules.limit(n)) is not None}
    nodes, runs = _nodes(builder, now, ends), _tree_runs(builder, entry, fed)
    answer = system_tree(SystemTreeRequest(nodes=nodes, runs=runs), governing)
    return Piping(
        stretches=tuple(builder.done[e] for e in order),
        tree=answer.result,
        answer=answer,
        outlets=builder.outlets,
        used=_used(builder, entry, ends),
        sizes={
            f"{at}-{name}": builder.connection(at, name)
            for at, names in builder.outlets.items()
            for name in names
        },
        unfed=tuple(z for z in now if z not in fed),
        addresses=_addresses([e for e in order if kind_of(e) == "head"], rules),
        adders_kg=_adders_kg(order, equipment),
    )


def _built_outwards(builder: _Builder, entry: RouteEntry, fed: Sequence[str]) -> list[str]:
    """Works each run out once what feeds it is known; the runs in that order."""
    waiting, order = list(fed), list[str]()
    known = {OUTDOOR}
    while ready := sorted(e for e in waiting if entry.run(e).fed_from in known):
        for end in ready:
            builder.done[end] = builder.stretch(end)
            waiting.remove(end)
        order += ready
        known.update(ready)
    return order


def _nodes(builder: _Builder, heads: Sequence[str], ends: Sequence[str]) -> list[TreeNode]:
    """The outdoor unit, the heads of now, and every box and tee."""
    nodes = [TreeNode(id=OUTDOOR, kind="outdoor", outlets=_known(builder.outlets.get(OUTDOOR)))]
    nodes += [TreeNode(id=zone, kind="head", outlets=[]) for zone in heads]
    for end in ends:
        if (kind := kind_of(end)) != "head":
            outlets = _known(builder.outlets.get(end))
            nodes.append(TreeNode(id=end, kind="box" if kind == "box" else "tee", outlets=outlets))
    return nodes


def _tree_runs(builder: _Builder, entry: RouteEntry, fed: Sequence[str]) -> list[TreeRun]:
    """Every run with what feeds it; its length and lift where they are known."""
    found = []
    for end in fed:
        stretch = builder.done.get(end)
        run = TreeRun(
            id=end,
            start=entry.run(end).fed_from,
            end=end,
            outlet=builder.taken.get(end) or None,
            length_m=stretch.length_m if stretch else None,
            lift_m=stretch.lift_m if stretch else None,
        )
        found.append(run)
    return found


def _used(builder: _Builder, entry: RouteEntry, ends: Sequence[str]) -> dict[str, str]:
    """The run at each outlet that is taken."""
    runs = {e: entry.run(e).fed_from for e in builder.taken if e in ends}
    return {f"{fed_from}-{builder.taken[e]}": e for e, fed_from in runs.items() if fed_from}


def _adders_kg(order: Sequence[str], equipment: Equipment) -> tuple[float, ...]:
    """What the sheets of boxes and tees add to the charge."""
    sheets = [equipment.fitting(e) for e in order]
    return tuple(s.adder_kg for s in sheets if isinstance(s, BranchBox | Tee) and s.adder_kg)


def _addresses(heads: list[str], rules: Rules) -> dict[str, str]:
    """Of a trunk: circuit 00, the heads 00, 01, 02 … as the control pair passes them."""
    if rules.outdoor is None or rules.outdoor.system != "trunk":
        return {}
    return {zone: f"00-{n:02}" for n, zone in enumerate(heads)}


def _known(names: tuple[str, ...] | None) -> list[str] | None:
    return list(names) if names is not None else None
