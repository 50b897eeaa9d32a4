"""One volume under vacuum worked out: its pulls, its decays, and the call on them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fairline.core import kit
from fairline.core.calc.vacuum_decay import DecayQuestion, VacuumDecayResult, decay
from fairline.core.call import Answer, Call, Check, Limit, StageCall, Verdict
from fairline.core.check import stage_call
from fairline.core.evacuate import pulling
from fairline.core.evacuate.attempts import Attempt, compared
from fairline.core.evacuate.course import Expected, OffCourse, expected_course, off_course
from fairline.core.evacuate.drying import DryingPlan, Stood, drying_plan, stood_open
from fairline.core.evacuate.entry import EvacuateEntry
from fairline.core.evacuate.gauge_off import while_on
from fairline.core.evacuate.needle import (
    NeedleHold,
    NeedleStep,
    at_end_s,
    by_needle,
    needle_hold,
    needle_steps,
    wanted,
)
from fairline.core.evacuate.records import Accepted, Isolation, PumpEvent, Recorded
from fairline.core.evacuate.rig import RigWorked, at_ultimate, gauge_check, oil_words, rig_worked
from fairline.core.evacuate.void import Voided, void_call
from fairline.core.limit_list import LimitName
from fairline.core.physics.constants import ATMOSPHERE_PA, MICRON_PA
from fairline.core.physics.decay_course import DecayRule
from fairline.core.practice import Rules
from fairline.core.quantities import both, duration
from fairline.core.readings import HoldRun, Run, VacuumRun
from fairline.core.route.circuits import Circuit, Open
from fairline.core.stage import Worked

RATE_WINDOW_S = 60.0
DEFAULT_RESOLUTION_PA = MICRON_PA
ACCEPTED = "accepted"  # a finding: gone on with by name and reason


def latest(vacua: Sequence[VacuumRun]) -> VacuumRun | None:
    """The decay that counts: the last begun; a pull begun after it puts it out of use."""
    return vacua[-1] if vacua and vacua[-1].kind == "decay" else None


def pull_before(vacua: Sequence[VacuumRun], decay: VacuumRun | None) -> VacuumRun | None:
    """The pull that a decay ended."""
    at = next((n for n, r in enumerate(vacua) if r is decay), 0)
    return vacua[at - 1] if at and vacua[at - 1].kind == "pull" else None


def seen_by(run: VacuumRun, isolations: Sequence[Isolation]) -> Isolation | None:
    """That somebody saw the valve shut and the pump off."""
    return next((i for i in isolations if i.run == run.uid), None)


def rate_pa_s(run: VacuumRun | None) -> float | None:
    """How fast the pressure moves, in Pa/s over the last minute of readings; None by needle."""
    read = run.readings.absolute() if run else ()
    if run is None or len(read) < 2:
        return None
    t, pa = run.readings.absolute().t_s, run.readings.absolute().pa
    since = int(np.searchsorted(t, t[-1] - RATE_WINDOW_S))
    span = float(t[-1] - t[since])
    return float(pa[-1] - pa[since]) / span if span > 0 else None


def rule(rules: Rules) -> tuple[DecayRule, tuple[Limit, ...]]:
    """What a decay is held to, and who says so."""
    most, hold = rules.limit("decay_max"), rules.limit("decay_hold")
    assert most is not None and hold is not None  # the house's school always names both
    return DecayRule(max_pa=most.value, hold_s=hold.value), (most, hold)


def answer(
    run: VacuumRun | None,
    entry: EvacuateEntry,
    rules: Rules,
    isolations: Sequence[Isolation] = (),
    events: Sequence[PumpEvent] = (),
) -> Answer[VacuumDecayResult] | None:
    """The decay worked out; None while it has no absolute reading.

    What was read once the gauge was off, or shut off by itself, is none of the system's.
    """
    read = run.readings.absolute() if run else None
    if run is None or not read:
        return None
    read, _ = while_on(read, entry.coldest_c)
    if (shut_s := gauge_shut_s(run, events)) is not None and shut_s >= float(read.t_s[0]):
        read = read.only(read.t_s <= shut_s)
    to_hold, limits = rule(rules)
    question = DecayQuestion(
        rule=to_hold,
        ambient_c=entry.coldest_c,
        gauge_resolution_pa=entry.gauge_resolution_pa or DEFAULT_RESOLUTION_PA,
        isolation="confirmed" if seen_by(run, isolations) else "not_confirmed",
    )
    return decay(question, read.t_s, read.pa, limits=limits)


def gauge_shut_s(run: VacuumRun, events: Sequence[PumpEvent]) -> float | None:
    """When after the beginning of a decay the gauge alone was shut off; None where it was not."""
    shut = [e.at for e in events if e.what == "gauge-shut" and e.at > run.started_at]
    return (min(shut) - run.started_at).total_seconds() if shut else None


def _on_the_way(vacuum: tuple[VacuumRun, ...], rules: Rules, ballast_open: bool) -> Call:
    """Still pulling, or nothing begun: what to wait for."""
    target = rules.limit("pull_to")
    run = vacuum[-1] if vacuum else None
    if run is None or target is None:
        return Call(
            verdict=Verdict.WAIT,
            because="No vacuum has been pulled.",
            do_next="Connect the pump, put the gauge far from it, and start the pull.",
        )
    if run.kind == "decay":
        return Call(
            verdict=Verdict.WAIT,
            because="The valve is shut; the decay has no reading that counts yet.",
            do_next="Read the gauge.",
        )
    last = run.last
    if last is None or last.pa is None:
        return Call(
            verdict=Verdict.WAIT,
            because="The pull has no reading yet." if last is None else "Pulled by needle so far.",
            do_next="Read the micron gauge."
            if last is None
            else "Let the pump run its time at the needle's end, then shut the valve.",
        )
    return pulling.on_the_way(run, last.pa, rules, ballast_open)


@dataclass(frozen=True, eq=False)
class EvacuateWorked(Worked):
    """The pull and its decay worked out.

    ``run`` is the newest run, ``decay`` the decay that counts, ``answer`` what its absolute
    readings show, ``needle`` what a needle shows. ``shut``: the pump has to stay off.
    ``gauge_off_s``: when after closing the gauge was taken off, where its readings show that.
    ``stands_pa``: nitrogen that is not bled yet. ``attempts``: decays that were timed. ``oil``:
    what the pump's oil wants, in words.

    Of a system of several ``circuits`` all but the call is that of the ports at hand; ``lanes`` has
    each group of ports that was open together, ``counts`` names those that prove something now,
    ``voided`` the circuits of which a decay proves nothing any more.
    """

    vacua: tuple[VacuumRun, ...]
    run: VacuumRun | None
    decay: VacuumRun | None
    rule: DecayRule
    answer: Answer[VacuumDecayResult] | None
    needle: NeedleHold | None
    needle_steps: tuple[NeedleStep, ...]
    isolation: Isolation | None
    rate_pa_s: float | None
    shut: bool
    rig: RigWorked
    stands_pa: float | None
    close_ballast: bool
    accepted: Accepted | None
    attempts: int
    stood: list[Stood]
    drying: DryingPlan | None
    expected: Expected | None
    off: OffCourse | None
    gauge_off_s: float | None
    events: Sequence[PumpEvent]
    oil: str
    told_resolution_pa: float | None = None
    ports: Open = ()
    circuits: tuple[Circuit, ...] = ()
    counts: tuple[Open, ...] = ()
    lanes: tuple["EvacuateWorked", ...] = ()
    voided: tuple[Voided, ...] = ()

    def of_ports(self, key: Open) -> "EvacuateWorked | None":
        """The lane in which just these circuits were open to the rig."""
        return next((lane for lane in self.lanes if lane.ports == key), None)


def worked_out(
    runs: Sequence[Run],
    entry: EvacuateEntry,
    rules: Rules,
    test: StageCall | None,
    recorded: Recorded | None = None,
    atmosphere: float = ATMOSPHERE_PA,
    volume_m3: float | None = None,
) -> EvacuateWorked:
    """The whole stage from its runs, and the nitrogen that was let in among them."""
    recorded = recorded or Recorded()
    vacua = tuple(r for r in runs if isinstance(r, VacuumRun))
    nitrogen = [r for r in runs if isinstance(r, HoldRun)]
    run = vacua[-1] if vacua else None
    decayed = latest(vacua)
    seen = seen_by(run, recorded.isolations) if run else None
    spoilt = decayed is not None and bool(recorded.let_in)
    hold = None
    if decayed is not None and by_needle(decayed) and not spoilt:
        pull = pull_before(vacua, decayed)
        ran = at_end_s(pull, decayed.started_at, atmosphere)
        hold = needle_hold(decayed, rules, ran, atmosphere, seen is not None)
    answered = answer(decayed, entry, rules, recorded.isolations, recorded.events)
    to_hold, _ = rule(rules)
    unasked = kit.not_asked(rules, vacua, "pump")
    stands = None if unasked else pulling.nitrogen_stands(nitrogen, vacua, recorded.bled)
    closing = pulling.close_ballast(run, recorded.events)
    gate = [
        *pulling.test_first(vacua, test, recorded.by_name),
        *pulling.bled_check(stands, _begun_since(vacua, nitrogen)),
    ]
    needle = by_needle(run) or (wanted(rules) and not (run and run.readings))
    # A needle sits in its manifold; where a micron gauge sits is asked.
    place = [] if needle else [gauge_check(entry.rig, decayed is not None)]
    if unasked is not None:
        call = unasked
    elif spoilt:
        call = _spoilt(gate, recorded.let_in)
    elif hold is not None:
        call = _needle_call(hold, gate, place)
    elif answered is None or decayed is None:
        call = _before_the_decay(vacua, rules, gate, place, closing)
    else:
        told = _attempts(vacua, decayed, answered, entry, rules, recorded)
        checks = [
            *gate,
            *told,
            *pulling.pulled_to(decayed, pull_before(vacua, decayed), rules),
            *place,
            *at_ultimate(entry.rig, decayed),
        ]
        call = _decay_call(answered, to_hold, checks, len(gate) + len(told))
    sealed_at = sorted(r.started_at for r in runs if r.readings)
    stood = stood_open(recorded.exposures, recorded.joints, sealed_at)
    agreed = _accepted(decayed, recorded.accepted) if decayed and not spoilt else None
    target = rules.limit("pull_to")
    rig = rig_worked(
        entry.rig,
        volume_m3,
        target.value if target is not None else to_hold.max_pa,
        entry.coldest_c,
    )
    pulling_now = run if run is not None and run.kind == "pull" else None
    course = expected_course(rig, pulling_now)
    return EvacuateWorked(
        call=_as_accepted(call, agreed) if agreed is not None else call,
        vacua=vacua,
        run=run,
        decay=decayed,
        rule=to_hold,
        answer=answered,
        needle=hold,
        needle_steps=needle_steps(
            run if run is not None and run.kind == "pull" else pull_before(vacua, run),
            decayed,
            rules,
            atmosphere,
            seen is not None,
        )
        if wanted(rules) or by_needle(run)
        else (),
        isolation=seen,
        rate_pa_s=rate_pa_s(run),
        shut=pulling.shut(test, recorded.by_name),
        events=recorded.events,
        oil=oil_words(entry.rig, entry.fresh_oil or any(e.what == "oil" for e in recorded.events)),
        rig=rig,
        stood=stood,
        expected=course,
        off=off_course(
            pulling_now, course, entry.coldest_c, target.value if target is not None else 0.0
        )
        if pulling_now is not None
        else None,
        gauge_off_s=while_on(decayed.readings.absolute(), entry.coldest_c)[1]
        if decayed is not None
        else None,
        drying=drying_plan(
            stood,
            answered,
            decayed.started_at if decayed is not None else None,
            recorded.events,
            rig.answer.result.time_s if rig.answer else None,
        )
        if unasked is None
        else None,
        stands_pa=stands,
        close_ballast=closing,
        accepted=agreed,
        attempts=sum(bool(r.readings) for r in vacua if r.kind == "decay"),
    )


def _begun_since(vacua: Sequence[VacuumRun], holds: Sequence[HoldRun]) -> bool:
    """Whether a pull was begun while the nitrogen of the last hold may still stand."""
    last = next((h for h in reversed(holds) if h.readings), None)
    return last is not None and any(v.started_at >= last.started_at for v in vacua)


def _attempts(
    vacua: Sequence[VacuumRun],
    decayed: VacuumRun,
    answered: Answer[VacuumDecayResult],
    entry: EvacuateEntry,
    rules: Rules,
    recorded: Recorded,
) -> list[Check]:
    """A decay that failed, beside the one before it."""
    earlier = [r for r in vacua if r.kind == "decay" and r is not decayed and r.readings]
    if answered.call.verdict is not Verdict.SHORT or not earlier:
        return []
    before = answer(earlier[-1], entry, rules, recorded.isolations, recorded.events)
    if before is None:
        return []
    found = [Attempt(earlier[-1], before), Attempt(decayed, answered)]
    check = compared(found, recorded.events, rules.school("decay").name == "run-on")
    return [check] if check is not None else []


def _accepted(decayed: VacuumRun, accepted: Sequence[Accepted]) -> Accepted | None:
    return next((a for a in reversed(accepted) if a.run == decayed.uid), None)


def _as_accepted(call: StageCall, agreed: Accepted) -> StageCall:
    """A hold that did not pass, gone on with by name and reason; one that holds needs nobody."""
    if call.call.verdict in (Verdict.HOLDS, Verdict.STOP):
        return call
    told = Call(
        verdict=Verdict.WATCH,
        because=f"Accepted by {agreed.by}: {agreed.reason}. It was called "
        f"{call.call.verdict.value}: {call.call.because}",
        do_next=None,
    )
    check = Check(id="accepted", label="Accepted as it is", call=told)
    return call.model_copy(
        update={
            "call": told,
            "checks": (check, *call.checks),
            "findings": (*call.findings, ACCEPTED),
        }
    )


def _spoilt(gate: list[Check], let_in: str) -> StageCall:
    """A decay after which something came into the lines: a vacuum proves what was in it then."""
    call = void_call(Voided("", let_in=let_in))
    check = Check(id="decay", label="Decay", call=call)
    return stage_call([*gate, check], "", summary="pull again")


def _before_the_decay(
    vacua: tuple[VacuumRun, ...],
    rules: Rules,
    gate: list[Check],
    place: list[Check],
    ballast_open: bool,
) -> StageCall:
    names: tuple[LimitName, ...] = ("pull_to", "decay_max", "decay_hold")
    limits = [limit for name in names if (limit := rules.limit(name)) is not None]
    check = Check(id="decay", label="Decay", call=_on_the_way(vacua, rules, ballast_open))
    return stage_call(
        [*gate, check, *place],
        "",
        summary="pulling" if vacua else "",
        started=bool(vacua),
        governed_by=limits,
    )


def _decay_call(
    worked: Answer[VacuumDecayResult], to_hold: DecayRule, checks: list[Check], at: int
) -> StageCall:
    """The decay among the other ``checks``; it stands before all but the first ``at``."""
    check = Check(
        id="decay",
        label="Decay",
        call=worked.call,
        value=worked.result.end_pa,
        unit="Pa",
        limit=worked.governed_by[0],
    )
    left = to_hold.hold_s - worked.result.held_s
    waiting = worked.call.verdict is Verdict.WAIT
    return stage_call(
        [*checks[:at], check, *checks[at:]],
        worked.call.because,
        summary=f"{duration(left)} left" if waiting else both(worked.result.end_pa, "vacuum"),
        governed_by=worked.governed_by,
        working=worked.working,
        findings=worked.findings,
        progress=min(1.0, worked.result.held_s / to_hold.hold_s),
    )


def _needle_call(hold: NeedleHold, gate: list[Check], place: list[Check]) -> StageCall:
    """A hold that a needle read."""
    check = Check(
        id="decay", label="Needle", call=hold.call, value=hold.gauge_pa, unit="Pa", kind="needle"
    )
    return stage_call(
        [*gate, check, *place],
        hold.call.because,
        summary=both(hold.gauge_pa, "needle"),
        governed_by=hold.limits,
        progress=min(1.0, hold.held_s / hold.hold_s),
    )
