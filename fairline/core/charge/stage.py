"""Charge: the added charge for the line, weighed in by cylinder, and the release of the valves."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from fairline.core import kit
from fairline.core.calc.added_charge import (
    AddedChargeRequest,
    AddedChargeResult,
    ChargedHead,
    ChargeRule,
    Rate,
    Segment,
    added_charge,
)
from fairline.core.call import (
    Answer,
    Call,
    Check,
    Place,
    StageCall,
    Verdict,
    deciding,
    sheet_limit,
)
from fairline.core.charge.charged_kit import of_kit
from fairline.core.charge.entry import (
    ChargeEntry,
    PumpedDown,
    Release,
    ValvesShut,
    Weighing,
    acts_of,
    weighed_kg,
)
from fairline.core.charge.override import Lacking
from fairline.core.charge.power import lacking, power_check
from fairline.core.charge.valves_open import Valves, grams_check, valves, weighings_now
from fairline.core.charge.weighed import (
    DOUBTS,
    added_call,
    cylinder_checks,
    release_check,
    total_check,
    weighed_check,
)
from fairline.core.check import fault_call, stage_call
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.evacuate.group_call import ACCEPTED
from fairline.core.flare.stage import FlareStageResult
from fairline.core.physics.tubing import size_label
from fairline.core.practice import Rules
from fairline.core.pressure_test.leak_search import Suspect, suspects
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.quantities import both
from fairline.core.route.circuits import circuits_of
from fairline.core.route.piping import Piping
from fairline.core.route.stage import RouteStageResult
from fairline.core.sheet.outdoor import Outdoor
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.proposal import Wanted
from fairline.core.survey.stage import ROOMS, SurveyStageResult, room_check
from fairline.core.wire.records import PowerOn
from fairline.core.wire.stage import WireStageResult

GATES = ("flare", "pressure-test", "evacuate")


def request(pipes: Piping, entry: ChargeEntry, rules: Rules) -> AddedChargeRequest | None:
    """The sheet's charge rule on every run; None while a run or the rule is unknown.

    What box and tees add by their own sheets is part of the base adder.
    """
    unit = rules.outdoor
    if unit is None or pipes.total_m is None:
        return None
    rule = _charge_rule(unit, pipes)
    if rule is None or any(s.tube.liquid_mm is None for s in pipes.stretches):
        return None
    return AddedChargeRequest(
        segments=_segments(pipes),
        rule=rule,
        heads=_charged_heads(unit, pipes, rules),
        short_line=short_line(entry, rules)[0],
        factory_charge_kg=unit.factory_charge_kg,
        max_total_kg=unit.max_total_charge_kg,
        refrigerant=unit.refrigerant,
    )


def _charge_rule(unit: Outdoor, pipes: Piping) -> ChargeRule | None:
    if unit.included_length_m is None or not unit.rates:
        return None
    adders = [kg for kg in (unit.base_adder_kg, *pipes.adders_kg) if kg]
    return ChargeRule(
        included_length_m=unit.included_length_m,
        included_applies_to=unit.included_applies_to,
        rates=[
            Rate(liquid_od_mm=round(r.liquid_od_m * 1000, 3), kg_per_m=r.kg_per_m)
            for r in unit.rates
            if r.liquid_od_m is not None and r.kg_per_m is not None
        ],
        included_rate_kg_per_m=unit.included_rate_kg_per_m,
        head_adders_kg={a.head_class: a.kg or 0.0 for a in unit.head_adders} or None,
        base_adder_kg=sum(adders) if adders else None,
        max_added_kg=unit.max_added_kg,
    )


def _segments(pipes: Piping) -> list[Segment]:
    single = len(pipes.stretches) == 1
    return [
        Segment(
            id="line" if single else s.id,
            liquid_od_mm=s.tube.liquid_mm or 0.0,
            length_m=s.length_m or 0.0,
            zone=s.id if s.kind == "head" else None,
        )
        for s in pipes.stretches
    ]


def _charged_heads(unit: Outdoor, pipes: Piping, rules: Rules) -> list[ChargedHead] | None:
    if not unit.head_adders:
        return None
    classes = {z.id: head.head_class for z in pipes.tree.zones if (head := rules.heads.get(z.id))}
    return [
        ChargedHead.model_validate({"id": f"head {zone}", "class": name})
        for zone, name in classes.items()
        if name
    ] or None


def short_line(entry: ChargeEntry, rules: Rules) -> tuple[Literal["recover", "leave"], str]:
    """What is done about a short line, and who says so: sheet, this job, or the house."""
    if rules.outdoor and rules.outdoor.short_line:
        return rules.outdoor.short_line, "the sheet"
    if entry.short_line:
        return entry.short_line, f"this job: {entry.short_line_reason}"
    recover = rules.school("short_line").name == "recover"
    return "recover" if recover else "leave", rules.who_chose("short_line")


def answer(pipes: Piping, entry: ChargeEntry, rules: Rules) -> Answer[AddedChargeResult] | None:
    asked = request(pipes, entry, rules)
    if asked is None or rules.outdoor is None:
        return None
    unit = rules.outdoor
    sizes = sorted({s.liquid_od_mm for s in asked.segments})
    limits = tuple(
        sheet_limit(limit=name, value=value, unit=u, source=unit.source(field))
        for name, value, u, field in (
            ("pre-charged length", unit.included_length_m, "m", "included_length_m"),
            *(
                (
                    f"rate beyond it, {size_label(mm)}" if len(sizes) > 1 else "rate beyond it",
                    unit.rate_kg_per_m(mm),
                    "kg/m",
                    "rates",
                )
                for mm in sizes
            ),
            ("factory charge", unit.factory_charge_kg, "kg", "factory_charge_kg"),
            ("most total charge", unit.max_total_charge_kg, "kg", "max_total_charge_kg"),
        )
        if value is not None
    )
    return added_charge(asked, limits=limits)


def blocked_by(stages: dict[str, StageCall], rules: Rules) -> list[str]:
    """The gates that keep the valves shut: stages whose call does not yet hold.

    Of a charged kit it is the making of its joints, since neither nitrogen nor pump is asked.
    """
    if kit.stays_sealed(rules):
        passed = (Verdict.HOLDS, Verdict.WATCH)
        made = stages.get("flare")
        return [] if made is not None and made.call.verdict in passed else ["flare"]
    return [s for s in GATES if s not in stages or not _open(stages[s])]


def before_release(call: StageCall, stages: dict[str, StageCall], rules: Rules) -> list[Lacking]:
    """What is not as it should be before the valves open: gates, and grams that are not in.

    A gate that is a stop is passed over by nobody.
    """
    found = []
    for name in blocked_by(stages, rules):
        gate = stages[name].call if name in stages else None
        because = gate.because if gate is not None else "It is not judged yet."
        found.append(Lacking(name, because, gate is not None and gate.verdict is Verdict.STOP))
    weighed = next((c.call for c in call.checks if c.id == "weighed"), None)
    into_vacuum = rules.school("charge_into").name != "running"
    if weighed is not None and into_vacuum and not kit.stays_sealed(rules) and not found:
        if weighed.verdict not in (Verdict.HOLDS, Verdict.WATCH):
            found.append(Lacking("grams", weighed.because))
    return found


def _open(gate: StageCall) -> bool:
    """A gate that holds, or that somebody answers for by name and reason."""
    return gate.call.verdict is Verdict.HOLDS or ACCEPTED in gate.findings


@dataclass(frozen=True, eq=False)
class ChargeStageResult(StageResult):
    """The added charge worked out; None while the run or the sheet's rule is not known.

    ``blocked``: the gates that keep the valves shut. ``suspects``: of a charged kit every joint,
    with what was seen at it since its valves opened. ``before_release``: what is not as it
    should be before they open. ``lacks``: what keeps the power off still;
    ``power``: whether the system may run. ``valves``: which opening of them stands.
    """

    answer: Answer[AddedChargeResult] | None
    weighed_kg: float
    blocked: list[str]
    suspects: list[Suspect]
    short_line: tuple[Literal["recover", "leave"], str]
    valves: Valves
    before_release: list[Lacking]
    lacks: list[Lacking]
    power: Check
    powered: tuple[PowerOn, ...]

    @property
    def doubted(self) -> bool:
        """Whether the sheet's rate looks like a misread column."""
        return self.answer is not None and bool(DOUBTS & {*self.answer.findings})


