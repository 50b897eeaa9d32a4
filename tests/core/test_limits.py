"""Which limit governs, and what it displaced."""

import itertools
from datetime import UTC, datetime
from typing import get_args

import pytest

from fairline.core.limit_list import LIMITS, LimitName
from fairline.core.limits import code, common, governing, house, sheet
from fairline.core.line import work
from fairline.core.practice import CodeEntry, Departure, Practice, Rules, departures
from fairline.core.pressure_test.stage import plan
from fairline.core.schools import TOPICS
from fairline.core.sheet import Head, Outdoor
from fairline.core.sheet.part import Torque
from fairline.demo.sheets import PELLOW_35
from fairline.demo.systems import demo_jobs

NOW = datetime(2026, 3, 1, tzinfo=UTC)


def bare_sheet(**outdoor):
    return Outdoor(maker="M", model="O", refrigerant="R-32", **outdoor)


@pytest.mark.parametrize("said", list(itertools.product([None, 1.0], repeat=4)))
def test_the_first_authority_that_says_something_governs(said):
    makers = (sheet, lambda v: code(v, "code 1"), house, common)
    candidates = [
        make(v if v is None else v + i)
        for i, (make, v) in enumerate(zip(makers, said, strict=True))
    ]
    limit = governing("x", "m", candidates[::-1])
    speaking = [c for c in candidates if c.value is not None]
    if not speaking:
        assert limit is None
        return
    assert (limit.authority, limit.value) == (speaking[0].authority, speaking[0].value)
    assert [d.authority for d in limit.displaced] == [c.authority for c in speaking[1:]]


def test_a_blank_field_falls_through_sheet_code_house_common_and_unknown():
    practice = Practice(
        house={"head_left": 0.5, "max_length_m": 20.0},
        code={"max_length_m": CodeEntry(value=15.0, source="Local 7.2")},
    )
    head = Head(maker="M", model="H")
    rules = Rules(outdoor=bare_sheet(max_lift_m=9.0), head=head, practice=practice)
    found = {name: rules.limit(name) for name in LIMITS}
    assert found["max_lift_m"].authority == "sheet"
    assert (found["max_length_m"].authority, found["max_length_m"].source) == ("code", "Local 7.2")
    assert [d.authority for d in found["max_length_m"].displaced] == ["house"]
    assert found["head_left"].authority == "house"
    assert found["head_right"].authority == "common"
    assert found["hole_size"] is None and found["max_test"] is None


def test_a_school_gives_its_limits_and_the_sheet_displaces_them():
    rules = Rules(outdoor=PELLOW_35, practice=Practice(schools={"pressure": "quick"}))
    hold = rules.limit("test_hold")
    assert (hold.authority, hold.value) == ("sheet", 12 * 3600)
    assert hold.displaced[0].value == 600
    for topic in TOPICS.values():
        assert topic.default in [s.name for s in topic.schools] and topic.reason
        for school in topic.schools:
            assert set(school.values) <= set(LIMITS)
            assert school.does and school.right_when and school.costs


def test_a_job_departs_from_the_house_with_its_reason_and_comes_back():
    house = Practice(schools={"pressure": "hour"}, house={"test_hold": 1800.0})
    away = Departure(
        topic="pressure", school="overnight", reason="joints will be closed in", by="Ida", at=NOW
    )
    back = Departure(topic="pressure", by="Ida", at=NOW)
    plain = Rules(outdoor=bare_sheet(), practice=house)
    assert plain.limit("test_hold").value == 1800.0
    differs = plain.model_copy(update={"departures": departures((away,))})
    assert differs.limit("test_hold").value == 24 * 3600.0
    assert "joints will be closed in" in differs.limit("test_hold").source
    assert departures((away, back)) == {}
    for wrong in ({"reason": ""}, {"school": "guess"}, {"topic": "weather"}):
        with pytest.raises(ValueError):
            Departure.model_validate(away.model_dump() | wrong)


def test_a_page_of_the_manual_follows_the_number_into_the_call():
    sheet = bare_sheet(max_length_m=20.0, cites={"max_length_m": "p. 14"})
    assert Rules(outdoor=sheet).limit("max_length_m").source == "M O, p. 14"
    with pytest.raises(ValueError, match="no field"):
        bare_sheet(cites={"weather": "p. 1"})


def test_a_practice_of_the_first_form_is_still_read():
    old = Practice.model_validate({"pressure": "soak", "sealant": "seat"})
    assert (old.school("pressure").name, old.school("sealant").name) == ("soak", "seat")


def test_the_test_pressure_never_goes_over_the_sheets_maximum():
    rules = Rules(outdoor=bare_sheet(max_test_gauge_pa=1.0e6))
    assert plan(rules).gauge_pa == 1.0e6
    assert plan(rules).lowered
    assert plan(Rules(outdoor=bare_sheet())) is None


