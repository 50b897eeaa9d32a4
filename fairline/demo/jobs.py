"""The jobs of a single zone at Kestrel Yard, each at another stage."""

import random
from datetime import UTC, datetime, timedelta
from functools import cache
from typing import Any

from fairline.core.charge.entry import Release, Weighing
from fairline.core.commission.records import Running
from fairline.core.commission.start_up import ITEMS, CommissionEntry
from fairline.core.equipment import LETTERS, Equipment, PlannedHead, PlannedOutdoor
from fairline.core.evacuate.entry import EvacuateEntry
from fairline.core.evacuate.records import Isolation
from fairline.core.evacuate.rig import HoseRow, RigEntry
from fairline.core.flare.records import JointRecord, WrenchEntry
from fairline.core.hand_over.entry import HandOverEntry
from fairline.core.job import Job, JobHead
from fairline.core.mount.stage import MountEntry
from fairline.core.physics.constants import MICRON_PA, PSI_PA
from fairline.core.physics.nitrogen import expected_gauge_pa
from fairline.core.pressure_test.hold import TestEntry
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.readings import (
    HoldReading,
    HoldReadings,
    HoldRun,
    Run,
    VacuumKind,
    VacuumReading,
    VacuumReadings,
    VacuumRun,
)
from fairline.core.route.entry import LineRun, RouteEntry
from fairline.core.sheet import Head, Outdoor
from fairline.core.survey.stage import Room, SurveyEntry, WantedHead
from fairline.core.survey.unboxing import Box
from fairline.demo import places, wiring
from fairline.demo.by_hand import by_hand
from fairline.demo.heads import OSMUND_H26, PELLOW_W35
from fairline.demo.routes import legs, run_of
from fairline.demo.sheet_parts import BTU_H, CFM
from fairline.demo.sheets import OSMUND_26, PELLOW_35
from fairline.instruments.vacuum import MicronGauge, Scenario, system

DAY_ONE = datetime(2026, 3, 3, 8, 0, tzinfo=UTC)
JOINTS = ("A.gas.end", "A.liquid.end", "A.gas.start", "A.liquid.start")
IDA, TOMAS = "Ida Marsh", "Tomas Reed"  # invented
RIG = RigEntry(  # a six-cfm pump on a wide hose
    pump_m3_s=6 * CFM,
    ultimate_pa=15 * MICRON_PA,
    oil_evacuations=0,
    cores="out",
    manifold="no",
    adapter="yes",
    gauge_at="far",
    hoses=(HoseRow(bore_m=0.0095, length_m=0.9),),
)


def job_head(name: str, bay: str) -> JobHead:
    return JobHead(
        name=name,
        site=f"Kestrel Yard, {bay}",
        customer="Kestrel Yard studios",
        company="Ninefold Ductless",
        company_phone="555 0142",
        practice=True,
    )


def survey(room: str, load_btu_h: float, outdoor: Outdoor, indoor: Head) -> SurveyEntry:
    """One room, one head, all of it surveyed and unboxed."""
    return SurveyEntry(
        rooms=(
            Room(
                name=room, area_m2=34.0, ceiling_m=2.75, exposure="south", load_w=load_btu_h * BTU_H
            ),
        ),
        heads=(WantedHead(zone="A", room=room, sheet=indoor.name),),
        outdoor=outdoor.name,
        outdoor_place="Yard side, below the window",
        wall="frame",
        frost="yes",
        flood_m=0.3,
        hazards_seen=("services", "height"),
        surveyed_by=IDA,
        boxes={
            "outdoor": Box(
                serial=f"K{len(room) * 7919}",
                damage="none",
                codes_belong="yes",
                parts_seen=outdoor.parts_list(),
            ),
            "A": Box(
                serial=f"H{len(room) * 6271}",
                damage="none",
                codes_belong="yes",
                hiss="heard",
                parts_seen=indoor.parts_list(),
            ),
        },
    )


