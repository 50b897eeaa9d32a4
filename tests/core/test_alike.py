"""What a place takes over from another of its kind: of the plan what is blank, nothing seen."""

import pytest

from fairline.core.alike import ALIKE, like, model_for
from fairline.core.copied import AS_BUILT, SEEN
from fairline.core.mount.stage import MountEntry
from fairline.core.mount.wall import WallPlace
from fairline.core.route.entry import RouteEntry
from fairline.core.wire.entry import WireEntry

ENTRY_OF = {
    "walls": MountEntry,
    "ceilings": MountEntry,
    "drains": RouteEntry,
    "supplies": WireEntry,
}
FIRST = WallPlace(
    ceiling_m=2.74, stud_spacing_m=0.4064, hole_m=0.064, y_m=2.1, x_m=1.5, kind="frame"
)
SEEN_ON_A = {"looked": "yes", "plate": "level", "drain_low": "yes", "hole_fall_m": 0.016}


@pytest.mark.parametrize("places", ALIKE)
def test_nothing_that_is_looked_at_is_taken_over(places):
    assert not {*ALIKE[places]} & ({*AS_BUILT, *SEEN} - {"hole_m"})
    held = ENTRY_OF[places].model_fields[places].annotation.__args__[1]
    assert {*ALIKE[places]} <= {*held.model_fields}


def test_blank_fields_are_as_in_the_other_and_typed_ones_stay():
    first = FIRST.model_copy(update=SEEN_ON_A)
    entry = MountEntry(walls={"A": first, "B": WallPlace(ceiling_m=2.4, x_m=0.9)})
    wall = like(entry, "walls", "B", "A").walls["B"]
    assert (wall.ceiling_m, wall.x_m) == (2.4, 0.9)
    assert (wall.kind, wall.stud_spacing_m, wall.hole_m, wall.y_m) == ("frame", 0.4064, 0.064, 2.1)
    assert all(getattr(wall, name) is None for name in SEEN_ON_A)
    assert like(entry, "walls", "C", "Z") == entry
    assert like(entry, "walls", "C", "A").walls["C"].x_m is None


def test_a_place_is_offered_only_where_it_says_what_is_blank():
    entry = MountEntry(walls={"A": FIRST, "B": WallPlace(x_m=0.9)})
    assert model_for(entry, "walls", "B") == model_for(entry, "walls", "C") == "A"
    assert model_for(entry, "walls", "A") == ""
    assert model_for(like(entry, "walls", "B", "A"), "walls", "B") == ""
    supplies = WireEntry.model_validate({"supplies": {"outdoor": {"gauge": "12"}}})
    assert model_for(supplies, "supplies", "A") == ""  # a head's circuit is not the outdoor unit's
