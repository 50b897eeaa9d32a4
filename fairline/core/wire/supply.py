"""A unit's circuit, judged before anybody switches on: what it carries, caps, and lacks."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, cast

from fairline.core.calc.circuit import ground_steps
from fairline.core.call import Check, Step, Verdict
from fairline.core.check import capitalized
from fairline.core.physics.conductor import EquipmentGround, awg_of, largest_standard_a
from fairline.core.physics.tubing import table
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR
from fairline.core.wire.carrying import ampacity_of, earth_of, ground_awg
from fairline.core.wire.circuit import (
    Rating,
    breaker,
    conductor,
    drop,
    plate,
    rating,
    source,
    terminal,
    voltage,
)
from fairline.core.wire.entry import Supply
from fairline.core.wire.grounding import ground
from fairline.core.wire.supply_way import StretchResult, along, way, way_checks
from fairline.core.wire.visual_checks import (
    connection_check,
    disconnect_checks,
    head_later_checks,
    junction_checks,
    visual_checks,
)

Mark = Literal["MCA", "MOP", "ampacity", "breaker", "fuse", "disconnect"]


@dataclass(frozen=True, eq=False)
class SupplyResult:
    """A unit's circuit worked out: its checks, what stands on the ampere scale, the working.

    ``who`` makes the connection at the panel: the last thing of all. ``ampacity_a`` is None where
    neither table nor local code says; ``serves`` tells what the circuit can feed and what not.
    """

    unit: str
    title: str
    entry: Supply
    rating: Rating
    ampacity_a: float | None
    earth: EquipmentGround | None
    ground_awg: int | None
    marks: dict[Mark, float]
    serves: str
    checks: list[Check]
    who: Check
    working: list[Step]
    way: list[StretchResult]


def supply(
    unit: str, title: str, entry: Supply, rules: Rules, sharing: Sequence[Rating] = ()
) -> SupplyResult:
    """A unit's circuit, held against what its sheet or its nameplate asks.

    ``sharing``: the other heads on the same circuit, which it feeds together with this one.
    """
    entry = along(entry)
    stretched = way(entry)
    found = with_shared(rating(unit, entry, rules), sharing)
    ampacity, said_by = ampacity_of(entry)
    earth = earth_of(entry, found.mca_a)
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
        *_in_front(breaker(entry, found, ampacity), conductor(entry, found, ampacity, said_by)),
        *terminal(unit, entry, found, rules),
        ground(entry, earth),
        drop(entry, found, rules),
        voltage(entry, found, rules),
        *source(entry, found, rules),
        *way_checks(entry, stretched),
        *junction_checks(entry),
        *disconnect_checks(entry, found, rules),
        *visual_checks(unit, entry, found, rules),
        *head_later_checks(entry, ampacity),
    ]
    working = [] if ampacity is None else [_carries(ampacity, said_by)]
    if entry.breaker_a is not None and (awg := awg_of(entry.gauge)) is not None:
        working += ground_steps(entry.breaker_a, awg, earth)
    return SupplyResult(
        unit=unit,
        title=title,
        entry=entry,
        rating=found,
        ampacity_a=ampacity,
        earth=earth,
        ground_awg=ground_awg(entry, earth),
        marks=marks,
        serves=_serves(entry, found, ampacity),
        checks=[_of(c, unit, title) for c in checks],
        who=_of(connection_check(entry, rules, title), unit, title),
        working=working,
        way=stretched,
    )


def with_shared(own: Rating, sharing: Sequence[Rating]) -> Rating:
    """What several heads on one circuit ask of it: the sum of their MCA, the least of their MOP."""
    if not sharing:
        return own
    every = [own, *sharing]
    mcas, mops = [r.mca_a for r in every], [r.mop_a for r in every]
    return replace(
        own,
        mca_a=sum(a for a in mcas if a is not None) if None not in mcas else None,
        mop_a=min(a for a in mops if a is not None) if None not in mops else None,
        source=f"{own.source}, {len(every)} heads together",
    )


def _in_front(first: Check, wires: list[Check]) -> list[Check]:
    """A conductor that is too thin leads the advice: another breaker does not mend it."""
    thin = any(c.id == "conductor" and c.call.verdict is Verdict.STOP for c in wires)
    return [*wires, first] if thin else [first, *wires]


def _carries(ampacity: float, said_by: str) -> Step:
    source = table("conductors")["ampacity_source"]
    said = said_by if said_by.startswith("local code") else f"{said_by}; {source}"
    return Step(step="ampacity of the circuit", expression=said, value=ampacity, unit="A")


def _of(check: Check, unit: str, title: str) -> Check:
    """A check of one of several circuits, named after its unit."""
    own = unit == OUTDOOR
    return check.model_copy(
        update={
            "id": f"{unit}_{check.id}",
            "label": check.label if own else f"{capitalized(title)}: {check.label}",
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
