"""The valves: every order step by step, what a step out of order risks, what went wrong, looks."""

from datetime import UTC, datetime, timedelta
from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.charge.entry import Release, ValveOrder, ValvesShut
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.charge.valve_order import (
    OPENS,
    ORDERS,
    STEPS,
    ValveSteps,
    openings,
    progress_of,
    steps_check,
    too_early,
)
from fairline.core.contents.state import Contents
from fairline.core.physics.tubing import table
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.schools import TOPICS
from tests.core.test_proofs import finished
from tests.job_site import BY

NOW = datetime(2026, 11, 2, 9, tzinfo=UTC)


def done(*names, order="gas_first", ports=(), at=NOW, **more):
    return [
        ValveSteps(
            order=order, ports=ports, steps=(n,), by="I", at=at + timedelta(minutes=k), **more
        )
        for k, n in enumerate(names, 1)
    ]


def one(records, order="gas_first", **more):
    return progress_of(records, (), order, **more)[""]


def test_every_order_is_a_school_and_every_step_is_described():
    schools = {s.name for s in TOPICS["valve_order"].schools}
    assert {*ORDERS} == {*get_args(ValveOrder)} == schools | {"kit"}
    assert {s for order in ORDERS.values() for s in order} | {"isolation-open"} == {*STEPS}
    assert table("valve_orders")["source"] == "common practice, no source"


@pytest.mark.parametrize("order", ORDERS)
def test_an_order_done_as_listed_is_open_to_the_ring_with_caps_and_risks_nothing(order):
    progress = one(done(*ORDERS[order], order=order), order)
    assert not progress.left and not progress.hose
    assert progress.release.full_open and progress.release.caps_on
    assert steps_check({"": progress}, Contents()) is None
    assert [progress.valve(side) for side in ("gas", "liquid")] == ["open", "open"]


@pytest.mark.parametrize("order", ORDERS)
def test_until_the_last_step_it_is_under_way_and_the_next_one_is_named(order):
    names = ORDERS[order]
    for count in range(1, len(names)):
        progress = one(done(*names[:count], order=order), order)
        check = steps_check({"": progress}, Contents())
        assert check.call.verdict == "wait" and STEPS[names[count]].words in check.call.do_next
        opened = bool(OPENS & {*names[:count]})
        assert (progress.release is not None) is opened
        if opened:
            assert not (progress.release.full_open and progress.release.caps_on)


@given(data=st.data())
def test_whatever_the_sequence_open_means_that_both_were_opened_and_caps_that_they_are_on(data):
    order = data.draw(st.sampled_from([*ORDERS]))
    names = data.draw(st.permutations(ORDERS[order]))
    count = data.draw(st.integers(0, len(names)))
    progress = one(done(*names[:count], order=order), order)
    did = {*names[:count]}
    release = progress.release
    assert (release is not None) is bool(did & OPENS)
    if release is not None:
        gas, liquid = (did & {f"{s}-open", f"{s}-hiss"} for s in ("gas", "liquid"))
        assert release.full_open is bool(gas and liquid)
        assert release.caps_on is ("caps" in did)
    in_order = list(names[:count]) == list(ORDERS[order][:count])
    assert any(d.before for d in progress.done) is not in_order


def test_a_step_too_early_is_told_with_what_it_risks():
    progress = one(done("tool-shut", order="core_tool"), "core_tool")
    assert too_early(progress, ["hose-off"]) == []
    fresh = one([], "core_tool")
    assert too_early(fresh, ["hose-off"]) == [STEPS["tool-shut"].skipped]
    hasty = one(done("hose-off", order="core_tool"), "core_tool")
    check = steps_check({"": hasty}, Contents())
    assert check.call.verdict == "short" and "air comes in" in check.call.because
    assert "pull again" in check.call.do_next
    light = one(done("gas-open", "liquid-open"), "gas_first")
    told = steps_check({"": light}, Contents()).call
    assert told.verdict == "wait"  # what is next comes before what is only told


@pytest.mark.parametrize(
    ("order", "step", "verdict"),
    [
        ("gas_first", "gauge-rises", "stop"),
        ("core_tool", "core-proved", "short"),
        ("core_in_vacuum", "port-dry", "short"),
        ("kit", "gas-hiss", "stop"),
    ],
)
def test_what_did_not_go_as_it_should_counts_until_it_was_done_again(order, step, verdict):
    names = ORDERS[order][: ORDERS[order].index(step)]
    wrong = done(step, order=order, at=NOW + timedelta(hours=1), went_wrong=True)
    records = [*done(*names, order=order), *wrong]
    check = steps_check({"": one(records, order)}, Contents())
    assert check.call.verdict == verdict and check.call.because == STEPS[step].wrong
    again = [*records, *done(step, order=order, at=NOW + timedelta(hours=2))]
    assert steps_check({"": one(again, order)}, Contents()).call.verdict == "wait"
    with pytest.raises(ValueError, match="nothing is asked"):
        done("hose-off", went_wrong=True)


