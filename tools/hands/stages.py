"""A job from the first sheet to the sealed record, of one zone or of several home runs.

What is typed stands on a nameplate or in a manual, or comes off a tape, a gauge or a thermometer.
"""

from dataclasses import dataclass

from playwright.sync_api import expect

from tests.browser.clock import passes
from tools.hands.hand import Hand

MAKER = "Loom Works"


@dataclass(frozen=True)
class Zone:
    """A room with its head: what a tape says of its wall and of its run."""

    letter: str
    room: str
    area: str
    load: str
    wall: str
    first_stud: str
    middle: str
    run: str
    drain: tuple[str, str]


@dataclass(frozen=True)
class Size:
    """The outdoor unit that carries the zones, as its plate and manual have it."""

    model: str
    factory: str
    included: str
    mca: str
    mop: str
    conductors: str
    weight: str


SAID = (
    "up 9 ft, right 10 ft, in 14 in",
    "up 8 ft, left 15 ft, in 14 in",
    "up 9 ft, right 22 ft, in 14 in",
)
ZONES = (
    Zone("A", "Loft", "320", "8000", "12 ft", "16", "60", SAID[0], ("4", "1")),
    Zone("B", "Study", "180", "6000", "11 ft", "9", "70", SAID[1], ("6", "1.5")),
    Zone("C", "Bed", "200", "6500", "13 ft", "12", "78", SAID[2], ("5", "1.25")),
)
SINGLE = Size("L-26", "22", "16", "9", "15", "14", "75")
TRIPLE = Size("M-75", "70", "75", "16", "25", "12", "140")


def sheets(hand: Hand, zones: tuple[Zone, ...], size: Size) -> None:
    hand.at("Shelf")
    outdoor = {
        "Maker": MAKER,
        "Model": size.model,
        "Maximum length of a zone": "66",
        "Maximum height difference": "39",
        "Maximum test pressure": "600",
        "Factory charge": size.factory,
        "Pre-charged length": size.included,
    }
    head = {
        "Maker": MAKER,
        "Model": "W-26",
        "Rated cooling": "9000",
        "Width": "32",
        "Height": "12",
        "Weight": "18",
        "Hole": "2 1/2",
    }
    if len(zones) > 1:
        outdoor |= {
            "Maximum connected": "30000",
            "Maximum heads": "3",
            "Maximum length in all": "230",
        }
    hand.link("Enter the first sheet, an outdoor unit's")
    if len(zones) > 1:
        hand.picks("[name='system']", "multi")
    for label, value in outdoor.items():
        hand.types(label, value)
    for n in range(1, len(zones) + 1):
        hand.types(f"Ports {n}, Liquid tube", "1/4")
        hand.types(f"Ports {n}, Gas tube", "3/8")
    hand.types("Rates beyond it 1, Liquid tube", "1/4")
    hand.types("Rates beyond it 1, Per length", "0.22")
    hand.button("Keep the sheet")
    expect(hand.page.get_by_role("heading", level=1)).to_contain_text(MAKER)
    hand.link("Sheet of a head")
    for label, value in head.items():
        hand.types(label, value)
    hand.button("Keep the sheet")
    expect(hand.page.get_by_role("heading", level=1)).to_contain_text(MAKER)


def begin(hand: Hand) -> None:
    hand.at("New job")
    hand.link("Begin a job")
    hand.types("What the job is called", "Loft")
    hand.types("Your company", "Ours")
    hand.button("Begin")


def survey(hand: Hand, zones: tuple[Zone, ...], size: Size) -> None:
    hand.at("Survey")
    page = hand.page
    for n, zone in enumerate(zones):
        expect(page.locator(f"[name='rooms.{n}.name']")).to_be_visible()
        for label, value in (
            ("Room", zone.room),
            ("Floor", zone.area),
            ("Cooling load", zone.load),
        ):
            hand.types(label, value, page.locator(".thing-row").nth(n))
    hand.settled()
    hand.button("Add a head")
    hand.picks("[name='heads.0.sheet']", f"{MAKER} W-26")
    if len(zones) > 1:  # as the head above them
        hand.settled()
        hand.button(f"A head for each of {len(zones) - 1} rooms")
        expect(page.locator(f"[name='heads.{len(zones) - 1}.sheet']")).to_have_value(
            f"{MAKER} W-26"
        )
    hand.button(f"Take {MAKER} {size.model}")
    expect(page.get_by_role("button", name="on the maker's table")).to_be_attached()
    hand.button("on the maker's table")
    hand.settled()
    hand.goes("part=walk", "The walk")
    hand.taps(page.get_by_role("checkbox", name="None seen"))
    hand.goes("part=boxes", "Out of the box")
    hand.button(f"All {len(zones) + 1} boxes")
    expect(page.locator("[name$='.damage'][value=none]:checked")).to_have_count(len(zones) + 1)
    hand.lists()
    hand.verdict("Holds", "Watch", "Unknown")


