"""Pressure test: nitrogen holds, judged on what the pipe's temperature does not explain."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

from fairline.core import kit
from fairline.core.calc.leak_rate import LeakRateRequest, LeakRateResult, leak_rate
from fairline.core.calc.pressure_hold import PressureHoldResult
from fairline.core.call import Answer, Call, Check, Frozen, StageCall, Verdict, deciding
from fairline.core.check import fault_call, plural, stage_call
from fairline.core.flare.stage import FlareStageResult
from fairline.core.instrument import InstrumentOn, reported_resolution
from fairline.core.practice import Rules
from fairline.core.pressure_test.altitude import two_altitudes
from fairline.core.pressure_test.covered import Covered, bare_checks, covered
from fairline.core.pressure_test.curve import CurvePoint, curve
from fairline.core.pressure_test.hold import TestEntry, as_earlier, if_closed, judged
from fairline.core.pressure_test.holds import Hold, holds
from fairline.core.pressure_test.leak_search import Suspect, next_to_look_at, suspects
from fairline.core.pressure_test.plan import Meanwhile, Plan, PlanStep, meanwhile, plan, steps
from fairline.core.pressure_test.records import LeakCheck, acts_of, acts_of_run
from fairline.core.pressure_test.rig_list import rig_list
from fairline.core.pressure_test.rough_in import RoughIn, RoughRead, RoughRun, rough_runs
from fairline.core.quantities import both, duration
from fairline.core.readings import PROBES, HoldRun, Probe
from fairline.core.route.circuits import Ports, circuits_of
from fairline.core.route.stage import RouteStageResult
from fairline.core.route.volume import Volume, volume
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.stage import SurveyEntry, SurveyStageResult

LEAST_GAUGE_PA = 1000.0  # under it a gauge shows nothing to reckon a leak from; our own choice


class StepDone(Frozen):
    """A step with the run that answers for it, and its call."""

    step: PlanStep
    run: HoldRun | None
    call: Call


@dataclass(frozen=True, eq=False)
class PressureTestStageResult(StageResult):
    """The test worked out: its plan, every hold with its call, and what the newest one shows.

    ``hold`` is the newest; ``earlier`` those before it, each judged for what it lost while it
    lasted. ``answer`` and ``rates`` are None while hold, plan or volume is not known. ``covered``
    says which hold answers for which part; ``ports`` which circuits each run was on, where said;
    ``rules`` are those of the day of the newest hold. ``rough``: lines that were left in the wall.
    """

    plan: Plan | None
    volume: Volume | None
    suspects: list[Suspect]
    atmosphere_pa: float
    hold: Hold | None = None
    answer: Answer[PressureHoldResult] | None = None
    rates: Answer[LeakRateResult] | None = None
    steps: list[StepDone] = field(default_factory=list)
    earlier: list[tuple[Hold, Call]] = field(default_factory=list)
    curve: list[CurvePoint] = field(default_factory=list)
    meanwhile: list[Meanwhile] = field(default_factory=list)
    told_resolution_pa: float | None = None
    rules: Rules | None = None
    covered: Covered = field(default_factory=Covered)
    ports: dict[str, tuple[str, ...]] = field(default_factory=dict)
    rough: list[RoughRun] = field(default_factory=list)

    @property
    def run(self) -> HoldRun | None:
        return self.hold.run if self.hold else None

    @property
    def searching(self) -> bool:
        """Whether what is read asks to look for a leak."""
        return self.answer is not None and "leak" in self.answer.findings


def work(context: StageContext) -> PressureTestStageResult:
    survey, entry = context.entry(SurveyEntry), context.entry(TestEntry)
    own_m = entry.altitude_m  # of jobs of before; the survey is its place
    at_m = survey.altitude_m if survey.altitude_m is not None else own_m
    entry = entry.model_copy(update={"altitude_m": at_m or 0.0})
    coils = context.of(SurveyStageResult).open_coils
    held = volume(context.of(RouteStageResult).pipes, context.rules)
    runs = tuple(r for r in context.runs("hold") if isinstance(r, HoldRun))
    told = reported_resolution(context.records(InstrumentOn), runs)
    if entry.gauge_resolution_pa is None and told is not None:  # as its gauge says it
        entry = entry.model_copy(update={"gauge_resolution_pa": told})
    proofs, flared = context.proofs, context.of(FlareStageResult).joints
    made = tuple(act.at for act in proofs.acts if act.did != "tightened" and not act.loose)
    parted = holds(runs, entry.atmosphere_pa, made)
    since = parted[-1].since if parted else context.created_at
    looked = suspects(flared, coils, context.records(LeakCheck), since, context.contents)
    circuits = [c.id for c in circuits_of(context.of(RouteStageResult).pipes, context.rules)]
    known = {run.uid for run in runs}
    ports = {p.run: p.open for p in context.records(Ports) if p.run in known}
    unmade = {f"joint:{j.key}": j.run for j in flared if j.record is None and j.former}
    found = covered(parted, proofs, ports, circuits, unmade)
    rules = context.rules_on(parted[-1].run.practice) if parted else context.rules
    worked = worked_out(runs, entry, rules, coils, held, looked, len(survey.now), parted)
    answers = _with_older(worked, found, entry, context.rules_on, two_altitudes(own_m, at_m))
    rough = rough_runs(
        context.of(RouteStageResult).pipes,
        context.records(RoughIn),
        context.records(RoughRead),
        flared,
        entry,
        plan(context.rules),
    )
    return replace(
        answers,
        told_resolution_pa=told,
        covered=found,
        ports=ports,
        rules=rules,
        rough=rough,
        beside=tuple(check for run in rough for check in run.checks),
    )


def _with_older(
    worked: PressureTestStageResult,
    found: Covered,
    entry: TestEntry,
    rules_on: Callable[[str | None], Rules],
    besides: list[Check],
) -> PressureTestStageResult:
    """The call with the older holds that answer for something, and with what is bare."""
    checks = [*bare_checks(found), *besides]
    for hold, parts in found.older:
        to_hold = plan(rules_on(hold.run.practice))
        if to_hold is None:
            continue
        call = as_earlier(judged(hold.run, entry, to_hold).call, to_hold)
        label = f"An earlier hold, for {plural(len(parts), 'part')}"
        checks.append(Check(id=f"hold_{hold.run.uid}", label=label, call=call))
    if not checks or [c.id for c in worked.call.checks] == ["kit"] or worked.plan is None:
        return worked
    call = deciding([worked.call.call, *(c.call for c in checks)])
    told = {"call": call, "checks": (*worked.call.checks, *checks)}
    return replace(worked, call=worked.call.model_copy(update=told))


def worked_out(
    runs: tuple[HoldRun, ...],
    entry: TestEntry,
    rules: Rules,
    open_coils: Sequence[str] = (),
    held: Volume | None = None,
    found: Sequence[Suspect] = (),
    heads: int = 1,
    parted: Sequence[Hold] | None = None,
) -> PressureTestStageResult:
    """The whole stage from its runs; ``heads`` counts those whose work fits into the waiting."""
    to_hold = plan(rules)
    parted = holds(runs, entry.atmosphere_pa) if parted is None else parted
    hold = parted[-1] if parted else None
    run = hold.run if hold else None
    answered = None
    if run is not None and to_hold is not None:
        answered = if_closed(judged(run, entry, to_hold), run, to_hold)
    rates = leaks(run, answered, entry, rules, held)
    unasked = kit.not_asked_call(rules, runs, "nitrogen")
    checks = _Found(runs, run, answered, entry, rules, to_hold, open_coils, held, rates, found)
    return PressureTestStageResult(
        call=unasked or _call(checks),
        plan=to_hold,
        volume=held,
        suspects=list(found),
        atmosphere_pa=entry.atmosphere_pa,
        hold=hold,
        answer=answered,
        rates=rates,
        steps=steps_done(parted, entry, to_hold, answered) if to_hold else [],
        earlier=earlier(parted, entry, to_hold) if to_hold else [],
        curve=curve(run, entry) if run else [],
        meanwhile=meanwhile(to_hold, answered.result.held_s if answered else 0.0, heads)
        if to_hold
        else [],
    )


def steps_done(
    all_holds: Sequence[Hold],
    entry: TestEntry,
    to_hold: Plan,
    newest: Answer[PressureHoldResult] | None,
) -> list[StepDone]:
    """Every step judged on the newest hold that began at its pressure.

    A stop is passed where a later one has begun without a leak. ``newest``: the last hold as the
    whole test judges it.
    """
    found: list[StepDone] = []
    passed = False
    for step in reversed(steps(to_hold)):
        above = found[-1].step.gauge_pa if found else None
        own = [h.run for h in all_holds if _began_at(h.run, step, above, entry)]
        run = own[-1] if own else None
        if run is not None:
            if step.last and newest is not None and run is all_holds[-1].run:
                call = newest.call
            else:
                asked = {"gauge_pa": step.gauge_pa, "hold_s": step.hold_s, "limits": ()}
                call = judged(run, entry, to_hold.model_copy(update=asked)).call
            passed = passed or call.verdict is not Verdict.SHORT
        elif passed:
            call = Call(verdict=Verdict.HOLDS, because="Passed on the way up.")
        else:
            call = Call(
                verdict=Verdict.WAIT,
                because=step.why,
                do_next=f"Bring dry nitrogen to {both(step.gauge_pa, 'gauge')}.",
            )
        found.append(StepDone(step=step, run=run, call=call))
    return found[::-1]


def _began_at(run: HoldRun, step: PlanStep, above: float | None, entry: TestEntry) -> bool:
    first = run.readings[0].gauge_pa
    high_enough = first >= step.gauge_pa - entry.resolution_pa - 1e-6
    return high_enough and (above is None or first < above - entry.resolution_pa)


def leaks(
    run: HoldRun | None,
    answered: Answer[PressureHoldResult] | None,
    entry: TestEntry,
    rules: Rules,
    held: Volume | None,
) -> Answer[LeakRateResult] | None:
    """What leak the hold shows or could have shown; None while volume or hold is not known."""
    if answered is None or run is None or held is None or rules.outdoor is None:
        return None
    first = run.readings[0].gauge_pa
    if first <= LEAST_GAUGE_PA:
        return None
    wanted = entry.show_leak_kg
    return leak_rate(
        LeakRateRequest(
            volume_m3=held.total_m3,
            gauge_pa=first,
            uncertainty_pa=max(answered.result.uncertainty_pa, 1.0),
            held_s=answered.result.held_s,
            refrigerant=rules.outdoor.refrigerant,
            atmosphere_pa=entry.atmosphere_pa,
            lost_pa=min(-answered.result.unexplained_pa, first),
            leak_g_year=wanted * 1000 if wanted else None,
        )
    )


def answer(
    run: HoldRun | None, entry: TestEntry, rules: Rules
) -> Answer[PressureHoldResult] | None:
    """A hold judged by this job's plan; None without one."""
    to_hold = plan(rules)
    if run is None or not run.readings or to_hold is None:
        return None
    return judged(run, entry, to_hold)


