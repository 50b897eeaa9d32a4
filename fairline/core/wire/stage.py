"""Wire: every circuit, every cable, what is set at the controls, and proved dead before hands."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from fairline.core.calc.materials import Line
from fairline.core.call import Call, Check, Limit, Place, StageCall, Verdict
from fairline.core.check import plural, stage_call
from fairline.core.entry import Record
from fairline.core.parts import UNIT
from fairline.core.practice import Rules
from fairline.core.proofs import COVERS, Difference, Proofs, undecided
from fairline.core.route.entry import OUTDOOR
from fairline.core.route.stage import RouteStageResult
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.stage import SurveyEntry
from fairline.core.wire import dead as proving
from fairline.core.wire import interconnect, settings
from fairline.core.wire.circuit import Rating, rating
from fairline.core.wire.dead import Act, Dead, Fed
from fairline.core.wire.entry import WireEntry
from fairline.core.wire.interconnect import CableResult, EndResult
from fairline.core.wire.landed import Landed, landed
from fairline.core.wire.needed import needed
from fairline.core.wire.records import Landing, PowerOn, ProvedDead, SwitchedOff, WireEnd
from fairline.core.wire.supply import SupplyResult, supply
from fairline.core.wire.wiring import Wiring, wiring


@dataclass(frozen=True, eq=False)
class WireStageResult(StageResult):
    """The wiring worked out: circuits, what belongs where, what lies where, how each unit stands.

    ``powered``: the switchings on, the first of them first.
    """

    supplies: list[SupplyResult]
    wiring: Wiring
    lies: Landed
    cables: list[CableResult]
    ends: list[EndResult]
    dead: dict[str, Dead]
    materials: list[Line]
    powered: tuple[PowerOn, ...]

    def dead_at(self, block: str) -> Dead | None:
        """How the unit stands whose circuit makes a block live."""
        found = self.wiring.blocks.get(block)
        return self.dead.get(found.fed_by) if found else None


def _rules(context: StageContext) -> Rules:
    """What governs: the practice of the day on which a conductor or an end was done last."""
    acts: list[Record] = [*context.records(Landing), *context.records(WireEnd)]
    last = max(acts, key=lambda r: r.at, default=None)
    return context.rules_on(last.practice if last is not None else None)


def work(context: StageContext) -> WireStageResult:
    entry, rules = context.entry(WireEntry), _rules(context)
    heads, pipes = context.entry(SurveyEntry).now, context.of(RouteStageResult).pipes
    plan = wiring(entry, pipes, heads, context.equipment, rules)
    at_units = _UnitCircuits(context.proofs, {b.id: b.unit for b in plan.blocks.values()})
    lies = landed(
        [r for r in context.records(Landing) if at_units.stands(r, at_units.unit_of(r.block))],
        [r for r in context.records(WireEnd) if at_units.stands(r, _unit_at(r, plan))],
    )
    worked = interconnect.cables(plan, lies)
    supplies = [
        supply(unit, title, entry.supply(unit), rules, _sharing(unit, entry, plan, rules))
        for unit, title in plan.fed.items()
    ]
    powered = tuple(r for r in context.records(PowerOn) if at_units.stands(r, OUTDOOR))
    acts: list[Act] = [*_downs(context, at_units), *powered]
    wait = rules.limit("stored_charge")
    dead = {
        unit: proving.dead(fed_of(unit, plan, entry), acts, _touched(unit, plan, lies), wait)
        for unit in plan.fed
    }
    walk = interconnect.ends(worked, plan, rules.school("connect_first").name == "indoors")
    done = sum(c.call.verdict is Verdict.HOLDS for c in worked)
    checks = [
        *_whole(rules, heads),
        *at_units.checks(),
        *(c for s in supplies for c in s.checks),
        *(proving.check(d, wait) for d in dead.values()),
        *interconnect.checks(entry, plan, lies, worked, walk, pipes, rules),
        *settings.checks(entry, pipes),
        *(s.who for s in supplies),
    ]
    started = entry != WireEntry() or bool(lies.conductors) or bool(acts)
    return WireStageResult(
        call=_call(checks, supplies, done, len(worked), started),
        supplies=supplies,
        wiring=plan,
        lies=lies,
        cables=worked,
        ends=walk,
        dead=dead,
        materials=needed(entry, plan, supplies),
        powered=powered,
    )


def _sharing(unit: str, entry: WireEntry, plan: Wiring, rules: Rules) -> list[Rating]:
    """What the other heads ask that hang on the same circuit as this one."""
    if entry.supply(unit).dedicated != "heads" or unit == OUTDOOR:
        return []
    others = [u for u in plan.fed if u not in (unit, OUTDOOR)]
    return [
        rating(u, entry.supply(u), rules) for u in others if entry.supply(u).dedicated == "heads"
    ]


class _UnitCircuits:
    """Which acts at terminals are of the machines that are there now."""

    def __init__(self, proofs: Proofs, blocks: Mapping[str, str]) -> None:
        self.proofs, self.blocks = proofs, blocks
        self.doubts: dict[str, Difference] = {}

    def unit_of(self, block: str) -> str:
        return self.blocks.get(block, "")

    def stands(self, record: Record, unit: str) -> bool:
        """Whether a record is of the machine at a place; one of no place stands.

        While nobody said whether a machine is another one, its records count, and it is asked.
        """
        name = UNIT if unit == OUTDOOR else f"head:{unit}" if len(unit) == 1 else unit

        def own(part: str) -> bool:
            return part == name

        kinds = COVERS[record.kind].kinds
        found = self.proofs.differences(record.subject, record.at, kinds, own) if unit else []
        now = [d for d in found if d.now is not None]
        self.doubts |= {d.part: d for d in now if not d.answered}
        return not any(d.answered for d in now)

    def checks(self) -> list[Check]:
        """What has to be said before what was done at a machine counts."""
        if not self.doubts:
            return []
        call = undecided(list(self.doubts.values()), "what was landed there")
        return [Check(id="changed", label="Changed since", call=call)]


def _downs(context: StageContext, at_units: _UnitCircuits) -> list[Act]:
    """Every switching off and proof of dead that is of a unit as it is now, each kind in order."""
    off = [r for r in context.records(SwitchedOff) if at_units.stands(r, r.unit)]
    dead = [r for r in context.records(ProvedDead) if at_units.stands(r, r.unit)]
    return [*off, *dead]


def _unit_at(record: WireEnd, plan: Wiring) -> str:
    """The unit in which a cable's end belongs."""
    block = plan.planned(record.cable, record.side)
    return block.unit if block is not None else ""


