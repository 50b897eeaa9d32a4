"""Zones as practitioners prove them: what they read, as typed; calls, course, water, power.

The readings are common practice, no source: what installers said that they saw.
"""

from datetime import UTC, datetime, timedelta

import pytest

from fairline.core.commission import stage as commission
from fairline.core.commission.calls import answered, answering, standing_calls
from fairline.core.commission.causes import CAUSES
from fairline.core.commission.lamp_codes import CodeSeen, code_checks
from fairline.core.commission.power_drawn import slipped, watts_check
from fairline.core.commission.records import Called, Running, WaterTest, WholeSystem
from fairline.core.commission.start_up import (
    ITEMS,
    CommissionEntry,
    items_of,
    put_off,
    start_checks,
    starts_within,
)
from fairline.core.commission.water import water_check
from fairline.core.commission.zone import (
    COMMON_SPLIT_K,
    F_K,
    Worked,
    mode_check,
    room_checks,
    trend,
)
from fairline.core.practice import Rules
from fairline.core.sheet.part import LampCode
from fairline.core.wire.records import Landing
from tests.core.test_proofs import finished
from tests.core.test_stages import NOW, OSMUND, running, verdicts

DAY = datetime(2026, 11, 2, 9, tzinfo=UTC)


def f(degrees):
    return (degrees - 32) * 5 / 9


def ran(mode="cool", minutes=0, **more):
    return Running(mode=mode, by="I", at=NOW + timedelta(minutes=minutes), **more)


def judged(*records, rules=OSMUND):
    return verdicts(commission.judge(records, rules, ["A"]))


@pytest.mark.parametrize(
    ("mode", "airs"),
    [
        ("cool", {"return_c": f(82), "supply_c": f(53)}),
        ("cool", {"return_c": f(82), "supply_c": f(54)}),
        ("heat", {"return_c": f(67), "supply_c": f(86), "outdoor_c": f(42)}),
        ("cool", {"return_c": f(78), "supply_c": f(56)}),
    ],
)
def test_what_one_thermometer_shows_is_taken_in_and_not_called_wrong(mode, airs):
    found = judged(ran(mode, **airs))
    assert found[mode] in ("holds", "watch") and "current_" + mode not in found


@pytest.mark.parametrize("degrees", [1, 3, 6])
def test_a_few_degrees_of_split_never_cool(degrees):
    for fan in ("", "high", "quiet"):
        air = {"return_c": f(79), "supply_c": f(79 - degrees), "fan": fan}
        assert judged(ran(**air))["cool"] == "short"
        assert judged(ran(**air), rules=Rules())["cool"] == "short"


def test_a_supply_alone_or_what_was_only_seen_goes_on_and_proves_nothing():
    for said in ({"supply_c": f(56)}, {"seen": ("cold", "quiet")}):
        stage = commission.judge((ran(**said),), OSMUND, ["A"])
        check = next(c for c in stage.checks if c.id == "cool")
        assert check.call.verdict == "watch" and "seen only" in check.call.because
    # what both airs proved stays, whatever is only seen after it
    whole = ran(return_c=f(79), supply_c=f(57))
    later = ran(seen=("warm",), minutes=5)
    assert commission.latest((whole, later), "cool") is whole
    with pytest.raises(ValueError, match="tap what you saw"):
        ran()
    with pytest.raises(ValueError, match="type 82 F"):
        ran(return_c=82.0, supply_c=12.0)
    with pytest.raises(ValueError, match="dry-bulb"):
        ran(return_c=25.0)


@pytest.mark.parametrize(
    ("mode", "split", "verdict"),
    [
        ("cool", 12.9, "short"),
        ("cool", 13.0, "watch"),
        ("heat", 14.9, "short"),
        ("heat", 15.0, "watch"),
        ("cool", 0.5, "short"),
    ],
)
def test_without_a_sheet_it_is_held_against_what_is_common_and_never_more_than_a_watch(
    mode, split, verdict
):
    sign = 1 if mode == "cool" else -1
    record = ran(mode, return_c=25.0, supply_c=25.0 - sign * split * F_K)
    assert mode_check(mode, record, Worked()).call.verdict == verdict
    assert COMMON_SPLIT_K["cool"][0] == pytest.approx(13 * 5 / 9)


