"""The piping as a tree: what hangs on what, how far each head is, and the limits on all of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.calc.route import sheet_limits
from fairline.core.call import Answer, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.check import plural
from fairline.core.physics.tubing import table
from fairline.core.quantities import both

Id = Annotated[str, Field(min_length=1, max_length=40)]
NodeKind = Literal["outdoor", "box", "tee", "head"]
TEE_OUTLETS = ("on", "off")


class TreeNode(Request):
    """A thing of the system; ``outlets`` names what can be connected to it, None: one."""

    id: Id
    kind: NodeKind
    outlets: Annotated[list[Id], Field(max_length=24)] | None = None
    later: bool = False


class TreeRun(Request):
    """A pair of tubes from ``start`` to ``end``; ``lift_m`` is end above start, None: unknown."""

    id: Id
    start: Id
    end: Id
    outlet: Id | None = None
    length_m: Annotated[float, Field(ge=0, le=1e6)] | None = None
    lift_m: Annotated[float, Field(ge=-1e6, le=1e6)] | None = None


class TreeLimits(Request):
    min_length_m: Annotated[float, Field(ge=0)] | None = None
    max_length_m: Annotated[float, Field(ge=0)] | None = None
    max_total_length_m: Annotated[float, Field(ge=0)] | None = None
    max_main_length_m: Annotated[float, Field(ge=0)] | None = None
    max_first_to_last_m: Annotated[float, Field(ge=0)] | None = None
    max_branch_length_m: Annotated[float, Field(ge=0)] | None = None
    max_branch_total_m: Annotated[float, Field(ge=0)] | None = None
    max_lift_m: Annotated[float, Field(ge=0)] | None = None
    max_lift_below_m: Annotated[float, Field(ge=0)] | None = None
    max_head_lift_m: Annotated[float, Field(ge=0)] | None = None


class SystemTreeRequest(Request):
    nodes: Annotated[list[TreeNode], Field(min_length=1, max_length=80)]
    runs: Annotated[list[TreeRun], Field(max_length=80)]
    limits: TreeLimits | None = None

    @model_validator(mode="after")
    def _ids_are_single(self) -> "SystemTreeRequest":
        for name, rows in (("nodes", self.nodes), ("runs", self.runs)):
            ids = [row.id for row in rows]
            if len(set(ids)) != len(ids):
                raise ValueError(f"{name}: an id stands twice")
        if sum(n.kind == "outdoor" for n in self.nodes) != 1:
            raise ValueError("nodes: one outdoor unit is needed")
        return self


class Fault(Frozen):
    """What is wrong with the connections: where (a run or thing), why, and what to do."""

    code: str
    where: str
    because: str
    do_next: str


class TreeZone(Frozen):
    """One head: the runs that lead to it, how long they are, how far it is above the unit."""

    id: str
    path: tuple[str, ...]
    length_m: float | None
    lift_m: float | None


class Measured(Frozen):
    """One value held against one limit; ``over`` is how far it is outside, 0 within."""

    limit: str
    where: str
    value: float
    over: float


class SystemTreeResult(Frozen):
    """Lengths in m; None while a run of it is not measured. ``order``: from the unit outward."""

    order: tuple[str, ...]
    zones: tuple[TreeZone, ...]
    total_m: float | None
    main_m: float | None = None
    branch_total_m: float | None = None
    first_to_last_m: float | None = None
    head_lift_m: float | None = None
    faults: tuple[Fault, ...] = ()
    measured: tuple[Measured, ...] = ()


def _faults(request: SystemTreeRequest) -> list[Fault]:
    """What does not hang together, in order: the runs, the outlets, what nothing reaches."""
    look = _TreeCheck(request)
    for run in request.runs:
        if look.is_there(run):
            look.ends(run)
            look.leaves(run)
    look.outlets_left()
    look.reached()
    return look.found


class _TreeCheck:
    """A look at the tree run by run; ``found`` are the faults so far."""

    def __init__(self, request: SystemTreeRequest) -> None:
        self.request = request
        self.nodes = {n.id: n for n in request.nodes}
        self.found: list[Fault] = []
        self.fed: dict[str, str] = {}
        self.outlets: dict[tuple[str, str], str] = {}
        self.children: dict[str, list[TreeRun]] = {}

    def tell(self, code: str, where: str, because: str, do_next: str) -> None:
        self.found.append(Fault(code=code, where=where, because=because, do_next=do_next))

    def is_there(self, run: TreeRun) -> bool:
        """Whether both its ends are; else they are told."""
        lost = [end for end in (run.start, run.end) if end not in self.nodes]
        for end in lost:
            because = f"Run {run.id}: there is no {end}."
            do_next = f"Connect run {run.id} to something that is there."
            self.tell("unknown_thing", run.id, because, do_next)
        return not lost

    def ends(self, run: TreeRun) -> None:
        if run.end in self.fed:
            because = f"{run.end} is connected twice, by {self.fed[run.end]} and {run.id}."
            do_next = f"Take one of the two runs to {run.end} out."
            self.tell("connected_twice", run.id, because, do_next)
        self.fed.setdefault(run.end, run.id)
        if self.nodes[run.start].kind == "head" or self.nodes[run.end].kind == "outdoor":
            because = f"Run {run.id} leads from {run.start} to {run.end}."
            do_next = "A run leads from the outdoor unit towards a head."
            self.tell("wrong_way", run.id, because, do_next)

    def leaves(self, run: TreeRun) -> None:
        self.children.setdefault(run.start, []).append(run)
        if run.outlet is None:
            return
        names = _outlets(self.nodes[run.start])
        if names is not None and run.outlet not in names:
            because = f"{run.start} has no outlet {run.outlet}."
            do_next = _where_to(run, names, self.request)
            self.tell("no_such_outlet", run.id, because, do_next)
        other = self.outlets.setdefault((run.start, run.outlet), run.id)
        if other != run.id:
            because = f"{other} and {run.id} both leave {run.start} at {run.outlet}."
            self.tell("outlet_taken", run.id, because, f"Move {run.id} to a free outlet.")

    def outlets_left(self) -> None:
        for start, runs in self.children.items():
            node = self.nodes[start]
            names = _outlets(node)
            if names is not None and len(runs) > len(names):
                because = (
                    f"{start}: {len(runs)} runs leave a {node.kind} that has "
                    f"{plural(len(names), 'outlet')}."
                )
                do_next = f"Move {runs[-1].id} to another outlet."
                self.tell("too_many_outlets", start, because, do_next)

    def reached(self) -> None:
        reached = _reached(self.request, self.children)
        for node in self.request.nodes:
            if node.id in reached or node.later:
                continue
            if node.id in self.fed and _loops(node.id, self.request.runs):
                because = f"{node.id} is fed in a loop and never from the unit."
                do_next = f"Feed {node.id} from the outdoor unit."
                self.tell("loop", node.id, because, do_next)
            else:
                because = f"{node.id} is not connected."
                do_next = f"Connect {node.id} to an outlet."
                self.tell("not_connected", node.id, because, do_next)


def _where_to(run: TreeRun, names: list[str], request: SystemTreeRequest) -> str:
    """Where a run can go that is on no outlet: a free one, or what to do where none is free."""
    taken = {r.outlet for r in request.runs if r.start == run.start and r.id != run.id}
    free = [n for n in names if n not in taken]
    if free:
        return f"Move run {run.id} to {', '.join(free)}."
    return (
        f"{run.start} has {plural(len(names), 'outlet')}, all taken: choose another unit or box, "
        f"or take {run.end} out."
    )


def _reached(request: SystemTreeRequest, children: dict[str, list[TreeRun]]) -> set[str]:
    """All that hangs on the outdoor unit."""
    queue = [n.id for n in request.nodes if n.kind == "outdoor"]
    reached = set(queue)
    while queue:
        ends = [run.end for run in children.get(queue.pop(), []) if run.end not in reached]
        reached.update(ends)
        queue += ends
    return reached


def _outlets(node: TreeNode) -> list[str] | None:
    """The names of a thing's outlets; None where nothing says how many there are."""
    if node.kind == "tee":
        return list(TEE_OUTLETS)
    return node.outlets


