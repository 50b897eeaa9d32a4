"""Route: every run of the system against the limits, and what is left of each of them."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from fairline.core.calc.materials import Line
from fairline.core.calc.route import RouteResult
from fairline.core.call import Call, Check, Frozen, Limit, StageCall, Step, Verdict
from fairline.core.check import check_choice, fault_call, stage_call
from fairline.core.limit_list import LimitName, limit_named
from fairline.core.mount.stage import MountEntry
from fairline.core.physics.tubing import size_label, tube_at
from fairline.core.practice import Rules
from fairline.core.procedures.procedure import Asked, At, HandStep, asked
from fairline.core.quantities import both
from fairline.core.route import drain, plausible
from fairline.core.route.cover import Cover, cover_checks, covers
from fairline.core.route.cutting import Cutting, join_checks, joins_of
from fairline.core.route.dips import dip_checks
from fairline.core.route.drain import Drains
from fairline.core.route.entry import RouteEntry
from fairline.core.route.exposed import exposed_checks
from fairline.core.route.joints import JointSpec, joints
from fairline.core.route.materials import materials
from fairline.core.route.piping import Piping, Stretch, piping
from fairline.core.route.ports import SparePort, spare_ports
from fairline.core.route.procedures import procedures as of_runs
from fairline.core.route.tools import tools
from fairline.core.route.traps import Trap, trap_bends, traps, who_wants
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.stage import SurveyEntry

SYSTEM = "system"  # the part of the page that shows the whole
LIMIT_WORDS = {
    "max_length_m": "Length to {0}",
    "min_length_m": "Minimum length to {0}",
    "max_total_length_m": "Length in all",
    "max_main_length_m": "Main run",
    "max_first_to_last_m": "First tee to last head",
    "max_branch_length_m": "Branch to {0}",
    "max_branch_total_m": "Branches in all",
    "max_lift_m": "Height to {0}",
    "max_lift_below_m": "Height to {0}",
    "max_head_lift_m": "Height between heads",
}


def run_words(stretch: Stretch) -> str:
    """What a run is called: by its tag and what it ends in."""
    if stretch.kind == "head":
        return f"Run {stretch.id}"
    return {"box": "Main run to the box", "tee": f"Run to tee {stretch.id[3:]}"}[stretch.kind]


class Left(Frozen):
    """How much of a limit is left; negative where it is passed. In the limit's own unit."""

    limit: Limit
    where: str
    value: float
    left: float
    least: bool  # a least value: what is left is how far the run is above it


def left_of_limits(pipes: Piping, bent: Sequence[Trap], rules: Rules) -> list[Left]:
    """For each limit that is known, how much is left, of every run."""
    found = []
    for measured in pipes.tree.measured:
        limit = rules.limit(limit_named(measured.limit))
        if limit is None:
            continue
        least = measured.limit == "min_length_m"
        left = measured.value - limit.value if least else limit.value - measured.value
        found.append(
            Left(limit=limit, where=measured.where, value=measured.value, left=left, least=least)
        )
    most_bends = rules.limit("max_bends")
    for stretch in pipes.stretches:
        if most_bends and stretch.result:
            bends = float(stretch.result.bends + trap_bends(stretch.id, bent))
            found.append(
                Left(
                    limit=most_bends,
                    where=stretch.id,
                    value=bends,
                    left=most_bends.value - bends,
                    least=False,
                )
            )
    return found


def tightest(left: list[Left]) -> list[Left]:
    """Of every limit of length the place where the least is left."""
    found: dict[str, Left] = {}
    for one in left:
        name = one.limit.limit
        if one.limit.unit == "m" and (name not in found or one.left < found[name].left):
            found[name] = one
    return list(found.values())