# --- the course of the supply ------------------------------------------------------------------


@pytest.mark.parametrize(
    ("rows", "steady"),
    [
        ([(0, 58), (4, 56), (8, 54)], False),
        ([(0, 54.0), (1.5, 54.4), (3, 54.9)], True),  # half a kelvin is 0.9 °F
        ([(0, 54.0), (1.5, 54.4), (3, 54.91)], False),
        ([(0, 54), (1, 54), (2.9, 54)], False),
        ([(0, 54), (3, 54)], False),
        ([(0, 70), (20, 54), (22, 54), (24, 54)], True),
    ],
)
def test_three_readings_in_three_minutes_within_half_a_kelvin_are_steady(rows, steady):
    found = trend([ran(minutes=m, supply_c=f(air)) for m, air in rows])
    assert found.steady is steady and len(found.points) == len(rows)
    assert trend([ran(supply_c=f(54))]) is None
    apart = [ran(supply_c=12.0), ran(supply_c=12.0, minutes=41)]
    assert trend(apart) is None  # no one course


# --- calls ---------------------------------------------------------------------------------------


def call(zone, *ports, minutes=0):
    return Called(zone=zone, ports=ports, by="I", at=DAY + timedelta(minutes=minutes))


def test_damaged_observations_are_never_proof():
    ports = {z: z for z in "ABC"}
    for calls, verdict in (
        ([], "wait"),
        ([call("A", "A")], "wait"),
        ([call("A"), call("B", "B"), call("C", "C")], "unknown"),
        ([call("A", "A", "B"), call("B", "B"), call("C", "C")], "unknown"),
        ([call("A", "B"), call("B", "B"), call("C", "C")], "unknown"),
    ):
        assert answered({c.zone: c for c in calls}, ports).call.verdict == verdict
    assert answered({}, {"A": "A"}) is None  # a single zone has nobody to be taken for


def test_a_call_counts_no_more_once_its_cable_was_landed_anew():
    made = {"side": "start", "block": "b", "terminal": "1", "colour": "black"}
    calls = [call("A", "B"), call("A", "A", minutes=20), call("B", "B")]
    assert standing_calls(calls, (), "AB")["A"].ports == ("A",)
    moved = Landing(cable="A", **made, by="I", at=DAY + timedelta(minutes=30))
    assert set(standing_calls(calls, (moved,), "AB")) == {"B"}


def test_until_every_zone_was_called_alone_no_zone_is_proven():
    site = finished("home runs")
    assert site.checks("commission")["called"].verdict == "wait"
    ports = site.worked.of(commission.CommissionStageResult).ports
    first, second, third = ports
    for zone, port in ((first, second), (second, first), (third, third)):
        site.record(Called(zone=zone, ports=(ports[port],), by="I", at=site.later()))
    crossed = site.checks("commission")["called"]
    assert crossed.verdict == "short" and "exchange the cables" in crossed.do_next
    for zone in (first, second):
        site.record(Called(zone=zone, ports=(ports[zone],), by="I", at=site.later()))
    assert site.checks("commission")["called"].verdict == "holds"


# --- current, watts, all zones on -----------------------------------------------------------------


def test_watts_typed_as_amperes_are_offered_as_watts():
    assert "type 1700 under Watts" in slipped(1700.0) and "100.1" in slipped(100.1)
    assert slipped(100.0) == slipped(None) == ""


@pytest.mark.parametrize(("watts", "verdict"), [(1700, "holds"), (2185, "holds"), (2186, "short")])
def test_watts_against_what_mca_carries(watts, verdict):
    unit = OSMUND.outdoor.model_copy(update={"mca_a": 9.5, "voltage_v": 230.0})
    rules = Rules(outdoor=unit, head=OSMUND.head)
    check = watts_check("heat", ran("heat", return_c=20.0, supply_c=35.0, watts=watts), rules)
    assert check.call.verdict == verdict
    assert watts_check("heat", ran("heat", supply_c=35.0), rules) is None


