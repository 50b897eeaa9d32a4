"""Water through every head: it leaves, and nothing comes back three minutes after the stop."""

from collections.abc import Sequence

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import fault_call
from fairline.core.commission.records import Running, WaterTest


def water_check(tests: Sequence[WaterTest], cooled: Running | None) -> Check:
    """The newest test of a head; what was told with a measurement in cooling counts too."""
    last = tests[-1] if tests else None
    if last is None and cooled is not None and cooled.drain:
        last = WaterTest(runs=cooled.drain, by=cooled.by, at=cooled.at)
    return Check(id="drain", label="Drain", call=_call(last))


def _call(last: WaterTest | None) -> Call:
    if last is None:
        return Call(
            verdict=Verdict.WAIT,
            because="The drain has not been seen running.",
            do_next="Pour water into the pan and watch it leave outside.",
        )
    if last.runs == "stands":
        return fault_call("Water stands in the drain.", "Find the lift, dip or kink and clear it.")
    if last.pump == "no":
        return fault_call("The pump does not lift.", "Check its plug, its float and the hose.")
    if last.after_stop == "back":
        return fault_call(
            "Water came back three minutes after the stop.",
            "Look at lift, slope and the pump's check valve.",
        )
    after = ", and nothing came back" if last.after_stop == "dry" else ""
    return Call(verdict=Verdict.HOLDS, because=f"The drain runs{after}.")