def _loops(node: str, runs: list[TreeRun]) -> bool:
    feeds = {run.end: run.start for run in runs}
    seen: set[str] = set()
    at: str | None = node
    while at is not None and at not in seen:
        seen.add(at)
        at = feeds.get(at)
    return at is not None


def _sum(values: list[float | None]) -> float | None:
    known = [v for v in values if v is not None]
    return sum(known) if len(known) == len(values) else None


@dataclass(frozen=True, eq=False)
class _Tree:
    """The runs of a request as a tree: what feeds each node, and the runs on the way to it."""

    request: SystemTreeRequest

    @cached_property
    def kinds(self) -> dict[str, str]:
        return {n.id: n.kind for n in self.request.nodes}

    @cached_property
    def feeds(self) -> dict[str, TreeRun]:
        """The run into each node; the first where there are two."""
        found: dict[str, TreeRun] = {}
        for run in self.request.runs:
            if {run.start, run.end} <= self.kinds.keys():
                found.setdefault(run.end, run)
        return found

    @cached_property
    def paths(self) -> dict[str, tuple[TreeRun, ...]]:
        """The runs from the outdoor unit to each node that it reaches."""
        ways = ((node.id, self._way(node.id)) for node in self.request.nodes)
        return {name: path for name, (root, path) in ways if self.kinds[root] == "outdoor"}

    def _way(self, at: str) -> tuple[str, tuple[TreeRun, ...]]:
        path: list[TreeRun] = []
        while at in self.feeds and len(path) <= len(self.request.runs):
            path.insert(0, self.feeds[at])
            at = self.feeds[at].start
        return at, tuple(path)

    @cached_property
    def order(self) -> list[TreeRun]:
        """The runs that are reached, from the outdoor unit outwards."""
        reached = [r for r in self.feeds.values() if r.end in self.paths]
        return sorted(reached, key=lambda r: len(self.paths[r.end]))

    def from_kind(self, *kinds: str) -> list[TreeRun]:
        return [r for r in self.order if self.kinds[r.start] in kinds]

    def mains(self) -> list[TreeRun]:
        """The runs from the outdoor unit to a box or to the first tee."""
        return [r for r in self.from_kind("outdoor") if self.kinds[r.end] in ("box", "tee")]

    def zone(self, head: str) -> TreeZone:
        path = self.paths[head]
        return TreeZone(
            id=head,
            path=tuple(r.id for r in path),
            length_m=_sum([r.length_m for r in path]),
            lift_m=_sum([r.lift_m for r in path]),
        )

    def first_to_last_m(self, heads: Sequence[str]) -> float | None:
        """The longest way from the first tee to a head behind it; None without a tee."""
        first = next((r.end for r in self.mains() if self.kinds[r.end] == "tee"), None)
        if first is None:
            return None
        start = len(self.paths[first])
        behind = [self.paths[h] for h in heads if first in {r.end for r in self.paths[h]}]
        known = [_sum([r.length_m for r in path[start:]]) for path in behind]
        return max((v for v in known if v is not None), default=None)


