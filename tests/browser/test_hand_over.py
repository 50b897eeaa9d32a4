"""Hand over: signed by finger, sealed, added to, visited; a line in the wall; a label read."""

import re
from io import BytesIO
from zipfile import ZipFile

import zxingcpp
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.clock import passes
from tests.browser.conftest import PHONE


def section(page: Page, title: str):
    return page.locator("section.record-box").filter(has=page.get_by_role("heading", name=title))


def draw(page: Page, pad, touch: bool) -> None:
    """A stroke with three corners, by finger or by mouse."""
    pad.scroll_into_view_if_needed()
    box = pad.bounding_box()
    points = [
        (box["x"] + box["width"] * u, box["y"] + box["height"] * v)
        for u, v in ((0.1, 0.3), (0.4, 0.8), (0.7, 0.2))
    ]
    if touch:
        finger = page.context.new_cdp_session(page)
        kinds = ["touchStart", "touchMove", "touchMove"]
        for kind, (x, y) in zip(kinds, points, strict=True):
            finger.send(
                "Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": x, "y": y}]}
            )
        finger.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
        return
    page.mouse.move(*points[0])
    page.mouse.down()
    for x, y in points[1:]:
        page.mouse.move(x, y)
    page.mouse.up()


def test_a_job_is_signed_by_finger_sealed_added_to_and_visited(demo_site):
    page, base = demo_site.page, demo_site.base
    touch = page.viewport_size["width"] < 500
    page.goto(f"{base}/jobs/1/hand-over")
    expect(page.locator(".closed-line li")).to_have_count(9)
    signing = section(page, "Hand it over")
    for name in ("Signs here, who hands over", "Signs here, who receives"):
        pad = signing.get_by_role("img", name=name)
        draw(page, pad, touch)
        expect(pad.locator("path")).to_have_attribute("d", re.compile(r"M\d+ \d+L"))
    again = signing.get_by_role("button", name="Sign again").first
    again.click()
    expect(signing.locator("path").first).to_have_attribute("d", "")
    draw(page, signing.get_by_role("img", name="Signs here, who hands over"), touch)
    signing.get_by_label("Handed over by").fill("Ida")
    page.get_by_role("button", name=re.compile("^Handed over")).click()
    expect(page.locator("figure.signed")).to_have_count(2)
    digest = page.locator(".digest").first.inner_text()
    assert re.fullmatch(r"([0-9a-f]{4} ){7}[0-9a-f]{4}", digest)

    page.get_by_text("Add words, dated and by name").click()
    added = section(page, "Added to the record")
    added.get_by_label("What is added").fill("The spare key hangs in the office")
    added.get_by_role("button", name="Add it").click()
    expect(section(page, "Added to the record")).to_contain_text("The spare key hangs")

    visits = section(page, "Visits")
    visits.get_by_text("Plan a visit").click()
    visits.get_by_label("What for").select_option(label="A head added")
    visits.get_by_label("On", exact=True).fill("2027-02-01")
    visits.get_by_role("checkbox", name="Mount").check()
    visits.get_by_role("button", name="Plan it").click()
    expect(section(page, "Visits")).to_contain_text("2027-02-01")
    page.goto(f"{base}/")
    expect(page.get_by_role("main")).to_contain_text("visit 2027-02-01")

    page.goto(f"{base}/jobs/1/hand-over")
    visits = section(page, "Visits")
    visits.get_by_text("It was made").click()
    visits.get_by_label("Begun by").fill("Mo")
    visits.get_by_role("button", name="Begin it").click()
    page.wait_for_url("**/mount")
    page.goto(f"{base}/jobs/1/hand-over")
    section(page, "Papers and files").get_by_role("link", name="The record").click()
    record = page.get_by_role("article")
    expect(record).to_contain_text("Visit: A head added")
    expect(record.get_by_role("heading", name="The house")).to_be_visible()
    page.goto(f"{base}/jobs/1/seal")
    expect(page.locator("#at-found")).to_contain_text("Intact")
    expect(page.locator(".digest")).to_have_text(digest)


@PHONE
def test_a_changed_file_is_told_and_where(demo_site, tmp_path):
    page, base = demo_site.page, demo_site.base
    page.goto(f"{base}/jobs/1/hand-over")
    with page.expect_download() as download:
        page.get_by_role("link", name="With pictures and logs, as ZIP").click()
    whole = tmp_path / "job.zip"
    download.value.save_as(whole)
    page.goto(f"{base}/verify")
    page.locator("input[type=file]").set_input_files(whole)
    expect(page.locator("#at-found")).to_contain_text("Intact")
    changed = tmp_path / "changed.zip"
    with ZipFile(whole) as before, ZipFile(changed, "w") as after:
        for name in before.namelist():
            content = before.read(name)
            if name == "job.json":
                content = content.replace(b"Tomas Reed", b"Timas Reed", 1)
            after.writestr(name, content)
    page.locator("input[type=file]").set_input_files(changed)
    expect(page.locator("#at-found")).to_contain_text("Changed")
    expect(page.locator("#at-found .found li").first).to_contain_text("was changed")


def test_a_line_in_the_wall_is_tested_left_and_read_a_month_later(demo_site):
    page, base = demo_site.page, demo_site.base
    page.goto(f"{base}/jobs/6/pressure-test")
    page.get_by_text("Lines left in the wall before mounting").click()
    into = page.locator("form").filter(has=page.get_by_role("heading", name="into the wall"))
    for group, said in (
        ("Both ends are", "Capped"),
        ("A box behind the head", "Yes"),
        ("Drain in it", "Threaded to slip"),
        ("Its hose clamped on both sides", "Yes"),
        ("Cable in it", "Yes"),
    ):
        into.get_by_role("group", name=group).get_by_role("radio", name=said, exact=True).check()
    into.get_by_label("Done by").fill("Ida")
    into.get_by_role("button", name="Keep the line").click()
    line = page.locator("#at-rough-A")
    expect(line).to_contain_text("it was not tested")
    for what, gauge, pipe, after in (
        ("Its test", "300", "70", "70 min"),
        ("Its test", "300", "70", "5 min"),
        ("Left on it", "150", "70", "43200 min"),
        ("Read again before mounting", "144", "50", "0 min"),
    ):
        line.get_by_label("It is").select_option(label=what)
        line.get_by_label("Gauge").fill(gauge)
        line.get_by_label("Pipe").fill(pipe)
        line.get_by_label("Read by").fill("Ida")
        line.get_by_role("button", name="Record the reading").click()
        expect(line.locator(".readings")).to_contain_text(
            what.partition(" before")[0].replace("Its test", "Test")
        )
        passes(after)
    expect(line).to_have_class(re.compile("verdict-holds"))
    expect(line).to_contain_text("read again")


@PHONE
def test_a_labels_code_is_read_off_the_screen(demo_site):
    page = demo_site.page
    page.goto(f"{demo_site.base}/jobs/1/labels")
    label = page.locator("svg.label-drawn").first
    shot = Image.open(BytesIO(label.screenshot()))
    (found,) = zxingcpp.read_barcodes(shot.resize((shot.width * 2, shot.height * 2)))
    assert found.text.startswith("Bindery: Outdoor unit") and "R-32" in found.text
    page.goto(f"{demo_site.base}/jobs/1/owner")
    expect(page.get_by_role("heading", name="Month by month")).to_be_visible()
