"""One system of each kind, built from an empty job: heads, tree, runs, cut plan, materials."""

import re

import pytest
from playwright.sync_api import Page, expect

WIDE = {"single": 1, "kit": 1, "home runs": 3, "branch box": 3, "trunk": 3}
UNITS = {
    "single": "Osmund Works OS-26",
    "kit": "Osmund Works OS-26",
    "home runs": "Osmund Works OS-80M4",
    "branch box": "Pellow Air PX-90B",
    "trunk": "Hartwick HV-120T",
}
HEADS = {"Osmund": "Osmund Works OH-26", "Pellow": "Pellow Air PW-20", "Hartwic": "Hartwick HW-25"}


def empty_job(page: Page, base: str, kind: str) -> None:
    page.goto(f"{base}/jobs/new")
    page.get_by_label("What the job is called").fill(kind)
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("heading", level=2, name="Survey")).to_be_visible()
    for n in range(WIDE[kind]):
        page.get_by_role("button", name="Add a head").click()
        expect(page.locator(f"[name='heads.{n}.sheet']")).to_be_visible()
    page.locator("[name=outdoor]").select_option(UNITS[kind])
    head = next(name for maker, name in HEADS.items() if UNITS[kind].startswith(maker[:6]))
    for n in range(WIDE[kind]):
        page.locator(f"[name='heads.{n}.sheet']").select_option(head)
    expect(page.locator("#kept")).to_have_text(re.compile(r"Kept\."))
    page.goto(page.url.replace("survey", "route"))


def say(page: Page, end: str, run: str) -> None:
    """Opens a run on the drawing and says it in one sentence."""
    page.goto(re.sub(r"/route.*", "/route?part=system", page.url))
    page.locator(f"[id^='run-{end}-']:visible .run-length").click()
    page.get_by_label("Say the run").fill(run)
    page.get_by_role("button", name="Draw it").click()
    expect(page.locator("svg[id^=elevation]:visible")).to_be_visible()


BUILT = [
    ("single", "phone"),
    ("kit", "desktop"),
    ("home runs", "desktop"),
    ("branch box", "phone"),
    ("trunk", "phone"),
    ("trunk", "desktop"),
]


@pytest.mark.parametrize(("kind", "demo_site"), BUILT, indirect=["demo_site"])
def test_a_system_is_built_from_an_empty_job(demo_site, kind):
    page = demo_site.page
    empty_job(page, demo_site.base, kind)
    page.get_by_role("button", name="Lay out the system").click()
    ends = {"branch box": ["box1", *"ABC"], "trunk": ["tee1", "tee2", *"ABC"]}.get(
        kind, list("ABC")[: WIDE[kind]]
    )
    expect(page.locator(".schematic:visible .run")).to_have_count(len(ends))
    for end in ends:
        if end[:3] in ("box", "tee"):
            name = "Pellow Air PB-5" if end == "box1" else "Hartwick HT-1"
            page.locator(f"[name='runs.{end}.sheet']").select_option(name)
            expect(page.locator("#kept")).to_have_text(re.compile(r"Kept\."))
    for n, end in enumerate(ends):
        trunk = end[:3] in ("box", "tee")
        say(page, end, "up 9 ft, right 6 ft" if trunk else f"right {4 + n} ft, in 3 ft, down 1 ft")
    if kind == "kit":
        page.get_by_label("Pre-charged kit").select_option("Osmund Works OK-25")
        expect(page.locator(".figure.hero strong")).to_have_text("25'")
    page.get_by_role("link", name="System").click()
    page.get_by_role("link", name="Materials").click()
    tube = page.locator("tr", has_text="Pre-charged kit" if kind == "kit" else "Copper tube, gas")
    expect(tube.first).to_be_visible()
    page.get_by_role("link", name="Back").click()
    page.get_by_role("link", name="Cut plan").click()
    if kind == "kit":
        expect(page.locator("main")).to_contain_text("nothing is cut")
    elif kind in ("single", "home runs"):
        page.get_by_label("Cut by").fill("Ida")
        page.get_by_role("button", name="Record: cut").click()
        expect(page.locator("main")).to_contain_text("As it was cut")
        page.get_by_role("link", name="The van").click()
        expect(page.get_by_label("Called").last).to_have_value(re.compile("off-cut"))


def move(page, node, order):
    """Choosing does nothing yet: the order waits for its button."""
    page.get_by_label(f"Move {node}", exact=True).select_option(order)
    page.get_by_role("button", name=f"Move {node}: do it").click()


def test_the_tree_is_changed_in_place(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/8/route")
    runs = page.locator(".schematic:visible .run")
    expect(runs).to_have_count(11)
    page.get_by_role("button", name="Tee before F").click()
    expect(runs).to_have_count(12)
    move(page, "B", "connect:B:tee6:on")
    expect(page.locator("[id^='run-B-']:visible")).to_be_visible()
    page.get_by_role("button", name="Take out tee2").click()
    expect(runs).to_have_count(11)
    move(page, "tee1", "connect:tee1:tee4:off")
    expect(page.locator(".field-error")).to_contain_text("feed itself")
    page.goto(f"{demo_site.base}/jobs/6/route")
    page.get_by_role("button", name="Cap it: port D").click()
    expect(page.locator(".schematic:visible")).to_contain_text("capped")
    page.get_by_label("Room").last.select_option("Loft")
    page.get_by_role("button", name="Add and connect").click()
    expect(page.locator("[id^='run-E-']:visible")).to_be_visible()


def test_a_run_is_said_dragged_slid_and_measured_as_built(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/4/route")
    page.get_by_label("Say the run").fill("up 6 ft, sideways 2")
    page.get_by_role("button", name="Draw it").click()
    expect(page.locator(".field-error")).to_contain_text("sideways 2")
    expect(page.get_by_label("Say the run")).to_have_value("up 6 ft, sideways 2")
    page.get_by_label("Say the run").fill("up 6 ft, right 8 ft, up 2 ft, through wall 1 ft")
    page.get_by_role("button", name="Draw it").click()
    expect(page.get_by_label("Leg 4, length")).to_have_value("1")
    hero = page.locator(".figure.hero strong")
    before = hero.inner_text()
    wide = page.viewport_size["width"] > 500
    page.locator(f"#e-slide-A-2-{'w' if wide else 'n'}").focus()
    for _ in range(4):  # the second leg up by two inches: the first gains what the third gives
        page.keyboard.press("ArrowUp")
    expect(page.get_by_label("Leg 1, length")).to_have_value("6' 2\"")
    expect(page.get_by_label("Leg 3, length")).to_have_value("1' 10\"")
    expect(hero).to_have_text(before)
    page.evaluate("document.fonts.ready")
    end = page.locator("[id^='e-end-A-2-']:visible circle").first
    end.scroll_into_view_if_needed()
    box = end.bounding_box()
    svg = page.locator("svg[id^=elevation]:visible")
    per_m = (
        float(svg.get_attribute("data-per-m"))
        * svg.bounding_box()["width"]
        / float(svg.get_attribute("viewBox").split()[2])
    )
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 0.3048 * per_m, y, steps=6)
    page.mouse.up()
    expect(page.get_by_label("Leg 2, length")).to_have_value(re.compile(r"^(8' 11|9$)"))
    page.get_by_label("As built, along the tube").fill("19 ft")
    page.get_by_label("As built, along the tube").press("Tab")
    expect(hero).to_have_text("19'")
    expect(page.locator("#work")).to_contain_text("charge, labels and tests use what was built")
    page.goto(f"{demo_site.base}/jobs/4/charge")
    expect(page.locator("#at-added")).to_contain_text("as built")
