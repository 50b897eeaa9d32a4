"""Survey: the site, the room and its load, the sheet, and what came out of the boxes."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from fairline.core.calc.room_charge_limit import (
    ChargedRoom,
    RoomChargeLimitRequest,
    no_limit_below_kg,
    room_charge_limit,
)
from fairline.core.call import Call, Check, StageCall, Verdict
from fairline.core.check import answered, fault, stage_call
from fairline.core.entry import AreaM2, Entry, LongText, PowerW, Text, _blank
from fairline.core.practice import Rules
from fairline.core.quantities import both

OVERSIZE = 1.5  # capacity over load; above it the head short-cycles (common practice, no source)

Answer = Annotated[Literal["yes", "no"] | None, BeforeValidator(_blank)]


class Room(Entry):
    """A room the line serves; ``load_w`` comes from a load calculation, not from here."""

    name: Text = ""
    area_m2: AreaM2 = None
    load_w: PowerW = None


class SurveyEntry(Entry):
    rooms: Annotated[tuple[Room, ...], Field(max_length=20)] = ()
    head_room: Text = ""
    outdoor_place: Text = ""
    hazards: LongText = ""
    notes: LongText = ""
    surveyed_by: Text = ""
    damage: Annotated[Literal["none", "found"] | None, BeforeValidator(_blank)] = None
    parts_seen: Annotated[tuple[Text, ...], Field(max_length=100)] = ()
    outdoor_serial: Text = ""
    head_serial: Text = ""
    codes_belong: Answer = None
    hiss: Annotated[Literal["heard", "none"] | None, BeforeValidator(_blank)] = None
    no_hiss_leak_test: Annotated[Literal["sound", "leaks"] | None, BeforeValidator(_blank)] = None

    @property
    def served(self) -> Room | None:
        """The room the head hangs in: the one named, else the only one there is."""
        named = [r for r in self.rooms if r.name and r.name == self.head_room]
        if named:
            return named[0]
        return self.rooms[0] if len(self.rooms) == 1 else None


def judge(entry: SurveyEntry, rules: Rules) -> StageCall:
    """Is the job right before the first hole: sheet, load, boxes."""
    factory_kg = rules.sheet.outdoor.factory_charge_kg if rules.sheet else None
    charge = room_check(factory_kg, entry.served, rules)
    checks = [_sheet(rules), _room(entry), _load(entry, rules), *([charge] if charge else [])]
    checks += _boxes(entry, rules)
    count = len([r for r in entry.rooms if r.name])
    return stage_call(
        checks,
        "The sheet is read, the head suits its room and the boxes are right.",
        summary=f"{count} room{'' if count == 1 else 's'}" if count else "",
        started=entry != SurveyEntry(),
    )


def _sheet(rules: Rules) -> Check:
    if rules.sheet is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="No equipment sheet is chosen.",
            do_next="Choose the equipment sheet.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"The sheet is {rules.sheet.name}.")
    return Check(id="sheet", label="Equipment sheet", call=call)


def _room(entry: SurveyEntry) -> Check:
    if not any(r.name for r in entry.rooms):
        call = Call(
            verdict=Verdict.WAIT,
            because="No room is entered.",
            do_next="Enter the room the head serves.",
        )
    elif entry.served is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="Several rooms, and none is named for the head.",
            do_next="Name the room the head hangs in, as it stands in the list.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"The head serves {entry.served.name}.")
    return Check(id="room", label="Room", call=call)


def _load(entry: SurveyEntry, rules: Rules) -> Check:
    label = "Capacity for the load"
    load = entry.served.load_w if entry.served else None
    capacity = rules.sheet.head.cool_w if rules.sheet else None
    if load is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="The room's design load is not entered.",
            do_next="Enter the design load from the load calculation.",
        )
    elif capacity is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no cooling capacity.",
            do_next="Enter the head's rated cooling on the sheet.",
        )
    else:
        text = f"The head gives {both(capacity, 'power')} for a load of {both(load, 'power')}"
        if capacity < load:
            call = fault(f"{text}: too little.", "Choose a larger head or lower the load.")
        elif load > 0 and capacity > OVERSIZE * load:
            call = fault(
                f"{text}: much more than it needs, so it will run in short bursts.",
                "Check the load calculation, or choose a smaller head.",
                Verdict.WATCH,
            )
        else:
            call = Call(verdict=Verdict.HOLDS, because=f"{text}.")
    return Check(id="load", label=label, call=call, value=load, unit="W")


def room_check(charge_kg: float | None, room: Room | None, rules: Rules) -> Check | None:
    """The whole charge against the head's room; None for a refrigerant that does not burn."""
    if rules.sheet is None or charge_kg is None:
        return None
    refrigerant = rules.sheet.outdoor.refrigerant
    free_kg = no_limit_below_kg(refrigerant)
    if free_kg is None:
        return None
    label = "Room for the refrigerant"
    area_m2 = room.area_m2 if room else None
    if charge_kg > free_kg and not area_m2:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{both(charge_kg, 'charge')} of {refrigerant} needs a room of some size.",
            do_next="Enter the room's floor area.",
        )
        return Check(id="room_charge", label=label, call=call)
    asked = ChargedRoom(
        id=room.name if room and room.name else "the room", area_m2=area_m2 or 1.0, mounting="wall"
    )
    answer = room_charge_limit(
        RoomChargeLimitRequest(refrigerant=refrigerant, charge_kg=charge_kg, rooms=[asked])
    )
    return Check(id="room_charge", label=label, call=answer.call, value=charge_kg, unit="kg")