def _measure(request: SystemTreeRequest, faults: list[Fault]) -> SystemTreeResult:
    """Lengths and lifts of the tree, each None where one that it needs is not known."""
    tree = _Tree(request)
    heads = [n.id for n in request.nodes if n.kind == "head" and tree.paths.get(n.id)]
    zones = [tree.zone(head) for head in heads]
    mains, branches = tree.mains(), tree.from_kind("box")
    lifts = [z.lift_m for z in zones if z.lift_m is not None]
    return SystemTreeResult(
        order=tuple(r.id for r in tree.order),
        zones=tuple(zones),
        total_m=_sum([r.length_m for r in tree.order]),
        main_m=_sum([r.length_m for r in mains]) if mains else None,
        branch_total_m=_sum([r.length_m for r in branches]) if branches else None,
        first_to_last_m=tree.first_to_last_m(heads),
        head_lift_m=max(lifts) - min(lifts) if len(lifts) > 1 else None,
        faults=tuple(faults),
    )


WORDS: dict[str, tuple[str, str]] = table("tree_limits")["rows"]  # what is over, and what to do


def values(request: SystemTreeRequest, result: SystemTreeResult) -> list[tuple[str, str, float]]:
    """What each limit is held against: its name, the zone or run (blank: all), the value in m.

    >>> asked = {"nodes": [{"id": "unit", "kind": "outdoor"}, {"id": "A", "kind": "head"}],
    ...          "runs": [{"id": "A", "start": "unit", "end": "A", "length_m": 21.0}]}
    >>> request = SystemTreeRequest.model_validate(asked)
    >>> values(request, system_tree(request).result)[0]
    ('max_length_m', 'A', 21.0)
    """
    nodes = {n.id: n for n in request.nodes}
    found: list[tuple[str, str, float]] = []
    for zone in result.zones:
        if zone.length_m is not None:
            found += [
                ("max_length_m", zone.id, zone.length_m),
                ("min_length_m", zone.id, zone.length_m),
            ]
        if zone.lift_m is not None:
            below = zone.lift_m > 0  # the outdoor unit below the head
            found.append(("max_lift_below_m" if below else "max_lift_m", zone.id, abs(zone.lift_m)))
    for run in request.runs:
        boxed = run.start in nodes and nodes[run.start].kind == "box"
        if boxed and run.length_m is not None:
            found.append(("max_branch_length_m", run.end, run.length_m))
    for name, value in (
        ("max_total_length_m", result.total_m),
        ("max_main_length_m", result.main_m),
        ("max_first_to_last_m", result.first_to_last_m),
        ("max_branch_total_m", result.branch_total_m),
        ("max_head_lift_m", result.head_lift_m),
    ):
        if value is not None:
            found.append((name, "", value))
    return found


