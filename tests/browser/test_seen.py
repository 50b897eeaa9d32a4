"""What is seen: labels of drawings keep clear and are whole, links arrive in the first screen."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import DESK, PHONE

JOBS = range(1, 10)
STAGES = (
    *("survey", "mount", "route", "flare", "pressure-test"),
    *("wire", "evacuate", "charge", "commission", "hand-over"),
)
DRAWN = (
    *("mount?part=A", "mount?part=outdoor", "route?part=system", "route?part=runs.A"),
    *("route?part=drains", "flare", "pressure-test", "wire", "wire?part=cables", "evacuate"),
)
WRONG_LABELS = """() => {
  const wrong = [];
  for (const svg of document.querySelectorAll("svg")) {
    const paper = svg.getBoundingClientRect();
    if (!paper.width || !svg.checkVisibility()) continue;
    const labels = [...svg.querySelectorAll("text")]
      .filter((label) => label.textContent.trim() && label.checkVisibility())
      .map((label) => ({ words: label.textContent.trim(), at: label.getBoundingClientRect() }));
    for (const { words, at } of labels) {
      const cut = at.left < paper.left - 2 || at.right > paper.right + 2
        || at.top < paper.top - 3 || at.bottom > paper.bottom + 3;
      if (cut) wrong.push(`cut: ${words}`);
    }
    labels.forEach((one, n) => labels.slice(n + 1).forEach((other) => {
      const [a, b] = [one.at, other.at];
      const across = Math.min(a.right, b.right) - Math.max(a.left, b.left);
      const down = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
      if (across > 2 && down > 0.35 * Math.min(a.height, b.height)) {
        wrong.push(`over each other: ${one.words}, ${other.words}`);
      }
    }));
  }
  const wide = document.documentElement.scrollWidth;
  if (wide > innerWidth + 1) wrong.push(`the page is ${wide} wide`);
  return wrong;
}"""
SIZES = {"phone": (390, 844), "tablet": (820, 1180), "desk": (1280, 800)}


@DESK
@pytest.mark.parametrize("jobs", [JOBS[::2], JOBS[1::2]], ids=["odd", "even"])
def test_no_label_is_cut_and_none_lies_on_another(demo_site, jobs):
    page, found = demo_site.page, []
    for job in jobs:
        for path in DRAWN:
            page.goto(f"{demo_site.base}/jobs/{job}/{path}", wait_until="domcontentloaded")
            for size, (width, height) in SIZES.items():
                page.set_viewport_size({"width": width, "height": height})
                found += [f"job {job}, {path}, {size}: {x}" for x in page.evaluate(WRONG_LABELS)]
    assert not found, "\n".join(found)


@PHONE
def test_what_is_under_the_thumb_arrives_in_the_first_screen(demo_site):
    page = demo_site.page
    for job in JOBS:
        for stage in STAGES[job % 2 :: 2]:
            page.goto(f"{demo_site.base}/jobs/{job}/{stage}")
            link = page.locator("a.dock-act:visible", has_text="Go t")
            if not link.count():
                continue
            anchor = link.get_attribute("href").partition("#")[2]
            link.click()
            place = page.locator(f"[id='{anchor}']" if anchor else "#work").first
            expect(place).to_be_in_viewport()
            top = place.evaluate("(e) => e.getBoundingClientRect().top")
            dock = page.locator("#dock").evaluate("(e) => e.getBoundingClientRect().top")
            assert -5 <= top < dock - 20, (job, stage, anchor)
