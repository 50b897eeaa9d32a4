"""Charge: the added charge for the line, weighed in by cylinder, and the opening of the valves."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal, cast

from fairline.core import kit
from fairline.core.calc.added_charge import AddedChargeResult
from fairline.core.call import (
    Answer,
    Call,
    Check,
    Place,
    StageCall,
    Verdict,
    deciding,
)
from fairline.core.charge import entry as charge_entry
from fairline.core.charge import valve_order
from fairline.core.charge.charged_kit import of_kit
from fairline.core.charge.entry import (
    ChargeEntry,
    PumpedDown,
    Release,
    ValveOrder,
    ValvesShut,
    Weighing,
    weighed_kg,
)
from fairline.core.charge.gates import before_release, blocked_by
from fairline.core.charge.override import Lacking
from fairline.core.charge.power import lacking, power_check
from fairline.core.charge.under_refrigerant import by_feel, looked_check, looks
from fairline.core.charge.valve_order import (
    KIT,
    ValveProgress,
    ValveSteps,
    as_if_done,
    being_opened,
    openings,
    progress_of,
    steps_check,
)
from fairline.core.charge.valves_open import Valves, grams_check, valves, weighings_now
from fairline.core.charge.weighed import (
    DOUBTS,
    added_call,
    cylinder_checks,
    release_check,
    total_check,
    weighed_check,
)
from fairline.core.charge.worksheet import answer, by_rule, short_line
from fairline.core.check import fault_call, stage_call
from fairline.core.contents.act import Act
from fairline.core.entry import Record
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.flare.stage import FlareStageResult
from fairline.core.practice import Rules
from fairline.core.pressure_test.leak_search import Suspect
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.quantities import both
from fairline.core.route.circuits import Circuit, circuits_of
from fairline.core.route.piping import Piping
from fairline.core.route.stage import RouteStageResult
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.proposal import Wanted
from fairline.core.survey.smallest_room import room_check
from fairline.core.survey.stage import ROOMS, SurveyStageResult
from fairline.core.wire.records import PowerOn
from fairline.core.wire.stage import WireStageResult


@dataclass(frozen=True, eq=False)
class ChargeStageResult(StageResult):
    """The added charge worked out; None while the run or the sheet's rule is not known.

    ``ours_kg``: by the sheet's rule, where a maker's report says what counts. ``blocked``: the
    gates that keep the valves shut. ``suspects``: the joints that are under refrigerant, with what
    was seen at each since. ``before_release``: what is not as it should be before the valves open.
    ``lacks``: what keeps the power off still; ``power``: whether the system may run. ``valves``:
    which openings of them stand; ``progress``: how far each circuit is opened; ``openings``: of
    every circuit that was opened.
    """

    answer: Answer[AddedChargeResult] | None
    ours_kg: float | None
    weighed_kg: float
    blocked: list[str]
    suspects: list[Suspect]
    short_line: tuple[Literal["recover", "leave"], str]
    valves: Valves
    progress: dict[str, ValveProgress]
    openings: tuple[Release, ...]
    before_release: list[Lacking]
    lacks: list[Lacking]
    power: Check
    powered: tuple[PowerOn, ...]

    @property
    def doubted(self) -> bool:
        """Whether the sheet's rate looks like a misread column."""
        return self.answer is not None and bool(DOUBTS & {*self.answer.findings})


def order_of(entry: ChargeEntry, rules: Rules) -> tuple[ValveOrder, str]:
    """In which order the valves are opened, and who says so: a kit's own, this job, the house."""
    if kit.stays_sealed(rules):
        return KIT, "a charged kit"
    if entry.valve_order:
        return entry.valve_order, f"this job: {entry.valve_order_reason}"
    return cast(ValveOrder, rules.school("valve_order").name), rules.who_chose("valve_order")


def _progress(context: StageContext, circuits: Sequence[Circuit]) -> dict[str, ValveProgress]:
    rules, entry = context.rules, context.entry(ChargeEntry)
    behind = {j.run for j in context.of(RouteStageResult).joints if j.id.endswith(".valve")}
    records: list[Record] = []
    for kind in (Release, ValveSteps, ValvesShut, PumpedDown):
        records += context.records(kind)
    return progress_of(
        records,
        [c.id for c in circuits],
        order_of(entry, rules)[0],
        [c.id for c in circuits if behind & {*c.runs}] or ([""] if behind and not circuits else []),
    )


