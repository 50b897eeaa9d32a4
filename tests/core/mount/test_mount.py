"""Mount: places that hold, found exactly; screws, rails, lifts; the setting-out card."""

import math
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.calc.bracket_rail import BracketRailRequest, bracket_rail
from fairline.core.calc.fastener_load import FastenerLoadRequest, fastener_load
from fairline.core.calc.head_position import (
    HeadBody,
    HeadClear,
    HeadPositionRequest,
    PlatePoint,
    WallHole,
    WallItem,
    head_position,
)
from fairline.core.calc.lift_plan import LiftPlanRequest, lift_plan
from fairline.core.mount.ceiling import CeilingPlace, InCeiling, placed, request
from fairline.core.mount.setting_out import ceiling_card, yard_card
from fairline.core.mount.stage import MountEntry, cards, judge, places_of, weight_caution
from fairline.core.mount.stud import Stud, stud_centres
from fairline.core.mount.wall import WallThing, off_the_body
from fairline.core.mount.wall import request as wall_request
from fairline.core.mount.yard import InYard, rail
from fairline.core.mount.yard_clear import drawn_free_m
from fairline.core.nearest import Rect, nearest
from fairline.core.physics.constants import INCH_M as INCH
from fairline.core.practice import Practice, Rules
from fairline.demo import jobs as demo
from fairline.demo import places
from fairline.demo.heads import OSMUND_C35, OSMUND_F26, OSMUND_H26, PELLOW_W35
from fairline.demo.sheets import OSMUND_26, PELLOW_35

SURVEYED = demo.survey("Loft", 8200, OSMUND_26, OSMUND_H26)
PLANNED = demo.planned(OSMUND_26, OSMUND_H26)
RULES = Rules(outdoor=OSMUND_26, head=OSMUND_H26)


def random_wall(seed, items=10):
    """A wall with things on it and in it, studs, a hole, screws: somewhat crowded."""
    r = random.Random(seed)
    width, ceiling = r.uniform(2.5, 6.0), r.uniform(2.3, 3.2)
    things = [
        WallItem(
            id=str(i),
            way=r.choice(["flush", "standing", "service"]),
            x_m=r.uniform(0, width),
            y_m=r.uniform(0, ceiling),
            width_m=r.uniform(0.03, 0.7),
            height_m=r.uniform(0.05, 0.9),
        )
        for i in range(items)
    ]
    spacing = r.choice([0.4064, 0.6096])
    studs = [0.1 + spacing * k for k in range(int(width / spacing))]
    screws = [PlatePoint(x_m=x, y_m=y) for y in (0.1, 0.24) for x in (-0.3, -0.1, 0.1, 0.3)]
    return HeadPositionRequest(
        wall_width_m=width,
        ceiling_m=ceiling,
        studs_m=studs,
        items=things,
        head=HeadBody(width_m=0.8, height_m=0.3, x_m=r.uniform(0, width), y_m=r.uniform(1, 2.2)),
        clear=HeadClear(
            left_m=0.1, right_m=0.15, above_m=0.06, below_m=0.05, low_m=0.5, high_m=2.4
        ),
        hole=WallHole(
            x_m=r.choice([-0.3, 0.3]),
            y_m=0.05,
            diameter_m=0.065,
            fall_m=0.013,
            service_margin_m=0.02,
        ),
        screws=screws,
        screw_margin_m=0.02,
        in_studs=r.choice([0, 2]),
    )


def holds_at(request, x, y):
    moved = request.model_copy(
        update={"head": request.head.model_copy(update={"x_m": x, "y_m": y})}
    )
    return not head_position(moved).findings


@pytest.mark.parametrize("seed", range(24))
def test_the_nearest_place_holds_and_no_place_of_a_fine_grid_is_nearer(seed):
    request = random_wall(seed)
    found = head_position(request).result.nearest
    step = 0.06
    nearer = math.inf if found is None else math.hypot(found.right_m, found.up_m)
    if found is not None:
        assert holds_at(request, found.x_m, found.y_m)
    for i in range(int(request.wall_width_m / step)):
        for j in range(int(request.ceiling_m / step)):
            x, y = i * step, j * step
            away = math.hypot(x - request.head.x_m, y - request.head.y_m)
            if away < nearer - 1e-6:
                assert not holds_at(request, x, y), (x, y)


