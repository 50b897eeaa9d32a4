"""What tasks took, from the acts; what a house learns of it; clocks that run by themselves."""

from datetime import UTC, datetime, timedelta

import pytest

from fairline.core.clocks import clocks
from fairline.core.evacuate.records import Exposure
from fairline.core.line import work
from fairline.core.plan.tasks import tasks
from fairline.core.plan.times import HouseTimes, task_times
from fairline.core.plan.took import ENOUGH, LEAST_SHARE, Took, TookOnJob, learned, took
from fairline.core.practice import Practice
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.procedures.records import ProcedureSteps
from tests.core.test_proofs import finished
from tests.job_site import START, Site

MIN = timedelta(minutes=1)
DAY = datetime(2026, 7, 1, 9, tzinfo=UTC)
USUAL = HouseTimes()


def steps(at, *names, place="A", procedure="hang"):
    return ProcedureSteps(procedure=procedure, place=place, steps=names, by="Ida", at=at)


def of(job, zone=UTC):
    worked = work(job, Practice())
    return took(job, worked, tasks(job, worked, USUAL), zone)


def with_acts(*acts, name="home runs", practice=False):
    job = finished(name).job
    head = job.head.model_copy(update={"practice": practice})
    return job.model_copy(update={"records": acts, "runs": (), "head": head})


def test_a_task_takes_from_its_first_to_its_last_act_of_each_day():
    acts = (
        steps(DAY, "a"),
        steps(DAY + 20 * MIN, "b"),
        steps(DAY + timedelta(days=1), "c"),
        steps(DAY + timedelta(days=1, minutes=15), "d"),
    )
    found = of(with_acts(*acts)).tasks
    assert found["hang-A"].seconds == 35 * 60 and found["hang-A"].kind == "hang"
    assert of(with_acts(*acts, practice=True)).tasks == {}  # a training job teaches nothing


def test_waits_in_between_are_no_work():
    site = finished("home runs")
    run = next(r for r in site.job.runs if r.kind == "hold")
    run = run.model_copy(update={"started_at": DAY + 10 * MIN, "ended_at": DAY + 40 * MIN})
    acts = (steps(DAY, "a"), steps(DAY + 60 * MIN, "b"))
    job = with_acts(*acts).model_copy(update={"runs": (run,)})
    assert of(job).tasks["hang-A"].seconds == 30 * 60


@pytest.mark.parametrize(("share", "known"), [(LEAST_SHARE + 0.001, True), (0.19, False)])
def test_what_was_ticked_at_once_says_nothing(share, known):
    last = DAY + timedelta(seconds=task_times()["hang"].each_s * share)
    assert ("hang-A" in of(with_acts(steps(DAY, "a"), steps(last, "b"))).tasks) is known
    assert of(with_acts(steps(DAY, "a", "b", "c"))).tasks == {}


def test_joints_count_one_more_than_the_time_between_them():
    site = finished("home runs")
    made = [r for r in site.job.recorded(type(site.job.joints[0])) if r.place.startswith("A")]
    acts = [r.model_copy(update={"at": DAY + 8 * n * MIN}) for n, r in enumerate(made)]
    found = of(with_acts(*acts)).tasks["joint-A"]
    assert found.seconds == pytest.approx(len(acts) * 8 * 60)


def job_of(seconds, heads=1, kind="hang"):
    return TookOnJob(heads=heads, tasks={"hang-A": Took(kind=kind, count=1, seconds=seconds)})


def test_a_median_is_learned_from_three_jobs_of_the_size_on():
    jobs = [job_of(600), job_of(4000), job_of(1000)]
    assert learned(jobs[: ENOUGH - 1], 1, USUAL).each_s("hang") == task_times()["hang"].each_s
    own = learned(jobs, 1, USUAL)
    assert own.each_s("hang") == 1000 and own.jobs == {"hang": 3}
    assert learned(jobs, 3, USUAL).each_s("hang") == task_times()["hang"].each_s
    assert learned(jobs, 1, HouseTimes(times={"hang": 60.0})).each_s("hang") == 60.0
    assert learned([job_of(1, kind="gone")] * 3, 1, USUAL).learned == {}
    assert own.model_dump() == {"times": {}}  # what is learned is worked out, never kept


def test_a_hold_that_goes_on_ends_at_a_clock_time():
    site = Site(finished("home runs").job.model_copy(update={"records": (), "runs": ()}))
    site.make(*[j.place for j in site.joints if not j.cap])
    assert [c for c in running(site) if c.kind == "hold"] == []
    to_hold = site.worked.of(PressureTestStageResult).plan
    read = {"gauge_pa": to_hold.gauge_pa, "pipe_c": 20.0}
    site.run("hold", [{"t_s": t} | read for t in (0.0, 600.0)], site.shut())
    open_ = site.job.runs[-1]
    assert open_.ended_at is None
    (clock,) = [c for c in running(site) if c.kind == "hold"]
    assert clock.ends_at == open_.started_at + timedelta(seconds=to_hold.hold_s)
    assert clock.stage == "pressure-test"
    closed = open_.model_copy(update={"ended_at": site.now})
    site.job = site.job.model_copy(update={"runs": (closed,)})
    assert running(site) == []


def running(site):
    return list(clocks(site.worked))


def test_tubing_that_stands_open_asks_for_a_sweep_at_a_time():
    job = finished("home runs").job.model_copy(update={"records": (), "runs": ()})
    opened = Exposure(run="A", state="opened", weather="humid", by="Ida", at=START)
    job = job.model_copy(update={"records": (opened,)})
    (clock,) = clocks(work(job, Practice()))
    assert (clock.kind, clock.ends_at) == ("open", START + timedelta(hours=1))
    taped = Exposure(run="A", state="sealed", weather="humid", by="Ida", at=START + MIN)
    assert clocks(work(job.model_copy(update={"records": (opened, taped)}), Practice())) == ()
