"""A vacuum read by a needle: it can stand still, and it cannot prove a system dry.

−30 inHg or −0.1 MPa for 10 to 20 minutes, then still from five minutes to overnight (common
practice, no published source). A needle does not see the difference between 500 and 12 000
microns: it proves something only where the equipment's own sheet prescribes it.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from fairline.core.call import Call, Frozen, Limit, Verdict
from fairline.core.check import fault_call
from fairline.core.physics.constants import INCH_MERCURY_PA
from fairline.core.practice import Rules
from fairline.core.quantities import both, duration
from fairline.core.readings import Floats, VacuumReadings, VacuumRun

STEP_PA = INCH_MERCURY_PA / 2  # what an eye reads of a needle; our own choice
SIDES = {"": "", "gas": " on the gas side", "liquid": " on the liquid side"}
FULL_PA = INCH_MERCURY_PA  # short of the whole by less: the needle stands at its end


class NeedleHold(Frozen):
    """A hold by needle: its call, what it was held against, its last reading and how long."""

    call: Call
    limits: tuple[Limit, ...]
    gauge_pa: float
    held_s: float
    hold_s: float


@dataclass(frozen=True)
class NeedleStep:
    """One step by needle: its words, whether it is done, the moment its clock counts from."""

    words: str
    done: bool
    since: datetime | None = None


def by_needle(run: VacuumRun | None) -> bool:
    """Whether a run was read on a needle: none of its readings is absolute."""
    return run is not None and bool(run.readings) and not run.readings.absolute()


def prescribed(rules: Rules) -> bool:
    return rules.outdoor is not None and rules.outdoor.vacuum_gauge == "needle"


def wanted(rules: Rules) -> bool:
    """Whether the needle is what this job is read by: the sheet's word, else the school."""
    sheet = rules.outdoor.vacuum_gauge if rules.outdoor else None
    return sheet == "needle" or (sheet is None and rules.school("gauge").name == "needle")


def at_end(needle_pa: float, atmosphere_pa: float) -> bool:
    """Whether a needle stands at its end: short of the whole by less than an inch."""
    return needle_pa + atmosphere_pa <= FULL_PA * (1 + 1e-9)


def _needles(readings: VacuumReadings) -> dict[str, Floats]:
    """What each side's needle showed, in order; one that nobody places is a side of its own."""
    sides = np.array([side or "" for side in readings.column("side")])
    return {str(side): readings.needle_pa[sides == side] for side in dict.fromkeys(sides)}


def reached_at(pull: VacuumRun | None, atmosphere_pa: float) -> datetime | None:
    """When the needle of a pull was first read at its end, on every side."""
    read = pull.readings.by_needle() if pull is not None else None
    if pull is None or not read:
        return None
    moments = []
    for side in _needles(read):
        mine = read.only(np.array([(s or "") == side for s in read.column("side")]))
        ends = [n for n, pa in enumerate(mine.needle_pa) if at_end(float(pa), atmosphere_pa)]
        if not ends:
            return None
        moments.append(float(mine.t_s[ends[0]]))
    return pull.started_at + timedelta(seconds=max(moments))


def at_end_s(pull: VacuumRun | None, shut: datetime | None, atmosphere_pa: float) -> float | None:
    """How long the pump ran with the needle at its end, by its readings or by the clock, in s.

    None where no reading shows that it stood there.
    """
    reached = reached_at(pull, atmosphere_pa)
    if pull is None or reached is None:
        return None
    read = pull.readings.by_needle()
    by_readings = (pull.started_at - reached).total_seconds() + float(read.t_s[-1])
    by_clock = (shut - reached).total_seconds() if shut is not None else 0.0
    return max(by_readings, by_clock)


