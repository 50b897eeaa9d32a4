"""A log is parted where nitrogen was let in or out, and nowhere else."""

import math
import random
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.line import rules_of
from fairline.core.physics.constants import PSI_PA
from fairline.core.physics.nitrogen import expected_gauge_pa
from fairline.core.practice import Practice
from fairline.core.pressure_test import hold
from fairline.core.pressure_test import plan as hold_plan
from fairline.core.pressure_test import stage as pressure_test
from fairline.core.pressure_test.hold import TestEntry
from fairline.core.pressure_test.holds import WINDOW_S, changes, holds
from fairline.core.pressure_test.plan import Plan
from fairline.core.readings import HoldReading, HoldReadings, HoldRun
from fairline.demo.jobs import bindery
from tests.support import hold_call

BEGAN = datetime(2026, 3, 5, 8, tzinfo=UTC)
every = st.sampled_from([1.0, 5.0, 20.0, 60.0])
psig = st.floats(150, 600)


def log(gauge_psi, pipe_c, count, step_s, seed=0, scatter_k=0.2):
    """An honest digital gauge on given pressure and pipe temperature (functions of time)."""
    chance = random.Random(seed)
    return HoldReadings.of(
        HoldReading(
            instrument="gauge",
            seq=i,
            t_s=i * step_s,
            gauge_pa=round(gauge_psi(i * step_s), 1) * PSI_PA,
            pipe_c=pipe_c(i * step_s) + chance.gauss(0, scatter_k),
        )
        for i in range(count)
    )


def run_of(readings, uid="r"):
    return HoldRun.model_construct(uid=uid, kind="hold", started_at=BEGAN, readings=readings)


def a_day(t_s):
    """A pipe that follows a day: 12 K up and down, and a cloud every quarter of an hour."""
    return 18 + 12 * math.sin(t_s / 13_000) + 1.5 * math.sin(t_s / 140)


@settings(max_examples=25)
@given(start=psig, step=every, leak_share_h=st.floats(0, 20), seed=st.integers(0, 99))
def test_neither_a_sound_system_nor_a_leak_of_any_rate_is_parted(start, step, leak_share_h, seed):
    def gauge(t_s):
        left = start * math.exp(-leak_share_h * t_s / 3600)
        return expected_gauge_pa(left * PSI_PA, a_day(0), a_day(t_s)) / PSI_PA

    assert changes(log(gauge, a_day, 400, step, seed)) == ()


@settings(max_examples=25)
@given(
    start=psig,
    step=every,
    share=st.floats(0.06, 0.9),
    takes_s=st.floats(2, 250),
    let_in=st.booleans(),
    seed=st.integers(0, 99),
)
def test_what_is_let_in_or_out_begins_a_new_hold_that_stands_by_itself(
    start, step, share, takes_s, let_in, seed
):
    begins, ends = 400.0, 400.0 + takes_s
    low, high = start, start * (1 + share)
    first, last = (low, high) if let_in else (high, low)

    def gauge(t_s):
        went = min(max((t_s - begins) / takes_s, 0.0), 1.0)
        return first + (last - first) * went

    readings = log(gauge, lambda t: 20.0, int(1600 / step), step, seed, scatter_k=0.05)
    (change,) = changes(readings)
    assert change.kind == ("let in" if let_in else "let out")
    assert change.by_pa == pytest.approx((high - low) * PSI_PA, rel=0.01, abs=0.2 * PSI_PA)
    after = readings[change.after].t_s
    assert begins - WINDOW_S - step <= readings[change.before].t_s <= begins + step
    assert ends - step <= after <= ends + 3 * WINDOW_S + step
    before, then = holds([run_of(readings)])
    assert before.began is None and then.began == change
    assert before.run.readings == readings[: change.before + 1]
    assert then.run.readings == readings[change.after :]
    entry, rules = TestEntry(thermometer_uncertainty_k=0.2), rules_of(bindery(), Practice())
    for run, at in ((before.run, first), (then.run, last)):
        if 301 < at < 590:  # the test asks for 300 psig, the sheet allows 600
            assert pressure_test.answer(run, entry, rules).findings == ()  # each by itself


@settings(max_examples=25)
@given(step=every, leak_share_h=st.floats(0.05, 8), takes_s=st.floats(5, 200))
def test_a_leak_before_or_after_a_refill_is_each_holds_own(step, leak_share_h, takes_s):
    """It leaks all the time: the refill hides it in neither hold."""
    begins = 1500.0

    def gauge(t_s):
        lost = 330 * (1 - math.exp(-leak_share_h * t_s / 3600))
        went = min(max((t_s - begins) / takes_s, 0.0), 1.0)
        return 330 - lost + went * (330 * (1 - math.exp(-leak_share_h * begins / 3600)) + 120)

    readings = log(gauge, lambda t: 20.0, int(3600 / step), step, scatter_k=0.05)
    entry, rules = TestEntry(thermometer_uncertainty_k=0.2), rules_of(bindery(), Practice())
    parts = [h.run for h in holds([run_of(readings)])]
    assert len(parts) == 2
    for part in parts:
        assert pressure_test.answer(part, entry, rules).findings == ("leak",)


def test_readings_half_an_hour_apart_stay_one_hold():
    sparse = log(lambda t: 300.0 if t < 4000 else 340.0, lambda t: 20.0, 6, 1800.0)
    assert changes(sparse) == ()
    worked = pressure_test.answer(run_of(sparse), TestEntry(), rules_of(bindery(), Practice()))
    assert worked.findings == ("unexplained_rise",)


