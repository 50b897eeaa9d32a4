"""The plan's steps, and the search for a leak: who is suspected first, what clears a joint."""

from datetime import UTC, datetime, timedelta

import pytest

from fairline.core.flare import stage as flare
from fairline.core.flare.records import JointRecord, WrenchEntry
from fairline.core.line import judge, rules_of
from fairline.core.practice import Practice
from fairline.core.pressure_test import stage as pressure_test
from fairline.core.pressure_test.hold import TestEntry
from fairline.core.pressure_test.leak_search import next_to_look_at, suspects
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.readings import HoldReading, HoldRun
from fairline.demo.jobs import bindery, letterpress
from fairline.demo.systems import foundry
from tests.support import joints_of, piping_of

NOW = datetime(2026, 6, 1, 8, tzinfo=UTC)
PSI = 6894.757293168
PLACES = ("A.gas.end", "A.liquid.end", "A.gas.start", "A.liquid.start")


def hold(uid, *rows, at=NOW):
    readings = tuple(
        HoldReading(seq=i, t_s=t, gauge_pa=p * PSI, pipe_c=20.0) for i, (t, p) in enumerate(rows)
    )
    return HoldRun(uid=uid, kind="hold", started_at=at, readings=readings)


def made(place, nm=16.0, **more):
    fields = {"place": place, "look": "good", "applied_nm": nm, "by": "I", "at": NOW}
    return JointRecord(**(fields | more))


def looked(joint, found="clean", minutes=2.5, method="bubbles", at=NOW):
    return LeakCheck(joint=joint, found=found, method=method, watched_s=minutes * 60, by="I", at=at)


def joints(*records):
    job = bindery()
    rules = rules_of(job, Practice())
    return flare.joints(WrenchEntry(), joints_of(job, rules, piping_of(job, rules)), records, rules)


def test_suspects_stand_in_the_order_of_how_likely_they_leak():
    """Not measured, made again, factory flares, the quiet coil, then the rest (common practice)."""
    records = (
        made(PLACES[0], 37.5),
        made(PLACES[1], None, how="by feel"),
        made(PLACES[2], 37.5, flare="factory"),
        made(PLACES[3]),
        made(PLACES[3]),
    )
    found = suspects(joints(*records), ["A"], (), NOW)
    assert [s.id for s in found] == [PLACES[1], PLACES[3], PLACES[2], "coil.A", PLACES[0]]
    assert [s.rank for s in found] == sorted(s.rank for s in found)
    assert "not measured" in found[0].why and "made 2 times" in found[1].why
    assert suspects(joints(), [], (), NOW)[0].why == "not recorded"
    assert next_to_look_at(found) == found[0]


@pytest.mark.parametrize(
    ("checks", "verdict"),
    [
        ((), "wait"),
        ((looked(PLACES[0]),), "holds"),
        ((looked(PLACES[0], minutes=1.0),), "wait"),
        ((looked(PLACES[0], "leak"),), "short"),
        (
            (looked(PLACES[0], "leak"), looked(PLACES[0])),
            "short",
        ),  # found is found, until a new hold
        ((looked(PLACES[0], method="detector"),), "watch"),
        ((looked(PLACES[0], method="detector"), looked(PLACES[0], method="detector")), "holds"),
        ((looked(PLACES[0], at=NOW - timedelta(hours=1)),), "wait"),  # of the hold before
        ((looked(PLACES[1]),), "wait"),
    ],
)
def test_a_joint_is_cleared_by_bubbles_watched_or_two_passes(checks, verdict):
    found = {s.id: s for s in suspects(joints(*(made(p) for p in PLACES)), [], checks, NOW)}
    assert found[PLACES[0]].call.verdict == verdict


