"""The site's altitude, where the survey and this stage say something else."""

from fairline.core.call import Check, Verdict
from fairline.core.check import fault_call
from fairline.core.quantities import both

SAME_ALTITUDE_M = 30.0  # 350 Pa of air: no more than the weather; our own choice


def two_altitudes(own_m: float | None, at_m: float | None) -> list[Check]:
    """An altitude entered here that is not the survey's: which of them counts is told."""
    if own_m is None or at_m is None or abs(own_m - at_m) < SAME_ALTITUDE_M:
        return []
    call = fault_call(
        f"The survey says {both(at_m, 'length')} above the sea, this page {both(own_m, 'length')}: "
        "the survey's counts.",
        "Find which is right, and clear the other one.",
        Verdict.WATCH,
    )
    return [Check(id="altitude", label="Altitude", call=call)]
