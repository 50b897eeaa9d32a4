"""The stages of whole jobs: what holds, what blocks, what an override leaves behind."""

from datetime import UTC, datetime

import pytest

from fairline.core.charge.entry import Release, Weighing
from fairline.core.equipment import Equipment
from fairline.core.job import Job, JobHead
from fairline.core.line import current_stage, judge
from fairline.core.practice import Practice
from fairline.core.readings import VacuumReadings
from fairline.core.route.stage import tightest
from fairline.core.stages import TITLES as STAGES
from fairline.demo.jobs import bindery, cafe, darkroom, letterpress, luthier
from fairline.demo.systems import foundry, gallery, gatehouse, signal_house
from tests.support import label_of, routed

NOW = datetime(2026, 6, 1, tzinfo=UTC)


def calls(job):
    return judge(job, Practice())


def test_an_empty_job_says_what_is_missing_at_every_stage():
    stages = calls(Job(uid="empty-job", created_at=NOW, head=JobHead(name="x")))
    assert list(stages) == list(STAGES)
    for call in stages.values():
        assert call.call.verdict in ("wait", "unknown")
        assert call.call.do_next


@pytest.mark.parametrize(
    ("make", "at", "verdict"),
    [
        (bindery, "hand-over", "holds"),
        (luthier, "wire", "wait"),
        (darkroom, "evacuate", "short"),
        (letterpress, "pressure-test", "wait"),
        (cafe, "mount", "short"),
        (gallery, "wire", "stop"),
        (foundry, "wire", "short"),  # an earlier stage that waits hides it not
        (signal_house, "survey", "wait"),
        (gatehouse, "flare", "wait"),
    ],
)
def test_the_demo_jobs_stand_where_they_should(make, at, verdict):
    stages = calls(make())
    assert current_stage(stages) == at
    assert stages[at].call.verdict == verdict


def test_the_pressure_that_fell_overnight_with_the_temperature_is_sound():
    job = luthier()
    first, last = job.runs[0].readings[0], job.runs[0].readings[-1]
    assert last.gauge_pa < first.gauge_pa - 20 * 6894.76
    stage = calls(job)["pressure-test"]
    assert stage.call.verdict == "holds"
    assert "fell" in stage.call.because


def test_the_decay_that_levels_off_is_water():
    assert calls(darkroom())["evacuate"].findings == ("moisture",)


def with_release(job, **fields):
    release = Release(order="gas_first", full_open=True, caps_on=True, by="Ida", at=NOW, **fields)
    return job.model_copy(update={"records": (*job.records, release)})


def test_an_override_stays_on_the_record_and_is_never_a_pass():
    stage = calls(with_release(darkroom(), override_by="Ida", override_reason="cold night"))
    release = {c.id: c for c in stage["charge"].checks}["release"]
    assert release.call.verdict == "watch"
    assert "cold night" in release.call.because


def test_a_new_pull_takes_the_old_decay_out_of_use():
    job = bindery()
    again = job.runs[1].model_copy(update={"uid": "again", "readings": VacuumReadings({}, 0)})
    stages = calls(job.model_copy(update={"runs": (*job.runs, again)}))
    assert stages["evacuate"].call.verdict == "wait"


@pytest.mark.parametrize(("grams", "verdict"), [(30, "holds"), (5, "wait"), (90, "short")])
def test_what_was_weighed_is_held_against_what_was_wanted(grams, verdict):
    job = bindery()
    weighing = Weighing(before_kg=5.0, after_kg=5.0 - grams / 1000, by="Ida", at=NOW)
    others = tuple(r for r in job.records if r.kind != "weighing")
    checks = calls(job.model_copy(update={"records": (*others, weighing)}))["charge"].checks
    assert {c.id: c.call.verdict for c in checks}["weighed"] == verdict


def test_by_feel_is_recorded_and_never_holds():
    job = letterpress()
    job = job.model_copy(update={"runs": ()})  # no nitrogen is on it yet
    felt = job.joints[0].model_copy(update={"place": "A.gas.end", "at": NOW, "uid": "felt"})
    stage = calls(job.model_copy(update={"records": (*job.records, felt)}))["flare"]
    assert stage.call.verdict == "watch"
    assert "not measured" in stage.call.because


def test_hand_over_does_not_hold_while_a_stage_does_not():
    stage = calls(darkroom())["hand-over"]
    assert stage.call.verdict == "short"
    assert stage.call.because.startswith("Evacuate")


def test_the_label_says_what_was_weighed_or_else_what_is_planned():
    job = bindery()
    done = label_of(job)
    assert (done.weighed, done.added_kg) == (True, pytest.approx(0.032))
    assert done.total_kg == pytest.approx(0.62 + 0.032)
    planned = label_of(job.model_copy(update={"records": ()}))
    assert (planned.weighed, planned.date) == (False, None)
    assert planned.added_kg == pytest.approx((planned.length_m - 7.62) * 0.020462254, rel=1e-6)
    blank = label_of(cafe().model_copy(update={"equipment": Equipment()}))
    assert (blank.added_kg, blank.total_kg, blank.refrigerant) == (None, None, None)


def test_what_is_left_of_each_limit_of_the_run():
    job = bindery()
    left = {x.limit.limit: x for x in routed(job).left}
    run = label_of(job).length_m
    assert left["most length"].left == pytest.approx(66 * 0.3048 - run)
    assert left["least length"].left == pytest.approx(run - 10 * 0.3048)
    assert left["most bends"].left == 10 - 5
    closest = tightest(routed(gallery()).left)
    assert {x.limit.limit: x.where for x in closest}["most length"] == "C"  # the longest run


def test_a_run_that_cannot_be_bent_has_no_length_to_charge():
    job = bindery()
    wide = job.route.model_copy(update={"bend_radius_m": 3.0})
    stages = calls(job.model_copy(update={"route": wide}))
    assert stages["route"].findings[0] == "bend_does_not_fit"
    assert {c.id: c.call.verdict for c in stages["charge"].checks}["added"] == "unknown"
