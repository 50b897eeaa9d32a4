"""Room size against charge: IEC 60335-2-40's relation, ISO 817's limits (quoted from memory)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.calc.room_charge_limit import (
    RoomChargeLimitRequest,
    max_charge_kg,
    min_area_m2,
    room_charge_limit,
)
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.survey.proposal import Wanted, sheet_most_kg
from fairline.core.survey.smallest_room import room_check
from fairline.demo.sheets import OSMUND_26, PELLOW_90


def ask(charge, *rooms, refrigerant="R-32"):
    return room_charge_limit(
        RoomChargeLimitRequest.model_validate(
            {"refrigerant": refrigerant, "charge_kg": charge, "rooms": list(rooms)}
        )
    )


def room(area, mounting="wall", name="a"):
    return {"id": name, "area_m2": area, "mounting": mounting}


def test_the_published_relation():
    result = ask(2.0, room(10.0)).result
    assert result.no_limit_below_kg == pytest.approx(1.842)
    assert result.rooms[0].min_area_m2 == pytest.approx(3.78, abs=0.005)
    assert result.rooms[0].max_kg == pytest.approx(2.5 * 0.307**1.25 * 1.8 * 10**0.5)
    heights = [
        ask(2.0, room(10.0, m)).result.rooms[0].max_kg
        for m in ("floor", "window", "wall", "ceiling")
    ]
    worked = {step.step.split(":")[0]: step.value for step in ask(2.0, room(10.0)).working}
    assert worked["a"] == result.rooms[0].max_kg
    assert [h / heights[0] for h in heights] == pytest.approx([1, 1 / 0.6, 3, 2.2 / 0.6])
    assert ask(1.0, room(1.0), refrigerant="R-454B").result.no_limit_below_kg == pytest.approx(
        1.776
    )


@pytest.mark.parametrize(
    ("charge", "area", "verdict"),
    [
        *((1.842, 0.5, "holds"), (1.8420001, 0.5, "stop"), (1.85, 0.5, "stop")),
        # 2.0 kg: 3.783 m² is its least floor, 4.670 m² the floor of which it is nine tenths
        *((2.0, 3.77, "stop"), (2.0, 3.79, "watch"), (2.0, 4.66, "watch"), (2.0, 4.68, "holds")),
    ],
)
def test_calls(charge, area, verdict):
    answer = ask(charge, room(area))
    assert answer.call.verdict == verdict
    assert answer.findings == (("charge_over_room_limit",) if verdict == "stop" else ())
    if verdict == "stop":  # what it would take instead is named
        floor = both(answer.result.rooms[0].min_area_m2, "area")
        assert f"or a floor of at least {floor}" in answer.call.because


def test_the_smallest_room_decides_and_what_does_not_burn_has_no_limit():
    answer = ask(3.0, room(30.0, name="hall"), room(4.0, name="closet"))
    assert [r.ok for r in answer.result.rooms] == [True, False]
    assert "closet" in answer.call.because


@pytest.mark.parametrize(
    ("kg", "height", "verdict"),
    [
        # R-410A takes the air: 0.42 kg/m³ (ASHRAE 34 RCL, from memory); 10 m² of 2.4 m: 10.08 kg
        (9.07, None, "holds"),
        (9.08, None, "watch"),
        (10.08, None, "watch"),
        (10.1, None, "stop"),
        (10.1, 2.5, "watch"),
        (9.44, 2.5, "holds"),
        (10.51, 2.5, "stop"),
    ],
)
def test_what_does_not_burn_displaces_air(kg, height, verdict):
    answer = ask(kg, room(10.0) | ({"height_m": height} if height else {}), refrigerant="R-410A")
    assert answer.call.verdict == verdict
    assert answer.result.rooms[0].ok is (verdict != "stop")
    assert answer.result.rooms[0].max_kg == pytest.approx(0.42 * 10 * (height or 2.4))
    assert answer.governed_by[0].displaced[0].value == 0.44  # EN 378-1, from memory


def test_exactly_the_least_charge_is_not_over_it_by_a_rounding():
    """6 · 0.307 is 1.8419999… in a machine: 1.842 kg is no more than that."""
    for refrigerant, kg in (("R-32", 6 * 0.307), ("R-32", 1.842), ("R-454B", 1.776)):
        assert ask(kg, room(0.5), refrigerant=refrigerant).result.rooms[0].ok
    most = max_charge_kg(0.307, 1.8, 10.0)
    assert ask(most * (1 + 1e-10), room(10.0)).call.verdict == "watch"
    assert ask(most * (1 + 1e-8), room(10.0)).call.verdict == "stop"


@pytest.mark.parametrize(  # p(600 m)/p(z) of the standard atmosphere, IEC 60335-2-40 from memory
    ("altitude", "factor"),
    [(600.0, 1.0), (601.0, 1.0), (1000.0, 1.05), (1600.0, 1.13), (2500.0, 1.26)],
)
def test_in_thin_air_the_most_charge_falls(altitude, factor):
    low, high = (ask_at(z, 2.5, room(9.0)).result.rooms[0].max_kg for z in (0.0, altitude))
    assert low / high == pytest.approx(factor, abs=0.005)
    inverse = ask_at(altitude, high, room(9.0)).result.rooms[0].min_area_m2
    assert inverse == pytest.approx(9.0)
    told = [step.step for step in ask_at(altitude, 2.5, room(9.0)).working]
    assert any("thin air" in step for step in told) is (altitude > 600)
    worked = ask_at(altitude, 2.5, room(9.0)).working[-1]
    assert ("√9 / 1" in worked.expression) is (altitude > 600)


def ask_at(altitude, charge, *rooms, refrigerant="R-32"):
    asked = {"refrigerant": refrigerant, "charge_kg": charge, "rooms": list(rooms)}
    return room_charge_limit(
        RoomChargeLimitRequest.model_validate(asked | {"altitude_m": altitude})
    )


@pytest.mark.parametrize(  # 10 m² of 2.4 m: 10.08 kg up to 1 000 m, 8.064 kg up to 1 500 m
    ("altitude", "kg", "verdict"),
    [
        *((1000.0, 9.0, "holds"), (1001.0, 9.0, "stop"), (1001.0, 7.2, "holds")),
        *((1500.0, 7.2, "holds"), (1501.0, 7.2, "unknown"), (1501.0, 8.1, "stop")),
    ],
)
def test_what_displaces_air_may_be_less_in_thin_air_and_above_1500_m_nobody_says(
    altitude, kg, verdict
):
    rooms = (room(9.9, name="large"), room(10.0 / 2, name="small"))
    answer = ask_at(altitude, kg, room(10.0), refrigerant="R-410A")
    assert answer.call.verdict == verdict
    if verdict == "stop":
        assert "from small" in ask_at(altitude, kg, *rooms, refrigerant="R-410A").call.because


def test_a_stop_comes_before_what_nobody_knows():
    both = ask(8.5, room(4.0))
    assert (both.call.verdict, both.findings) == ("stop", ("charge_over_room_limit",))


def test_the_sites_altitude_reaches_the_room():
    high = Wanted(zone="A", room="x", area_m2=9.0, altitude_m=2500.0)
    low = high.model_copy(update={"altitude_m": 0.0})
    rules = Rules(outdoor=OSMUND_26)
    assert room_check(2.6, [low], rules).call.verdict == "holds"
    assert room_check(2.6, [high], rules).call.verdict == "stop"


@pytest.mark.parametrize(("kg", "findings"), [(7.98, ()), (7.99, ("over_relation",))])
def test_the_relation_ends_at_26_m3_of_its_lfl(kg, findings):
    answer = ask(kg, room(100_000.0))
    assert answer.findings == findings
    assert answer.call.verdict == ("unknown" if findings else "holds")


def test_a_release_above_the_room_is_refused():
    for release, height, fine in ((2.4, None, True), (2.5, None, False), (2.5, 2.6, True)):
        asked = {"id": "a", "area_m2": 9.0, "release_height_m": release}
        asked |= {"height_m": height} if height else {}
        if fine:
            assert ask(2.0, asked).call.verdict == "holds"
        else:
            with pytest.raises(ValueError, match="above the room"):
                ask(2.0, asked)


@given(st.floats(0.1, 50), st.floats(0.3, 3), st.floats(1, 200))
def test_the_two_relations_are_each_others_inverse(charge, height, area):
    assert max_charge_kg(0.307, height, min_area_m2(0.307, height, charge)) == pytest.approx(charge)
    assert min_area_m2(0.307, height, max_charge_kg(0.307, height, area)) == pytest.approx(area)


@pytest.mark.parametrize(
    "bad",
    [
        {"id": "a", "area_m2": 3.0},
        {"id": "a", "area_m2": 0.0, "mounting": "wall"},
        {"id": "a", "area_m2": 3.0, "mounting": "wall", "release_height_m": 1.0},
    ],
)
def test_rooms_that_cannot_be_are_refused(bad):
    with pytest.raises(ValueError):
        ask(2.0, bad)


def test_a_job_asks_for_the_area_only_where_it_matters():
    rules = Rules(outdoor=OSMUND_26)
    head = Wanted(zone="A", room="x")
    small, large = (head.model_copy(update={"area_m2": a}) for a in (4.0, 9.0))
    assert room_check(0.62, [], rules).call.verdict == "holds"
    assert room_check(2.5, [head], rules).call.verdict == "wait"
    assert room_check(2.5, [small], rules).call.verdict == "stop"
    assert room_check(2.5, [large], rules).call.verdict == "holds"
    assert room_check(2.5, [large, head], rules).call.verdict == "wait"
    assert room_check(2.5, [large, small], rules).call.verdict == "stop"  # the smallest decides
    other = OSMUND_26.model_copy(update={"refrigerant": "R-410A"})
    displaced = Rules(outdoor=other)  # 0.42 kg/m³ of 3 m² and 2.4 m: 3.02 kg in any room at all
    assert room_check(2.7, [head], displaced).call.verdict == "holds"
    assert room_check(3.0, [head], displaced).call.verdict == "wait"
    assert room_check(3.1, [head], displaced).call.verdict == "wait"
    assert room_check(9.2, [large], displaced).call.verdict == "stop"
    high = large.model_copy(update={"height_m": 2.6})
    assert room_check(8.8, [high], displaced).call.verdict == "holds"


@pytest.mark.parametrize(("area", "kg"), [(7.9, 0.0), (8.0, 2.4), (17.9, 3.0), (40.0, 3.7)])
def test_the_sheets_own_table_governs_by_the_line_at_or_below(area, kg):
    assert sheet_most_kg(PELLOW_90, area).value == kg
    over = room_check(kg + 0.01, [Wanted(zone="A", area_m2=area)], Rules(outdoor=PELLOW_90))
    assert over.call.verdict == "stop"
