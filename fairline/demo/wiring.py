"""How the demo's jobs are wired: circuits, landings, and what was proved before hands went in."""

from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from typing import Any

from fairline.core.entry import Record
from fairline.core.job import Job
from fairline.core.line import work
from fairline.core.physics.constants import FOOT_M as FOOT
from fairline.core.practice import Practice
from fairline.core.route.stage import RouteStageResult
from fairline.core.wire.entry import Address, Supply, WireEntry
from fairline.core.wire.records import Landing, PowerOn, ProvedDead, SwitchedOff, WireEnd
from fairline.core.wire.settings import used_ports
from fairline.core.wire.stage import WireStageResult
from fairline.core.wire.wiring import Wiring

VOLT = "Vera Lund, electrician"  # invented
SETTLED: dict[str, Any] = {  # what is looked at on a circuit, and is in order
    "dedicated": "yes",
    "grounded": "yes",
    "neutral": "ok",
    "white": "ok",
    "left_behind": "ok",
    "whip": "yes",
    "bushing": "ok",
    "receptacle": "yes",
    "gfci": "ok",
}


def circuit(breaker_a: float, gauge: str, feet: float, **more: Any) -> Supply:
    """A new circuit in metal tube along the yard wall, with a disconnect beside the unit."""
    given: dict[str, Any] = {
        "circuit": "new",
        "breaker_a": breaker_a,
        "poles": "2",
        "volts_v": 240.0,
        "gauge": gauge,
        "metal": "copper",
        "terminal_c": "60",
        "length_m": feet * FOOT,
        "way": "conduit",
        "conduit": "emt",
        "exposures": ("inside", "weather"),
        "disconnect": "switch",
        "disconnect_a": 60.0,
        "in_sight": "yes",
        "disconnect_m": 1.2,
        "who": "electrician",
        "who_name": VOLT,
        "licence": "invented 4471",
        "been": "yes",
    }
    return Supply.model_validate(given | SETTLED | {"ground_gauge": gauge} | more)


def inside(breaker_a: float, feet: float, **more: Any) -> Supply:
    """The circuit of a head fed inside the building, on sheathed cable."""
    own = {"way": "sheathed", "conduit": None, "exposures": ("inside",), "disconnect_a": 20.0}
    return circuit(breaker_a, "14 AWG", feet, **own, **more)


def entry(supplies: Mapping[str, Supply], **more: Any) -> WireEntry:
    """Outdoor-rated 14-gauge cable in a way of its own."""
    given: dict[str, Any] = {"cable_kind": "outdoor", "cable_gauge": "14 AWG", "cable_way": "own"}
    given |= {"pair": "black-white"}
    return WireEntry.model_validate({"supplies": dict(supplies)} | given | more)


def plan_of(job: Job) -> Wiring:
    return work(job, Practice()).of(WireStageResult).wiring


def landings(
    job: Job,
    day: datetime,
    by: str,
    cables: Iterable[str] | None = None,
    moved: Mapping[str, str] | None = None,
) -> list[Record]:
    """Every conductor of these cables where it belongs, each end finished; all where none is named.

    ``moved``: cables whose outdoor end lies on another cable's block.
    """
    plan, found = plan_of(job), list[Record]()
    wanted = list(plan.cables) if cables is None else list(cables)
    for name in wanted:
        cable = plan.cables[name]
        for side in cable.sides:
            block = plan.blocks[cable.block(side)]
            at_block = block.id
            if side == "start" and moved and name in moved:
                at_block = plan.cables[moved[name]].start
            for terminal, colour in zip(block.places, cable.colours, strict=True):
                moment = day + timedelta(seconds=len(found))
                found.append(
                    Landing(
                        cable=name,
                        side=side,
                        block=at_block,
                        terminal=terminal,
                        colour=colour,
                        pulled=True,
                        by=by,
                        at=moment,
                    )
                )
            found.append(
                WireEnd(
                    cable=name,
                    side=side,
                    letter=cable.letter,
                    tip="taken",
                    slack="yes",
                    strain="yes",
                    cover="yes",
                    plug="out" if plan.asks_plug(cable, side) else None,
                    shield=("grounded" if plan.grounds_shield(block.unit) else "taped")
                    if cable.kind == "pair"
                    else None,
                    by=by,
                    at=day + timedelta(seconds=len(found)),
                )
            )
    return found


def proved(job: Job, day: datetime, by: str) -> list[Record]:
    """Every unit with a circuit of its own: off and locked, and proved dead six minutes later."""
    found: list[Record] = []
    for n, unit in enumerate(plan_of(job).fed):
        at = day + timedelta(seconds=30 * n)
        found += [
            SwitchedOff(unit=unit, locked="yes", by=by, at=at),
            ProvedDead(
                unit=unit,
                tester_before="yes",
                tester_after="yes",
                dead="yes",
                by=by,
                at=at + timedelta(minutes=6),
            ),
        ]
    return found


def started(at: datetime, by: str) -> PowerOn:
    return PowerOn(by=by, at=at)


def wired(job: Job, wire: WireEntry, day: datetime, by: str, **how: Any) -> Job:
    """A job with its wiring done: proved dead, then landed."""
    entered = job.model_copy(update={"wire": wire})
    records = [
        *proved(entered, day, by),
        *landings(entered, day + timedelta(minutes=12), by, **how),
    ]
    return entered.model_copy(update={"records": (*job.records, *records)})


def addressed(job: Job) -> dict[str, Address]:
    """A trunk's heads numbered as the pair passes them."""
    zones = [c.end for c in plan_of(job).cables.values() if c.kind == "pair"]
    return {z: Address(circuit="00", head=f"{n:02}") for n, z in enumerate(zones)}


def ports_set(job: Job, box: str) -> tuple[str, ...]:
    """The ports of a box that have a head, as they are set at its control."""
    return used_ports(box, work(job, Practice()).of(RouteStageResult).pipes)
