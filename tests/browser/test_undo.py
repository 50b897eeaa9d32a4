"""Undo by button and by keys, late changes of a system, and two people on one stage."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import DESK, PHONE
from tests.browser.test_placing_by_hand import drag, head, metres_of
from tests.browser.test_systems import move


def kept(page: Page) -> None:
    expect(page.locator("#kept")).to_have_text(re.compile(r"Kept\."))


@DESK
def test_a_piece_stays_on_the_plan_and_keys_take_the_drag_back(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/6/mount?part=A")
    before = metres_of(head(page))
    svg = page.locator("svg.placing:visible").first
    drag(page, head(page), 4000, 0)
    kept(page)
    x, _ = metres_of(head(page))
    assert before[0] < x <= float(svg.get_attribute("data-right")) + 1e-6
    box, frame = head(page).bounding_box(), svg.bounding_box()
    assert box["x"] < frame["x"] + frame["width"]  # it can be taken hold of again
    page.reload()
    head(page).focus()
    page.keyboard.press("Control+z")
    expect(page.locator(".undone")).to_contain_text("Taken back")
    assert metres_of(head(page)) == before
    page.get_by_role("button", name="Do again").click()
    expect(page.locator(".undone")).to_contain_text("Done again")
    assert metres_of(head(page))[0] == x


@PHONE
def test_a_head_moves_late_to_another_port_and_the_unit_changes_late(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/6/route?part=system")
    move(page, "C", "connect:C:outdoor:D")
    expect(page.locator(".undone")).to_contain_text("Joints: 14, now 15.")
    page.goto(f"{demo_site.base}/jobs/6/label")
    expect(page.locator(".run-labels").first).to_contain_text("D · zone C")
    page.goto(f"{demo_site.base}/jobs/6/survey")
    page.locator("[name=outdoor]").select_option("Osmund Works OS-50M2")
    kept(page)
    page.goto(f"{demo_site.base}/jobs/6/route?part=system")
    expect(page.locator("main")).to_contain_text("outdoor has no outlet D")
    expect(page.locator("main")).to_contain_text("all taken: choose another unit")
    page.goto(f"{demo_site.base}/jobs/6/survey")
    page.locator("#undo").click()
    expect(page.locator("[name=outdoor]")).to_have_value("Osmund Works OS-80M4")
    page.goto(f"{demo_site.base}/jobs/6/route?part=system")
    page.locator("body").press("Control+z")
    expect(page.locator(".undone")).to_contain_text("Joints: 15, now 14.")


@PHONE
def test_two_people_on_one_field_choose(demo_site):
    page, other = demo_site.page, demo_site.page.context.browser.new_context().new_page()
    url = f"{demo_site.base}/jobs/4/charge"
    page.goto(url)
    other.goto(url)
    for who, words in ((other, "theirs"), (page, "mine")):
        who.locator("[name=notes]").fill(words)
        who.locator("[name=notes]").press("Tab")
        if who is other:
            kept(who)
    expect(page.locator(".clashes")).to_contain_text("put theirs here")
    page.get_by_role("button", name="Keep mine").first.click()
    expect(page.locator(".clashes")).to_have_count(0)
    other.reload()
    expect(other.locator("[name=notes]")).to_have_value("mine")
    other.context.close()


@DESK
def test_a_save_with_the_focus_on_undo_takes_nothing_back(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/4/charge")
    notes = page.locator("[name=notes]")
    notes.fill("first")
    notes.press("Tab")
    kept(page)
    notes.fill("second")
    page.locator("#undo").focus()  # before the save of what was typed is on its way
    kept(page)
    page.locator("#undo").focus()
    page.locator("form.entry").evaluate("f => f.dispatchEvent(new Event('change'))")
    kept(page)
    page.reload()
    expect(notes).to_have_value("second")