def test_every_port_is_opened_by_itself_and_shutting_begins_anew():
    ports = ("A", "B", "C")
    records = [
        *done(*ORDERS["gas_first"], ports=("A",)),
        *done("gas-crack", ports=("B",), at=NOW + timedelta(hours=1)),
    ]
    progress = progress_of(records, ports, "gas_first", isolated=("C",))
    assert [p.release is not None for p in progress.values()] == [True, True, False]
    assert [r.ports for r in openings(progress)] == [("A",), ("B",)]
    assert [r.full_open for r in openings(progress)] == [True, False]
    assert "isolation-open" in progress["C"].left and "isolation-open" not in progress["A"].listed
    shut = ValvesShut(ports=("A",), by="I", at=NOW + timedelta(hours=2))
    progress = progress_of([*records, shut], ports, "gas_first")
    assert progress["A"].release is None and progress["A"].left == ORDERS["gas_first"]
    assert [r.ports for r in openings(progress)] == [("A",), ("B",)]  # as it was opened last
    assert progress["A"].first_at == NOW + timedelta(minutes=1)


def test_a_valve_that_is_shut_again_is_shut():
    names = ORDERS["liquid_cracked"]
    progress = one(done(*names[:3], order="liquid_cracked"), "liquid_cracked")
    assert progress.valve("liquid") == "shut" and progress.hose
    assert (
        one(done(*names[:2], order="liquid_cracked"), "liquid_cracked").valve("liquid") == "cracked"
    )


def test_what_was_recorded_in_one_goes_on_step_by_step():
    whole = Release(order="gas_first", full_open=True, caps_on=False, by="I", at=NOW)
    progress = one([whole, *done("caps")])
    assert progress.release.caps_on and not progress.left


# --- on a job: the drawing of the contents, the gate of power, the look afterwards ---------------


def steps_on(site, *names, ports=()):
    for name in names:
        site.record(
            ValveSteps(order="gas_first", ports=ports, steps=(name,), by=BY, at=site.later())
        )


def test_refrigerant_is_in_the_lines_from_the_first_crack_on():
    site = finished("branch box", released=False)
    site.weigh()
    assert "refrigerant" in site.contents.words
    steps_on(site, "gas-crack")
    assert all(p.valves for p in site.contents.parts().values())
    charged = site.worked.of(ChargeStageResult)
    assert any(x.name == "valves" for x in charged.lacks)
    steps_on(site, *ORDERS["gas_first"][1:-1])
    assert [x.name for x in site.worked.of(ChargeStageResult).lacks] == ["wire", "caps"] or any(
        x.name == "caps" for x in site.worked.of(ChargeStageResult).lacks
    )
    steps_on(site, "caps")
    assert not any(x.name in ("valves", "caps") for x in site.worked.of(ChargeStageResult).lacks)
    assert site.checks("charge")["release"].verdict == "holds"


def test_one_port_that_is_left_shut_or_half_open_keeps_the_stage_and_the_power():
    site = finished("home runs", released=False)
    site.weigh()
    ports = site.contents.circuits
    for port in ports[:-1]:
        steps_on(site, *ORDERS["gas_first"], ports=(port,))
    assert ports[-1] in site.checks("charge")["release"].because
    steps_on(site, *ORDERS["gas_first"][:3], ports=ports[-1:])
    call = site.checks("charge")["valve_steps"]
    assert call.verdict == "wait" and f"Port {ports[-1]}" in call.because
    assert site.verdicts()["charge"] == "wait"  # half open on the way is no fault yet
    assert "being opened" in site.checks("charge")["release"].because
    assert any(x.name == "valves" for x in site.worked.of(ChargeStageResult).lacks)
    steps_on(site, *ORDERS["gas_first"][3:], ports=ports[-1:])
    site.look()
    assert site.verdicts()["charge"] == "holds"


def test_every_joint_is_looked_at_again_under_refrigerant_and_a_leak_counts():
    site = finished("home runs", released=False)
    site.weigh()
    site.open()
    suspects = site.worked.of(ChargeStageResult).suspects
    assert site.checks("charge")["looked"].verdict == "wait"
    assert not any("cap" in s.id for s in suspects)  # behind a shut valve nothing is to be found
    for s in suspects[:-1]:
        seen = {"found": "clean", "watched_s": 120.0, "by": BY}
        site.record(LeakCheck(joint=s.id, **seen, at=site.later()))
    assert site.checks("charge")["looked"].verdict == "wait"
    brief = {"found": "clean", "watched_s": 119.0, "by": BY}
    site.record(LeakCheck(joint=suspects[-1].id, **brief, at=site.later()))
    assert site.checks("charge")["looked"].verdict == "wait"
    site.record(LeakCheck(joint=suspects[-1].id, **(brief | {"watched_s": 120.0}), at=site.later()))
    assert site.checks("charge")["looked"].verdict == "holds"
    site.record(LeakCheck(joint=suspects[0].id, found="leak", by=BY, at=site.later()))
    looked = site.checks("charge")["looked"]
    assert looked.verdict == "short" and "never pump down" in looked.do_next