def earlier(parted: Sequence[Hold], entry: TestEntry, to_hold: Plan) -> list[tuple[Hold, Call]]:
    """The holds before the one that counts, each judged for what it lost while it lasted."""
    found = []
    for hold in parted[:-1]:
        readings = hold.run.readings
        asked = {
            "gauge_pa": max(1.0, min(to_hold.gauge_pa, readings[0].gauge_pa)),
            "hold_s": min(to_hold.hold_s, readings.span_s),
        }
        found.append((hold, judged(hold.run, entry, to_hold.model_copy(update=asked)).call))
    return found


@dataclass(frozen=True)
class _Found:
    """All that the stage's call is made of."""

    runs: tuple[HoldRun, ...]
    run: HoldRun | None
    answered: Answer[PressureHoldResult] | None
    entry: TestEntry
    rules: Rules
    plan: Plan | None
    open_coils: Sequence[str]
    volume: Volume | None
    rates: Answer[LeakRateResult] | None
    suspects: Sequence[Suspect]


def _call(of: _Found) -> StageCall:
    """The newest hold, the joints looked at, the probe, what was seen before, the coils."""
    if of.plan is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no maximum test pressure.",
            do_next="Find the maximum test pressure on the sheet. Never guess it.",
        )
        return stage_call(
            [Check(id="hold", label="Nitrogen hold", call=call), *_coils(of.open_coils)],
            "",
            started=of.run is not None,
        )
    if of.answered is None or of.run is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="No nitrogen hold has begun.",
            do_next=f"Bring dry nitrogen to {both(of.plan.gauge_pa, 'gauge')} and take the "
            "first reading with the pipe's temperature.",
        )
        return stage_call(
            [Check(id="hold", label="Nitrogen hold", call=call), *_coils(of.open_coils)],
            "",
            started=False,
            governed_by=of.plan.limits,
        )
    worked, falling = of.answered, "leak" in of.answered.findings
    call = worked.call
    if falling and of.suspects:
        call = call.model_copy(update={"do_next": _search(of.suspects)})
    check = Check(
        id="hold",
        label="Nitrogen hold",
        call=call,
        value=worked.result.unexplained_pa,
        unit="Pa",
    )
    return stage_call(
        [
            check,
            *_looked(of.suspects, of.rules, falling),
            *_probe(of.run, of.entry),
            *_over(of.runs, of.run, of.plan),
            *_coils(of.open_coils),
        ],
        worked.call.because,
        summary=duration(worked.result.held_s) if worked.result.held_s else "begun",
        governed_by=worked.governed_by,
        working=(
            *worked.working,
            *(of.volume.working if of.volume else ()),
            *(of.rates.working if of.rates else ()),
        ),
        findings=worked.findings,
        progress=min(1.0, worked.result.held_s / of.plan.hold_s),
    )


