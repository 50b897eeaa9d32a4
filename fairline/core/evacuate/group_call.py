"""The call of one group of ports: nothing pulled yet, a decay, a needle's hold, what was let in."""

from fairline.core.calc.vacuum_decay import VacuumDecayResult
from fairline.core.call import Answer, Call, Check, StageCall, Verdict
from fairline.core.check import stage_call
from fairline.core.evacuate import pulling
from fairline.core.evacuate.needle import NeedleHold
from fairline.core.evacuate.records import Accepted
from fairline.core.evacuate.void import Voided, void_call
from fairline.core.limit_list import LimitName
from fairline.core.physics.decay_course import DecayRule
from fairline.core.practice import Rules
from fairline.core.quantities import both, duration
from fairline.core.readings import VacuumRun

ACCEPTED = "accepted"  # a finding: gone on with by name and reason


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


def as_accepted(call: StageCall, agreed: Accepted) -> StageCall:
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


def let_in_call(gate: list[Check], let_in: str) -> StageCall:
    """A decay after which something came into the lines: a vacuum proves what was in it then."""
    call = void_call(Voided("", let_in=let_in))
    check = Check(id="decay", label="Decay", call=call)
    return stage_call([*gate, check], "", summary="pull again")


def before_the_decay(
    vacua: tuple[VacuumRun, ...],
    rules: Rules,
    gate: list[Check],
    place: list[Check],
    ballast_open: bool,
) -> StageCall:
    names: tuple[LimitName, ...] = ("pull_to", "decay_max", "decay_hold")
    limits = [limit for name in names if (limit := rules.limit(name)) is not None]
    label = "Decay" if vacua and vacua[-1].kind == "decay" else "Pull"
    check = Check(id="decay", label=label, call=_on_the_way(vacua, rules, ballast_open))
    return stage_call(
        [*gate, check, *place],
        "",
        summary="pulling" if vacua else "",
        started=bool(vacua),
        governed_by=limits,
    )


def decay_call(
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


def needle_call(hold: NeedleHold, gate: list[Check], place: list[Check]) -> StageCall:
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
