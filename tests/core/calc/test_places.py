"""The three placing computations by themselves: every finding, every offer, against brute force."""

import math
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.calc.ceiling_position import (
    CeilingBody,
    CeilingPositionRequest,
    CeilingThing,
    ceiling_position,
)
from fairline.core.calc.head_position import (
    HeadBody,
    HeadClear,
    HeadPositionRequest,
    Place,
    PlatePoint,
    WallHole,
    WallItem,
    head_position,
    moved,
)
from fairline.core.calc.outdoor_position import (
    OutdoorBody,
    OutdoorClear,
    OutdoorPositionRequest,
    YardThing,
    outdoor_position,
)

# --- a head on its wall --------------------------------------------------------------------------


def item(way, x, y, width=0.2, height=0.2):
    return WallItem(id="it", way=way, x_m=x, y_m=y, width_m=width, height_m=height)


def on_wall(x=2.0, y=2.0, items=(), **more):
    """A 4 m wall under a 2.7 m ceiling, a head of 0.8 by 0.3 m, a hole 0.3 m to its right."""
    fields = {
        "wall_width_m": 4.0,
        "ceiling_m": 2.7,
        "studs_m": [0.5, 1.5, 2.5, 3.5],
        "items": list(items),
        "head": HeadBody(width_m=0.8, height_m=0.3, x_m=x, y_m=y),
        "clear": HeadClear(
            left_m=0.1, right_m=0.2, above_m=0.1, below_m=0.05, low_m=1.8, high_m=2.4
        ),
        "hole": WallHole(x_m=0.3, y_m=0.05, diameter_m=0.06, fall_m=0.01, service_margin_m=0.02),
    }
    return HeadPositionRequest(**fields | more)


def test_clearances_are_measured_from_the_heads_sides():
    """Head at 2.0 m, 0.8 m wide, 2.0 to 2.3 m up: 1.6 m to each corner, 0.4 m to the ceiling."""
    result = head_position(on_wall()).result
    assert result.clear_left_m == pytest.approx(1.6)
    assert result.clear_right_m == pytest.approx(1.6)
    assert result.clear_above_m == pytest.approx(0.4)
    assert result.clear_below_m == pytest.approx(2.0)
    # the hole: 2.27 to 2.33 m along, so 2.5 − 0.01905 − 2.33 to the stud
    assert result.hole_stud_m == pytest.approx(2.5 - 0.0381 / 2 - 2.33)


@pytest.mark.parametrize(
    ("request_", "findings"),
    [
        (on_wall(), ()),
        (on_wall(x=0.45), ("left",)),
        (on_wall(x=3.45), ("right",)),
        (on_wall(y=2.35), ("above",)),
        (on_wall(y=1.7), ("low",)),
        (on_wall(y=2.39, ceiling_m=3.2, clear=HeadClear(high_m=2.3)), ("high",)),
        (on_wall(items=[item("flush", 1.8, 2.1)]), ("overlap",)),
        (on_wall(items=[item("standing", 1.35, 2.1)]), ("left",)),
        (on_wall(items=[item("standing", 2.5, 2.1)]), ("right",)),
        (on_wall(items=[item("standing", 1.9, 2.35, height=0.1)]), ("above",)),
        (on_wall(items=[item("standing", 1.9, 1.77)]), ("below",)),
        (on_wall(items=[item("flush", 1.35, 2.1)]), ()),  # a window may touch the head
        (on_wall(items=[item("service", 1.7, 2.1)]), ()),  # a pipe may lie behind the head
        (on_wall(items=[item("service", 2.34, 2.0)]), ("hole_at_service",)),
        (on_wall(x=2.2), ("hole_in_stud",)),
        (on_wall(items=[item("flush", 2.2, 1.95, height=0.08)]), ("overlap", "hole_meets")),
    ],
)
def test_each_finding_by_itself(request_, findings):
    answer = head_position(request_)
    assert answer.findings == findings
    grave = {"hole_at_service", "screw_at_service"} & set(findings)
    assert answer.call.verdict == ("stop" if grave else "short" if findings else "holds")
    if findings:
        there = answer.result.nearest
        assert there is not None
        body = request_.head.model_copy(update={"x_m": there.x_m, "y_m": there.y_m})
        assert not head_position(request_.model_copy(update={"head": body})).findings


