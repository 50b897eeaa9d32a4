"""The shelf and the practice by hand: a mistake in a sheet, a file of them, a job that differs."""

import re

from playwright.sync_api import expect

from tests.browser.conftest import DESK, PHONE, whole_call


@DESK
def test_a_sheet_with_a_mistake_is_told_beside_the_field_and_mended(demo_site):
    demo_site.refusals = True
    page = demo_site.page
    page.goto(f"{demo_site.base}/shelf?kind=outdoor&q=os-26")
    page.locator(".sheet-card").click()
    page.locator("summary", has_text="Line").click()
    page.get_by_label("Minimum length", exact=True).fill("80 ft")
    page.get_by_label("Page for Minimum length").fill("p. 15")
    page.get_by_role("button", name="Keep the sheet").click()
    expect(page.get_by_role("alert")).to_contain_text("1 field to mend")
    wrong = page.locator(".field.has-error")
    expect(wrong).to_contain_text("contradicts itself")
    expect(page.get_by_label("Minimum length", exact=True)).to_have_value("80")
    if not page.get_by_label("Minimum length", exact=True).is_visible():
        page.locator("summary", has_text="Line").click()
    page.get_by_label("Minimum length", exact=True).fill("9 ft")
    page.get_by_role("button", name="Keep the sheet").click()
    expect(page.locator(".versions li")).to_have_count(2)
    page.get_by_role("link", name="Version 1").click()
    page.locator("summary", has_text="Line").click()
    expect(page.get_by_label("Minimum length", exact=True)).to_have_value("10")
    page.goto(f"{demo_site.base}/jobs/4/survey")
    offer = page.locator("form.offer")
    expect(offer).to_contain_text("The shelf has version 2 of Osmund Works OS-26")
    expect(offer).to_contain_text("min length")
    offer.get_by_role("button").click()
    expect(page.locator("form.offer")).to_have_count(0)
    page.goto(f"{demo_site.base}/jobs/4/route")
    whole_call(page)
    page.locator("summary", has_text=re.compile("limits")).click()
    expect(page.locator(".limits")).to_contain_text("9'")


@DESK
def test_a_file_of_sheets_is_refused_by_row_and_field_and_then_taken_in(demo_site):
    demo_site.refusals = True
    page = demo_site.page
    page.goto(f"{demo_site.base}/shelf")
    head = "kind,maker,model,refrigerant,min_heads,max_heads\r\n"
    bad = head + "outdoor,Loom,L-1,R-32,2,4\r\noutdoor,Loom,L-2,R-32,5,4\r\n"
    chooser = page.get_by_label("File of sheets")
    chooser.set_input_files({"name": "s.csv", "mimeType": "text/csv", "buffer": bad.encode()})
    page.get_by_role("button", name="Import").click()
    row = page.locator(".import-errors tbody tr, .import-errors tr").last
    expect(row).to_contain_text("3")
    expect(row).to_contain_text("max_heads")
    expect(row).to_contain_text("contradicts itself")
    good = bad.replace("5,4", "3,4").encode()
    page.get_by_label("File of sheets").set_input_files(
        {"name": "s.csv", "mimeType": "text/csv", "buffer": good}
    )
    page.get_by_role("button", name="Import").click()
    expect(page.locator(".taken-in")).to_contain_text("2 new, 0 changed")
    page.get_by_label("Maker or model").fill("loom")
    page.get_by_role("button", name="Find").click()
    expect(page.locator(".sheet-card")).to_have_count(2)
    with page.expect_download() as download:
        page.get_by_role("link", name="Export CSV").click()
    with open(download.value.path(), encoding="utf-8") as file:
        assert "Loom,L-2" in file.read()


@PHONE
def test_the_house_picks_a_school_and_a_job_differs_with_its_reason(demo_site):
    demo_site.refusals = True
    page = demo_site.page
    page.goto(f"{demo_site.base}/rules")
    page.locator("#plate_pitch summary").click()
    plate = page.get_by_role("group", name=re.compile("^Mounting plate"))
    expect(plate).to_contain_text("Right when")
    plate.get_by_text("slight pitch to the drain", exact=True).click()
    page.get_by_role("button", name="Keep the rules").first.click()
    expect(page.locator("[name=plate_pitch][value=slight]")).to_be_checked()
    page.goto(f"{demo_site.base}/jobs/2/rules")
    page.get_by_label("In", exact=True).select_option("support")
    page.get_by_label("It follows").select_option("stand")
    page.get_by_label("Decided by").fill("Ida")
    page.get_by_role("button", name="Put it on the record").click()
    expect(page.locator(".field-error")).to_contain_text("say why")
    expect(page.get_by_label("Decided by")).to_have_value("Ida")
    page.get_by_label("Because").fill("the yard floods")
    page.get_by_role("button", name="Put it on the record").click()
    row = page.locator(".practice-limits tr", has_text="What the outdoor unit stands on")
    expect(row).to_contain_text("this job, Ida: the yard floods")
    page.goto(f"{demo_site.base}/jobs/2/record")
    expect(page.locator(".record-sheet")).to_contain_text("the yard floods")
