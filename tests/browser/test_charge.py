"""Charge by hand: a live weigh-in to the mark, ports opened one by one, a short line recovered from
the running unit, a leak found after opening and mended to the end, two people weighing at once."""

import re
from contextlib import closing

from playwright.sync_api import expect

from fairline.core.charge.entry import ChargeEntry
from fairline.core.charge.valve_order import ORDERS
from tests.browser.conftest import DESK, PHONE, opened
from tests.core.test_proofs import finished


def put(demo_site, site, page="charge", practice=True):
    """A job as it stands, on the server; its page of Charge is open."""
    head = site.job.head.model_copy(update={"practice": practice})
    whole = site.job.model_copy(update={"head": head, "uid": "one-job-to-charge"}).model_dump(
        mode="json"
    )
    answer = demo_site.page.request.post(f"{demo_site.base}/api/jobs", data=whole)
    assert answer.status == 201, answer.text()
    url = f"{demo_site.base}/jobs/{answer.json()['id']}"
    demo_site.page.goto(f"{url}/{page}")
    return url


def weigh(page, **fields):
    form = page.locator("#at-weighed form")
    for label, value in fields.items():
        form.get_by_label(label.replace("_", " "), exact=True).fill(value)
    return form


def stop_kg(page):
    """The weight at which to stop, as the largest figure has it below in kilograms."""
    hero = page.locator("#stop-mark .figure.hero small")
    expect(hero).to_contain_text("stop there")
    return float(re.search(r"(\d+\.\d+)\s*kg", hero.text_content()).group(1))


@PHONE
def test_a_live_weigh_in_to_the_mark_and_what_went_over_taken_back(demo_site):
    page = demo_site.page
    url = put(demo_site, finished("branch box", released=False))
    page.goto(url + "/charge")
    page.request.post(url + "/bench/scale", form={"start_kg": "9 kg", "to_go_kg": "2 kg"})
    page.goto(url + "/charge")
    weigh(page, Before="9 kg", Cylinder="C-4", Weighed_by="Ida")
    mark = page.locator("#stop-mark")
    expect(mark.locator(".figure.hero")).to_contain_text("stop there")
    expect(mark).to_contain_text("now, simulated", timeout=20_000)
    expect(mark.locator(".filled")).to_have_count(1)
    stop = stop_kg(page)
    expect(mark.locator(".figure.hero")).to_be_visible()
    weigh(page, After=f"{stop - 0.05:.3f} kg")
    expect(mark).to_contain_text("too much")
    expect(page.locator("#at-weighed .shown")).to_contain_text("simulated")
    page.get_by_role("button", name="Record the weighing").click()
    judged = page.locator("#at-weighed > .judged")
    expect(judged).to_contain_text("Recover")
    back = weigh(page, Before="4 kg", After="4.050 kg", Cylinder="recovery", Weighed_by="Ida")
    back.locator("label", has_text="Taken out").click()
    page.get_by_role("button", name="Record the weighing").click()
    expect(judged).to_have_class(re.compile("verdict-(holds|watch)"))


@PHONE
def test_every_port_is_opened_by_itself_step_by_step(demo_site):
    page, site = demo_site.page, finished("home runs", released=False)
    site.weigh()
    put(demo_site, site)
    circuits = site.contents.circuits
    for n, port in enumerate(circuits):
        mine = page.locator(f"#valves-{port}")
        expect(mine).to_have_attribute("open", "")
        mine.get_by_label("Opened by").fill("Ida")
        if not n:
            mine.get_by_role("button", name="Hose off: done").click()
            expect(mine.locator(".field-error")).to_contain_text("First in this order")
            demo_site.refusals = True
        for _ in ORDERS["gas_first"]:
            now = mine.locator("li.now")
            done = mine.locator("li.done")
            before = done.count()
            now.get_by_role("button", name=": done").click()
            expect(done).to_have_count(before + 1)
    expect(page.locator("#at-looked")).to_contain_text("0 of 12 joints")
    page.locator("#at-looked").get_by_label("Looked at by").fill("Ida")
    page.locator("#at-looked").get_by_role("button", name="12 joints dry: Record").click()
    expect(page.locator(".plate .verdict, #dock .verdict").first).to_have_text(
        re.compile("Holds|Watch")
    )
    wide = page.evaluate("document.documentElement.scrollWidth - innerWidth")
    assert wide <= 0


@PHONE
def test_a_short_line_is_recovered_from_the_running_unit(demo_site):
    page, site = demo_site.page, finished("branch box", released=False)
    says = {"short_line": "recover", "short_line_reason": "critical charge"}
    route = site.job.route
    short = {e: r.model_copy(update={"built_length_m": 1.0}) for e, r in route.runs.items()}
    site.edit(charge=ChargeEntry(**says), route=route.model_copy(update={"runs": short}))
    site.open()
    site.look()
    site.start()
    url = put(demo_site, site)
    page.goto(url + "/charge")
    form = page.locator("#at-weighed form")
    expect(page.locator("#at-weighed .how")).to_contain_text("Running in cooling")
    expect(form.get_by_label("Taken out")).to_be_checked()
    weigh(page, Before="4 kg", Cylinder="recovery", Weighed_by="Ida")
    stop = stop_kg(page)
    assert stop > 4
    weigh(page, After=f"{stop:.3f} kg")
    form.locator("label", has_text="While the system runs").click()
    page.get_by_role("button", name="Record the weighing").click()
    expect(page.locator("#at-weighed > .judged")).to_contain_text("came out")


@PHONE
def test_a_leak_found_after_opening_is_mended_to_the_end(demo_site):
    demo_site.refusals = True
    page, site = demo_site.page, finished("branch box", released=False)
    site.weigh()
    site.open()
    url = put(demo_site, site)
    page.locator("#at-looked summary", has_text="One by one").click()
    first = page.locator("#at-looked .suspect").first
    first.get_by_role("button", name=re.compile("leaks$")).click()
    steps = page.locator("#way-out li")
    expect(steps.first).to_contain_text("Shut both service valves")
    page.get_by_role("button", name="Both valves shut: Record").click()
    expect(page.locator("#way-out li.done")).to_have_count(1)
    page.get_by_label("Cylinder before").first.fill("4 kg")
    page.get_by_label("Cylinder after").first.fill("6 kg")
    page.get_by_role("button", name="Recovered to nought: Record").first.click()
    expect(page.locator("#way-out li.now")).to_contain_text("Make the joint anew")
    page.locator("#way-out li.now a").click()
    expect(page).to_have_url(re.compile("/flare"))
    page.goto(url + "/pressure-test")
    expect(page.locator("body")).to_contain_text("pressure")


@DESK
def test_two_people_weigh_at_once_and_nothing_is_lost(demo_site, browser):
    page, site = demo_site.page, finished("branch box", released=False)
    url = put(demo_site, site)
    beside = opened(browser, demo_site.base, "desktop")
    with closing(beside.page.context):
        other = beside.page
        other.goto(url + "/charge")
        page.goto(url + "/charge")
        for one, who, after in ((page, "Ida", "8.990 kg"), (other, "Tomas", "8.980 kg")):
            before = "9 kg" if who == "Ida" else "8.990 kg"
            weigh(one, Before=before, After=after, Cylinder="C-4", Weighed_by=who)
        page.get_by_role("button", name="Record the weighing").click()
        other.get_by_role("button", name="Record the weighing").click()
        expect(
            other.locator("#at-weighed .readings tbody tr, #at-weighed .readings tr")
        ).to_have_count(3)
        expect(other.locator("#at-weighed > .judged")).to_contain_text("0.7 oz of 1.8 oz is in")