def test_screws_meet_studs_clear_of_their_edges_and_keep_off_pipes():
    screws = [PlatePoint(x_m=x, y_m=0.2) for x in (-0.5, -0.48, 0.0, 0.5)]
    result = head_position(on_wall(screws=screws)).result
    assert result.screws_in_studs == (0, 3)  # −0.48 is 2 cm off the stud's centre: its edge
    pipe = item("service", 1.98, 2.15, width=0.03, height=0.1)
    hit = head_position(on_wall(screws=screws, items=[pipe], screw_margin_m=0.02))
    assert hit.result.screws_at_services == (2,)
    assert hit.findings == ("screw_at_service",)
    two = head_position(on_wall(x=2.1, screws=screws, in_studs=2))
    assert "studs_missed" in two.findings
    assert two.result.nearest.x_m == pytest.approx(2.1 + (2.0 - 2.1) + 0.01305, abs=2e-3)


def test_a_hole_through_the_whole_thickness_is_kept_clear_as_it_falls():
    below = item("service", 2.2, 1.96, width=0.2, height=0.04)  # just under the hole inside
    flat = on_wall(items=[below], hole=WallHole(x_m=0.3, y_m=0.05, diameter_m=0.06))
    assert head_position(flat).result.hole_service_m == pytest.approx(0.02)
    falling = WallHole(x_m=0.3, y_m=0.05, diameter_m=0.06, fall_m=0.05)
    assert head_position(on_wall(items=[below], hole=falling)).result.hole_service_m < 0


def test_a_wall_without_a_place_says_so():
    narrow = head_position(on_wall(wall_width_m=1.0, x=0.5))
    assert narrow.result.nearest is None
    assert "another wall" in narrow.call.do_next
    low = head_position(on_wall(ceiling_m=2.0, y=1.6))
    assert low.result.nearest is None


@pytest.mark.parametrize(
    ("right", "up", "words"),
    [
        (0.0, 0.0, "not at all"),
        (0.0508, 0.0, '51 mm (2") to the right'),
        (-0.0508, 0.0, '51 mm (2") to the left'),
        (0.0, -0.0254, '25 mm (1") down'),
        (0.0508, 0.0254, '51 mm (2") to the right and 25 mm (1") up'),
    ],
)
def test_what_was_moved_is_told_in_words(right, up, words):
    told = moved(Place(x_m=0, y_m=0, right_m=right, up_m=up))
    assert told.replace("\u00a0", " ") == words


@given(st.floats(0.0, 4.0), st.floats(0.0, 2.7), st.floats(-0.5, 0.5), st.floats(0, 0.4))
def test_moving_the_wall_with_the_head_changes_no_clearance(x, y, shift, inset):
    """What is measured depends on distances alone: moved together, all stays the same."""
    things = [item("standing", 0.3 + inset, 1.0), item("flush", 3.0, 2.0)]
    here = head_position(on_wall(x, y, things, hole=None)).result
    wider = [t.model_copy(update={"x_m": t.x_m + shift}) for t in things]
    there = head_position(on_wall(x + shift, y, wider, hole=None, wall_width_m=4.0 + shift)).result
    assert there.clear_right_m == pytest.approx(here.clear_right_m)
    assert there.overlaps == here.overlaps
    assert there.clear_above_m == pytest.approx(here.clear_above_m)


# --- an outdoor unit in its yard -----------------------------------------------------------------


def thing(way, x, y, width=0.3, depth=0.3, bottom=0.0, top=2.0):
    return YardThing(
        id="it", way=way, x_m=x, y_m=y, width_m=width, depth_m=depth, bottom_m=bottom, top_m=top
    )


def in_yard(x=2.0, y=0.3, base=0.2, things=(), **clear):
    """A 6 m wall, a yard of 3 m, a unit 0.8 wide, 0.3 deep, 0.6 high."""
    wanted = {"behind_m": 0.15, "left_m": 0.1, "right_m": 0.5, "front_m": 0.6, "above_m": 0.3}
    return OutdoorPositionRequest(
        wall_m=6.0,
        yard_m=3.0,
        unit=OutdoorBody(width_m=0.8, depth_m=0.3, height_m=0.6, x_m=x, y_m=y, base_m=base),
        clear=OutdoorClear(**wanted | clear),
        things=list(things),
    )


