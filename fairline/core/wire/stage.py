"""Wire: every circuit, every cable, what is set at the controls, and proved dead before hands."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from fairline.core.calc.materials import Line
from fairline.core.call import Call, Check, Limit, StageCall, Verdict
from fairline.core.check import plural, stage_call
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR
from fairline.core.route.stage import RouteWorked
from fairline.core.stage import Basis, Stage, Worked
from fairline.core.survey.stage import SurveyEntry
from fairline.core.wire import dead as proving
from fairline.core.wire import interconnect, settings
from fairline.core.wire.dead import Act, Dead, Fed
from fairline.core.wire.entry import WireEntry
from fairline.core.wire.interconnect import CableWorked, EndWorked
from fairline.core.wire.landed import Landed, landed
from fairline.core.wire.needed import needed
from fairline.core.wire.records import Landing, PowerOn, ProvedDead, SwitchedOff, WireEnd
from fairline.core.wire.supply import SupplyWorked, supply
from fairline.core.wire.wiring import Wiring, wiring


@dataclass(frozen=True, eq=False)
class WireWorked(Worked):
    """The wiring worked out: circuits, what belongs where, what lies where, how each unit stands.

    ``powered``: the switchings on, the first of them first.
    """

    supplies: list[SupplyWorked]
    wiring: Wiring
    lies: Landed
    cables: list[CableWorked]
    ends: list[EndWorked]
    dead: dict[str, Dead]
    materials: list[Line]
    powered: tuple[PowerOn, ...]

    def dead_at(self, block: str) -> Dead | None:
        """How the unit stands whose circuit makes a block live."""
        found = self.wiring.blocks.get(block)
        return self.dead.get(found.fed_by) if found else None


def work(basis: Basis) -> WireWorked:
    entry, rules = basis.entry(WireEntry), basis.rules
    heads, pipes = basis.entry(SurveyEntry).now, basis.of(RouteWorked).pipes
    plan = wiring(entry, pipes, heads, basis.equipment, rules)
    lies = landed(basis.records(Landing), basis.records(WireEnd))
    worked = interconnect.cables(plan, lies)
    supplies = [supply(unit, title, entry.supply(unit), rules) for unit, title in plan.fed.items()]
    powered = basis.records(PowerOn)
    acts: list[Act] = [*basis.records(SwitchedOff), *basis.records(ProvedDead), *powered]
    wait = rules.limit("stored_charge")
    dead = {
        unit: proving.dead(fed_of(unit, plan), acts, _touched(unit, plan, lies), wait)
        for unit in plan.fed
    }
    indoors = rules.school("connect_first").name == "indoors"
    done = sum(c.call.verdict is Verdict.HOLDS for c in worked)
    checks = [
        *_whole(rules, heads),
        *(c for s in supplies for c in s.checks),
        *(proving.check(d, wait) for d in dead.values()),
        *interconnect.checks(entry, plan, lies, worked, rules),
        *settings.checks(entry, pipes),
        *(s.who for s in supplies),
    ]
    started = entry != WireEntry() or bool(lies.conductors) or bool(acts)
    return WireWorked(
        call=_call(checks, supplies, done, len(worked), started),
        supplies=supplies,
        wiring=plan,
        lies=lies,
        cables=worked,
        ends=interconnect.ends(worked, plan, indoors),
        dead=dead,
        materials=needed(entry, plan, supplies),
        powered=powered,
    )


def fed_of(unit: str, plan: Wiring) -> Fed:
    """A unit with a circuit of its own, and every block that this circuit makes live."""
    blocks = frozenset(b.id for b in plan.blocks.values() if b.fed_by == unit)
    return Fed(unit, plan.fed[unit], blocks)


def _touched(unit: str, plan: Wiring, lies: Landed) -> list[datetime]:
    """When each of what lies in a unit's blocks was landed there."""
    blocks = fed_of(unit, plan).blocks
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
    return [Check(id=OUTDOOR, label="Units", call=call)]


def _call(
    checks: Sequence[Check],
    supplies: Sequence[SupplyWorked],
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
