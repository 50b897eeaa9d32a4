"""Counts the fields and taps of a single-zone job: a new user, a phone, touch alone.

``make hands``: an empty database is taken from the first sheet to the record; the table of stages
is printed, and it ends with 1 where the work takes more than its budget.
"""

import re
import socket
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import uvicorn
from playwright.sync_api import Locator, Page, expect, sync_playwright

from fairline.settings import Settings
from fairline.store import clock
from fairline.web.app import create_app
from tests.browser.clock import Later, passes

CHROMIUM = "/usr/bin/chromium"
MOST_FIELDS, MOST_TAPS = 105, 94  # of all stages; Wire has a budget of its own among them
MOST_OF = {"Wire": (15, 20)}
PHONE = {"width": 390, "height": 844}


class Hand:
    """One hand on a phone: it types into fields and taps, and counts both by stage."""

    def __init__(self, page: Page) -> None:
        self.page, self.stage = page, ""
        self.counts: dict[str, list[int]] = {}

    def at(self, stage: str) -> None:
        self.stage = stage
        self.counts.setdefault(stage, [0, 0])

    def types(self, label: str, value: str, within: Locator | None = None) -> None:
        place = within or self.page.locator("#work")
        field = place.get_by_label(label, exact=True).first
        field.fill(value)
        field.dispatch_event("change")
        self.counts[self.stage][0] += 1

    def taps(self, what: Locator) -> None:
        what.tap()
        self.counts[self.stage][1] += 1

    def button(self, name: str) -> None:
        self.taps(self.page.get_by_role("button", name=name).first)

    def link(self, name: str) -> None:
        self.settled()
        self.taps(self.page.get_by_role("link", name=name, exact=True).first)

    def chooses(self, legend: str, option: str) -> None:
        group = self.page.get_by_role("group", name=legend)
        self.taps(group.get_by_label(option, exact=True))

    def picks(self, selector: str, option: str) -> None:
        self.page.locator(selector).select_option(option)
        self.counts[self.stage][1] += 1

    def settled(self) -> None:
        kept = self.page.locator("#kept")
        if kept.count():
            expect(kept).to_contain_text("Kept")

    def verdict(self, *words: str) -> None:
        word = self.page.locator(".plate .verdict")
        expect(word).to_have_text(re.compile("|".join(words)))


OUTDOOR = {
    "Maker": "Loom Works",
    "Model": "L-26",
    "Maximum length of a zone": "66",
    "Maximum height difference": "39",
    "Maximum test pressure": "600",
    "Factory charge": "22",
    "Pre-charged length": "16",
    "Ports 1, Liquid tube": "1/4",
    "Ports 1, Gas tube": "3/8",
    "Rates beyond it 1, Liquid tube": "1/4",
    "Rates beyond it 1, Per length": "0.22",
}
HEAD = {
    "Maker": "Loom Works",
    "Model": "W-26",
    "Rated cooling": "9000",
    "Width": "32",
    "Height": "12",
    "Weight": "18",
    "Hole": "2 1/2",
}


def sheets(hand: Hand) -> None:
    hand.at("Shelf")
    hand.link("Enter the first sheet")
    for kind, fields in (("Outdoor unit", OUTDOOR), ("Sheet of a head", HEAD)):
        hand.link(kind)
        for label, value in fields.items():
            hand.types(label, value)
        hand.button("Keep the sheet")
        expect(hand.page.get_by_role("heading", level=1)).to_contain_text("Loom Works")


def begin(hand: Hand) -> None:
    hand.at("New job")
    hand.link("Begin a job")
    hand.types("What the job is called", "Loft")
    hand.types("Your company", "Ours")
    hand.button("Begin")


def survey(hand: Hand) -> None:
    hand.at("Survey")
    page = hand.page
    for label, value in {"Room": "Loft", "Floor": "320", "Cooling load": "8000"}.items():
        hand.types(label, value)
    hand.settled()
    hand.button("Add a head")
    hand.picks("[name='heads.0.sheet']", "Loom Works W-26")
    hand.button("Take Loom Works L-26")
    hand.link("The walk")
    hand.taps(page.get_by_role("checkbox", name="None seen"))
    hand.link("Out of the box")
    for box in ("outdoor", "A"):
        hand.taps(page.locator(f"#b_put-{box}"))
        expect(page.locator(f"[name='boxes.{box}.damage'][value=none]")).to_be_checked()
    hand.taps(page.locator("[name='boxes.A.hiss'][value=heard]"))
    hand.verdict("Holds", "Watch", "Unknown")


