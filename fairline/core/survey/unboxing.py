"""Unboxing: damage, parts, codes and the hiss at the cap, unit by unit."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import check_choice, fault_call
from fairline.core.entry import (
    Entry,
    Text,
    YesNo,
    blank,
)

OUTDOOR = "outdoor"  # the outdoor unit's key among the boxes


class Box(Entry):
    """What came out of one unit's box."""

    serial: Text = ""
    damage: Annotated[Literal["none", "found"] | None, BeforeValidator(blank)] = None
    parts_seen: Annotated[tuple[Text, ...], Field(max_length=100)] = ()
    codes_belong: YesNo = None
    hiss: Annotated[Literal["heard", "none"] | None, BeforeValidator(blank)] = None
    no_hiss_leak_test: Annotated[Literal["sound", "leaks"] | None, BeforeValidator(blank)] = None


def box_checks(key: str, name: str, box: Box, parts: tuple[str, ...]) -> list[Check]:
    """The checks of one unit's box; a head's cap must also have hissed."""
    missing = [p for p in parts if p not in box.parts_seen]
    if parts and missing:
        part_call = Call(
            verdict=Verdict.SHORT if box.parts_seen else Verdict.WAIT,
            because=f"{name}: not seen in the box: {', '.join(missing)}.",
            do_next="Find or order what is missing before the day starts.",
        )
    else:
        what = "every part on the list is there" if parts else "the sheet lists no parts"
        part_call = Call(verdict=Verdict.HOLDS, because=f"{name}: {what}.")
    checks = [
        check_choice(
            f"damage_{key}",
            f"{name}, damage",
            box.damage,
            ("none",),
            {
                "found": fault_call(
                    f"{name}: the box shows damage.",
                    "Photograph it, note it to the carrier, and do not mount it.",
                )
            },
            f"Look it over before it leaves the box: {name}.",
        ),
        Check(id=f"parts_{key}", label=f"{name}, parts", call=part_call),
        check_choice(
            f"codes_{key}",
            f"{name}, code",
            box.codes_belong,
            ("yes",),
            {
                "no": fault_call(
                    f"{name}: the code on the unit is not the one on the sheet.",
                    "Do not mount it: get the matching unit.",
                )
            },
            f"Read the code against the sheet: {name}.",
        ),
    ]
    return checks if key == OUTDOOR else [*checks, hiss_check(key, box)]


def hiss_check(zone: str, box: Box) -> Check:
    """The head's cap must hiss; where it does not, its coil is leak-tested before going on."""
    key, label = f"hiss_{zone}", f"Head {zone}, hiss at the cap"
    if box.hiss != "none":
        return check_choice(
            key, label, box.hiss, ("heard",), {}, "Crack the head's cap and listen for the hiss."
        )
    if box.no_hiss_leak_test == "sound":
        call = Call(
            verdict=Verdict.WATCH,
            because=f"Head {zone}: the cap did not hiss; a leak test found the coil sound.",
        )
    elif box.no_hiss_leak_test == "leaks":
        call = fault_call(
            f"Head {zone}: the cap did not hiss, and the coil leaks.", "Send it back."
        )
    else:
        call = fault_call(
            f"Head {zone}: the cap did not hiss, its factory pressure is gone.",
            "Leak-test this coil with nitrogen before going on.",
        )
    return Check(id=key, label=label, call=call)
