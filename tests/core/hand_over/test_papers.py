"""What leaves with the job: visits, the owner's page, labels, pictures, signatures."""

from datetime import UTC, date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from fairline.core.brief import brief
from fairline.core.commission.start_up import CommissionEntry
from fairline.core.evacuate.house_times import PullTime, PullTimes, own_times, pulled_s
from fairline.core.hand_over.labels import PRACTISED, labels
from fairline.core.hand_over.labels import Job as Named
from fairline.core.hand_over.picture import Picture, missing, pictures_check
from fairline.core.hand_over.records import (
    AnswerToIt,
    HandedOver,
    Visit,
    VisitDone,
    strokes_of,
)
from fairline.core.hand_over.stage import HandOverStageResult
from fairline.core.hand_over.visits import GROUND, MODE, next_due, visits
from fairline.core.line import work
from fairline.core.mount.stage import MountEntry
from fairline.core.practice import Practice
from fairline.core.route.entry import OUTDOOR
from fairline.core.wire.stage import WireStageResult
from fairline.demo import jobs as demo
from fairline.demo import systems
from tests.core.wire.test_wire import BASES

DAY = datetime(2026, 12, 1, 9, 0, tzinfo=UTC)
BINDERY = demo._bindery()
WIRED = BASES["single"]


def visit(uid, on, **more):
    return Visit(uid=uid, on=on, by="Ida", at=DAY, **more)


def made(of):
    return VisitDone(visit=of, found="it stands level", by="Ida", at=DAY)


def asked(**later):
    yard = {"ground": "soft", "look_again": "2027-05-31"}
    mount = MountEntry.model_validate({"outdoor": yard})
    commission = {"later_mode": "heat", "later_on": "2027-01-10", "later_by": "Mo"} | later
    return mount, CommissionEntry.model_validate(commission)


def test_visits_stand_in_the_order_of_their_days_and_those_made_last():
    mount, commission = asked()
    records = [visit("v1", "2027-03-01"), visit("v2", "2026-12-24"), made("v2")]
    found = visits(mount, commission, records)
    assert [v.id for v in found] == [MODE, "v1", GROUND, "v2"]
    assert [v.asked for v in found] == [True, False, True, False]
    assert next_due(found).id == MODE and "heating, Mo" in found[0].words


def test_what_a_stage_asks_for_is_done_by_name_as_any_other():
    mount, commission = asked()
    found = {v.id: v for v in visits(mount, commission, [made(GROUND), made(MODE)])}
    assert next_due(list(found.values())) is None and found[GROUND].made.found
    level = mount.model_copy(
        update={"outdoor": mount.outdoor.model_copy(update={"looked_again": "yes"})}
    )
    assert visits(level, CommissionEntry(), []) == []


@pytest.mark.parametrize(("today", "late"), [("2027-03-01", True), ("2027-02-28", False)])
def test_a_visit_is_due_from_its_day_on_until_it_is_made(today, late):
    due = visits(MountEntry(), CommissionEntry(), [visit("v1", "2027-03-01")])
    assert due[0].late(date.fromisoformat(today)) is late
    over = visits(MountEntry(), CommissionEntry(), [visit("v1", "2027-03-01"), made("v1")])
    assert not over[0].late(date(2030, 1, 1))


def test_the_board_has_the_next_visit_and_not_one_that_was_struck_out():
    planned = BINDERY.model_copy(
        update={"records": (*BINDERY.records, visit("v1", "2027-03-01", note="the leak"))}
    )
    worked = work(planned, Practice())
    found = brief(planned, worked)
    assert (found.due_on, found.due) == ("2027-03-01", "Service: the leak")
    assert brief(BINDERY, worked).due_on == ""


@pytest.mark.parametrize("wrong", ["1,2 3", "a,b", "1,2;;3,4", "1000,2", "1,2 x"])
def test_a_signature_is_strokes_and_nothing_else(wrong):
    with pytest.raises(ValidationError):
        HandedOver(by="Ida", at=DAY, signed=wrong)


points = st.tuples(st.integers(0, 600), st.integers(0, 200))


@given(st.lists(st.lists(points, min_size=1, max_size=6), max_size=4))
def test_strokes_come_back_as_they_were_drawn(strokes):
    text = ";".join(" ".join(f"{x},{y}" for x, y in stroke) for stroke in strokes)
    assert HandedOver(by="Ida", at=DAY, signed=text).signed == text
    assert strokes_of(text) == strokes


def test_an_answer_that_changes_something_says_which_limit():
    with pytest.raises(ValidationError):
        AnswerToIt(question="q", words="40 psi", given_by="Lo", changes_to="40", by="I", at=DAY)


def papers(job, practice=None):
    return work(job, practice or Practice()).of(HandOverStageResult)


def words_of(job):
    return {p.title: " ".join(p.lines) for p in papers(job).owner}


def test_the_owners_page_says_what_is_so_of_this_system_and_no_more():
    told = words_of(BINDERY)
    serial = BINDERY.survey.box(OUTDOOR).serial
    assert serial in told["Warranty"] and "only where the units are registered" in told["Warranty"]
    assert "holds" in told["Your system"] and "R-32" in told["Your system"]
    assert "15 A" in words_of(WIRED)["Switching it off"] and "15 A" not in told["Switching it off"]
    bare = BINDERY.model_copy(update={"records": (), "runs": ()})
    assert "It holds" not in words_of(bare)["Your system"]  # nobody opened its valves


