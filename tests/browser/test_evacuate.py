"""Evacuate by hand: a drying plan ticked, a pull off its course told, a hold accepted by name."""

import re

from playwright.sync_api import Page, expect


def verdict(page: Page, word: str) -> None:
    expect(page.locator(".plate .verdict")).to_have_text(word)


def test_a_drying_plan_is_ticked_and_a_hold_accepted(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/3/evacuate")
    verdict(page, "Short")
    steps = page.locator("#at-drying .steps-ledger li")
    expect(steps).to_have_count(6)
    for n, words in enumerate(("Change the pump oil", "Warm the lines", "Sweep 1 of 3")):
        row = steps.nth(n)
        expect(row).to_contain_text(words)
        row.get_by_role("button", name="Done").click()
        expect(page.locator("#at-drying .steps-ledger .verdict-holds")).to_have_count(n + 1)
    expect(page.locator("#at-drying")).to_contain_text("Oil changed 1 times")
    page.locator("#at-accepted > summary").click()
    accepted = page.locator("#at-accepted")
    accepted.get_by_label("Who answers for it").fill("Ida")
    accepted.get_by_role("button", name="Accept it").click()
    expect(accepted.locator(".field-error")).to_be_visible()  # a reason is needed
    accepted.get_by_label("Why").fill("only to practise")
    accepted.get_by_role("button", name="Accept it").click()
    verdict(page, "Watch")
    expect(page.locator("#at-accepted")).to_contain_text("accepted by Ida: only to practise")


def test_a_pull_that_stands_still_is_told_beside_its_course(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/2/evacuate")
    page.locator("#at-bled").get_by_label("Bled by").fill("Ida")
    page.get_by_role("button", name="Bled, the gauge reads nought").click()
    expect(page.locator("#at-bled")).to_have_count(0)
    for label, value in (("Pump, free air", "6"), ("Bore of hose 1", "3/8")):
        page.get_by_label(label, exact=True).fill(value)
        page.get_by_label(label, exact=True).press("Tab")
    page.get_by_label("Its length", exact=True).first.fill("5")
    page.get_by_label("Its length", exact=True).first.press("Tab")
    expect(page.locator("#kept")).to_have_text(re.compile(r"Kept\."))
    expect(page.locator(".rig")).to_have_attribute("aria-label", "The rig: pump, hose 1, system")
    reading = page.locator("#at-reading")
    for pa, after in (("300000", "0"), ("18000", "2"), ("17900", "10"), ("17890", "20")):
        reading.get_by_label("Gauge", exact=True).fill(pa)
        reading.get_by_label("After (blank: now)").fill(after)
        reading.get_by_role("button", name="Record", exact=True).click()
        shown = f"{int(pa):,}".replace(",", "\u202f")
        expect(page.locator(".figure.hero strong")).to_have_text(shown)
    expect(page.locator("#live")).to_contain_text("It stands where water boils")
    expect(page.locator("svg.chart:visible .known")).to_have_count(1)
    page.get_by_role("group", name="The gauge sits").get_by_label("At the pump").check()
    verdict(page, "Unknown")
    expect(page.locator(".plate .because").first).to_contain_text("gauge sits at the pump")
