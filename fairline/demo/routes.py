"""The demo's runs and drains: on bare brick, up a light well, along a trunk."""

from typing import Any

from fairline.core.physics.constants import FOOT_M as FOOT
from fairline.core.physics.constants import INCH_M as INCH
from fairline.core.route.entry import (
    Direction,
    DrainPart,
    DrainRun,
    Leg,
    Level,
    LineRun,
    RouteEntry,
    Setting,
)

Said = tuple[Direction, float] | tuple[Direction, float, Setting]

LEVELS = (
    Level(name="yard", height_m=0.0),
    Level(name="floor above", height_m=3.1),
    Level(name="roof", height_m=6.4),
)
TOOLS: dict[str, Any] = {
    "valve_height_m": 1.2 * FOOT,
    "bend_radius_m": 2.5 * INCH,
    "end_allowance_m": 6 * INCH,
    "both_insulated": "yes",
    "levels": LEVELS,
}


def legs(*said: Said) -> tuple[Leg, ...]:
    """Legs in metres; the third word says where one runs."""
    return tuple(
        Leg(direction=s[0], length_m=s[1], setting=s[2] if len(s) > 2 else None) for s in said
    )


def drain(*parts: tuple[float, float], **more: Any) -> DrainRun:
    """A drain by lying parts: length and fall in m; then a metre down to the open."""
    lying = tuple(DrainPart(length_m=length, fall_m=fall) for length, fall in parts)
    base = DrainRun(
        parts=(*lying, DrainPart(way="down", length_m=1.0)),
        ends="ground",
        bore_m=0.0206,
        insulated="yes",
        reach="yes",
    )
    return base.model_copy(update=more)


def run_of(*feet: tuple[Direction, float]) -> RouteEntry:
    """The one run of a single zone, legs in feet, with its drain."""
    only = LineRun(fed_from="outdoor", outlet="A", legs=legs(*((way, n * FOOT) for way, n in feet)))
    return RouteEntry(runs={"A": only}, drains={"A": drain((0.6, 0.02), (1.4, 0.03))}, **TOOLS)


def gallery() -> RouteEntry:
    """Three home runs: two share the rise up the yard wall, one goes to the ceiling by the roof."""
    return RouteEntry(
        **TOOLS,
        runs={
            "A": LineRun(
                fed_from="outdoor",
                outlet="A",
                built_m=9.31,
                legs=legs(("up", 2.3), ("right", 4.6), ("up", 0.5), ("in", 0.33), ("right", 0.9)),
            ),
            "B": LineRun(
                fed_from="outdoor",
                outlet="B",
                along="A",
                along_legs=1,
                legs=legs(("left", 5.2), ("down", 1.9), ("in", 0.33), ("left", 0.4)),
            ),
            "C": LineRun(
                fed_from="outdoor",
                outlet="C",
                along="A",
                along_legs=2,
                legs=legs(("up", 2.6), ("in", 0.33), ("in", 3.1, "attic"), ("right", 1.2, "attic")),
            ),
        },
        drains={
            "A": drain((1.2, 0.02), (3.4, 0.05)),
            "B": drain((0.8, 0.004)),
            "C": DrainRun(
                parts=(
                    DrainPart(length_m=0.2, fall_m=0.01),
                    DrainPart(way="up", length_m=0.45),
                    DrainPart(length_m=3.1, fall_m=0.05),
                ),
                ends="gutter",
                bore_m=0.026,
                insulated="yes",
                reach="yes",
            ),
        },
        ports={"outdoor-D": "kept"},
    )


def foundry() -> RouteEntry:
    """A main run up the light well to a branch box in the attic; three branches."""
    return RouteEntry(
        **TOOLS,
        runs={
            "box1": LineRun(
                fed_from="outdoor",
                outlet="A",
                sheet="Pellow Air PB-5",
                legs=legs(("up", 6.2), ("in", 0.36), ("right", 3.4, "attic")),
            ),
            "A": LineRun(
                fed_from="box1",
                outlet="A",
                legs=legs(("right", 3.2, "attic"), ("down", 1.1, "wall")),
            ),
            "B": LineRun(
                fed_from="box1",
                outlet="B",
                legs=legs(("left", 2.1, "attic"), ("in", 1.8, "attic"), ("down", 1.3, "wall")),
            ),
            "C": LineRun(
                fed_from="box1",
                outlet="D",
                legs=legs(("in", 4.4, "attic"), ("right", 1.6, "attic")),
            ),
        },
        drains={"A": drain((2.2, 0.04)), "B": drain((1.6, 0.02))},
    )


def signal_house() -> RouteEntry:
    """A trunk along the corridor ceiling, five tees, six heads."""
    off: dict[str, tuple[Said, ...]] = {
        "A": (("right", 1.4, "room"), ("down", 0.5, "room")),
        "B": (("left", 1.6, "room"), ("down", 0.5, "room")),
        "C": (("right", 2.0, "room"), ("down", 0.6, "room")),
        "D": (("left", 1.2, "room"), ("down", 0.6, "room")),
        "E": (("right", 1.8, "room"), ("down", 0.5, "room")),
    }
    trunk: dict[str, LineRun] = {
        "tee1": LineRun(
            fed_from="outdoor",
            outlet="A",
            sheet="Hartwick HT-1",
            legs=legs(("up", 4.2), ("in", 0.4), ("in", 1.6, "room")),
        ),
    }
    for n, length in enumerate((3.1, 2.4, 3.6, 2.2), 2):
        trunk[f"tee{n}"] = LineRun(
            fed_from=f"tee{n - 1}",
            outlet="on",
            sheet="Hartwick HT-1",
            legs=legs(("in", length, "room")),
        )
    for n, (zone, said) in enumerate(off.items(), 1):
        trunk[zone] = LineRun(fed_from=f"tee{n}", outlet="off", legs=legs(*said))
    trunk["F"] = LineRun(
        fed_from="tee5", outlet="on", legs=legs(("in", 2.8, "room"), ("left", 1.1, "room"))
    )
    drains = {zone: drain((1.5, 0.03)) for zone in "ABCDE"}
    return RouteEntry(**TOOLS, runs=trunk, drains=drains)


def gatehouse() -> RouteEntry:
    """A pre-charged kit: never cut, its surplus in a flat coil behind the unit."""
    only = LineRun(
        fed_from="outdoor",
        outlet="A",
        kit="Osmund Works OK-25",
        legs=legs(("up", 2.1), ("right", 2.4), ("in", 0.3), ("up", 0.2)),
    )
    return RouteEntry(**TOOLS, runs={"A": only}, drains={"A": drain((0.4, 0.02))})
