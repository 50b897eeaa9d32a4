"""Which outdoor units on the shelf carry the heads wanted, now and later, and why others do not."""

import math
from collections.abc import Sequence

from fairline.core.calc.room_charge_limit import (
    NEAR_SHARE,
    SAME,
    ChargedRoom,
    Mounting,
    RoomChargeLimitRequest,
    room_charge_limit,
)
from fairline.core.calc.system_capacity import (
    CarryRule,
    SystemCapacityRequest,
    SystemCapacityResult,
    WantedHeadLoad,
    system_capacity,
)
from fairline.core.call import Answer, Call, Frozen, Limit, Verdict, sheet_limit
from fairline.core.check import fault_call, plural
from fairline.core.limit_list import LIMITS, LimitName
from fairline.core.physics.tubing import same_size
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.sheet import Head, Outdoor
from fairline.core.sheet.head import Form

CARRIED: tuple[LimitName, ...] = ("min_connected", "max_connected", "min_heads", "max_heads")
RELEASE: dict[Form, Mounting] = {
    "high-wall": "wall",
    "console": "floor",
    "cassette": "ceiling",
    "ducted": "ceiling",
}


class Wanted(Frozen):
    """A head that is wanted: where, of what make, and the room it could leak into."""

    zone: str
    room: str = ""
    form: Form = "high-wall"
    area_m2: float | None = None
    load_w: float | None = None
    heat_load_w: float | None = None
    later: bool = False
    pair: str | None = None
    height_m: float | None = None
    altitude_m: float = 0.0
    line_m: float | None = None  # of tube from the unit to it, where its run is laid out
    lift_m: float | None = None  # how far it is above the unit; negative below
    sheet: Head | None = None

    @property
    def cool_w(self) -> float | None:
        """The head's capacity, else the load it will have to meet."""
        return (self.sheet.cool_w if self.sheet else None) or self.load_w


class Proposal(Frozen):
    """One outdoor unit held against the heads wanted: ``reasons`` against it, ``asks`` open."""

    outdoor: Outdoor
    call: Call
    reasons: tuple[str, ...] = ()
    asks: tuple[str, ...] = ()
    share: float | None = None  # connected capacity, with later heads, over the most permitted


def carried(rules: Rules) -> list[Limit]:
    """What governs the heads that the outdoor unit carries: capacity and number, least and most.

    A single-zone unit carries one head by its nature, of at most its own cooling.
    """
    outdoor = rules.outdoor
    found = {n: limit for n in CARRIED if (limit := rules.limit(n)) is not None}
    if outdoor is not None and outdoor.system == "single":
        least = found["min_connected"].value if "min_connected" in found else 0.0
        own: tuple[tuple[LimitName, str, float | None, str], ...] = (
            ("max_connected", "most connected capacity", max(outdoor.cool_w or 0.0, least), "W"),
            ("max_heads", "most heads", 1.0, "heads"),
        )
        for name, label, value, unit in own:
            if value and (name not in found or name == "max_heads"):
                source = f"{outdoor.name} is for a single zone"
                found[name] = sheet_limit(limit=label, value=value, unit=unit, source=source)
    if outdoor is not None and (ports := outdoor.port_count()) is not None:
        most = found.get("max_heads")
        if most is None or ports < most.value:
            found["max_heads"] = sheet_limit(
                limit="ports for heads",
                value=float(ports),
                unit="heads",
                source=outdoor.source("ports"),
            )
    return list(found.values())


def _value(limits: Sequence[Limit], name: LimitName) -> float | None:
    labels = {LIMITS[name].label, *(("ports for heads",) if name == "max_heads" else ())}
    return next((x.value for x in limits if x.limit in labels), None)


def belongs(outdoor: Outdoor, head: Head) -> Call:
    """Whether a head's code belongs to the outdoor unit: refrigerant first, then series."""
    if head.refrigerant and head.refrigerant != outdoor.refrigerant:
        return fault_call(
            f"{head.name} is for {head.refrigerant}, {outdoor.name} holds {outdoor.refrigerant}.",
            "Take a head of the same refrigerant.",
            Verdict.STOP,
        )
    if head.maker.casefold() != outdoor.maker.casefold():
        return fault_call(
            f"{head.name} and {outdoor.name} are of two makers.",
            "Take a head of the outdoor unit's maker.",
        )
    if head.series and outdoor.series and head.series.casefold() != outdoor.series.casefold():
        return fault_call(
            f"{head.name} is of series {head.series}, {outdoor.name} of {outdoor.series}.",
            "Take a head that the outdoor unit's sheet names.",
        )
    if not head.series or not outdoor.series:
        return Call(
            verdict=Verdict.WATCH,
            because=f"Does {head.name} belong to {outdoor.name}? A sheet names no series.",
            do_next="Look for the pair on the maker's combination table.",
        )
    return Call(verdict=Verdict.HOLDS, because=f"{head.name} belongs to {outdoor.name}.")


