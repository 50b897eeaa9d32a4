"""The frame on a phone and a desk: what is in the first screen, what comes after an act, signal."""

import re

from playwright.sync_api import Page, Route, expect

from tests.browser.clock import passes
from tests.browser.conftest import DESK, PHONE

STAGES = {  # a demo job on which the stage is at work, and what must be seen of it at once
    "/jobs/6/survey": ".thing-row",
    "/jobs/5/mount": "svg.placing.drawing-narrow",
    "/jobs/6/route": "svg.schematic.drawing-narrow",
    "/jobs/6/flare": ".figure.hero",
    "/jobs/4/pressure-test": ".figure.hero",
    "/jobs/3/evacuate": ".figure.hero",
    "/jobs/3/charge": ".figure.hero",
    "/jobs/3/commission": "svg.cylinder",
    "/jobs/1/hand-over": ".outputs, .unit-label",
}
SEEN = """(selector) => {
  const dock = document.querySelector('#dock').getBoundingClientRect().top;
  const all = [...document.querySelectorAll(selector)].filter(e => e.checkVisibility());
  return all.some(e => { const r = e.getBoundingClientRect();
    return r.top >= 0 && Math.min(r.bottom, r.top + 120) <= dock; });
}"""


@PHONE
def test_the_work_and_the_action_of_the_moment_are_in_the_first_screen(demo_site):
    page = demo_site.page
    for path, what in STAGES.items():
        page.goto(demo_site.base + path)
        assert page.evaluate(SEEN, what), path
        act = page.locator(".act:visible, .dock-act:visible")
        assert act.count() >= 1, path
        for box in (act.first.bounding_box(), page.locator("#dock .dock-call").bounding_box()):
            assert box["y"] >= 0 and box["y"] + box["height"] <= 844, path
        tops = [page.locator(s).bounding_box() for s in (".top", ".line")]
        assert sum(t["height"] for t in tops) <= 110, path


