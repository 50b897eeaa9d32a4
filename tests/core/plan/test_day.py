"""The plan of the day: a job's real tasks in their order, people and hours never over, delays."""

from datetime import UTC, date, datetime, time, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.calc.materials import GROUPS, Line
from fairline.core.line import work
from fairline.core.plan.crew import SKILLS, CrewBook, Person
from fairline.core.plan.day import (
    Hand,
    PlanError,
    Terms,
    by_person,
    clashes,
    delay_words,
    kept_elsewhere,
    planned,
    terms_of,
)
from fairline.core.plan.job_plan import JobPlan, Moved, OwnTask, with_own
from fairline.core.plan.load import to_load
from fairline.core.plan.tasks import ELECTRICIAN, PlanTask, tasks
from fairline.core.plan.times import HouseTimes, task_times
from fairline.core.plan.working_days import WorkingDays
from fairline.core.practice import Practice
from fairline.demo.systems import demo_jobs
from tests.core.test_proofs import finished

DAY = datetime(2026, 12, 2, 8, 0, tzinfo=UTC)
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


def crew(count):
    return tuple(Hand(f"Person {n + 1}", frozenset(SKILLS)) for n in range(count))


def plan(every, count=2, **more):
    return planned(every, Terms(start=DAY, hands=crew(count), limit_s=0.3, **more), DAY)


def check(found, every, opens="08:00", closes="16:30"):
    """What a plan never does, whoever works: order, hours, one thing at a time, enough people."""
    known = {t.id: t for t in every}
    ends = {s.id: s.end for s in found.slots}
    for slot in found.slots:
        task = known[slot.task]
        assert all(ends[a] <= slot.start for a in task.after if a in ends and "#" not in slot.id)
        if not slot.waits:
            assert slot.start.date() == slot.end.date()
            assert f"{slot.start:%H:%M}" >= opens and f"{slot.end:%H:%M}" <= closes
        assert len(slot.people) == len(set(slot.people)) == (0 if task.trade else task.crew)
    for own in by_person(found).values():
        assert all(a.end <= b.start for a, b in pairwise(own))
    assert found.ready == max(s.end for s in found.slots)
    assert any(s.critical for s in found.slots)


@pytest.mark.parametrize(
    ("count", "name"), [(2, "Bindery"), (2, "Gallery"), (3, "Pattern foundry")]
)
def test_a_plan_keeps_people_hours_and_order(count, name):
    check(plan(ALL[name], count), ALL[name])


@st.composite
def worked(draw):
    """Random tasks with skills and pins, and a team that can do them."""
    skills = sorted(SKILLS)
    hands = [Hand("Ana", frozenset(skills))]
    for n in range(draw(st.integers(1, 2))):
        start = DAY + timedelta(hours=draw(st.integers(0, 30)))
        away = ((start, start + timedelta(hours=draw(st.integers(1, 20)))),)
        known = frozenset(draw(st.lists(st.sampled_from(skills), max_size=2)))
        hands.append(Hand(f"P{n}", known, away if draw(st.booleans()) else ()))
    every = []
    for n in range(draw(st.integers(1, 6))):
        earlier = [t.id for t in every]
        skill = draw(st.sampled_from(["", "", *skills]))
        every.append(
            task(
                f"t{n}",
                duration_s=1800.0 * draw(st.integers(0, 9)),
                crew=draw(st.integers(0, 2)),
                after=tuple(draw(st.lists(st.sampled_from(earlier), unique=True, max_size=2)))
                if earlier
                else (),
                skill=skill,
                who=draw(st.sampled_from(["", "", "Ana"])),
            )
        )
    return every, tuple(hands)


