"""Before power comes on: wired and holding, valves open, covers on; or by name and reason."""

from collections.abc import Sequence

from fairline.core.call import Call, Check, StageCall, Verdict
from fairline.core.charge.entry import Release
from fairline.core.check import fault
from fairline.core.wire.records import PowerOn

WHY: dict[str, str] = {
    "start": "first start",
    "charge": "to charge while it runs",
    "recover": "to pump down or recover",
}


def lacking(wired: StageCall, releases: Sequence[Release]) -> list[str]:
    """What must still be before power comes on, in words; nothing where the gate is open."""
    found = []
    if wired.call.verdict not in (Verdict.HOLDS, Verdict.WATCH):
        found.append(f"Wire does not hold: {wired.call.because}")
    last = releases[-1] if releases else None
    if last is None or not last.full_open:
        found.append("The valves are not open to the stop.")
    elif not last.caps_on:
        found.append("The caps are not on the valves.")
    return found


def first_start(powered: Sequence[PowerOn]) -> PowerOn | None:
    """The first start, as it is recorded once."""
    return next(iter(powered), None)


def power_check(powered: Sequence[PowerOn], lacks: Sequence[str]) -> Check:
    """Whether the system may run: its first start recorded, through the gate or by name."""
    id, label = "power", "Power"
    first = first_start(powered)
    if first is None and lacks:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"Power stays off: {lacks[0]}",
            do_next="Leave the disconnect off until that is mended.",
        )
    elif first is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="The first start is not recorded.",
            do_next="Hands out, covers on: switch the disconnect on, and record the first start.",
        )
    elif lacks and not powered[-1].overridden:
        call = fault(
            f"Power is on, and this does not hold: {lacks[0]}",
            "Switch off and lock it until it does, or go on by name and reason.",
        )
    elif powered[-1].overridden and lacks:
        last = powered[-1]
        call = Call(
            verdict=Verdict.WATCH,
            because=f"Power is on by {last.override_by}: {last.override_reason}. "
            f"Still so: {lacks[0]}",
            do_next="Mend it before the job is handed over.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"Power is on; first started by {first.by}.")
    return Check(id=id, label=label, call=call)
