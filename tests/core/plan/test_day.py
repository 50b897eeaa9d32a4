"""The plan of the day: a job's real tasks in their order, people and hours never over, delays."""

from datetime import UTC, date, datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.calc.materials import GROUPS, Line
from fairline.core.line import work
from fairline.core.plan.day import PlanError, Terms, delay_words, people, planned
from fairline.core.plan.load import to_load
from fairline.core.plan.tasks import ELECTRICIAN, PlanTask, tasks
from fairline.core.plan.times import HouseTimes, task_times
from fairline.core.practice import Practice
from fairline.demo.systems import demo_jobs
from tests.core.test_proofs import finished

DAY = datetime(2026, 12, 2, 8, 0)
JOBS = {job.head.name: job for job in demo_jobs()}
USUAL = HouseTimes()


def of(job, house=USUAL):
    return tasks(job, work(job, Practice()), house)


def bare(job):
    """The job with nothing done yet."""
    return job.model_copy(update={"records": (), "runs": ()})


ALL = {name: of(bare(job)) for name, job in JOBS.items()}


def ancestors(every, id):
    known = {t.id: t for t in every}
    found, left = set(), [id]
    while left:
        for before in known[left.pop()].after:
            if before not in found:
                found.add(before)
                left.append(before)
    return found


@pytest.mark.parametrize("name", ALL)
def test_the_order_of_the_tasks_is_that_of_the_gates(name):
    every = ALL[name]
    ids = [t.id for t in every]
    assert len(set(ids)) == len(ids)
    assert all(a in ids for t in every for a in t.after)
    joints = {t.id for t in every if t.time in ("joint", "brazed")}
    assert joints and joints <= ancestors(every, "hold")
    assert {"hold", "search"} <= ancestors(every, "rig")
    assert "decay" in ancestors(every, "weigh") and "weigh" in ancestors(every, "valves")
    cables = {t.id for t in every if t.time == "cable"}
    assert {"valves", "supply"} | cables <= ancestors(every, "starts")
    assert set(ids) - {"leave"} <= ancestors(every, "leave")


@pytest.mark.parametrize("name", ALL)
def test_tubing_is_opened_only_where_joints_are_made_or_the_rig_is_put_on(name):
    assert {t.time for t in ALL[name] if t.opens} <= {"joint", "brazed", "rig"}


def test_what_is_done_comes_from_the_stages():
    site = finished("home runs")
    over = {t.id for t in of(site.job) if t.done}
    assert {"joint-A", "hold", "decay", "weigh"} <= over
    assert "leave" not in over
    none = {t.id for t in of(bare(JOBS["Gallery"])) if t.done}
    assert not none & {"hold", "decay", "weigh", "starts"}


@pytest.mark.parametrize(("crew", "name"), [(2, "Bindery"), (2, "Gallery"), (3, "Pattern foundry")])
def test_a_plan_keeps_people_hours_and_order(crew, name):
    terms = Terms(start=DAY, crew=crew)
    plan = planned(ALL[name], terms)
    ends = {s.task.id: s.end for s in plan.slots}
    for slot in plan.slots:
        assert all(ends[a] <= slot.start for a in slot.task.after if a in ends)
        if not slot.task.waits:
            assert slot.start.date() == slot.end.date()
            assert f"{slot.start:%H:%M}" >= "08:00" and f"{slot.end:%H:%M}" <= "16:30"
    for at in {s.start for s in plan.slots}:
        busy = sum(s.task.crew for s in plan.slots if s.start <= at < s.end and not s.task.trade)
        assert busy <= crew
    for own in people(plan, crew).values():
        assert all(a.end <= b.start for a, b in pairwise(own))
    named = [s.task.id for own in people(plan, crew).values() for s in own]
    wanted = [s.task.id for s in plan.slots for _ in range(0 if s.task.trade else s.task.crew)]
    assert sorted(named) == sorted(wanted)
    assert plan.ready == max(s.end for s in plan.slots)
    assert any(s.critical for s in plan.slots)


def test_a_single_zone_takes_half_a_day_to_a_day_and_three_zones_up_to_three():
    """Common practice, no source: half a day to a day; a three-zone job is bid at three days."""
    one = planned(ALL["Bindery"], Terms(start=DAY, crew=2))
    assert one.days in (1, 2) and one.ready - DAY < timedelta(days=1, hours=8)
    assert planned(ALL["Gallery"], Terms(start=DAY, crew=2)).days <= 3


def task(id, **more):
    given = {"words": id, "stage": "flare", "time": "joint", "duration_s": 3600.0, "crew": 1}
    given |= {"after": (), "done": False} | more
    return PlanTask(id=id, **given)


