"""One volume under vacuum worked out: its pulls, its decays, and the call on them."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fairline.core import kit
from fairline.core.calc.vacuum_decay import DecayQuestion, VacuumDecayResult, decay
from fairline.core.call import Answer, Check, Limit, StageCall, Verdict
from fairline.core.evacuate import pulling
from fairline.core.evacuate.attempts import Attempt, compared
from fairline.core.evacuate.drying import DryingPlan, OpenTime, drying_plan, open_times
from fairline.core.evacuate.entry import EvacuateEntry
from fairline.core.evacuate.expected_course import Expected, OffCourse, expected_course, off_course
from fairline.core.evacuate.gauge_removal import readings_while_on
from fairline.core.evacuate.group_call import (
    as_accepted,
    before_the_decay,
    decay_call,
    let_in_call,
    needle_call,
)
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
from fairline.core.evacuate.rig import RigResult, at_ultimate, gauge_check, oil_words, rig_result
from fairline.core.evacuate.void import Voided
from fairline.core.physics.constants import ATMOSPHERE_PA, MICRON_PA
from fairline.core.physics.decay_course import DecayRule
from fairline.core.practice import Rules
from fairline.core.readings import HoldRun, Run, VacuumRun
from fairline.core.route.circuits import Circuit, Open
from fairline.core.stage import StageResult

RATE_WINDOW_S = 60.0
DEFAULT_RESOLUTION_PA = MICRON_PA


def current_decay(vacua: Sequence[VacuumRun]) -> VacuumRun | None:
    """The decay that counts: the last begun; a pull begun after it puts it out of use."""
    return vacua[-1] if vacua and vacua[-1].kind == "decay" else None


def pull_before(vacua: Sequence[VacuumRun], decay: VacuumRun | None) -> VacuumRun | None:
    """The pull that a decay ended."""
    at = next((n for n, r in enumerate(vacua) if r is decay), 0)
    return vacua[at - 1] if at and vacua[at - 1].kind == "pull" else None


def isolation_of(run: VacuumRun, isolations: Sequence[Isolation]) -> Isolation | None:
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


def decay_rule(rules: Rules) -> tuple[DecayRule, tuple[Limit, ...]]:
    """What a decay is held to, and who says so."""
    most, hold = rules.limit("decay_max"), rules.limit("decay_hold")
    assert most is not None and hold is not None  # the house's school always names both
    return DecayRule(max_pa=most.value, hold_s=hold.value), (most, hold)


def decay_answer(
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
    read, _ = readings_while_on(read, entry.coldest_c)
    if (shut_s := gauge_shut_s(run, events)) is not None and shut_s >= float(read.t_s[0]):
        read = read.only(read.t_s <= shut_s)
    to_hold, limits = decay_rule(rules)
    question = DecayQuestion(
        rule=to_hold,
        ambient_c=entry.coldest_c,
        gauge_resolution_pa=entry.gauge_resolution_pa or DEFAULT_RESOLUTION_PA,
        isolation="confirmed" if isolation_of(run, isolations) else "not_confirmed",
    )
    return decay(question, read.t_s, read.pa, limits=limits)


def gauge_shut_s(run: VacuumRun, events: Sequence[PumpEvent]) -> float | None:
    """When after the beginning of a decay the gauge alone was shut off; None where it was not."""
    shut = [e.at for e in events if e.what == "gauge-shut" and e.at > run.started_at]
    return (min(shut) - run.started_at).total_seconds() if shut else None


@dataclass(frozen=True, eq=False)
class EvacuateStageResult(StageResult):
    """The pull and its decay worked out.

    ``run`` is the newest run, ``decay`` the decay that counts, ``answer`` what its absolute
    readings show, ``needle`` what a needle shows. ``shut``: the pump has to stay off.
    ``gauge_off_s``: when after closing the gauge was taken off, where its readings show that.
    ``stands_pa``: nitrogen that is not bled yet. ``attempts``: decays that were timed. ``oil``:
    what the pump's oil wants, in words.

    In a system of several ``circuits`` every field but ``call`` belongs to the current ports.
    ``groups``: each group of ports that was open together. ``counts``: those that prove something,
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
    rig: RigResult
    stands_pa: float | None
    close_ballast: bool
    accepted: Accepted | None
    attempts: int
    stood: list[OpenTime]
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
    groups: tuple["EvacuateStageResult", ...] = ()
    voided: tuple[Voided, ...] = ()

    def of_ports(self, key: Open) -> "EvacuateStageResult | None":
        """The group in which exactly these circuits were open to the rig."""
        return next((group for group in self.groups if group.ports == key), None)


