"""The bar under a phone's thumb: what it says, of what, and that the button beside it does that."""

import re

import pytest

from fairline.core.call import Call, StageCall, Verdict
from fairline.core.contents.steps import STEPS
from fairline.core.contents.way_out import OneStep, WayOut
from fairline.web.frame import plate
from tests.support import words

BY = {"by": "Ida"}


def bar(client, path):
    """What the bar says, and the buttons that a phone puts beside it."""
    page = client.get(path).text
    dock = re.search(r'<aside class="dock .*?</aside>', page, re.S).group()
    acts = re.findall(r'<button class="[^"]*\bact\b[^"]*"[^>]*>(.*?)</button>', page, re.S)
    said = " ".join(re.sub("<[^>]+>", " ", dock).split())
    return said, [" ".join(a.split()) for a in acts]


@pytest.mark.parametrize(
    ("path", "says", "acts"),
    [
        ("/jobs/6/mount?part=walls.A", "Head A: Move the head", ["Put it there"]),
        ("/jobs/6/mount?part=outdoor", "Head A: Move the head", []),  # its button moves the unit
        ("/jobs/6/route?part=drains", "Drain B: Lower the end of part 1", []),
        ("/jobs/6/wire?part=cables", "Stop Fit a breaker of 40 A", []),
        ("/jobs/6/flare", "Gas, at the head A: Torque it", ["Flare good: Record"]),
        ("/jobs/6/flare?joint=B.gas.end", "Gas, at the head A: Torque it", []),
    ],
)
def test_the_button_under_the_thumb_does_what_the_bar_says(demo, path, says, acts):
    said, buttons = bar(demo, path)
    assert says in said and buttons == acts
    assert ("Go t" in said) == (not acts or "Put" in acts[0] or "Flare" in acts[0])


def test_a_crossed_cable_is_not_recorded_as_right_by_the_thumb(demo):
    place = "/jobs/4/wire"
    demo.post(f"{place}/dead", data={"act": "not-fed", "unit": "outdoor"} | BY)
    assert bar(demo, f"{place}?part=cables")[1] == []  # the breaker is asked first
    demo.post(f"{place}/landings", data={"end": "A.end", "terminal": "1", "colour": "green"} | BY)
    page = words(demo.get(f"{place}?part=cable-A&end=A.end"))
    assert (
        "Changed, all landed and pulled now: Record" in page
        and ">All landed and pulled: Record" not in page
    )


def test_an_entry_that_was_not_understood_never_stands_above_a_call_that_holds(demo):
    held = bar(demo, "/jobs/1/route")[0]
    assert held.endswith("On to flare")
    answer = demo.post("/jobs/1/route", data={"runs.A.coil_m": "12 foo"})
    dock = re.search(r'<aside class="dock .*?</aside>', answer.text, re.S).group()
    assert "Not kept" in dock and "Holds" not in dock and "On to flare" not in dock
    assert "this is the call of what was kept before" in words(answer)


def test_an_act_refused_for_its_order_shows_the_step_that_is_under_the_thumb():
    way = WayOut(
        Verdict.STOP, "Refrigerant is in it.", (), (OneStep("shut", STEPS["shut"], False),)
    )
    shown = plate.bar(StageCall(call=Call(verdict="holds", because="x")), "flare", 1, True, way)
    assert (shown.word, shown.words) == ("Stop", STEPS["shut"].words)
