"""Commission: the zone run in cooling and in heating, judged on air states and current."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from fairline.core.calc.expected_split import ExpectedSplitRequest, expected_split
from fairline.core.calc.zone_capacity import (
    ZoneCapacityRequest,
    ZoneCapacityResult,
    zone_capacity,
)
from fairline.core.call import (
    Answer,
    Call,
    Check,
    Limit,
    Place,
    StageCall,
    Step,
    Verdict,
    deciding,
    sheet_limit,
)
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.check import fault_call, plural, stage_call
from fairline.core.commission.changed_since import changed_check, stands_now
from fairline.core.commission.records import MODE_WORDS, MODES, Mode, Running
from fairline.core.entry import (
    Entry,
    LongText,
)
from fairline.core.physics.constants import ATMOSPHERE_PA
from fairline.core.practice import Rules
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.proofs import Difference
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.stage import SurveyEntry

SLIP_SHARE = 5.0  # of the rated current: more is a slip of the digits; our own choice
IDLE_SHARE = 0.05  # of it: less is no compressor; our own choice


class CommissionEntry(Entry):
    notes: LongText = ""


def of_zone(records: Sequence[Running], zone: str, only: bool) -> tuple[Running, ...]:
    """The measurements of one zone; the only one there is takes those that name none."""
    return tuple(r for r in records if r.zone == zone or (only and not r.zone))


def latest(records: tuple[Running, ...], mode: Mode) -> Running | None:
    return next((r for r in reversed(records) if r.mode == mode), None)


def airflow_m3_s(record: Running, rules: Rules) -> float | None:
    """Measured airflow, else the sheet's at the speed that ran; never a speed nobody named."""
    if record.airflow_m3_s is not None:
        return record.airflow_m3_s
    told = [a for a in rules.head.airflows if a.m3_s is not None] if rules.head else []
    if len(told) == 1:
        return told[0].m3_s
    return next((a.m3_s for a in told if a.speed.casefold() == record.fan.casefold()), None)


def answer(
    record: Running, rules: Rules, pressure_pa: float = ATMOSPHERE_PA
) -> Answer[ZoneCapacityResult] | None:
    """Capacity of one measurement at the site's air pressure; None where no airflow is known."""
    airflow = airflow_m3_s(record, rules)
    if airflow is None:
        return None
    head = rules.head
    rated = (head.cool_w if record.mode == "cool" else head.heat_w) if head else None
    return zone_capacity(
        ZoneCapacityRequest(
            airflow_m3_s=airflow,
            return_air=record.state("return"),
            supply_air=record.state("supply"),
            mode=record.mode,
            rated_w=rated or None,
            pressure_pa=pressure_pa,
        )
    )


def airflows_m3_s(record: Running, rules: Rules) -> list[float] | None:
    """Least and most airflow of what ran: the one that is known, else the sheet's speeds."""
    known = airflow_m3_s(record, rules)
    if known is not None:
        return [known, known]
    told = [a.m3_s for a in rules.head.airflows if a.m3_s is not None] if rules.head else []
    return [min(told), max(told)] if told else None


def split_call(record: Running, rules: Rules, pressure_pa: float = ATMOSPHERE_PA) -> Call | None:
    """The measured split against a sound head's; None where sheet or airflow say too little."""
    head, flows = rules.head, airflows_m3_s(record, rules)
    rated = (head.cool_w if record.mode == "cool" else head.heat_w) if head else None
    if not rated or flows is None or record.return_c is None or record.supply_c is None:
        return None
    sign = 1.0 if record.mode == "cool" else -1.0
    return expected_split(
        ExpectedSplitRequest(
            rated_w=rated,
            mode=record.mode,
            airflows_m3_s=flows,
            return_air=record.state("return"),
            outdoor_c=record.outdoor_c,
            pressure_pa=pressure_pa,
            split_k=sign * (record.return_c - record.supply_c),
        )
    ).call


Capacity = Answer[ZoneCapacityResult]


@dataclass(frozen=True, eq=False)
class Measured:
    """One zone in one mode: its last measurement, what that comes to, how many there are."""

    record: Running | None
    answer: Capacity | None
    count: int