def fed_of(unit: str, plan: Wiring, entry: WireEntry) -> Fed:
    """A unit with a circuit of its own, and whether that is connected at the panel."""
    return Fed(unit, plan.fed[unit], entry.supply(unit).been == "yes")


def _touched(unit: str, plan: Wiring, lies: Landed) -> list[datetime]:
    """When each of what lies in a unit's blocks was landed there."""
    blocks = {b.id for b in plan.blocks.values() if b.fed_by == unit}
    return [x.at for of in lies.conductors.values() for x in of if x.block in blocks]


def _whole(rules: Rules, heads: Sequence[object]) -> list[Check]:
    """What has to be known before anything of it can be drawn."""
    if rules.outdoor is None:
        because, do_next = "No outdoor unit is chosen.", "Choose the outdoor unit in Survey."
    elif not heads:
        because, do_next = "No head is wanted yet.", "Add the heads in Survey."
    else:
        return []
    call = Call(verdict=Verdict.UNKNOWN, because=because, do_next=do_next)
    return [Check(id=OUTDOOR, label="Units", call=call, mend=Place(stage="survey"))]


def _call(
    checks: Sequence[Check],
    supplies: Sequence[SupplyResult],
    done: int,
    count: int,
    started: bool,
) -> StageCall:
    limits: list[Limit] = [c.limit for c in checks if c.limit is not None]
    return stage_call(
        checks,
        "Every circuit fits its unit, every conductor lies where it belongs, covers on.",
        summary=f"{done} of {plural(count, 'cable')}" if started and count else "",
        started=started,
        governed_by=tuple(dict.fromkeys(limits)),
        working=[step for s in supplies for step in s.working],
    )


STAGE = Stage(
    name="wire",
    title="Wire",
    entry=WireEntry,
    work=work,
    records=(Landing, WireEnd, SwitchedOff, ProvedDead, PowerOn),
    beside=True,
)
