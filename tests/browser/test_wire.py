"""Wire by hand: an old circuit mended, five zones landed with one thumb, a crossed pair caught."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import PHONE, whole_call


def verdict(page: Page, word: str) -> None:
    expect(page.locator(".plate .verdict")).to_have_text(word)


def tap(page: Page, name: str) -> None:
    button = page.get_by_role("button", name=name).first
    if page.viewport_size["width"] < 500:
        button.tap()
    else:
        button.click()


def test_the_circuit_of_an_older_machine_is_judged_and_mended(demo_site):
    """A 50 A breaker stands before a unit of MOP 35 A: one look at the scale, then it is mended."""
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/6/wire")
    verdict(page, "Stop")
    scale = page.locator(".ampere-scale")
    expect(scale).to_have_attribute("aria-label", re.compile("MOP 35 A, breaker 50 A, fuses 35 A"))
    expect(scale.locator(".bad.bar")).to_have_count(1)
    page.get_by_label("Breaker", exact=True).fill("33")
    page.get_by_label("Breaker", exact=True).press("Tab")
    expect(page.locator(".field-error")).to_contain_text("30 or 35 A is")
    verdict(page, "Stop")  # what is not understood changes nothing
    page.get_by_label("Breaker", exact=True).fill("35")
    page.get_by_label("Breaker", exact=True).press("Tab")
    expect(scale.locator(".bad.bar")).to_have_count(0)
    verdict(page, "Short")
    whole_call(page)
    expect(page.locator(".plate .because")).to_contain_text("neutral that came along hangs loose")
    page.keyboard.press("Escape")
    page.get_by_role("group", name="Neutral").get_by_label("None, or capped").check()
    verdict(page, "Wait")
    tap(page, "Checked OK")
    expect(page.get_by_role("button", name="Checked OK")).to_have_count(0)
    expect(page.locator("[id='f-supplies.outdoor.left_behind-1']")).to_be_checked()


@PHONE
def test_five_zones_are_landed_with_one_thumb(demo_site):
    page = demo_site.page
    job = five_zones(page, demo_site.base)
    page.goto(f"{demo_site.base}/jobs/{job}/wire?part=cables")
    page.locator("#at-dead_outdoor").get_by_label("Done by", exact=True).fill("Ida")
    tap(page, "No circuit reaches it yet")
    expect(page.locator("#by-end")).to_have_value("Ida")
    end = page.locator(".wire-end")
    ends = [f"Head {z}" for z in "ABCDE"] + [f"Outdoor unit, port {z}" for z in "ABCDE"]
    for n, block in enumerate(ends):
        expect(end.get_by_role("heading")).to_contain_text(block)
        if not n:  # the first screw by screw, the others at a stroke
            for screw in ("1", "2", "3", "ground"):
                before = page.locator(".screw.is-landed").count()
                page.locator(f".screw[value='{screw}']").click()
                expect(page.locator(".screw.is-landed")).to_have_count(before + 1)
        tap(page, "All landed and pulled: Record")
        expect(page.locator(".ledger .verdict-holds")).to_have_count(n + 1)
    expect(end.get_by_role("heading")).to_contain_text("Outdoor unit, supply")
    drawn = page.locator(".wiring-all .wiring")
    expect(drawn).to_have_attribute("aria-label", re.compile("40 of 43 conductor ends landed"))
    expect(drawn.locator(".wire.landed")).to_have_count(20)


def five_zones(page: Page, base: str) -> int:
    """A job with an outdoor unit of five ports and five heads, laid out; its sheets are new."""
    ports = [{"letter": z, "liquid_od_m": 0.00635, "gas_od_m": 0.00952} for z in "ABCDE"]
    common = {"maker": "Loom Works", "refrigerant": "R-32", "terminals": ["1", "2", "3"]}
    outdoor = {"kind": "outdoor", "model": "L-90", "system": "multi", "ports": ports} | common
    more = {"voltage_v": 230.0, "mca_a": 22.0, "mop_a": 35.0}
    head = {"kind": "head", "model": "W-20", "cool_w": 2000.0} | common
    head |= {"liquid_od_m": 0.00635, "gas_od_m": 0.00952}
    sent = page.request.post(
        f"{base}/api/sheets", data={"format": "fairline-sheets", "sheets": [outdoor | more, head]}
    )
    assert sent.ok, sent.text()
    page.goto(f"{base}/jobs/new")
    page.get_by_label("What the job is called").fill("Mill")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("heading", level=2, name="Survey")).to_be_visible()
    for n in range(5):
        page.get_by_role("button", name="Add a head").click()
        expect(page.locator(f"[name='heads.{n}.sheet']")).to_be_visible()
    page.locator("[name=outdoor]").select_option("Loom Works L-90")
    for n in range(5):
        page.locator(f"[name='heads.{n}.sheet']").select_option("Loom Works W-20")
    expect(page.locator("#kept")).to_have_text(re.compile(r"Kept\."))
    page.goto(page.url.replace("survey", "route"))
    page.get_by_role("button", name="Lay out the system").click()
    expect(page.locator(".schematic:visible .run")).to_have_count(5)
    return int(re.search(r"/jobs/(\d+)/", page.url)[1])


def test_a_crossed_pair_is_caught_before_power_and_put_right(demo_site):
    """Cables B and C lie on each other's ports of the box: named, moved, and then it holds."""
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/7/wire")
    verdict(page, "Short")
    expect(page.locator("#at-crossed")).to_contain_text("Crossed: the cables of heads B and C")
    for block in ("port B", "port D"):
        row = page.locator(".ledger a", has_text=block)
        row.click()
        expect(page.locator(".wire-end").get_by_role("heading")).to_contain_text(block)
        page.locator("#by-end").fill("Ida")
        tap(page, "Changed, all landed and pulled now: Record")
    expect(page.locator("#at-crossed")).to_have_count(0)
    verdict(page, "Holds")
    expect(page.locator(".ledger .verdict-holds")).to_have_count(9)
    page.get_by_role("link", name="Power on").click()
    expect(page.locator("#at-power")).to_contain_text("Power stays off: The valves are not open")
    page.locator("#at-power").get_by_label("Switched on by").fill("Ida")
    page.get_by_role("button", name="Power on by override").click()
    expect(page.locator("#at-power .field-error").first).to_contain_text("A name and a reason")
