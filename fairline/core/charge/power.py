"""Before power comes on: wired and holding, valves open, covers on; or by name and reason."""

from collections.abc import Sequence

from fairline.core.call import Call, Check, StageCall, Verdict
from fairline.core.charge.entry import Release
from fairline.core.charge.override import Lacking, words_of
from fairline.core.check import fault_call
from fairline.core.wire.records import PowerOn

WHY: dict[str, str] = {
    "start": "first start",
    "charge": "to charge while it runs",
    "recover": "to pump down or recover",
}


def lacking(wired: StageCall, releases: Sequence[Release]) -> list[Lacking]:
    """What must still be before power comes on; nothing where the gate is open.

    ``releases``: the opening of every circuit, none of them where one is shut.

    Wiring that can hurt somebody is passed over by nobody.
    """
    found = []
    if wired.call.verdict not in (Verdict.HOLDS, Verdict.WATCH):
        hurts = wired.call.verdict is Verdict.STOP
        found.append(Lacking("wire", f"Wire does not hold: {wired.call.because}", hurts))
    if not releases or not all(r.full_open for r in releases):
        found.append(Lacking("valves", "The valves are not open to the stop."))
    elif not all(r.caps_on for r in releases):
        found.append(Lacking("caps", "The caps are not on the valves."))
    return found


def lacking_for(why: str, lacks: Sequence[Lacking]) -> list[Lacking]:
    """What is lacking for a purpose: while one charges or recovers, the stems' caps may wait."""
    return [x for x in lacks if why == "start" or x.name != "caps"]


def first_start(powered: Sequence[PowerOn]) -> PowerOn | None:
    """The first start, as it is recorded once."""
    return next(iter(powered), None)


def power_check(powered: Sequence[PowerOn], lacks: Sequence[Lacking]) -> Check:
    """Whether the system may run: its first start recorded, through the gate or by name."""
    id, label = "power", "Power"
    first = first_start(powered)
    last = powered[-1] if powered else None
    open_ = lacking_for(last.why, lacks) if last is not None else list(lacks)
    left = [x for x in open_ if last is None or x.name not in last.named or x.hurts]
    if last is None or first is None:
        call = (
            Call(
                verdict=Verdict.WAIT,
                because=f"Power stays off: {left[0].because}",
                do_next="Leave the disconnect off until that is mended.",
            )
            if left
            else Call(
                verdict=Verdict.WAIT,
                because="The first start is not recorded.",
                do_next="Hands out, covers on: switch the disconnect on, and record the first "
                "start.",
            )
        )
    elif left:
        call = fault_call(
            f"Power is on, and this does not hold: {left[0].because}",
            "Switch off and lock it until it does.",
        )
    elif last.overridden:
        over = f", over {words_of(last.passed)}" if last.passed else ""
        still = f" Still so: {open_[0].because}" if open_ else ""
        call = Call(
            verdict=Verdict.WATCH,
            because=f"Power is on by {last.override_by}{over}: {last.override_reason}.{still}",
            do_next="Mend it before the job is handed over." if open_ else None,
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"Power is on; first started by {first.by}.")
    return Check(id=id, label=label, call=call)
