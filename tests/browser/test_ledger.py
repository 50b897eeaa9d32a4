"""The ledger with one hand, and a leak that is looked for, found and mended."""

import re

from playwright.sync_api import expect

from tests.browser.clock import passes
from tests.browser.conftest import DESK, PHONE, tick_lists


@PHONE
def test_the_ledger_with_one_hand_on_a_phone(demo_site):
    """Each joint from the wrench: two taps, and the next one stands there."""
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/9/flare")
    for n, start in enumerate(
        ("Gas, at the head", "Liquid, at the head", "Gas, at the outdoor", "Liquid, at the outdoor")
    ):
        card = page.locator(".joint-card")
        expect(card.get_by_role("heading")).to_contain_text(start)
        if not n:
            card.get_by_label("Made by").fill("Tomas")  # the rest remember it
        card.get_by_text("To practise: a simulated wrench").click()
        card.get_by_label("It is set to").fill("26" if start.startswith("Gas") else "12")
        card.get_by_role("button", name="Pull it until it clicks").click()
        expect(card.get_by_label("The wrench read")).to_have_value(re.compile(r"^\d+\.\d\d$"))
        card.get_by_role("button", name=": Record").click()
        expect(page.locator(".ledger .verdict-holds")).to_have_count(n + 1)
    tick_lists(page, "Tomas")
    expect(page.locator(".plate .verdict")).to_have_text("Holds")
    shot = page.screenshot(type="jpeg")  # a camera's file will do
    page.get_by_label("Take a picture").set_input_files(
        {"name": "joint.jpg", "mimeType": "image/jpeg", "buffer": shot}
    )
    expect(page.locator(".pictures figure")).to_have_count(1)
    page.get_by_text("Its length").tap()
    page.get_by_label("The wrench reads in").select_option("lbf·in")
    expect(page.locator(".joint-card .figure em")).to_have_text("lbf·in")
    page.goto(f"{demo_site.base}/jobs/9/torque-card")
    expect(page.locator(".torque-card")).to_contain_text("lbf·in")
    wide = page.evaluate("document.documentElement.scrollWidth - innerWidth")
    assert wide <= 0


def read(page, gauge, after):
    passes(after)
    for label, value in (("Gauge", gauge), ("Pipe", "68 F"), ("After (blank: now)", after)):
        page.locator("#at-hold").get_by_label(label, exact=True).fill(value)
    page.locator("#at-hold").get_by_role("button", name="Record", exact=True).click()
    expect(page.locator("#at-hold").get_by_label("Gauge", exact=True)).to_have_value("")
    expect(page.locator(".was-read strong")).to_have_text(f"{float(gauge):.1f}")


@PHONE
def test_a_leak_is_looked_for_found_and_mended(demo_site):
    demo_site.refusals = True
    page = demo_site.page
    # The charged kit comes off the run: nitrogen and pump are asked for as anywhere.
    page.request.post(f"{demo_site.base}/jobs/9/route?part=runs.A", form={"runs.A.kit": ""})
    for place, torque in (
        ("gas.end", 37),
        ("liquid.end", 16),
        ("gas.start", 37),
        ("liquid.start", 16),
    ):
        made = {"place": f"A.{place}", "look": "good", "wrench_nm": f"{torque} N·m", "by": "Ida"}
        page.request.post(f"{demo_site.base}/jobs/9/flare/joints", form=made)
    page.goto(f"{demo_site.base}/jobs/9/evacuate")
    page.get_by_role("button", name="Connect the gauge").click()
    expect(page.locator("#at-pump .field-error")).to_contain_text("does not hold yet")
    page.goto(f"{demo_site.base}/jobs/9/pressure-test")
    expect(page.locator(".test-steps li")).to_have_count(3)
    read(page, "300", "0 min")
    read(page, "285", "60 min")
    expect(page.locator(".plate .verdict")).to_have_text("Short")
    expect(page.locator(".leak-figures")).to_contain_text("g of R-32 a year")
    first = page.locator(".suspect").first
    first.get_by_role("button", name="Watch").click()
    expect(first.locator("[name=watched_s]")).to_have_value(re.compile(r"^\d+ s$"))
    first.locator("[name=watched_s]").fill("2.5 min")
    first.get_by_role("button", name=re.compile("clean$")).click()
    expect(page.locator(".suspect.verdict-holds")).to_have_count(1)
    second = page.locator(".suspect").nth(1)
    second.locator("[name=watched_s]").fill("2 min")
    second.get_by_role("button", name=re.compile("leaks$")).click()
    expect(page.locator(".plate .do-next")).to_contain_text("Tighten it once to torque")
    again = page.get_by_role("link", name=re.compile("^Make .* again$"))
    again.click()
    card = page.locator(".joint-card")
    card.get_by_text("Make it again", exact=True).click()
    card.locator("label", has_text="Tightened, not opened").click()
    card.get_by_label("The wrench read").fill("16 N·m")
    card.locator("label", has_text="After it").click()
    card.get_by_label("Made by").fill("Tomas")
    card.get_by_role("button", name=": Record").click()
    expect(page.locator(".ledger .verdict-holds")).to_have_count(4)
    page.goto(f"{demo_site.base}/jobs/9/pressure-test")
    with page.expect_response(re.compile("/runs/hold/begin")):
        page.get_by_role("button", name="Begin a new hold").click()
    page.goto(f"{demo_site.base}/jobs/9/pressure-test")
    read(page, "301", "0 min")
    read(page, "301", "60 min")
    expect(page.locator(".plate .verdict")).to_have_text("Holds")
    expect(page.locator("details", has_text="looks at earlier holds")).to_have_count(1)
    page.goto(f"{demo_site.base}/jobs/9/evacuate")
    expect(page.locator("#at-pump")).to_have_count(0)


@DESK
def test_a_night_in_which_the_pipe_cools_holds_while_the_gauge_is_watched(demo_site):
    """A simulated gauge: the pressure falls with the pipe, and the verdict follows it live."""
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/4/pressure-test")
    page.get_by_label("Simulated system").select_option("cooling")
    page.get_by_label("Time runs").select_option("3600")
    page.get_by_role("button", name="Fill and connect").click()
    expect(page.locator(".because").first).to_contain_text("fell by", timeout=30_000)
    expect(page.locator(".plate .verdict")).to_have_text("Holds")
    page.get_by_role("button", name="Take the digital gauge off").click()
    expect(page.get_by_role("button", name="Fill and connect")).to_be_visible()
    page.locator("summary", has_text="readings").click()
    expect(page.locator(".readings").first).to_contain_text("simulated digital gauge")
