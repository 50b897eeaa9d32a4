"""The open-to-air clock and the drying plan, both sides of every threshold."""

from datetime import UTC, datetime, timedelta

import pytest

from fairline.core.call import Answer, Call, Verdict
from fairline.core.evacuate.drying import OpenTime, drying_plan, open_time_words, open_times
from fairline.core.evacuate.records import Exposure, PumpEvent
from fairline.core.flare.records import JointRecord

START = datetime(2026, 3, 1, 8, tzinfo=UTC)


def hour(hours):
    return START + timedelta(hours=hours)


def said(state, at_h, weather=None, run="A"):
    return Exposure(run=run, state=state, weather=weather, by="Ida", at=hour(at_h))


def joint(place, at_h):
    return JointRecord(place=place, look="good", applied_nm=16.0, by="Ida", at=hour(at_h))


@pytest.mark.parametrize(
    ("exposures", "sealed", "found"),
    [
        ([said("opened", 0), said("capped", 2)], [], ("A", 2.0, 0.0, "dry", None)),
        ([said("opened", 0, "rain"), said("sealed", 1)], [], ("A", 1.0, 0.0, "rain", None)),
        ([said("taped", 0, "humid")], [hour(48)], ("A", 0.0, 48.0, "humid", None)),
        ([said("opened", 3)], [], ("A", 0.0, 0.0, "dry", hour(3))),  # its clock runs on from there
        (
            [said("taped", 0), said("opened", 24, "humid"), said("capped", 25)],
            [],
            ("A", 1.0, 24.0, "humid", None),
        ),
        ([said("capped", 0), said("capped", 9)], [], ("A", 0.0, 0.0, "dry", None)),
    ],
)
def test_the_clock_runs_while_an_end_is_open_or_taped(exposures, sealed, found):
    (stood,) = open_times(exposures, (), sealed)
    hours = (stood.run, stood.open_s / 3600, stood.taped_s / 3600, stood.weather, stood.since)
    assert hours == found


@pytest.mark.parametrize(
    ("exposures", "rises"),
    [
        ([said("opened", 3)], [(7, 1), (27, 2), (99, 3)]),
        ([said("opened", 3, "humid")], [(4, 1), (9, 2), (27, 3)]),
        ([said("opened", 3, "rain")], [(3, 1), (3 + 1 / 6, 2), (4, 3)]),
        ([said("taped", 3)], [(27, 1), (171, 2), (507, 3)]),
        ([said("taped", 3, "humid")], [(27, 1), (75, 2), (171, 3)]),
        (
            [said("opened", 0), said("capped", 3), said("opened", 9)],
            [(10, 1), (30, 2), (102, 3)],
        ),
        # asked for already: one sweep; dry hours count on, and those in damp air of their own
        ([said("opened", 0), said("capped", 5), said("opened", 9)], [(28, 2), (100, 3)]),
        ([said("opened", 0), said("capped", 5), said("opened", 9, "humid")], [(15, 2), (33, 3)]),
        ([said("taped", 0), said("capped", 30), said("taped", 40)], [(178, 2), (514, 3)]),
        ([said("opened", 0), said("capped", 5)], []),
    ],
)
def test_what_stands_open_says_from_when_on_it_asks_for_more(exposures, rises):
    (stood,) = open_times(exposures, (), [])
    assert [(r.at, r.sweeps) for r in stood.rises] == [(hour(h), n) for h, n in rises]


def test_joints_tell_how_long_a_run_stood_open_unless_somebody_says():
    made = [joint("A.gas.end", 0), joint("A.liquid.start", 2.5), joint("B.gas.end", 1)]
    (a,) = open_times((), made, ())
    assert (a.run, a.open_s) == ("A", 2.5 * 3600)
    typed = open_times([said("opened", 0), said("capped", 1)], made, ())
    assert [(s.run, s.open_s) for s in typed] == [("A", 3600.0)]


HOUR, DAY = 3600.0, 86_400.0


