"""Survey: the site, the rooms and their loads, the heads wanted, what came out of the boxes."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, field_validator

from fairline.core.call import Call, Check, StageCall, Verdict
from fairline.core.check import fault_call, plural, stage_call
from fairline.core.entry import (
    AltitudeM,
    AreaM2,
    DistanceM,
    Entry,
    LongText,
    PowerW,
    SpanM,
    Text,
    YesNo,
    blank,
    words,
)
from fairline.core.equipment import Equipment, Zone
from fairline.core.practice import Rules
from fairline.core.procedures.procedure import Asked, At, Figure, asked
from fairline.core.quantities import both
from fairline.core.sheet.head import Form
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.hazards import Hazard, hazard_checks
from fairline.core.survey.old_machine import OldMachine
from fairline.core.survey.options import PlaceOptions, Weighed, option_checks, weighed
from fairline.core.survey.proposal import Wanted, belongs, capacity
from fairline.core.survey.smallest_room import room_check
from fairline.core.survey.unboxing import OUTDOOR, Box, box_checks
from fairline.core.survey.ways import WayWorked, compared

ROOMS, WALK, BOXES = "rooms", "walk", "boxes"  # what is entered at the table, on site, unpacking
OVERSIZE = 1.5  # capacity over load; above it the head short-cycles (common practice, no source)


class Room(Entry):
    """A room the system serves; ``load_w`` comes from a load calculation, not from here.

    ``load_by`` is what speaks for it (glass, insulation, faces). ``through_door``: a room without a
    head is served through its undercut door, with an exhaust fan.
    """

    name: Text = ""
    area_m2: AreaM2 = None
    ceiling_m: DistanceM = None
    exposure: Annotated[
        Literal["north", "east", "south", "west", "inner", "roof"] | None, BeforeValidator(blank)
    ] = None
    load_w: PowerW = None
    heat_load_w: PowerW = None
    load_by: Text = ""
    through_door: YesNo = None


class WantedHead(Entry):
    """A head wanted in a room, now or later; ``sheet`` names its sheet on the shelf.

    ``pair``: whether the maker's table names it with the outdoor unit, where the sheets do not.
    ``agreed``: what was agreed to stay clear of it, and with whom. ``options``: places that it
    could take, and ``why_there`` the owner's reason for the one that is taken. ``way_m``: how far
    it is from the unit along the way, before Route knows it.
    """

    zone: Zone
    room: Text = ""
    form: Form = "high-wall"
    when: Literal["now", "later"] = "now"
    sheet: Text = ""
    pair: YesNo = None
    agreed: Text = ""
    options: PlaceOptions = ()
    why_there: Text = ""
    way_m: DistanceM = None


class SurveyEntry(Entry):
    """What is known before the first hole.

    ``wish``: what the owner wants, in their words. ``shared_m``: how much of the ways to the heads
    they share.
    """

    rooms: Annotated[tuple[Room, ...], Field(max_length=30)] = ()
    heads: Annotated[tuple[WantedHead, ...], Field(max_length=26)] = ()
    outdoor: Text = ""
    outdoor_place: Text = ""
    altitude_m: AltitudeM = None
    bedrooms_near: YesNo = None
    wall: Annotated[Literal["frame", "masonry", "mixed"] | None, BeforeValidator(blank)] = None
    siding: Text = ""
    access: LongText = ""
    flood_m: SpanM = None
    snow_m: SpanM = None
    frost: YesNo = None
    hazards_seen: Annotated[tuple[Hazard, ...], BeforeValidator(words), Field(max_length=7)] = ()
    siding_tested: YesNo = None
    work_height_m: DistanceM = None
    hazards: LongText = ""
    notes: LongText = ""
    surveyed_by: Text = ""
    travels: YesNo = None
    old: OldMachine = OldMachine()
    wish: LongText = ""
    shared_m: DistanceM = None
    boxes: dict[str, Box] = {}

    @field_validator("heads")
    @classmethod
    def _zones_are_single(cls, value: tuple[WantedHead, ...]) -> tuple[WantedHead, ...]:
        zones = [h.zone for h in value]
        if len(set(zones)) != len(zones):
            raise ValueError("a zone's letter stands twice")
        return value

    @field_validator("boxes")
    @classmethod
    def _keys(cls, value: dict[str, Box]) -> dict[str, Box]:
        for key in value:
            if key != OUTDOOR and not (len(key) == 1 and "A" <= key <= "Z"):
                raise ValueError(f"no unit is called {key[:40]}")
        return value

    @property
    def now(self) -> tuple[WantedHead, ...]:
        return tuple(h for h in self.heads if h.when == "now")

    def room_of(self, zone: str | None = None) -> Room | None:
        """The room a zone's head hangs in; of the only room there is, that one."""
        head = next((h for h in self.heads if zone in (None, h.zone)), None)
        named = [r for r in self.rooms if r.name and head and r.name == head.room]
        if named:
            return named[0]
        return self.rooms[0] if len(self.rooms) == 1 and len(self.heads) <= 1 else None

    def box(self, key: str) -> Box:
        return self.boxes.get(key, Box())