def test_a_fall_that_is_not_seen_to_stand_is_still_a_leak():
    falling = log(lambda t: 320 if t < 600 else 320 - (t - 600), lambda t: 20.0, 66, 10.0)
    assert changes(falling) == ()
    worked = pressure_test.answer(run_of(falling), TestEntry(), rules_of(bindery(), Practice()))
    assert worked.findings == ("leak",)
    stood = log(lambda t: 320 - min(max(t - 600, 0), 50), lambda t: 20.0, 120, 10.0)
    assert [c.kind for c in changes(stood)] == ["let out"]


def judged(*logs, **entry):
    job = bindery()
    runs = tuple(run_of(readings, f"r{i}") for i, readings in enumerate(logs))
    return hold_call(runs, TestEntry(**entry), rules_of(job, Practice()))


@pytest.mark.parametrize(
    ("first", "last", "usual", "told"),
    [
        (None, None, None, None),
        (None, None, "sun", "in the sun"),
        ("shaded", "shaded", "sun", None),
        ("shaded", "air", None, "in the air"),
        ("shaded", "insulated", None, "first and on the pipe"),
    ],
)
def test_the_probe_is_judged_by_the_readings_that_decide(first, last, usual, told):
    readings = list(log(lambda t: 305.0, lambda t: 20.0, 3, 1800.0, scatter_k=0))
    for i, place in ((0, first), (-1, last)):
        readings[i] = HoldReading.model_validate(readings[i].__dict__ | {"probe": place})
    probe = [c for c in judged(HoldReadings.of(readings), probe=usual).checks if c.id == "probe"]
    assert bool(probe) == (told is not None)
    if told:
        assert told in probe[0].call.because and probe[0].call.verdict == "watch"


def test_too_much_pressure_is_not_forgotten_when_it_is_let_out():
    over = log(lambda t: 700 - min(max(t - 60, 0), 390), lambda t: 20.0, 200, 30.0)
    stage = judged(over)
    assert [c.call.verdict for c in stage.checks if c.id == "over"] == ["watch"]
    assert stage.call.verdict == "watch"
    again = judged(over, log(lambda t: 305.0, lambda t: 20.0, 3, 1800.0))
    assert any(c.id == "over" for c in again.checks)
    never = judged(log(lambda t: 305.0, lambda t: 20.0, 3, 1800.0))
    assert not any(c.id == "over" for c in never.checks)


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize(("minutes", "verdict"), [(59, "wait"), (60, "holds")])
def test_a_hold_that_was_closed_before_its_time_is_not_read_on(closed, minutes, verdict):
    read = log(lambda t: 305.0, lambda t: 20.0, minutes + 1, 60.0, scatter_k=0)
    ended = BEGAN + timedelta(minutes=minutes) if closed else None
    run = run_of(read).model_copy(update={"ended_at": ended})
    call = hold_call((run,), TestEntry(), rules_of(bindery(), Practice())).call
    assert call.verdict == verdict
    if verdict == "wait":
        assert ("Begin a new hold" in call.do_next) is closed
        assert ("Hold for another" in call.do_next) is not closed


def test_the_waiting_is_filled_in_order_until_it_is_used_up():
    plan = hold_plan.plan(rules_of(bindery(), Practice()))  # an hour
    alone = hold_plan.meanwhile(plan, 0.0, 1)
    assert [m.fits for m in alone] == [True, False, False, False]
    assert hold_plan.meanwhile(plan, 1900.0, 1)[0].fits is False
    assert hold_plan.meanwhile(plan, 0.0, 3)[0].takes_s == 3 * alone[0].takes_s


def settling(warm_k, leak_psi_h):
    """A fill at 500 psi that left the gas warmer than the pipe; it cools to it in minutes."""

    def gauge_psi(t_s):
        share = (293.15 + warm_k * math.exp(-t_s / 120)) / (293.15 + warm_k)
        return 514.7 * share - 14.7 - leak_psi_h * t_s / 3600

    return run_of(log(gauge_psi, lambda _: 20.0, 75, 60.0, scatter_k=0.0))


@pytest.mark.parametrize(
    ("warm_k", "leak_psi_h", "verdict", "finding"),
    [
        (1.5, 0.0, "holds", "came_to_rest"),
        (2.7, 0.0, "holds", "came_to_rest"),  # just within a hundredth of the test pressure
        (3.0, 0.0, "short", "under_test_pressure"),
        (1.5, 4.0, "short", "leak"),
        (3.0, 4.0, "short", "leak"),  # not that it began too low
    ],
)
def test_a_hold_counts_from_where_its_gas_had_come_to_rest(warm_k, leak_psi_h, verdict, finding):
    asked = Plan(gauge_pa=500 * PSI_PA, hold_s=3600, max_gauge_pa=600 * PSI_PA, limits=())
    entry = TestEntry(gauge_resolution_pa=0.1 * PSI_PA, thermometer_uncertainty_k=0.2)
    answer = hold.judged(settling(warm_k, leak_psi_h), entry, asked)
    assert answer.call.verdict == verdict
    assert finding in answer.findings


@pytest.mark.parametrize(("leak_psi_h", "findings"), [(0.0, ()), (4.0, ("leak",))])
def test_a_hold_that_was_at_rest_from_the_start_is_not_said_to_have_come_to_rest(
    leak_psi_h, findings
):
    asked = Plan(gauge_pa=500 * PSI_PA, hold_s=3600, max_gauge_pa=600 * PSI_PA, limits=())
    entry = TestEntry(gauge_resolution_pa=0.1 * PSI_PA, thermometer_uncertainty_k=0.2)
    assert hold.judged(settling(0.0, leak_psi_h), entry, asked).findings == findings