def work(context: StageContext) -> ChargeStageResult:
    rules, entry = context.rules, context.entry(ChargeEntry)
    pipes, flares = context.of(RouteStageResult).pipes, context.of(FlareStageResult)
    surveyed, tested = context.of(SurveyStageResult), context.of(PressureTestStageResult)
    proofs, releases = context.proofs, context.records(Release)
    weighings = weighings_now(context.records(Weighing), proofs)
    contents = context.contents
    stand = valves(releases, proofs, [c.id for c in circuits_of(pipes, rules)], contents)
    stages = {
        "flare": flares.call,
        "pressure-test": tested.call,
        "evacuate": context.of(EvacuateStageResult).call,
    }
    looked: list[Suspect] = []
    if kit.stays_sealed(rules):
        looked = tested.suspects
        if releases:  # it came under refrigerant then
            checks, opened = context.records(LeakCheck), releases[0].at
            looked = suspects(flares.joints, surveyed.open_coils, checks, opened, contents)
    factory = rules.outdoor.factory_charge_kg if rules.outdoor else None
    weighed = weighed_kg(weighings, factory or 0.0, contents.whole)
    acts = [r.practice for r in (*weighings, *releases)]
    of_day = context.rules_on(acts[-1] if acts else None)
    worked, wired = answer(pipes, entry, of_day), context.of(WireStageResult)
    open_ = releases if stand.doubted else tuple(r for r in (stand.release,) if r is not None)
    lacks = lacking(wired.call, open_)
    call = judge(
        pipes, entry, weighings, releases, stages, rules, surveyed.wanted, looked, worked, weighed
    )
    grams = grams_check(contents)
    call = _as_it_is_now(call, stand, grams)
    return ChargeStageResult(
        call=call if wired.powered else _before_power(call, weighings),
        answer=worked,
        weighed_kg=weighed,
        blocked=blocked_by(stages, rules),
        suspects=looked,
        short_line=short_line(entry, of_day),
        valves=stand,
        before_release=before_release(call, stages, rules),
        lacks=lacks,
        power=power_check(wired.powered, lacks),
        powered=wired.powered,
    )