@settings(max_examples=30, deadline=None)
@given(worked())
def test_nobody_does_two_things_or_what_he_cannot_or_while_he_is_elsewhere(given_):
    every, hands = given_
    found = planned(every, Terms(start=DAY, hands=hands), DAY)
    check(found, every)
    able, known = {h.name: h for h in hands}, {t.id: t for t in every}
    for slot in found.slots:
        asked = known[slot.task]
        if not asked.crew:
            continue
        assert not asked.skill or any(asked.skill in able[n].skills for n in slot.people)
        assert not asked.who or asked.who in slot.people
        for name in slot.people:
            for start, end in able[name].elsewhere:
                assert slot.end <= start or slot.start >= end
    assert found.proven


@settings(max_examples=20, deadline=None)
@given(worked())
def test_people_with_names_are_never_faster_than_as_many_who_can_do_all(given_):
    every, hands = given_
    named = planned(every, Terms(start=DAY, hands=hands), DAY)
    alike = planned(
        [t.__class__(**{**t.__dict__, "who": ""}) for t in every],
        Terms(start=DAY, hands=crew(len(hands))),
        DAY,
    )
    assert alike.proven and alike.ready <= named.ready


def test_people_are_told_by_what_they_can_do():
    every = [task("braze", skill="brazing"), task("hang"), task("flare")]
    hands = (Hand("Ana", frozenset({"brazing"})), Hand("Bo", frozenset()))
    by = {s.id: s.people for s in planned(every, Terms(start=DAY, hands=hands), DAY).slots}
    assert by["braze"] == ("Ana",)
    with pytest.raises(PlanError, match="braze needs somebody who can do it \\(brazes\\)"):
        planned(every, Terms(start=DAY, hands=hands[1:]), DAY)
    every = [task("hang", who="Cy")]
    with pytest.raises(PlanError, match="hang is for Cy, who is not on this job"):
        planned(every, Terms(start=DAY, hands=hands), DAY)
    with pytest.raises(PlanError, match="is for Bo, who cannot do it"):
        planned([task("braze", skill="brazing", who="Bo")], Terms(start=DAY, hands=hands), DAY)
    with pytest.raises(PlanError, match="hang needs 1 people, and there are 0"):
        planned([task("hang")], Terms(start=DAY, hands=()), DAY)


def test_another_job_keeps_a_person_with_the_way_around_it():
    first = plan([task("there", duration_s=7200.0)], 1)
    kept = kept_elsewhere([(first, 1800.0)], 600.0, DAY)
    assert kept == {
        "Person 1": [(DAY - timedelta(minutes=30), DAY + timedelta(hours=2, minutes=30))]
    }
    hands = (Hand("Person 1", frozenset(), tuple(kept["Person 1"])),)
    here = planned([task("here")], Terms(start=DAY, hands=hands), DAY)
    assert here.ready == DAY + timedelta(hours=3, minutes=30)
    both = {"Gallery": (first, 1800.0), "Bindery": (here, 600.0)}
    assert clashes(both) == []
    near = here.model_copy(
        update={"slots": (here.slots[0].model_copy(update={"start": DAY + timedelta(hours=2)}),)}
    )
    found = clashes({"Gallery": (first, 1800.0), "Bindery": (near, 600.0)})
    assert [(name, one, other) for name, _, one, other in found] == [
        ("Person 1", "Gallery", "Bindery")
    ]
    later = DAY + timedelta(hours=9)
    assert kept_elsewhere([(first, 0.0)], 0.0, later) == {}


@pytest.mark.parametrize(("gap_h", "count"), [(1.9, 1), (2.1, 2)])
def test_for_a_short_while_between_two_tasks_nobody_drives_elsewhere(gap_h, count):
    begin = DAY + timedelta(hours=1 + gap_h)
    found = plan([task("a"), task("b", earliest=begin)], 1)
    assert len(kept_elsewhere([(found, 0.0)], 0.0, DAY)["Person 1"]) == count


