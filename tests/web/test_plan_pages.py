"""Plans as pages: kept with the job, for people by name, moved, with own tasks; two weeks; bids."""

import re
from datetime import UTC, datetime, timedelta
from html import unescape
from itertools import pairwise

import pytest
from icalendar import Calendar

from fairline.core.plan.job_plan import DayPlan, Slot
from fairline.store import jobs, plans
from fairline.web.plan import days
from fairline.web.plan.planning import behind, unplanned
from tests.core.plan.test_day import task
from tests.core.test_proofs import finished
from tests.support import words
from tests.web.test_hand_over_pages import finish

START = "2027-03-01T08:00"  # a Monday
READY = re.compile(r"<b>Ready (\w+ \d\d:\d\d)</b> (\S+)")
PEOPLE = {
    "name-0": "Ana",
    "crew-0": "North",
    "skills-0[]": ["refrigerant", "brazing", "electrical"],
    "name-1": "Bo",
    "crew-1": "North",
    "skills-1[]": [],
    "name-2": "Cy",
    "crew-2": "South",
    "skills-2[]": ["refrigerant", "brazing", "electrical"],
    "opens": "08:00",
    "closes": "16:30",
    "days[]": ["0", "1", "2", "3", "4"],
}


def plan(site, job=5, **more):
    return site.post(f"/jobs/{job}/plan", data={"count": "2", "start": START} | more)


@pytest.fixture
def crewed(demo):
    """The demo with three people; none afterwards, and no plans."""
    assert demo.post("/crew", data=PEOPLE).status_code == 200
    yield demo
    gone = {k: v for k, v in PEOPLE.items() if not k.startswith(("name", "crew", "skills"))}
    assert demo.post("/crew", data=gone).status_code == 200


def test_a_plan_is_kept_and_says_when_it_is_ready_by_day_and_by_person(demo):
    page = plan(demo).text
    assert READY.search(page) and READY.search(demo.get("/jobs/5/plan").text)
    assert "Person 1" in page and "Person 2" in page and page.count('class="day-bars') == 2
    assert "Nitrogen holds" in page and "needs nobody" in page and "decides" in page
    assert re.search(r"\d+ of \d+ tasks are over", page)
    assert "Plan: ready" in demo.get("/").text


def test_what_is_over_is_not_planned_again(demo):
    page = demo.get("/jobs/1/plan").text
    bare = re.search(r"(\d+) of (\d+) tasks are over", page)
    assert int(bare[1]) >= int(bare[2]) - 3
    assert "Labels, swept, handed over" in page


def test_rain_is_told_with_what_it_costs(demo):
    plan(demo)
    page = plan(demo, **{"rain[]": ["2027-03-01", ""]}).text
    assert "Rain: ready" in page or "Rain: no later, ready" in page
    assert 'value="2027-03-01"' in page


@pytest.mark.parametrize(
    ("terms", "told"),
    [
        ({"count": "0"}, "between 1 and 20"),
        ({"count": "two"}, "between 1 and 20"),
        ({"start": "soon"}, "type a day and an hour"),
        ({"start": "1901-01-01T08:00"}, "a day between 2000"),
        ({"rain[]": ["tomorrow"]}, "type a day"),
        ({"slot-0": "2001-01-01T08:00"}, "that day is over"),
        ({"travel": "far"}, "field-error"),
        ({"travel": "30 h"}, "between nothing and 24 h"),
    ],
)
def test_bad_terms_are_told_beside_their_field(demo, terms, told):
    plan(demo)
    before = READY.search(demo.get("/jobs/5/plan").text).group()
    answer = plan(demo, **terms)
    assert answer.status_code == 422 and told in answer.text
    assert READY.search(demo.get("/jobs/5/plan").text).group() == before


def test_one_alone_is_told_what_needs_two(demo):
    answer = plan(demo, 6, count="1")
    assert answer.status_code == 422 and "needs 2 people, and there are 1" in answer.text


def test_a_plan_that_somebody_else_made_meanwhile_is_not_overwritten(demo):
    page = plan(demo).text
    shown = re.search(r'name="_version" value="(\d+)"', page)[1]
    plan(demo, count="3")
    answer = plan(demo, _version=shown)
    assert (
        answer.status_code == 409 and "somebody planned this job meanwhile" in answer.text.lower()
    )