def wall(hand: Hand, zone: Zone) -> None:
    """One head's wall: the first by tape, the others as that one and by what differs."""
    first = "|/mount$" if zone.letter == "A" else ""
    hand.goes(f"part=walls.{zone.letter}{first}", f"{zone.letter} {zone.room}")
    first_wall = zone.letter == "A"
    if not first_wall:
        hand.button("Blank fields as in A")
        expect(hand.page.get_by_label("Hole diameter", exact=True)).not_to_have_value("")
    hand.types("Centre line from the left corner", zone.middle)
    if first_wall:
        hand.types("Underside above the floor", "84")
    hand.types("Wall, corner to corner", zone.wall)
    if first_wall:
        hand.types("Ceiling above the floor", "9 ft")
        hand.chooses("Built as", "Frame")
    hand.types("First stud's centre", zone.first_stud)
    if first_wall:
        hand.types("Studs on centre", "16")
        hand.types("Hole diameter", "2 1/2")
    hand.types("Inside above outside by", "5/8")
    hand.chooses("Pipes and wires looked for", "Looked")


def mount(hand: Hand, zones: tuple[Zone, ...], size: Size) -> None:
    hand.at("Mount")
    asked = hand.page.locator("#silent-outdoor")
    sizes = {"Width": "32", "Height": "22", "Depth": "12", "Weight": size.weight}
    for label, value in sizes.items():
        hand.types(label, value, asked)
    hand.taps(asked.get_by_role("button", name="Write it on the sheet"))
    expect(asked).to_have_count(0)
    asked = hand.page.locator("#silent-A")
    for label, value in (("Right", "12"), ("Up", "2")):
        hand.types(f"Outlets, from the mark 1, {label}", value, asked)
    for i, (right, up) in enumerate((("-12", "2"), ("4", "2"), ("-12", "6"), ("4", "6")), 1):
        hand.types(f"Screw holes, from the mark {i}, Right", right, asked)
        hand.types(f"Screw holes, from the mark {i}, Up", up, asked)
    hand.taps(asked.get_by_role("button", name="Write it on the sheet"))
    expect(asked).to_have_count(0)
    for zone in zones:
        wall(hand, zone)
    hand.goes("part=outdoor", "Outdoor unit")
    for label, value in {
        "Left side from the wall's left end": "48",
        "Off the wall": "12",
        "Base above the ground": "4",
        "Wall, end to end": "16 ft",
        "Yard before it": "10 ft",
    }.items():
        hand.types(label, value)
    hand.chooses("It stands on", "Pad")
    hand.types("People who lift", "2" if len(zones) == 1 else "4")
    hand.button("Level, anchored, rubber under all four feet: checked OK")
    hand.lists("With the other places")


def route(hand: Hand, zones: tuple[Zone, ...], _: Size) -> None:
    hand.at("Route")
    page = hand.page
    hand.button("Lay out the system")
    expect(page.locator(".schematic:visible .run")).to_have_count(len(zones))
    for zone in zones:
        hand.goes(f"part=runs.{zone.letter}", "System")
        hand.types("Say the run", zone.run)
        expect(page.get_by_label("Leg 3, length")).to_be_visible()
    hand.goes("part=system", "System")
    hand.types("Bend radius, centre line", "2 1/2")
    hand.types("Tail at each end", "6")
    hand.chooses("Both tubes insulated", "Both")
    hand.goes("part=drains", "Drains")
    for n, zone in enumerate(zones):
        if n == 1:
            hand.button("blank fields as in A")
            last = f"{zones[-1].letter}, inside of the pipe"
            expect(page.get_by_label(last)).not_to_have_value("")
        hand.types(f"{zone.letter}, part 1, length", zone.drain[0])
        hand.types(f"{zone.letter}, part 1, falls by", zone.drain[1])
        if not n:
            hand.picks("[name='drains.A.ends']", "ground")
            hand.types("A, inside of the pipe", "3/4")
    hand.button("indoors: all checked OK" if len(zones) > 1 else "indoors: checked OK")
    hand.lists("With the other places")
    hand.verdict("Holds", "Watch")


