"""What Mount works out for hands: the drill, the throw, anchors under concrete, the footing."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.mount.ceiling import CeilingPlace
from fairline.core.mount.ceiling_fixing import anchors, fixing_checks, rod_m
from fairline.core.mount.drilling import CHUCK_M, drilling
from fairline.core.mount.footing import EDGE_M, footing_checks
from fairline.core.mount.throw import InFront, known_reach, line_m, reach, throw_check
from fairline.core.mount.wind import ON_ROOF, of_place, wind, wind_checks
from fairline.core.mount.yard import YardPlace
from fairline.core.practice import CodeEntry, Practice, Rules
from fairline.demo.heads import OSMUND_C35
from fairline.demo.sheets import OSMUND_26


@given(st.floats(0.05, 0.6), st.floats(0.0, 0.05))
def test_the_axis_of_the_hole_is_the_longest_side_of_its_triangle(thick, fall):
    d = drilling(thick, fall)
    assert d.saw_m == pytest.approx(math.hypot(thick, fall))
    assert math.tan(math.radians(d.tilt_deg)) * thick == pytest.approx(fall, abs=1e-9)
    assert d.bit_m == pytest.approx(d.saw_m + CHUCK_M)
    assert drilling(thick, fall, both_sides=True).saw_m == pytest.approx(d.saw_m / 2)


def test_a_wall_of_twelve_inches_asks_for_a_saw_of_twelve():
    """12 to 14 in of brick (common practice, no source)."""
    assert drilling(0.3048, 0.0127).saw_m == pytest.approx(0.3051, abs=1e-4)


def thing(away, top, what="wardrobe"):
    return InFront(what=what, away_m=away, top_m=top)


@given(st.lists(st.tuples(st.floats(0.3, 8), st.floats(0.1, 2.5)), max_size=5), st.floats(1.2, 2.5))
def test_the_air_stops_at_the_first_thing_above_its_line(things, underside):
    found = reach([thing(*t) for t in things], underside, 6.0)
    above = [a for a, top in things if a < 6.0 and top > line_m(a, underside, 6.0) + 1e-9]
    assert found.reach_m == min(above, default=6.0)
    assert bool(found.stopped_by) == bool(above)


@given(st.floats(0.3, 5.9), st.floats(0.1, 2.4), st.floats(1.2, 2.4), st.floats(0.0, 0.6))
def test_a_head_that_hangs_higher_never_reaches_less_far(away, top, underside, more):
    low, high = (reach([thing(away, top)], u, 6.0).reach_m for u in (underside, underside + more))
    assert high >= low


@pytest.mark.parametrize(
    ("away", "top", "low", "verdict"),
    [
        (3.0, 0.99, False, "holds"),  # the line is 1 m high there
        (3.0, 1.01, False, "watch"),
        (3.0, 1.01, True, "short"),
        (2.9, 2.01, False, "short"),  # above the underside, nearer than half the throw
        (3.1, 2.01, False, "watch"),
        (3.1, 2.01, True, "short"),
        (2.9, 1.99, False, "watch"),
    ],
)
def test_what_stands_in_front_is_judged_by_its_top_and_how_near_it_is(away, top, low, verdict):
    found = known_reach([thing(away, top)], 2.0, 6.0)
    assert throw_check("A", found, 6.0, low).call.verdict == verdict
    assert known_reach([], 2.0, 6.0) is known_reach([thing(away, top)], 2.0, None) is None


def concrete(**more):
    return CeilingPlace(kind="concrete", **more)


def test_rods_reach_from_the_slab_to_the_hooks():
    head = OSMUND_C35  # 0.26 m high
    assert rod_m(concrete(void_m=0.40), head) == pytest.approx(0.17)
    assert rod_m(concrete(void_m=0.20), head) is None  # it does not fit in
    assert rod_m(CeilingPlace(kind="joists", void_m=0.4), head) is None


@pytest.mark.parametrize(("rated", "verdict"), [(None, "wait"), (17.0, "short"), (28.0, "holds")])
def test_each_of_four_anchors_carries_its_part_with_the_margin(rated, verdict):
    """17 kg of head and what lines weigh over four, against a quarter of the rating."""
    rules = Rules()
    place = concrete(anchor_rated_kg=rated)
    load, *_ = fixing_checks("A", place, OSMUND_C35, rules)
    assert load.call.verdict == verdict
    if rated:
        carried = 17.0 + (rules.value("lines_weight") or 0.0)
        assert anchors(place, OSMUND_C35, rules).result.load_kg == pytest.approx(carried / 4)
    assert fixing_checks("A", CeilingPlace(kind="joists"), OSMUND_C35, rules) == []


@pytest.mark.parametrize(("slab", "verdict"), [(0.0765, "holds"), (0.0745, "short")])
def test_an_anchors_hole_takes_at_most_two_thirds_of_the_slab(slab, verdict):
    place = concrete(anchor_rated_kg=100.0, anchor_depth_m=0.0508, slab_m=slab)
    assert fixing_checks("A", place, OSMUND_C35, Rules())[1].call.verdict == verdict


@pytest.mark.parametrize(
    ("beyond", "verdict"), [(-0.001, "short"), (0.0, "watch"), (0.099, "watch"), (0.101, "holds")]
)
def test_a_pad_is_larger_than_the_feet_by_an_edge(beyond, verdict):
    assert pytest.approx(0.1) == 2 * EDGE_M
    place = YardPlace(support="pad", pad_width_m=OSMUND_26.feet_width_m + beyond, pad_depth_m=0.9)
    (check,) = footing_checks(place, OSMUND_26)
    assert check.call.verdict == verdict
    assert footing_checks(place.model_copy(update={"support": "bracket"}), OSMUND_26) == []


def test_a_stand_of_ones_own_is_told_with_what_each_post_carries():
    place = YardPlace(support="stand", posts=4, post_depth_m=0.6)
    (check,) = footing_checks(place, OSMUND_26)
    assert check.call.verdict == "watch" and check.value == pytest.approx(27.5 / 4)
    assert footing_checks(YardPlace(support="stand"), OSMUND_26) == []


@pytest.mark.parametrize(
    ("said", "verdict"),
    [
        ({}, "wait"),
        ({"look_again": "2027-03-01"}, "watch"),
        ({"look_again": "2027-03-01", "looked_again": "yes"}, "holds"),
        ({"looked_again": "no"}, "short"),
    ],
)
def test_soft_ground_is_looked_at_again_by_a_date(said, verdict):
    (check,) = footing_checks(YardPlace(support="stand", ground="soft", **said), OSMUND_26)
    assert check.call.verdict == verdict


@given(st.floats(1.0, 70.0), st.floats(20.0, 150.0), st.floats(0.25, 0.6))
def test_wind_turns_a_unit_only_where_its_weight_does_not(speed, weight, feet):
    """Moments about the feet in the lee, worked out apart: push · h/2 against 0.6 · W · feet/2."""
    found = wind(speed, weight, (0.9, 0.7), feet)
    push = 0.5 * 1.225 * speed**2 * 1.3 * 0.9 * 0.7
    over = push * 0.35 - 0.6 * weight * 9.80665 * feet / 2
    assert found.push_n == pytest.approx(push)
    assert found.uplift_n * 2 * feet == pytest.approx(max(0.0, over), abs=1e-6)
    assert wind(speed, weight, (0.9, 0.7), feet, ON_ROOF).load_kg >= found.load_kg


def test_wind_pressure_is_that_of_the_standard():
    """ASCE 7-16, 26.10-1, SI: q = 0.613 · K · v² Pa, all factors 1 (from memory)."""
    found = wind(44.7, 1000.0, (1.0, 1.0), 1.0, 1.0)
    assert found.push_n == pytest.approx(0.613 * 44.7**2, rel=1e-3)


def wind_rules(speed):
    code = {} if speed is None else {"design_wind": CodeEntry(value=speed, source="town code")}
    return Rules(practice=Practice(code=code), outdoor=OSMUND_26)


@pytest.mark.parametrize(
    ("support", "speed", "rated", "verdict"),
    [
        ("pad", None, None, None),  # nobody set a wind: nothing is asked on the ground
        ("roof", None, None, "unknown"),
        ("bracket", 50.0, None, None),
        ("pad", 8.0, None, "holds"),  # its weight holds it
        ("pad", 40.0, None, "wait"),
        ("pad", 40.0, -0.1, "short"),
        ("pad", 40.0, 0.1, "holds"),
        ("roof", 40.0, 0.1, "holds"),
    ],
)
def test_what_holds_a_corner_is_rated_for_the_wind_with_its_margin(support, speed, rated, verdict):
    """``rated``: kg beside four times the load on a corner."""
    place, rules = YardPlace(support=support), wind_rules(speed)
    found = of_place(place, OSMUND_26, rules)
    if rated is not None:
        place = place.model_copy(update={"held_rated_kg": 4 * found.load_kg + rated})
    checks = wind_checks(place, found, rules)
    assert [c.call.verdict.value for c in checks] == ([verdict] if verdict else [])
