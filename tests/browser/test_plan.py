"""A day planned by thumb and by keys: more people, rain, the house's own times; a job found."""

import re

from playwright.sync_api import expect

from tests.browser.conftest import menu


def test_a_day_is_planned_and_planned_again(demo_site):
    page, base = demo_site.page, demo_site.base
    demo_site.refusals = True
    page.goto(f"{base}/jobs/6/pressure-test")
    menu(page)
    page.get_by_role("link", name=re.compile("^plan$", re.IGNORECASE)).last.click()
    ready = page.locator(".ready b")
    expect(ready).to_have_text(re.compile(r"Ready \w+ \d\d:\d\d"))
    page.locator("summary").filter(has_text="people").click()
    page.get_by_label("Begins; blank: now").fill("2026-12-07T08:00")
    page.get_by_label("It rains on").fill("2026-12-07")
    page.get_by_role("button", name="Plan it").press("Enter")
    expect(page.locator(".verdict-watch")).to_contain_text("Rain that day")
    two = ready.inner_text()
    page.locator("summary").filter(has_text="people").click()
    page.get_by_label("It rains on").fill("")
    page.get_by_label("People").fill("1")
    page.get_by_role("button", name="Plan it").click()
    expect(page.get_by_role("alert")).to_contain_text("needs 2 people, and there are 1")
    page.get_by_label("People").fill("3")
    page.get_by_role("button", name="Plan it").click()
    expect(page.get_by_text("Person 3")).to_be_visible()
    expect(ready).not_to_have_text(two)
    page.get_by_text("How long things take here").click()
    page.get_by_label("Under the pump").fill("6 h")
    page.get_by_role("button", name="Keep the times").click()
    page.get_by_text("How long things take here").click()
    expect(page.get_by_label("Under the pump")).to_have_value("360 min")


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