def _blind(result: SystemTreeResult, limits: dict[str, Limit]) -> list[str]:
    """Heads whose height is limited and not known."""
    heights = {"max_lift_m", "max_lift_below_m"} & set(limits)
    between = "max_head_lift_m" in limits and len(result.zones) > 1
    if not heights and not between:
        return []
    return [zone.id for zone in result.zones if zone.lift_m is None]


def system_tree(
    request: SystemTreeRequest, governing: dict[str, Limit] | None = None
) -> Answer[SystemTreeResult]:
    """Whether the runs make one tree, what each head's way measures, and every limit on it.

    ``max_lift_m`` holds for heads below the outdoor unit, and for those above it as long as
    ``max_lift_below_m`` says nothing of its own. Lengths in m; a run without a length leaves
    what rests on it unknown.

    >>> asked = {"nodes": [{"id": "unit", "kind": "outdoor"}, {"id": "A", "kind": "head"}],
    ...          "runs": [{"id": "A", "start": "unit", "end": "A", "length_m": 21.0}],
    ...          "limits": {"max_length_m": 20.0}}
    >>> system_tree(SystemTreeRequest.model_validate(asked)).call.verdict.value
    'short'
    """
    faults = _faults(request)
    result = _measure(request, faults)
    limits = sheet_limits(request.limits) if governing is None else governing
    measured, beyond = _against(request, result, limits)
    reasons = [(f.because, f.do_next) for f in faults] + beyond
    over = [f"over_{m.limit.removesuffix('_m')}" for m in measured if m.over > 1e-9]
    by_run = {r.id: r.length_m or 0.0 for r in request.runs}
    return Answer[SystemTreeResult](
        call=_call(request, result, limits, reasons, limited=bool(measured)),
        governed_by=tuple(limits[n] for n in dict.fromkeys(m.limit for m in measured)),
        working=tuple(
            Step(
                step=f"to {zone.id}",
                expression=" + ".join(f"{run} {by_run[run]:.3f}" for run in zone.path),
                value=zone.length_m,
                unit="m",
            )
            for zone in result.zones
            if zone.length_m is not None
        ),
        findings=tuple(dict.fromkeys([f.code for f in faults] + over)),
        result=result.model_copy(update={"measured": tuple(measured)}),
    )


def _against(
    request: SystemTreeRequest, result: SystemTreeResult, limits: dict[str, Limit]
) -> tuple[list[Measured], list[tuple[str, str]]]:
    """Every measured length and height against its limit; because and do next of those beyond."""
    measured, reasons = [], []
    for name, where, value in values(request, result):
        own = name if name in limits or name != "max_lift_below_m" else "max_lift_m"
        if (limit := limits.get(own)) is None:
            continue
        over = limit.value - value if name == "min_length_m" else value - limit.value
        measured.append(Measured(limit=own, where=where, value=value, over=max(over, 0.0)))
        if over > 1e-9:
            text, act = WORDS[name]
            said = both(value, "length"), both(limit.value, "length"), where
            reasons.append((text.format(*said), act.format(*said)))
    return measured, reasons


def _call(
    request: SystemTreeRequest,
    result: SystemTreeResult,
    limits: dict[str, Limit],
    reasons: list[tuple[str, str]],
    limited: bool,
) -> Call:
    if reasons:
        return Call(verdict=Verdict.SHORT, because=reasons[0][0], do_next=reasons[0][1])
    if open_ := [r.id for r in request.runs if r.length_m is None]:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{plural(len(open_), 'run')} without a length: {', '.join(open_[:6])}.",
            do_next=f"Measure run {open_[0]}.",
        )
    if blind := _blind(result, limits):
        return Call(
            verdict=Verdict.UNKNOWN,
            because=f"How far {blind[0]} stands above or below the outdoor unit is not known; the "
            "sheet limits it.",
            do_next=f"Measure the heights along the way to {blind[0]}.",
        )
    if not limited:
        return Call(
            verdict=Verdict.UNKNOWN,
            because="Nobody gives a limit for these runs.",
            do_next="Enter the sheet's limits.",
        )
    return Call(
        verdict=Verdict.HOLDS,
        because=f"{plural(len(result.zones), 'head')} on {plural(len(result.order), 'run')}, "
        f"{both(result.total_m or 0.0, 'length')} in all, within every limit that applies.",
    )