def _search(found: Sequence[Suspect]) -> str:
    """What to do while it falls: mend what was found, else look at the next suspect."""
    leaking = next((s for s in found if s.call.verdict is Verdict.SHORT), None)
    if leaking is not None:
        return f"{leaking.call.because} {leaking.call.do_next}"
    following = next_to_look_at(found)
    if following is None:
        return "Every joint was looked at: test the coils by themselves, part by part."
    return f"Bubble {following.label}, two to three minutes: {following.why}."


def _looked(found: Sequence[Suspect], rules: Rules, falling: bool) -> list[Check]:
    """What was seen at the joints: a leak counts at any time; the soak asks a look at each."""
    leaking = next((s for s in found if s.call.verdict is Verdict.SHORT), None)
    if leaking is not None and not falling:
        return [Check(id="joints", label="Joints looked at", call=leaking.call)]
    if rules.school("pressure").name != "soak":
        return []
    done = [s for s in found if s.call.verdict is Verdict.HOLDS]
    following = next_to_look_at(found)
    if following is None:
        call = Call(verdict=Verdict.HOLDS, because=f"{plural(len(done), 'joint')} looked at: dry.")
    else:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{len(done)} of {plural(len(found), 'joint')} looked at; this school asks "
            "for bubbles on every one.",
            do_next=f"Bubble {following.label}, two to three minutes.",
        )
    return [Check(id="joints", label="Joints looked at", call=call)]