def planned(outdoor: Outdoor, *heads: Head) -> Equipment:
    return Equipment(
        outdoor=PlannedOutdoor(sheet=outdoor),
        heads=tuple(PlannedHead(zone=z, sheet=h) for z, h in zip(LETTERS, heads, strict=False)),
    )


def one_zone(
    room: str, load_btu_h: float, outdoor: Outdoor, indoor: Head, mount: MountEntry | None = None
) -> dict[str, Any]:
    """What a single-zone job is planned with, surveyed and mounted."""
    return {
        "equipment": planned(outdoor, indoor),
        "survey": survey(room, load_btu_h, outdoor, indoor),
        "mount": mount or places.mount(indoor),
    }


def joints(day: datetime, by: str = TOMAS) -> list[JointRecord]:
    torques = {"liquid": (16.1, 16.6), "gas": (37.5, 38.9)}
    return [
        JointRecord(
            place=place,
            look="good",
            by=by,
            at=day + timedelta(minutes=25 * i),
            applied_nm=torques[place.split(".")[1]][i % 2],
        )
        for i, place in enumerate(JOINTS)
    ]


def dry(at: datetime, by: str) -> list[LeakCheck]:
    """Every joint of a single zone with bubbles, after the valves were opened."""
    return [
        LeakCheck(
            joint=place, found="clean", watched_s=150.0, by=by, at=at + timedelta(minutes=3 * n)
        )
        for n, place in enumerate(JOINTS)
    ]


def hold(
    day: datetime, start_psi: float, hours: float, from_c: float, to_c: float, lost_psi: float = 0.0
) -> Run:
    """A nitrogen hold logged every half hour while the yard cools down and warms again."""
    chance = random.Random(7)
    readings = []
    steps = int(hours * 2)
    for i in range(steps + 1):
        share = min(1.0, i / max(steps * 0.75, 1))
        pipe = from_c + (to_c - from_c) * share + chance.gauss(0, 0.05)
        gauge = expected_gauge_pa(start_psi * PSI_PA, from_c, pipe)
        gauge -= lost_psi * PSI_PA * i / max(steps, 1)
        readings.append(
            HoldReading(
                instrument="digital gauge",
                seq=i,
                t_s=i * 1800.0,
                gauge_pa=round(gauge / PSI_PA) * PSI_PA,
                pipe_c=round(pipe, 1),
                simulated=True,
            )
        )
    return HoldRun(
        uid=f"hold-{day:%d%H}",
        kind="hold",
        started_at=day,
        started_by=TOMAS,
        ended_at=day + timedelta(hours=hours),
        readings=HoldReadings.of(readings),
    )


def seen_off(day: datetime, pull_min: float, by: str = TOMAS) -> Isolation:
    """That the valve was shut and the pump seen off at the end of a pull."""
    at = day + timedelta(minutes=pull_min)
    return Isolation(run=f"decay-{at:%d%H%M}", by=by, at=at)


def vacuum(
    day: datetime,
    scenario: Scenario,
    pull_min: float,
    decay_min: float,
    seed: int,
    ambient_c: float = 20.0,
) -> list[Run]:
    """A pull and its decay, from the simulated system and gauge."""
    plant = system(scenario, ambient_c)
    gauge = MicronGauge(plant, seed=seed)
    runs: list[Run] = []
    begun = day
    spans: list[tuple[VacuumKind, float]] = [("pull", pull_min), ("decay", decay_min)]
    for kind, minutes in spans:
        if kind == "decay":
            plant.isolate()
        readings = []
        for i in range(int(minutes * 60 / 5) + 1):
            readings.append(
                VacuumReading(
                    instrument="micron gauge",
                    seq=i,
                    t_s=i * 5.0,
                    pa=gauge.read_pa(),
                    simulated=True,
                )
            )
            plant.advance(5, pumping=kind == "pull")
        ended = begun + timedelta(minutes=minutes)
        runs.append(
            VacuumRun(
                uid=f"{kind}-{begun:%d%H%M}",
                kind=kind,
                started_at=begun,
                started_by=TOMAS,
                ended_at=ended,
                readings=VacuumReadings.of(readings),
            )
        )
        begun = ended
    return runs


