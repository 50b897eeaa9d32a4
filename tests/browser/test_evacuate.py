"""Evacuate by hand: a drying plan ticked, a pull off its course told, a hold accepted by name."""

import re

from playwright.sync_api import Page, expect

from tests.browser.clock import passes
from tests.browser.conftest import DESK, PHONE


def verdict(page: Page, word: str) -> None:
    expect(page.locator(".plate .verdict")).to_have_text(word)


@PHONE
def test_a_drying_plan_is_ticked_and_a_hold_accepted(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/3/evacuate")
    verdict(page, "Short")
    steps = page.locator("#at-drying .steps-ledger li")
    expect(steps).to_have_count(6)
    for n, words in enumerate(("Change the pump oil", "Warm the lines")):
        row = steps.nth(n)
        expect(row).to_contain_text(words)
        row.get_by_role("button", name="Done").click()
        expect(page.locator("#at-drying .steps-ledger .verdict-holds")).to_have_count(n + 1)
    expect(steps.nth(2)).to_contain_text("Sweep 1 of 3")
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
    steps.nth(2).get_by_role("button", name="Done").click()
    verdict(page, "Wait")  # nitrogen came in after that decay: it proves nothing any more


@DESK
def test_a_pull_that_stands_still_is_told_beside_its_course(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/2/evacuate")
    page.locator("#at-bled").get_by_label("Bled by").fill("Ida")
    page.get_by_role("button", name="Bled, the gauge reads nought").click()
    expect(page.locator("#at-bled")).to_have_count(0)
    page.get_by_text("Pump, hoses, what is in the way").click()
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
        passes(after)
        reading.get_by_label("After (blank: now)").fill(after)
        reading.get_by_role("button", name="Record", exact=True).click()
        expect(reading.get_by_label("Gauge", exact=True)).to_have_value("")
        shown = f"{int(pa):,}".replace(",", "\u202f")
        expect(page.locator(".figure.hero strong")).to_have_text(shown)
    expect(page.locator("#live")).to_contain_text("It stands where water boils")
    expect(page.locator("svg.chart:visible .known")).to_have_count(1)
    page.get_by_role("group", name="The gauge sits").get_by_label("At the pump").check()
    verdict(page, "Unknown")
    expect(page.locator(".plate .because").first).to_contain_text("gauge sits at the pump")


def takes_now(page: Page) -> None:
    """Wait until the form takes readings of what the live part of the page shows already."""
    state = page.locator(".work-head .state")
    kind = "decay" if state.count() and "valve closed" in state.inner_text() else "pull"
    form = page.locator("#at-reading form").first
    expect(form).to_have_attribute("action", re.compile(f"/{kind}/reading"))


def reading(page: Page, value: str, after: str) -> None:
    box = page.locator("#at-reading")
    takes_now(page)
    box.get_by_label("Gauge", exact=True).fill(value)
    passes(after)
    box.get_by_label("After (blank: now)").fill(after)
    box.get_by_role("button", name="Record", exact=True).click()
    expect(box.get_by_label("Gauge", exact=True)).to_have_value("")  # the answer has come


def say(page: Page, name: str, within: str = "body") -> None:
    with page.expect_response(lambda r: r.request.method == "POST"):
        page.locator(within).get_by_role("button", name=name, exact=True).locator(
            "visible=true"
        ).first.click()


@DESK
def test_each_verdict_of_a_decay_is_said_where_it_belongs(demo_site):
    page, api = demo_site.page, f"{demo_site.base}/api/jobs/2/runs"
    page.request.post(f"{api}/pull")  # a gauge began it, with nitrogen on the system
    page.goto(f"{demo_site.base}/jobs/2/evacuate")
    verdict(page, "Stop")
    expect(page.locator(".plate .because").first).to_contain_text("it breaks pump and gauge")
    page.locator("#at-bled").get_by_label("Bled by").fill("Ida")
    say(page, "Bled, the gauge reads nought: Record")
    page.get_by_role("group", name="The gauge sits").get_by_label("On the far side").check()
    expect(page.locator("#kept")).to_have_text(re.compile(r"Kept\."))
    verdict(page, "Wait")
    reading(page, "180", "20 min")
    expect(page.locator(".plate .because").first).to_contain_text("proves nothing yet")
    say(page, "Valve closed: time the decay")
    state = page.locator(".work-head .state")
    expect(state).to_contain_text("valve closed")
    for value, after in (("185", "0 min"), ("186", "10 min"), ("186", "20 min")):
        reading(page, value, after)
    verdict(page, "Unknown")
    expect(page.locator(".plate .because").first).to_contain_text("may still see the pump")
    say(page, "The valve is shut and the pump is off: I saw it")
    verdict(page, "Holds")
    reading(page, "510", "50 min")  # long after the hold
    verdict(page, "Watch")
    say(page, "Valve open: pull again")
    expect(state).to_contain_text("pump running")
    reading(page, "170", "5 min")
    say(page, "Valve closed, pump off, seen: time the decay")
    expect(state).to_contain_text("valve closed")
    for value, after in (("185", "0 min"), ("900", "6 min")):
        reading(page, value, after)
    verdict(page, "Short")
    expect(page.locator("#at-accepted")).to_be_visible()


@PHONE
def test_a_pull_by_needle_on_both_sides_has_its_own_clocks_and_steps(demo_site):
    page = demo_site.page
    page.request.post(
        f"{demo_site.base}/jobs/2/rules",
        form={"topic": "gauge", "school": "needle", "reason": "no micron gauge", "by": "Ida"},
    )
    page.goto(f"{demo_site.base}/jobs/2/evacuate")
    page.locator("#at-bled").get_by_label("Bled by").fill("Ida")
    say(page, "Bled, the gauge reads nought: Record")
    steps = page.locator("#at-needle li")
    expect(steps).to_have_count(4)

    def needles(gas: str, liquid: str, after: str) -> None:
        takes_now(page)
        box = page.locator("#at-reading")
        box.get_by_label("Needle", exact=True).fill(gas)
        box.get_by_label("On the liquid side").fill(liquid)
        passes(after)
        box.get_by_label("After (blank: now)").fill(after)
        box.get_by_role("button", name="Record", exact=True).click()
        expect(box.get_by_label("Needle", exact=True)).to_have_value("")  # the answer has come

    needles("-29.9", "-25", "0 min")
    expect(page.locator("#at-needle .verdict-holds")).to_have_count(0)
    needles("-29.9", "-29.9", "1 min")
    expect(page.locator("#at-needle .verdict-holds")).to_have_count(1)
    expect(steps.nth(1).locator("small")).to_contain_text(re.compile(r"for \d+:\d\d\s+so far"))
    needles("-29.9", "-29.9", "12 min")
    say(page, "Valve closed, pump off, seen: time the decay")
    expect(page.locator(".work-head .state")).to_contain_text("valve closed")
    expect(page.locator("#at-needle .verdict-holds")).to_have_count(3)
    needles("-29.9", "-29.9", "0 min")
    needles("-29.9", "-29.2", "5 min")
    verdict(page, "Short")
    expect(page.locator(".plate .because").first).to_contain_text("on the liquid side moved")
    expect(page.locator(".plate .do-next").first).to_contain_text("Prove hose and seal")
    wide = page.evaluate("document.documentElement.scrollWidth - innerWidth")
    assert wide <= 0


@PHONE
def test_two_pumps_on_the_ports_of_one_unit_side_by_side(demo_site):
    page = demo_site.page
    page.request.post(
        f"{demo_site.base}/jobs/6/evacuate/override", form={"by": "Ida", "reason": "to practise"}
    )
    page.goto(f"{demo_site.base}/jobs/6/evacuate?ports=A")
    say(page, "Begin a pull by hand")
    reading(page, "400", "5 min")
    ports = page.get_by_role("navigation", name="Ports")
    ports.get_by_text("All ports").click()
    for port in ("A",):
        page.get_by_role("group", name="Open to the rig").get_by_label(port, exact=True).uncheck()
    say(page, "Begin a pull by hand")
    expect(ports).to_contain_text("Ports B and C")
    reading(page, "900", "5 min")
    ports.get_by_text("Port A").click()
    expect(page.locator(".figure.hero strong")).to_have_text("400")
    expect(page.locator("#live")).to_contain_text("pump running")
    ports.get_by_text("Ports B and C").click()
    expect(page.locator(".figure.hero strong")).to_have_text("900")
    reading(page, "800", "6 min")
    expect(page.locator(".figure.hero strong")).to_have_text("800")


def hide(page: Page, hidden: bool) -> None:
    """As when a tab is put behind another; a headless browser hides none by itself."""
    page.evaluate(
        """hidden => {
          Object.defineProperty(document, "hidden", { configurable: true, get: () => hidden });
          document.dispatchEvent(new Event("visibilitychange"));
        }""",
        hidden,
    )


@DESK
def test_tabs_behind_let_go_of_their_streams_and_catch_up_when_seen(demo_site):
    first, url = demo_site.page, f"{demo_site.base}/jobs/2/evacuate"
    first.goto(url)
    tabs = [first]
    for _ in range(6):  # with the streams of six tabs a seventh would never be answered
        hide(tabs[-1], hidden=True)
        tabs.append(first.context.new_page())
        tabs[-1].goto(url)
    last, large = tabs[-1], ".figure.hero strong"
    last.locator("#at-bled").get_by_label("Bled by").fill("Ida")
    say(last, "Bled, the gauge reads nought: Record")
    reading(last, "4321", "0 min")
    expect(last.locator(large)).to_have_text("4321")
    expect(first.locator(large)).not_to_have_text("4321")
    hide(first, hidden=False)
    expect(first.locator(large)).to_have_text("4321")
    for tab in tabs[1:]:
        tab.close()


@DESK
def test_a_stream_that_was_refused_is_not_opened_beside_the_one_in_its_place(demo_site):
    page, asked, refused = demo_site.page, [], []

    def is_live(request) -> bool:
        return "/evacuate/live" in request.url

    def refuse_the_first(route):
        if refused:
            route.continue_()
        else:
            refused.append(route)
            route.fulfill(status=204)

    page.on("request", lambda request: is_live(request) and asked.append(request))
    page.route("**/evacuate/live*", refuse_the_first)
    with page.expect_request(lambda request: is_live(request) and len(asked) == 2):
        page.goto(f"{demo_site.base}/jobs/2/evacuate")  # and it asks anew by itself
    hide(page, hidden=True)
    with page.expect_request(is_live):
        hide(page, hidden=False)
    page.locator("#at-bled").get_by_label("Bled by").fill("Ida")
    say(page, "Bled, the gauge reads nought: Record")
    expect(page.locator("#at-bled")).to_have_count(0)
    assert len(asked) == 3
    assert demo_site.wrong == ["[object Event]"]  # the refusal, as the extension notes it
    demo_site.wrong.clear()