def mount(hand: Hand) -> None:
    hand.at("Mount")
    asked = hand.page.locator("#silent-outdoor")
    for label, value in {"Width": "32", "Height": "22", "Depth": "12", "Weight": "75"}.items():
        hand.types(label, value, asked)
    hand.taps(asked.get_by_role("button", name="Write it on the sheet"))
    expect(asked).to_have_count(0)
    asked = hand.page.locator("#silent-A")
    for label, value in (("Name", "right back"), ("Right", "12"), ("Up", "2")):
        hand.types(f"Outlets, from the mark 1, {label}", value, asked)
    for i, (right, up) in enumerate((("-12", "2"), ("4", "2"), ("-12", "6"), ("4", "6")), 1):
        hand.types(f"Screw holes, from the mark {i}, Right", right, asked)
        hand.types(f"Screw holes, from the mark {i}, Up", up, asked)
    hand.taps(asked.get_by_role("button", name="Write it on the sheet"))
    expect(asked).to_have_count(0)
    for label, value in {
        "Wall, corner to corner": "12 ft",
        "Ceiling above the floor": "9 ft",
        "First stud's centre": "16",
        "Studs on centre": "16",
        "Centre line from the left corner": "60",
        "Underside above the floor": "84",
        "Hole diameter": "2 1/2",
        "Inside above outside by": "5/8",
    }.items():
        hand.types(label, value)
    for legend, option in (
        ("Built as", "Frame"),
        ("Pipes and wires looked for", "Looked"),
        ("Mounting plate", "Dead level"),
        ("Drain at the bottom", "Yes"),
        ("Cable fed into the head", "Yes"),
    ):
        hand.chooses(legend, option)
    hand.link("Outdoor unit")
    for label, value in {
        "Wall, end to end": "16 ft",
        "Yard before it": "10 ft",
        "Left side from the wall's left end": "48",
        "Off the wall": "12",
        "Base above the ground": "4",
        "People who lift": "2",
    }.items():
        hand.types(label, value)
    for legend, option in (("It stands on", "Pad"), ("Level", "Level"), ("Anchored", "Yes")):
        hand.chooses(legend, option)


def route(hand: Hand) -> None:
    hand.at("Route")
    page = hand.page
    hand.button("Lay out the system")
    hand.taps(page.locator(".schematic:visible .run").first)
    hand.types("Say the run", "up 9 ft, right 10 ft, in 14 in")
    hand.button("Draw it")
    expect(page.get_by_label("Leg 3, length")).to_be_visible()
    hand.link("System")
    hand.types("Bend radius, centre line", "2 1/2")
    hand.types("Tail at each end", "6")
    hand.chooses("Both tubes insulated", "Both")
    hand.link("Drains")
    hand.types("A, part 1, length", "4")
    hand.types("A, part 1, falls by", "1")
    hand.picks("[name='drains.A.ends']", "ground")
    hand.types("A, inside of the pipe", "3/4")
    hand.chooses("A: insulated indoors", "Yes")
    hand.chooses("A: reached with a vacuum", "Yes")
    hand.verdict("Holds", "Watch")


def flare(hand: Hand) -> None:
    hand.at("Flare")
    page = hand.page
    for i in range(4):
        card = page.locator(".joint-card")
        gas = card.get_by_role("heading").inner_text().startswith("Gas")
        hand.types("The wrench read", "28" if gas else "12", card)
        if not i:
            hand.types("Made by", "Ida", card)
        hand.button(": Record")
        expect(page.locator(".ledger .verdict-holds")).to_have_count(i + 1)


def pressure_test(hand: Hand) -> None:
    hand.at("Pressure test")
    for n, waited in enumerate(("0 min", "60 min"), 1):
        passes(waited)
        hand.types("Gauge", "300")
        hand.types("Pipe", "70")
        hand.button("Record")
        expect(hand.page.locator("table.readings tr")).to_have_count(n + 1)
    hand.verdict("Holds")