@dataclass(frozen=True, eq=False)
class _Group:
    """What one group of ports is worked out from, and each intermediate result by its name."""

    runs: Sequence[Run]
    entry: EvacuateEntry
    rules: Rules
    test: StageCall | None
    recorded: Recorded
    atmosphere_pa: float

    @cached_property
    def vacua(self) -> tuple[VacuumRun, ...]:
        return tuple(r for r in self.runs if isinstance(r, VacuumRun))

    @cached_property
    def nitrogen(self) -> list[HoldRun]:
        return [r for r in self.runs if isinstance(r, HoldRun)]

    @property
    def run(self) -> VacuumRun | None:
        return self.vacua[-1] if self.vacua else None

    @property
    def pulling(self) -> VacuumRun | None:
        """The pull that goes on; None while nothing or a decay does."""
        return self.run if self.run is not None and self.run.kind == "pull" else None

    @cached_property
    def decay(self) -> VacuumRun | None:
        return current_decay(self.vacua)

    @cached_property
    def isolation(self) -> Isolation | None:
        return isolation_of(self.run, self.recorded.isolations) if self.run else None

    @property
    def spoilt(self) -> bool:
        """Whether something came into the lines after the decay."""
        return self.decay is not None and bool(self.recorded.let_in)

    @cached_property
    def hold(self) -> NeedleHold | None:
        """The decay as a needle read it; None where no needle did."""
        if self.decay is None or self.spoilt or not by_needle(self.decay):
            return None
        pull = pull_before(self.vacua, self.decay)
        ran = at_end_s(pull, self.decay.started_at, self.atmosphere_pa)
        seen = self.isolation is not None
        return needle_hold(self.decay, self.rules, ran, self.atmosphere_pa, seen)

    @cached_property
    def answer(self) -> Answer[VacuumDecayResult] | None:
        """The decay as absolute readings show it."""
        recorded = self.recorded
        return decay_answer(
            self.decay, self.entry, self.rules, recorded.isolations, recorded.events
        )

    @cached_property
    def not_asked(self) -> StageCall | None:
        return kit.not_asked_call(self.rules, self.vacua, "pump")

    @cached_property
    def nitrogen_stands_pa(self) -> float | None:
        if self.not_asked:
            return None
        return pulling.nitrogen_stands(self.nitrogen, self.vacua, self.recorded.bled)

    @cached_property
    def close_ballast(self) -> bool:
        return pulling.close_ballast(self.run, self.recorded.events)

    @cached_property
    def gate(self) -> list[Check]:
        """What has to be in order before the pump runs."""
        pulled = _pulled_since(self.vacua, self.nitrogen)
        return [
            *pulling.test_first(self.vacua, self.test, self.recorded.by_name),
            *pulling.bled_check(self.nitrogen_stands_pa, pulled),
        ]

    @cached_property
    def gauge_place(self) -> list[Check]:
        """Where the micron gauge sits; a needle sits in its manifold, and is not asked."""
        run = self.run
        if by_needle(run) or (wanted(self.rules) and not (run and run.readings)):
            return []
        return [gauge_check(self.entry.rig, self.decay is not None)]

    @cached_property
    def accepted(self) -> Accepted | None:
        if self.decay is None or self.spoilt:
            return None
        return _accepted(self.decay, self.recorded.accepted)

    def call(self) -> StageCall:
        """The call of the group, accepted by name or not."""
        call = self._call()
        return call if self.accepted is None else as_accepted(call, self.accepted)

    def _call(self) -> StageCall:
        if self.not_asked is not None:
            return self.not_asked
        if self.spoilt:
            return let_in_call(self.gate, self.recorded.let_in)
        if self.hold is not None:
            return needle_call(self.hold, self.gate, self.gauge_place)
        if self.answer is None or self.decay is None:
            return before_the_decay(
                self.vacua, self.rules, self.gate, self.gauge_place, self.close_ballast
            )
        before = _attempts(
            self.vacua, self.decay, self.answer, self.entry, self.rules, self.recorded
        )
        checks = [
            *self.gate,
            *before,
            *pulling.pulled_to(self.decay, pull_before(self.vacua, self.decay), self.rules),
            *self.gauge_place,
            *at_ultimate(self.entry.rig, self.decay),
        ]
        held_to, _ = decay_rule(self.rules)
        return decay_call(self.answer, held_to, checks, len(self.gate) + len(before))

    def needle_steps(self) -> tuple[NeedleStep, ...]:
        if not (wanted(self.rules) or by_needle(self.run)):
            return ()
        pull = self.pulling or pull_before(self.vacua, self.run)
        seen = self.isolation is not None
        return tuple(needle_steps(pull, self.decay, self.rules, self.atmosphere_pa, seen))

    def off_course(self, course: Expected | None, target_pa: float) -> OffCourse | None:
        if self.pulling is None:
            return None
        return off_course(self.pulling, course, self.entry.coldest_c, target_pa)

    def gauge_off_s(self) -> float | None:
        if self.decay is None:
            return None
        return readings_while_on(self.decay.readings.absolute(), self.entry.coldest_c)[1]

    def open_times(self) -> list[OpenTime]:
        sealed_at = sorted(r.started_at for r in self.runs if r.readings)
        return open_times(self.recorded.exposures, self.recorded.joints, sealed_at)

    def drying(self, stood: Sequence[OpenTime], rig: RigResult) -> DryingPlan | None:
        if self.not_asked is not None:
            return None
        decayed_at = self.decay.started_at if self.decay is not None else None
        pull_s = rig.answer.result.time_s if rig.answer else None
        return drying_plan(stood, self.answer, decayed_at, self.recorded.events, pull_s)

    def oil(self) -> str:
        fresh = self.entry.fresh_oil or any(e.what == "oil" for e in self.recorded.events)
        return oil_words(self.entry.rig, fresh)


