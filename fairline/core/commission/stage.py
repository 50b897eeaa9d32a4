"""Commission: every zone called alone, run in cooling and heating, judged on what was measured."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from fairline.core.calc.cross_wire import CrossWireResult
from fairline.core.call import Answer, Call, Check, Limit, Place, StageCall, Step, Verdict
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.check import fault_call, plural, stage_call
from fairline.core.commission.calls import answered, calls_check, standing_calls
from fairline.core.commission.causes import Cause, causes_of
from fairline.core.commission.changed_since import changed_check, stands_now
from fairline.core.commission.lamp_codes import CodeSeen, code_checks, showing
from fairline.core.commission.power_drawn import current_check, watts_check
from fairline.core.commission.records import (
    MODE_WORDS,
    MODES,
    Called,
    Mode,
    Running,
    WaterTest,
    WholeSystem,
)
from fairline.core.commission.said import Said, latest, looked_at, of_zone, promised
from fairline.core.commission.start_up import CommissionEntry, put_off, start_checks
from fairline.core.commission.water import water_check
from fairline.core.commission.whole import whole_checks
from fairline.core.commission.zone import (
    Capacity,
    Trend,
    Worked,
    mode_check,
    room_checks,
    trend,
    unit_rated_w,
    worked_of,
)
from fairline.core.mount.stage import MountEntry
from fairline.core.physics.constants import ATMOSPHERE_PA
from fairline.core.practice import Rules
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.route.piping import Piping, kind_of
from fairline.core.route.stage import RouteStageResult
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.stage import SurveyEntry
from fairline.core.wire.records import Landing

PROVEN: dict[Verdict, str] = {  # how a zone stands, in a word
    Verdict.HOLDS: "proven",
    Verdict.WATCH: "seen only",
    Verdict.WAIT: "missing",
    Verdict.UNKNOWN: "missing",
    Verdict.SHORT: "weak",
    Verdict.STOP: "weak",
}


@dataclass(frozen=True, eq=False)
class Measured:
    """One zone in one mode: what counts, what it comes to, how many there are, their course."""

    record: Running | None
    answer: Capacity | None
    count: int
    trend: Trend | None = None


@dataclass(frozen=True, eq=False)
class CommissionStageResult(StageResult):
    """Every zone in every mode; each measurement with its capacity, None without an airflow.

    ``calls``: the newest call of every zone; ``crossed``: what they say of the cables. ``causes``:
    of weak zones what is looked at, in order. ``water``: tests by zone.
    """

    zones: dict[str, dict[Mode, Measured]]
    answers: list[tuple[Running, Capacity | None]]
    opened: bool
    power: Check
    powered: bool
    power_at: datetime | None
    calls: dict[str, Called]
    crossed: Answer[CrossWireResult] | None
    ports: dict[str, str]
    causes: dict[str, list[Cause]]
    water: dict[str, tuple[WaterTest, ...]]
    whole: tuple[WholeSystem, ...]
    codes: list[CodeSeen]
    items: Mapping[str, str]


def ports_of(pipes: Piping, zones: Sequence[str]) -> dict[str, str]:
    """The port or outlet that each head's tubes are on, by what it is called on the job."""
    found: dict[str, str] = {}
    for zone in zones:
        stretch = pipes.get(zone)
        named = stretch is not None and kind_of(stretch.start) != "tee"
        name = stretch.outlet if stretch is not None and named else ""
        place = f"{stretch.start}-{name}" if stretch is not None and name else zone
        found[zone] = name if name and name not in found.values() else place
    return found


def work(context: StageContext) -> CommissionStageResult:
    rules, zones = context.rules, [h.zone for h in context.entry(SurveyEntry).now]
    charged = context.of(ChargeStageResult)
    opened, on_at = bool(charged.openings), [p.at for p in charged.powered]
    since = min(on_at, default=context.created_at)
    said, early = _said(context, zones, since)
    ports = ports_of(context.of(RouteStageResult).pipes, zones)
    standing = _calls(context, zones, since)
    crossed = answered(standing, ports)
    worked = worked_out(said.records, rules, said.pressure_pa)
    before = [charged.power, *_early(early)]
    if crossed is not None and charged.powered:
        before.append(calls_check(crossed))
    call = judged(said, rules, zones, opened, worked, before)
    several, each = len(zones) > 1, zones or [""]
    return CommissionStageResult(
        call=call,
        zones={z: _measured(of_zone(said.records, z, not several), worked) for z in each},
        answers=[(r, worked[id(r)].capacity) for r in said.records],
        opened=opened,
        power=charged.power,
        powered=bool(charged.powered),
        power_at=max(on_at, default=None),
        calls=standing,
        crossed=crossed,
        ports=ports,
        causes={z: causes_of(call, z if several else "") for z in each},
        water={z: of_zone(said.water, z, not several) for z in each},
        whole=said.whole,
        codes=showing(said.codes),
        items=looked_at(rules, said.promised),
    )


