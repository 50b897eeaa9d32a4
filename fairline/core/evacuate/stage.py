"""Evacuate: the pull and the isolated decay that proves the system dry and tight."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from fairline.core import kit
from fairline.core.calc.vacuum_decay import (
    DecayQuestion,
    VacuumDecayResult,
    decay,
)
from fairline.core.call import Answer, Call, Check, Limit, StageCall, Verdict
from fairline.core.check import fault, stage_call
from fairline.core.entry import AmbientC, Entry, LongText, Record, Text, VacuumStepPa
from fairline.core.evacuate.needle import NeedleHold, by_needle, needle_hold
from fairline.core.physics.constants import ATMOSPHERE_PA, MICRON_PA
from fairline.core.physics.decay_course import DecayRule
from fairline.core.practice import Rules
from fairline.core.pressure_test.stage import PressureTestWorked
from fairline.core.quantities import above, both, duration
from fairline.core.readings import VACUUM, HoldRun, Run, VacuumRun
from fairline.core.stage import Basis, Stage, Worked

DEFAULT_AMBIENT_C = 20.0
RATE_WINDOW_S = 60.0
DEFAULT_RESOLUTION_PA = MICRON_PA


class EvacuateEntry(Entry):
    """Around the pull: how warm the coldest tube is, what the gauge resolves, the rig."""

    ambient_c: AmbientC = None
    gauge_resolution_pa: VacuumStepPa = None
    fresh_oil: bool = False
    core_out: bool = False
    gauge_far: bool = False
    notes: LongText = ""


class PumpOverride(Record):
    """The pump connected before the pressure test holds: who answers for it, and why."""

    struck = "the pump's override"

    kind: Literal["pump"] = "pump"
    reason: Annotated[Text, Field(min_length=1)]


class Isolation(Record):
    """The act that a decay rests on: the valve shut and the pump seen off, for one run."""

    struck = "that the pump was seen off"

    kind: Literal["isolation"] = "isolation"
    run: Annotated[Text, Field(min_length=1)]


def latest(vacua: Sequence[VacuumRun]) -> VacuumRun | None:
    """The decay that counts: the last begun; a pull begun after it puts it out of use."""
    return vacua[-1] if vacua and vacua[-1].kind == "decay" else None


def pull_before(vacua: Sequence[VacuumRun], decay: VacuumRun) -> VacuumRun | None:
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
    run: VacuumRun | None, entry: EvacuateEntry, rules: Rules, isolations: Sequence[Isolation] = ()
) -> Answer[VacuumDecayResult] | None:
    """The decay worked out; None while it has no absolute reading."""
    read = run.readings.absolute() if run else None
    if run is None or not read:
        return None
    to_hold, limits = rule(rules)
    question = DecayQuestion(
        rule=to_hold,
        ambient_c=DEFAULT_AMBIENT_C if entry.ambient_c is None else entry.ambient_c,
        gauge_resolution_pa=entry.gauge_resolution_pa or DEFAULT_RESOLUTION_PA,
        isolation="confirmed" if seen_by(run, isolations) else "not_confirmed",
    )
    return decay(question, read.t_s, read.pa, limits=limits)


def _on_the_way(vacuum: tuple[VacuumRun, ...], rules: Rules) -> Call:
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
    if above(last.pa, target.value, "vacuum"):
        return Call(
            verdict=Verdict.WAIT,
            because=f"{both(last.pa, 'vacuum')}, on the way to {both(target.value, 'vacuum')}.",
            do_next=f"Pull on to {both(target.value, 'vacuum')} before closing the valve.",
        )
    return Call(
        verdict=Verdict.WAIT,
        because=f"{both(last.pa, 'vacuum')} is reached with the pump running: that proves "
        "nothing yet.",
        do_next="Close the valve to the pump and time the decay.",
    )


def shut(test: StageCall | None, overrides: Sequence[PumpOverride]) -> bool:
    """Whether the pump has to stay off: the pressure test does not hold, and nobody answers."""
    holds = test is not None and test.call.verdict is Verdict.HOLDS
    return not holds and not overrides


def _gate(
    vacuum: tuple[VacuumRun, ...], test: StageCall | None, overrides: Sequence[PumpOverride]
) -> list[Check]:
    """What the pressure test says of the pump, while no vacuum is pulled.

    A vacuum that was pulled is judged for itself: that the pressure test does not hold is told
    at its own stage, and keeps the valves shut there.
    """
    if vacuum or not shut(test, overrides):
        return []
    call = Call(
        verdict=Verdict.WAIT,
        because="The pump stays off: the pressure test does not hold yet.",
        do_next="Bring the pressure test to hold first.",
    )
    return [Check(id="pump", label="Pressure test first", call=call)]


def _pulled_to(run: VacuumRun, pull: VacuumRun | None, rules: Rules) -> list[Check]:
    """How deep it was pulled before the valve closed, against what the school pulls to."""
    target = rules.limit("pull_to")
    ends = [r.readings[at].pa for r, at in ((pull, -1), (run, 0)) if r is not None and r.readings]
    read = [pa for pa in ends if pa is not None]
    if target is None or not read:
        return []
    lowest = min(read)
    over = above(lowest, target.value, "vacuum")
    said = f"The valve was closed at {both(lowest, 'vacuum')}"
    call = (
        fault(
            f"{said}, above the {both(target.value, 'vacuum')} that is pulled to.",
            f"Pull on to {both(target.value, 'vacuum')}, then close the valve again.",
            Verdict.WATCH,
        )
        if over
        else Call(verdict=Verdict.HOLDS, because=f"{said}.")
    )
    return [Check(id="pulled", label="Pulled to", call=call, value=lowest, unit="Pa", limit=target)]


def _let_in_after(holds: Sequence[HoldRun], decayed: VacuumRun) -> bool:
    """Whether nitrogen was let in after a decay, by a hold that began later."""
    return any(r.readings and r.started_at > decayed.started_at for r in holds)


@dataclass(frozen=True, eq=False)
class EvacuateWorked(Worked):
    """The pull and its decay worked out.

    ``run`` is the newest run, ``decay`` the decay that counts, ``answer`` what its absolute
    readings show, ``needle`` what a needle shows. ``shut``: the pump has to stay off.
    """

    vacua: tuple[VacuumRun, ...]
    run: VacuumRun | None
    decay: VacuumRun | None
    rule: DecayRule
    answer: Answer[VacuumDecayResult] | None
    needle: NeedleHold | None
    isolation: Isolation | None
    rate_pa_s: float | None
    shut: bool


def work(basis: Basis) -> EvacuateWorked:
    rules, entry = basis.rules, basis.entry(EvacuateEntry)
    tested = basis.of(PressureTestWorked)
    return worked_out(
        basis.runs("hold", *VACUUM),
        entry,
        rules,
        tested.call,
        basis.records(PumpOverride),
        basis.records(Isolation),
        tested.atmosphere_pa,
    )


def worked_out(
    runs: Sequence[Run],
    entry: EvacuateEntry,
    rules: Rules,
    test: StageCall | None,
    overrides: Sequence[PumpOverride] = (),
    isolations: Sequence[Isolation] = (),
    atmosphere: float = ATMOSPHERE_PA,
) -> EvacuateWorked:
    """The whole stage from its runs, and the nitrogen that was let in among them."""
    vacua = tuple(r for r in runs if isinstance(r, VacuumRun))
    nitrogen = [r for r in runs if isinstance(r, HoldRun)]
    run = vacua[-1] if vacua else None
    decayed = latest(vacua)
    seen = seen_by(run, isolations) if run else None
    spoilt = decayed is not None and _let_in_after(nitrogen, decayed)
    hold = None
    if decayed is not None and by_needle(decayed) and not spoilt:
        pull = pull_before(vacua, decayed)
        hold = needle_hold(decayed, rules, _pulled_s(pull, decayed), atmosphere, seen is not None)
    answered = answer(decayed, entry, rules, isolations)
    to_hold, _ = rule(rules)
    unasked = kit.not_asked(rules, vacua, "pump")
    gate = _gate(vacua, test, overrides)
    if unasked is not None:
        call = unasked
    elif spoilt:
        call = _spoilt(gate)
    elif hold is not None:
        call = _needle_call(hold, gate)
    elif answered is None or decayed is None:
        call = _before_the_decay(vacua, rules, gate)
    else:
        checks = [*gate, *_pulled_to(decayed, pull_before(vacua, decayed), rules)]
        call = _decay_call(answered, to_hold, checks, len(gate))
    return EvacuateWorked(
        call=call,
        vacua=vacua,
        run=run,
        decay=decayed,
        rule=to_hold,
        answer=answered,
        needle=hold,
        isolation=seen,
        rate_pa_s=rate_pa_s(run),
        shut=shut(test, overrides),
    )


def _pulled_s(pull: VacuumRun | None, decayed: VacuumRun) -> float | None:
    """How long the pump had run before the valve was shut, by readings or by the clock."""
    if pull is None:
        return None
    return max(pull.readings.span_s, (decayed.started_at - pull.started_at).total_seconds())


def _spoilt(gate: list[Check]) -> StageCall:
    call = Call(
        verdict=Verdict.WAIT,
        because="Nitrogen was let in after this decay: it is out of use.",
        do_next="Bleed the nitrogen to nought, then pull again.",
    )
    check = Check(id="decay", label="Decay", call=call)
    return stage_call([*gate, check], "", summary="pull again")


def _before_the_decay(vacua: tuple[VacuumRun, ...], rules: Rules, gate: list[Check]) -> StageCall:
    names = ("pull_to", "decay_max", "decay_hold")
    limits = [limit for name in names if (limit := rules.limit(name)) is not None]
    check = Check(id="decay", label="Decay", call=_on_the_way(vacua, rules))
    return stage_call(
        [*gate, check],
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


def _needle_call(hold: NeedleHold, gate: list[Check]) -> StageCall:
    """A hold that a needle read."""
    check = Check(
        id="decay", label="Needle", call=hold.call, value=hold.gauge_pa, unit="Pa", kind="needle"
    )
    return stage_call(
        [*gate, check],
        hold.call.because,
        summary=both(hold.gauge_pa, "needle"),
        governed_by=hold.limits,
        progress=min(1.0, hold.held_s / hold.hold_s),
    )


STAGE = Stage(
    name="evacuate",
    title="Evacuate",
    entry=EvacuateEntry,
    work=work,
    records=(PumpOverride, Isolation),
    runs=VACUUM,
)
