"""Places of a head side by side, and kinds of systems: worked out, chosen by the owner."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.equipment import Equipment
from fairline.core.practice import Rules
from fairline.core.survey.options import PlaceOption, option_checks, weighed
from fairline.core.survey.stage import Room, SurveyEntry, WantedHead, judge
from fairline.core.survey.ways import compared
from fairline.demo.heads import OSMUND_H26
from fairline.demo.sheets import OSMUND_26

RULES = Rules(outdoor=OSMUND_26, head=OSMUND_H26)
WALL = PlaceOption(name="knee wall", outside_wall="no", pumped="no", line_m=5.0, front_m=2.0)
CONSOLE = PlaceOption(name="console", outside_wall="yes", pumped="no", line_m=6.0, front_m=9.0)
PUMPED = PlaceOption(name="inner wall", outside_wall="yes", pumped="yes", line_m=3.0)


def test_an_outside_wall_comes_first_then_a_drain_that_falls_then_the_shorter_line():
    found = weighed([WALL, PUMPED, CONSOLE], RULES)
    assert [w.option.name for w in found] == ["console", "inner wall", "knee wall"]
    assert [w.rank for w in found] == [1, 2, 3]


def test_air_goes_as_far_as_throw_and_room_and_a_longer_line_takes_more():
    throw = OSMUND_H26.throw_m
    assert [w.air_m for w in weighed([WALL, CONSOLE], RULES)] == [throw, 2.0]
    long = PlaceOption(line_m=OSMUND_26.included_length_m + 2.0)
    (worked,) = weighed([long], RULES)
    assert worked.more_kg == pytest.approx(2.0 * OSMUND_26.rates[0].kg_per_m)
    assert weighed([WALL], RULES)[0].more_kg == 0.0
    assert weighed([WALL], Rules())[0].more_kg is None


@pytest.mark.parametrize(
    ("chosen", "reason", "verdict"),
    [(0, "", "wait"), (2, "quiet", "wait"), (1, "", "wait"), (1, "no hatch needed", "holds")],
)
def test_the_owner_takes_one_and_says_why(chosen, reason, verdict):
    places = [
        p.model_copy(update={"chosen": "yes" if n < chosen else None})
        for n, p in enumerate((CONSOLE, PUMPED, WALL))
    ]
    (check,) = option_checks("A", places, reason)
    assert check.call.verdict == verdict
    assert option_checks("A", places[:1], "") == []


@given(st.lists(st.floats(3, 40), min_size=2, max_size=8), st.floats(0, 50))
def test_what_is_shared_is_laid_once(ways, shared):
    home, box, trunk = compared(ways, shared)
    assert home.tube_m == pytest.approx(sum(ways))
    assert box.tube_m == trunk.tube_m <= home.tube_m + 1e-9
    saved = min(shared, *ways) * (len(ways) - 1)
    assert home.tube_m - box.tube_m == pytest.approx(saved, abs=1e-6)
    assert home.joints == 4 * len(ways) and box.joints == home.joints + 4


def test_three_heads_counted_joint_by_joint():
    """Unit 2, two tees of 6, three heads of 2: as a trunk is made (common practice, no source)."""
    assert [w.joints for w in compared([10.0, 12.0, 14.0], 6.0)] == [12, 16, 2 + 2 * 6 + 3 * 2]


@pytest.mark.parametrize(
    ("through", "head", "verdict"),
    [
        (None, "Loft", "watch"),
        ("no", "Loft", "watch"),
        ("yes", "Loft", "holds"),
        (None, "Bath", ""),
    ],
)
def test_a_room_with_a_load_and_no_head_is_asked_once(through, head, verdict):
    """A bathroom is served through an undercut door (common practice, no source)."""
    entry = SurveyEntry(
        rooms=(
            Room(name=head, load_w=2000.0),
            Room(name="Bath", load_w=300.0, through_door=through),
        )[: 2 if head == "Loft" else 1],
        heads=(WantedHead(zone="A", room=head),),
    )
    told = [c for c in judge(entry, Equipment(), Rules()).checks if c.id.startswith("no_head")]
    assert [str(c.call.verdict) for c in told] == ([verdict] if verdict else [])
