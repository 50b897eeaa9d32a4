"""The plan of the day: against every order tried one by one, and what a plan must never do.

No published source: the plain search below is our own, on a grid of half hours.
"""

from datetime import datetime, timedelta
from itertools import permutations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.calc.day_plan import DayPlanRequest, day_plan

HOUR, HALF = 3600, 1800
DAY = {"start": "08:00", "end": "16:30"}
START = "2026-11-02T08:00"


def plan(tasks, crew=2, start=START, day=DAY):
    rows = [{"duration_s": HOUR, "crew": 1, "after": []} | t for t in tasks]
    asked = {"tasks": rows, "crew": crew, "day": day, "start": start}
    return day_plan(DayPlanRequest.model_validate(asked))


def spans(answer):
    return {
        t.id: (datetime.fromisoformat(t.start), datetime.fromisoformat(t.end))
        for t in answer.result.tasks
    }


TASK = st.fixed_dictionaries(
    {
        "duration_s": st.integers(0, 9).map(lambda n: n * HALF),
        "crew": st.integers(0, 2),
        "trade": st.sampled_from([None, None, "electrician"]),
        "overnight_ok": st.booleans(),
        "slot": st.sampled_from([None, None, None, 3, 30]),
    }
)


@st.composite
def works(draw, most=5):
    rows = draw(st.lists(TASK, min_size=1, max_size=most))
    for n, row in enumerate(rows):
        row["id"] = f"t{n}"
        earlier = [f"t{k}" for k in range(n)]
        row["after"] = draw(st.lists(st.sampled_from(earlier), unique=True)) if earlier else []
        slot = row.pop("slot")
        if slot is not None:
            row["earliest"] = (datetime.fromisoformat(START) + timedelta(hours=slot)).isoformat()
    return rows


def half_hours(rows, crew):
    """The shortest end by trying every order, in half hours: each task at the first that fits."""
    begins, best = datetime.fromisoformat(START), None
    for order in permutations(rows):
        found = {}
        for row in order:
            if any(a not in found for a in row["after"]):
                break
            length = row["duration_s"] // HALF
            ready = max((found[a][1] for a in row["after"]), default=0)
            if row.get("earliest"):
                ready = max(
                    ready,
                    (datetime.fromisoformat(row["earliest"]) - begins) // timedelta(minutes=30),
                )
            at = ready
            while not _fits(row, at, length, found, {r["id"]: r for r in rows}, crew):
                at += 1
            found[row["id"]] = (at, at + length)
        else:
            end = max(e for _, e in found.values())
            best = end if best is None else min(best, end)
    return best


def _fits(row, at, length, found, by_id, crew):
    if row["crew"] == 0 and row["trade"] is None:
        return True
    in_day = at % 48
    inside = in_day < 17 if row["overnight_ok"] and length else in_day + length <= 17
    if not inside:
        return False
    for moment in range(at, at + length):
        busy = 0
        for id, (start, end) in found.items():
            other = by_id[id]
            if not start <= moment < end:
                continue
            if row["trade"] is not None and other["trade"] == row["trade"]:
                return False
            busy += other["crew"] if other["trade"] is None else 0
        if row["trade"] is None and busy + row["crew"] > crew:
            return False
    return True


@settings(max_examples=60, deadline=None)
@given(works())
def test_no_other_order_is_shorter(rows):
    answer = plan(rows)
    assert answer.result.optimal and answer.call.verdict == "holds"
    assert answer.result.makespan_s == half_hours(rows, 2) * HALF


@settings(max_examples=40, deadline=None)
@given(works(most=14), st.integers(2, 3))
def test_what_a_plan_never_does(rows, crew):
    answer = plan(rows, crew)
    at, by_id = spans(answer), {r["id"]: r for r in rows}
    begins = datetime.fromisoformat(START)
    for id, (start, end) in at.items():
        row = by_id[id]
        ready = max([begins, *(at[a][1] for a in row["after"])])
        if row.get("earliest"):
            ready = max(ready, datetime.fromisoformat(row["earliest"]))
        assert (end - start).total_seconds() == row["duration_s"] and start >= ready
        if row["crew"] == 0 and row["trade"] is None:
            assert start == ready  # a wait begins the moment that what is before it ends
            continue
        opens = start.replace(hour=8, minute=0)
        closes = start.replace(hour=16, minute=30)
        assert opens <= start <= closes
        assert row["overnight_ok"] or end <= closes
    for moment, _ in at.values():
        on = [by_id[id] for id, (s, e) in at.items() if s <= moment < e]
        assert sum(r["crew"] for r in on if r["trade"] is None) <= crew
        assert sum(r["trade"] is not None for r in on) <= 1
    last = max(e for _, e in at.values())
    assert answer.result.makespan_s == (last - begins).total_seconds()
    for told in answer.result.tasks:
        follows = [at[r["id"]][0] for r in rows if told.id in r["after"]]
        assert told.slack_s == (min([*follows, last]) - at[told.id][1]).total_seconds() >= 0
    assert answer.result.optimal is (answer.result.gap_s is None)