@dataclass(frozen=True, eq=False)
class RouteStageResult(StageResult):
    """The whole system worked out: what every stage from Flare on rests on.

    ``left``: how much is left of each limit; ``joins``: how often each run's tube was joined.
    """

    pipes: Piping
    joints: list[JointSpec]
    spare: tuple[SparePort, ...]
    traps: list[Trap]
    drains: Drains
    joins: dict[str, int]
    left: list[Left]
    materials: list[Line]
    tools: list[HandStep]
    covers: list[Cover]

    def left_of(self, end: str) -> list[Left]:
        """What is left of each limit, for one run."""
        return [x for x in self.left if x.where in ("", end)]


def work(context: StageContext) -> RouteStageResult:
    entry, survey = context.entry(RouteEntry), context.entry(SurveyEntry)
    equipment = context.equipment
    pipes = piping(entry, survey, equipment, context.rules)
    rules = context.rules_since(*(equipment.tube(s.id) for s in pipes.stretches))
    if rules != context.rules:  # laid under another house practice than today's
        pipes = piping(entry, survey, equipment, rules)
    cut = next(reversed(context.records(Cutting)), None)
    joins = joins_of(cut.pieces) if cut else {}
    spare = spare_ports(entry, survey, pipes)
    lying = covers(entry, pipes, rules)
    bent = traps(pipes, lambda run: context.rules_since(equipment.tube(run)))
    joined = context.rules_on(cut.practice if cut else None)
    specs = joints(pipes, entry, equipment, rules, joins, spare, joined)
    out = drain.drains(entry, survey, rules)
    return RouteStageResult(
        call=judge(entry, pipes, rules, joins, bent, out, lying),
        pipes=pipes,
        joints=specs,
        spare=spare,
        traps=bent,
        drains=out,
        joins=joins,
        left=left_of_limits(pipes, bent, rules),
        covers=lying,
        tools=tools(survey, context.entry(MountEntry), equipment, pipes, specs, rules),
        materials=materials(entry, pipes, bent, spare, out, specs, equipment, rules),
    )


def judge(
    entry: RouteEntry,
    pipes: Piping,
    rules: Rules,
    joins: dict[str, int],
    bent: Sequence[Trap],
    drains: Drains,
    lying: Sequence[Cover],
) -> StageCall:
    """The tree, each run, each limit, the joins, the covers, the insulation and the drains."""
    checks = [_tree(entry, pipes)]
    for stretch in pipes.stretches:
        checks += _stretch(stretch, entry, rules, trap_bends(stretch.id, bent))
    checks += _limits(pipes, rules)
    checks += plausible.checks(entry, pipes)
    checks += join_checks(entry, pipes, joins, rules)
    insulation = check_choice(
        "insulation",
        "Insulation of both tubes",
        entry.both_insulated,
        ("yes",),
        {
            "no": fault_call(
                "One tube is bare: both run cold and sweat.", "Insulate both, all the way."
            )
        },
        "Look along the run: both tubes insulated, all the way.",
    )
    checks += [
        *cover_checks(lying),
        *exposed_checks(pipes),
        *dip_checks(pipes, who_wants(rules)[0]),
    ]
    checks += [*_traps(bent), insulation, *drain.checks(entry, drains)]
    checks = [c if c.part else c.model_copy(update={"part": SYSTEM}) for c in checks]
    total = pipes.total_m
    working: list[Step] = []
    for stretch in pipes.stretches:
        working += [
            s.model_copy(update={"step": f"{stretch.id}: {s.step}"}) for s in stretch.working
        ]
    several = len(pipes.stretches) > 1
    tight = any(s.result and s.result.tight_legs for s in pipes.stretches)
    return stage_call(
        checks,
        pipes.answer.call.because,
        summary=both(total, "length") if total is not None else "",
        started=entry != RouteEntry(),
        governed_by=_governing(pipes, rules),
        working=[*working, *(pipes.answer.working if several else ())],
        findings=(*(("bend_does_not_fit",) if tight else ()), *pipes.answer.findings),
    )


