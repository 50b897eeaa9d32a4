"""What the owner is left with: how to live with this very system, in plain words, from the job."""

from collections.abc import Iterator
from dataclasses import dataclass

from fairline.core.commission.said import promised
from fairline.core.commission.start_up import CommissionEntry
from fairline.core.hand_over.entry import HandOverEntry
from fairline.core.hand_over.label import UnitLabel
from fairline.core.hand_over.visits import Due
from fairline.core.limit_list import LimitName
from fairline.core.mount.stage import MountEntry
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.route.entry import OUTDOOR
from fairline.core.survey.stage import SurveyEntry
from fairline.core.wire.entry import WireEntry

FILTERS = "Wash the filters of every head each month, at the latest after six weeks of running."
YEARLY = "Have the coils and the drains looked after once a year."
KEEP_CLEAR: tuple[tuple[LimitName, str], ...] = (
    ("outdoor_front", "in front of"),
    ("outdoor_behind", "behind"),
    ("outdoor_left", "left of"),
    ("outdoor_right", "right of"),
    ("outdoor_above", "above"),
)
LEFT_IN = {"cool": "cooling", "heat": "heating", "dry": "drying", "auto": "automatic"}
CARES = {"owner": "The owner", "tenant": "The tenant", "house": "The house"}
DISCONNECTS = {
    "switch": "the switch beside the outdoor unit",
    "fused": "the fused switch beside the outdoor unit",
    "panel": "the breaker in the panel",
}


@dataclass(frozen=True)
class Part:
    """A heading with its sentences."""

    title: str
    lines: tuple[str, ...]


@dataclass(frozen=True)
class Known:
    """What the owner's page is made of."""

    survey: SurveyEntry
    mount: MountEntry
    wire: WireEntry
    commission: CommissionEntry
    entry: HandOverEntry
    rules: Rules
    label: UnitLabel
    visits: tuple[Due, ...]


def owners_page(known: Known) -> list[Part]:
    """Every part that has something to say, in the order in which an owner asks."""
    parts = (
        ("What you wanted", _wanted(known)),
        ("Your system", _system(known)),
        ("Month by month", _care(known)),
        ("What stays clear", _clear(known)),
        ("Switching it off", _off(known)),
        ("Remotes", _remotes(known)),
        ("When a lamp blinks", _lamps(known)),
        ("Dates", _dates(known)),
        ("Warranty", _warranty(known)),
        ("Who looks after it", _who(known)),
    )
    return [Part(title, told) for title, lines in parts if (told := tuple(lines))]


def _wanted(known: Known) -> Iterator[str]:
    if known.survey.wish:
        yield known.survey.wish


def _system(known: Known) -> Iterator[str]:
    for head in known.survey.now:
        sheet = known.rules.heads.get(head.zone)
        room = f" in {head.room}" if head.room else ""
        yield f"Head {head.zone}{room}" + (f": {sheet.name}." if sheet else ".")
    if known.rules.outdoor:
        yield f"Outdoor unit: {known.rules.outdoor.name}."
    opened = known.label.date is not None
    if opened and known.label.total_kg is not None and known.label.refrigerant:
        total = both(known.label.total_kg, "charge")
        yield f"It holds {total} of {known.label.refrigerant}; only licensed hands open it."


def _care(known: Known) -> Iterator[str]:
    yield FILTERS
    yield YEARLY
    pumps = [h.zone for h in known.survey.now if _lifts(known, h.zone)]
    if pumps:
        yield f"Head {', '.join(pumps)} lifts its water with a pump: listen that it runs."
    if known.survey.frost == "yes":
        yield "In frost the outdoor unit thaws itself and steams: that is no fault."
    if known.survey.snow_m:
        yield "Keep snow from its air: never against its front or its back."


def _lifts(known: Known, zone: str) -> bool:
    sheet = known.rules.heads.get(zone)
    return sheet is not None and sheet.form == "cassette"


def _clear(known: Known) -> Iterator[str]:
    for name, where in KEEP_CLEAR:
        limit = known.rules.limit(name)
        if limit is not None and limit.value > 0:
            yield f"{both(limit.value, 'small')} {where} the outdoor unit."
    yield from (f"As agreed, {told}." for told in promised(known.survey, known.mount))
    yield "No weed killer and no trimmer at the lines" + (
        f": {known.entry.weeds} sees to it." if known.entry.weeds else "."
    )


def _off(known: Known) -> Iterator[str]:
    supply = known.wire.supply(OUTDOOR)
    if supply.disconnect in DISCONNECTS:
        yield f"Switch it off at {DISCONNECTS[supply.disconnect]}."
    if supply.breaker_a is not None:
        yield f"Its breaker in the panel is {supply.breaker_a:g} A and feeds nothing else."
    yield "Before anybody washes or opens it: off, and left off for the work."


def _remotes(known: Known) -> Iterator[str]:
    left = known.commission
    if left.left_mode and left.left_mode != "off":
        mode = LEFT_IN[left.left_mode]
        at = f", set to {both(left.left_set_c, 'temperature')}" if left.left_set_c else ""
        yield f"It was left in {mode}{at}."
    modes = list(dict.fromkeys(m for h in known.rules.heads.values() for m in h.modes))
    if modes:
        yield f"Beside cooling and heating: {', '.join(modes)}."
    yield "After the power comes back the outdoor unit waits some minutes by itself."


def _lamps(known: Known) -> Iterator[str]:
    codes = [code for sheet in known.rules.heads.values() for code in sheet.lamp_codes]
    codes += known.rules.outdoor.lamp_codes if known.rules.outdoor else ()
    seen: set[str] = set()
    for code in codes:
        if code.code not in seen:
            seen.add(code.code)
            yield f"{code.code}: {code.means}. Switch it off and call."
    if not seen:
        yield "Write down which lamp blinks and how often, and call."


def _dates(known: Known) -> Iterator[str]:
    for due in known.visits:
        if due.made is None:
            yield f"{due.on}: {due.words}."


def _warranty(known: Known) -> Iterator[str]:
    if known.entry.registration:
        yield f"Registered: {known.entry.registration}."
    else:
        yield "A warranty counts only where the units are registered with their maker."
    places = {OUTDOOR: "outdoor unit", **{h.zone: f"head {h.zone}" for h in known.survey.now}}
    for at, words in places.items():
        if serial := known.survey.box(at).serial:
            yield f"Serial number of the {words}: {serial}."


def _who(known: Known) -> Iterator[str]:
    if known.entry.cares:
        name = f", {known.entry.cares_name}" if known.entry.cares_name else ""
        yield f"{CARES[known.entry.cares]}{name} washes the filters and calls for the rest."