@cache
def bindery() -> Job:
    """Done and handed over."""
    supply = wiring.circuit(15.0, "14 AWG", 38.0)
    wire = wiring.entry({"outdoor": supply})
    done = wiring.wired(_bindery(), wire, DAY_ONE + timedelta(hours=8), TOMAS)
    return by_hand(done, DAY_ONE + timedelta(hours=3), TOMAS)


def _bindery() -> Job:
    run = run_of(("up", 7), ("right", 13), ("up", 4), ("in", 1.2), ("right", 3.5), ("up", 1.5))
    return Job(
        uid="kestrel-bindery-0001",
        created_at=DAY_ONE,
        head=job_head("Bindery", "bay 4"),
        **one_zone("Bindery", 8200, OSMUND_26, OSMUND_H26),
        route=run,
        flare=WrenchEntry(wrench_m=0.25, adapter_m=0.045, adapter_deg=0),
        pressure_test=TestEntry(altitude_m=210.0),
        evacuate=EvacuateEntry(ambient_c=18.0, fresh_oil=True, rig=RIG),
        commission=CommissionEntry(
            **dict.fromkeys(ITEMS, "yes"), left_mode="cool", left_set_c=24.0
        ),
        records=(
            *joints(DAY_ONE + timedelta(hours=4)),
            seen_off(DAY_ONE + timedelta(days=1, hours=1), 22),
            Weighing(
                cylinder="R-32 no. 3",
                before_kg=7.842,
                after_kg=7.806,
                hose_kg=0.004,
                by=IDA,
                at=DAY_ONE + timedelta(days=1, hours=3),
            ),
            Release(
                order="gas_first",
                full_open=True,
                caps_on=True,
                by=IDA,
                at=DAY_ONE + timedelta(days=1, hours=3, minutes=20),
            ),
            *dry(DAY_ONE + timedelta(days=1, hours=3, minutes=24), IDA),
            wiring.started(DAY_ONE + timedelta(days=1, hours=3, minutes=40), IDA),
            Running(
                mode="cool",
                return_c=26.0,
                return_rh=0.53,
                supply_c=13.6,
                supply_rh=0.94,
                current_a=4.9,
                fan="high",
                outdoor_c=24.0,
                drain="runs",
                by=IDA,
                at=DAY_ONE + timedelta(days=1, hours=4),
            ),
            Running(
                mode="heat",
                return_c=19.4,
                return_rh=0.42,
                supply_c=36.2,
                supply_rh=0.16,
                current_a=5.6,
                fan="high",
                outdoor_c=9.0,
                by=IDA,
                at=DAY_ONE + timedelta(days=1, hours=5),
            ),
        ),
        runs=(
            hold(DAY_ONE + timedelta(hours=7), 300, 2.0, 17.0, 16.0),
            *vacuum(DAY_ONE + timedelta(days=1, hours=1), "sound", 22, 12, seed=3),
        ),
        hand_over=HandOverEntry(
            labels=True,
            filters=True,
            breaker=True,
            yearly=True,
            manuals=True,
            warranty=True,
            received_by="The bindery's keeper",
        ),
    )


@cache
def luthier() -> Job:
    """The pressure fell overnight with the temperature, and is sound; an electrician is due."""
    day = DAY_ONE + timedelta(days=6)
    supply = wiring.circuit(20.0, "12 AWG", 52.0, been=None, comes="Tuesday, 10:00")
    return wiring.wired(
        by_hand(_luthier(day), day + timedelta(hours=4), TOMAS, "pressure-test"),
        wiring.entry({"outdoor": supply}),
        day + timedelta(hours=10),
        TOMAS,
        cables=["A"],
    )


