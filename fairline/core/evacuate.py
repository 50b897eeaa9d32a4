"""Evacuate: the pull and the isolated decay that proves the system dry and tight."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from fairline.core.calc.vacuum_decay import (
    DecayReading,
    DecayRule,
    VacuumDecayRequest,
    VacuumDecayResult,
    vacuum_decay,
)
from fairline.core.call import Answer, Call, Check, Limit, StageCall, Verdict
from fairline.core.check import fault, stage_call
from fairline.core.entry import AmbientC, Entry, LongText, Text, VacuumStepPa
from fairline.core.practice import Rules
from fairline.core.quantities import both, duration
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


def decays(runs: tuple[Run, ...]) -> list[Run]:
    return [r for r in runs if r.kind == "decay"]


def latest(runs: tuple[Run, ...]) -> Run | None:
    """The decay that counts: the last begun; a pull begun after it puts it out of use."""
    vacuum = [r for r in runs if r.kind in ("pull", "decay")]
    return vacuum[-1] if vacuum and vacuum[-1].kind == "decay" else None


def rate_pa_s(run: Run | None) -> float | None:
    """How fast the pressure moves, in Pa/s over the last minute of readings."""
    if run is None or len(run.readings) < 2:
        return None
    last = run.readings[-1]
    recent = next(r for r in run.readings if r.t_s >= last.t_s - RATE_WINDOW_S)
    span = last.t_s - recent.t_s
    return ((last.pa or 0.0) - (recent.pa or 0.0)) / span if span > 0 else None


def rule(rules: Rules) -> tuple[DecayRule, tuple[Limit, ...]]:
    most, hold = rules.limit("decay_max"), rules.limit("decay_hold")
    assert most is not None and hold is not None  # the house's school always names both
    return DecayRule(max_pa=most.value, hold_s=hold.value), (most, hold)


def answer(run: Run | None, entry: EvacuateEntry, rules: Rules) -> Answer[VacuumDecayResult] | None:
    """The decay worked out, or None while it has no reading."""
    if run is None or not run.readings:
        return None
    to_hold, limits = rule(rules)
    request = VacuumDecayRequest(
        # Validated when they came in: a day's log is not looked through twice.
        readings=[DecayReading.model_construct(t_s=r.t_s, pa=r.pa or 0.0) for r in run.readings],
        rule=to_hold,
        ambient_c=DEFAULT_AMBIENT_C if entry.ambient_c is None else entry.ambient_c,
        gauge_resolution_pa=entry.gauge_resolution_pa or DEFAULT_RESOLUTION_PA,
    )
    return vacuum_decay(request, limits=limits)


def _not_isolated(runs: tuple[Run, ...], rules: Rules) -> Call:
    """Still pulling, or nothing begun: what to wait for."""
    target = rules.limit("pull_to")
    pull = runs[-1] if runs and runs[-1].kind == "pull" else None
    if pull is None or target is None:
        return Call(
            verdict=Verdict.WAIT,
            because="No vacuum has been pulled.",
            do_next="Connect the pump, put the gauge far from it, and start the pull.",
        )
    now = pull.last.pa if pull.last else None
    if now is None:
        return Call(
            verdict=Verdict.WAIT,
            because="The pull has no reading yet.",
            do_next="Read the micron gauge.",
        )
    if now > target.value:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{both(now, 'vacuum')}, on the way to {both(target.value, 'vacuum')}.",
            do_next=f"Pull on to {both(target.value, 'vacuum')} before closing the valve.",
        )
    return Call(
        verdict=Verdict.WAIT,
        because=f"{both(now, 'vacuum')} is reached with the pump running: that proves nothing yet.",
        do_next="Close the valve to the pump and time the decay.",
    )


class PumpOverride(Entry):
    """The pump connected before the pressure test holds: who answers for it, and why."""

    kind: Literal["pump"] = "pump"
    reason: Annotated[Text, Field(min_length=1)]
    by: Annotated[Text, Field(min_length=1)]
    at: datetime


def shut(test: StageCall | None, overrides: Sequence[PumpOverride]) -> bool:
    """Whether the pump has to stay off: the pressure test does not hold, and nobody answers."""
    holds = test is not None and test.call.verdict is Verdict.HOLDS
    return not holds and not overrides


def _gate(
    vacuum: tuple[Run, ...], test: StageCall | None, overrides: Sequence[PumpOverride]
) -> list[Check]:
    """What the pressure test says of the pump; nothing where it holds."""
    if test is not None and test.call.verdict is Verdict.HOLDS:
        return []
    if overrides:
        last = overrides[-1]
        call = Call(
            verdict=Verdict.WATCH,
            because=f"The pump runs by override of {last.by}: {last.reason}",
            do_next="A vacuum that holds is no pressure test: 1 bar against 40.",
        )
    elif vacuum:
        call = fault(
            "A vacuum was pulled before the pressure test held.",
            "Bring the pressure test to hold, then pull again.",
        )
    else:
        call = Call(
            verdict=Verdict.WAIT,
            because="The pump stays off: the pressure test does not hold yet.",
            do_next="Bring the pressure test to hold first.",
        )
    return [Check(id="pump", label="Pressure test first", call=call)]


def judge(
    runs: tuple[Run, ...], entry: EvacuateEntry, rules: Rules, test: StageCall | None,
    overrides: Sequence[PumpOverride] = (),
) -> StageCall:  # fmt: skip
    """The pull and its decay; ``test`` is the call of the pressure test, which comes first."""
    vacuum = tuple(r for r in runs if r.kind in ("pull", "decay"))
    gate = _gate(vacuum, test, overrides)
    worked = answer(latest(runs), entry, rules)
    if worked is None:
        call = _not_isolated(vacuum, rules)
        limits = [
            limit
            for name in ("pull_to", "decay_max", "decay_hold")
            if (limit := rules.limit(name)) is not None
        ]
        return stage_call(
            [*gate, Check(id="decay", label="Decay", call=call)],
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
        [*gate, check],
        worked.call.because,
        summary=f"{duration(left)} left" if waiting else both(worked.result.end_pa, "vacuum"),
        governed_by=worked.governed_by,
        working=worked.working,
        findings=worked.findings,
        progress=min(1.0, worked.result.held_s / to_hold.hold_s),
    )
