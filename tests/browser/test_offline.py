"""In the cellar: what was open opens again, says how old it is, and is nobody else's."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import PHONE
from tests.browser.test_people import PASSWORD, commanded, sign_in


def worker_ready(page: Page) -> None:
    """The worker answers for this page from now on."""
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.reload()
    assert page.evaluate("navigator.serviceWorker.controller !== null")


@PHONE
def test_a_page_that_was_open_opens_again_in_the_cellar(demo_site):
    page, base = demo_site.page, demo_site.base
    page.goto(f"{base}/jobs/9/flare")
    worker_ready(page)
    page.goto(f"{base}/jobs/9/flare")
    page.goto(base)
    expect(page.locator(".job-row").first).to_be_visible()
    page.context.set_offline(True)
    page.goto(f"{base}/jobs/9/flare")
    told = page.locator("aside[aria-label='No signal']")
    expect(told).to_contain_text(re.compile(r"No signal. This page is \d+ min old"))
    page.get_by_label("The wrench read", exact=True).fill("28 lbf·ft")
    page.get_by_label("Made by").fill("Ida")
    page.locator(".act").tap()
    expect(page.locator("#unsent li")).to_have_count(1)
    page.goto(f"{base}/jobs/1/wire")
    expect(page.locator("main")).to_contain_text("No signal")
    page.goto(f"{base}/jobs/9/flare")
    expect(page.locator("#unsent li")).to_have_count(1)
    page.context.set_offline(False)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator("#unsent")).to_have_count(0)
    page.goto(f"{base}/jobs/9/flare")
    expect(told).to_have_count(0)
    job = page.request.get(f"{base}/api/jobs/9").json()
    assert sum(r["kind"] == "joint" and r["by"] == "Ida" for r in job["records"]) == 1
    demo_site.wrong[:] = [w for w in demo_site.wrong if not re.search("DISCONNECTED|503|htmx:", w)]


@PHONE
def test_nothing_of_another_person_opens_after_signing_out(demo_site, tmp_path):
    page, base = demo_site.page, demo_site.base
    commanded(tmp_path / "data", "add", "Ida Marsh", "--role", "owner")
    sign_in(page, base, "Ida Marsh")
    expect(page.locator(".job-row").first).to_be_visible()
    worker_ready(page)
    page.goto(f"{base}/jobs/9/flare")
    page.goto(f"{base}/me")
    page.get_by_role("button", name="Sign out").click()
    expect(page).to_have_url(re.compile("/sign-in"))
    kept = page.evaluate(
        """async () => {
            const found = await (await caches.open("pages")).keys();
            return found.map((one) => new URL(one.url).pathname);
        }"""
    )
    assert set(kept) <= {"/who"}  # whose they are, and no page
    assert PASSWORD not in page.content()