def _boxes(entry: SurveyEntry, rules: Rules) -> list[Check]:
    parts = rules.sheet.parts_list() if rules.sheet else ()
    missing = [p for p in parts if p not in entry.parts_seen]
    if parts and missing:
        seen = bool(entry.parts_seen)
        part_call = Call(
            verdict=Verdict.SHORT if seen else Verdict.WAIT,
            because=f"Not seen in the boxes: {', '.join(missing)}.",
            do_next="Find or order what is missing before the day starts.",
        )
    elif parts:
        part_call = Call(verdict=Verdict.HOLDS, because="Every part on the sheet's list is there.")
    else:
        part_call = Call(verdict=Verdict.HOLDS, because="The sheet lists no parts to check.")
    checks = [
        answered(
            "damage",
            "Damage",
            entry.damage,
            ("none",),
            {
                "found": fault(
                    "The boxes show damage.",
                    "Photograph it, note it to the carrier, and do not mount it.",
                )
            },
            "Look the units over before they leave the box.",
        ),
        Check(id="parts", label="Parts", call=part_call),
        answered(
            "codes",
            "Indoor and outdoor codes",
            entry.codes_belong,
            ("yes",),
            {
                "no": fault(
                    "The indoor and outdoor codes do not belong together.",
                    "Do not mount them: get the matching unit.",
                )
            },
            "Read both model codes against the sheet.",
        ),
    ]
    hiss: Call | None = None
    if entry.hiss == "none":
        if entry.no_hiss_leak_test == "sound":
            hiss = Call(
                verdict=Verdict.WATCH,
                because="The coil's cap did not hiss; a leak test of the coil found it sound.",
            )
        elif entry.no_hiss_leak_test == "leaks":
            hiss = fault("The coil's cap did not hiss, and the coil leaks.", "Send the head back.")
        else:
            hiss = fault(
                "The coil's cap did not hiss: its factory pressure is gone.",
                "Leak-test this coil with nitrogen before going on.",
            )
    checks.append(
        Check(id="hiss", label="Hiss at the cap", call=hiss)
        if hiss
        else answered(
            "hiss",
            "Hiss at the cap",
            entry.hiss,
            ("heard",),
            {},
            "Crack the head's cap once and listen for the hiss.",
        )
    )
    return checks