def test_a_task_is_moved_and_all_is_planned_again(demo):
    plan(demo)
    task = re.search(r'data-task="(hang-[A-Z])"', demo.get("/jobs/5/plan").text)[1]
    chosen = demo.get(f"/jobs/5/plan?task={task}").text
    assert 'id="move" open' in chosen or 'id="move"  open' in chosen
    later = {"task": task, "earliest": "2027-03-03T09:00"}
    moved = demo.post("/jobs/5/plan/move", data=later)
    assert re.search(r"Head \w hung moved: ready \w+ \d\d:\d\d instead of", moved.text)
    assert f'data-task="{task}" data-start="2027-03-03T09:00"' in moved.text
    back = demo.post("/jobs/5/plan/move", data=later | {"earliest": ""})
    assert f'data-task="{task}" data-start="2027-03-03T09:00"' not in back.text
    long = demo.post("/jobs/5/plan/move", data={"task": task, "long": "6 h"})
    assert long.status_code == 200
    for wrong, told in (
        ({"task": "no-such"}, "choose a task"),
        ({"task": task, "earliest": "soon"}, "type a day and an hour"),
        ({"task": task, "long": "a while"}, "field-error"),
    ):
        answer = demo.post("/jobs/5/plan/move", data=wrong)
        assert answer.status_code == 422 and told in answer.text
    demo.post("/jobs/5/plan/move", data={"task": task, "long": ""})


def test_the_houses_own_tasks_are_added_ticked_and_taken_out(demo):
    before = READY.search(plan(demo).text)[2]
    slab = {"words": "Slab cures", "by": "wait", "long": "5 d", "before": "outdoor"}
    page = demo.post("/jobs/5/plan/own", data=slab).text
    assert "Slab cures" in page and "Slab cures added: ready" in page
    after = READY.search(page)[2]
    own = re.search(r'name="over"\s+value="(own-\d+)"', page)[1]
    assert "Not over yet" in demo.post("/jobs/5/plan/own", data={"over": own}).text
    gone = demo.post("/jobs/5/plan/own", data={"out": own}).text
    assert "Slab cures<" not in gone and READY.search(gone)[2] == before < after
    assert "say what it is" in demo.post("/jobs/5/plan/own", data={"words": " "}).text
    round_ = {"words": "Round", "after": "leave", "before": "unbox"}
    if 'value="unbox"' in page:
        assert "comes after itself" in demo.post("/jobs/5/plan/own", data=round_).text


def test_people_by_name_with_skills_and_nobody_in_two_places(crewed):
    sheet = crewed.get("/jobs/6/plan").text
    assert 'name="names[]"' in sheet
    nobody = plan(crewed, 6)
    assert nobody.status_code == 422 and "choose who works on it" in nobody.text
    alone = plan(crewed, 6, **{"names[]": ["Bo"]})
    assert alone.status_code == 422 and "needs" in alone.text
    asked = {"job[]": ["6", "7", "8"], "start": START, "order-7": "1", "order-6": "2"}
    page = crewed.post("/days", data=asked).text
    assert "In two places" not in page and "Pattern foundry" in page
    ahead = crewed.get("/days?from=2027-03-01").text
    assert ahead.count('class="tube"') == 6 and "Nitrogen holds, " in ahead  # two for each job
    ready = [READY.search(crewed.get(f"/jobs/{n}/plan").text)[2] for n in (7, 6, 8)]
    assert ready[0] <= ready[1]  # the first of the order is ready first
    stays = busy(crewed, ("6", "7", "8"))
    for own in stays.values():
        own.sort()
        assert all(a[1] <= b[0] for a, b in pairwise(own))
    assert set(stays) == {"Ana", "Bo", "Cy"}
    for wrong, told in (
        ({"start": START}, "choose at least one job"),
        ({"job[]": ["6"], "order-6": "first"}, "a number such as 1"),
        ({"job[]": ["6"], "order-6": "9" * 5000}, "a number such as 1"),
        ({"job[]": ["6"], "start": "soon"}, "type a day and an hour"),
    ):
        answer = crewed.post("/days", data=wrong)
        assert answer.status_code == 422 and told in answer.text
    day = crewed.get("/days/sheet?on=2027-03-01&person=Ana").text
    assert "<h2>Ana</h2>" in day and "<h2>Cy</h2>" not in day
    assert "on no plan" in crewed.get("/days/sheet?on=2026-01-01&person=Ana").text
    assert "Bo" in crewed.get("/?crew=North").text
    assert "No job is like that" not in crewed.get("/?crew=North").text
    dates = Calendar.from_ical(crewed.get("/dates.ics?person=Ana").content)
    assert len(dates.walk("VEVENT")) > 3