def _governing(pipes: Piping, rules: Rules) -> list[Limit]:
    found = list(pipes.answer.governed_by)
    bends = rules.limit("max_bends")
    return [*found, bends] if bends is not None else found


def _tree(entry: RouteEntry, pipes: Piping) -> Check:
    """Whether all of it hangs together."""
    if not entry.runs:
        call = Call(
            verdict=Verdict.WAIT,
            because="The run has no legs yet.",
            do_next="Lay the system out, then type the legs of each run.",
        )
    elif not pipes.tree.zones and not pipes.tree.faults:
        call = Call(
            verdict=Verdict.WAIT,
            because="No head is wanted now, so nothing hangs on these runs.",
            do_next="Name the heads in Survey.",
        )
    elif pipes.tree.faults:
        first = pipes.tree.faults[0]
        call = fault_call(first.because, first.do_next)
    else:
        call = Call(verdict=Verdict.HOLDS, because="Every head hangs on the outdoor unit.")
    return Check(id="tree", label="Connections", call=call)


def _stretch(stretch: Stretch, entry: RouteEntry, rules: Rules, trap_bends: int = 0) -> list[Check]:
    """One run by itself: legs, bends with those of its traps, tubes, kit, the path it keeps to."""
    check = Check(
        id=f"run_{stretch.id}",
        label=run_words(stretch),
        call=_stretch_call(stretch, rules, trap_bends),
        value=stretch.length_m,
        unit="m",
        part=f"runs.{stretch.id}",
    )
    straight = _straight(stretch, rules)
    return [check, straight] if straight else [check]


def _stretch_call(stretch: Stretch, rules: Rules, trap_bends: int) -> Call:
    """The first thing that is wrong with a run by itself, or its length."""
    label, result = run_words(stretch), stretch.result
    if result is None and stretch.built_m is None:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{label} has no legs yet.",
            do_next="Type the legs from the outdoor unit towards the head.",
        )
    if result is not None and (wrong := _legs_fault(stretch, result)):
        return wrong
    sizes = [d for d in (stretch.tube.liquid_mm, stretch.tube.gas_mm) if d is not None]
    if strange := [d for d in sizes if tube_at(d) is None]:
        known = ", ".join(size_label(d) for d in (6.35, 9.52, 12.7, 15.88, 19.05))
        return fault_call(
            f"{label}: no tube of {strange[0]:g} mm is known.", f"Take one of {known}."
        )
    most = rules.limit("max_bends")
    if result is not None and most and result.bends + trap_bends > most.value:
        with_traps = f" with {trap_bends} of its oil traps" if trap_bends else ""
        return fault_call(
            f"{label}: {result.bends + trap_bends} bends{with_traps} are more than the "
            f"{most.value:.0f} allowed.",
            "Take out a bend.",
        )
    if stretch.along and not stretch.shared:
        return fault_call(
            f"{label} keeps to run {stretch.along}, which it shares no leg with.",
            "Name a run that starts at the same place, and how many legs they share.",
            Verdict.WATCH,
        )
    return Call(verdict=Verdict.HOLDS, because=f"{label}: {both(stretch.length_m or 0, 'length')}.")


def _legs_fault(stretch: Stretch, result: RouteResult) -> Call | None:
    """A leg too short for its bends, or a way longer than its kit."""
    label = run_words(stretch)
    if result.tight_legs:
        leg = stretch.legs[result.tight_legs[0] - 1]
        return fault_call(
            f"{label}: leg {leg.number or result.tight_legs[0]} is too short for its bends.",
            "Lengthen it, or use a bender of a smaller radius.",
        )
    if stretch.kit_m is not None and result.cut_length_m > stretch.kit_m + 1e-6:
        return fault_call(
            f"{label}: {both(result.cut_length_m - stretch.coil_m, 'length')} of way for a kit of "
            f"{both(stretch.kit_m, 'length')}.",
            "Take a longer kit: one is never cut nor joined.",
        )
    return None