def _said(
    context: StageContext, zones: Sequence[str], since: datetime
) -> tuple[Said, tuple[Running, ...]]:
    """What is known of the running system, and the measurements of before power came on."""
    records, older = stands_now(context.records(Running), zones, context.proofs)
    early = tuple(r for r in records if r.at < since)
    said = Said(
        context.entry(CommissionEntry),
        tuple(r for r in records if r not in early),
        context.records(WaterTest),
        context.records(WholeSystem),
        context.records(CodeSeen),
        promised(context.entry(SurveyEntry), context.entry(MountEntry)),
        older,
        context.of(PressureTestStageResult).atmosphere_pa,
    )
    return said, early


def _calls(context: StageContext, zones: Sequence[str], since: datetime) -> dict[str, Called]:
    """The newest call of every zone, made since power came on, its cable the same since."""
    calls, _ = stands_now(context.records(Called), zones, context.proofs)
    calls = tuple(c for c in calls if c.at >= since)
    return standing_calls(calls, context.records(Landing), zones)


def worked_out(
    records: Sequence[Running], rules: Rules, pressure_pa: float = ATMOSPHERE_PA
) -> dict[int, Worked]:
    """What each measurement comes to, by its identity."""
    return {
        id(r): worked_of(r, rules.of(r.zone) if r.zone else rules, pressure_pa) for r in records
    }


def _measured(records: tuple[Running, ...], worked: dict[int, Worked]) -> dict[Mode, Measured]:
    found = {}
    for mode in MODES:
        own = [r for r in records if r.mode == mode]
        record = latest(own, mode)
        capacity = worked[id(record)].capacity if record else None
        found[mode] = Measured(record, capacity, len(own), trend(own))
    return found


def judge(
    records: tuple[Running, ...],
    rules: Rules,
    zones: list[str],
    opened: bool = True,
    pressure_pa: float = ATMOSPHERE_PA,
) -> StageCall:
    """Every zone by itself, in both modes; ``opened``: the valves are, so that it may run."""
    said = Said(records=records, pressure_pa=pressure_pa)
    return judged(said, rules, zones, opened, worked_out(records, rules, pressure_pa), ())


def _early(records: Sequence[Running]) -> list[Check]:
    """Measurements from before power came on: nothing ran then."""
    if not records:
        return []
    call = Call(
        verdict=Verdict.WAIT,
        because=f"{plural(len(records), 'measurement')} of before power came on: it counts for "
        "none, nothing ran then.",
        do_next="Measure again, or record when power really came on.",
    )
    return [Check(id="early", label="Before power came on", call=call)]


def judged(
    said: Said,
    rules: Rules,
    zones: list[str],
    opened: bool,
    worked: dict[int, Worked],
    before: Sequence[Check],
) -> StageCall:
    """The call of all zones; ``worked`` holds what each measurement comes to.

    ``before``: what must be, before the system may run.
    """
    records = said.records
    if not opened:
        return _shut(records)
    after = [
        *whole_checks(said.whole, rules),
        *code_checks(said.codes, rules),
        *(start_checks(said.entry, looked_at(rules, said.promised)) if before else ()),
    ]
    changed = {z: [changed_check(of)] for z, of in said.older.items()}
    if len(zones) < 2:
        own = changed.get(next(iter(zones), ""), [])
        return judge_zone("", said, rules, worked, [*before, *own], after)
    calls = {z: judge_zone(z, said, rules.of(z), worked, changed.get(z, ())) for z in zones}
    checks = [*before, *(_of_zone(c, z) for z, call in calls.items() for c in call.checks), *after]
    if lost := [r for r in records if r.zone not in zones]:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{plural(len(lost), 'measurement')} without a zone: it counts for none.",
            do_next="Measure again under the zone's own name.",
        )
        checks.append(Check(id="zone", label="Zone", call=call))
    done = sum(call.call.verdict is Verdict.HOLDS for call in calls.values())
    return stage_call(
        checks,
        "Every zone answers its own call, cools and heats as it should.",
        summary=f"{done} of {len(zones)} zones" if records else "",
        started=bool(records),
        governed_by=tuple(dict.fromkeys(x for call in calls.values() for x in call.governed_by)),
        working=[
            s.model_copy(update={"step": f"{z}, {s.step}"})
            for z, call in calls.items()
            for s in call.working
        ],
        findings=tuple(dict.fromkeys(f for call in calls.values() for f in call.findings)),
    )