def test_the_owners_page_takes_over_who_cares_what_was_wanted_and_the_dates():
    entry = BINDERY.hand_over.model_copy(
        update={
            "cares": "tenant",
            "cares_name": "Ada",
            "weeds": "the house",
            "registration": "W 12",
        }
    )
    survey = BINDERY.survey.model_copy(update={"wish": "Quiet at night"})
    job = BINDERY.model_copy(
        update={
            "hand_over": entry,
            "survey": survey,
            "records": (*BINDERY.records, visit("v1", "2027-03-01")),
        }
    )
    told = words_of(job)
    assert told["What you wanted"] == "Quiet at night"
    assert told["Who looks after it"].startswith("The tenant, Ada")
    assert "the house sees to it" in told["What stays clear"]
    assert "W 12" in told["Warranty"] and "2027-03-01" in told["Dates"]


def all_labels(job, **more):
    worked = work(job, Practice())
    named = {"name": "X", "site": "Y", "company": "C", "phone": "1", "installers": ["Ida"]}
    about = Named(**(named | {"serial": "S", "digest": ""} | more))
    unit, wiring = worked.of(HandOverStageResult).label, worked.of(WireStageResult).wiring
    return labels(about, unit, wiring, job.wire.supply(OUTDOOR))


@pytest.mark.parametrize(
    "job", [BINDERY, systems._gallery(DAY), systems._foundry(DAY), systems._signal_house(DAY)]
)
def test_every_line_port_and_cable_has_its_label_with_all_its_data(job):
    found = all_labels(job)
    unit = papers(job).label
    ids = [label.id for label in found]
    assert len(set(ids)) == len(ids) and ids[0] == "outdoor"
    assert {f"run-{r.end}" for r in unit.runs} <= set(ids)
    assert {f"port-{p.at}-{p.port}" for p in unit.ports} <= set(ids)
    for label in found:
        assert all(line in label.data for line in label.lines) and "C · 1" in label.data
        assert label.copies == (2 if label.id.startswith(("run-", "cable-")) else 1)


def test_a_label_of_a_practice_job_says_so_and_a_planned_charge_too():
    found = all_labels(systems._gallery(DAY), practice=True)
    assert all(PRACTISED in label.lines for label in found)
    assert any("PLANNED" in line for line in found[0].lines)
    assert any(line.startswith("Added ") for line in all_labels(BINDERY)[0].lines)


def picture(of, place):
    return Picture(of=of, place=place, name="0" * 64, by="Ida", at=DAY)


def test_pictures_of_the_companys_list_are_asked_until_each_is_there():
    practice = Practice(pictures=("nameplate", "hole"))
    call = work(BINDERY, practice).calls["hand-over"]
    check = next(c for c in call.checks if c.id == "pictures")
    assert check.call.verdict.value == "wait" and "nameplate" in check.call.because
    taken = [picture("hole", "A"), picture("nameplate", OUTDOOR), picture("nameplate", "A")]
    job = BINDERY.model_copy(
        update={
            "records": (
                *BINDERY.records,
                *(p.model_copy(update={"uid": f"p{n}"}) for n, p in enumerate(taken)),
            )
        }
    )
    checks = {c.id: c.call.verdict.value for c in work(job, practice).calls["hand-over"].checks}
    assert checks["pictures"] == "holds"
    assert "pictures" not in {c.id for c in work(BINDERY, Practice()).calls["hand-over"].checks}


def test_what_lacks_is_named_four_at_a_time():
    lacking = missing(("hole",), {"hole": list("ABCDEF")}, [picture("hole", "B")])
    assert [place for _, place in lacking] == list("ACDEF")
    assert "and 1 more" in pictures_check(lacking).call.because


def test_the_companys_own_lines_are_asked_before_leaving():
    def closing(practice):
        checks = work(BINDERY, practice).calls["hand-over"].checks
        return next(c.call.because for c in checks if c.id == "steps_closing")

    assert "0 of 3 steps" in closing(Practice())
    assert "0 of 4 steps" in closing(Practice(closing=("Ladder on the van",)))


def job_time(uid, heads, minutes):
    return PullTime(job=uid, heads=heads, pull_s=60.0 * minutes)


def test_the_houses_own_times_are_those_of_jobs_of_the_same_size():
    times = PullTimes()
    for uid, heads, minutes in (("a", 1, 30), ("b", 1, 90), ("c", 3, 400), ("a", 1, 50)):
        times = times.with_job(job_time(uid, heads, minutes))
    assert [one.job for one in times.jobs] == ["b", "c", "a"]
    assert "of 2 single-zone jobs" in own_times(times.jobs, 1)
    assert own_times(times.jobs, 1).startswith("Your own: 70 min at the middle")
    assert "one multi-zone job" in own_times(times.jobs, 3)
    assert own_times((), 1) == ""


def test_a_time_is_from_the_first_pull_to_the_valve_and_never_simulated():
    pulls = [run for run in BINDERY.vacua if run.kind == "pull"]
    decay = next(run for run in BINDERY.vacua if run.kind == "decay")
    assert bool(decay.readings.simulated.any())
    assert pulled_s(BINDERY.vacua, decay) is None
    real = [
        run.model_copy(update={"readings": run.readings.only(~run.readings.simulated)})
        for run in BINDERY.vacua
    ]
    long = (decay.started_at - min(run.started_at for run in pulls)).total_seconds()
    assert pulled_s(real, decay) == pytest.approx(long)
    assert pulled_s(real, None) is None