@dataclass(frozen=True, eq=False)
class CommissionStageResult(StageResult):
    """Every zone in every mode; each measurement with its capacity, None without an airflow."""

    zones: dict[str, dict[Mode, Measured]]
    answers: list[tuple[Running, Capacity | None]]
    opened: bool
    power: Check
    powered: bool


def work(context: StageContext) -> CommissionStageResult:
    rules, zones = context.rules, [h.zone for h in context.entry(SurveyEntry).now]
    records, older = stands_now(context.records(Running), zones, context.proofs)
    charged = context.of(ChargeStageResult)
    opened = bool(charged.openings)
    since = min((p.at for p in charged.powered), default=None)
    early = tuple(r for r in records if since is not None and r.at < since)
    records = tuple(r for r in records if r not in early)
    air_pa = context.of(PressureTestStageResult).atmosphere_pa
    worked = {id(r): answer(r, rules.of(r.zone) if r.zone else rules, air_pa) for r in records}
    several = len(zones) > 1
    by_zone = {z: _measured(of_zone(records, z, not several), worked) for z in zones or [""]}
    return CommissionStageResult(
        call=judged(
            records,
            rules,
            zones,
            opened,
            worked,
            [charged.power, *_early(early)],
            older,
            air_pa,
        ),
        zones=by_zone,
        answers=[(r, worked[id(r)]) for r in records],
        opened=opened,
        power=charged.power,
        powered=bool(charged.powered),
    )


def _measured(
    records: tuple[Running, ...], worked: dict[int, Capacity | None]
) -> dict[Mode, Measured]:
    found = {}
    for mode in MODES:
        record = latest(records, mode)
        found[mode] = Measured(
            record=record,
            answer=worked[id(record)] if record else None,
            count=sum(r.mode == mode for r in records),
        )
    return found


def judge(
    records: tuple[Running, ...],
    rules: Rules,
    zones: list[str],
    opened: bool = True,
    pressure_pa: float = ATMOSPHERE_PA,
) -> StageCall:
    """Every zone by itself, in both modes; ``opened``: the valves are, so that it may run."""
    worked = {id(r): answer(r, rules.of(r.zone) if r.zone else rules, pressure_pa) for r in records}
    return judged(records, rules, zones, opened, worked, pressure_pa=pressure_pa)


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
    records: tuple[Running, ...],
    rules: Rules,
    zones: list[str],
    opened: bool,
    worked: dict[int, Capacity | None],
    before: Sequence[Check] = (),
    older: Mapping[str, list[Difference]] = MappingProxyType({}),
    pressure_pa: float = ATMOSPHERE_PA,
) -> StageCall:
    """The call of all zones; ``worked`` holds what each measurement comes to.

    ``before``: what must be, before the system may run. ``older``: what changed after a zone was
    measured.
    """
    if not opened:
        return _shut(records)
    changed = {z: [changed_check(of)] for z, of in older.items()}
    if len(zones) < 2:
        own = changed.get(next(iter(zones), ""), [])
        return judge_zone(records, rules, worked, [*before, *own], pressure_pa)
    calls = {
        z: judge_zone(
            of_zone(records, z, False), rules.of(z), worked, changed.get(z, ()), pressure_pa
        )
        for z in zones
    }
    checks = [*before, *(_of_zone(c, z) for z, call in calls.items() for c in call.checks)]
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
        "Every zone cools and heats as it should, within the nameplate's current.",
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
    records: tuple[Running, ...],
    rules: Rules,
    worked: dict[int, Capacity | None],
    before: Sequence[Check] = (),
    pressure_pa: float = ATMOSPHERE_PA,
) -> StageCall:
    """One zone in both modes; ``before``: what must be, before it may run."""
    checks: list[Check] = [*before]
    working: list[Step] = []
    limits: list[Limit] = []
    findings: list[str] = []
    for mode in MODES:
        record = latest(records, mode)
        found = worked[id(record)] if record else None
        checks.append(_capacity(mode, record, rules, found, pressure_pa))
        if record is None:
            continue
        if found:
            prefix = MODE_WORDS[mode].lower()
            working += [s.model_copy(update={"step": f"{prefix}: {s.step}"}) for s in found.working]
            limits += found.governed_by
            findings += found.findings
        checks.append(_current(mode, record, rules))
        if mode == "cool":
            checks.append(_drain(record))
    limits += [c.limit for c in checks if c.limit is not None]
    return stage_call(
        checks,
        "The zone cools and heats as it should, within the nameplate's current.",
        summary=plural(len({r.mode for r in records}), "mode") if records else "",
        started=bool(records),
        governed_by=tuple(dict.fromkeys(limits)),
        working=working,
        findings=findings,
    )


