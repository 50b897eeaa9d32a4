"""A vacuum read by a needle: it can stand still, and it cannot prove a system dry.

−30 inHg or −0.1 MPa for 10 to 20 minutes, then still from five minutes to overnight (common
practice, no published source). A needle does not see the difference between 500 and 12 000
microns: it proves something only where the equipment's own sheet prescribes it.
"""

from fairline.core.call import Call, Frozen, Limit, Verdict
from fairline.core.check import fault
from fairline.core.physics.constants import INCH_MERCURY_PA
from fairline.core.practice import Rules
from fairline.core.quantities import both, duration
from fairline.core.readings import VacuumRun

STEP_PA = INCH_MERCURY_PA / 2  # what an eye reads of a needle; our own choice
FULL_PA = INCH_MERCURY_PA  # short of the whole by less: the needle stands at its end


class NeedleHold(Frozen):
    """A hold by needle: its call, what it was held against, its last reading and how long."""

    call: Call
    limits: tuple[Limit, ...]
    gauge_pa: float
    held_s: float
    hold_s: float


def by_needle(run: VacuumRun | None) -> bool:
    """Whether a run was read on a needle: none of its readings is absolute."""
    return run is not None and bool(run.readings) and not run.readings.absolute()


def prescribed(rules: Rules) -> bool:
    return rules.outdoor is not None and rules.outdoor.vacuum_gauge == "needle"


def wanted(rules: Rules) -> bool:
    """Whether the needle is what this job is read by: the sheet's word, else the school."""
    sheet = rules.outdoor.vacuum_gauge if rules.outdoor else None
    return sheet == "needle" or (sheet is None and rules.school("gauge").name == "needle")


def needle_hold(
    run: VacuumRun, rules: Rules, pulled_s: float | None, atmosphere_pa: float, seen: bool
) -> NeedleHold:
    """Judge a needle from the moment the valve was shut.

    ``pulled_s``: how long the pump had run; ``seen``: valve shut and pump off, seen.
    """
    pull, hold = rules.limit("needle_pull"), rules.limit("needle_hold")
    assert pull is not None and hold is not None  # common practice names both
    readings = run.readings.by_needle()
    needle, held = readings.needle_pa, readings.span_s
    first = float(needle[0])
    rise = float(needle.max()) - first
    short_of = first + atmosphere_pa
    by_sheet = prescribed(rules)
    if rise >= STEP_PA * (1 - 1e-9):
        call = fault(
            f"The needle moved by {both(rise, 'needle')}: it does not hold.",
            "Prove hose and seal of the rig first; then nitrogen and bubbles on every joint.",
        )
    elif short_of > FULL_PA * (1 + 1e-9):
        call = Call(
            verdict=Verdict.WAIT,
            because=f"The needle stands at {both(first, 'needle')}, short of its end.",
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
        call = fault(
            f"Still for {duration(held)}, not proven dry: a needle does not see the difference "
            "between 500 and 12 000 microns.",
            "Put a micron gauge on: only the equipment's sheet can make a needle enough.",
            Verdict.WATCH,
        )
    elif pulled_s is not None and pulled_s < pull.value * (1 - 1e-9):
        call = fault(
            f"Still for {duration(held)}; the pump had run for {duration(pulled_s)}, the sheet "
            f"wants {duration(pull.value)}.",
            "Pull again for as long as the sheet says.",
            Verdict.WATCH,
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"The needle is still for {duration(held)}, as the sheet prescribes; a needle "
            "proves tight, not dry.",
        )
    return NeedleHold(
        call=call,
        limits=(pull, hold),
        gauge_pa=float(needle[-1]),
        held_s=held,
        hold_s=hold.value,
    )