@pytest.mark.parametrize(
    "wrong",
    [
        {"min_length_m": 9.0, "max_length_m": 3.0},
        {"mca_a": 20.0, "mop_a": 15.0},
        {"min_heads": 4, "max_heads": 2},
        {"min_connected_w": 9000.0, "max_connected_w": 7000.0},
        {"test_gauge_pa": 5e6, "max_test_gauge_pa": 4e6},
        {"max_lift_m": -1.0},
    ],
)
def test_a_sheet_that_contradicts_itself_is_refused(wrong):
    with pytest.raises(ValueError) as caught:
        bare_sheet(**wrong)
    assert list(wrong)[-1] in str(caught.value)  # the field is named


def test_a_torque_needs_both_ends_in_order():
    for low, high in ((14.0, None), (None, 14.0), (18.0, 14.0)):
        with pytest.raises(ValueError):
            Torque(od_m=0.00635, low_nm=low, high_nm=high)


# --- limits have one home -----------------------------------------------------------------------

JOBS = {job.head.name: job for job in demo_jobs()}


def limits_shown(job, practice):
    """The names of the limits that the stages of a job show."""
    labels = {d.label: name for name, d in LIMITS.items()}
    calls = work(job, practice).calls.values()
    shown = [x for c in calls for x in (*c.governed_by, *c.also_asked)]
    shown += [k.limit for c in calls for k in c.checks if k.limit is not None]
    return {labels[x.limit] for x in shown if x.limit in labels}


def test_every_row_is_asked_by_a_stage_and_shown_by_it():
    assert set(get_args(LimitName)) == set(LIMITS)
    practice = Practice(house={name: d.low for name, d in LIMITS.items()})
    shown = set().union(*(limits_shown(job, practice) for job in JOBS.values()))
    by_needle = practice.model_copy(update={"schools": {"vacuum": "needle"}})
    shown |= set().union(*(limits_shown(needled(job), by_needle) for job in JOBS.values()))
    assert shown == set(LIMITS)


def needled(job):
    """The job with an outdoor unit whose sheet prescribes a needle."""
    planned = job.equipment.outdoor
    sheet = planned.sheet.model_copy(update={"vacuum_gauge": "needle"})
    outdoor = planned.model_copy(update={"sheet": sheet})
    equipment = job.equipment.model_copy(update={"outdoor": outdoor})
    return job.model_copy(update={"equipment": equipment})


@pytest.mark.parametrize("nth", range(len(JOBS)))
def test_a_limit_at_either_end_can_be_judged(nth):
    """Whatever the practice page takes: all at once on every job, each by itself on one of them."""
    job = list(JOBS.values())[nth]
    by_itself = list(LIMITS)[nth :: len(JOBS)]
    for end in ("low", "high"):
        ends = {name: getattr(limit, end) for name, limit in LIMITS.items()}
        for told in (ends, *({name: ends[name]} for name in by_itself)):
            assert work(job, Practice(house=told)).calls


def test_a_limit_kept_before_its_bounds_were_drawn_is_read_and_refused_when_saved_again():
    old = {"house": {"pull_to": 2.0, "drain_fall": 0.0}}
    kept = Practice.model_validate(old, context={"kept": True})
    assert kept.house["drain_fall"] == 0.0
    with pytest.raises(ValueError, match="must lie between"):
        Practice.model_validate(old)


def connected(**code):
    """The gallery's capacity under a local code's limits; its sheet silent on them."""
    job = next(j for j in JOBS.values() if j.equipment.outdoor.sheet.system == "multi")
    planned = job.equipment.outdoor
    silent = dict.fromkeys(("min_connected_w", "max_connected_w", "min_heads", "max_heads"))
    outdoor = planned.model_copy(update={"sheet": planned.sheet.model_copy(update=silent)})
    job = job.model_copy(
        update={"equipment": job.equipment.model_copy(update={"outdoor": outdoor})}
    )
    told = {"max_connected": 60_000.0, "max_heads": 40.0} | code
    practice = Practice(code={n: CodeEntry(value=v, source="Local 3.1") for n, v in told.items()})
    call = work(job, practice).calls["survey"]
    check = next(c for c in call.checks if c.id == "capacity")
    heads = [h for h in job.survey.heads if h.when == "now"]
    return check, call, sum(job.equipment.head(h.zone).cool_w for h in heads), len(heads)


def test_what_a_local_code_says_of_connected_heads_is_judged_on_both_sides():
    check, call, watts, count = connected()
    assert check.call.verdict == "holds"
    assert any(
        x.authority == "code" and x.limit == "most connected capacity" for x in call.governed_by
    )
    every = check.value  # now and later
    for name, fine, bad in (
        ("min_connected", watts, watts + 1),
        ("max_connected", every, every - 1),
        ("min_heads", count, count + 1),
        ("max_heads", 26, 1),
    ):
        assert connected(**{name: float(fine)})[0].call.verdict == "holds", name
        assert connected(**{name: float(bad)})[0].call.verdict == "short", name
    neither = connected(min_connected=50_000.0, max_connected=40_000.0)[0]
    assert neither.call.verdict == "unknown" and "no system can have both" in neither.call.because