def wanted(entry: SurveyEntry, equipment: Equipment) -> list[Wanted]:
    """The heads wanted, each with its room and the sheet it is planned with.

    Whether the maker's table names a pair is said once for heads of one sheet.
    """
    found = []
    named = {h.sheet: h.pair for h in reversed(entry.heads) if h.sheet and h.pair is not None}
    for head in entry.heads:
        room = entry.room_of(head.zone)
        sheet = equipment.head(head.zone) if head.sheet else None
        found.append(
            Wanted(
                zone=head.zone,
                room=room.name if room else head.room,
                form=sheet.form if sheet else head.form,
                area_m2=(room.area_m2 or None) if room else None,
                load_w=(room.load_w or None) if room else None,
                heat_load_w=(room.heat_load_w or None) if room else None,
                later=head.when == "later",
                pair=head.pair or named.get(head.sheet),
                height_m=(room.ceiling_m or None) if room else None,
                altitude_m=entry.altitude_m or 0.0,
                sheet=sheet,
            )
        )
    return found


@dataclass(frozen=True, eq=False)
class SurveyStageResult(StageResult):
    """The heads wanted with their rooms, and the coils that keep the pressure test shut.

    ``options``: of each head that could hang in several places, those; ``ways``: the kinds of
    systems, where it is said how far several heads are.
    """

    wanted: list[Wanted]
    open_coils: list[str]
    options: dict[str, list[Weighed]]
    ways: list[WayWorked]


def work(context: StageContext) -> SurveyStageResult:
    entry, equipment = context.entry(SurveyEntry), context.equipment
    return SurveyStageResult(
        call=judge(entry, equipment, context.rules),
        wanted=wanted(entry, equipment),
        open_coils=open_coils(entry),
        options={
            h.zone: weighed(h.options, context.rules.of(h.zone))
            for h in entry.heads
            if len(h.options) > 1
        },
        ways=compared([h.way_m for h in entry.heads if h.way_m], entry.shared_m or 0.0),
    )


def judge(entry: SurveyEntry, equipment: Equipment, rules: Rules) -> StageCall:
    """Is the job right before the first hole: rooms, heads, outdoor unit, hazards, boxes."""
    heads = wanted(entry, equipment)
    checks = [_rooms(entry), *_without_head(entry), _outdoor(rules)]
    for head in heads:
        checks += [c.model_copy(update={"zone": head.zone}) for c in _head(head, rules)]
    for row in entry.heads:
        found = option_checks(row.zone, row.options, row.why_there)
        checks += [c.model_copy(update={"zone": row.zone}) for c in found]
    checks += _system(heads, rules)
    checks = [
        *_on(ROOMS, checks),
        *_on(WALK, hazard_checks(entry.hazards_seen, entry.siding_tested)),
        *_on(BOXES, _boxes(entry, equipment)),
    ]
    count = len(entry.now)
    limits = [c.limit for c in checks if c.limit is not None]
    answer = capacity(rules, heads) if rules.outdoor else None
    return stage_call(
        checks,
        "The outdoor unit carries its heads, each head suits its room, and the boxes are right.",
        summary=plural(count, "head") if count else "",
        started=entry != SurveyEntry(),
        governed_by=[*limits, *(answer.governed_by if answer else ())],
        working=answer.working if answer else (),
        findings=answer.findings if answer else (),
    )