def test_a_job_beyond_those_offered_is_found_by_its_words(crewed, monkeypatch):
    def offered(path):
        return set(re.findall(r'id="job-(\d+)"', crewed.get(path).text))

    monkeypatch.setattr(days, "OFFERED", 3)
    at_first = offered("/days")
    assert len(at_first) <= 3 and "8" not in at_first
    assert offered("/days?q=signal") == {"8"}
    assert "No open job has these words" in crewed.get("/days?q=zzzz").text
    for nobody in ("77", "9" * 30, "9" * 5000, "eight"):
        assert crewed.post("/days", data={"job[]": [nobody], "start": START}).status_code == 404
    refused = crewed.post("/days", data={"job[]": ["8"], "start": "soon"}).text
    assert re.search(r'id="job-8" value="8"\s+checked', refused)  # what was chosen stays
    crewed.post("/days", data={"job[]": ["8"], "start": START})
    assert "8" in offered("/days")  # now that it is planned


def test_people_without_a_name_are_in_no_two_places(demo):
    for job in (6, 7):
        assert plan(demo, job).status_code == 200
    assert "In two places" not in demo.get("/days?from=2027-03-01").text


def test_one_person_wanted_at_two_jobs_is_told(crewed):
    for job in (6, 8):
        answer = plan(crewed, job, **{"names[]": ["Ana", "Cy"]})
        assert answer.status_code == 200
    assert "In two places" not in crewed.get("/days?from=2027-03-01").text  # the second knew
    with crewed.app.state.database.session() as session:
        first = plans.of_job(session, 6)
        other = plans.of_job(session, 8)
        plans.keep(session, 8, other.terms, first.plan)
        session.commit()
    page = crewed.get("/days?from=2027-03-01").text
    assert "In two places" in page and "Gallery and Signal house" in words_of(page)


def words_of(text):
    return " ".join(text.split())


def busy(site, jobs):
    """When each person is where, from the calendars of these jobs."""
    found = {}
    for job in jobs:
        made = Calendar.from_ical(site.get(f"/jobs/{job}/plan.ics").content)
        for event in made.walk("VEVENT"):
            for name in str(event.get("description", "")).split(", "):
                if name in ("Ana", "Bo", "Cy"):
                    found.setdefault(name, []).append((event["dtstart"].dt, event["dtend"].dt))
    return found


@pytest.mark.parametrize(
    ("more", "told"),
    [
        ({"name-1": "ana"}, "stands twice"),
        ({"closes": "07:00"}, "ends before it begins"),
        ({"opens": "8h"}, "field-error"),
        ({"days[]": []}, "at least one day"),
        ({"name-2": "x" * 300}, "field-error"),
        ({"skills-2[]": ["flying"]}, "field-error"),
    ],
)
def test_people_that_cannot_be_are_told_with_what_was_typed(demo, more, told):
    answer = demo.post("/crew", data=PEOPLE | more)
    assert (
        answer.status_code == 422
        and told in answer.text
        and 'value="Bo"' in answer.text.replace('value="ana"', 'value="Bo"')
    )
    assert "Ana" not in demo.get("/crew").text


def test_the_plan_as_a_calendar_has_an_entry_for_each_task(demo):
    plan(demo)
    made = Calendar.from_ical(demo.get("/jobs/5/plan.ics").content)
    events = made.walk("VEVENT")
    assert len(events) > 10 and all(e["dtend"].dt >= e["dtstart"].dt for e in events)
    assert len({str(e["uid"]) for e in events}) == len(events)
    assert Calendar.from_ical(demo.get("/jobs/2/plan.ics").content).walk("VEVENT") == []


def test_the_house_keeps_how_long_things_take(demo):
    before = plan(demo).text
    assert "8 min, usual" in before
    kept = demo.post("/jobs/5/plan/times", data={"joint": "2 h"}, follow_redirects=False)
    assert kept.headers["location"] == "/jobs/5/plan#times"
    after = plan(demo).text
    assert re.search(r'name="joint"[^>]*value="120', after)
    assert READY.search(after)[2] > READY.search(before)[2]
    for wrong in ("soon", "400 d"):
        refused = demo.post("/jobs/5/plan/times", data={"joint": wrong, "drain": "9 min"})
        assert refused.status_code == 422 and refused.text.count("field-error") == 1
        assert f'value="{wrong}"' in refused.text and 'value="9 min"' in refused.text
    demo.post("/jobs/5/plan/times", data={"joint": ""})
    assert re.search(r'name="joint"[^>]*value=""', demo.get("/jobs/5/plan").text)


def test_the_van_is_loaded_from_three_jobs(demo):
    one = demo.get("/load?job=6").text
    three = demo.get("/load?job=6&job=7&job=8").text
    assert "3 jobs" in three and "Tools" in three and "Gallery, Pattern foundry" in three
    assert len(three) > len(one)
    assert "No job" not in demo.get("/load").text
    assert "1 job<" in demo.get("/load?job=6&job=6&job=9999").text
    assert demo.get("/load?job=x").status_code == 422


def priced(page, price="10"):
    return dict.fromkeys(re.findall(r'name="(price-\d+)"', page), price) | {
        name: unescape(key) for name, key in re.findall(r'name="(key-\d+)" value="([^"]*)"', page)
    }


