"""What is looked at with the head on its wall: plate, hole, drain."""

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import check_choice, check_limit, fault_call
from fairline.core.mount.wall import WallPlace, outlet
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.sheet import Head

HOLE_TOLERANCE_M = 0.0016  # a sixteenth of an inch: nominal saws differ by less


def as_built(
    zone: str,
    place: WallPlace,
    head: Head,
    rules: Rules,
    ticked: frozenset[str] | None = None,
) -> list[Check]:
    """What is looked at with the head on the wall: plate, hole, drain.

    ``ticked``: the steps of its lists that were done, which answer the same; what is not answered
    is then asked by the list alone. None: no list is asked.
    """
    listed, ticked = ticked is not None, ticked or frozenset()
    wants = head.plate_pitch or rules.school("plate_pitch").name
    words = {"level": "dead level", "slight": "pitched slightly to the drain"}
    other = "slight" if wants == "level" else "level"
    differs = fault_call(
        f"The plate is {words[other]}; it should be {words[wants]}.",
        "Set the plate again.",
        Verdict.WATCH if wants == "level" else Verdict.SHORT,
    )
    off = fault_call(f"The plate is off; it should be {words[wants]}.", "Set the plate again.")
    checks = [
        check_choice(
            f"{zone}_looked",
            "Pipes and wires looked for",
            place.looked,
            ("yes",),
            {
                "no": fault_call(
                    "Nobody has looked for pipes and wires.",
                    "Stop. Detector first, circuit off, then the pilot.",
                    Verdict.STOP,
                )
            },
            "Look for pipes and wires with a detector before the drill goes in.",
        ),
        check_choice(
            f"{zone}_plate",
            "Mounting plate",
            place.plate or (wants if "plate" in ticked else None),
            (wants,),
            {"off": off, other: differs},
            f"Set the plate {words[wants]}.",
        ),
        *_hole_size(zone, place, rules),
        check_limit(
            f"{zone}_hole_fall",
            "Fall of the hole to the outside",
            place.hole_fall_m,
            rules.limit("hole_fall"),
            "small",
            "min",
            "Drill it again with the outside lower: water runs back indoors.",
        ),
        check_choice(
            f"{zone}_drain",
            "Drain at the bottom of the bundle",
            place.drain_low or _yes("bundle" in ticked),
            ("yes",),
            {
                "no": fault_call(
                    "The drain is not at the bottom of the bundle.",
                    "Turn the bundle: drain below, tubes in the middle, cable on top.",
                )
            },
            "Look at the bundle where it leaves the head.",
        ),
    ]
    checks.append(
        check_choice(
            f"{zone}_cable",
            "Cable fed into the head",
            place.cable_fed or _yes("cable" in ticked),
            ("yes",),
            {
                "no": fault_call(
                    "The head hangs and its cable is not in it.",
                    "Take the head off its plate, feed the cable in, hang it again.",
                )
            },
            "Feed the cable in before the head goes on the wall.",
        )
    )
    if listed:
        of_list = {f"{zone}_{name}" for name in ("plate", "drain", "cable")}
        checks = [c for c in checks if c.id not in of_list or c.call.verdict is not Verdict.WAIT]
    way_out = outlet(place, head)
    side = "left" if way_out and (way_out.x_m or 0.0) < 0 else "right"
    if place.drain_side and way_out and way_out.x_m and place.drain_side != side:
        call = fault_call(
            f"The drain leaves at the {place.drain_side}, the hole is at the {side}.",
            "Move the drain hose to the hole's side and the plug to the other.",
            Verdict.WATCH,
        )
        checks.append(Check(id=f"{zone}_drain_side", label="Side of the drain", call=call))
    return checks


def _yes(done: bool) -> str | None:
    return "yes" if done else None


def _hole_size(zone: str, place: WallPlace, rules: Rules) -> list[Check]:
    size = rules.limit("hole_size")
    key = f"{zone}_hole_size"
    if place.hole_m is None or size is None:
        return [check_limit(key, "Hole", place.hole_m, size, "small", "min", "")]
    off = place.hole_m - size.value
    text = (
        f"The hole is {both(place.hole_m, 'small')}, the sheet wants {both(size.value, 'small')}."
    )
    if abs(off) <= HOLE_TOLERANCE_M:
        call = Call(verdict=Verdict.HOLDS, because=text)
    elif off < 0:
        call = fault_call(text, "Enlarge the hole to the sheet's size.")
    else:
        call = fault_call(
            text, "Sleeve it and seal it well: it is larger than it needs to be.", Verdict.WATCH
        )
    return [
        Check(
            id=key,
            label="Hole",
            call=call,
            value=place.hole_m,
            unit="m",
            bound="min",
            limit=size,
            kind="small",
        )
    ]