@pytest.mark.parametrize(
    ("request_", "findings"),
    [
        (in_yard(), ()),
        (in_yard(y=0.1), ("behind",)),
        (in_yard(things=[thing("solid", 1.65, 0.2)]), ("left",)),
        (in_yard(things=[thing("solid", 3.0, 0.2)]), ("right",)),
        (in_yard(things=[thing("solid", 2.2, 1.0)]), ("front",)),
        (in_yard(things=[thing("solid", 2.2, 0.2, bottom=1.0)]), ("above",)),
        (in_yard(things=[thing("solid", 2.2, 0.4)]), ("overlap", "left", "front")),
        (in_yard(things=[thing("sash", 1.9, 0.0, 0.6, 0.6, 0.5, 2.0)]), ("sash",)),
        (in_yard(things=[thing("sash", 1.9, 0.0, 0.6, 0.6, 0.9, 2.0)]), ()),  # above the unit
        (in_yard(things=[thing("vent", 2.3, 0.0, 0.1, 0.1, 0.4, 0.5)]), ("vent_into_intake",)),
        (in_yard(things=[thing("vent", 2.3, 0.0, 0.1, 0.1, 1.4, 1.5)]), ()),
        (in_yard(things=[thing("vent", 3.5, 0.0, 0.1, 0.1)], vent_m=1.0), ("vent",)),
        (in_yard(things=[thing("bedroom", 3.5, 0.0)], bedroom_m=2.0), ("bedroom",)),
        (in_yard(things=[thing("boundary", 0.0, 1.9, 6.0, 0.1)], boundary_m=1.35), ("boundary",)),
        (in_yard(things=[thing("boundary", 0.0, 1.5, 6.0, 0.1)]), ()),  # nobody says how far
        # a corner: the lesser of its two clearances both ways, right 0.5 and front 0.6
        (in_yard(things=[thing("solid", 2.81, 0.61)]), ("corner",)),
        (in_yard(things=[thing("solid", 3.29, 1.09)]), ("corner",)),
        (in_yard(things=[thing("solid", 3.31, 0.61)]), ()),
        (in_yard(things=[thing("solid", 2.81, 1.11)]), ()),
        (in_yard(x=5.2), ()),
        (in_yard(x=5.21), ("beyond",)),
        (in_yard(x=-0.01), ("beyond",)),
        (in_yard(y=2.71), ("beyond",)),
    ],
)
def test_each_finding_around_the_outdoor_unit(request_, findings):
    answer = outdoor_position(request_)
    assert answer.findings == findings
    assert answer.call.verdict == ("short" if findings else "holds")
    there = answer.result.nearest
    if findings:
        assert there is not None
        unit = request_.unit.model_copy(update={"x_m": there.x_m, "y_m": there.y_m})
        assert not outdoor_position(request_.model_copy(update={"unit": unit})).findings
    else:
        assert (there.right_m, there.up_m) == (0.0, 0.0)


@pytest.mark.parametrize(
    ("least", "bottom", "to"),
    [
        (0.0, 0.65, 0.05),
        (0.05, 0.65, 0.05),
        (0.06, 0.65, None),  # a unit 0.6 high under a sash
        (None, 0.65, None),
        (0.0, 0.55, None),
    ],
)
def test_a_unit_on_a_bracket_is_lowered_under_a_sash(least, bottom, to):
    asked = in_yard(things=[thing("sash", 1.9, 0.0, 0.6, 0.6, bottom, 2.0)])
    unit = asked.unit.model_copy(update={"least_base_m": least})
    answer = outdoor_position(asked.model_copy(update={"unit": unit}))
    assert answer.call.verdict == "short"
    assert answer.result.lower_to_m == (pytest.approx(to) if to is not None else None)
    assert ("Lower the unit" in answer.call.do_next) is (to is not None)
    if to is not None:
        lowered = unit.model_copy(update={"base_m": to})
        assert not outdoor_position(asked.model_copy(update={"unit": lowered})).findings


def test_distance_is_a_straight_line_between_boxes():
    """0.3 m along and 0.4 m off: 0.5 m apart (3, 4, 5)."""
    far = outdoor_position(in_yard(things=[thing("bedroom", 3.1, 1.0)])).result
    assert far.distances_m == {"it": pytest.approx(0.5)}
    over = outdoor_position(in_yard(things=[thing("bedroom", 2.2, 0.3, bottom=1.8)])).result
    assert over.distances_m == {"it": pytest.approx(1.0)}  # 0.2 + 0.6 m high, 1.8 m up


@pytest.mark.parametrize("seed", range(12))
def test_no_place_of_a_fine_grid_in_the_yard_is_nearer(seed):
    r = random.Random(seed)
    things = [
        thing(
            r.choice(["solid", "sash", "vent"]),
            r.uniform(0, 6),
            r.uniform(0, 2.5),
            r.uniform(0.1, 0.8),
            r.uniform(0.1, 0.6),
            r.choice([0.0, 0.9]),
            2.0,
        )
        for _ in range(8)
    ]
    request = in_yard(r.uniform(0, 5), r.uniform(0, 2), things=things)
    found = outdoor_position(request).result.nearest
    nearer = math.inf if found is None else math.hypot(found.right_m, found.up_m)
    step = 0.09
    for i in range(int(5.2 / step)):
        for j in range(int(2.7 / step)):
            x, y = i * step, j * step
            if math.hypot(x - request.unit.x_m, y - request.unit.y_m) < nearer - 1e-6:
                unit = request.unit.model_copy(update={"x_m": x, "y_m": y})
                assert outdoor_position(request.model_copy(update={"unit": unit})).findings