def test_four_heads_at_full_load_are_looked_at_and_compared():
    unit = OSMUND.outdoor.model_copy(update={"mca_a": 22.0, "rated_current_a": 18.0})
    rules = Rules(outdoor=unit, head=OSMUND.head)
    humid = WholeSystem(mode="cool", current_a=15.2, outdoor_c=f(90), by="I", at=NOW)
    said = commission.Said(whole=(humid,))
    found = verdicts(commission.judged(said, rules, ["A"], True, {}, ()))
    assert found["whole_current_cool"] == "holds" and "whole" not in found
    shaking = humid.model_copy(update={"quiet": "no"})
    found = verdicts(
        commission.judged(commission.Said(whole=(shaking,)), rules, ["A"], True, {}, ())
    )
    assert found["whole"] == "short"


# --- water, start-up, a mode on another day, causes ---------------


@pytest.mark.parametrize(
    ("said", "verdict"),
    [
        ({"runs": "runs"}, "holds"),
        ({"runs": "runs", "after_stop": "dry"}, "holds"),
        ({"runs": "runs", "after_stop": "back"}, "short"),
        ({"runs": "stands"}, "short"),
        ({"runs": "runs", "pump": "no"}, "short"),
    ],
)
def test_water_runs_and_does_not_come_back(said, verdict):
    test = WaterTest(**said, by="I", at=NOW)
    assert water_check([test], None).call.verdict == verdict
    assert water_check([], None).call.verdict == "wait"
    assert water_check([], running(drain="runs")).call.verdict == "holds"


def test_start_up_holds_once_all_was_looked_at_and_it_is_left_as_the_owner_knows_it():
    all_so = dict.fromkeys(ITEMS, "yes")
    for entry, verdict in (
        (CommissionEntry(), "wait"),
        (CommissionEntry(**all_so), "wait"),
        (CommissionEntry(**all_so, left_mode="cool"), "holds"),
        (CommissionEntry(**all_so | {"filters": "no"}, left_mode="cool"), "short"),
    ):
        (check,) = start_checks(entry, ITEMS)
        assert check.call.verdict == verdict


def test_a_mode_that_the_weather_forbids_is_put_on_a_day():
    with pytest.raises(ValueError, match="on which day"):
        CommissionEntry(later_mode="heat")
    entry = CommissionEntry(later_mode="heat", later_on="2027-01-15")
    assert put_off(entry, "cool") is None
    assert "2027-01-15" in put_off(entry, "heat").because
    said = commission.Said(entry=entry)
    found = verdicts(commission.judged(said, OSMUND, ["A"], True, {}, ()))
    assert (found["cool"], found["heat"]) == ("wait", "watch")


def test_a_weak_zone_has_its_causes_in_order_and_what_is_proven_is_left_out():
    assert [c.name for c in CAUSES][:3] == ["filter", "speed", "probe"]
    assert all(c.minutes > 0 and c.decides for c in CAUSES)
    weak = commission.judge((ran(return_c=26.0, supply_c=24.0),), OSMUND, ["A"])
    named = [c.name for c in commission.causes_of(weak, "")]
    assert named[0] == "filter" and "crossed" in named and named[-1] == "blocked"
    sound = commission.judge((ran(return_c=26.0, supply_c=14.0),), OSMUND, ["A"])
    assert commission.causes_of(sound, "") == []


@pytest.mark.parametrize(
    ("tubes", "warm", "answers"),
    [
        ({"A": 9.0, "B": 24.0, "C": 23.0}, False, ("A",)),
        ({"A": 18.01, "B": 24.0}, False, ()),
        ({"A": 18.0, "B": 24.0}, False, ("A",)),
        ({"A": 9.0, "B": 10.0, "C": 23.0}, False, ("A", "B")),
        ({"A": 21.0, "B": 40.0}, True, ("B",)),
        ({"A": 9.0}, False, ()),
    ],
)
def test_clamp_thermometers_say_which_tubes_answered(tubes, warm, answers):
    assert answering(tubes, warm) == answers


def test_a_cassettes_panel_is_looked_at_too():
    so = dict.fromkeys(ITEMS, "yes")
    (check,) = start_checks(CommissionEntry(**so, left_mode="cool"), items_of(True))
    assert check.call.verdict == "wait" and "Cassette panel" in check.call.do_next
    (check,) = start_checks(CommissionEntry(**so, panel="yes", left_mode="cool"), items_of(True))
    assert check.call.verdict == "holds"


