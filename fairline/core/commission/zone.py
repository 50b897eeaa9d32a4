"""One zone in one mode: what it did to the air, against what this head should do."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from fairline.core.calc.expected_split import (
    ExpectedSplitRequest,
    ExpectedSplitResult,
    expected_split,
)
from fairline.core.calc.zone_capacity import (
    ZoneCapacityRequest,
    ZoneCapacityResult,
    zone_capacity,
)
from fairline.core.call import Answer, Call, Check, Verdict, deciding
from fairline.core.check import fault_call
from fairline.core.commission.records import MODE_WORDS, SEEN_WORDS, Mode, Running
from fairline.core.physics.constants import ATMOSPHERE_PA
from fairline.core.practice import Rules
from fairline.core.quantities import both

F_K = 5.0 / 9.0  # a degree Fahrenheit of difference, in kelvin
COMMON_SPLIT_K = {  # where the sheet gives no airflow: common practice, no source
    "cool": (13.0 * F_K, 30.0 * F_K),  # at high fan; more at low
    "heat": (15.0 * F_K, 50.0 * F_K),
}
STEADY_K, STEADY_S, STEADY_COUNT = 0.5, 180.0, 3  # three readings in three minutes; our own choice
FOLDED = timedelta(minutes=40)  # readings further apart are no one course; our own choice

Capacity = Answer[ZoneCapacityResult]


def airflow_m3_s(record: Running, rules: Rules) -> float | None:
    """Measured airflow, else the sheet's at the speed that ran; never a speed nobody named."""
    if record.airflow_m3_s is not None:
        return record.airflow_m3_s
    told = [a for a in rules.head.airflows if a.m3_s is not None] if rules.head else []
    if len(told) == 1:
        return told[0].m3_s
    return next((a.m3_s for a in told if a.speed.casefold() == record.fan.casefold()), None)


def rated_w(mode: Mode, rules: Rules) -> float | None:
    """What the head's sheet promises in a mode; None where it says nothing."""
    head = rules.head
    return ((head.cool_w if mode == "cool" else head.heat_w) or None) if head else None


def unit_rated_w(mode: Mode, rules: Rules) -> float | None:
    """What the outdoor unit's sheet promises with all its heads; of a single zone its head's."""
    unit = rules.outdoor
    own = ((unit.cool_w if mode == "cool" else unit.heat_w) or None) if unit is not None else None
    if own is not None or len(rules.heads) < 2:
        return own or rated_w(mode, rules)
    each = [(h.cool_w if mode == "cool" else h.heat_w) or 0.0 for h in rules.heads.values()]
    return sum(each) if all(each) else None


def answer(record: Running, rules: Rules, pressure_pa: float = ATMOSPHERE_PA) -> Capacity | None:
    """Capacity of one measurement at the site's air pressure; None where no airflow is known."""
    airflow = airflow_m3_s(record, rules)
    if airflow is None or not record.both_airs:
        return None
    return zone_capacity(
        ZoneCapacityRequest(
            airflow_m3_s=airflow,
            return_air=record.state("return"),
            supply_air=record.state("supply"),
            mode=record.mode,
            rated_w=rated_w(record.mode, rules),
            pressure_pa=pressure_pa,
        )
    )


def airflows_m3_s(record: Running, rules: Rules) -> list[float] | None:
    """Least and most airflow of what ran: the one that is known, else the sheet's speeds."""
    known = airflow_m3_s(record, rules)
    if known is not None:
        return [known, known]
    told = [a.m3_s for a in rules.head.airflows if a.m3_s is not None] if rules.head else []
    return [min(told), max(told)] if told else None


def measured_split_k(record: Running) -> float | None:
    """What the air was changed by, K, positive in the mode's direction."""
    if record.return_c is None or record.supply_c is None:
        return None
    split = record.return_c - record.supply_c
    return split if record.mode == "cool" else -split


def split_answer(
    record: Running, rules: Rules, pressure_pa: float = ATMOSPHERE_PA
) -> Answer[ExpectedSplitResult] | None:
    """The measured split against a sound head's; None where sheet or airflow say too little."""
    rated, flows = rated_w(record.mode, rules), airflows_m3_s(record, rules)
    if not rated or flows is None or not record.both_airs:
        return None
    return expected_split(
        ExpectedSplitRequest(
            rated_w=rated,
            mode=record.mode,
            airflows_m3_s=flows,
            return_air=record.state("return"),
            outdoor_c=record.outdoor_c,
            pressure_pa=pressure_pa,
            split_k=measured_split_k(record),
        )
    )


Split = Answer[ExpectedSplitResult]


@dataclass(frozen=True)
class Worked:
    """What one measurement comes to: a capacity, and its split against a sound head's; each None
    where sheet or measurement say too little."""

    capacity: Capacity | None = None
    split: Split | None = None


def worked_of(record: Running, rules: Rules, pressure_pa: float = ATMOSPHERE_PA) -> Worked:
    """A measurement worked out, once."""
    return Worked(answer(record, rules, pressure_pa), split_answer(record, rules, pressure_pa))


@dataclass(frozen=True)
class Trend:
    """How a supply came to rest: minutes and °C; ``steady`` once three readings stand."""

    points: tuple[tuple[float, float], ...]
    steady: bool
    because: str


