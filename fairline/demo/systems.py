"""The jobs at Kestrel Yard of other kinds of piping: home runs, branch box, trunk, kit."""

from datetime import datetime, timedelta
from functools import cache

from fairline.core.equipment import LETTERS, Equipment, PlannedFitting
from fairline.core.job import Job
from fairline.core.physics.constants import FOOT_M as FOOT
from fairline.core.route.cutting import StockLine, VanStock
from fairline.core.route.entry import RouteEntry
from fairline.core.sheet import BranchBox, Head, Kit, Outdoor, Tee
from fairline.core.survey.stage import Room, SurveyEntry, WantedHead
from fairline.demo import jobs, places, routes, wiring
from fairline.demo.by_hand import by_hand
from fairline.demo.heads import (
    HARTWICK_W25,
    OSMUND_C35,
    OSMUND_F26,
    OSMUND_H26,
    PELLOW_C50,
    PELLOW_W20,
    PELLOW_W35,
)
from fairline.demo.jobs import DAY_ONE, IDA, TOMAS, job_head, one_zone, planned
from fairline.demo.sheet_parts import BTU_H, HALF, QUARTER, THREE_EIGHTHS
from fairline.demo.sheets import (
    HARTWICK_120,
    HARTWICK_TEE,
    OSMUND_26,
    OSMUND_80,
    OSMUND_KIT_25,
    PELLOW_90,
    PELLOW_BOX,
)

VAN = VanStock(
    lines=(
        StockLine(
            kind="roll",
            name="pair roll 1/4 + 3/8",
            liquid_od_m=QUARTER,
            gas_od_m=THREE_EIGHTHS,
            length_m=50 * FOOT,
            count=2,
        ),
        StockLine(
            kind="kit",
            name="pair 35 ft",
            liquid_od_m=QUARTER,
            gas_od_m=THREE_EIGHTHS,
            length_m=35 * FOOT,
            count=1,
        ),
        StockLine(
            kind="kit",
            name="pair 25 ft",
            liquid_od_m=QUARTER,
            gas_od_m=THREE_EIGHTHS,
            length_m=25 * FOOT,
            count=2,
        ),
        StockLine(
            kind="off-cut",
            name="off-cut",
            liquid_od_m=QUARTER,
            gas_od_m=THREE_EIGHTHS,
            length_m=6.1,
            count=1,
        ),
        StockLine(
            kind="roll",
            name="pair roll 1/4 + 1/2",
            liquid_od_m=QUARTER,
            gas_od_m=HALF,
            length_m=50 * FOOT,
            count=1,
        ),
    )
)


def demo_jobs() -> list[Job]:
    """The oldest first: the board shows the newest on top."""
    return [
        jobs.bindery(),
        jobs.luthier(),
        jobs.darkroom(),
        jobs.letterpress(),
        jobs.cafe(),
        gallery(),
        foundry(),
        signal_house(),
        gatehouse(),
    ]


@cache
def gallery() -> Job:
    """Three heads now and one later, on home runs; the circuit of an older machine is to serve."""
    day = DAY_ONE + timedelta(days=34)
    old = wiring.circuit(
        50.0,
        "8 AWG",
        41.0,
        circuit="reused",
        conduit="liquid-tight",
        disconnect="fused",
        fuse_a=35.0,
        neutral="loose",
        left_behind=None,
        who="us",
        who_name=TOMAS,
        licence="",
        been=None,
    )
    return wiring.wired(
        by_hand(_gallery(day), day + timedelta(hours=1), TOMAS, "route"),
        wiring.entry({"outdoor": old}),
        day + timedelta(hours=6),
        TOMAS,
        cables=["A"],
    )


def _gallery(day: datetime) -> Job:
    rooms = (
        Room(
            name="Print gallery",
            area_m2=41.0,
            ceiling_m=2.75,
            exposure="south",
            load_w=8400 * BTU_H,
        ),
        Room(
            name="Frame store", area_m2=19.0, ceiling_m=2.6, exposure="north", load_w=7000 * BTU_H
        ),
        Room(
            name="Reading room", area_m2=21.0, ceiling_m=2.8, exposure="west", load_w=10_200 * BTU_H
        ),
        Room(name="Loft", area_m2=16.0, ceiling_m=2.4, exposure="roof", load_w=6200 * BTU_H),
    )
    return Job(
        uid="kestrel-gallery-0006",
        created_at=day,
        head=job_head("Gallery", "bay 9, three rooms"),
        equipment=planned(OSMUND_80, OSMUND_H26, OSMUND_F26, OSMUND_C35),
        survey=SurveyEntry(
            rooms=rooms,
            heads=(
                WantedHead(zone="A", room="Print gallery", sheet=OSMUND_H26.name),
                WantedHead(zone="B", room="Frame store", form="console", sheet=OSMUND_F26.name),
                WantedHead(zone="C", room="Reading room", form="cassette", sheet=OSMUND_C35.name),
                WantedHead(zone="D", room="Loft", when="later"),
            ),
            outdoor=OSMUND_80.name,
            outdoor_place="Yard, between casement and vent",
            wall="mixed",
            frost="yes",
            snow_m=0.3,
            hazards_seen=("services",),
            surveyed_by=IDA,
        ),
        mount=places.gallery_mount(OSMUND_H26, OSMUND_F26),
        route=routes.gallery(),
    )