def test_a_week_has_its_days_off_and_a_clock_that_is_changed_counts():
    """The change to summer time, Sunday 2027-03-14 in Chicago: the night is an hour shorter."""
    zone = ZoneInfo("America/Chicago")
    friday = datetime(2027, 3, 12, 8, 0, tzinfo=zone)
    every = [
        task("on", duration_s=8.5 * 3600),
        task("hold", crew=0, duration_s=60 * 3600.0, after=("on",)),
        task("next", after=("on",)),
    ]
    terms = Terms(start=friday, hands=crew(1), weekdays=(0, 1, 2, 3, 4))
    by = {s.id: s for s in planned(every, terms, friday).slots}
    assert by["next"].start == datetime(2027, 3, 15, 8, 0, tzinfo=zone)
    assert by["hold"].end == datetime(2027, 3, 15, 5, 30, tzinfo=zone)  # 60 h later, not 59
    days = WorkingDays(friday, time(8), time(16, 30), (0, 1, 2, 3, 4))
    assert days.window(1)[0] == (3 * 24 - 1) * 3_600_000
    assert days.numbers([date(2027, 3, 13), date(2027, 3, 15)]) == {1}
    assert [days.day_at(at) for at in (0, days.window(0)[1], days.window(0)[1] + 1)] == [0, 0, 1]
    over = WorkingDays(friday.replace(hour=17), time(8), time(16, 30), (4,))
    assert over.day(0) == date(2027, 3, 19)


def test_the_own_tasks_stand_among_the_others_and_leaving_waits_for_them():
    every = [task("outdoor"), task("leave", after=("outdoor",))]
    slab = OwnTask(id="own-1", words="Slab", duration_s=7200.0, before=("own-2",))
    cure = OwnTask(id="own-2", words="Cures", by="wait", duration_s=86_400.0, before=("outdoor",))
    paint = OwnTask(id="own-3", words="Paint", by="trade", trade="painter", after=("outdoor",))
    after = OwnTask(id="own-4", words="Bill", after=("leave",))
    kept = JobPlan(own=(slab, cure, paint, after))
    both = {t.id: t for t in with_own(every, kept)}
    assert both["outdoor"].after == ("own-2",) and both["own-2"].after == ("own-1",)
    assert both["own-3"].trade == "painter" and both["own-2"].waits
    assert both["leave"].after == ("outdoor", "own-3")  # not for what comes after leaving
    found = plan(list(both.values()), 1)
    by = {s.id: s for s in found.slots}
    assert by["outdoor"].start == DAY + timedelta(hours=26)
    assert found.slots[-1].id == "own-4"
    round_ = JobPlan(own=(slab.model_copy(update={"after": ("outdoor",)}), cure))
    with pytest.raises(PlanError, match="comes after itself"):
        plan(with_own(every, round_), 1)


def test_what_a_person_said_of_a_task_counts():
    every = [task("a"), task("b")]
    kept = JobPlan(moved={"a": Moved(earliest=DAY + timedelta(hours=3), who="Person 2")})
    kept = kept.model_copy(update={"moved": kept.moved | {"b": Moved(duration_s=5400.0)}})
    by = {s.id: s for s in plan(with_own(every, kept), 2).slots}
    assert by["a"].start == DAY + timedelta(hours=3) and by["a"].people == ("Person 2",)
    assert by["b"].end - by["b"].start == timedelta(minutes=90)


def test_a_thing_that_is_on_its_way_keeps_what_needs_it():
    bracket = OwnTask(
        id="own-1",
        words="Bracket comes",
        by="wait",
        duration_s=0.0,
        earliest=DAY + timedelta(days=2),
        before=("outdoor",),
    )
    found = plan(with_own([task("outdoor"), task("hole")], JobPlan(own=(bracket,))), 1)
    by = {s.id: s for s in found.slots}
    assert by["outdoor"].start == DAY + timedelta(days=2) and by["hole"].start == DAY
    far = OwnTask(id="own-1", words="Bracket comes", earliest=DAY + timedelta(days=400))
    with pytest.raises(PlanError, match="more than a year away"):
        plan(with_own([], JobPlan(own=(far,))), 1)