def test_rain_lets_no_tube_be_opened_that_day_and_says_what_it_costs():
    every = [task("hang", opens=False), task("flare", opens=True, after=("hang",))]
    dry = planned(every, Terms(start=DAY, crew=1))
    wet = planned(every, Terms(start=DAY, crew=1, rain=date(2026, 12, 2)))
    flared = next(s for s in wet.slots if s.task.id == "flare")
    assert flared.start == datetime(2026, 12, 3, 8, 0)
    assert delay_words(wet, dry, "Rain") == (
        "Rain: ready Thu 09:00 instead of Wed 10:00, 23 h later."
    )
    assert "costs no time" in delay_words(dry, dry, "Rain")


def test_another_trade_comes_in_its_slot_and_takes_none_of_our_people():
    every = [task("supply", crew=0, trade=ELECTRICIAN), task("ours")]
    slot = datetime(2026, 12, 3, 13, 0)
    plan = planned(every, Terms(start=DAY, crew=1, slot=slot))
    by = {s.task.id: s for s in plan.slots}
    assert by["supply"].start == slot and by["ours"].start == DAY
    assert [s.task.id for s in people(plan, 1)[1]] == ["ours"]


@given(st.floats(1.0, 40.0))
@settings(max_examples=25, deadline=None)
def test_a_task_longer_than_the_day_falls_into_parts_that_follow_each_other(hours):
    every = [task("long", duration_s=hours * 3600), task("after", after=("long",))]
    plan = planned(every, Terms(start=DAY, crew=1))
    parts = [s for s in plan.slots if s.task.id.startswith("long")]
    assert sum((s.end - s.start).total_seconds() for s in parts) == pytest.approx(hours * 3600)
    assert all(a.end <= b.start for a, b in pairwise(parts))
    assert plan.slots[-1].task.id == "after"


@pytest.mark.parametrize("crew", [1, 2])
def test_a_task_that_needs_more_people_than_there_are_is_named(crew):
    every = [task("lift", crew=2)]
    if crew == 2:
        assert planned(every, Terms(start=DAY, crew=crew)).days == 1
        return
    with pytest.raises(PlanError, match="lift needs 2 people"):
        planned(every, Terms(start=DAY, crew=crew))


def test_nothing_left_to_do_is_no_plan():
    assert planned([task("a", done=True)], Terms(start=DAY, crew=1)) is None


def test_the_house_sets_its_own_times():
    house = HouseTimes(times={"joint": 60.0})
    slow, quick = of(bare(JOBS["Bindery"])), of(bare(JOBS["Bindery"]), house)
    by = {t.id: t.duration_s for t in slow}
    assert {t.id for t in quick if t.duration_s != by[t.id]} == {"joint-A"}
    assert next(t for t in quick if t.id == "joint-A").duration_s == 4 * 60.0
    for wrong in ({"nothing": 1.0}, {"joint": -1.0}, {"joint": 31 * 86_400.0}):
        with pytest.raises(ValueError):
            HouseTimes(times=wrong)
    assert all(one.each_s > 0 for one in task_times().values())


def test_a_plan_over_the_change_to_winter_time_is_by_the_clock_on_the_wall():
    """Moments without a zone: a night is a night, whatever the clocks do."""
    late = datetime(2026, 10, 24, 15, 0)
    every = [task("a"), task("b", after=("a",))]
    plan = planned(every, Terms(start=late, crew=1))
    assert plan.slots[1].start == datetime(2026, 10, 25, 8, 0)
    aware = planned(every, Terms(start=late.replace(tzinfo=UTC), crew=1))
    assert aware.ready.replace(tzinfo=None) == plan.ready


lines = st.lists(
    st.builds(
        Line,
        group=st.sampled_from(list(GROUPS)),
        item=st.sampled_from(["tube", "strap"]),
        quantity=st.floats(0.1, 50),
        unit=st.sampled_from(["m", "pieces"]),
        size=st.sampled_from(["", "3/8"]),
    ),
    max_size=8,
)


@given(st.lists(lines, max_size=4))
def test_a_van_for_several_jobs_has_all_that_each_of_them_wants(lists):
    named = [(f"job {n}", of) for n, of in enumerate(lists)]
    found = to_load(named)
    assert sum(x.quantity for x in found) == pytest.approx(
        sum(line.quantity for _, of in named for line in of)
    )
    keys = [(x.group, x.item, x.size, x.unit) for x in found]
    assert len(set(keys)) == len(keys)
    for one in found:
        wanting = [
            job
            for job, of in named
            if any(
                (x.group, x.item, x.size, x.unit) == (one.group, one.item, one.size, one.unit)
                for x in of
            )
        ]
        assert list(one.jobs) == wanting
