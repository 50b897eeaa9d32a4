"""Takes the pictures of docs/screenshots from the demo data, in Debian's Chromium.

Usage: python tools/screenshots.py [NAME …]   (all of them where none is named)
"""

import os
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import Browser, sync_playwright

ROOT = Path(__file__).parent.parent
OUT = ROOT / "docs" / "screenshots"
PORT = 8790
DESK, PHONE = (1280, 800), (390, 844)

# name: path, window, theme, units
VIEWS: dict[str, tuple[str, tuple[int, int], str, str]] = {
    "board": ("/", DESK, "light", "us"),
    "shelf": ("/shelf", DESK, "light", "us"),
    "handbook": ("/handbook/pressure-test", DESK, "light", "us"),
    "survey": ("/jobs/6/survey", DESK, "light", "us"),
    "mount": ("/jobs/6/mount", DESK, "light", "us"),
    "mount-phone": ("/jobs/5/mount", PHONE, "light", "us"),
    "mount-outdoor": ("/jobs/6/mount?part=outdoor", DESK, "light", "us"),
    "route": ("/jobs/6/route", DESK, "light", "us"),
    "route-run": ("/jobs/6/route?part=runs.C", DESK, "light", "us"),
    "cut-plan": ("/jobs/6/cut-plan", DESK, "light", "us"),
    "flare": ("/jobs/4/flare", DESK, "light", "us"),
    "hand-over": ("/jobs/4/hand-over", PHONE, "light", "us"),
    "pressure-test": ("/jobs/2/pressure-test", DESK, "light", "us"),
    "wire": ("/jobs/6/wire", DESK, "light", "us"),
    "plan": ("/jobs/6/plan", DESK, "light", "us"),
    "evacuate": ("/jobs/3/evacuate", DESK, "light", "us"),
    "charge": ("/jobs/1/charge", DESK, "light", "us"),
    "commission": ("/jobs/1/commission", DESK, "light", "us"),
    "record": ("/jobs/1/record", DESK, "light", "us"),
}
FULL_PAGE = {"record"}


def take(browser: Browser, base: str, name: str, out: Path) -> None:
    path, (width, height), theme, units = VIEWS[name]
    context = browser.new_context(
        viewport={"width": width, "height": height}, is_mobile=width < 500, has_touch=width < 500
    )
    context.add_cookies(
        [
            {"name": f"fairline_{key}", "value": value, "url": base}
            for key, value in (("theme", theme), ("units", units))
        ]
    )
    page = context.new_page()
    page.goto(base + path)
    page.evaluate("document.fonts.ready")
    page.screenshot(path=out / f"{name}.png", full_page=name in FULL_PAGE)
    context.close()


def plans(browser: Browser, base: str) -> None:
    """The demo's people, and a plan for two of its jobs."""
    page = browser.new_page()
    page.goto(f"{base}/crew")
    for name, skills in (("Ida Marsh", 3), ("Tomas Reed", 1)):
        page.get_by_label("Name").last.fill(name)
        for n in range(skills):
            page.locator("fieldset.person").last.get_by_role("checkbox").nth(n).check()
        page.get_by_role("button", name="Keep").click()
        page.get_by_role("group", name=name).wait_for()
    for job in (6, 7):
        page.goto(f"{base}/jobs/{job}/plan")
        for name in ("Ida Marsh", "Tomas Reed"):
            page.get_by_label(name).check()
        page.get_by_label("Begins; blank: now").fill("2027-03-01T08:00")
        page.get_by_role("button", name="Plan it").click()
        page.locator(".day-bars").first.wait_for()
    page.close()


def main() -> None:
    names = sys.argv[1:] or list(VIEWS)
    base = os.environ.get("FAIRLINE_SHOTS_AT", f"http://127.0.0.1:{PORT}")
    out = Path(os.environ.get("FAIRLINE_SHOTS_OUT", OUT))
    out.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as data:
        server = None
        if "FAIRLINE_SHOTS_AT" not in os.environ:
            fairline = Path(sys.executable).parent / "fairline"
            server = subprocess.Popen(
                [fairline, "demo", "--port", str(PORT), "--data", data], stdout=subprocess.DEVNULL
            )
        try:
            _wait(base)
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(
                    executable_path="/usr/bin/chromium", args=["--no-sandbox"]
                )
                if server:
                    plans(browser, base)
                for name in names:
                    take(browser, base, name, out)
                browser.close()
        finally:
            if server:
                server.terminate()
                server.wait()


def _wait(base: str) -> None:
    for _ in range(600):
        try:
            urllib.request.urlopen(base).read()
        except OSError:
            time.sleep(0.1)
        else:
            return
    raise SystemExit("the demo did not start")


if __name__ == "__main__":
    main()
