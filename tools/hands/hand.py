"""One hand on a phone: it types, picks and taps, and counts each by stage, with the way it scrolls.

Where to go next it knows from the bar under its thumb alone: a tab or the line of stages is never
pressed. What it cannot reach so is printed as a dead end.
"""

import math
import re
from dataclasses import dataclass, field

from playwright.sync_api import Locator, Page, expect

PHONE = {"width": 390, "height": 844}
SEEN = (60, 700)  # what of a phone's screen the bars leave free, from the top


@dataclass
class Count:
    """What a stage took; ``screens`` scrolled in all, ``furthest`` at once."""

    fields: int = 0
    taps: int = 0
    picks: int = 0
    screens: float = 0.0
    furthest: float = 0.0


@dataclass
class Hand:
    page: Page
    stage: str = ""
    counts: dict[str, Count] = field(default_factory=dict)
    dead_ends: list[str] = field(default_factory=list)

    def at(self, stage: str) -> None:
        self.stage = stage
        self.counts.setdefault(stage, Count())

    @property
    def count(self) -> Count:
        return self.counts[self.stage]

    def reaches(self, what: Locator) -> None:
        """Scroll to a thing as a thumb does, and count the screens that it takes."""
        place = what.bounding_box()
        if place is not None:
            over = max(place["y"] + place["height"] - SEEN[1], SEEN[0] - place["y"], 0.0)
            way = over / (SEEN[1] - SEEN[0])
            self.count.screens += way
            self.count.furthest = max(self.count.furthest, way)
        what.scroll_into_view_if_needed()

    def types(self, label: str, value: str, within: Locator | None = None) -> None:
        place = within or self.page.locator("#work")
        found = place.get_by_label(label, exact=True).first
        self.reaches(found)
        found.fill(value)
        found.dispatch_event("change")
        self.count.fields += 1

    def taps(self, what: Locator) -> None:
        self.reaches(what)
        what.tap()
        self.count.taps += 1

    def button(self, name: str, within: Locator | None = None) -> None:
        self.taps((within or self.page).get_by_role("button", name=name).first)

    def link(self, name: str) -> None:
        self.settled()
        self.taps(self.page.get_by_role("link", name=name, exact=True).first)

    def chooses(self, legend: str, option: str) -> None:
        group = self.page.get_by_role("group", name=legend)
        self.taps(group.get_by_label(option, exact=True))

    def picks(self, selector: str, option: str) -> None:
        found = self.page.locator(selector)
        self.reaches(found)
        found.select_option(option)
        self.count.picks += 1

    def settled(self) -> None:
        """Wait until all that was typed is kept."""
        kept = self.page.locator("#kept")
        if kept.count():
            expect(kept).to_contain_text("Kept")

    def goes(self, leads_to: str, by_tab: str) -> None:
        """To a part of the stage by the bar; where it does not lead there, a dead end is noted."""
        self.settled()
        if re.search(leads_to, self.page.url):
            return
        button = self.page.locator("#dock a.dock-act")
        try:
            expect(button).to_have_attribute("href", re.compile(leads_to), timeout=2_000)
            self.taps(button)
        except AssertionError:
            self.dead_end(f"to {by_tab}")
            self.link(by_tab)
        expect(self.page).to_have_url(re.compile(leads_to))

    def lists(self, more: str = "") -> None:
        """All lists of steps of this page, or of its stage, by the one press that says all."""
        self.settled()
        lists = self.page.locator("#at-lists")
        by = lists.get_by_label("Done by", exact=True)
        if not by.input_value():
            by.fill("Ida")
            self.count.fields += 1
        names = (*((more,) if more else ()), "lists done: Record", "all done, in this order")
        found = [lists.get_by_role("button", name=name) for name in names]
        self.taps(next(b for b in found if b.count()).last)
        expect(lists).to_contain_text("Done by hand")

    def dead_end(self, where: str) -> None:
        bar = " ".join(self.page.locator("#dock").inner_text().split())
        self.dead_ends.append(f"{self.stage}: no way {where} from: {bar}")

    def verdict(self, *words: str) -> None:
        word = self.page.locator(".plate .verdict")
        expect(word).to_have_text(re.compile("|".join(words)))


def screens(count: Count) -> str:
    """How far it was scrolled, in screens: in all, and the most at once."""
    return f"{count.screens:.1f} ({math.ceil(count.furthest * 10) / 10:.1f})"