def _straight(stretch: Stretch, rules: Rules) -> Check | None:
    """The straight tube before a tee, where its sheet wants more than there is."""
    wanted = rules.limit("straight_before_m") if stretch.kind == "tee" else None
    if wanted is None or not stretch.legs or rules.tee is None:
        return None
    last = stretch.legs[-1]
    if last.length_m >= wanted.value - 1e-6:
        return None
    short = fault_call(
        f"{run_words(stretch)}: {both(last.length_m, 'small')} of straight tube before it; the "
        f"sheet wants {both(wanted.value, 'small')}.",
        "Lengthen the last leg before the tee.",
    )
    return Check(
        id=f"straight_{stretch.id}",
        label=f"Straight before {stretch.id}",
        call=short,
        value=last.length_m,
        unit="m",
        bound="min",
        limit=wanted,
        part=f"runs.{stretch.id}",
    )


def _limits(pipes: Piping, rules: Rules) -> list[Check]:
    """Every limit of the tree that is known; length and height are asked for in any case."""
    found = []
    reasons = {f"{m.limit}_{m.where}": m for m in pipes.tree.measured}
    for key, measured in reasons.items():
        limit = rules.limit(limit_named(measured.limit))
        label = LIMIT_WORDS[measured.limit].format(measured.where)
        least = measured.limit == "min_length_m"
        text = f"{label}: {both(measured.value, 'length')}, {'at least' if least else 'at most'} "
        text += both(limit.value if limit else 0.0, "length")
        if measured.over > 1e-9:
            do_next = {
                "min_length_m": "Add a flat coil beside the unit, its air kept free.",
                "max_lift_m": "Bring the outdoor unit nearer to the head's height.",
                "max_lift_below_m": "Bring the outdoor unit nearer to the head's height.",
                "max_head_lift_m": "Bring the heads nearer to one height.",
            }.get(measured.limit, "Find a shorter way.")
            call = fault_call(f"{text}: {'too short' if least else 'over'}.", do_next)
        else:
            call = Call(verdict=Verdict.HOLDS, because=f"{text}.")
        found.append(
            Check(
                id=key.removesuffix("_"),
                label=label,
                call=call,
                value=measured.value,
                unit="m",
                bound="min" if least else "max",
                limit=limit,
            )
        )
    if pipes.tree.zones and pipes.tree.zones[0].length_m is not None:
        asked: tuple[tuple[LimitName, str], ...] = (
            ("max_length_m", "length"),
            ("max_lift_m", "height"),
        )
        missing = [word for name, word in asked if rules.limit(name) is None]
        if missing:
            words = " and ".join(missing)
            call = Call(
                verdict=Verdict.UNKNOWN,
                because=f"The run is {both(pipes.tree.zones[0].length_m, 'length')}; nobody gives "
                f"a limit for its {words}.",
                do_next=f"Enter the sheet's limit for {words}.",
            )
            found.append(Check(id="limits", label="Limits", call=call))
    return found


def _traps(bent: Sequence[Trap]) -> list[Check]:
    if not bent:
        return []
    call = Call(
        verdict=Verdict.WATCH,
        because=f"Oil traps in the gas line: {len(bent)}, drawn where they fall.",
        do_next="Set each trap where the drawing shows it.",
    )
    return [Check(id="traps", label="Oil traps", call=call)]


def procedures(context: StageContext, worked: RouteStageResult) -> Iterator[Asked]:
    entry = context.entry(RouteEntry)
    yield from of_runs(entry, worked.pipes, worked.drains, context.equipment)
    if worked.pipes.total_m is not None:
        ends = [s.id for s in worked.pipes.stretches]
        part = f"runs.{ends[0]}" if len(ends) == 1 else SYSTEM
        yield from asked("van", {}, At(part=part), steps=worked.tools)


STAGE = Stage(
    name="route",
    title="Route",
    entry=RouteEntry,
    work=work,
    records=(Cutting,),
    procedures=procedures,
)