def trend(records: Sequence[Running]) -> Trend | None:
    """The supply's course in one mode, of the readings that belong together; None of fewer than
    two."""
    own = [r for r in records if r.supply_c is not None]
    own = [r for r in own if own[-1].at - r.at <= FOLDED]
    if len(own) < 2:
        return None
    begins = own[0].at
    points = tuple(
        ((r.at - begins).total_seconds() / 60.0, r.supply_c) for r in own if r.supply_c is not None
    )
    last = own[-STEADY_COUNT:]
    spread = max(r.supply_c or 0.0 for r in last) - min(r.supply_c or 0.0 for r in last)
    span = (last[-1].at - last[0].at).total_seconds()
    if len(last) < STEADY_COUNT:
        return Trend(points, False, "Not steady yet: three readings in three minutes are needed.")
    if spread > STEADY_K + 1e-9:
        moved = both(spread, "temperature_difference")
        return Trend(points, False, f"Not steady yet: it moved by {moved}.")
    if span < STEADY_S - 1e-9:
        return Trend(points, False, "Not steady yet: the readings are closer than three minutes.")
    return Trend(points, True, "Steady.")


def mode_check(
    mode: Mode,
    record: Running | None,
    worked: Worked,
    later: Call | None = None,
) -> Check:
    """What one mode of a zone comes to: proven, weak, seen only, put off, or missing."""
    label = MODE_WORDS[mode]
    if record is None:
        call = later or Call(
            verdict=Verdict.WAIT,
            because=f"{label} has not been measured.",
            do_next=f"Run the zone in {label.lower()} at high fan for 10 to 15 minutes, "
            "then measure.",
        )
        return Check(id=mode, label=label, call=call)
    if not record.both_airs:
        return Check(id=mode, label=label, call=_seen_call(label, record))
    call = _air_call(record, worked)
    result = worked.capacity.result if worked.capacity is not None else None
    return Check(
        id=mode,
        label=label,
        call=call.model_copy(update={"because": f"{label}: {call.because}"}),
        value=(result.total_w or result.sensible_w) if result is not None else None,
        unit="W",
    )


BEYOND_K = 2.0  # a set point nearer to the room asks nothing of the unit; our own choice
DISPLAY_K = 3.0  # a display further off feels another place; our own choice


def room_checks(mode: Mode, record: Running) -> list[Check]:
    """Whether anything was asked of the head, and whether it feels the room, if that was said."""
    found = []
    room, set_c, display = record.return_c, record.set_c, record.display_c
    if room is not None and set_c is not None:
        asks = room - set_c if mode == "cool" else set_c - room
        if asks < BEYOND_K - 1e-9:
            call = fault_call(
                f"Set to {both(set_c, 'temperature')} in a room of {both(room, 'temperature')}: "
                "little is asked of it.",
                "Set it well beyond the room, wait ten minutes, measure again.",
                Verdict.WATCH,
            )
            found.append(Check(id=f"set_{mode}", label="Set point", call=call))
    if room is not None and display is not None and abs(display - room) > DISPLAY_K + 1e-9:
        call = fault_call(
            f"The display says {both(display, 'temperature')}, the thermometer "
            f"{both(room, 'temperature')}.",
            "Find what it feels: the remote in its place, a head in still air, its setting.",
            Verdict.WATCH,
        )
        found.append(Check(id=f"display_{mode}", label="Room on the display", call=call))
    return found


def _seen_call(label: str, record: Running) -> Call:
    """What was only seen, or a supply alone: it goes on, and proves nothing."""
    seen = [SEEN_WORDS[s] for s in record.seen]
    if record.supply_c is not None:
        seen.append(f"supply air {both(record.supply_c, 'temperature')}")
    return Call(
        verdict=Verdict.WATCH,
        because=f"{label}: seen only: {', '.join(seen)}.",
        do_next="Hold the thermometer into the return air too: two dry-bulbs are enough.",
    )


def _air_call(record: Running, worked: Worked) -> Call:
    """Return and supply against what this head should give; capacity where humidity was taken."""
    split, capacity = worked.split, worked.capacity
    if split is None:
        return _common_call(record)
    wrong = split.call.verdict in (Verdict.SHORT, Verdict.WAIT)
    if capacity is None or wrong or (record.mode == "cool" and capacity.result.total_w is None):
        return _split_call(split.call)
    return deciding([capacity.call, split.call])


def _split_call(call: Call) -> Call:
    if call.verdict is not Verdict.HOLDS:
        return call
    return call.model_copy(update={"because": f"{call.because} Its capacity is not measured."})


def _common_call(record: Running) -> Call:
    """Where the sheet says too little of the head: what is common, and never more than a watch."""
    split = measured_split_k(record) or 0.0
    low, high = COMMON_SPLIT_K[record.mode]
    kind = "temperature_difference"
    said = f"The air is changed by {both(split, kind)}"
    common = f"{both(low, kind)} to {both(high, kind)} is common"
    if split <= 0.3:
        return fault_call(
            "The air is not changed as the mode wants it.",
            "Check mode, set point and wiring, wait out the start-up logic, and measure again.",
        )
    if split < low - 1e-9:
        return fault_call(
            f"{said}; {common}: weak.",
            "Is it at high fan, 10 to 15 minutes, filter clean? Then valves, charge, and which "
            "tubes this call cools.",
        )
    return Call(
        verdict=Verdict.WATCH,
        because=f"{said}; {common}. The sheet gives no airflow or capacity to judge this head by.",
        do_next="Enter the airflow by speed and the rated capacity on the head's sheet.",
    )