def surveyed(outdoor: Outdoor, rooms: dict[str, float], heads: tuple[Head, ...]) -> SurveyEntry:
    """Rooms by name with their load in BTU/h, and a head in each."""
    return SurveyEntry(
        rooms=tuple(
            Room(name=name, area_m2=24.0, ceiling_m=2.7, load_w=load * BTU_H)
            for name, load in rooms.items()
        ),
        heads=tuple(
            WantedHead(zone=z, room=room, form=head.form, sheet=head.name)
            for z, room, head in zip(LETTERS, rooms, heads, strict=False)
        ),
        outdoor=outdoor.name,
        wall="masonry",
        hazards_seen=("services", "height"),
        surveyed_by=IDA,
    )


def fitted(
    outdoor: Outdoor, heads: tuple[Head, ...], route: RouteEntry, sheet: BranchBox | Tee | Kit
) -> Equipment:
    """The planned units, with one sheet for every box, tee or kit of the route."""
    at = [e for e, r in route.runs.items() if r.sheet or r.kit]
    fittings = tuple(PlannedFitting.model_validate({"at": e, "sheet": sheet}) for e in at)
    return planned(outdoor, *heads).model_copy(update={"fittings": fittings})


@cache
def foundry() -> Job:
    """A branch box in the attic, three heads on it; the cables of B and C lie exchanged."""
    day = DAY_ONE + timedelta(days=41)
    job = by_hand(_foundry(day), day + timedelta(hours=1), TOMAS, "route")
    supply = wiring.circuit(40.0, "8 AWG", 64.0)
    wire = wiring.entry(
        {"outdoor": supply}, box_ports={"box1": wiring.ports_set(job, "box1")}, colour_3="blue"
    )
    return wiring.wired(job, wire, day + timedelta(hours=7), TOMAS, moved={"B": "C", "C": "B"})


def _foundry(day: datetime) -> Job:
    route = routes.foundry()
    heads = (PELLOW_W20, PELLOW_W35, PELLOW_C50)
    rooms = {"Pattern loft": 6100.0, "Drawing office": 11_000.0, "Showroom": 16_500.0}
    return Job(
        uid="kestrel-foundry-0007",
        created_at=day,
        head=job_head("Pattern foundry", "bay 12, three rooms"),
        equipment=fitted(PELLOW_90, heads, route, PELLOW_BOX),
        survey=surveyed(PELLOW_90, rooms, heads),
        route=route,
    )


@cache
def signal_house() -> Job:
    """Six rooms along a corridor, one trunk with five tees; the pair has reached the fourth."""
    day = DAY_ONE + timedelta(days=48)
    job = by_hand(_signal_house(day), day + timedelta(hours=1), IDA, "route")
    supplies = {"outdoor": wiring.circuit(40.0, "8 AWG", 70.0, been=None, comes="Friday")}
    supplies |= {z: wiring.inside(15.0, 45.0 + 12 * n) for n, z in enumerate("ABCD")}
    addresses = {z: a for z, a in wiring.addressed(job).items() if z in "ABCD"}
    return wiring.wired(
        job,
        wiring.entry(supplies, addresses=addresses, cable_kind="shielded", cable_gauge=None),
        day + timedelta(hours=6),
        IDA,
        cables=["A", "B", "C", "D", "supply.A", "supply.B"],
    )


def _signal_house(day: datetime) -> Job:
    route = routes.signal_house()
    heads = (HARTWICK_W25,) * 6
    rooms = {f"Studio {n}": 7400.0 for n in range(1, 7)}
    return Job(
        uid="kestrel-signal-0008",
        created_at=day,
        head=job_head("Signal house", "bay 15, six studios"),
        equipment=fitted(HARTWICK_120, heads, route, HARTWICK_TEE),
        survey=surveyed(HARTWICK_120, rooms, heads),
        route=route,
    )


@cache
def gatehouse() -> Job:
    """A single zone on a pre-charged kit."""
    day, route = DAY_ONE + timedelta(days=55), routes.gatehouse()
    zone = one_zone("Gatehouse", 7900, OSMUND_26, OSMUND_H26)
    zone["equipment"] = fitted(OSMUND_26, (OSMUND_H26,), route, OSMUND_KIT_25)
    job = Job(
        uid="kestrel-gatehouse-0009",
        created_at=day,
        head=job_head("Gatehouse", "bay 1"),
        route=route,
        **zone,
    )
    return by_hand(job, day + timedelta(hours=1), IDA, "route")
