"""Hands along the lists: a masonry wall and a roof, a concrete ceiling, a knee wall's places."""

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import DESK, PHONE

UNFOLD = "e => { for (let d = e; d; d = d.parentElement) if ('open' in d) d.open = true }"


def pressed(page: Page, button: Locator, address: str) -> None:
    """A press whose answer is waited for."""
    with page.expect_response(lambda r: address in r.url and r.request.method == "POST"):
        button.click()


def shown(page: Page, name: str) -> Locator:
    """A field that may be folded away: what holds it is opened first."""
    field = page.get_by_label(name, exact=True)
    if not field.is_visible():
        field.evaluate(UNFOLD)
    return field


@PHONE
def test_a_masonry_wall_is_drilled_step_by_step_and_a_unit_set_on_a_roof(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/mount?part=walls.A")
    shown(page, "Wall's thickness").fill("13 in")
    shown(page, "Masonry").check(force=True)
    hole = page.locator("#at-steps_hole-masonry-in_A")
    expect(hole).to_contain_text("Mask on, dust drawn off")
    expect(hole).to_contain_text("Saw from outside, so that debris falls out")
    expect(hole).to_contain_text("at least 13")
    page.get_by_label("Done by", exact=True).fill("Tomas")
    pressed(page, hole.get_by_role("button", name="Met something"), "/procedures")
    expect(hole).to_contain_text("the pilot met something in the wall")
    expect(page.locator("#dock, .plate").first).to_contain_text("Stop")
    pressed(page, page.get_by_role("button", name="All 2 lists done: Record"), "/procedures")
    expect(page.locator("#at-lists")).to_contain_text("Done by hand")
    expect(page.locator("#at-steps_hang_A")).to_contain_text("9 of 9")

    page.goto(f"{demo_site.base}/jobs/5/mount?part=outdoor")
    page.get_by_label("Roof", exact=True).check(force=True)
    unit = page.locator("#at-steps_set-outdoor_outdoor")
    expect(unit).to_contain_text("Curb or sleepers over joists")
    expect(page.get_by_text("Pass over what is left")).to_have_count(0)  # a step can hurt someone
    if unit.get_attribute("open") is None:
        unit.locator("summary").first.click()
    edge = unit.get_by_role("button", name="Edge guarded")
    pressed(page, edge, "/procedures")
    page.get_by_text("Pass over what is left").click()
    page.get_by_label("Why it is passed over").fill("Hung last year by others")
    over = page.get_by_role("button", name="Setting the unit", exact=True)
    pressed(page, over, "/procedures")
    expect(unit).to_contain_text("passed over by Tomas: Hung last year by others")
    page.goto(f"{demo_site.base}/jobs/5/record")
    expect(page.locator(".record-sheet")).to_contain_text("Hung last year by others")


def test_a_head_under_concrete_hangs_on_anchors_that_carry_it(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/6/mount?part=ceilings.C")
    page.get_by_label("Concrete", exact=True).check(force=True)
    expect(page.locator("#at-steps_hang-concrete_C")).to_contain_text("Four anchors")
    shown(page, "One anchor is rated for").fill("40 lb")
    shown(page, "Hole deep").fill("2 in")
    shown(page, "Slab").fill("2.5 in")
    shown(page, "Slab").press("Tab")
    expect(page.locator("body")).to_contain_text("more than two thirds of it")
    shown(page, "Slab").fill("6 in")
    shown(page, "One anchor is rated for").fill("200 lb")
    shown(page, "One anchor is rated for").press("Tab")
    expect(page.locator("body")).not_to_contain_text("more than two thirds of it")
    expect(page.locator("#at-steps_hang-concrete_C")).to_contain_text('2" deep')


@PHONE
def test_a_knee_wall_room_has_three_places_and_the_owner_takes_one(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/survey")
    for n, (name, wall, line) in enumerate(
        (("Knee wall", "no", "14 ft"), ("Console", "yes", "21 ft"), ("Gable", "yes", "30 ft"))
    ):
        add = page.locator("[aria-label='Add a place for A']")
        add.evaluate(UNFOLD)
        pressed(page, add, "/survey")
        shown(page, f"Place {n + 1}").fill(name)
        row = page.locator(".thing-row").filter(has=page.get_by_label(f"Place {n + 1}", exact=True))
        row.get_by_label("Outside wall").select_option(wall)
        with page.expect_response(lambda r: "/survey" in r.url and r.request.method == "POST"):
            row.get_by_label("Line", exact=True).fill(line)
            row.get_by_label("Line", exact=True).press("Tab")
    expect(page.locator(".places-of")).to_contain_text("1. Console")
    expect(page.locator(".places-of")).to_contain_text("3. Knee wall")
    row = page.locator(".thing-row").filter(has=page.get_by_label("Place 2", exact=True))
    row.get_by_label("Owner").select_option("yes")
    shown(page, "Why there").fill("No hatch in the bedroom")
    shown(page, "Why there").press("Tab")
    expect(page.locator("#kept")).to_contain_text("Kept.")
    page.reload()
    expect(shown(page, "Why there")).to_have_value("No hatch in the bedroom")


@DESK
def test_a_house_that_knows_its_hands_sees_no_lists(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/mount?part=walls.A")
    expect(page.locator("#at-steps_hang_A")).to_be_visible()
    page.goto(f"{demo_site.base}/rules")
    known = page.locator("#f-hands-known")
    known.evaluate(UNFOLD)
    page.locator("label[for=f-hands-known], label:has(#f-hands-known)").first.click()
    page.get_by_role("button", name="Keep the rules").click()
    expect(page.locator("#hands")).to_contain_text("we know our hands")
    page.goto(f"{demo_site.base}/jobs/5/mount?part=walls.A")
    expect(page.locator("#at-lists")).to_have_count(0)
