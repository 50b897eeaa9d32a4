"""The label at the outdoor unit: refrigerant, length of line, charge as it stands, date."""

from collections.abc import Collection
from datetime import datetime

from fairline.core.call import Frozen
from fairline.core.charge.entry import Weighing
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.practice import Rules
from fairline.core.route.stage import RouteStageResult


class RunLabel(Frozen):
    """What is written on a run's two ends, its port and its cable."""

    end: str
    tag: str
    zone: str  # of a head; blank of a main run
    address: str
    length_m: float | None
    built: bool


class PortLabel(Frozen):
    """A port of the outdoor unit or a box: the zone on it, or that it is capped, kept or open."""

    at: str
    port: str
    zone: str
    state: str  # "used", "capped", "kept" or "open"


class UnitLabel(Frozen):
    """SI; None where it is not known. ``weighed`` tells a weighed charge from a planned one."""

    refrigerant: str | None
    length_m: float | None
    built: bool  # the length is measured as built, not as planned
    runs: tuple[RunLabel, ...]
    ports: tuple[PortLabel, ...]  # of what has more than one
    factory_kg: float | None
    added_kg: float | None
    weighed: bool
    total_kg: float | None
    date: datetime | None


def unit_label(
    rules: Rules,
    routed: RouteStageResult,
    charged: ChargeStageResult,
    weighings: tuple[Weighing, ...],
    open_ends: Collection[str] = (),
) -> UnitLabel:
    """What was weighed in counts; before any weighing, what the sheet's rule asks for.

    ``open_ends``: ports that nothing closes, ``outdoor-D``.
    """
    pipes = routed.pipes
    added_kg = charged.answer.result.added_kg if charged.answer else None
    if weighings:
        added_kg = charged.weighed_kg
    factory_kg = rules.outdoor.factory_charge_kg if rules.outdoor else None
    known = factory_kg is not None and added_kg is not None
    return UnitLabel(
        refrigerant=rules.outdoor.refrigerant if rules.outdoor else None,
        length_m=pipes.total_m,
        built=pipes.built,
        runs=tuple(
            RunLabel(
                end=s.id,
                tag=s.tag,
                zone=s.id if s.kind == "head" else "",
                address=pipes.addresses.get(s.id, ""),
                length_m=s.length_m,
                built=s.built_m is not None,
            )
            for s in pipes.stretches
        ),
        ports=_ports(routed, open_ends),
        factory_kg=factory_kg,
        added_kg=added_kg,
        weighed=bool(weighings),
        total_kg=(factory_kg or 0.0) + (added_kg or 0.0) if known else None,
        date=max((r.at for r in charged.openings), default=None),
    )


def _ports(routed: RouteStageResult, open_ends: Collection[str]) -> tuple[PortLabel, ...]:
    """Every port, in its order, of each thing that has more than one."""
    pipes, spare = routed.pipes, {p.key: p for p in routed.spare}
    found = []
    for at, names in pipes.outlets.items():
        for name in names if len(names) > 1 else ():
            key = f"{at}-{name}"
            state = "used" if key in pipes.used else "capped"
            if key in open_ends:
                state = "open"
            elif key in spare and spare[key].kept:
                state = "kept"
            found.append(PortLabel(at=at, port=name, zone=pipes.used.get(key, ""), state=state))
    return tuple(found)
