"""Where the demo's heads hang and its outdoor units stand: walls, a ceiling, yards."""

from typing import Any

from fairline.core.mount.ceiling import CeilingPlace, InCeiling
from fairline.core.mount.stage import MountEntry
from fairline.core.mount.wall import WallPlace, WallThing
from fairline.core.mount.yard import InYard, YardPlace
from fairline.core.physics.constants import INCH_M as INCH
from fairline.core.sheet import Head


def wall(head: Head, x_m: float = 1.95, y_m: float = 2.15, **more: Any) -> WallPlace:
    """A framed wall with a window, a socket and a pipe; the head beside the window."""
    base = WallPlace(
        width_m=3.9,
        ceiling_m=2.75,
        kind="frame",
        thickness_m=6.5 * INCH,
        stud_first_m=0.406,
        stud_spacing_m=16 * INCH,
        front_m=5.2,
        things=(
            WallThing(kind="window", x_m=0.35, y_m=0.95, width_m=1.0, height_m=1.2),
            WallThing(kind="shelf", x_m=2.9, y_m=1.2, width_m=0.8, height_m=0.3),
            WallThing(kind="wire", x_m=3.3, y_m=0.0, width_m=0.03, height_m=1.2),
        ),
        x_m=x_m,
        y_m=y_m,
        outlet="right back",
        hole_fall_m=0.6 * INCH,
        plate=head.plate_pitch or "level",
        hole_m=head.hole_m,
        looked="yes",
        drain_low="yes",
        cable_fed="yes",
        drain_side="right",
    )
    return base.model_copy(update=more)


def yard(**more: Any) -> YardPlace:
    """A brick wall with a casement, a dryer vent and a fence; the unit on a bracket."""
    base = YardPlace(
        wall_m=5.5,
        yard_m=2.6,
        things=(
            InYard(
                kind="sash", x_m=0.4, y_m=0.0, width_m=0.6, depth_m=0.6, bottom_m=0.95, top_m=2.15
            ),
            InYard(kind="fence", x_m=0.0, y_m=2.35, width_m=5.5, depth_m=0.1, top_m=1.8),
        ),
        x_m=2.0,
        y_m=7 * INCH,
        base_m=0.5,
        support="bracket",
        bedroom_wall="no",
        rail_m=30 * INCH,
        rail_left_m=2.02,
        stud_first_m=0.406,
        stud_spacing_m=16 * INCH,
        blocked="yes",
        fasteners=4,
        pulled=2,
        fastener_rated_kg=180.0,
        arm_m=0.45,
        people=2,
        aid="none",
        frost_drain="open",
        level="yes",
        anchored="yes",
        notes="Bracket: the yard floods in a cloudburst.",
    )
    return base.model_copy(update=more)


def mount(head: Head, **more: Any) -> MountEntry:
    return MountEntry(walls={"A": wall(head, **more)}, outdoor=yard())


def gallery_mount(high: Head, console: Head) -> MountEntry:
    """Three heads of the gallery: one meets a stud, one under a sill, one between lights."""
    low = WallPlace(
        width_m=4.4,
        ceiling_m=2.6,
        kind="masonry",
        thickness_m=13 * INCH,
        front_m=3.4,
        things=(WallThing(kind="window", x_m=1.2, y_m=0.95, width_m=1.6, height_m=1.3),),
        x_m=2.0,
        y_m=0.08,
        outlet="left back",
        hole_fall_m=0.5 * INCH,
    )
    ceiling = CeilingPlace(
        width_m=5.2,
        length_m=4.1,
        ceiling_m=2.8,
        void_m=0.34,
        joists_along="x",
        stud_first_m=0.25,
        stud_spacing_m=24 * INCH,
        rails="yes",
        x_m=2.6,
        y_m=2.05,
        hatch_m=0.61,
        pump_lift_m=0.45,
        pump_run_m=0.2,
        looked="yes",
        things=(
            InCeiling(kind="light", x_m=1.0, y_m=1.95, width_m=0.2, length_m=0.2),
            InCeiling(kind="light", x_m=4.0, y_m=1.95, width_m=0.2, length_m=0.2),
            InCeiling(kind="duct", x_m=0.0, y_m=3.5, width_m=5.2, length_m=0.3),
        ),
    )
    vent = InYard(
        kind="dryer-vent", x_m=4.75, y_m=0.0, width_m=0.15, depth_m=0.08, bottom_m=0.4, top_m=0.55
    )
    return MountEntry(
        walls={"A": wall(high, x_m=2.52, y_m=2.2, plate=None, hole_m=None), "B": low},
        ceilings={"C": ceiling},
        outdoor=yard(
            x_m=0.75,
            things=(*yard().things, vent),
            support="stand",
            notes="",
            base_m=0.4,
            people=None,
            blocked="no",
            level=None,
            anchored=None,
        ),
    )
