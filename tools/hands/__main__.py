"""Counts what a job takes of a new user with a phone: fields, taps, picks, screens scrolled.

``make hands``: an empty database is taken from the first sheet to the sealed record, once for one
zone and once for three home runs; ``--zones 1`` or ``3`` does one of them. The table of stages is
printed; it ends with 1 where the work takes more than its budget or leads into a dead end.
"""

import argparse
import socket
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import uvicorn
from playwright.sync_api import Browser, expect, sync_playwright

from fairline.settings import Settings
from fairline.store import clock
from fairline.web.app import create_app
from tests.browser.clock import Later
from tools.hands.hand import PHONE, Hand, screens
from tools.hands.stages import SINGLE, STAGES, TRIPLE, ZONES, begin, sheets, survey

CHROMIUM = "/usr/bin/chromium"
BUDGET = {1: (95, 85), 3: (125, 120)}  # fields; taps and picks
WIRE = (15, 24)  # of the one-zone job: Wire's own, among them
FURTHEST = 1.0  # screens to the next act


def onward(hand: Hand, stage: str) -> None:
    """On by the bar's button where the call lets one; else by the line, which is a dead end."""
    hand.settled()
    button = hand.page.locator("#dock").get_by_role("link", name=f"On to {stage}")
    try:
        expect(button).to_be_visible(timeout=3_000)
        hand.taps(button)
    except AssertionError:
        hand.dead_end(f"on to {stage}")
        hand.taps(hand.page.locator(".line").get_by_role("link", name=stage.capitalize()))
    hand.page.wait_for_url(f"**/{stage.replace(' ', '-')}*")


def job(hand: Hand, base: str, zones: int) -> None:
    """The whole job; its hand holds what it took."""
    size, rooms = SINGLE if zones == 1 else TRIPLE, ZONES[:zones]
    hand.page.goto(base)
    sheets(hand, rooms, size)
    begin(hand)
    survey(hand, rooms, size)
    for name, work in STAGES:
        onward(hand, name)
        work(hand, rooms, size)


@contextmanager
def served() -> Iterator[str]:
    """An app of its own on an empty database, by the clock that the hand can let go on."""
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


def counted(browser: Browser, zones: int, picture: str | None) -> bool:
    """One job done and its table printed; whether it keeps to its budget."""
    with served() as base:
        context = browser.new_context(viewport=PHONE, has_touch=True, is_mobile=True)
        page = context.new_page()
        page.set_default_timeout(8_000)
        hand = Hand(page)
        try:
            job(hand, base, zones)
        finally:
            if picture:
                page.screenshot(path=picture)
            table(hand, zones)
            context.close()
    fields, taps = totals(hand)
    wire = hand.counts["Wire"]
    over = fields > BUDGET[zones][0] or taps > BUDGET[zones][1]
    if zones == 1:
        over |= wire.fields > WIRE[0] or wire.taps + wire.picks > WIRE[1]
    far = [s for s, count in hand.counts.items() if count.furthest > FURTHEST]
    return not (over or hand.dead_ends or far)


def totals(hand: Hand) -> tuple[int, int]:
    counts = hand.counts.values()
    return sum(c.fields for c in counts), sum(c.taps + c.picks for c in counts)


def table(hand: Hand, zones: int) -> None:
    print(f"\n{zones} zone{'s' * (zones > 1)}")
    print(f"{'stage':<16}{'fields':>8}{'taps':>6}{'picks':>7}   screens scrolled (most at once)")
    for stage, c in hand.counts.items():
        print(f"{stage:<16}{c.fields:>8}{c.taps:>6}{c.picks:>7}   {screens(c)}")
    fields, taps = totals(hand)
    most = BUDGET[zones]
    print(f"in all: {fields} fields (at most {most[0]}), {taps} taps and picks (at most {most[1]})")
    for dead in hand.dead_ends:
        print(f"  dead end: {dead}")


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--zones", type=int, choices=sorted(BUDGET), action="append")
    parser.add_argument("--picture", help="where to put a picture of the last page")
    args = parser.parse_args()
    expect.set_options(timeout=8_000)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        kept = [counted(browser, n, args.picture) for n in args.zones or sorted(BUDGET)]
        browser.close()
    return int(not all(kept))


if __name__ == "__main__":
    sys.exit(main())
