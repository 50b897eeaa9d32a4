"""The pull as one does it: nitrogen bled first, ballast, target, dwell, and only then the valve."""

from collections.abc import Sequence

from fairline.core.call import Call, Check, Limit, Place, StageCall, Verdict
from fairline.core.check import fault_call
from fairline.core.evacuate.records import Bled, PumpEvent, What
from fairline.core.physics.constants import MICRON_PA, PSI_PA
from fairline.core.practice import Rules
from fairline.core.quantities import above, both, duration
from fairline.core.readings import HoldRun, VacuumRun

BALLAST_PA = 1000 * MICRON_PA  # below it the ballast only lets air in: common practice, no source
BLED_PA = PSI_PA  # what a nitrogen gauge cannot tell from nought; our own choice


def pump_must_stay_off(test: StageCall | None, by_name: bool) -> bool:
    """Whether the pump has to stay off: the pressure test does not hold, and nobody answers."""
    holds = test is not None and test.call.verdict is Verdict.HOLDS
    return not holds and not by_name


def test_first(vacuum: Sequence[VacuumRun], test: StageCall | None, by_name: bool) -> list[Check]:
    """What the pressure test says of the pump, while no vacuum is pulled.

    A vacuum that was pulled is judged for itself, and by what had been on the lines before it
    (``core/contents``).
    """
    if vacuum or not pump_must_stay_off(test, by_name):
        return []
    call = Call(
        verdict=Verdict.WAIT,
        because="The pump stays off: the pressure test does not hold yet.",
        do_next="Bring the pressure test to hold first.",
    )
    test_page = Place(stage="pressure-test")
    return [Check(id="pump", label="Pressure test first", call=call, mend=test_page)]


def nitrogen_stands(
    holds: Sequence[HoldRun], vacua: Sequence[VacuumRun], bled: Sequence[Bled]
) -> float | None:
    """The gauge pressure at which nitrogen was last seen to stand, in Pa; None where it is gone.

    It is gone once somebody bled it and read nought, or a vacuum was read after it.
    """
    last = next((h for h in reversed(holds) if h.readings), None)
    if last is None or last.last is None:
        return None
    stood = float(last.last.gauge_pa)
    after = [b for b in bled if b.at >= last.started_at]
    if after:
        left = after[-1].gauge_pa or 0.0
        return left if left > BLED_PA else None
    pulled = any(v.readings and v.started_at >= last.started_at for v in vacua)
    return stood if stood > BLED_PA and not pulled else None


def bled_check(stands_pa: float | None, pumping: bool) -> list[Check]:
    """Pump and micron gauge stay away while nitrogen stands."""
    if stands_pa is None:
        return []
    said = f"Nitrogen stands at {both(stands_pa, 'gauge')}"
    call = (
        fault_call(
            f"{said}, and a pull was begun: it breaks pump and gauge.",
            "Pump off and shut; bleed the nitrogen to nought, read the gauge, say so.",
            Verdict.STOP,
        )
        if pumping
        else Call(
            verdict=Verdict.WAIT,
            because=f"{said}: pump and micron gauge stay off it.",
            do_next="Bleed it to nought, read the gauge, and say so.",
        )
    )
    return [Check(id="bled", label="Nitrogen bled", call=call)]


def ballast_is(events: Sequence[PumpEvent]) -> What | None:
    """Whether the gas ballast stands open or shut, as last said; None where nobody said."""
    said = [e.what for e in events if e.what in ("ballast-open", "ballast-shut")]
    return said[-1] if said else None


def close_ballast(run: VacuumRun | None, events: Sequence[PumpEvent]) -> bool:
    """Whether the ballast is open at a pressure where it only lets air in: shut it now."""
    if run is None or run.kind != "pull" or run.last is None or run.last.pa is None:
        return False
    return ballast_is(events) == "ballast-open" and run.last.pa <= BALLAST_PA