def flare(hand: Hand, zones: tuple[Zone, ...], _: Size) -> None:
    hand.at("Flare")
    page = hand.page
    card, clicks = page.locator(".joint-card"), len(zones) > 1
    for i in range(4 * len(zones)):
        if clicks and i == 1:
            hand.taps(page.get_by_text("The wrench clicks: set once for a size"))
            expect(card.get_by_label("The wrench is set to", exact=True)).to_be_visible()
        gas = card.get_by_role("heading").inner_text().startswith("Gas")
        field = "The wrench is set to" if clicks and i else "The wrench read"
        if not clicks or i < 2:
            hand.types(field, "28" if gas else "12", card)
        if not i:
            hand.types("Made by", "Ida", card)
        hand.button(": Record")
        expect(page.locator(".ledger .verdict-holds")).to_have_count(i + 1)
    hand.lists()


def pressure_test(hand: Hand, _: tuple[Zone, ...], __: Size) -> None:
    hand.at("Pressure test")
    for n, waited in enumerate(("0 min", "60 min"), 1):
        passes(waited)
        hand.types("Gauge", "300")
        hand.types("Pipe", "70")
        hand.button("Record")
        expect(hand.page.locator("table.readings tr")).to_have_count(n + 1)
    hand.verdict("Holds")


def wire(hand: Hand, zones: tuple[Zone, ...], size: Size) -> None:
    hand.at("Wire")
    page = hand.page
    asked = page.locator("#silent-outdoor")
    for label, value in {
        "Voltage": "230",
        "MCA, minimum circuit ampacity": size.mca,
        "MOP, maximum overcurrent protection": size.mop,
        "Interconnect terminals, in order": "1 2 3",
    }.items():
        hand.types(label, value, asked)
    hand.taps(asked.get_by_role("button", name="Write it on the sheet"))
    expect(asked).to_have_count(0)
    hand.chooses("The circuit is", "New")
    for label, value in {
        "Breaker": size.mop,
        "It has": "240",
        "Conductors, AWG or mm²": size.conductors,
        "Length, panel to unit": "40 ft",
    }.items():
        hand.types(label, value)
    hand.chooses("Of", "Copper")
    hand.chooses("It runs in", "Conduit")
    hand.picks("[name$='.conduit']", "emt")
    hand.chooses("Exposed to", "rain")
    hand.chooses("The disconnect is", "A switch")
    hand.types("Rated", "60")
    hand.chooses("In sight of the unit", "Yes")
    hand.types("From the unit", "4 ft")
    hand.settled()
    hand.taps(page.get_by_role("button", name="checked OK").first)
    expect(page.get_by_role("button", name="checked OK")).to_have_count(0)
    hand.chooses("It is connected by", "One of us")
    hand.goes("part=(cables|cable-|unit-)", "Landings")
    hand.button("No circuit reaches it yet")
    expect(page.get_by_role("button", name="No circuit reaches it yet")).to_have_count(0)
    for n in range(2 * len(zones) + 1):
        hand.button("All landed and pulled: Record")
        expect(page.locator(".ledger .verdict-holds")).to_have_count(n + 1)
    hand.chooses("The cable is", "Outdoor-rated, stranded")
    hand.chooses("It runs", "In a way of its own")
    hand.types("Conductors, AWG or mm²", "14")
    hand.goes("part=supply", "Supply")
    hand.chooses("Connected", "Yes")
    hand.verdict("Holds")