def capacity(rules: Rules, wanted: Sequence[Wanted]) -> Answer[SystemCapacityResult] | None:
    """Σ of the heads against what governs its range; None while a capacity is not known."""
    if not wanted or any(not w.cool_w for w in wanted):
        return None
    heads = [WantedHeadLoad(id=w.zone, cool_w=w.cool_w or 1.0, later=w.later) for w in wanted]
    limits = carried(rules)
    values = {name: _value(limits, name) for name in CARRIED}
    fewest, places = values["min_heads"], values["max_heads"]
    # Limits of several authorities may contradict each other: that is judged, not refused.
    rule = CarryRule.model_construct(
        min_connected_w=values["min_connected"],
        max_connected_w=values["max_connected"],
        min_heads=None if fewest is None else math.ceil(fewest),
        max_heads=None if places is None else math.floor(places),
    )
    return system_capacity(
        SystemCapacityRequest.model_construct(heads=heads, rule=rule), tuple(limits)
    )


def room_charge(
    outdoor: Outdoor,
    charge_kg: float,
    room: str,
    area_m2: float,
    form: Form,
    height_m: float | None = None,
    altitude_m: float = 0.0,
) -> Call:
    """The whole charge against one room: by the sheet's own table, else by the relation."""
    table = sheet_most_kg(outdoor, area_m2)
    if outdoor.refrigerant == "R-410A" or table is None:
        asked = ChargedRoom(
            id=room or "the room",
            area_m2=area_m2,
            mounting=RELEASE[form],
            height_m=height_m if height_m and height_m <= 50 else None,
        )
        return room_charge_limit(
            RoomChargeLimitRequest(
                refrigerant=outdoor.refrigerant,
                charge_kg=charge_kg,
                rooms=[asked],
                altitude_m=altitude_m,
            )
        ).call
    said = f"{both(charge_kg, 'charge')} in {room or 'the room'}: the sheet's table allows "
    if charge_kg > table.value * SAME:
        return fault_call(
            f"{said}{both(table.value, 'charge')}.",
            "Take less charge, a larger room or another head.",
            Verdict.STOP,
        )
    because = f"{said}{both(table.value, 'charge')}."
    if charge_kg >= NEAR_SHARE * table.value:
        return fault_call(
            f"{because} Less than a tenth is left.",
            "Measure the room again, and mind what is added for the line.",
            Verdict.WATCH,
        )
    return Call(verdict=Verdict.HOLDS, because=because)


def sheet_most_kg(outdoor: Outdoor, area_m2: float) -> Limit | None:
    """What the sheet's own room table allows: the line at or below the room's floor."""
    lines = [r for r in outdoor.room_charges if r.area_m2 is not None and r.max_kg is not None]
    if not lines:
        return None
    fits = [r.max_kg or 0.0 for r in lines if (r.area_m2 or 0.0) <= area_m2 + 1e-9]
    return sheet_limit(
        limit="most charge by the sheet's room table",
        value=max(fits, default=0.0),
        unit="kg",
        source=outdoor.source("room_charges"),
    )


def propose(
    wanted: Sequence[Wanted],
    shelf: Sequence[Outdoor],
    length_m: float | None = None,
    rules: Rules | None = None,
) -> list[Proposal]:
    """Every outdoor unit of the shelf: those that carry the heads first, tightest fit first.

    ``length_m`` is the whole length of line so far as it is known; ``rules`` those of the job.
    """
    if not wanted:
        return []
    order = {Verdict.HOLDS: 0, Verdict.WATCH: 1, Verdict.UNKNOWN: 2}
    found = [
        _held_against((rules or Rules()).model_copy(update={"outdoor": outdoor}), wanted, length_m)
        for outdoor in shelf
    ]
    return sorted(
        found,
        key=lambda p: (order.get(p.call.verdict, 3), -(p.share or 0.0), p.outdoor.name.casefold()),
    )


def _way(rules: Rules, head: Wanted) -> tuple[list[str], list[str]]:
    """A head's line and height against what the sheet allows: reasons against it, what to ask.

    What is not laid out yet is not asked: it is judged on Route.
    """
    reasons, asks = [], []
    below = head.lift_m is not None and head.lift_m > 0  # the unit below the head
    most_lift = rules.value("max_lift_m")
    if below and rules.value("max_lift_below_m") is not None:
        most_lift = rules.value("max_lift_below_m")
    lift_m = abs(head.lift_m) if head.lift_m is not None else None
    for words, value, most in (
        ("of line to it", head.line_m, rules.value("max_length_m")),
        ("of height to it", lift_m, most_lift),
    ):
        if value is None:
            continue
        if most is None:
            asks.append(f"Zone {head.zone} has {both(value, 'length')} {words}: is that allowed?")
        elif value > most + 1e-6:
            reasons.append(
                f"Zone {head.zone} has {both(value, 'length')} {words}, {both(most, 'length')} at "
                "most."
            )
    return reasons, asks