def _luthier(day: datetime) -> Job:
    return Job(
        uid="kestrel-luthier-0002",
        created_at=day,
        head=job_head("Luthier", "bay 7, gallery"),
        **one_zone("Luthier", 10_400, PELLOW_35, PELLOW_W35),
        route=run_of(("up", 11), ("left", 9), ("in", 1.3), ("left", 4)),
        flare=WrenchEntry(wrench_m=0.25),
        records=tuple(_pellow_joints(day + timedelta(hours=5))),
        runs=(hold(day + timedelta(hours=9), 437, 15.0, 23.5, 6.5),),
    )


def _pellow_joints(day: datetime) -> list[JointRecord]:
    return [
        r.model_copy(update={"applied_nm": 55.0}) if ".gas." in r.place else r for r in joints(day)
    ]


@cache
def darkroom() -> Job:
    """The decay levels off: water."""
    day = DAY_ONE + timedelta(days=13)
    wire = wiring.entry({"outdoor": wiring.circuit(15.0, "14 AWG", 30.0)})
    joined = by_hand(_darkroom(day), day + timedelta(hours=2), IDA, "pressure-test")
    return wiring.wired(joined, wire, day + timedelta(hours=6), IDA)


def _darkroom(day: datetime) -> Job:
    return Job(
        uid="kestrel-darkroom-0003",
        created_at=day,
        head=job_head("Darkroom", "bay 5, cellar"),
        **one_zone("Darkroom", 7600, OSMUND_26, OSMUND_H26),
        route=run_of(("up", 9), ("left", 16), ("down", 3), ("in", 1.2), ("left", 6)),
        flare=WrenchEntry(wrench_m=0.25, adapter_m=0.045),
        evacuate=EvacuateEntry(
            ambient_c=15.0,
            rig=RIG.model_copy(update={"cores": "in", "manifold": "yes"}),
            notes="The line set lay taped in the yard for three weeks.",
        ),
        records=(*joints(day + timedelta(hours=3)), seen_off(day + timedelta(hours=8), 45)),
        runs=(
            hold(day + timedelta(hours=5), 302, 1.5, 14.0, 15.5),
            *vacuum(day + timedelta(hours=8), "wet", 45, 16, seed=5, ambient_c=15.0),
        ),
    )


@cache
def letterpress() -> Job:
    """Under nitrogen, an hour asked and half of it held; one joint went by feel and was re-made."""
    day = DAY_ONE + timedelta(days=20)
    felt = JointRecord(place="A.liquid.end", look="good", how="by feel", by=TOMAS, at=day)
    job = Job(
        uid="kestrel-letterpress-0004",
        created_at=day,
        head=job_head("Letterpress room", "bay 2, tram pit"),
        **one_zone("Letterpress room", 8800, OSMUND_26, OSMUND_H26),
        route=run_of(("up", 6), ("right", 8), ("in", 1.1), ("up", 2)),
        flare=WrenchEntry(wrench_m=0.25, adapter_m=0.045),
        records=(felt, *joints(day + timedelta(hours=2))),
        runs=(hold(day + timedelta(hours=4), 300, 0.5, 16.0, 16.5),),
    )
    return by_hand(job, day + timedelta(hours=1), TOMAS, "pressure-test")


@cache
def cafe() -> Job:
    """Surveyed, and the head is set too close to the ceiling."""
    day = DAY_ONE + timedelta(days=27)
    wall = places.mount(PELLOW_W35, x_m=2.2, y_m=2.42)
    job = Job(
        uid="kestrel-cafe-0005",
        created_at=day,
        head=job_head("Café", "ticket hall"),
        **one_zone("Café", 11_200, PELLOW_35, PELLOW_W35, wall),
        route=RouteEntry(
            valve_height_m=0.4,
            runs={"A": LineRun(fed_from="outdoor", legs=legs(("up", 2.6), ("right", 3.8)))},
        ),
    )
    return by_hand(job, day + timedelta(hours=1), IDA, "route")