def test_the_call_leads_from_the_fall_to_the_joint_and_back():
    job = bindery()
    rules = rules_of(job, Practice())
    falling = hold("fall", (0, 300), (3600, 280))
    records = tuple(r for r in job.records if r.kind == "joint")

    def call(*checks):
        changed = job.model_copy(update={"runs": (falling,), "records": (*records, *checks)})
        return judge(changed, Practice())["pressure-test"].call

    assert call().verdict == "short" and "Bubble Gas, at the head A" in call().do_next
    second = call(looked(PLACES[0]))
    assert "Bubble Liquid, at the head A" in second.do_next
    found = call(looked(PLACES[0]), looked(PLACES[1], "leak"))
    assert "Liquid, at the head A leaks" in found.do_next and "Tighten it once" in found.do_next
    clean = call(*(looked(p) for p in PLACES))
    assert "test the coils by themselves" in clean.do_next
    mended = job.model_copy(
        update={
            "records": records,
            "runs": (falling, hold("again", (0, 300), (3600, 300), at=NOW + timedelta(hours=3))),
        }
    )
    assert judge(mended, Practice())["pressure-test"].call.verdict == "holds"
    assert rules.outdoor is not None


def test_steps_go_up_to_the_test_and_never_over_the_sheet():
    one = rules_of(bindery(), Practice())
    plan = pressure_test.plan(one)
    steps = pressure_test.steps(plan)
    assert [s.gauge_pa for s in steps] == sorted(s.gauge_pa for s in steps)
    assert steps[-1].last and steps[-1].gauge_pa == pytest.approx(300 * PSI)
    assert all(s.gauge_pa <= plan.max_gauge_pa for s in steps)
    quick = pressure_test.plan(rules_of(bindery(), Practice(schools={"pressure": "quick"})))
    assert [s.last for s in pressure_test.steps(quick)] == [False, True]
    box = pressure_test.steps(pressure_test.plan(rules_of(foundry(), Practice())))
    assert box[-1].gauge_pa == 4.0e6 and box[-1].hold_s == 24 * 3600 and len(box) == 3


def test_every_step_is_judged_on_its_own_hold():
    rules, entry = rules_of(bindery(), Practice()), TestEntry()

    def calls(*runs):
        worked = pressure_test.worked_out(runs, entry, rules)
        return [str(s.call.verdict) for s in worked.steps]

    assert calls() == ["wait", "wait", "wait"]
    low = hold("low", (0, 75), (180, 75))
    assert calls(low) == ["holds", "wait", "wait"]
    assert calls(hold("low", (0, 75), (180, 60))) == ["short", "wait", "wait"]
    middle = hold("middle", (0, 220), (100, 220))
    assert calls(low, middle) == ["holds", "wait", "wait"]  # three of its five minutes are open
    full = hold("full", (0, 301), (3600, 301))
    assert calls(full) == ["holds", "holds", "holds"]  # passed on the way up
    assert calls(low, hold("full", (0, 301), (3600, 270))) == ["holds", "wait", "short"]


def test_a_probe_in_the_sun_is_watched_and_the_leak_rate_stands_in_the_working():
    job = letterpress()
    for probe, verdict in (("sun", "watch"), ("shaded", None)):
        changed = job.model_copy(
            update={
                "pressure_test": TestEntry(probe=probe),
                "runs": (hold("h", (0, 300), (3600, 300)),),
            }
        )
        stage = judge(changed, Practice())["pressure-test"]
        found = {c.id: c.call.verdict for c in stage.checks}
        assert found.get("probe") == verdict
        assert any(s.unit == "Pa·m³/s" for s in stage.working)
        assert any(s.step == "volume of the tubes" for s in stage.working)


def test_factory_flares_are_used_or_cut_off_by_the_school():
    used = tuple(made(p, 37.5 if ".gas." in p else 16.0, flare="factory") for p in PLACES)
    job = bindery().model_copy(update={"records": used})
    assert judge(job, Practice())["flare"].proof.verdict == "watch"
    inspect = Practice(schools={"factory_flares": "inspect"})
    assert judge(job, inspect)["flare"].proof.verdict == "holds"


@pytest.mark.parametrize(
    ("how", "mend"), [("measured", "make it again"), ("brazed", "ut it out and braze")]
)
def test_a_joint_that_was_brazed_instead_is_mended_by_brazing(how, mend):
    record = made(PLACES[0], 37.5 if how == "measured" else None, how=how)
    look = looked(PLACES[0], "leak")
    found = next(s for s in suspects(joints(record), [], (look,), NOW) if s.id == PLACES[0])
    assert mend in found.call.do_next
