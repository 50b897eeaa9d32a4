"""What hands do besides the straight way: no scripts, keys only, two people, files, overrides."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import DESK, PHONE, SIZES, opened


def test_without_scripts_a_stage_is_still_filled_in_and_judged(browser, serve):
    with serve(demo=True) as base:
        context = browser.new_context(java_script_enabled=False)
        page = context.new_page()
        page.goto(f"{base}/jobs/5/mount")
        page.get_by_role("button", name="Put it there").click()
        expect(page.locator(".plate .verdict")).to_have_text("Holds")
        page.get_by_label("Underside above the floor", exact=True).fill("5 ft")
        page.get_by_role("button", name="Keep").click()
        expect(page.locator(".plate .verdict")).to_have_text("Short")
        page.goto(f"{base}/jobs/5/route")
        page.get_by_role("button", name="Add a leg").click()
        expect(page.get_by_label("Leg 3, length")).to_have_value("")
        page.get_by_label("Leg 3, length").fill("a yard")
        page.get_by_role("button", name="Keep").click()
        expect(page.locator(".field-error")).to_contain_text("not understood")
        expect(page.get_by_label("Leg 3, length")).to_have_value("a yard")
        context.close()


def test_a_leg_is_added_and_changed_by_keys_alone(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/route")
    page.get_by_role("button", name="Add a leg").focus()
    page.keyboard.press("Enter")
    page.get_by_role("radio", name="up").nth(2).focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("group", name="Leg 3, direction").get_by_label("down")).to_be_checked()
    page.keyboard.press("Tab")
    page.keyboard.type("2 ft")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")  # the focus now stands on "take out": nothing is taken out
    drawing = page.locator("svg[id^=elevation]:visible")
    expect(drawing).to_have_attribute("aria-label", re.compile("down 2'"))
    expect(page.get_by_label("Leg 3, length")).to_have_value("2")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Leg 3, length")).to_have_count(0)
    expect(drawing).to_have_attribute("aria-label", re.compile("right [^;]*$"))


@pytest.mark.parametrize("size", SIZES)
def test_two_people_on_one_wall_see_each_others_change(browser, serve, size):
    with serve(demo=True) as base:
        one, two = (opened(browser, base, size) for _ in range(2))
        for site in (one, two):
            site.page.goto(f"{base}/jobs/5/mount")
        mine, theirs = (
            site.page.get_by_label("Underside above the floor", exact=True) for site in (two, one)
        )
        theirs.fill("80 in")
        expect(one.page.locator("#kept")).to_have_text(re.compile(r"Kept\."))
        mine.fill("82 in")
        expect(two.page.get_by_role("alert")).to_contain_text("Two people changed the same")
        expect(mine).to_have_value("82 in")
        two.page.reload()
        expect(mine).to_have_value("80")
        assert one.wrong == [] and two.wrong == []
        for site in (one, two):
            site.page.context.close()


def test_readings_from_a_file_and_an_error_in_it(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/2/evacuate")
    rows = "".join(f"{i * 10};{200 + i * 40},5\n" for i in range(61))
    bad = f"t_s;micron\n{rows}620;lots\n".encode()
    chooser = page.get_by_label("A decay as CSV")
    chooser.set_input_files({"name": "d.csv", "mimeType": "text/csv", "buffer": bad})
    page.get_by_role("button", name="Read a decay from CSV").click()
    expect(page.locator(".field-error")).to_contain_text("line 63, column 2")
    chooser.set_input_files({"name": "d.csv", "mimeType": "text/csv", "buffer": bad[:-10]})
    page.get_by_role("button", name="Read a decay from CSV").click()
    expect(page.locator(".plate .verdict")).to_have_text("Short")
    expect(page.locator(".because").first).to_contain_text("a leak")
    expect(page.locator("svg.chart:visible")).to_have_attribute(
        "aria-label", re.compile("61 readings")
    )


def open_up(site, job: int, *acts: str) -> None:
    """What is in the pipes let out, as the steps of the pages have it."""
    for act in acts:
        weights = {"before_kg": "2 kg", "after_kg": "2.1 kg"} if act == "recovered" else {}
        form = {"act": act, "by": "Ida", **weights}
        assert site.page.request.post(f"{site.base}/jobs/{job}/way-out", form=form).ok


@PHONE
def test_shut_valves_open_by_a_named_override_that_stays(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/3/charge")
    box = page.locator("#at-release")
    expect(box).to_contain_text("The valves stay shut: the decay does not hold yet")
    box.get_by_label("Both valves open to the stop").check()
    box.get_by_label("Caps on, to torque").check()
    box.get_by_label("Opened by").fill("Tomas")
    box.get_by_role("button", name="Open by override").click()
    expect(box.locator(".field-error")).to_contain_text("a name and a reason are needed")
    expect(box.get_by_label("Opened by")).to_have_value("Tomas")
    box.get_by_label("Override: who answers for it").fill("Ida Marsh")
    box.get_by_label("Override: why").fill("Heat needed tonight; dried again next week")
    box.get_by_role("button", name="Open by override").click()
    expect(box.locator(".field-error")).to_contain_text("tick what is passed over")
    box.get_by_label("No decay that holds").check()
    box.get_by_role("button", name="Open by override").click()
    expect(box).to_contain_text("Released by override of Ida Marsh, over no decay that holds")
    page.goto(f"{demo_site.base}/jobs/3/record")
    expect(page.locator(".record-sheet")).to_contain_text("dried again next week")


def test_an_error_in_a_joint_opens_its_form_again_with_what_was_typed(demo_site):
    page = demo_site.page
    open_up(demo_site, 4, "bled")
    page.goto(f"{demo_site.base}/jobs/4/flare")
    card = page.locator(".joint-card").first
    card.get_by_text("Make it again").click()
    card.get_by_label("The wrench read").fill("hand tight")
    card.get_by_label("After it").check()
    card.get_by_label("Made by").fill("Tomas")
    card.get_by_role("button", name="Record").click()
    expect(card.locator(".field-error")).to_contain_text("not understood")
    expect(card.get_by_label("The wrench read")).to_have_value("hand tight")
    card.get_by_label("By feel").check()
    card.get_by_label("The wrench read").fill("")
    card.get_by_role("button", name="Record").click()
    expect(card).to_have_class(re.compile("verdict-watch"))
    expect(card).to_contain_text("not measured")
    expect(page.locator(".plate .verdict")).to_have_text("Watch")


@PHONE
def test_a_late_answer_leaves_alone_what_is_being_filled_in(demo_site):
    """The wrench is kept while a joint's form is open: the answer comes late, to no harm."""
    page = demo_site.page
    open_up(demo_site, 3, "sweep")
    page.goto(f"{demo_site.base}/jobs/3/flare")
    waiting = []
    page.route("**/jobs/3/flare?job=*", lambda route: waiting.append(route))
    page.get_by_text("Its length").click()
    page.get_by_label("Wrench, to the middle of the grip").fill("10 in")
    page.get_by_label("Wrench, to the middle of the grip").press("Tab")
    expect(page.locator("#kept")).to_have_text(re.compile("Keeping …"))
    card = page.locator(".joint-card").first
    card.get_by_text("Make it again").click()
    card.get_by_label("The wrench read").fill("23 lbf·ft")
    card.get_by_label("After it").check()
    card.get_by_label("Made by").fill("Tomas")
    for route in waiting:
        route.continue_()
    page.unroute("**/jobs/3/flare?job=*")
    expect(page.locator("#kept")).to_have_text(re.compile(r"Kept\."))
    expect(card.get_by_label("The wrench read")).to_be_visible()
    expect(card.get_by_label("The wrench read")).to_have_value("23 lbf·ft")
    expect(card.get_by_label("Made by")).to_have_value("Tomas")
    card.get_by_role("button", name="Record").click()
    expect(card.get_by_label("The wrench read")).to_be_hidden()
    expect(card).to_contain_text("Tomas")