# --- a cassette in its ceiling -------------------------------------------------------------------


def in_ceiling(x=2.5, y=2.0, things=(), **more):
    """A room of 5 by 4 m, joists every 0.6 m from 0.4 m, an opening of 0.5 m."""
    fields = {
        "room_width_m": 5.0,
        "room_length_m": 4.0,
        "body": CeilingBody(
            width_m=0.5, length_m=0.5, hanger_width_m=0.4, hanger_length_m=0.6, x_m=x, y_m=y
        ),
        "clear_m": 0.5,
        "things": list(things),
        "joists_m": [0.4 + 0.6 * k for k in range(6)],
    }
    return CeilingPositionRequest(**fields | more)


LAMP = CeilingThing(id="lamp", x_m=2.4, y_m=1.9, width_m=0.2, length_m=0.2)
NEAR = CeilingThing(id="duct", x_m=3.0, y_m=1.9, width_m=0.2, length_m=0.2)


@pytest.mark.parametrize(
    ("request_", "findings"),
    [
        # joists at 1.6 and 2.2: the middle of that bay is 1.9, hangers 0.3 m to either side
        (in_ceiling(y=1.9), ()),
        (in_ceiling(y=2.0), ("hanger_off_joist",)),
        (in_ceiling(y=2.0, rails=True), ()),
        (in_ceiling(y=1.9, fixing="between"), ()),
        (in_ceiling(y=2.1, fixing="between"), ("joist_cut",)),
        (in_ceiling(y=1.9, things=[LAMP]), ("overlap", "clear")),
        (in_ceiling(y=1.9, things=[NEAR]), ("clear",)),
        (in_ceiling(x=0.6, y=1.9), ("clear",)),
    ],
)
def test_each_finding_in_the_ceiling(request_, findings):
    answer = ceiling_position(request_)
    assert answer.findings == findings
    if findings:
        there = answer.result.nearest
        body = request_.body.model_copy(update={"x_m": there.x_m, "y_m": there.y_m})
        assert not ceiling_position(request_.model_copy(update={"body": body})).findings


def test_each_drawing_tells_a_move_in_its_own_words():
    """On a wall y is up, in a yard off the wall, in a ceiling away from the far wall."""
    wall = head_position(on_wall(y=1.7)).call.do_next
    assert "up: there" in wall
    off = outdoor_position(in_yard(y=0.1)).call.do_next
    assert "off the wall: there" in off
    above = ceiling_position(in_ceiling(y=0.2, rails=True)).call.do_next
    assert "away from the far wall: there" in above
    back = ceiling_position(in_ceiling(y=3.9, rails=True)).call.do_next
    assert "towards the far wall: there" in back


def test_joists_that_are_cut_are_counted_and_wait_for_a_licensed_person():
    framed = ceiling_position(in_ceiling(y=2.1, fixing="framed"))
    assert (framed.call.verdict, framed.result.joists_cut) == ("watch", 1)
    assert "licensed" in framed.call.do_next
    tight = in_ceiling(fixing="between", joists_m=[0.2 + 0.4 * k for k in range(10)])
    nowhere = ceiling_position(tight)
    assert nowhere.result.nearest is None and "No joist bay" in nowhere.call.do_next
    assert nowhere.result.bay_m == pytest.approx(0.4 - 0.0381)


@pytest.mark.parametrize("seed", range(7))
@pytest.mark.parametrize("fixing", ["hung", "between"])
def test_no_place_of_a_fine_grid_in_the_ceiling_is_nearer(seed, fixing):
    r = random.Random(seed)
    things = [
        CeilingThing(id=str(n), x_m=r.uniform(0, 5), y_m=r.uniform(0, 4), width_m=0.2, length_m=0.2)
        for n in range(4)
    ]
    request = in_ceiling(
        r.uniform(0, 5),
        r.uniform(0, 4),
        things,
        fixing=fixing,
        clear_m=0.15,
        joists_along=r.choice(["x", "y"]),
    )
    found = ceiling_position(request).result.nearest
    nearer = math.inf if found is None else math.hypot(found.right_m, found.up_m)
    step = 0.08
    for i in range(int(5 / step)):
        for j in range(int(4 / step)):
            x, y = i * step, j * step
            if math.hypot(x - request.body.x_m, y - request.body.y_m) < nearer - 1e-6:
                body = request.body.model_copy(update={"x_m": x, "y_m": y})
                assert ceiling_position(request.model_copy(update={"body": body})).findings
