"""Placing by hand: a head dragged with the mouse or a finger, moved by keys, typed."""

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import DESK, in_metres


def head(page: Page) -> Locator:
    return page.locator("svg.placing:visible .piece[id^=walls-A-head]")


def centre_line(page: Page) -> Locator:
    return page.get_by_label("Centre line from the left corner", exact=True)


def drag(page: Page, piece: Locator, right: float, down: float) -> None:
    """In steps, as a hand moves; a piece is held by its middle, once the letters are in place."""
    page.evaluate("document.fonts.ready")
    piece.scroll_into_view_if_needed()
    box = piece.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + right / 2, y + down / 2, steps=5)
    page.mouse.move(x + right, y + down, steps=5)
    page.mouse.up()


def metres_of(piece: Locator) -> tuple[float, float]:
    return tuple(float(piece.get_attribute(f"data-at-{axis}") or "nan") for axis in "xy")


def test_a_head_is_dragged_off_a_stud_and_the_call_follows(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/6/mount?part=A")
    expect(page.locator("#at-A_hole_stud")).to_have_class("verdict-short")
    svg = page.locator("svg.placing:visible").first
    x0, y0 = metres_of(head(page))
    per_m = float(svg.get_attribute("data-per-m") or 0)
    shown = svg.evaluate("e => e.getScreenCTM().a") * per_m
    drag(page, head(page), -0.30 * shown, 0.05 * shown)
    expect(page.locator("#at-A_hole_stud")).to_have_class("verdict-holds")
    expect(centre_line(page)).to_have_value(re.compile("^[0-9 /]+$"))  # as the answer writes it
    x1, y1 = metres_of(head(page))
    assert abs(x1 - (x0 - 0.30)) < 0.03 and abs(y1 - (y0 - 0.05)) < 0.03
    page.goto(f"{demo_site.base}/jobs/6/mount?part=A")
    assert metres_of(head(page)) == (x1, y1)
    on_window = page.locator("svg.placing:visible .piece[id^=walls-A-thing-0]")
    drag(page, on_window, 0.9 * shown, -0.7 * shown)
    expect(page.locator("#at-A_overlap")).to_contain_text("covers the window (1)")


@DESK
def test_a_head_is_moved_by_keys_finely_and_by_typing(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/mount")
    centre_line(page).fill("80 in")
    centre_line(page).press("Tab")
    drawn = page.locator("svg.placing:visible").first
    expect(drawn).to_have_attribute("aria-label", re.compile('centred 80" from'))
    head(page).focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowLeft")
    expect(drawn).to_have_attribute("aria-label", re.compile('centred 80 15/16" from'))
    for _ in range(12):
        page.keyboard.press("ArrowDown")
    expect(page.locator("#at-A_height")).to_contain_text("Holds")
    expect(head(page)).to_be_focused()
    in_metres(page)
    head(page).focus()
    page.keyboard.press("ArrowLeft")
    expect(drawn).to_have_attribute("aria-label", re.compile("centred 2050 mm from"))


def test_the_outdoor_unit_is_dragged_from_under_the_sash_and_a_cassette_in_its_plan(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/6/mount?part=outdoor")
    expect(page.locator("#at-sash")).to_contain_text("swings into the unit")
    plan = page.locator("svg.placing:visible").first
    shown = plan.evaluate("e => e.getScreenCTM().a * e.dataset.perM")
    drag(
        page,
        page.locator(
            "svg.placing:visible #outdoor-unit-w, svg.placing:visible #outdoor-unit-n"
        ).first,
        1.0 * shown,
        0.1 * shown,
    )
    expect(page.locator("#at-sash")).to_have_count(0)
    page.goto(f"{demo_site.base}/jobs/6/mount?part=C")
    piece = page.locator("svg.placing:visible .piece[id^=ceilings-C-head]")
    before = metres_of(piece)
    drag(page, piece, 40, 0)
    expect(page.locator(".figure.hero").first).not_to_contain_text("102 3/8")
    assert metres_of(piece)[0] > before[0]


def test_a_wall_is_drawn_from_nothing_and_a_window_is_put_on_it(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/5/mount")
    things = page.locator("summary", has_text="The wall: size")
    things.click()
    page.get_by_role("button", name="Add a window").click()
    expect(page.locator("svg.placing:visible .piece")).to_have_count(5)
    page.locator("[name='walls.A.things.3.kind']").select_option("curtain")
    page.get_by_role("button", name="Take out thing 2").click()
    expect(page.locator("svg.placing:visible .piece")).to_have_count(4)
    page.get_by_role("button", name="Add a stud").click()
    page.get_by_label("Stud 1", exact=True).fill("20 in")
    page.get_by_label("Stud 1", exact=True).press("Tab")
    expect(page.locator("svg.placing:visible .stud")).to_have_count(1)
    page.get_by_role("link", name="Setting-out card").click()
    expect(page.get_by_role("heading", name="Head A, PW-35")).to_be_visible()