@PHONE
def test_the_plate_opens_from_the_bar_and_closes_again(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/mount")
    plate = page.locator("#plate")
    expect(plate).to_be_hidden()
    page.locator("#dock .dock-call").tap()
    expect(plate).to_be_visible()
    expect(plate).to_contain_text("All 23 limits")
    page.get_by_role("button", name="Close the plate").tap()
    expect(plate).to_be_hidden()
    bar = page.locator("#dock .dock-call").bounding_box()
    page.mouse.move(bar["x"] + 90, bar["y"] + bar["height"] - 8)
    page.mouse.down()
    page.mouse.move(bar["x"] + 90, bar["y"] + 6, steps=4)  # pulled up, within the bar
    page.mouse.up()
    expect(plate).to_be_visible()
    page.keyboard.press("Escape")
    expect(plate).to_be_hidden()
    page.locator(".act").tap()  # put it there: the call follows
    expect(page.locator("#dock")).to_contain_text("Holds")
    page.get_by_role("button", name="Menu", exact=True).tap()
    expect(page.get_by_role("link", name="Its rules")).to_be_visible()


def test_six_joints_in_a_row_take_a_number_and_a_tap_each(demo_site):
    """The next joint stands there, open; on a desk its field has the focus, on a phone none."""
    page = demo_site.page
    phone = page.viewport_size["width"] == 390
    page.goto(f"{demo_site.base}/jobs/6/flare")
    done = page.locator(".ledger .verdict-holds").count()
    for n in range(6):
        card = page.locator(".joint-card")
        gauge = card.locator(".figure.hero strong").inner_text()
        unit = card.locator(".figure.hero em").inner_text()
        before = card.get_by_role("heading").inner_text()
        field = card.get_by_label("The wrench read")
        expect(field).to_be_in_viewport()
        field.fill(f"{gauge} {unit}")
        if not n:
            card.get_by_label("Made by").fill("Ida")
        page.locator(".act").click()
        expect(page.locator(".ledger .verdict-holds")).to_have_count(done + n + 1)
        expect(card.get_by_role("heading")).not_to_have_text(before)
        expect(card.locator(".figure.hero")).to_be_in_viewport()
        focus = page.locator("*:focus")
        if phone:
            assert not focus.count() or focus.evaluate("e => e.tagName") != "INPUT"
        else:
            expect(card.get_by_label("The wrench read")).to_be_focused()


def test_a_unit_stands_in_its_field_and_is_switched_there(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/mount")
    field = page.get_by_label("Underside above the floor", exact=True)
    field.fill("2.1")
    page.locator("[name='_u.walls.A.y_m']").select_option("m")
    expect(page.locator("#kept")).to_have_text(re.compile(r"Kept\."))
    expect(page.locator(".figure.hero", has_text="underside")).to_contain_text("2.10 m")
    expect(field).to_have_value("2.1")  # it has the focus: left as it was typed, its unit too
    expect(page.locator("[name='_u.walls.A.y_m']")).to_have_value("m")
    field.press("Tab")
    expect(field).to_have_value("82 11/16")
    expect(page.locator("[name='_u.walls.A.y_m']")).to_have_value("")
    expect(page.locator(".figure.hero", has_text="underside")).to_contain_text("2.10 m")
    assert field.get_attribute("inputmode") == "decimal"


@PHONE
def test_keys_that_a_number_pad_lacks_stand_above_it(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/mount")
    field = page.get_by_label("Underside above the floor", exact=True)
    field.fill("6")
    for key in ("'", "8", '"'):
        if key.isdigit():
            page.keyboard.type(key)
        else:
            page.locator(".keys-above").get_by_role("button", name=key, exact=True).tap()
    expect(field).to_be_focused()
    expect(field).to_have_value("6'8\"")
    page.locator("h1").first.click(force=True)
    expect(page.locator(".keys-above")).to_have_count(0)


def reading(page: Page, gauge: str, after: str) -> None:
    box = page.locator("#at-hold")
    passes(after)
    for label, value in (("Gauge", gauge), ("Pipe", "68 F"), ("After (blank: now)", after)):
        box.get_by_label(label, exact=True).fill(value)
    box.get_by_role("button", name="Record", exact=True).click()


def begin(page: Page) -> None:
    """Read the first pressure of a new hold."""
    box = page.locator("#at-hold")
    for label, value in (("Gauge", "300"), ("Pipe", "68 F")):
        box.get_by_label(label, exact=True).fill(value)
    box.get_by_role("button", name="Begin a new hold with this reading").click()
    expect(box.get_by_role("button", name="Record", exact=True)).to_be_visible()


def test_what_is_recorded_without_signal_waits_in_order_and_goes_out_once(demo_site):
    demo_site.refusals = True
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/4/pressure-test")
    begin(page)
    taken = page.request.get(f"{demo_site.base}/api/jobs/4").json()
    before = sum(len(run["readings"]) for run in taken["runs"])
    lost: list[str] = []

    def swallow(route: Route) -> None:
        """The server has it, but its answer does not come back; then there is no way out."""
        if not lost:
            route.fetch()
        lost.append(route.request.url)
        route.abort("internetdisconnected")

    page.route("**/runs/hold/reading*", swallow)
    reading(page, "299", "31 min")
    expect(page.locator("#unsent li")).to_have_count(1)
    expect(page.locator("#at-hold").get_by_label("Gauge", exact=True)).to_have_value("")
    reading(page, "298", "32 min")
    told = [re.compile(rf"gauge {psi}\b.*Record") for psi in (299, 298)]
    expect(page.locator("#unsent li")).to_have_text(told)  # in people's words
    reading(page, "29.7", "33 min")
    page.once("dialog", lambda dialog: dialog.accept())  # a slip of the finger
    page.locator("#unsent li").last.get_by_role("button", name="Do not send").click()
    expect(page.locator("#unsent li")).to_have_text(told)
    page.unroute("**/runs/hold/reading*")
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator("#unsent")).to_have_count(0)
    expect(page.locator(".was-read strong")).to_have_text("298.0")
    runs = page.request.get(f"{demo_site.base}/api/jobs/4").json()["runs"]
    gauges = [round(r["gauge_pa"] / 6894.757) for run in runs for r in run["readings"]]
    assert gauges.count(299) == 1 and gauges.count(298) == 1
    assert len(gauges) == before + 2
    demo_site.wrong[:] = [w for w in demo_site.wrong if not re.search("DISCONNECTED|htmx:", w)]


def test_a_link_pressed_while_a_record_is_on_its_way_waits_for_it(demo_site):
    page, base = demo_site.page, demo_site.base
    demo_site.refusals = True
    page.goto(f"{base}/jobs/9/flare")
    held: list[Route] = []
    page.route("**/flare/joints*", lambda route: held.append(route))
    link = page.locator("nav.line a[href$='/wire']").first
    for by, then in (("", "/flare"), ("Ida", "/wire")):
        page.get_by_label("The wrench read", exact=True).fill("28 lbf·ft")
        page.get_by_label("Made by").fill(by)
        with page.expect_request("**/flare/joints*"):
            page.locator(".act").click()
        link.evaluate("link => link.click()")
        expect(page).to_have_url(re.compile("/flare"))
        held.pop().continue_()
        if not by:  # refused: what is missing is read here
            expect(page.locator(".field-error").first).to_be_visible()
        expect(page).to_have_url(re.compile(f"{then}$"))
    records = page.request.get(f"{base}/api/jobs/9").json()["records"]
    assert [r["by"] for r in records if r["kind"] == "joint"] == ["Ida"]


@PHONE
def test_a_joint_recorded_without_signal_keeps_what_its_button_said(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/9/flare")
    page.route("**/flare/joints*", lambda route: route.abort("internetdisconnected"))
    page.get_by_label("The wrench read", exact=True).fill("28 lbf·ft")
    page.get_by_label("Made by").fill("Ida")
    page.locator(".act").tap()
    expect(page.locator("#unsent li")).to_have_count(1)
    page.unroute("**/flare/joints*")
    expect(page.locator("#unsent")).to_have_count(0)  # it tries again by itself
    expect(page.locator(".ledger .verdict-holds")).to_have_count(1)
    made = page.request.get(f"{demo_site.base}/api/jobs/9").json()["records"][-1]
    assert (made["kind"], made["look"], made["by"]) == ("joint", "good", "Ida")
    demo_site.wrong[:] = [w for w in demo_site.wrong if not re.search("DISCONNECTED|htmx:", w)]


@PHONE
def test_without_signal_joint_after_joint_is_recorded_and_a_link_stays_on_the_page(demo_site):
    demo_site.refusals = True
    page = demo_site.page
    with page.expect_response("**/flare/ahead"):
        page.goto(f"{demo_site.base}/jobs/9/flare")
    page.route(f"{demo_site.base}/**", lambda route: route.abort("internetdisconnected"))
    labels = []
    for torque in ("28", "12", "28", "12"):
        labels.append(page.locator(".joint-card h3").evaluate("h => h.firstChild.textContent"))
        page.get_by_label("The wrench read", exact=True).fill(torque)
        if len(labels) > 1:
            expect(page.get_by_label("Made by")).to_have_value("Ida")  # typed once
        else:
            page.get_by_label("Made by").fill("Ida")
        waiting = page.locator("#unsent li").count()
        page.locator(".act").tap()
        expect(page.locator("#unsent li")).to_have_count(waiting + 1)
    assert len(set(labels)) == 4
    expect(page.locator("#unsent li").nth(1)).to_have_text(
        f"{labels[1]} · the wrench read 12 lbf·ft · made by Ida · Flare good: Record Do not send"
    )
    page.get_by_role("link", name="Torque card").evaluate("link => link.click()")
    expect(page.locator("#unsent")).to_be_in_viewport()
    expect(page.locator(".joint-card")).to_be_attached()  # no error of the browser's
    page.unroute(f"{demo_site.base}/**")
    expect(page.locator("#unsent")).to_have_count(0)
    expect(page.locator(".ledger .verdict-holds")).to_have_count(4)
    page.get_by_role("link", name="Torque card").evaluate("link => link.click()")
    expect(page).to_have_url(re.compile("/torque-card$"))
    demo_site.wrong[:] = [w for w in demo_site.wrong if not re.search("DISCONNECTED|htmx:", w)]


@PHONE
def test_the_thumb_leads_to_the_field_that_was_not_understood(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/1/pressure-test")
    expect(page.locator("#dock")).to_contain_text("Holds")
    box = page.locator("#at-hold")
    for label, value in (("Gauge", "12 foo"), ("Pipe", "68 F")):
        box.get_by_label(label, exact=True).fill(value)
    box.get_by_role("button", name="Begin a new hold with this reading").tap()
    expect(page.locator("#dock")).to_contain_text("Not kept")
    expect(page.locator("#dock")).not_to_contain_text("Holds")
    page.evaluate("document.activeElement.blur(); scrollTo(0, document.body.scrollHeight)")
    page.locator("#dock .dock-act").tap()
    expect(box.get_by_label("Gauge", exact=True)).to_be_in_viewport()


@DESK
def test_an_answer_takes_the_focus_from_nobody_who_types_elsewhere(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/4/pressure-test")
    begin(page)
    reading(page, "299", "31 min")
    expect(page.locator(".was-read strong")).to_have_text("299.0")
    waiting: list[Route] = []
    page.route("**/runs/hold/begin*", lambda route: waiting.append(route))
    with page.expect_request("**/runs/hold/begin*"):
        page.get_by_role("button", name="Begin a new hold").click()
    pipe = page.locator("#at-hold").get_by_label("Pipe", exact=True)
    pipe.fill("68")
    page.evaluate(
        """() => document.addEventListener('htmx:afterSettle',
        () => document.documentElement.setAttribute('data-settled', ''))"""
    )
    for route in waiting:
        route.continue_()
    expect(page.locator("html[data-settled]")).to_have_count(1)
    page.keyboard.type(".5")
    expect(pipe).to_have_value("68.5")


@DESK
def test_single_keys_leave_a_focused_link_alone_and_are_switched_off(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/mount")
    page.get_by_role("link", name="Setting-out card").focus()
    page.keyboard.press("n")
    page.evaluate("document.activeElement.blur()")
    expect(page).to_have_url(re.compile("/mount$"))
    page.keyboard.press("?")
    page.get_by_label("Single keys").uncheck()
    page.get_by_role("button", name="Close", exact=True).click()
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("n")
    expect(page).to_have_url(re.compile("/mount$"))


@PHONE
def test_a_gap_in_a_sheet_is_filled_from_the_stage_that_needs_it(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/shelf?kind=outdoor&q=os-26")
    page.locator(".sheet-card").click()
    page.get_by_label("Maximum height difference", exact=True).fill("")
    page.get_by_role("button", name="Keep the sheet").first.click()
    expect(page.locator(".versions li")).to_have_count(2)
    page.goto(f"{demo_site.base}/jobs/4/survey")
    page.locator("form.offer").get_by_role("button").click()
    page.goto(f"{demo_site.base}/jobs/4/route")
    asked = page.locator("#silent-outdoor")
    expect(asked).to_contain_text("maximum height difference")
    if asked.get_attribute("open") is None:
        asked.locator("summary").click()
    asked.get_by_label("Maximum height difference", exact=True).fill("39")
    asked.get_by_label("Page for Maximum height difference").fill("p. 14")
    asked.get_by_role("button", name="Write it on the sheet").click()
    expect(page.locator("#silent-outdoor")).to_have_count(0)
    page.goto(f"{demo_site.base}/shelf?kind=outdoor&q=os-26")
    page.locator(".sheet-card").click()
    expect(page.get_by_label("Maximum height difference", exact=True)).to_have_value("39")
    expect(page.locator(".versions li")).to_have_count(3)