def dwell_s(pull: VacuumRun | None, target_pa: float) -> float:
    """How long a pull's readings have stood at or under the target without a break, in s."""
    if pull is None:
        return 0.0
    read = pull.readings.absolute()
    if not read or len(read) == 0:
        return 0.0
    t, over = read.t_s, [above(float(pa), target_pa, "vacuum") for pa in read.pa]
    if over[-1]:
        return 0.0
    last_over = max((n for n, is_over in enumerate(over) if is_over), default=-1)
    return float(t[-1] - t[last_over + 1])


def dwell_limit(rules: Rules) -> Limit | None:
    """How long the pump is kept on at the target, where the school asks for it."""
    return rules.limit("pull_dwell")


def on_the_way(run: VacuumRun, last_pa: float, rules: Rules, ballast_open: bool) -> Call:
    """A pull that has a reading: on to the target, dwelling there, or the valve."""
    target, dwell = rules.limit("pull_to"), dwell_limit(rules)
    assert target is not None  # the house's school always names one
    shut = "Shut the gas ballast now. " if ballast_open else ""
    if above(last_pa, target.value, "vacuum"):
        return Call(
            verdict=Verdict.WAIT,
            because=f"{both(last_pa, 'vacuum')}, on the way to {both(target.value, 'vacuum')}.",
            do_next=f"{shut}Pull on to {both(target.value, 'vacuum')} before closing the valve.",
        )
    kept = dwell_s(run, target.value)
    if dwell is not None and kept < dwell.value * (1 - 1e-9):
        return Call(
            verdict=Verdict.WAIT,
            because=f"At or under {both(target.value, 'vacuum')} for {duration(kept)}; the pump is "
            f"kept on for {duration(dwell.value)}.",
            do_next=f"{shut}Keep the pump on for another {duration(dwell.value - kept)}.",
        )
    return Call(
        verdict=Verdict.WAIT,
        because=f"{both(last_pa, 'vacuum')} is reached with the pump running: that proves "
        "nothing yet.",
        do_next=f"{shut}Close the valve to the pump and time the decay.",
    )


def pulled_to(run: VacuumRun, pull: VacuumRun | None, rules: Rules) -> list[Check]:
    """How deep and how long it was pulled before the valve closed, against the school."""
    target = rules.limit("pull_to")
    ends = [r.readings[at].pa for r, at in ((pull, -1), (run, 0)) if r is not None and r.readings]
    read = [pa for pa in ends if pa is not None]
    if target is None or not read:
        return []
    lowest = min(read)
    over = above(lowest, target.value, "vacuum")
    said = f"The valve was closed at {both(lowest, 'vacuum')}"
    call = (
        fault_call(
            f"{said}, above the {both(target.value, 'vacuum')} that is pulled to.",
            f"Pull on to {both(target.value, 'vacuum')}, then close the valve again.",
            Verdict.WATCH,
        )
        if over
        else Call(verdict=Verdict.HOLDS, because=f"{said}.")
    )
    found = [
        Check(id="pulled", label="Pulled to", call=call, value=lowest, unit="Pa", limit=target)
    ]
    dwell = dwell_limit(rules)
    if dwell is not None and not over:
        found.append(_dwelt(pull, target.value, dwell))
    return found


def _dwelt(pull: VacuumRun | None, target_pa: float, dwell: Limit) -> Check:
    """How long the pump was kept on at the target, by readings and not by a tick."""
    kept = dwell_s(pull, target_pa)
    early = kept < dwell.value * (1 - 1e-9)
    call = (
        fault_call(
            f"The valve was closed after {duration(kept)} at the target; the school keeps "
            f"the pump on for {duration(dwell.value)}.",
            "Open the valve, keep the pump on for the rest, and close it again.",
            Verdict.WATCH,
        )
        if early
        else Call(
            verdict=Verdict.HOLDS,
            because=f"The pump was kept on for {duration(kept)} at the target.",
        )
    )
    return Check(
        id="dwelt",
        label="Kept at the target",
        call=call,
        value=kept,
        unit="s",
        bound="min",
        limit=dwell,
        kind="duration",
    )