def needle_steps(
    pull: VacuumRun | None,
    hold: VacuumRun | None,
    rules: Rules,
    atmosphere_pa: float,
    seen: bool,
) -> tuple[NeedleStep, ...]:
    """The way by needle, in order, each step with its own clock."""
    run_s, hold_s = rules.limit("needle_pull"), rules.limit("needle_hold")
    assert run_s is not None and hold_s is not None  # common practice names both
    reached = reached_at(pull, atmosphere_pa)
    shut = hold.started_at if hold is not None else None
    ran = at_end_s(pull, shut, atmosphere_pa) or 0.0
    held = hold.readings.by_needle().span_s if hold is not None else 0.0
    return (
        NeedleStep(
            f"Pull the needle to its end, {both(-atmosphere_pa, 'needle')} here",
            reached is not None or shut is not None,
        ),
        NeedleStep(
            f"Keep the pump on there for {duration(run_s.value)}",
            ran >= run_s.value * (1 - 1e-9),
            reached if shut is None else None,
        ),
        NeedleStep("Shut the valve, then the pump, and see it off", shut is not None and seen),
        NeedleStep(
            f"Leave it for {duration(hold_s.value)}: the needle does not move",
            held >= hold_s.value * (1 - 1e-9),
            shut,
        ),
    )


def needle_hold(
    run: VacuumRun, rules: Rules, pulled_s: float | None, atmosphere_pa: float, seen: bool
) -> NeedleHold:
    """Judge a needle, or one on each side, from the moment the valve was shut.

    ``pulled_s``: how long the pump had run at the needle's end; ``seen``: valve shut and pump off,
    seen. ``atmosphere_pa``: of the place, which is where the needle's end lies.
    """
    pull, hold = rules.limit("needle_pull"), rules.limit("needle_hold")
    assert pull is not None and hold is not None  # common practice names both
    readings = run.readings.by_needle()
    held = readings.span_s
    needles = _needles(readings)
    last = max(float(needle[-1]) for needle in needles.values())
    moved = {side: float(n.max() - n[0]) for side, n in needles.items()}
    worst = max(moved, key=lambda side: moved[side])
    first = max(float(needle[0]) for needle in needles.values())
    by_sheet = prescribed(rules)
    both_still = " on both sides" if len(needles) > 1 else ""
    if moved[worst] >= STEP_PA * (1 - 1e-9):
        call = fault_call(
            f"The needle{SIDES[worst]} moved by {both(moved[worst], 'needle')}: it does not hold.",
            "Prove hose and seal of the rig first; then nitrogen and bubbles on every joint.",
        )
    elif not at_end(first, atmosphere_pa):
        call = Call(
            verdict=Verdict.WAIT,
            because=f"The needle stands at {both(first, 'needle')}, short of its end at "
            f"{both(-atmosphere_pa, 'needle')} here.",
            do_next=f"Pull on for {duration(pull.value)} at the needle's end, then shut the valve.",
        )
    elif held < hold.value * (1 - 1e-9):
        call = Call(
            verdict=Verdict.WAIT,
            because="The needle is still so far.",
            do_next=f"Keep the valve shut for another {duration(hold.value - held)}.",
        )
    elif not seen:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="The needle is still: so it is with the pump connected.",
            do_next="Say that the valve was shut and the pump seen off, or time it again.",
        )
    elif not by_sheet:
        call = fault_call(
            f"Still for {duration(held)}, not proven dry: a needle does not see the difference "
            "between 500 and 12 000 microns.",
            "Put a micron gauge on: only the equipment's sheet can make a needle enough.",
            Verdict.WATCH,
        )
    elif pulled_s is None or pulled_s < pull.value * (1 - 1e-9):
        ran = (
            "nobody read how long the pump ran"
            if pulled_s is None
            else (f"the pump had run for {duration(pulled_s)}")
        )
        call = fault_call(
            f"Still for {duration(held)}; {ran} at the needle's end, the sheet "
            f"wants {duration(pull.value)}.",
            "Pull again for as long as the sheet says.",
            Verdict.WATCH,
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"The needle is still for {duration(held)}{both_still}, as the sheet "
            "prescribes; a needle proves tight, not dry.",
        )
    return NeedleHold(
        call=call,
        limits=(pull, hold),
        gauge_pa=last,
        held_s=held,
        hold_s=hold.value,
    )