def test_a_bid_is_priced_given_and_held_against_what_came(demo):
    page = demo.get("/jobs/6/bid").text
    assert "At least." in page and "$0.00" in page
    refused = demo.post("/jobs/6/bid", data={"give": "1", "hour": "90"})
    assert refused.status_code == 422 and "have no price yet" in refused.text
    fields = priced(page) | {
        "hour": "1,200.50",
        "markup": "20",
        "tax": "8,5",
        "own-words-0": "Permit",
        "own-price-0": "150",
        "option-words-0": "Cover in colour",
        "option-price-0": "240",
    }
    kept = demo.post("/jobs/6/bid", data=fields | {"to_list": "1"}).text
    assert "At least." not in kept and "Permit" in kept and 'value="1200.5"' in kept
    total = re.search(r'class="ready"><b>\$([\d,.]+)', kept)[1]
    paper = demo.get("/jobs/6/bid/print?lines=true").text
    assert f"${total}" in paper and "☐ Cover in colour" in paper and "Permit" in paper
    assert demo.get("/jobs/7/bid").text.count("no\n    price") < page.count("no\n    price")
    own = {"own-words-0": "Permit", "own-price-0": "150"}
    given = demo.post("/jobs/6/bid", data=own | {"give": "1"}).text
    assert "Given</b>" in given and "Against what came" not in given
    later = demo.post("/jobs/6/bid", data=own | {"own-quantity-0": "3"}).text
    assert "Against what came" in later and "+$300.00" in later
    for name, typed in (("hour", "many"), ("markup", "-3"), ("own-quantity-0", "1e9")):
        answer = demo.post("/jobs/6/bid", data={"hour": "1", "own-words-0": "x", name: typed})
        assert answer.status_code == 422 and f'value="{typed}"' in answer.text
    assert "Permit" in demo.get("/jobs/6/bid").text


def test_a_clock_that_runs_stands_on_the_board_of_all_jobs_and_in_the_calendar(demo):
    made = demo.post("/jobs/new", data={"name": "Clock tower"}, follow_redirects=False)
    assert made.status_code == 303
    assert 'id="clocks"' in demo.get("/").text and 'hx-get="/clocks"' in demo.get("/clocks").text
    assert Calendar.from_ical(demo.get("/dates.ics").content) is not None
    later = datetime.now(UTC) + timedelta(days=1)
    assert f"{later.year}" in demo.get("/days").text


def test_finished_jobs_teach_the_house_how_long_things_take(client):
    """Joints seven minutes apart on three jobs; what one took is corrected, or forgotten."""
    numbers = []
    for n in range(3):
        job = finished("home runs").job
        first = job.records[0].at
        told = {
            "uid": f"own-finished-{n}",
            "head": job.head.model_copy(update={"practice": False, "name": f"Loft {n}"}),
            "records": tuple(
                r.model_copy(update={"at": first + timedelta(minutes=7 * k)})
                for k, r in enumerate(job.records)
            ),
        }
        with client.app.state.database.session() as session:
            numbers.append(jobs.import_job(session, job.model_copy(update=told)))
            session.commit()
        assert finish(client, numbers[-1]).status_code == 200
        page = words(client.get(f"/jobs/{numbers[-1]}/plan"))
        learned = "7 min: of 3 of your jobs" in page
        assert learned is (n == 2) and "What it took" in page
    last = f"/jobs/{numbers[-1]}/plan/took"
    kept = client.post(last, data={"joint-A": "2 h", "joint-B": "", "joint-C": "28 min"}).text
    assert 'name="joint-A" id="f-took-joint-A" value="120 min"' in kept
    assert 'name="joint-B"' not in kept  # blank: the house learns nothing of it
    wrong = client.post(last, data={"joint-A": "long"})
    assert wrong.status_code == 422 and 'value="long"' in wrong.text


def test_what_is_late_and_what_is_new_is_told():
    at = datetime(2027, 3, 1, 8, tzinfo=UTC)
    slot = Slot(id="hang#1", words="Hang", stage="mount", start=at, end=at, slack_s=0.0)
    plan_now = DayPlan(made_at=at, slots=(slot,), ready=at)
    assert behind(plan_now, [], at + timedelta(minutes=5)) == ""
    late = at + timedelta(minutes=5, seconds=1)
    assert behind(plan_now, [], late).startswith("Hang should be over since")
    assert behind(plan_now, ["hang"], late) == ""
    waiting = plan_now.model_copy(update={"slots": (slot.model_copy(update={"waits": True}),)})
    assert behind(waiting, [], late) == ""
    assert unplanned(plan_now, [task("hang"), task("new"), task("old", done=True)]) == ["new"]
