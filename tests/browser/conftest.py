"""A real server on empty data and a real Chromium, at desktop and at phone size."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.web.test_server import server

CHROMIUM = "/usr/bin/chromium"
expect.set_options(timeout=15_000)  # a busy machine is slow, not wrong
SIZES = {"desktop": (1280, 800), "phone": (390, 844)}


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    if not Path(CHROMIUM).exists():
        pytest.fail("Chromium is missing: make chromium installs it")
    with sync_playwright() as playwright:
        launched = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        yield launched
        launched.close()


@dataclass
class Site:
    """A page on a running server, with everything that went wrong in it."""

    base: str
    page: Page
    wrong: list[str] = field(default_factory=list)
    refusals: bool = False  # plain forms that are refused answer 422, which the console notes

    def faults(self) -> list[str]:
        return [w for w in self.wrong if not (self.refusals and "status of 422" in w)]


def opened(browser: Browser, base: str, size: str) -> Site:
    width, height = SIZES[size]
    context = browser.new_context(
        viewport={"width": width, "height": height},
        has_touch=size == "phone",
        is_mobile=size == "phone",
    )
    page = context.new_page()
    page.set_default_timeout(20_000)
    site = Site(base, page)
    page.on("console", lambda m: m.type in ("error", "warning") and site.wrong.append(m.text))
    page.on("pageerror", lambda e: site.wrong.append(str(e)))
    page.on("request", lambda r: r.url.startswith((base, "data:")) or site.wrong.append(r.url))
    return site


@pytest.fixture(params=list(SIZES))
def site(request, browser, tmp_path) -> Iterator[Site]:
    with server(tmp_path, "serve") as (base, _):
        made = opened(browser, base, request.param)
        yield made
        made.page.context.close()
    assert made.faults() == []


@pytest.fixture(params=list(SIZES))
def demo_site(request, browser, tmp_path) -> Iterator[Site]:
    with server(tmp_path, "demo") as (base, _):
        made = opened(browser, base, request.param)
        yield made
        made.page.context.close()
    assert made.faults() == []