def _as_it_is_now(call: StageCall, stand: Valves, grams: Check | None) -> StageCall:
    """The call with what was opened or weighed before something changed, in place of its own."""
    told = [check for check in (grams, stand.check) if check is not None]
    if not told:
        return call
    instead = {"release"} if stand.check is not None else set[str]()
    if grams is not None:
        instead |= {"weighed"}
    checks = [c for c in call.checks if c.id not in instead]
    if grams is not None:
        checks.append(grams.model_copy(update={"id": "weighed"}))
    if stand.check is not None:
        checks.append(stand.check)
    said = deciding([c.call for c in checks])
    return call.model_copy(update={"call": said, "checks": tuple(checks)})


def _before_power(call: StageCall, weighings: tuple[Weighing, ...]) -> StageCall:
    """A stage's call with what was weighed while running although power was never on."""
    if not any(w.running for w in weighings):
        return call
    wrong = fault_call(
        "It was weighed while running, and no first start is recorded.",
        "Record the first start, or strike the weighing out.",
    )
    check = Check(id="running", label="Weighed while running", call=wrong)
    worse = deciding([call.call, wrong])
    return call.model_copy(update={"call": worse, "checks": (*call.checks, check)})


def judge(
    pipes: Piping,
    entry: ChargeEntry,
    weighings: tuple[Weighing, ...],
    releases: tuple[Release, ...],
    stages: dict[str, StageCall],
    rules: Rules,
    heads: list[Wanted],
    looked: Sequence[Suspect],
    worked: Answer[AddedChargeResult] | None,
    weighed: float | None = None,
) -> StageCall:
    """The added charge, what was weighed against it, the room, and whether the valves may open.

    ``looked``: every joint with what was seen at it since the valves of a charged kit opened.
    """
    if kit.stays_sealed(rules):
        closed = blocked_by(stages, rules)
        return of_kit(pipes, weighings, releases, closed, rules, heads, looked)
    closed = blocked_by(stages, rules)
    released = bool(releases)
    weighed = weighed_kg(weighings) if weighed is None else weighed
    checks = [
        *_added_checks(pipes, entry, weighings, worked, weighed, [] if released else closed),
        *(cylinder_checks(weighings, rules.outdoor.refrigerant) if rules.outdoor else ()),
        release_check(releases, closed),
    ]
    total_kg = worked.result.total_kg if worked else None
    if weighings and (in_it := _in_it(weighed, rules)) is not None:
        checks.append(in_it)
        total_kg = max(total_kg or 0.0, in_it.value or 0.0)
    if (in_room := room_check(total_kg, heads, rules)) is not None:
        rooms = Place(stage="survey", part=ROOMS)
        checks.insert(-1, in_room.model_copy(update={"mend": rooms}))
    added_kg = worked.result.added_kg if worked else None
    return stage_call(
        checks,
        "The charge is weighed in and the valves are open.",
        summary=both(added_kg, "charge") if added_kg is not None else "",
        started=bool(weighings or releases),
        governed_by=worked.governed_by if worked else (),
        working=worked.working if worked else (),
        findings=worked.findings if worked else (),
    )


def _added_checks(
    pipes: Piping,
    entry: ChargeEntry,
    weighings: tuple[Weighing, ...],
    worked: Answer[AddedChargeResult] | None,
    weighed: float,
    gates: list[str],
) -> list[Check]:
    """What is to be added, and what was weighed against it; ``gates``: what is still closed."""
    if worked is None:
        missing, act = (
            "sheet's charge rule",
            "Enter pre-charged length, rate and tube size on the sheet.",
        )
        if pipes.total_m is None:
            missing, act = "run", "Enter the run."
        because = f"The {missing} is not known."
        call = Call(verdict=Verdict.UNKNOWN, because=because, do_next=act)
        return [Check(id="added", label="Added charge", call=call)]
    added = worked.result.added_kg
    call = added_call(worked, entry, weighings, weighed)
    if gates and call.verdict is Verdict.HOLDS:
        call = call.model_copy(update={"do_next": None})
    own = [Check(id="added", label="Added charge", call=call, value=added, unit="kg")]
    return own if added is None else [*own, weighed_check(added, weighings, weighed, gates)]


def _in_it(weighed: float, rules: Rules) -> Check | None:
    """What is in the system by the scale, against the most that the sheet allows."""
    unit = rules.outdoor
    if unit is None or unit.factory_charge_kg is None:
        return None
    source = unit.source("max_total_charge_kg")
    return total_check(unit.factory_charge_kg + weighed, unit.max_total_charge_kg, source)


STAGE = Stage(
    name="charge",
    title="Charge",
    entry=ChargeEntry,
    work=work,
    records=(Weighing, Release, ValvesShut, PumpedDown),
    acts=acts_of,
)