def wire(hand: Hand) -> None:
    hand.at("Wire")
    page = hand.page
    asked = page.locator("#silent-outdoor")
    for label, value in {
        "Voltage": "230",
        "MCA, minimum circuit ampacity": "9",
        "MOP, maximum overcurrent protection": "15",
        "Interconnect terminals, in order": "1 2 3",
    }.items():
        hand.types(label, value, asked)
    hand.taps(asked.get_by_role("button", name="Write it on the sheet"))
    expect(asked).to_have_count(0)
    hand.chooses("The circuit is", "New")
    for label, value in {
        "Breaker": "15",
        "It has": "240",
        "Conductors, AWG or mm²": "14",
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
    hand.link("Landings")
    hand.button("No circuit reaches it yet")
    for n in range(3):
        hand.button("All landed and pulled: Record")
        expect(page.locator(".ledger .verdict-holds")).to_have_count(n + 1)
    hand.chooses("The cable is", "Outdoor-rated, stranded")
    hand.chooses("It runs", "In a way of its own")
    hand.types("Conductors, AWG or mm²", "14")
    hand.settled()
    hand.taps(page.locator("a.dock-act"))  # to who connects it, once all is landed
    hand.chooses("Connected", "Yes")
    hand.verdict("Holds")


def evacuate(hand: Hand) -> None:
    hand.at("Evacuate")
    page, reading = hand.page, hand.page.locator("#at-reading")
    hand.button("Bled, the gauge reads nought")
    expect(page.locator("#at-bled")).to_have_count(0)
    hand.chooses("The gauge sits", "On the far side from the pump")
    hand.settled()
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


def charge(hand: Hand) -> None:
    hand.at("Charge")
    page = hand.page
    added = float(page.locator(".figure.hero strong").inner_text())
    hand.types("Before", "9.90 lb")
    hand.types("After", f"{9.90 - added / 16:.3f} lb")
    hand.button("Record the weighing")
    expect(page.locator("table.readings")).to_be_attached()
    hand.button("Both open to the stop, caps on")
    hand.verdict("Holds", "Watch")


def commission(hand: Hand) -> None:
    hand.at("Commission")
    page = hand.page
    asked = page.locator("#silent-outdoor")
    hand.types("Rated current", "7", asked)
    hand.taps(asked.get_by_role("button", name="Write it on the sheet"))
    expect(asked).to_have_count(0)
    asked = page.locator("#silent-A")
    hand.types("Airflow by speed 1, Speed", "high", asked)
    hand.types("Airflow by speed 1, Air", "330", asked)
    hand.button("Write it on the sheet")
    expect(asked).to_have_count(0)
    hand.button("Hands out, power on")
    expect(page.locator("#at-power")).to_contain_text("Power is on")
    for mode, back, out, drain in (
        ("Cooling", "79", "56.5", "Drains"),
        ("Heating", "67", "97", "Not tried"),
    ):
        hand.chooses("Mode", mode)
        hand.types("Return air", back)
        hand.types("Supply air", out)
        hand.types("Current", "5")
        if drain != "Not tried":
            hand.chooses("Drain test", drain)
        hand.button("Record")
        section = page.locator(f".mode-{'cool' if mode == 'Cooling' else 'heat'}")
        expect(section).to_contain_text("Ida")


def hand_over(hand: Hand) -> None:
    hand.at("Hand over")
    page = hand.page
    for box in page.locator("#entry .ticks label").all():
        with page.expect_response(lambda r: r.request.method == "POST"):
            hand.taps(box)
    hand.types("Received by", "The weaver")
    hand.link("The record")
    expect(page.locator(".record-sheet")).to_contain_text("Loft")


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


def onward(hand: Hand, stage: str) -> None:
    """On by the bar's button where the call lets one; else by the line."""
    hand.settled()
    name = f"On to {stage}"
    button = hand.page.locator("#dock").get_by_role("link", name=name)
    if button.count():
        hand.taps(button)
        hand.page.wait_for_url(f"**/{stage.replace(' ', '-')}*")
        return
    print(f"  no way on to {stage} but by the line: {hand.page.locator('#dock').inner_text()!r}")
    hand.taps(hand.page.locator(".line").get_by_role("link", name=stage.capitalize()))
    hand.page.wait_for_url(f"**/{stage.replace(' ', '-')}*")


def job(hand: Hand, base: str) -> None:
    hand.page.goto(base)
    sheets(hand)
    begin(hand)
    survey(hand)
    for name, work in STAGES:
        onward(hand, name)
        work(hand)


@contextmanager
def served() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as folder, socket.socket() as listening:
        listening.bind(("127.0.0.1", 0))
        clock.use(clock.Clock(Later.now, Later.steady))
        app = create_app(Settings(Path(folder)))
        server = uvicorn.Server(uvicorn.Config(app, log_level="warning"))
        thread = threading.Thread(target=server.run, args=([listening],), daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.01)
        try:
            yield f"http://127.0.0.1:{listening.getsockname()[1]}"
        finally:
            server.should_exit = True
            thread.join(10)


def main() -> int:
    expect.set_options(timeout=15_000)
    with served() as base, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        context = browser.new_context(viewport=PHONE, has_touch=True, is_mobile=True)
        page = context.new_page()
        page.set_default_timeout(15_000)
        hand = Hand(page)
        try:
            job(hand, base)
        finally:
            print(f"{'stage':<16}{'fields':>8}{'taps':>6}")
            for stage, (fields, taps) in hand.counts.items():
                print(f"{stage:<16}{fields:>8}{taps:>6}")
            fields, taps = (sum(c[i] for c in hand.counts.values()) for i in (0, 1))
            print(f"{'in all':<16}{fields:>8}{taps:>6}   budget {MOST_FIELDS} and {MOST_TAPS}")
            if len(sys.argv) > 1:
                page.screenshot(path=sys.argv[1])
            context.close()
            browser.close()
    over = [
        stage
        for stage, most in MOST_OF.items()
        if any(n > m for n, m in zip(hand.counts.get(stage, most), most, strict=True))
    ]
    for stage in over:
        print(f"{stage} takes more than its own budget of {MOST_OF[stage]}")
    return int(bool(over) or fields > MOST_FIELDS or taps > MOST_TAPS)


if __name__ == "__main__":
    sys.exit(main())
