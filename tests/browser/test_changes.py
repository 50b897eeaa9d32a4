"""A finished job that is changed late: asked once, answered, taken back; a machine exchanged."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import DESK, PHONE
from tests.browser.test_hands import open_up
from tests.browser.test_undo import kept

JOB = 1


def verdict(page: Page, base: str, stage: str) -> str:
    page.goto(f"{base}/jobs/{JOB}/{stage}")
    said = page.locator("#verdict-said").inner_text()
    return said.rpartition(": ")[2]


def in_first_screen(page: Page, selector: str) -> bool:
    box, size = page.locator(selector).bounding_box(), page.viewport_size
    return box is not None and 0 <= box["y"] < size["height"]


@PHONE
def test_a_late_edit_is_asked_about_and_taken_back(demo_site):
    page, base = demo_site.page, demo_site.base
    assert verdict(page, base, "evacuate") == "Holds"
    open_up(demo_site, JOB, "shut", "recovered")
    page.goto(f"{base}/jobs/{JOB}/route?part=runs.A")
    page.locator("[name='runs.A.gas_od_m']").fill("1/2 in")
    page.locator("[name='runs.A.gas_od_m']").press("Tab")
    kept(page)
    assert verdict(page, base, "flare") == "Wait"
    expect(page.locator("#changed h3")).to_have_text("Drawn wrong, or changed on site?")
    assert in_first_screen(page, "#changed h3")
    page.get_by_role("button", name="prove it anew").click()
    expect(page.locator("#changed .field-error").first).to_be_visible()  # who, and how it is known
    page.locator("#f-change-reason").fill("the tube was changed")
    page.locator("#f-change-by").fill("Ida Marsh")
    page.get_by_role("button", name="prove it anew").click()
    expect(page.locator("#changed")).to_have_count(0)
    expect(page.locator("#work")).to_contain_text("not made up yet")
    for stage in ("pressure-test", "evacuate", "charge"):
        assert verdict(page, base, stage) == "Wait"
    page.goto(f"{base}/jobs/{JOB}/evacuate")
    expect(page.locator("#at-void")).to_contain_text("1/4 and 3/8 in to 1/4 and 1/2 in")
    page.goto(f"{base}/jobs/{JOB}/record")
    expect(page.locator("body")).to_contain_text("Proofs older than a change")
    page.goto(f"{base}/jobs/{JOB}/route?part=runs.A")
    page.locator("#undo").click()
    expect(page.locator(".undone")).to_contain_text("Taken back")
    for stage in ("flare", "pressure-test"):
        assert verdict(page, base, stage) == "Holds"
    assert verdict(page, base, "commission") == "Short"  # power is on, and the valves are shut
    for stage in ("evacuate", "charge"):  # what was recovered has to go back in
        assert verdict(page, base, stage) == "Wait"
    assert demo_site.faults() == []


@DESK
def test_a_head_is_exchanged_and_a_joint_is_made_after_the_proofs(demo_site):
    page, base = demo_site.page, demo_site.base
    page.goto(f"{base}/jobs/{JOB}/flare?joint=A.liquid.start")
    page.get_by_text("Make it again", exact=True).click()
    page.locator("[name=wrench_nm]").first.fill("10.1 lbf·ft")
    page.locator("#by-A\\.liquid\\.start").fill("Ida Marsh")
    page.get_by_role("button", name=re.compile("Flare good")).first.click()
    expect(page.locator(".field-error").first).to_contain_text("before the nitrogen hold")
    page.locator("label", has_text="Before the nitrogen hold").first.click()
    page.get_by_role("button", name=re.compile("Flare good")).first.click()
    expect(page.locator(".field-error")).to_have_count(0)
    assert verdict(page, base, "pressure-test") == "Holds"
    page.goto(f"{base}/jobs/{JOB}/survey?part=boxes")
    page.get_by_text("Head A was exchanged").click()
    box = page.locator("details.exchange", has_text="Head A")
    box.get_by_label("Why").fill("warranty")
    box.get_by_label("Exchanged by").fill("Ida Marsh")
    box.get_by_role("button", name="Another one stands there").click()
    out = page.locator("#way-out")
    expect(out).to_contain_text("Refrigerant is in the lines")
    assert in_first_screen(page, "#way-out h3")
    open_up(demo_site, JOB, "shut", "recovered")
    page.goto(f"{base}/jobs/{JOB}/survey?part=boxes")
    page.get_by_text("Head A was exchanged").click()
    box.get_by_label("Why").fill("warranty")
    box.get_by_label("Exchanged by").fill("Ida Marsh")
    box.get_by_role("button", name="Another one stands there").click()
    expect(page.locator("[name='boxes.A.serial']")).to_have_value("")
    for stage in ("flare", "pressure-test", "evacuate"):
        assert verdict(page, base, stage) == "Wait"
    page.goto(f"{base}/jobs/{JOB}/flare")
    expect(page.locator("#work")).to_contain_text("Make it up anew")
    assert demo_site.faults() == []