rects = st.builds(
    lambda x, y, w, h: Rect(x, x + w, y, y + h),
    st.integers(0, 20),
    st.integers(0, 20),
    st.integers(1, 8),
    st.integers(1, 8),
)


@settings(max_examples=200)
@given(st.lists(rects, max_size=12), st.integers(-3, 23), st.integers(-3, 23))
def test_nearest_against_every_point_of_a_lattice(forbidden, x, y):
    """With whole edges a nearest point lies on the half-lattice: each of its points is tried."""
    bounds = Rect(0, 20, 0, 20)
    found = nearest(float(x), float(y), bounds, forbidden)
    points = [(i / 2, j / 2) for i in range(41) for j in range(41)]
    free = [p for p in points if not any(r.holds(*p) for r in forbidden)]
    best = min((math.dist(p, (x, y)) for p in free), default=None)
    if best is None:
        assert found is None
    else:
        assert math.dist(found, (x, y)) == pytest.approx(best)


# --- screws, rails, lifts ------------------------------------------------------------------------


def load(**more):
    asked = {"weight_kg": 12.0, "fasteners": 6, "rated_kg": 34.0, "margin": 4.0} | more
    return fastener_load(FastenerLoadRequest(**asked))


def test_the_load_of_a_fastener_by_hand():
    """12 kg + 3 kg on 6: 2.5 kg across each; 0.1 m off a 0.2 m arm pulls 7.5 kg on 3: 2.5 each."""
    flat = load(carried_kg=3.0)
    assert flat.result.load_kg == pytest.approx(2.5)
    levered = load(carried_kg=3.0, reach_m=0.1, arm_m=0.2, pulled=3)
    assert levered.result.load_kg == pytest.approx(2.5 + 2.5)
    assert levered.result.allowed_kg == pytest.approx(8.5)
    assert levered.result.share == pytest.approx(5 / 8.5)
    assert load(fasteners=1, pulled=0).findings == ("overloaded",)
    assert load(fasteners=0).findings == ("no_fastener",)
    unmeasured = load(reach_m=0.1, arm_m=0.0)
    assert (unmeasured.call.verdict, unmeasured.findings) == ("unknown", ("lever_missing",))
    with pytest.raises(ValueError, match="cannot be"):
        load(fasteners=2, pulled=3)


