"""What is in the pipes decides what may be done: the way out step by step, on a phone."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import PHONE
from tests.browser.test_changes import in_first_screen, verdict
from tests.browser.test_hands import open_up

JOB = 1  # a finished single zone of the demo


def tap(page: Page, name: str) -> None:
    """The act of the moment under the thumb."""
    button = page.locator("#way-out").get_by_role("button", name=name)
    expect(button).to_be_in_viewport()
    button.click()


@PHONE
def test_a_leak_found_after_opening_is_mended_to_the_end(demo_site):
    page, base = demo_site.page, demo_site.base
    look = {"joint": "A.gas.end", "method": "bubbles", "found": "leak", "by": "Ida"}
    page.request.post(f"{base}/jobs/{JOB}/pressure-test/checks", form=look)
    page.goto(f"{base}/jobs/{JOB}/flare?joint=A.gas.end")
    out = page.locator("#way-out")
    expect(out.locator("h3")).to_have_text("Stop: first, in this order")
    assert in_first_screen(page, "#way-out h3")
    expect(out).to_contain_text("A leak was found in the lines")
    expect(page.locator("#in-the-pipes")).to_contain_text("refrigerant")
    out.get_by_label("Done by", exact=True).fill("Ida")
    tap(page, "Both valves shut: Record")
    expect(out.locator("li").first).to_contain_text("Done")
    expect(out).to_contain_text("Never pump down")
    out.get_by_label("Cylinder before").fill("2.000 kg")
    out.get_by_label("Cylinder after").fill("2.640 kg")
    tap(page, "Recovered to nought: Record")
    expect(page.locator("#in-the-pipes")).to_contain_text("nothing: recovered")
    expect(out.locator("li.now")).to_contain_text("Make the joint anew")
    page.get_by_text("Make it again", exact=True).click()
    page.locator("[name=wrench_nm]").first.fill("23.5 lbf·ft")
    page.locator("label", has_text="After it").first.click()
    page.get_by_role("button", name=re.compile("Flare good")).first.click()
    expect(out).to_have_count(0)
    for stage in ("pressure-test", "evacuate"):
        assert verdict(page, base, stage) == "Wait"
    assert verdict(page, base, "charge") == "Unknown"  # what leaked was not weighed
    page.goto(f"{base}/jobs/{JOB}/record")
    expect(page.locator(".record-sheet")).to_contain_text("What was in the pipes")
    assert demo_site.faults() == []


@PHONE
def test_a_unit_is_exchanged_under_warranty_only_once_the_part_is_empty(demo_site):
    page, base = demo_site.page, demo_site.base
    page.goto(f"{base}/jobs/{JOB}/survey?part=boxes")
    page.get_by_text("The outdoor unit was exchanged").click()
    box = page.locator("details.exchange", has_text="The outdoor unit")
    box.get_by_label("Why").fill("warranty")
    box.get_by_label("Exchanged by").fill("Ida Marsh")
    box.get_by_role("button", name="Another one stands there").click()
    out = page.locator("#way-out")
    expect(out).to_contain_text("Refrigerant is in the lines")
    expect(out.locator("li")).to_have_count(3)
    open_up(demo_site, JOB, "shut", "recovered")
    page.goto(f"{base}/jobs/{JOB}/survey?part=boxes")
    page.get_by_text("The outdoor unit was exchanged").click()
    box.get_by_label("Why").fill("warranty")
    box.get_by_label("Exchanged by").fill("Ida Marsh")
    box.get_by_role("button", name="Another one stands there").click()
    expect(page.locator("[name='boxes.outdoor.serial']")).to_have_value("")
    for stage in ("flare", "pressure-test", "evacuate", "charge"):
        assert verdict(page, base, stage) == "Wait"
    assert demo_site.faults() == []


@PHONE
def test_a_landing_after_power_on_is_refused_until_it_is_dead(demo_site):
    page, base = demo_site.page, demo_site.base
    answer = page.request.get(f"{base}/api/jobs/{JOB}").json()
    cable = next(r for r in answer["records"] if r["kind"] == "landing")
    end = f"{cable['cable']}-{cable['side']}"
    page.goto(f"{base}/jobs/{JOB}/wire?part=cables")
    end = page.locator("[name=end]").first.get_attribute("value") or end
    before = len(answer["records"])
    tapped = {"end": end, "tap": cable["terminal"], "by": "Ida"}
    live = page.request.post(f"{base}/jobs/{JOB}/wire/landings", form=tapped)
    assert "power is on at the outdoor unit" in live.text()
    assert len(page.request.get(f"{base}/api/jobs/{JOB}").json()["records"]) == before
    off = {"act": "off", "unit": "outdoor", "by": "Ida"}
    assert page.request.post(f"{base}/jobs/{JOB}/wire/dead", form=off).ok
    page.goto(f"{base}/jobs/{JOB}/wire?part=cables")
    expect(page.locator("#work")).to_contain_text("stored charge")
    assert demo_site.faults() == []


@PHONE
def test_a_strike_says_which_later_act_it_would_stop(demo_site):
    page, base, demo_site.refusals = demo_site.page, demo_site.base, True
    open_up(demo_site, JOB, "shut", "recovered")
    made = {"place": "A.gas.end", "look": "good", "wrench_nm": "31.8 N·m", "by": "Ida"}
    page.request.post(f"{base}/jobs/{JOB}/flare/joints", form=made)
    assert verdict(page, base, "flare") == "Holds"
    records = page.request.get(f"{base}/api/jobs/{JOB}").json()["records"]
    weighed = [r for r in records if r["kind"] == "weighing"][-1]
    page.goto(f"{base}/jobs/{JOB}/charge")
    form = page.locator(f"form:has([value='{weighed['uid']}'])").first
    form.evaluate("form => form.closest('details').open = true")
    form.get_by_label("Why").fill("another job")
    form.get_by_label("By").fill("Ida")
    form.get_by_role("button").last.press("Enter")
    expect(page.locator("body")).to_contain_text("Struck out, this would be a stop")
    expect(page.locator("body")).to_contain_text("a joint: Refrigerant is in the lines")
    page.get_by_role("button", name="Strike it out, all the same").click()
    expect(page).to_have_url(re.compile(rf"/jobs/{JOB}/charge"))
    assert verdict(page, base, "flare") == "Stop"