def test_waits_run_through_the_night_and_are_filled_with_work():
    rows = [
        {"id": "nitrogen", "duration_s": HOUR, "crew": 2},
        {"id": "hold", "duration_s": 24 * HOUR, "crew": 0, "after": ["nitrogen"]},
        {"id": "wire", "duration_s": 7 * HOUR, "crew": 2, "after": []},
        {"id": "pull", "duration_s": HOUR, "crew": 1, "after": ["hold", "wire"]},
    ]
    answer = plan(rows)
    at = spans(answer)
    assert at["hold"][1] == datetime(2026, 11, 3, 9) and at["wire"][0] == datetime(2026, 11, 2, 9)
    assert answer.result.makespan_s == 26 * HOUR and answer.result.days == 2
    assert "Tuesday 2026-11-03 10:00" in answer.call.because


def test_work_that_does_not_fit_into_the_rest_of_the_day_begins_tomorrow():
    rows = [
        {"id": "a", "duration_s": 6 * HOUR, "crew": 2},
        {"id": "b", "duration_s": 3 * HOUR, "crew": 2, "after": ["a"]},
    ]
    assert spans(plan(rows))["b"][0] == datetime(2026, 11, 3, 8)
    rows[1]["duration_s"] = 2.5 * HOUR
    assert spans(plan(rows))["b"][0] == datetime(2026, 11, 2, 14)
    rows[1] |= {"duration_s": 3 * HOUR, "overnight_ok": True}
    assert spans(plan(rows))["b"][0] == datetime(2026, 11, 2, 14)


@pytest.mark.parametrize(
    ("start", "first"),
    [
        ("2026-11-02T06:00", "2026-11-02T08:00:00"),
        ("2026-11-02T10:15:00", "2026-11-02T10:15:00"),
        ("2026-11-02T16:30", "2026-11-03T08:00:00"),
        ("2026-11-02T07:00-06:00", "2026-11-02T08:00:00-06:00"),
    ],
)
def test_moments_come_back_as_they_were_given(start, first):
    answer = plan([{"id": "a", "earliest": "2026-11-01T08:00"}], start=start)
    assert answer.result.tasks[0].start == first


def test_two_of_one_trade_follow_each_other_and_need_no_crew():
    rows = [{"id": x, "crew": 3, "trade": "electrician"} for x in "ab"]
    rows.append({"id": "c", "crew": 2})
    answer = plan(rows)
    assert answer.result.makespan_s == 2 * HOUR and spans(answer)["c"][0].hour == 8
    assert answer.result.days == 1  # the electrician's people are not the crew


@pytest.mark.parametrize(
    ("rows", "more", "named"),
    [
        ([{"id": "a", "after": ["b"]}, {"id": "b", "after": ["a"]}], {}, "comes after itself"),
        ([{"id": "a", "after": ["a"]}], {}, "a comes after itself"),
        ([], {}, "at least 1"),
        ([{"id": "a"}, {"id": "a"}], {}, "a stands twice"),
        ([{"id": "a", "after": ["z"]}], {}, "z, which is not there"),
        ([{"id": "a", "crew": 3}], {}, "a needs 3 people"),
        ([{"id": "a", "duration_s": 8.5 * HOUR + 1}], {}, "a is longer than the working day"),
        ([{"id": "a", "earliest": "soon"}], {}, "a: earliest"),
        ([{"id": "a", "earliest": "2026-11-02T08:00+01:00"}], {}, "offset"),
        ([{"id": "a"}], {"start": "today"}, "start"),
        ([{"id": "a"}], {"day": {"start": "16:30", "end": "08:00"}}, "ends before it starts"),
    ],
)
def test_what_is_refused_is_named(rows, more, named):
    with pytest.raises(ValueError, match=named):
        plan(rows, **more)


def test_a_day_that_is_just_long_enough_and_more_tasks_than_are_proven():
    assert plan([{"id": "a", "duration_s": 8.5 * HOUR}]).result.days == 1
    rows = [{"id": f"t{n}", "duration_s": (n % 5 + 1) * HALF, "crew": n % 2 + 1} for n in range(60)]
    answer = plan(rows)
    least = sum(r["duration_s"] * r["crew"] for r in rows) / 2
    assert answer.result.makespan_s >= least
    assert answer.result.optimal or answer.result.gap_s > 0
