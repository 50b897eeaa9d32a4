"""A day planned, dragged, moved by keys and by thumb; a hold ends while nobody looks; a bid."""

import re

from playwright.sync_api import expect

from tests.browser.clock import passes
from tests.browser.conftest import DESK, PHONE, menu

READY = re.compile(r"Ready \w+ \d\d:\d\d")


def plan(page, base, job=6, **fields):
    page.goto(f"{base}/jobs/{job}/plan")
    if not page.get_by_label("Begins; blank: now").is_visible():
        page.locator("summary").filter(has_text="people").click()
    for label, value in ({"Begins; blank: now": "2027-03-01T08:00"} | fields).items():
        page.get_by_label(label, exact=True).fill(value)
    page.get_by_role("button", name=re.compile("^Plan ")).first.click()


def test_a_day_is_planned_and_planned_again(demo_site):
    page, base = demo_site.page, demo_site.base
    demo_site.refusals = True
    page.goto(f"{base}/jobs/6/pressure-test")
    menu(page)
    page.get_by_role("link", name=re.compile("^plan$", re.IGNORECASE)).last.click()
    plan(page, base)
    ready = page.locator(".ready b")
    expect(ready).to_have_text(READY)
    two = ready.inner_text()
    plan(page, base, People="1")
    expect(page.get_by_role("alert")).to_contain_text("needs 2 people, and there are 1")
    page.get_by_label("People", exact=True).fill("3")
    page.get_by_role("button", name="Plan again").first.click()
    expect(page.locator(".verdict-watch").first).to_contain_text("With 3 people: ready")
    expect(page.locator(".day-bars.people [data-who='Person 3']")).not_to_have_count(0)
    expect(ready).not_to_have_text(two)
    page.get_by_text("Own tasks").click()
    page.get_by_label("What", exact=True).fill("Slab cures")
    page.get_by_label("Takes").last.fill("3 d")
    page.get_by_label("Nobody: it waits").check()
    page.get_by_label("Before", exact=True).select_option(label="Outdoor unit onto its support")
    page.get_by_role("button", name="Add it and plan again").click()
    expect(page.locator(".verdict-watch").first).to_contain_text("Slab cures added: ready")


def moved(page):
    return page.locator(".verdict-watch").first


@DESK
def test_a_task_is_dragged_and_moved_by_keys(demo_site):
    page, base = demo_site.page, demo_site.base
    plan(page, base, job=5)
    bar = page.locator(".day-bars").first.locator(".bar[data-task^='hang-']").first
    bar.scroll_into_view_if_needed()
    began = bar.get_attribute("data-start")
    task = bar.get_attribute("data-task")
    bar.focus()
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#moving")).not_to_be_empty()
    page.keyboard.press("Escape")
    expect(page.locator("#moving")).to_be_empty()
    for _ in range(6):
        page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Enter")
    expect(moved(page)).to_contain_text(re.compile("hung moved: (no later, )?ready"))
    again = page.locator(f".day-bars .bar[data-task='{task}']").first
    expect(again).not_to_have_attribute("data-start", began)
    by_keys = again.get_attribute("data-start")
    again.scroll_into_view_if_needed()
    box = again.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y, steps=4)
    expect(page.locator("#moving")).not_to_be_empty()
    page.mouse.up()
    expect(again).not_to_have_attribute("data-start", by_keys)
    expect(moved(page)).to_contain_text("hung moved")


@PHONE
def test_a_task_is_moved_by_thumb_to_another_person(demo_site):
    page, base = demo_site.page, demo_site.base
    page.goto(f"{base}/crew")
    for name in ("Ana", "Bo"):
        page.get_by_label("Name").last.fill(name)
        for skill in ("Brazes", "Handles refrigerant", "Licensed for power"):
            page.get_by_label(skill).last.check()
        page.get_by_role("button", name="Keep").click()
        expect(page.get_by_label("Name").last).to_have_value("")
    page.goto(f"{base}/jobs/6/plan")
    for name in ("Ana", "Bo"):
        page.get_by_label(name, exact=True).check()
    page.get_by_label("Begins; blank: now").fill("2027-03-01T08:00")
    page.get_by_role("button", name="Plan it").click()
    row = page.locator(".day-bars.people g[data-who='Ana']")
    bar = row.locator(".bar[data-movable]").last
    task = bar.get_attribute("data-task")
    bar.click()
    expect(page.locator("#move")).to_have_attribute("open", "")
    page.get_by_label("Done by").first.select_option("Bo")
    page.locator("#move").get_by_role("button", name="Plan again").click()
    expect(
        page.locator(f".day-bars.people g[data-who='Bo'] .bar[data-task='{task}']")
    ).to_have_count(1)
    page.goto(f"{base}/days?from=2027-03-01")
    expect(page.locator(".marks")).to_contain_text("Gallery")
    page.goto(f"{base}/days/sheet?on=2027-03-01")
    expect(page.locator("main")).to_contain_text("Ana")


@PHONE
def test_a_hold_that_ends_while_nobody_looks_calls_somebody_back(demo_site):
    page, base = demo_site.page, demo_site.base
    page.goto(f"{base}/jobs/4/pressure-test")
    box = page.locator("#at-hold")
    for label, value in (("Gauge", "550"), ("Pipe", "68 F")):
        box.get_by_label(label, exact=True).fill(value)
    box.get_by_role("button", name="Begin a new hold with this reading").click()
    expect(box.get_by_role("button", name="Record", exact=True)).to_be_visible()
    page.goto(base)
    clocks = page.locator("#clocks")
    expect(clocks).to_contain_text("Nitrogen holds. Read gauge and pipe.")
    expect(clocks).to_contain_text("Be there 20")
    passes("2880 min")
    page.goto(base)
    expect(clocks).to_contain_text("Be there: ended")
    clocks.get_by_role("link").first.click()
    expect(page).to_have_url(re.compile("/jobs/4/pressure-test"))


@DESK
def test_a_bid_is_priced_and_printed(demo_site):
    page, base = demo_site.page, demo_site.base
    demo_site.refusals = True
    page.goto(f"{base}/jobs/6/bid")
    total = page.locator(".ready b")
    expect(total).to_have_text("$0.00")
    page.get_by_label("A person's hour").fill("90")
    prices = page.locator(".bid-lines td:nth-child(3) input")
    for n in range(prices.count()):
        prices.nth(n).fill("12.50")
    page.get_by_label("What they may have besides").fill("Cover in colour")
    page.get_by_label("For", exact=True).fill("240")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(total).not_to_have_text("$0.00")
    expect(page.get_by_text("At least.")).to_have_count(0)
    page.get_by_role("button", name="Given to the customer").click()
    expect(page.locator(".verdict-holds")).to_contain_text("Given")
    page.get_by_role("link", name="Page to print").click()
    expect(page.locator("article")).to_contain_text("Cover in colour")
    expect(page.locator("article")).to_contain_text("Total")


def test_a_job_is_found_by_its_serial_and_narrowed_by_its_stage(demo_site):
    page = demo_site.page
    page.goto(demo_site.base)
    find = page.get_by_role("searchbox")
    find.fill("cafe")
    find.press("Enter")
    expect(page.locator(".job-row")).to_have_count(1)
    expect(page.locator(".job-row")).to_contain_text("Café")
    find.fill("")
    find.press("Enter")
    page.get_by_text("Narrower").click()
    page.get_by_label("Stands at").select_option(label="Wire")
    page.get_by_role("button", name="Show these").click()
    expect(page.locator(".job-row").first).to_contain_text("Wire:")
