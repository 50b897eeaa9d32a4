"""Evacuate: the pull and the isolated decay that proves the system dry and tight."""

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from fairline.core import kit
from fairline.core.calc.decay_course import DecayRule
from fairline.core.calc.nitrogen import ATMOSPHERE_PA
from fairline.core.calc.vacuum_decay import (
    DecayReading,
    VacuumDecayRequest,
    VacuumDecayResult,
    vacuum_decay,
)
from fairline.core.call import Answer, Call, Check, Limit, StageCall, Verdict
from fairline.core.check import fault, stage_call
from fairline.core.entry import AmbientC, Entry, LongText, Moment, Text, VacuumStepPa
from fairline.core.needle import by_needle, needle_hold
from fairline.core.practice import Rules
from fairline.core.quantities import above, both, duration
from fairline.core.readings import Run

DEFAULT_AMBIENT_C = 20.0
RATE_WINDOW_S = 60.0
DEFAULT_RESOLUTION_PA = 0.133322368  # one micron


class EvacuateEntry(Entry):
    """Around the pull: how warm the coldest tube is, what the gauge resolves, the rig."""

    ambient_c: AmbientC = None
    gauge_resolution_pa: VacuumStepPa = None
    fresh_oil: bool = False
    core_out: bool = False
    gauge_far: bool = False
    notes: LongText = ""


class PumpOverride(Entry):
    """The pump connected before the pressure test holds: who answers for it, and why."""

    kind: Literal["pump"] = "pump"
    reason: Annotated[Text, Field(min_length=1)]
    by: Annotated[Text, Field(min_length=1)]
    at: Moment


class Isolation(Entry):
    """The act that a decay rests on: the valve shut and the pump seen off, for one run."""

    kind: Literal["isolation"] = "isolation"
    run: Annotated[Text, Field(min_length=1)]
    by: Annotated[Text, Field(min_length=1)]
    at: Moment


def vacua(runs: Sequence[Run]) -> tuple[Run, ...]:
    return tuple(r for r in runs if r.kind in ("pull", "decay"))


def latest(runs: Sequence[Run]) -> Run | None:
    """The decay that counts: the last begun; a pull begun after it puts it out of use."""
    vacuum = vacua(runs)
    return vacuum[-1] if vacuum and vacuum[-1].kind == "decay" else None


def pull_before(runs: Sequence[Run], decay: Run) -> Run | None:
    """The pull that a decay ended."""
    vacuum = vacua(runs)
    at = next((n for n, r in enumerate(vacuum) if r is decay), 0)
    return vacuum[at - 1] if at and vacuum[at - 1].kind == "pull" else None


def seen(run: Run, isolations: Sequence[Isolation]) -> bool:
    """Whether somebody saw the valve shut and the pump off."""
    return any(i.run == run.uid for i in isolations)


def rate_pa_s(run: Run | None) -> float | None:
    """How fast the pressure moves, in Pa/s over the last minute of readings; None by needle."""
    read = [r for r in run.readings if r.pa is not None] if run else []
    if len(read) < 2:
        return None
    last = read[-1]
    recent = next(r for r in read if r.t_s >= last.t_s - RATE_WINDOW_S)
    span = last.t_s - recent.t_s
    return ((last.pa or 0.0) - (recent.pa or 0.0)) / span if span > 0 else None


def rule(rules: Rules) -> tuple[DecayRule, tuple[Limit, ...]]:
    most, hold = rules.limit("decay_max"), rules.limit("decay_hold")
    assert most is not None and hold is not None  # the house's school always names both
    return DecayRule(max_pa=most.value, hold_s=hold.value), (most, hold)


def answer(
    run: Run | None, entry: EvacuateEntry, rules: Rules, isolations: Sequence[Isolation] = ()
) -> Answer[VacuumDecayResult] | None:
    """The decay worked out; None while it has no absolute reading."""
    read = [r for r in run.readings if r.pa is not None] if run else []
    if run is None or not read:
        return None
    to_hold, limits = rule(rules)
    request = VacuumDecayRequest(
        # Validated when they came in: a day's log is not looked through twice.
        readings=[DecayReading.model_construct(t_s=r.t_s, pa=r.pa or 0.0) for r in read],
        rule=to_hold,
        ambient_c=DEFAULT_AMBIENT_C if entry.ambient_c is None else entry.ambient_c,
        gauge_resolution_pa=entry.gauge_resolution_pa or DEFAULT_RESOLUTION_PA,
        isolation="confirmed" if seen(run, isolations) else "not_confirmed",
    )
    return vacuum_decay(request, limits=limits)


def _on_the_way(vacuum: tuple[Run, ...], rules: Rules) -> Call:
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
    vacuum: tuple[Run, ...], test: StageCall | None, overrides: Sequence[PumpOverride]
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


def _pulled_to(run: Run, pull: Run | None, rules: Rules) -> list[Check]:
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


def _let_in_after(runs: Sequence[Run], decay: Run) -> bool:
    """Whether nitrogen was let in after a decay, by a hold that began later."""
    return any(r.kind == "hold" and r.readings and r.started_at > decay.started_at for r in runs)


def judge(
    runs: tuple[Run, ...], entry: EvacuateEntry, rules: Rules, test: StageCall | None,
    overrides: Sequence[PumpOverride] = (), isolations: Sequence[Isolation] = (),
    atmosphere: float = ATMOSPHERE_PA,
) -> StageCall:  # fmt: skip
    """The pull and its decay; ``test`` is the call of the pressure test, which comes first."""
    vacuum = vacua(runs)
    if (unasked := kit.not_asked(rules, vacuum, "pump")) is not None:
        return unasked
    gate = _gate(vacuum, test, overrides)
    run = latest(runs)
    if run is not None and _let_in_after(runs, run):
        call = Call(
            verdict=Verdict.WAIT,
            because="Nitrogen was let in after this decay: it is out of use.",
            do_next="Bleed the nitrogen to nought, then pull again.",
        )
        return stage_call(
            [*gate, Check(id="decay", label="Decay", call=call)], "", summary="pull again"
        )
    if run is not None and by_needle(run):
        return _needle_stage(run, runs, rules, gate, atmosphere, seen(run, isolations))
    worked = answer(run, entry, rules, isolations)
    if worked is None or run is None:
        limits = [
            limit
            for name in ("pull_to", "decay_max", "decay_hold")
            if (limit := rules.limit(name)) is not None
        ]
        check = Check(id="decay", label="Decay", call=_on_the_way(vacuum, rules))
        return stage_call(
            [*gate, check],
            "",
            summary="pulling" if vacuum else "",
            started=bool(vacuum),
            governed_by=limits,
        )
    to_hold, _ = rule(rules)
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
        [*gate, check, *_pulled_to(run, pull_before(runs, run), rules)],
        worked.call.because,
        summary=f"{duration(left)} left" if waiting else both(worked.result.end_pa, "vacuum"),
        governed_by=worked.governed_by,
        working=worked.working,
        findings=worked.findings,
        progress=min(1.0, worked.result.held_s / to_hold.hold_s),
    )


def _needle_stage(
    run: Run, runs: Sequence[Run], rules: Rules, gate: list[Check], atmosphere: float, shut_: bool
) -> StageCall:
    """A hold that a needle read."""
    pull = pull_before(runs, run)
    pulled_s = None
    if pull is not None:
        read_s = pull.readings[-1].t_s - pull.readings[0].t_s if pull.readings else 0.0
        pulled_s = max(read_s, (run.started_at - pull.started_at).total_seconds())
    hold = needle_hold(run, rules, pulled_s, atmosphere, shut_)
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
