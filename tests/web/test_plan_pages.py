"""The plan of the day as a page: its terms in the address, bad ones beside their field."""

import re

import pytest
from icalendar import Calendar

TERMS = "start=2026-12-02T08:00&crew=2&opens=08:00&closes=16:30"


def test_a_plan_says_when_it_is_ready_by_day_and_by_person(demo):
    page = demo.get(f"/jobs/6/plan?{TERMS}").text
    assert re.search(r"Ready (Wednesday|Thursday|Friday) \d\d:\d\d", page)
    assert "Person 1" in page and "Person 2" in page and 'class="day-bars"' in page
    assert "Nitrogen holds" in page and "needs nobody" in page and "decides" in page
    assert re.search(r"\d+ of \d+ tasks are over", page)


def test_what_is_over_is_not_planned_again(demo):
    page = demo.get(f"/jobs/1/plan?{TERMS}").text
    bare = re.search(r"(\d+) of (\d+) tasks are over", page)
    assert int(bare[1]) >= int(bare[2]) - 3
    assert "Labels, swept, handed over" in page


def test_rain_is_told_with_what_it_costs(demo):
    page = demo.get(f"/jobs/6/plan?{TERMS}&rain=2026-12-02").text
    assert "Rain that day" in page and ("later" in page or "costs no time" in page)


@pytest.mark.parametrize(
    ("terms", "told"),
    [
        ("crew=0", "between 1 and 20"),
        ("crew=two", "between 1 and 20"),
        ("crew=1", "needs 2 people, and there are 1"),
        ("start=soon", "type a day and an hour"),
        ("opens=16:00&closes=08:00", "ends before it begins"),
        ("opens=8h", "type an hour"),
        ("rain=tomorrow", "type a day"),
        ("slot=2001-01-01T08:00", "that day is over"),
    ],
)
def test_bad_terms_are_told_beside_their_field(demo, terms, told):
    answer = demo.get(f"/jobs/6/plan?{terms}")
    assert answer.status_code == 422 and told in answer.text


def test_the_plan_as_a_calendar_has_an_entry_for_each_task(demo):
    made = Calendar.from_ical(demo.get(f"/jobs/6/plan.ics?{TERMS}").content)
    events = made.walk("VEVENT")
    assert len(events) > 10 and all(e["dtend"].dt >= e["dtstart"].dt for e in events)
    assert len({str(e["uid"]) for e in events}) == len(events)
    for wrong in ("crew=0", "crew=1"):  # the page says why there is no plan
        assert demo.get(f"/jobs/6/plan.ics?{wrong}").status_code == 422


def test_the_house_keeps_how_long_things_take(demo):
    before = demo.get(f"/jobs/6/plan?{TERMS}").text
    assert 'name="joint"' in before
    kept = demo.post(f"/jobs/6/plan/times?{TERMS}", data={"joint": "2 h"}, follow_redirects=False)
    assert kept.headers["location"].startswith("/jobs/6/plan?start=2026-12-02")
    after = demo.get(f"/jobs/6/plan?{TERMS}").text
    assert re.search(r'name="joint"[^>]*value="120', after)
    ready = re.compile(r"Ready \w+ \d\d:\d\d</b> (\S+)")
    assert ready.search(after)[1] > ready.search(before)[1]
    for wrong in ("soon", "400 d"):
        refused = demo.post(f"/jobs/6/plan/times?{TERMS}", data={"joint": wrong, "drain": "9 min"})
        assert refused.status_code == 422 and refused.text.count("field-error") == 1
        assert f'value="{wrong}"' in refused.text and 'value="9 min"' in refused.text
    demo.post(f"/jobs/6/plan/times?{TERMS}", data={"joint": ""})
    assert re.search(r'name="joint"[^>]*value="8', demo.get(f"/jobs/6/plan?{TERMS}").text)


def test_the_van_is_loaded_from_three_jobs(demo):
    one = demo.get("/load?job=6").text
    three = demo.get("/load?job=6&job=7&job=8").text
    assert "3 jobs" in three and "Tools" in three and "Gallery, Pattern foundry" in three
    assert len(three) > len(one)
    assert "No job" not in demo.get("/load").text
    assert "1 job<" in demo.get("/load?job=6&job=6&job=9999").text
    assert demo.get("/load?job=x").status_code == 422