def _of_zone(check: Check, zone: str) -> Check:
    """A check of one of several zones, named after it."""
    told = f"{zone}: {check.call.because}"
    return check.model_copy(
        update={
            "id": f"{zone}_{check.id}",
            "label": f"Zone {zone}, {check.label.lower()}",
            "call": check.call.model_copy(update={"because": told}),
            "zone": zone,
            "part": check.id,
        }
    )


def _shut(records: tuple[Running, ...]) -> StageCall:
    """Nothing runs before the valves are open."""
    call = (
        fault_call(
            "The system was run before its valves were recorded open.",
            "Switch off; finish Charge, then measure again.",
        )
        if records
        else Call(
            verdict=Verdict.WAIT,
            because="The valves are not open: nothing may run yet.",
            do_next="Finish Charge first: gates, weight, valves.",
        )
    )
    check = Check(id="valves", label="Valves", call=call, mend=Place(stage="charge"))
    return stage_call([check], "", started=bool(records))


def judge_zone(
    zone: str,
    said: Said,
    rules: Rules,
    worked: dict[int, Worked],
    before: Sequence[Check] = (),
    after: Sequence[Check] = (),
) -> StageCall:
    """One zone in both modes; ``before``: what must be, before it may run. ``zone``: blank for the
    only one."""
    records = of_zone(said.records, zone, False) if zone else said.records
    checks: list[Check] = [*before]
    working: list[Step] = []
    limits: list[Limit] = []
    findings: list[str] = []
    for mode in MODES:
        record = latest(records, mode)
        found = worked[id(record)] if record else Worked()
        checks.append(mode_check(mode, record, found, put_off(said.entry, mode)))
        if record is None:
            continue
        prefix = MODE_WORDS[mode].lower()
        for part in (found.capacity, found.split):
            if part is not None:
                steps = [s.model_copy(update={"step": f"{prefix}: {s.step}"}) for s in part.working]
                working += steps
                limits += part.governed_by
                findings += part.findings
        checks += [*room_checks(mode, record), *_drawn(mode, record, rules, found.capacity)]
    checks.append(water_check(of_zone(said.water, zone, not zone), latest(records, "cool")))
    limits += [c.limit for c in checks if c.limit is not None]
    return stage_call(
        [*checks, *after],
        "The zone cools and heats as it should.",
        summary=plural(len({r.mode for r in records}), "mode") if records else "",
        started=bool(records),
        governed_by=tuple(dict.fromkeys(limits)),
        working=working,
        findings=findings,
    )


def _drawn(mode: Mode, record: Running, rules: Rules, found: Capacity | None) -> list[Check]:
    """What it drew, where somebody measured it; of the whole system no zone's capacity speaks."""
    result = found.result if found is not None and record.power_of != "system" else None
    capacity = (result.total_w or result.sensible_w) if result is not None else None
    if mode == "cool" and result is not None and result.total_w is None:
        capacity = None  # sensible alone is not what it gave
    rated = unit_rated_w(mode, rules)
    made = (
        current_check(mode, record, rules, capacity, rated),
        watts_check(mode, record, rules, capacity, rated),
    )
    return [check for check in made if check is not None]


STAGE = Stage(
    name="commission",
    title="Commission",
    entry=CommissionEntry,
    work=work,
    records=(Running, Called, WaterTest, WholeSystem, CodeSeen),
)
