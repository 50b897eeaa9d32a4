"""Every main view against axe-core, in both themes, at phone and desk size; and how they reflow."""

from pathlib import Path
from urllib.parse import urlencode

import pytest
from playwright.sync_api import Page

from tests.browser.conftest import SIZES
from tests.node import node_modules

ROOT = Path(__file__).parents[2]
VIEWS = (  # every kind of page, and every stage
    *("/", "/shelf", "/shelf/new/head", "/rules", "/handbook/evacuate", "/jobs/3/record"),
    *("/cylinders?training=true", "/jobs/6/wire", "/jobs/6/wire?part=cables", "/jobs/6/bench"),
    *("/jobs/6/survey?part=boxes", "/jobs/6/route?part=drains", "/jobs/6/setting-out"),
    *("/jobs/6/wire-cards", "/jobs/8/wire?part=supply-A", "/van", "/jobs/new", "/shelf/1"),
    *("/jobs/6/survey", "/jobs/6/survey?part=walk", "/jobs/6/mount", "/jobs/6/mount?part=outdoor"),
    *("/jobs/6/route", "/jobs/6/route?part=runs.C", "/jobs/8/flare", "/jobs/3/pressure-test"),
    *("/jobs/3/evacuate", "/jobs/3/charge", "/jobs/8/commission", "/jobs/3/hand-over"),
    *("/jobs/6/plan", "/jobs/6/plan?task=leave", "/days?from=2027-03-01", "/crew", "/jobs/6/bid"),
    *("/days/sheet?on=2027-03-01", "/jobs/6/bid/print?lines=true", "/load?job=6", "/sign-in"),
    *("/me", "/people", "/jobs/6/sharing", "/certificate"),
)


def planned(page: Page, base: str) -> None:
    """Two people, and a plan for them, so that there is something to see."""
    able = ["brazing", "refrigerant", "electrical"]
    people = {"name-0": "Ida", "name-1": "Bo", "opens": "08:00", "closes": "16:30"}
    many = [("skills-0[]", s) for s in able] + [("days[]", str(n)) for n in range(5)]
    names = [("names[]", "Ida"), ("names[]", "Bo")]
    for path, fields in (
        ("/crew", [*people.items(), *many]),
        ("/jobs/6/plan", [*names, ("start", "2027-03-01T08:00")]),
    ):
        answer = page.request.post(
            base + path,
            data=urlencode(fields),
            headers={"content-type": "application/x-www-form-urlencoded"},
        )
        assert answer.ok, answer.text()[:300]


@pytest.fixture(scope="session")
def axe() -> Path:
    """The script of axe-core, from Node's registry."""
    return node_modules("axe-core/axe.min.js") / "axe-core" / "axe.min.js"


RUN = "() => axe.run(document, {resultTypes: ['violations']})"


@pytest.mark.parametrize("size", SIZES)
def test_axe_finds_nothing_on_any_main_view(browser, serve, axe, size):
    """At both sizes and in both themes: a view that is light on a phone is dark on a desk."""
    with serve(demo=True) as base:
        width, height = SIZES[size]
        context = browser.new_context(
            viewport={"width": width, "height": height}, bypass_csp=True, color_scheme="light"
        )
        page = context.new_page()
        planned(page, base)
        found = []
        for n, path in enumerate(VIEWS):
            dark = (n + (size == "phone")) % 2
            page.emulate_media(color_scheme="dark" if dark else "light")
            page.goto(base + path)
            page.add_script_tag(path=axe)
            for violation in page.evaluate(RUN)["violations"]:
                found += [(path, dark, violation["id"], n["html"]) for n in violation["nodes"]]
        context.close()
        assert found == []


def test_every_main_view_reflows(browser, serve):
    with serve(demo=True) as base:
        context = browser.new_context(has_touch=True)
        page = context.new_page()
        planned(page, base)
        wide = {}
        for path in VIEWS:
            page.goto(base + path)
            for width, height in ((320, 640), (844, 390), (820, 1180)):
                page.set_viewport_size({"width": width, "height": height})
                over = page.evaluate("document.documentElement.scrollWidth - innerWidth")
                if over > 0:
                    wide[path, width] = over
        context.close()
        assert wide == {}
