"""The whole charge against the smallest room that it could leak into."""

from fairline.core.call import Call, Check, Verdict, deciding
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.sheet import Outdoor
from fairline.core.survey.proposal import RELEASE, Wanted, room_charge

SMALLEST_ROOM_M2 = 3.0  # no room with a head is smaller; our own choice


def _in_the_smallest_room(charge_kg: float, heads: list[Wanted], outdoor: Outdoor) -> Call:
    """Whether a room's size has to be known: by the smallest that a head could hang in."""
    nothing = room_charge(
        outdoor,
        charge_kg,
        "",
        SMALLEST_ROOM_M2,
        heads[0].form if heads else next(iter(RELEASE)),
        altitude_m=heads[0].altitude_m if heads else 0.0,
    )
    if nothing.verdict is Verdict.HOLDS:
        return nothing
    missing = [h.zone for h in heads if not h.area_m2]
    return Call(
        verdict=Verdict.WAIT,
        because=f"{both(charge_kg, 'charge')} of {outdoor.refrigerant} needs a room of some size.",
        do_next=f"Enter the floor area of the room of {', '.join(missing) or 'the head'}.",
    )


def room_check(charge_kg: float | None, heads: list[Wanted], rules: Rules) -> Check | None:
    """The whole charge against the smallest room: what burns, and what takes the air."""
    if rules.outdoor is None or charge_kg is None:
        return None
    label = "Room for the refrigerant"
    known = [h for h in heads if h.area_m2]
    calls = [
        room_charge(
            rules.outdoor, charge_kg, h.room, h.area_m2 or 1.0, h.form, h.height_m, h.altitude_m
        )
        for h in known
    ]
    worst = deciding(calls) if calls else None
    worst = worst if worst and worst.verdict is not Verdict.HOLDS else None
    if worst is None and (not known or len(known) < len(heads)):
        worst = _in_the_smallest_room(charge_kg, heads, rules.outdoor)
        if worst.verdict is Verdict.WAIT:
            return Check(id="room_charge", label=label, call=worst)
    call = worst or calls[0]
    return Check(id="room_charge", label=label, call=call, value=charge_kg, unit="kg")