def test_terms_name_people_who_are_there():
    book = CrewBook(people=(Person(name="Ana", skills=("brazing",)), Person(name="Bo")))
    terms = terms_of(JobPlan(names=("Bo", "Ana")), book, DAY, {"Ana": [(DAY, DAY)]})
    assert [(h.name, h.skills, h.elsewhere) for h in terms.hands] == [
        ("Bo", frozenset(), ()),
        ("Ana", {"brazing"}, ((DAY, DAY),)),
    ]
    assert len(terms_of(JobPlan(count=3), book, DAY, {}).hands) == 3
    late = DAY - timedelta(days=1)
    assert terms_of(JobPlan(start=late), book, DAY, {}).start == DAY  # never in the past
    with pytest.raises(PlanError, match="Cy is not among"):
        terms_of(JobPlan(names=("Cy",)), book, DAY, {})


@pytest.mark.parametrize(
    ("wrong", "told"),
    [
        ({"opens": "17:00"}, "ends before it begins"),
        ({"opens": "25:00"}, "type an hour"),
        ({"days": ()}, "at least one day"),
        ({"people": (Person(name="Ana"), Person(name="ANA"))}, "stands twice"),
    ],
)
def test_a_crew_book_that_cannot_be_is_refused(wrong, told):
    with pytest.raises(ValueError, match=told):
        CrewBook(**wrong)


def test_a_single_zone_takes_half_a_day_to_a_day_and_three_zones_up_to_three():
    """Common practice, no source: half a day to a day; a three-zone job is bid at three days."""
    one = plan(ALL["Bindery"])
    assert one.ready - DAY < timedelta(days=1, hours=8)
    assert len({s.start.date() for s in plan(ALL["Gallery"]).slots}) <= 3


def task(id, **more):
    given = {"words": id, "stage": "flare", "time": "joint", "duration_s": 3600.0, "crew": 1}
    given |= {"after": (), "done": False} | more
    return PlanTask(id=id, **given)


def test_rain_lets_no_tube_be_opened_that_day_and_says_what_it_costs():
    every = [task("hang", opens=False), task("flare", opens=True, after=("hang",))]
    dry = plan(every, 1)
    wet = plan(every, 1, rain=(date(2026, 12, 2),))
    flared = next(s for s in wet.slots if s.task == "flare")
    assert flared.start == datetime(2026, 12, 3, 8, 0, tzinfo=UTC)
    assert delay_words(wet, dry, "Rain") == (
        "Rain: ready Thu 09:00 instead of Wed 10:00, 23 h later."
    )
    assert "Rain: no later, ready" in delay_words(dry, dry, "Rain")


def test_another_trade_comes_in_its_slot_and_takes_none_of_our_people():
    every = [task("supply", crew=0, trade=ELECTRICIAN), task("ours")]
    slot = datetime(2026, 12, 3, 13, 0, tzinfo=UTC)
    found = plan(every, 1, slots={ELECTRICIAN: slot})
    by = {s.id: s for s in found.slots}
    assert by["supply"].start == slot and by["ours"].start == DAY
    assert [s.id for s in by_person(found)["Person 1"]] == ["ours"]


@given(st.floats(1.0, 40.0))
@settings(max_examples=25, deadline=None)
def test_a_task_longer_than_the_day_falls_into_parts_that_follow_each_other(hours):
    every = [task("long", duration_s=hours * 3600), task("after", after=("long",))]
    found = plan(every, 1)
    parts = [s for s in found.slots if s.task == "long"]
    assert sum((s.end - s.start).total_seconds() for s in parts) == pytest.approx(hours * 3600)
    assert all(a.end <= b.start for a, b in pairwise(parts))
    assert found.slots[-1].id == "after"


@pytest.mark.parametrize("count", [1, 2])
def test_a_task_that_needs_more_people_than_there_are_is_named(count):
    every = [task("lift", crew=2)]
    if count == 2:
        assert plan(every, count).slots[0].people == ("Person 1", "Person 2")
        return
    with pytest.raises(PlanError, match="lift needs 2 people"):
        plan(every, count)


def test_nothing_left_to_do_is_no_plan():
    assert plan([task("a", done=True)], 1) is None


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
