"""A unit's circuit, judged before anybody switches on: what it carries, caps, and lacks."""

from dataclasses import dataclass
from typing import Literal, cast

from fairline.core.call import Check, Step
from fairline.core.physics.conductor import largest_standard_a
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR
from fairline.core.wire.circuit import (
    Rating,
    ampacity_of,
    conductor,
    drop,
    ground,
    ground_awg,
    overcurrent,
    plate,
    rating,
    source,
    terminal,
    voltage,
)
from fairline.core.wire.entry import Supply
from fairline.core.wire.looks import disconnect, later, rest, way, who

Mark = Literal["MCA", "MOP", "ampacity", "breaker", "fuse", "disconnect"]


@dataclass(frozen=True, eq=False)
class SupplyWorked:
    """A unit's circuit worked out: its checks, what stands on the ampere scale, the working.

    ``who`` makes the connection at the panel: the last thing of all. ``ampacity_a`` is None where
    neither table nor local code says; ``serves`` tells what the circuit can feed and what not.
    """

    unit: str
    title: str
    entry: Supply
    rating: Rating
    ampacity_a: float | None
    ground_awg: int | None
    marks: dict[Mark, float]
    serves: str
    checks: list[Check]
    who: Check
    working: list[Step]


def supply(unit: str, title: str, entry: Supply, rules: Rules) -> SupplyWorked:
    """A unit's circuit, held against what its sheet or its nameplate asks."""
    found = rating(unit, entry, rules)
    ampacity, said_by = ampacity_of(entry)
    earth = ground_awg(entry)
    marks: dict[Mark, float] = {}
    for mark, amps in (
        ("MCA", found.mca_a),
        ("MOP", found.mop_a),
        ("ampacity", ampacity),
        ("breaker", entry.breaker_a),
        ("fuse", entry.fuse_a if entry.disconnect == "fused" else None),
        ("disconnect", entry.disconnect_a),
    ):
        if amps is not None:
            marks[cast(Mark, mark)] = amps
    checks = [
        *plate(entry, found),
        overcurrent("breaker", "Breaker", entry.breaker_a, found),
        conductor(entry, found, ampacity, said_by),
        *terminal(unit, entry, found, rules),
        ground(entry, earth),
        drop(entry, found, rules),
        voltage(entry, found, rules),
        *source(entry, found, rules),
        *way(entry),
        *disconnect(entry, found, rules),
        *rest(entry, found, rules),
        *later(entry, ampacity),
    ]
    working = (
        []
        if ampacity is None
        else [Step(step="ampacity of the conductor", expression=said_by, value=ampacity, unit="A")]
    )
    return SupplyWorked(
        unit=unit,
        title=title,
        entry=entry,
        rating=found,
        ampacity_a=ampacity,
        ground_awg=earth,
        marks=marks,
        serves=_serves(entry, found, ampacity),
        checks=[_of(c, unit, title) for c in checks],
        who=_of(who(entry, rules, title), unit, title),
        working=working,
    )


def _of(check: Check, unit: str, title: str) -> Check:
    """A check of one of several circuits, named after its unit."""
    own = unit == OUTDOOR
    return check.model_copy(
        update={
            "id": f"{unit}_{check.id}",
            "label": check.label if own else f"{title.capitalize()}: {check.label.lower()}",
            "zone": "" if own else unit,
            "part": f"supply-{unit}",
        }
    )


def _serves(entry: Supply, found: Rating, ampacity: float | None) -> str:
    """What the circuit can feed, and what not."""
    if ampacity is None:
        return ""
    volts = f" at {entry.volts_v:g} V" if entry.volts_v else ""
    can = (
        f"This conductor serves units of MCA up to {ampacity:g} A{volts}; one above that wants a "
        "larger conductor, and its ground with it."
    )
    if found.mop_a is not None and (fits := largest_standard_a(found.mop_a)) is not None:
        return f"{can} This unit takes a breaker of at most {fits:g} A."
    return can