def work(context: StageContext) -> ChargeStageResult:
    rules, entry = context.rules, context.entry(ChargeEntry)
    pipes, flares = context.of(RouteStageResult).pipes, context.of(FlareStageResult)
    surveyed, tested = context.of(SurveyStageResult), context.of(PressureTestStageResult)
    proofs, contents = context.proofs, context.contents
    circuits, sealed = circuits_of(pipes, rules), kit.stays_sealed(rules)
    progress = _progress(context, circuits)
    opened = openings(progress)
    weighings = weighings_now(context.records(Weighing), proofs)
    stand = valves(opened, proofs, [c.id for c in circuits], contents)
    stages = {
        "flare": flares.call,
        "pressure-test": tested.call,
        "evacuate": context.of(EvacuateStageResult).call,
    }
    coils = surveyed.open_coils if sealed else ()
    looked = looks(flares.joints, coils, context.records(LeakCheck), progress.values(), contents)
    factory = rules.outdoor.factory_charge_kg if rules.outdoor else None
    weighed = weighed_kg(weighings, factory or 0.0, contents.whole)
    acts = [r.practice for r in (*weighings, *opened)]
    of_day = context.rules_on(acts[-1] if acts else None)
    ours, wired = by_rule(pipes, entry, of_day), context.of(WireStageResult)
    worked = answer(ours, pipes, entry, rules)
    lacks = lacking(wired.call, opened if stand.doubted else stand.releases)
    if sealed:
        lacks += by_feel(flares.joints, looked)
    call = judge(
        pipes,
        entry,
        weighings,
        as_if_done(progress),
        stages,
        rules,
        surveyed.wanted,
        looked,
        worked,
        weighed,
    )
    sound = all(c.call.verdict is Verdict.HOLDS for c in call.checks if c.id == "release")
    told = [
        *_instead("weighed", grams_check(contents)),
        *_instead("release", stand.check or (being_opened(progress) if sound else None)),
        *_instead("valve_steps", steps_check(progress, contents)),
    ]
    call = _as_it_is_now(call, told)
    return ChargeStageResult(
        call=call if wired.powered else _before_power(call, weighings),
        answer=worked,
        ours_kg=ours.result.added_kg if ours is not None and entry.report_kg is not None else None,
        weighed_kg=weighed,
        blocked=blocked_by(stages, rules),
        suspects=looked,
        short_line=short_line(entry, of_day),
        valves=stand,
        progress=progress,
        openings=opened,
        before_release=before_release(call, stages, rules),
        lacks=lacks,
        power=power_check(wired.powered, lacks),
        powered=wired.powered,
    )


def _instead(id: str, check: Check | None) -> list[Check]:
    return [] if check is None else [check.model_copy(update={"id": id})]


def _as_it_is_now(call: StageCall, told: Sequence[Check]) -> StageCall:
    """The call with what was opened or weighed before something changed, in place of its own."""
    if not told:
        return call
    instead = {check.id for check in told}
    checks = [*(c for c in call.checks if c.id not in instead), *told]
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
    releases: Sequence[Release],
    stages: dict[str, StageCall],
    rules: Rules,
    heads: list[Wanted],
    looked: Sequence[Suspect],
    worked: Answer[AddedChargeResult] | None,
    weighed: float | None = None,
) -> StageCall:
    """The added charge, what was weighed against it, the room, and whether the valves may open.

    ``looked``: the joints under refrigerant, with what was seen at each since the valves opened.
    """
    if kit.stays_sealed(rules):
        closed = blocked_by(stages, rules)
        return of_kit(pipes, weighings, releases, closed, rules, heads, looked)
    closed = blocked_by(stages, rules)
    released = bool(releases)
    weighed = weighed_kg(weighings) if weighed is None else weighed
    checks = [
        *_added_checks(pipes, entry, weighings, worked, weighed, [] if released else closed),
        *_cylinders(weighings, worked, rules),
        release_check(releases, closed),
        *([looked_check(looked, open_=True)] if released else ()),
    ]
    total_kg = worked.result.total_kg if worked else None
    if weighings and (in_it := _in_it(weighed, rules)) is not None:
        checks.append(in_it)
        total_kg = max(total_kg or 0.0, in_it.value or 0.0)
    if (in_room := room_check(total_kg, heads, rules)) is not None:
        rooms = Place(stage="survey", part=ROOMS)
        checks.insert(-2 if released else -1, in_room.model_copy(update={"mend": rooms}))
    added_kg = worked.result.added_kg if worked else None
    return stage_call(
        checks,
        "The charge is weighed in, the valves are open, every joint is dry under refrigerant.",
        summary=both(added_kg, "charge") if added_kg is not None else "",
        started=bool(weighings or releases),
        governed_by=worked.governed_by if worked else (),
        working=worked.working if worked else (),
        findings=worked.findings if worked else (),
    )


def _cylinders(
    weighings: tuple[Weighing, ...], worked: Answer[AddedChargeResult] | None, rules: Rules
) -> list[Check]:
    if rules.outdoor is None:
        return []
    whole_kg = worked.result.total_kg if worked is not None else None
    return cylinder_checks(weighings, rules.outdoor.refrigerant, whole_kg)


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


def acts_of(record: Record) -> Iterator[Act]:
    """What a record of this stage does to what is in the pipes."""
    yield from charge_entry.acts_of(record)
    yield from valve_order.acts_of(record)


STAGE = Stage(
    name="charge",
    title="Charge",
    entry=ChargeEntry,
    work=work,
    records=(Weighing, Release, ValveSteps, ValvesShut, PumpedDown),
    acts=acts_of,
)