def _ports(outdoor: Outdoor, wanted: Sequence[Wanted]) -> list[str]:
    """Heads whose tubes are of no free port's size: what to ask, of a unit for home runs."""
    if outdoor.system not in ("multi", "single") or not outdoor.ports:
        return []
    free = [(p.liquid_od_m, p.gas_od_m) for p in outdoor.ports]
    asks = []
    for head in wanted:
        sheet = head.sheet
        if sheet is None or None in (sheet.liquid_od_m, sheet.gas_od_m):
            continue
        size = (sheet.liquid_od_m, sheet.gas_od_m)
        fit = next((p for p in free if _near(p, size)), None)
        if fit is not None:
            free.remove(fit)
        elif all(None not in port for port in free):
            asks.append(
                f"Zone {head.zone} has tubes of {both(size[0] or 0, 'tube')} and "
                f"{both(size[1] or 0, 'tube')}, no free port has: does its sheet allow a reducer?"
            )
    return asks


def _near(port: tuple[float | None, ...], size: tuple[float | None, ...]) -> bool:
    return all(
        a is not None and b is not None and same_size(a * 1000, b * 1000)
        for a, b in zip(port, size, strict=True)
    )


Found = tuple[list[str], list[str]]  # what speaks against a unit, and what is to be asked


def _held_against(rules: Rules, wanted: Sequence[Wanted], length_m: float | None) -> Proposal:
    """A unit held against the heads wanted: its pairs, capacity, line, ways, ports and rooms."""
    outdoor = rules.outdoor
    assert outdoor is not None
    found = (
        _pairs(outdoor, wanted),
        _carries(rules, wanted),
        _line(rules, length_m),
        *(_way(rules, head) for head in wanted),
        ([], _ports(outdoor, wanted)),
        _rooms(outdoor, wanted),
    )
    reasons = [r for against, _ in found for r in against]
    asks = [a for _, open_ in found for a in open_]
    most, share = _value(carried(rules), "max_connected"), None
    if most and all(w.cool_w for w in wanted):
        share = sum(w.cool_w or 0.0 for w in wanted) / most
    if reasons:
        call = Call(verdict=Verdict.SHORT, because=reasons[0])
    elif asks:
        call = Call(verdict=Verdict.UNKNOWN, because=asks[0])
    else:
        of_it = f" at {share:.0%} of the most." if share else "."
        said = f"Carries {plural(len(wanted), 'head')}{of_it}"
        call = Call(verdict=Verdict.HOLDS, because=said)
    return Proposal(
        outdoor=outdoor, call=call, reasons=tuple(reasons), asks=tuple(asks), share=share
    )


def _pairs(outdoor: Outdoor, wanted: Sequence[Wanted]) -> Found:
    """Whether the heads chosen belong to it."""
    reasons, asks = [], []
    for head in wanted:
        if head.sheet is not None:
            pair = belongs(outdoor, head.sheet)
            if pair.verdict in (Verdict.STOP, Verdict.SHORT):
                reasons.append(pair.because)
            elif pair.verdict is Verdict.WATCH and head.pair != "yes":
                asks.append(pair.because)
    return reasons, asks


def _carries(rules: Rules, wanted: Sequence[Wanted]) -> Found:
    """Whether it carries them together."""
    answer = capacity(rules, wanted)
    if answer is None:
        unknown = [w.zone for w in wanted if not w.cool_w]
        asks = [f"Capacity or load of {plural(len(unknown), 'head')} {', '.join(unknown)}?"]
        places = _value(carried(rules), "max_heads")
        over = places is not None and len(wanted) > places
        return [f"{plural(len(wanted), 'head')} for {places:.0f}."] if over else [], asks
    said = [answer.call.because]
    return (
        said if answer.call.verdict is Verdict.SHORT else [],
        said if answer.call.verdict is Verdict.UNKNOWN else [],
    )


def _line(rules: Rules, length_m: float | None) -> Found:
    """Whether the line that is laid out already is within its most."""
    longest = rules.value("max_total_length_m") or rules.value("max_length_m")
    if length_m is None or longest is None or length_m <= longest + 1e-6:
        return [], []
    return [f"{both(length_m, 'length')} of line so far, {both(longest, 'length')} at most."], []


def _rooms(outdoor: Outdoor, wanted: Sequence[Wanted]) -> Found:
    """Whether its factory charge suits the smallest room."""
    charge_kg, burns = outdoor.factory_charge_kg, outdoor.refrigerant != "R-410A"
    if charge_kg is None:
        return [], ["Its factory charge, for the size of the rooms?"] if burns else []
    rooms = [w for w in wanted if w.area_m2]
    smallest = min(rooms, key=lambda w: w.area_m2 or 0.0, default=None)
    if smallest is None:
        return [], ["The floor of the smallest room?"] if burns else []
    area_m2 = smallest.area_m2 or 1.0
    told = room_charge(
        outdoor,
        charge_kg,
        smallest.room,
        area_m2,
        smallest.form,
        smallest.height_m,
        smallest.altitude_m,
    )
    return [told.because] if told.verdict is Verdict.STOP else [], []