def evacuate_group(
    runs: Sequence[Run],
    entry: EvacuateEntry,
    rules: Rules,
    test: StageCall | None,
    recorded: Recorded | None = None,
    atmosphere: float = ATMOSPHERE_PA,
    volume_m3: float | None = None,
) -> EvacuateStageResult:
    """One group of ports worked out from its runs, and the nitrogen that was let in among them.

    ``atmosphere`` is the absolute pressure outside in Pa.
    """
    group = _Group(runs, entry, rules, test, recorded or Recorded(), atmosphere)
    held_to, _ = decay_rule(rules)
    target = rules.limit("pull_to")
    target_pa = target.value if target is not None else held_to.max_pa
    rig = rig_result(entry.rig, volume_m3, target_pa, entry.coldest_c)
    course = expected_course(rig, group.pulling)
    stood = group.open_times()
    return EvacuateStageResult(
        call=group.call(),
        vacua=group.vacua,
        run=group.run,
        decay=group.decay,
        rule=held_to,
        answer=group.answer,
        needle=group.hold,
        needle_steps=group.needle_steps(),
        isolation=group.isolation,
        rate_pa_s=rate_pa_s(group.run),
        shut=pulling.pump_must_stay_off(test, group.recorded.by_name),
        events=group.recorded.events,
        oil=group.oil(),
        rig=rig,
        stood=stood,
        expected=course,
        off=group.off_course(course, target.value if target is not None else 0.0),
        gauge_off_s=group.gauge_off_s(),
        drying=group.drying(stood, rig),
        stands_pa=group.nitrogen_stands_pa,
        close_ballast=group.close_ballast,
        accepted=group.accepted,
        attempts=sum(bool(r.readings) for r in group.vacua if r.kind == "decay"),
    )


def _pulled_since(vacua: Sequence[VacuumRun], holds: Sequence[HoldRun]) -> bool:
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
    before = decay_answer(earlier[-1], entry, rules, recorded.isolations, recorded.events)
    if before is None:
        return []
    found = [Attempt(earlier[-1], before), Attempt(decayed, answered)]
    check = compared(found, recorded.events, rules.school("decay").name == "run-on")
    return [check] if check is not None else []


def _accepted(decayed: VacuumRun, accepted: Sequence[Accepted]) -> Accepted | None:
    return next((a for a in reversed(accepted) if a.run == decayed.uid), None)