def _on(part: str, checks: list[Check]) -> list[Check]:
    """Checks with the part of the survey on which they are mended."""
    return [c.model_copy(update={"part": part}) for c in checks]


def _rooms(entry: SurveyEntry) -> Check:
    if not any(r.name for r in entry.rooms):
        call = Call(
            verdict=Verdict.WAIT,
            because="No room is entered.",
            do_next="Enter the rooms, with their design loads.",
        )
    elif not entry.now:
        call = Call(
            verdict=Verdict.WAIT,
            because="No head is wanted yet.",
            do_next="Add the heads wanted now, and those of later.",
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{plural(len(entry.now), 'head')} now, "
            f"{len(entry.heads) - len(entry.now)} later.",
        )
    return Check(id="room", label="Rooms and heads", call=call)


def _without_head(entry: SurveyEntry) -> list[Check]:
    """A room with a load and no head: served through its door, or forgotten.

    A door undercut by 2 in and an exhaust fan do for a bathroom (common practice, no source).
    """
    served = {h.room for h in entry.heads}
    found = []
    for n, room in enumerate(entry.rooms):
        if not (room.name and room.load_w and len(entry.heads) and room.name not in served):
            continue
        if room.through_door == "yes":
            call = Call(
                verdict=Verdict.HOLDS,
                because=f"{room.name} is served through its undercut door, with a fan.",
            )
        else:
            call = fault_call(
                f"{room.name} has a load and no head.",
                "Give it a head, or undercut its door by 2 in and see that it has an exhaust fan.",
                Verdict.WATCH,
            )
        found.append(Check(id=f"no_head_{n}", label=room.name, call=call))
    return found


def _outdoor(rules: Rules) -> Check:
    if rules.outdoor is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="No outdoor unit is chosen.",
            do_next="Choose the outdoor unit.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"The outdoor unit is {rules.outdoor.name}.")
    return Check(id="sheet", label="Outdoor unit", call=call)


def _head(head: Wanted, rules: Rules) -> list[Check]:
    where = head.room or f"zone {head.zone}"
    label, key = f"{head.zone}, {where}", f"load_{head.zone}"
    load, later = head.load_w, head.later
    sheet = head.sheet
    if load is None:
        call = Call(
            verdict=Verdict.WATCH if later else Verdict.WAIT,
            because=f"{label}: the room's design load is not entered.",
            do_next="Name the room and enter its design load from the load calculation.",
        )
    elif sheet is None:
        call = Call(
            verdict=Verdict.WATCH if later else Verdict.UNKNOWN,
            because=f"{label}: no head is chosen.",
            do_next=f"Choose the head of zone {head.zone}.",
        )
    elif sheet.cool_w is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"{label}: the sheet gives no cooling capacity.",
            do_next="Enter the head's rated cooling on its sheet.",
        )
    else:
        text = f"{label}: the head gives {both(sheet.cool_w, 'power')} for {both(load, 'power')}"
        if sheet.cool_w < load:
            call = fault_call(f"{text}: too little.", "Choose a larger head or lower the load.")
        elif sheet.cool_w > OVERSIZE * load:
            call = fault_call(
                f"{text}: much more than it needs, so it will run in short bursts.",
                "Check the load calculation, or choose a smaller head.",
                Verdict.WATCH,
            )
        else:
            call = Call(verdict=Verdict.HOLDS, because=f"{text}.")
    checks = [Check(id=key, label=label, call=call, value=load, unit="W")]
    if sheet is not None and sheet.heat_w and head.heat_load_w:
        checks.append(_heating(head, sheet.heat_w, head.heat_load_w))
    if sheet is not None and rules.outdoor is not None:
        pair = belongs(rules.outdoor, sheet)
        if pair.verdict is Verdict.WATCH and head.pair is not None:
            pair = (
                Call(
                    verdict=Verdict.HOLDS,
                    because=f"{sheet.name} belongs to {rules.outdoor.name}, by the maker's table.",
                )
                if head.pair == "yes"
                else fault_call(
                    f"The maker's table does not name {sheet.name} with {rules.outdoor.name}.",
                    "Take a head that it names.",
                )
            )
        checks.append(Check(id=f"pair_{head.zone}", label=f"{head.zone} belongs", call=pair))
    return checks


