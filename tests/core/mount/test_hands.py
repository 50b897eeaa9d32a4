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
from fairline.core.mount.yard import YardPlace
from fairline.core.practice import Rules
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