@pytest.mark.parametrize(
    ("stood", "sweeps"),
    [
        (OpenTime("A", open_s=4 * HOUR), 0),
        (OpenTime("A", open_s=4 * HOUR + 1), 1),
        (OpenTime("A", open_s=HOUR, weather="humid"), 0),
        (OpenTime("A", open_s=HOUR + 1, weather="humid"), 1),
        (OpenTime("A", open_s=180.0, weather="rain"), 1),  # three minutes
        (OpenTime("A", open_s=601.0, weather="rain"), 2),
        (OpenTime("A", open_s=HOUR, weather="rain"), 2),
        (OpenTime("A", open_s=HOUR + 1, weather="rain"), 3),
        (OpenTime("A", open_s=6 * HOUR + 1, weather="humid"), 2),
        (OpenTime("A", open_s=DAY + 1, weather="humid"), 3),
        (OpenTime("A", open_s=503 * HOUR, weather="humid"), 3),
        (OpenTime("A", open_s=DAY + 1), 2),
        (OpenTime("A", open_s=4 * DAY + 1), 3),
        (OpenTime("A", taped_s=DAY), 0),
        (OpenTime("A", taped_s=DAY + 1), 1),
        (OpenTime("A", taped_s=7 * DAY), 1),
        (OpenTime("A", taped_s=7 * DAY + 1), 2),
        (OpenTime("A", taped_s=21 * DAY + 1), 3),
        (OpenTime("A", taped_s=3 * DAY + 1, weather="humid"), 2),
        (OpenTime("A", taped_s=21 * DAY, weather="humid"), 3),  # three weeks in a humid climate
        (OpenTime("A", taped_s=12 * HOUR + 1, weather="rain"), 1),
    ],
)
def test_what_the_time_in_the_open_asks_for(stood, sweeps):
    plan = drying_plan([OpenTime("B"), stood], None, None, (), 600.0)
    found = [s for s in plan.steps if s.what == "sweep"] if plan else []
    assert len(found) == sweeps
    if sweeps == 1:
        assert plan.left_s == 5 * 60 + (15 * 60 + 600) + 600
        assert "Run A stood" in plan.reason and "Run A stood" in open_time_words([stood])


def test_rain_counts_for_as_long_as_it_rained_and_is_not_forgotten_in_the_dry():
    """Three hours open in the dry and three minutes in rain; the rain came first."""
    (stood,) = open_times(
        [said("opened", 0, "rain"), said("opened", 0.05, "dry"), said("capped", 3)], (), []
    )
    assert stood.weather == "rain"
    plan = drying_plan([stood], None, None, (), None)
    assert sum(s.what == "sweep" for s in plan.steps) == 1
    (longer,) = open_times(
        [said("opened", 0, "rain"), said("opened", 1.1, "dry"), said("capped", 3)], (), []
    )
    plan = drying_plan([longer], None, None, (), None)
    assert sum(s.what == "sweep" for s in plan.steps) == 3


def test_every_run_is_told_with_its_own_time():
    words = open_time_words(
        [OpenTime("A", open_s=2 * HOUR, weather="humid"), OpenTime("B", taped_s=21 * DAY)]
    )
    assert words.startswith("Run B stood taped for 504 h")
    assert "Run A stood open for 2 h, in damp air" in words and "for less" not in words
    many = [OpenTime(zone, open_s=HOUR) for zone in "ABCD"]
    assert "other run" not in open_time_words(many[:3]) and "And 1 other run" in open_time_words(
        many
    )


def decayed(shape, verdict, end_pa=2000.0, plateau_pa=2300.0):
    """Only what the plan asks of an answer."""

    class Shown:
        pass

    result = Shown()
    result.shape, result.end_pa, result.plateau_pa = shape, end_pa, plateau_pa
    return Answer.model_construct(call=Call(verdict=verdict, because=""), result=result)


@pytest.mark.parametrize(
    ("shape", "verdict", "planned"),
    [
        ("moisture", Verdict.SHORT, True),
        ("ice", Verdict.WATCH, True),
        ("leak_and_moisture", Verdict.SHORT, True),
        ("leak", Verdict.SHORT, False),
        ("moisture", Verdict.HOLDS, False),
    ],
)
def test_water_in_a_decay_raises_the_plan_and_a_hold_that_holds_ends_it(shape, verdict, planned):
    plan = drying_plan((), decayed(shape, verdict), START, (), None)
    assert (plan is not None) is planned
    soaked = [OpenTime("A", open_s=9.0, weather="rain")]
    assert drying_plan(soaked, decayed("steady", Verdict.HOLDS), START, (), None) is None


def test_a_slow_rise_far_below_where_water_boils_is_no_water():
    """Below the triple point of 611.657 Pa (IAPWS) a levelling part may be a pocket's gas."""
    for end_pa, planned in ((611.0, False), (612.0, True)):
        slow = decayed("leak_and_moisture", Verdict.SHORT, end_pa)
        assert (drying_plan((), slow, START, (), None) is not None) is planned


@pytest.mark.parametrize(
    ("plateau_pa", "words"), [(611.0, "below where free water boils"), (612.0, "is in the system")]
)
def test_a_level_below_where_water_boils_may_be_water(plateau_pa, words):
    level = decayed("moisture", Verdict.SHORT, plateau_pa=plateau_pa)
    assert words in drying_plan((), level, START, (), None).reason


def test_steps_are_ticked_in_order_by_what_was_done_since_the_decay():
    def event(what, at_h):
        return PumpEvent(what=what, by="Ida", at=hour(at_h))

    before = [event("oil", -1), event("sweep", -2), event("sweep", -1), event("warmed", -1)]
    events = [*before, event("oil", 1), event("sweep", 2), event("sweep", 3)]
    plan = drying_plan((), decayed("moisture", Verdict.SHORT), START, events, 600.0)
    assert [s.done for s in plan.steps] == [True, False, True, True, False, False]
    assert "(1500 microns)" in plan.steps[2].words
    assert plan.following.what == "warmed" and plan.oil_changes == 2