def places(run: HoldRun, entry: TestEntry) -> list[Probe]:
    """Where the temperature of the two readings that decide was read, as far as it was said."""
    said = [r.probe or entry.probe for r in (run.readings[0], run.readings[-1])]
    return list(dict.fromkeys(place for place in said if place is not None))


def _probe(run: HoldRun, entry: TestEntry) -> list[Check]:
    """Where the temperature was read: only the pipe's own counts, and one place for both ends."""
    found = places(run, entry)
    wrong = next((place for place in found if place in ("sun", "air")), None)
    if wrong is not None:
        because = f"The temperature was read {PROBES[wrong]}: that is not the nitrogen's."
    elif len(found) > 1:
        because = f"It was read {PROBES[found[0]]} first and {PROBES[found[1]]} last."
    else:
        return []
    call = fault_call(
        because, "Put the probe on the pipe, in the shade or under insulation.", Verdict.WATCH
    )
    return [Check(id="probe", label="Place of the probe", call=call)]


def _over(runs: Sequence[HoldRun], now: HoldRun, to_hold: Plan) -> list[Check]:
    """An earlier hold that went over the most the equipment may see: bled off, not undone."""
    others = [r.readings.gauge_pa for r in runs if r.readings is not now.readings and r.readings]
    peak = max((float(gauge.max()) for gauge in others), default=0.0)
    if peak <= to_hold.max_gauge_pa or peak <= float(now.readings.gauge_pa.max()):
        return []
    call = fault_call(
        f"An earlier hold stood at {both(peak, 'gauge')}, over the most this equipment may see, "
        f"{both(to_hold.max_gauge_pa, 'gauge')}.",
        "Ask the maker whether the unit may still be used; write the answer into the notes.",
        Verdict.WATCH,
    )
    return [Check(id="over", label="Pressure seen before", call=call)]


def _coils(zones: Sequence[str]) -> list[Check]:
    """A head whose cap did not hiss keeps the test shut until its coil is proven sound."""
    return [
        Check(
            id=f"coil_{zone}",
            label=f"Coil of head {zone}",
            zone=zone,
            call=fault_call(
                f"The coil of head {zone} did not hiss, and its leak check is open.",
                "Leak-test that coil and write the result under Survey.",
            ),
        )
        for zone in zones
    ]


STAGE = Stage(
    name="pressure-test",
    procedures=lambda context, worked: rig_list(context, worked.answer is not None),
    title="Pressure test",
    entry=TestEntry,
    work=work,
    records=(LeakCheck, InstrumentOn, Ports, RoughIn, RoughRead),
    runs=("hold",),
    acts=acts_of,
    run_acts=acts_of_run,
)