def _heating(head: Wanted, heat_w: float, load_w: float) -> Check:
    """Rated heating against the heating load; in hard frost a heat pump gives less than rated."""
    label = f"{head.zone}, heating"
    text = f"{label}: {both(heat_w, 'power')} rated for {both(load_w, 'power')}"
    if heat_w < load_w:
        call = fault_call(
            f"{text}: too little.", "Choose a larger head, or keep another heat source."
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{text}.")
    return Check(id=f"heat_{head.zone}", label=label, call=call, value=load_w, unit="W")


def _system(heads: list[Wanted], rules: Rules) -> list[Check]:
    """Σ capacity and number of heads, and the whole charge against the smallest room."""
    if rules.outdoor is None or not heads:
        return []
    checks = []
    answer = capacity(rules, heads)
    single = rules.outdoor.system == "single" and len(heads) == 1
    if answer is not None and not (single and answer.call.verdict is Verdict.UNKNOWN):
        checks.append(
            Check(
                id="capacity",
                label="Connected capacity",
                call=answer.call,
                value=sum(h.cool_w or 0.0 for h in heads),
                unit="W",
                limit=rules.limit("max_connected"),
            )
        )
    charge_kg = rules.outdoor.factory_charge_kg
    most_kg = rules.outdoor.max_total_charge_kg
    for at_most in (False, True):
        kg = most_kg if at_most else charge_kg
        found = room_check(kg, heads, rules)
        if found is None:
            continue
        if at_most and found.call.verdict is Verdict.STOP:
            found = found.model_copy(
                update={
                    "id": "room_charge_most",
                    "label": "Room, were the line as long as allowed",
                    "call": Call(
                        verdict=Verdict.WATCH,
                        because=f"The most the sheet allows is too much: {found.call.because}",
                        do_next="Keep the line short, or look at the room again in Charge.",
                    ),
                }
            )
            checks.append(found)
        elif not at_most:
            checks.append(found)
            if found.call.verdict is not Verdict.HOLDS:
                break
    return checks


def _boxes(entry: SurveyEntry, equipment: Equipment) -> list[Check]:
    """Damage, parts, codes and the hiss, unit by unit, of all that is mounted now."""
    checks: list[Check] = []
    if equipment.outdoor is not None:
        checks += box_checks(
            OUTDOOR, "Outdoor unit", entry.box(OUTDOOR), equipment.outdoor.sheet.parts_list()
        )
    for head in entry.now:
        sheet = equipment.head(head.zone)
        if sheet is not None:
            checks += box_checks(
                head.zone, f"Head {head.zone}", entry.box(head.zone), sheet.parts_list()
            )
    return checks


def open_coils(entry: SurveyEntry) -> list[str]:
    """Zones whose coil did not hiss and is not proven sound: they keep the pressure test shut."""
    return [
        h.zone
        for h in entry.now
        if (box := entry.box(h.zone)).hiss == "none" and box.no_hiss_leak_test != "sound"
    ]


def procedures(context: StageContext, worked: SurveyStageResult) -> Iterator[Asked]:
    """What is read and agreed before anything is cut; the old machine where it goes."""
    entry, equipment = context.entry(SurveyEntry), context.equipment
    if not worked.wanted:
        return
    sheets = [
        *([equipment.outdoor.sheet] if equipment.outdoor else []),
        *(h.sheet for h in equipment.heads),
    ]
    editions = ", ".join(dict.fromkeys(f"{s.model} {s.edition}" for s in sheets if s.edition))
    yield from asked("read", {}, At(part=BOXES), {"edition": editions} if editions else {})
    kg = entry.old.recovered_kg
    figures: dict[str, Figure] = {} if kg is None else {"recovered": (kg, "charge")}
    yield from asked("old-machine", {"old": entry.old.fate or ""}, At(part=WALK), figures)


STAGE = Stage(name="survey", title="Survey", entry=SurveyEntry, work=work, procedures=procedures)