@PHONE
def test_a_link_waits_for_what_is_being_kept(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/1/mount")
    waiting = []
    page.route("**/jobs/1/mount?job=*", lambda route: waiting.append(route))
    page.get_by_label("Notes", exact=True).fill("painted last week")
    page.locator("a[href='/jobs/1/route']").first.click()
    expect(page.locator("#kept")).to_have_text(re.compile("Keeping …"))
    assert page.url.endswith("/mount")
    page.unroute("**/jobs/1/mount?job=*")
    for route in waiting:
        route.continue_()
    page.wait_for_url("**/jobs/1/route")
    page.goto(f"{demo_site.base}/jobs/1/mount")
    expect(page.get_by_label("Notes", exact=True)).to_have_value("painted last week")


@DESK
def test_what_is_changed_while_a_row_is_on_its_way_stays(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/1/mount")
    waiting = []
    page.route("**/jobs/1/mount*", lambda route: waiting.append(route))
    page.get_by_text("The wall: size, studs, what is on it").click()
    page.get_by_role("button", name="Add a stud").click()
    page.get_by_label("Slight pitch to the drain").check()
    page.get_by_label("Hole diameter", exact=True).fill("3 in")
    page.get_by_label("Notes", exact=True).fill("painted last week")
    for route in waiting:
        route.continue_()
    page.unroute("**/jobs/1/mount*")
    expect(page.get_by_label("Stud 1", exact=True)).to_be_visible()
    expect(page.get_by_label("Slight pitch to the drain")).to_be_checked()
    expect(page.locator("#kept")).to_have_text(re.compile(r"Kept\."))
    page.reload()
    expect(page.get_by_label("Stud 1", exact=True)).to_have_count(1)
    expect(page.get_by_label("Slight pitch to the drain")).to_be_checked()
    expect(page.get_by_label("Hole diameter", exact=True)).to_have_value("3")
    expect(page.get_by_label("Notes", exact=True)).to_have_value("painted last week")


@DESK
def test_an_answer_that_was_overtaken_does_not_undo_what_was_done_since(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/wire?part=cables")
    page.evaluate(
        """() => document.addEventListener("htmx:afterRequest", () => {
          const { dataset } = document.documentElement;
          dataset.answers = Number(dataset.answers ?? 0) + 1;
        })"""
    )
    older, held = page.request.get(page.url), []
    page.route("**/wire/dead*", lambda route: held.append(route))
    page.locator("#at-dead_outdoor").get_by_label("Done by", exact=True).fill("Ida")
    page.locator(".wire-end #by-end").fill("Ida")
    page.get_by_role("button", name="No circuit reaches it yet").click()
    said = {"act": "not-fed", "unit": "outdoor", "by": "Ida"}  # the server has it, its answer waits
    page.request.post(f"{demo_site.base}/jobs/5/wire/dead", form=said)
    page.get_by_role("button", name="All landed and pulled: Record").click()
    landed = page.locator("#all-ends ~ .ledger .verdict-holds")
    expect(landed).to_have_count(1)
    held[0].fulfill(response=older)
    expect(page.locator("html")).to_have_attribute("data-answers", "2")
    expect(landed).to_have_count(1)
    page.unroute("**/wire/dead*")
    page.reload()
    expect(landed).to_have_count(1)