def _capacity(
    mode: Mode,
    record: Running | None,
    rules: Rules,
    worked: Capacity | None,
    pressure_pa: float = ATMOSPHERE_PA,
) -> Check:
    label = MODE_WORDS[mode]
    if record is None:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{label} has not been measured.",
            do_next=f"Run the zone in {label.lower()} at high fan for 10 to 15 minutes, "
            "then measure.",
        )
        return Check(id=mode, label=label, call=call)
    split = split_call(record, rules, pressure_pa)
    if split is not None and split.verdict in (Verdict.SHORT, Verdict.WAIT):
        call = split.model_copy(update={"because": f"{label}: {split.because}"})
        return Check(id=mode, label=label, call=call)
    if worked is None:
        several = rules.head is not None and len(rules.head.airflows) > 1
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"{label}: which speed the fan ran is not said."
            if several
            else f"{label}: no airflow is known.",
            do_next="Measure again and name the fan's speed, or measure the airflow."
            if several
            else "Measure the airflow or enter the sheet's.",
        )
        return Check(id=mode, label=label, call=call)
    call = deciding([worked.call, *([split] if split is not None else [])])
    call = call.model_copy(update={"because": f"{label}: {call.because}"})
    return Check(
        id=mode,
        label=label,
        call=call,
        value=worked.result.total_w or worked.result.sensible_w,
        unit="W",
    )


def _current(mode: Mode, record: Running, rules: Rules) -> Check:
    """MCA is the ceiling of the circuit; rated current is what the plate promises."""
    label = f"Current, {MODE_WORDS[mode].lower()}"
    unit = rules.outdoor
    amps = record.current_a
    limit = None
    if unit and (unit.rated_current_a or unit.mca_a):
        limit = sheet_limit(
            limit="rated current" if unit.rated_current_a else "MCA",
            unit="A",
            value=unit.rated_current_a or unit.mca_a or 0.0,
            source=unit.source("rated_current_a" if unit.rated_current_a else "mca_a"),
        )
    if amps is None:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{label}: not measured yet.",
            do_next="Clamp one hot leg at the disconnect.",
        )
    elif limit is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"{amps:.1f} A; the sheet gives no current.",
            do_next="Enter rated current or MCA on the sheet.",
        )
    elif amps > SLIP_SHARE * limit.value:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{amps:g} A beside a {limit.limit} of {limit.value:.1f} A: is a digit wrong?",
            do_next="Read the clamp meter again and record it.",
        )
    elif amps < IDLE_SHARE * limit.value:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{amps:.1f} A: the compressor does not run at that, or the clamp is round two "
            "conductors.",
            do_next="Clamp one hot leg alone while it runs, ten minutes after the start.",
        )
    elif unit and unit.mca_a and amps > unit.mca_a:
        call = fault_call(
            f"{amps:.1f} A is over the MCA of {unit.mca_a:.1f} A.",
            "Switch off; check voltage, fan and valves before it runs again.",
        )
    elif amps > limit.value:
        call = fault_call(
            f"{amps:.1f} A is over the {limit.limit} of {limit.value:.1f} A.",
            "Check voltage and the coil's airflow.",
            Verdict.WATCH,
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS, because=f"{amps:.1f} A, {limit.limit} {limit.value:.1f} A."
        )
    return Check(id=f"current_{mode}", label=label, call=call, value=amps, unit="A", limit=limit)


def _drain(record: Running) -> Check:
    calls = {
        "": Call(
            verdict=Verdict.WAIT,
            because="The drain has not been seen running.",
            do_next="Pour water into the pan and watch it leave outside.",
        ),
        "runs": Call(verdict=Verdict.HOLDS, because="The drain runs."),
        "stands": fault_call(
            "Water stands in the drain.", "Find the lift, dip or kink and clear it."
        ),
    }
    return Check(id="drain", label="Drain", call=calls[record.drain])


STAGE = Stage(
    name="commission", title="Commission", entry=CommissionEntry, work=work, records=(Running,)
)