@pytest.mark.parametrize(
    ("mode", "said", "told"),
    [
        ("cool", {"return_c": 26.0, "set_c": 24.0}, set()),
        ("cool", {"return_c": 26.0, "set_c": 24.1}, {"set_cool"}),
        ("heat", {"return_c": 20.0, "set_c": 22.0}, set()),
        ("heat", {"return_c": 20.0, "set_c": 21.9}, {"set_heat"}),
        ("cool", {"return_c": 24.0, "display_c": 21.0}, set()),
        ("cool", {"return_c": 24.0, "display_c": 20.9}, {"display_cool"}),
        ("cool", {"set_c": 16.0, "display_c": 30.0}, set()),
    ],
)
def test_what_is_asked_of_a_head_and_what_it_feels(mode, said, told):
    found = room_checks(mode, ran(mode, supply_c=14.0 if mode == "cool" else 35.0, **said))
    assert {c.id for c in found} == told and all(c.call.verdict == "watch" for c in found)


def test_what_the_sheets_list_and_what_was_agreed_is_looked_at_by_name():
    so = dict.fromkeys(ITEMS, "yes") | {"left_mode": "cool"}
    items = items_of(False, ["economy", "dry"], ["A: no shelf below, with the owner"])
    (check,) = start_checks(CommissionEntry(**so | {"clear": None}), items)
    assert check.call.do_next == "As agreed: A: no shelf below, with the owner: look."
    (check,) = start_checks(CommissionEntry(**so | {"modes_tried": "left"}), items)
    assert check.call.verdict == "wait" and "which" in check.call.because
    entry = CommissionEntry(**so | {"modes_tried": "left", "modes_left": "economy"})
    assert start_checks(entry, items)[0].call.verdict == "holds"


def test_the_sheet_says_how_long_it_takes_to_start_by_itself():
    assert starts_within(Rules())[0] == 300.0
    unit = OSMUND.outdoor.model_copy(update={"start_up_s": 180.0})
    assert starts_within(OSMUND.model_copy(update={"outdoor": unit})) == (180.0, unit.name)


def code(shown, minutes=0, unit="outdoor", gone=False):
    return CodeSeen(unit=unit, code=shown, gone=gone, by="I", at=NOW + timedelta(minutes=minutes))


def test_a_code_is_told_by_its_sheet_until_it_is_gone():
    row = LampCode(code="E6", means="no signal", do_next="Look at the cable.", page="p. 42")
    unit = OSMUND.outdoor.model_copy(update={"lamp_codes": (row,)})
    rules = OSMUND.model_copy(update={"outdoor": unit})
    (check,) = code_checks([code("e6")], rules)
    assert check.call.verdict == "short" and "no signal (p. 42)" in check.call.because
    assert check.call.do_next == "Look at the cable. Then record that the code is gone."
    assert code_checks([code("E6"), code("e6", 1, gone=True)], rules) == []
    assert code_checks([code("E6", 1), code("E6", gone=True)], rules) != []
    (strange,) = code_checks([code("E6", unit="A")], rules)
    assert strange.call.verdict == "unknown"


@pytest.mark.parametrize(
    ("watts", "verdict"),
    [
        (99.0, "wait"),  # beside a capacity
        (101.0, "watch"),
        (399.0, "watch"),  # two fifths of what half the capacity asks for
        (401.0, "holds"),
        (1599.0, "holds"),
        (1601.0, "watch"),
        (2300.0, "watch"),
    ],
)
def test_watts_stand_beside_the_share_of_capacity_that_was_measured(watts, verdict):
    unit = OSMUND.outdoor.model_copy(
        update={"rated_input_w": 2000.0, "mca_a": 10.0, "voltage_v": 230.0}
    )
    rules = OSMUND.model_copy(update={"outdoor": unit})
    record = ran(watts=watts, supply_c=14.0)
    assert watts_check("cool", record, rules, 2500.0, 5000.0).call.verdict == verdict
    assert watts_check("cool", record, rules).call.verdict == "holds"  # no capacity: nothing said
    assert watts_check("heat", record, rules, 2500.0, 5000.0).call.verdict == "holds"
