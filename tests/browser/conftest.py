"""The application on data of each test's own and a real Chromium, at desktop and at phone size.

The browser is shared by all tests of a worker, and so is the process that serves: each test gets
an application of its own in it, on a copy of data that was made once.
"""

import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass, field
from datetime import timedelta
from pathlib import Path

import pytest
import uvicorn
from playwright.sync_api import Browser, Page, expect, sync_playwright

from fairline.demo.load import load_demo
from fairline.settings import Settings
from fairline.store import clock
from fairline.store.database import open_database
from fairline.web.app import create_app
from tests.browser.clock import Later
from tests.databases import copied

CHROMIUM = "/usr/bin/chromium"
expect.set_options(timeout=15_000)  # a busy machine is slow, not wrong
# Parts of the browser's own window, made anew for each test and never seen
UNSEEN = (
    *("PreloadTopChromeWebUI", "InitialWebUI", "WebUIToolbar", "WebUIReloadButton", "TabSearch"),
    *("WebUIOmniboxPopup", "WebUIOmniboxFullPopup", "WebUIOmniboxAimPopup"),
    *("LensOverlay", "MediaRouter", "HttpsUpgrades", "PaintHolding"),
)
SIZES = {"desktop": (1280, 800), "phone": (390, 844)}


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    if not Path(CHROMIUM).exists():
        pytest.fail("Chromium is missing: make chromium installs it")
    with sync_playwright() as playwright:
        args = ["--no-sandbox", f"--disable-features={','.join(UNSEEN)}"]
        launched = playwright.chromium.launch(executable_path=CHROMIUM, args=args)
        yield launched
        launched.close()


Serve = Callable[..., AbstractContextManager[str]]


@pytest.fixture(autouse=True)
def own_clock(monkeypatch):
    Later.by = timedelta()
    monkeypatch.setattr(clock._Ours, "clock", clock.Clock(Later.now, Later.steady))


@pytest.fixture(scope="session")
def prepared(tmp_path_factory) -> dict[bool, Path]:
    """Data as a first start leaves it: with the demo in it, and empty."""
    folders = {demo: tmp_path_factory.mktemp("prepared") for demo in (True, False)}
    load_demo(Settings(folders[True]))
    open_database(Settings(folders[False]).database_url).close()
    return folders


@pytest.fixture
def serve(prepared, tmp_path) -> Serve:
    """``with serve(demo=True) as base:`` an application that answers at an address of its own."""

    @contextmanager
    def served(demo: bool = False) -> Iterator[str]:
        data = tmp_path / "data"
        if not data.exists():
            copied(prepared[demo], data)
        listening = socket.socket()
        listening.bind(("127.0.0.1", 0))
        config = uvicorn.Config(
            create_app(Settings(data)), log_level="warning", timeout_graceful_shutdown=1
        )
        server = uvicorn.Server(config)
        thread = threading.Thread(target=server.run, args=([listening],), daemon=True)
        thread.start()
        while not server.started:
            assert thread.is_alive(), "it did not start"
            time.sleep(0.005)
        try:
            yield f"http://127.0.0.1:{listening.getsockname()[1]}"
        finally:
            server.should_exit = True
            thread.join(10)
            listening.close()

    return served


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


def menu(page: Page) -> None:
    """What stands behind the one button on a phone; on a desk it is in the bar."""
    button = page.get_by_role("button", name="Menu", exact=True)
    if button.is_visible():
        button.click()


def in_metres(page: Page) -> None:
    """The page anew in metres and bar, its scripts at work."""
    menu(page)
    with page.expect_navigation(wait_until="load"):
        page.get_by_role("button", name="m · bar").click()


def whole_call(page: Page) -> None:
    """The plate, which stands at the side on a desk and opens from the bar on a phone."""
    bar = page.locator("#dock .dock-call")
    if bar.is_visible():
        bar.click()
        expect(page.locator("#plate")).to_be_visible()


def tick_lists(page: Page, by: str = "Ida") -> None:
    """The lists of steps of this page, all that is left of them with one press."""
    lists = page.locator("#at-lists")
    expect(lists).to_contain_text("By hand, in this order")
    lists.get_by_label("Done by", exact=True).fill(by)
    every = lists.get_by_role("button", name="lists done: Record")
    button = every if every.count() else lists.get_by_role("button", name="all done, in this order")
    with page.expect_response(lambda r: "/procedures" in r.url):
        button.click()
    expect(lists).to_contain_text("Done by hand")


@pytest.fixture(params=list(SIZES))
def site(request, browser, serve) -> Iterator[Site]:
    with serve() as base:
        made = opened(browser, base, request.param)
        yield made
        made.page.context.close()
    assert made.faults() == []


# A test that says the same at both sizes runs at the one where it is done
PHONE = pytest.mark.parametrize("demo_site", ["phone"], indirect=True)
DESK = pytest.mark.parametrize("demo_site", ["desktop"], indirect=True)


@pytest.fixture(params=list(SIZES))
def demo_site(request, browser, serve) -> Iterator[Site]:
    with serve(demo=True) as base:
        made = opened(browser, base, request.param)
        yield made
        made.page.context.close()
    assert made.faults() == []
