"""What can hurt someone on the site: what was seen on the walk, and its caution."""

from collections.abc import Sequence
from typing import Literal

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import fault_call

Hazard = Literal["none", "old_siding", "services", "height", "attic", "traffic", "coast"]

HAZARDS: dict[Hazard, tuple[str, str]] = {
    "none": ("None seen", ""),
    "old_siding": (
        "Old siding or plaster",
        "Asbestos or lead: nothing is cut, drilled or sanded before it is tested.",
    ),
    "services": (
        "Pipes or wires in the wall",
        "Find them with a detector and switch the circuit off before the drill goes in.",
    ),
    "height": ("Work at height", "Footed ladder or scaffold, tools on a line, a second person."),
    "attic": (
        "Attic or crawl space",
        "Weight on the joists only, water against the heat, a mask, a second person.",
    ),
    "traffic": ("Traffic or people below", "Close the ground below off before work above it."),
    "coast": (
        "Salt, corrosive or flammable gas",
        "This rules a place out unless the sheet allows it.",
    ),
}


def hazard_checks(seen: Sequence[Hazard], siding_tested: str | None) -> list[Check]:
    """Every hazard that was ticked with its caution; a wait while nobody looked."""
    if not seen:
        call = Call(
            verdict=Verdict.WAIT,
            because="Hazards: not looked for yet.",
            do_next="Walk the place and tick what is there, or that nothing is.",
        )
        return [Check(id="hazards", label="Hazards", call=call)]
    checks = []
    for hazard in seen:
        label, caution = HAZARDS[hazard]
        if hazard == "old_siding" and siding_tested != "yes":
            call = fault_call(
                "Old siding is not tested: it can hold asbestos or lead.",
                "Have it tested before anything is cut. Local codes and licensed practice decide.",
                Verdict.STOP,
            )
        elif hazard == "coast":
            call = fault_call(
                f"{label}. {caution}", "Read the sheet's list of places.", Verdict.WATCH
            )
        else:
            call = Call(verdict=Verdict.HOLDS, because=f"{label}. {caution}".strip())
        checks.append(Check(id=f"hazard_{hazard}", label=label, call=call))
    return checks