@given(st.floats(1, 100), st.integers(1, 20), st.floats(10, 200), st.floats(0, 0.4))
def test_as_many_fasteners_as_are_needed_hold(weight, count, rated, reach):
    more = {"weight_kg": weight, "rated_kg": rated, "reach_m": reach, "arm_m": 0.25}
    needed = load(**more, fasteners=2 * count, pulled=count).result.needed
    enough = 2 * math.ceil(needed / 2)
    assert load(**more, fasteners=enough, pulled=enough // 2).call.verdict == "holds"


STUDS = [0.3, 0.3 + 0.4064, 0.3 + 2 * 0.4064, 0.3 + 3 * 0.4064]


@pytest.mark.parametrize(
    ("left", "rail", "arms", "verdict"),
    [
        (0.20, 30 * INCH, None, "holds"),
        (
            0.20,
            30 * INCH,
            32 * INCH,
            "watch",
        ),  # 30 in does not span 32 in: block between (C, TRADE)
        (0.40, 30 * INCH, None, "holds"),
        (0.35, 12 * INCH, None, "short"),
        (9.0, 30 * INCH, None, "short"),
    ],
)
def test_a_rail_reaches_two_studs_or_is_blocked(left, rail, arms, verdict):
    request = BracketRailRequest(rail_m=rail, left_m=left, studs_m=STUDS, arms_m=arms)
    answer = bracket_rail(request)
    assert answer.call.verdict == verdict
    best = answer.result.best_left_m
    if verdict == "short" and best is not None:
        again = bracket_rail(request.model_copy(update={"left_m": best}))
        assert len(again.result.studs_m) >= 2
    three = bracket_rail(request.model_copy(update={"least_studs": 3}))
    assert three.call.verdict == ("short" if len(answer.result.studs_m) < 3 else verdict)
    blocked = bracket_rail(request.model_copy(update={"blocked": True}))
    assert blocked.call.verdict == "holds"


@pytest.mark.parametrize(
    ("kg", "limit", "people", "named", "verdict"),
    [
        (20.0, 23.0, 1, 1, "holds"),
        (27.5, 23.0, 2, 1, "stop"),
        (27.5, 23.0, 2, 2, "holds"),
        (62.0, 23.0, 4, None, "wait"),
        (62.0, 23.0, 4, 3, "watch"),  # 20.7 each: more than 85 % of the limit, within it
        (69.0, 23.0, 4, 3, "watch"),  # the limit itself
        (69.1, 23.0, 4, 3, "stop"),
        (39.1, 23.0, 2, 2, "holds"),  # 88 lb by two is a little more
        (39.9, 23.0, 3, 2, "watch"),
        (24.0, 40.0, 1, 1, "holds"),
        (40.1, 40.0, 2, 1, "stop"),
        (24.0, 23.0, 2, 1, "stop"),
    ],
)
def test_who_lifts(kg, limit, people, named, verdict):
    answer = lift_plan(LiftPlanRequest(weight_kg=kg, one_person_kg=limit, people=named))
    assert (answer.result.people, answer.call.verdict) == (people, verdict)
    alone = lift_plan(LiftPlanRequest(weight_kg=kg, one_person_kg=limit, people=1, aid=True))
    assert (alone.call.verdict == "stop") == (kg > limit)  # never one alone above the limit
    assert "wants 2 people" in alone.call.because or kg <= limit  # with a dolly two do
    assert ("hoist or dolly wants" in alone.call.because) <= (kg > limit)
    assert "hoist or dolly wants" not in answer.call.because
    hung = LiftPlanRequest(weight_kg=kg, one_person_kg=limit, people=1, done=True)
    assert lift_plan(hung).call.verdict == ("watch" if kg > limit else "holds")
    if named:
        assert answer.result.share_kg == pytest.approx(kg / named)


def test_studs_by_spacing_or_each_one_found():
    assert stud_centres((), 0.4, 0.4, 1.5) == pytest.approx([0.4, 0.8, 1.2])
    found = (Stud(x_m=0.9), Stud(x_m=0.3), Stud())
    assert stud_centres(found, 0.4, 0.4, 1.5) == [0.3, 0.9]
    assert stud_centres((), None, 0.4, 1.5) == stud_centres((), 0.4, None, 1.5) == []


# --- the stage -----------------------------------------------------------------------------------


def verdicts(entry, survey=SURVEYED, equipment=PLANNED, rules=RULES):
    return {c.id: str(c.call.verdict) for c in judge(entry, survey, equipment, rules).checks}


def on_wall(**change):
    return MountEntry(walls={"A": places.wall(OSMUND_H26, **change)}, outdoor=places.yard())


def in_yard(**change):
    return MountEntry(walls={"A": places.wall(OSMUND_H26)}, outdoor=places.yard(**change))


WINDOW = WallThing(kind="window", x_m=1.8, y_m=1.9, width_m=0.5, height_m=0.5)
CURTAIN = WallThing(kind="curtain", x_m=0.8, y_m=1.0, width_m=0.7, height_m=1.5)
PIPE = WallThing(kind="pipe", x_m=2.2, y_m=1.5, width_m=0.05, height_m=1.2)


@pytest.mark.parametrize(
    ("change", "check", "verdict"),
    [
        ({"x_m": 0.405 + 5 * INCH}, "A_head_left", "holds"),  # the sheet's 5 in displace 12 in
        ({"x_m": 0.405 + 4.9 * INCH}, "A_head_left", "short"),
        ({"x_m": 3.9 - 0.405 - 4.9 * INCH}, "A_head_right", "short"),
        ({"y_m": 2.75 - 0.295 - 2.9 * INCH}, "A_head_ceiling", "short"),
        ({"y_m": 1.8}, "A_height", "short"),
        ({"y_m": 1.8, "low_reason": "knee wall"}, "A_height", "watch"),
        ({"y_m": 2.3}, "A_height", "short"),  # above 7.5 ft of common practice
        ({"things": (WINDOW,)}, "A_overlap", "short"),
        ({"things": (CURTAIN,)}, "A_head_left", "short"),
        ({"things": (PIPE,)}, "A_hole_service", "stop"),
        ({"x_m": 2.52}, "A_hole_stud", "short"),
        ({"stud_first_m": None}, "A_hole_stud", "wait"),
        ({"anchor_rated_kg": 1.0, "x_m": 2.0}, "A_screws", "short"),
        ({"plate": "slight"}, "A_plate", "watch"),
        ({"plate": "off"}, "A_plate", "short"),
        ({"hole_m": 2.0 * INCH}, "A_hole_size", "short"),
        ({"hole_m": 3.0 * INCH}, "A_hole_size", "watch"),
        ({"hole_m": None}, "A_hole_size", "wait"),
        ({"hole_fall_m": -0.01}, "A_hole_fall", "short"),  # uphill: water runs back indoors
        ({"looked": "no"}, "A_looked", "stop"),
        ({"drain_low": "no"}, "A_drain", "short"),
        ({"drain_side": "left"}, "A_drain_side", "watch"),
        ({"front_m": 9.0}, "A_throw", "watch"),
        ({"width_m": None}, "A_wall", "wait"),
        ({"x_m": None}, "A_wall", "wait"),
    ],
)
def test_a_head_on_its_wall(change, check, verdict):
    assert verdicts(on_wall(**change))[check] == verdict


def test_the_head_of_the_demo_holds_in_every_check():
    assert set(verdicts(on_wall()).values()) == {"holds"}


SHRUB = InYard(kind="shrub", x_m=3.0, y_m=0.3, width_m=0.5, depth_m=0.5)
EAVE = InYard(kind="eave", x_m=1.0, y_m=0.0, width_m=3.0, depth_m=0.6, bottom_m=1.2, top_m=1.4)
VENT = InYard(
    kind="dryer-vent", x_m=2.2, y_m=0.0, width_m=0.2, depth_m=0.05, bottom_m=0.6, top_m=0.7
)
BORDER = InYard(kind="property-line", x_m=0.0, y_m=1.2, width_m=5.5, depth_m=0.05)


@pytest.mark.parametrize(
    ("change", "check", "verdict"),
    [
        ({"y_m": 5 * INCH}, "outdoor_behind", "short"),
        ({"x_m": 0.7}, "sash", "short"),
        ({"things": (SHRUB,)}, "outdoor_right", "short"),
        ({"things": (EAVE,)}, "outdoor_above", "watch"),  # nobody gives a limit
        ({"things": (VENT,)}, "intake", "short"),
        ({"things": (BORDER,)}, "far_1", "watch"),
        ({"base_m": 0.2}, "base", "short"),  # flood reaches 0.3 m
        ({"support": None}, "support", "wait"),
        ({"bedroom_wall": "yes"}, "support", "watch"),
        ({"support": "stand", "notes": "the owner's wish"}, "support", "holds"),
        ({"rail_left_m": None}, "rail", "wait"),
        ({"blocked": "no", "rail_m": 0.3}, "rail", "short"),
        ({"fasteners": None}, "lags", "wait"),
        ({"fasteners": 3, "fastener_rated_kg": 40.0}, "lags", "short"),
        ({"arm_m": None}, "lags", "wait"),
        ({"pulled": None}, "lags", "wait"),
        ({"y_m": 7 * INCH, "pulled": 4}, "lags", "short"),  # all four cannot be the top row
        ({"wall": "masonry", "blocked": None, "stud_first_m": None}, "rail", "holds"),
        ({"people": 1, "lifted": "yes"}, "lift", "watch"),
        ({"x_m": 5.5}, "beyond", "short"),
        ({"people": 1}, "lift", "stop"),
        ({"frost_drain": "plugged"}, "frost_drain", "short"),
        ({"level": "no"}, "outdoor_level", "short"),
        ({"anchored": "no"}, "anchored", "short"),
        ({"x_m": None}, "yard", "wait"),
    ],
)
def test_an_outdoor_unit_in_its_yard(change, check, verdict):
    assert verdicts(in_yard(**change))[check] == verdict


def test_a_distance_of_local_code_governs_and_is_kept_by_the_nearest_place():
    practice = Practice(code={"boundary_distance": {"value": 1.0, "source": "Local 9.3"}})
    rules = RULES.model_copy(update={"practice": practice})
    checks = judge(in_yard(things=(BORDER,)), SURVEYED, PLANNED, rules).checks
    border = next(c for c in checks if c.id == "far_1")
    assert (border.call.verdict, border.limit.source) == ("short", "Local 9.3")


def test_a_sheet_that_wants_a_pitched_plate_and_a_silent_one():
    planned = demo.planned(PELLOW_35, PELLOW_W35)
    rules = Rules(outdoor=PELLOW_35, head=PELLOW_W35)
    assert verdicts(on_wall(plate="level"), equipment=planned, rules=rules)["A_plate"] == "short"
    bare = OSMUND_H26.model_copy(update={"screws": (), "outlets": (), "hole_m": None})
    silent = verdicts(on_wall(), equipment=demo.planned(OSMUND_26, bare))
    assert {silent[k] for k in ("A_screws", "A_hole", "A_hole_size")} == {"unknown"}
    sizeless = bare.model_copy(update={"width_m": None})
    assert verdicts(on_wall(), equipment=demo.planned(OSMUND_26, sizeless))["A_wall"] == "unknown"
    assert "60.6 lb" in weight_caution(RULES)
    assert weight_caution(Rules()) is None


def test_bedrooms_of_the_survey_must_be_drawn_or_answered_for():
    near = SURVEYED.model_copy(update={"bedrooms_near": "yes"})
    window = InYard(kind="bedroom-window", x_m=4.0, y_m=0.0, width_m=1.0, depth_m=0.1)
    silent = in_yard(bedroom_wall=None)
    assert verdicts(silent, survey=near)["bedrooms"] == "watch"
    assert "bedrooms" not in verdicts(in_yard(bedroom_wall="no"), survey=near)
    drawn = verdicts(in_yard(bedroom_wall=None, things=(window,)), survey=near)
    assert "bedrooms" not in drawn and drawn["far_1"] == "watch"


def test_studs_closer_than_the_hole_leave_no_place():
    dense = judge(on_wall(stud_spacing_m=0.06), SURVEYED, PLANNED, RULES)
    hole = next(c for c in dense.checks if c.id == "A_hole_stud")
    assert hole.call.verdict == "short"
    assert "another wall" in hole.call.do_next
    bricks = on_wall(stud_first_m=None, stud_spacing_m=None, kind="masonry")
    assert "A_hole_stud" not in verdicts(bricks)  # masonry has no studs to meet


def test_a_head_wider_than_its_wall_is_told_and_no_place_is_invented():
    tight = judge(on_wall(width_m=0.7, x_m=0.35), SURVEYED, PLANNED, RULES)
    assert tight.call.verdict == "short"
    assert "another head, another outlet or another wall" in tight.call.do_next


# --- ceilings ------------------------------------------------------------------------------------

IN_CEILING = demo.planned(OSMUND_26, OSMUND_C35)
CEILING = (
    places.gallery_mount(OSMUND_H26, OSMUND_F26)
    .ceilings["C"]
    .model_copy(update={"level": "yes", "drain_test": "ran"})
)


def above(**change):
    place = CEILING.model_copy(update=change)
    entry = MountEntry(ceilings={"A": place}, outdoor=places.yard())
    return verdicts(entry, equipment=IN_CEILING)


@pytest.mark.parametrize(
    ("change", "check", "verdict"),
    [
        ({}, "A_plan", "holds"),
        ({"rails": "no", "stud_spacing_m": 1.2}, "A_plan", "short"),  # hangers miss the joists
        ({"fixing": "between"}, "A_plan", "short"),  # 24 in joists, a 26 in opening
        ({"fixing": "between", "stud_spacing_m": 0.9}, "A_plan", "short"),
        ({"fixing": "framed"}, "A_plan", "watch"),
        (
            {"things": (InCeiling(kind="light", x_m=2.5, y_m=2.0, width_m=0.2, length_m=0.2),)},
            "A_plan",
            "short",
        ),
        ({"x_m": 1.2}, "A_clear", "short"),
        ({"void_m": 0.25}, "A_void", "short"),
        ({"ceiling_m": 2.2}, "A_ceiling_low", "short"),  # under the sheet's least
        ({"ceiling_m": 3.4}, "A_ceiling_high", "short"),
        ({"hatch_m": 0.5}, "A_hatch", "short"),
        ({"pump_lift_m": 31 * INCH}, "A_pump_lift", "short"),
        ({"pump_run_m": 13 * INCH}, "A_pump_run", "short"),
        ({"level": "no"}, "A_level", "short"),
        ({"drain_test": "stood"}, "A_drain", "short"),
        ({"stud_first_m": None, "rails": "yes"}, "A_plan", "wait"),
        ({"x_m": None}, "A_plan", "wait"),
    ],
)
def test_a_cassette_in_its_ceiling(change, check, verdict):
    assert above(**change)[check] == verdict


@pytest.mark.parametrize("along", ["x", "y"])
def test_a_place_offered_between_joists_or_under_them_holds(along):
    rules = RULES.model_copy(update={"head": OSMUND_C35})
    wide = CEILING.model_copy(
        update={"fixing": "between", "stud_spacing_m": 0.9, "joists_along": along, "things": ()}
    )
    hung = wide.model_copy(
        update={"fixing": "hung", "rails": "no", "stud_spacing_m": 0.53, "stud_width_m": 0.09}
    )
    for place in (wide, hung):
        offered = placed("C", place, OSMUND_C35, rules).result.nearest
        there = place.model_copy(update={"x_m": offered.x_m, "y_m": offered.y_m})
        assert placed("C", there, OSMUND_C35, rules).answer.call.verdict == "holds"


# --- the setting-out card ------------------------------------------------------------------------


def card_of(entry):
    """The card of head A; None while it has none."""
    places_ = places_of(entry, SURVEYED, PLANNED, lambda _: RULES)
    found = cards(entry, PLANNED, RULES, places_)
    return next((c for c in found if c.title.startswith("Head A")), None)


def test_the_card_gives_the_marks_of_the_wall_in_the_order_of_use():
    place = places.wall(OSMUND_H26)
    card = card_of(on_wall())
    marks = {m.what: m for m in card.marks}
    assert list(marks)[:3] == ["Centre line of the head", "Underside of the head", "Plate's mark"]
    mark, hole = marks["Plate's mark"], marks["Centre of the hole, inside"]
    assert mark.along_m == pytest.approx(place.x_m + OSMUND_H26.mark_x_m)
    outlet = next(o for o in OSMUND_H26.outlets if o.name == "right back")
    assert hole.along_m - mark.along_m == pytest.approx(outlet.x_m)
    assert hole.up_m - mark.up_m == pytest.approx(outlet.y_m)
    outside = marks["Centre of the hole, outside"]
    assert hole.up_m - outside.up_m == pytest.approx(0.6 * INCH)
    tilt = math.degrees(math.atan(0.6 / 6.5))  # the fall over the wall's thickness
    assert f"{tilt:.1f}°" in marks["Pilot"].note
    assert card_of(on_wall(x_m=None)) is None
    notes = [m.note for m in card_of(on_wall(things=(PIPE,), x_m=2.26)).marks]
    assert "Leave out: pipe or wire" in notes


def test_the_cards_of_ceiling_and_yard():
    card = ceiling_card("C", request(CEILING, OSMUND_C35, RULES), OSMUND_C35)
    hangers = [m for m in card.marks if m.what.startswith("Hanger")]
    assert len(hangers) == 4
    assert hangers[1].along_m - hangers[0].along_m == pytest.approx(OSMUND_C35.hanger_width_m)
    outside = {
        m.what: m for m in yard_card(places.yard(), OSMUND_26, rail(places.yard(), OSMUND_26)).marks
    }
    assert outside["Right side of the unit"].along_m == pytest.approx(2.0 + 0.80)
    assert outside["Lag 1"].note == "Into the stud"
    assert request(CeilingPlace(), OSMUND_C35, RULES) is None


def test_what_the_record_says_of_lift_rail_and_free_sides_is_in_the_right_terms():
    def check(name, **change):
        found = judge(in_yard(**change), SURVEYED, PLANNED, RULES).checks
        return next(c for c in found if c.id == name)

    assert check("lift").value == pytest.approx(27.5 / 2)  # two people, for each
    assert check("lift", aid="hoist").limit is None
    assert check("rail").limit is None  # blocked between the studs: none has to be reached
    assert check("rail", blocked="no").limit.value == 2.0
    left = check("outdoor_left")  # nothing stands there as far as it is drawn
    assert (left.bound, left.value) == ("min", pytest.approx(2.0)) and left.call.verdict == "holds"


def verdict_above(unit, **change):
    """What is said of the room above this unit."""
    changed = SURVEYED.model_copy(update={})
    found = judge(in_yard(**change), changed, PLANNED, Rules(outdoor=unit)).checks
    return next((c.call.verdict for c in found if c.id == "outdoor_above"), None)


@pytest.mark.parametrize("short", [0.01, -0.01])
def test_a_free_side_is_free_as_far_as_the_yard_is_drawn(short):
    wanted = RULES.limit("outdoor_right").value
    at = in_yard().outdoor
    wall = at.x_m + OSMUND_26.width_m + wanted - short
    found = judge(in_yard(wall_m=wall), SURVEYED, PLANNED, RULES).checks
    right = next(c for c in found if c.id == "outdoor_right")
    assert right.call.verdict == ("wait" if short > 0 else "holds"), right.call
    assert ("make the drawing wider" in (right.call.do_next or "")) == (short > 0)


def test_a_unit_that_blows_up_is_not_clear_above_until_somebody_looked_up():
    upward = OSMUND_26.model_copy(update={"discharge": "top"})
    assert verdict_above(upward) == "wait"
    assert verdict_above(upward, above_free="no") == "wait"  # something is there: draw it
    assert verdict_above(upward, above_free="yes") == "holds"
    at = in_yard().outdoor
    top = at.base_m + OSMUND_26.height_m

    def under_eave(unit, gap):
        eave = InYard(
            kind="wall", x_m=0, y_m=0, width_m=4, depth_m=2, bottom_m=top + gap, top_m=top + gap + 1
        )
        return verdict_above(unit, things=(*at.things, eave))

    silent = upward.model_copy(update={"clear_above_m": None})
    assert under_eave(silent, 0.15) == "unknown"  # 6 in, and nobody says how much it wants
    wanting = upward.model_copy(update={"clear_above_m": 1.0})
    assert under_eave(wanting, 0.99) == "short" and under_eave(wanting, 1.01) == "holds"


@pytest.mark.parametrize(("below", "said"), [(0.0, False), (0.001, True)])
def test_a_hole_below_the_heads_underside_is_no_hole_of_this_head(below, said):
    at = in_yard().walls["A"]
    asked = wall_request(at, OSMUND_H26, RULES)
    lowest = asked.hole.diameter_m / 2 - below
    hole = asked.hole.model_copy(update={"y_m": lowest})
    off = off_the_body(asked.model_copy(update={"hole": hole}))
    assert ("the hole" in off) == said
    screw = PlatePoint(x_m=asked.head.width_m / 2 + below, y_m=0.1)
    off = off_the_body(asked.model_copy(update={"screws": (screw,)}))
    assert ("screw 1" in off) == said


def test_a_screw_below_the_head_is_short_and_no_mark_of_the_card():
    low = OSMUND_H26.screws[0].model_copy(update={"y_m": -(OSMUND_H26.mark_y_m or 0.0) - 0.05})
    sheet = OSMUND_H26.model_copy(update={"screws": (low, *OSMUND_H26.screws[1:])})
    survey = demo.survey("Loft", 8200, OSMUND_26, sheet)
    for head, verdict in ((OSMUND_H26, None), (sheet, "short")):
        rules, planned = RULES.model_copy(update={"head": head}), demo.planned(OSMUND_26, head)
        at = places_of(in_yard(), survey, planned, lambda _, rules=rules: rules)
        worked = judge(in_yard(), survey, planned, rules)
        behind = [c.call.verdict for c in worked.checks if c.id == "A_behind"]
        assert behind == ([verdict] if verdict else [])
        found = cards(in_yard(), planned, rules, at)
        wall = next(c for c in found if c.marks and "Screw 2" in {m.what for m in c.marks})
        assert ("Screw 1" in {m.what for m in wall.marks}) == (verdict is None)


@pytest.mark.parametrize(
    ("snow_m", "support", "verdict"),
    [(0.4, "pad", "watch"), (0.0, "pad", "holds"), (0.4, "stand", "holds")],
)
def test_a_pad_stands_in_the_snow(snow_m, support, verdict):
    snowed = SURVEYED.model_copy(update={"snow_m": snow_m})
    entry = in_yard(support=support, notes="the owner's wish")
    found = judge(entry, snowed, PLANNED, RULES).checks
    assert next(c for c in found if c.id == "support").call.verdict == verdict


def test_the_drawn_yard_reaches_as_far_as_it_is_drawn_less_the_unit():
    at, unit = in_yard().outdoor, RULES.outdoor
    left = drawn_free_m(at, unit)
    assert left == pytest.approx(
        {
            "outdoor_left": at.x_m,
            "outdoor_right": at.wall_m - at.x_m - unit.width_m,
            "outdoor_front": at.yard_m - at.y_m - unit.depth_m,
        }
    )
    assert drawn_free_m(at.model_copy(update={"yard_m": None}), unit) == {}
