"""What must be so of every place, whatever the wall: more limits never bring a place nearer."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.calc.bracket_rail import BracketRailRequest, bracket_rail
from fairline.core.calc.fastener_load import FastenerLoadRequest, fastener_load
from fairline.core.calc.head_position import head_position
from fairline.core.calc.lift_plan import LiftPlanRequest, lift_plan
from fairline.core.calc.system_capacity import (
    CarryRule,
    SystemCapacityRequest,
    WantedHeadLoad,
    system_capacity,
)
from fairline.core.nearest import Rect, nearest
from tests.core.mount.test_mount import random_wall

BOUNDS = Rect(0.0, 10.0, 0.0, 6.0)
spot = st.tuples(st.floats(0, 10), st.floats(0, 6))
rect = st.builds(
    lambda x, y, w, h: Rect(x, x + w, y, y + h),
    st.floats(0, 9),
    st.floats(0, 5),
    st.floats(0.1, 4),
    st.floats(0.1, 3),
)
rects = st.lists(rect, max_size=10)


def away(found, x, y):
    return math.inf if found is None else math.dist(found, (x, y))


@given(rects, rect, spot)
def test_another_thing_never_brings_the_nearest_place_nearer(things, more, at):
    fewer = nearest(*at, BOUNDS, things)
    with_it = nearest(*at, BOUNDS, [*things, more])
    assert away(with_it, *at) >= away(fewer, *at) - 1e-9


@given(rects, spot)
def test_a_place_that_is_free_is_its_own_nearest(things, at):
    found = nearest(*at, BOUNDS, things)
    if not any(r.holds(*at) for r in things):
        assert found == pytest.approx(at)
    if found is not None:
        assert not any(r.holds(*found) for r in things)
        assert nearest(*found, BOUNDS, things) == pytest.approx(found)


@given(rects, spot)
def test_a_mirrored_wall_has_the_mirrored_place(things, at):
    """The distance is the same from either side (the place itself may be one of two as near)."""
    mirrored = [Rect(10 - r.x1, 10 - r.x0, r.y0, r.y1) for r in things]
    here = nearest(*at, BOUNDS, things)
    there = nearest(10 - at[0], at[1], BOUNDS, mirrored)
    assert away(here, *at) == pytest.approx(away(there, 10 - at[0], at[1]))
    turned = [Rect(r.y0, r.y1, r.x0, r.x1) for r in things]
    sideways = nearest(at[1], at[0], Rect(0.0, 6.0, 0.0, 10.0), turned)
    assert away(sideways, at[1], at[0]) == pytest.approx(away(here, *at))


@settings(max_examples=60)
@given(st.integers(0, 400), st.floats(0.0, 0.3))
def test_wider_clearances_never_bring_the_head_nearer(seed, more):
    request = random_wall(seed)
    tighter = request.clear.model_copy(
        update={"left_m": request.clear.left_m + more, "above_m": request.clear.above_m + more}
    )
    free = head_position(request).result.nearest
    bound = head_position(request.model_copy(update={"clear": tighter})).result.nearest

    def far(place):
        return math.inf if place is None else math.hypot(place.right_m, place.up_m)

    assert far(bound) >= far(free) - 1e-9


@settings(max_examples=60)
@given(st.integers(0, 400))
def test_findings_and_the_nearest_place_agree(seed):
    """Nothing found means nothing to move; something found means a move, or no place at all."""
    answer = head_position(random_wall(seed))
    place = answer.result.nearest
    stays = place is not None and math.hypot(place.right_m, place.up_m) < 1e-9
    assert (answer.findings == ()) == stays
    assert (answer.call.verdict == "holds") == stays


@given(st.floats(1, 150), st.floats(5, 60), st.integers(1, 8))
def test_more_people_never_turn_a_lift_bad(weight, limit, people):
    def call(count):
        request = LiftPlanRequest(weight_kg=weight, one_person_kg=limit, people=count)
        return lift_plan(request).call.verdict

    if call(people) == "holds":
        assert call(people + 1) == "holds"
    wanted = lift_plan(LiftPlanRequest(weight_kg=weight, one_person_kg=limit)).result.people
    assert call(wanted) == "holds"
    assert (wanted == 1) == (weight <= limit)


@given(st.floats(1, 200), st.integers(1, 30), st.floats(1, 100), st.floats(1, 8))
def test_a_larger_margin_asks_for_more_fasteners(weight, count, rated, margin):
    def asked(factor):
        return fastener_load(
            FastenerLoadRequest(weight_kg=weight, fasteners=count, rated_kg=rated, margin=factor)
        ).result

    assert asked(margin + 1).needed >= asked(margin).needed
    assert asked(margin).share == pytest.approx(weight / count * margin / rated)


@given(
    st.lists(st.floats(0, 6), min_size=0, max_size=12, unique=True),
    st.floats(0.2, 2.0),
    st.floats(-1, 6),
)
def test_a_rail_that_is_shifted_as_told_reaches_two_studs(studs, rail, left):
    request = BracketRailRequest(rail_m=rail, left_m=left, studs_m=studs)
    answer = bracket_rail(request)
    best = answer.result.best_left_m
    if best is not None:
        there = bracket_rail(request.model_copy(update={"left_m": best}))
        assert len(there.result.studs_m) >= 2
    assert (answer.call.verdict == "short") == (len(answer.result.studs_m) < 2)
    if len(answer.result.studs_m) >= 2:
        assert best == pytest.approx(left)


@given(st.lists(st.floats(500, 9000), min_size=1, max_size=8), st.floats(100, 3000))
def test_a_head_more_never_lowers_what_is_connected(loads, extra):
    def connected(watts):
        heads = [WantedHeadLoad(id=str(i), cool_w=w) for i, w in enumerate(watts)]
        rule = CarryRule(max_connected_w=40_000.0, max_heads=9)
        return system_capacity(SystemCapacityRequest(heads=heads, rule=rule)).result

    one, more = connected(loads), connected([*loads, extra])
    assert more.connected_w == pytest.approx(one.connected_w + extra)
    assert (one.heads, more.heads) == (len(loads), len(loads) + 1)