def evacuate(hand: Hand, zones: tuple[Zone, ...], _: Size) -> None:
    hand.at("Evacuate")
    page, reading = hand.page, hand.page.locator("#at-reading")
    hand.button("Bled, the gauge reads nought")
    expect(page.locator("#at-bled")).to_have_count(0)
    hand.chooses("The gauge sits", "On the far side from the pump")
    hand.settled()
    if len(zones) > 1:  # all ports at once, as the page has them ticked
        hand.button("Begin a pull by hand")
        expect(reading.get_by_label("Gauge", exact=True)).to_be_visible()
    hand.types("Gauge", "280", reading)
    hand.taps(reading.get_by_role("button", name="Record", exact=True))
    expect(page.locator(".figure.hero strong")).to_have_text("280")
    hand.button("Valve closed, pump off, seen")
    expect(page.get_by_text("valve closed, decay")).to_be_attached()
    for level, waited in (("285", "0 min"), ("290", "5 min"), ("295", "5 min")):
        passes(waited)
        hand.types("Gauge", level, reading)
        hand.taps(reading.get_by_role("button", name="Record", exact=True))
        expect(page.locator(".figure.hero strong")).to_have_text(level)
    hand.verdict("Holds")


def charge(hand: Hand, _: tuple[Zone, ...], __: Size) -> None:
    hand.at("Charge")
    page = hand.page
    added = float(page.locator(".figure.hero strong").inner_text())
    if added > 0:
        hand.types("Before", "9.90 lb")
        hand.types("After", f"{9.90 - added / 16:.3f} lb")
        hand.button("Record the weighing")
        expect(page.locator("table.readings")).to_be_attached()
    hand.button("All as listed, caps on")
    hand.button("dry: Record")
    hand.verdict("Holds", "Watch")


def commission(hand: Hand, zones: tuple[Zone, ...], _: Size) -> None:
    hand.at("Commission")
    page = hand.page
    asked = page.locator("#silent-A")
    hand.types("Airflow by speed 1, Speed", "high", asked)
    hand.types("Airflow by speed 1, Air", "330", asked)
    hand.types("Rated heating", "11000", asked)
    hand.button("Write it on the sheet")
    expect(asked).to_have_count(0)
    hand.button("Hands out, power on")
    expect(page.locator("#at-power")).to_contain_text("Power is on")
    for zone in zones if len(zones) > 1 else ():
        title = page.get_by_role("heading", name=f"Call zone {zone.letter} alone")
        expect(title).to_be_attached()
        hand.button(f"Only its own, {zone.letter}")
    for zone in zones:
        for mode, back, out in (("Cooling", "79", "56.5"), ("Heating", "67", "97")):
            if len(zones) > 1:
                title = page.get_by_role("heading", name=f"Measure zone {zone.letter}")
                expect(title).to_be_attached()
            expect(page.get_by_role("group", name="Mode").get_by_label(mode)).to_be_checked()
            hand.types("Return air", back)
            hand.types("Supply air", out)
            hand.taps(page.locator("#at-measure").get_by_role("button", name="Record", exact=True))
            if mode == "Cooling" or len(zones) == 1:
                expect(page.locator(f".mode-{mode[:4].lower()}")).to_contain_text("Ida")
    for zone in (*zones[-1:], *zones[:-1]):  # where the hands are, then the others
        if len(zones) > 1:
            title = page.get_by_role("heading", name=f"Water through {zone.letter}")
            expect(title).to_be_attached()
        hand.button("Drains, nothing back after 3 min")
    expect(page.locator("#at-drain")).to_contain_text("nothing came back")
    hand.button("Remote, filters, modes, agreed space: all OK")
    hand.settled()


def hand_over(hand: Hand, _: tuple[Zone, ...], __: Size) -> None:
    hand.at("Hand over")
    page = hand.page
    hand.types("Received by", "The weaver")
    hand.settled()
    hand.button("manuals and remote left, units registered: all done")
    expect(page.get_by_role("button", name="units registered: all done")).to_have_count(0)
    hand.lists()
    hand.button("Handed over")
    expect(page.locator("body.sealed")).to_have_count(1)


STAGES = (
    ("mount", mount),
    ("route", route),
    ("flare", flare),
    ("pressure test", pressure_test),
    ("wire", wire),
    ("evacuate", evacuate),
    ("charge", charge),
    ("commission", commission),
    ("hand over", hand_over),
)
