"""The demo's shelf: equipment of three invented makers. Fictional and plausible."""

from typing import Any

from fairline.core.limit_list import FOOT, HOUR, INCH, MICRON, MINUTE, PSI
from fairline.core.sheet import BranchBox, Head, Kit, Outdoor, Sheet, Tee
from fairline.core.sheet.part import (
    Airflow,
    ChargeRate,
    HeadAdder,
    Outlet,
    RoomCharge,
    Spot,
    Torque,
    TubePair,
)

OUNCE, CFM, BTU_H = 0.028349523125, FOOT**3 / 60, 1055.05585262 / 3600
QUARTER, THREE_EIGHTHS, HALF, FIVE_EIGHTHS = 0.00635, 0.00952, 0.0127, 0.01588
OZ_FT = OUNCE / FOOT

OSMUND: dict[str, Any] = {"maker": "Osmund Works", "series": "Tern", "refrigerant": "R-32"}
PELLOW: dict[str, Any] = {"maker": "Pellow Air", "series": "Ridge", "refrigerant": "R-454B"}
HARTWICK: dict[str, Any] = {"maker": "Hartwick", "series": "Vale", "refrigerant": "R-410A"}
FICTION = "Fictional sheet for the demo."
HEAD_PARTS = "Head\nMounting plate\nRemote and holder\nDrain elbow\nFlare nuts, two"
OUTDOOR_PARTS = "Outdoor unit\nFlare nuts\nDrain fitting"


def pairs(*gas: float, lettered: bool = True) -> tuple[TubePair, ...]:
    """Ports in order, quarter-inch liquid but for the largest gas tubes."""
    return tuple(
        TubePair(
            letter="ABCDEFGHIJ"[n] if lettered and len(gas) > 1 else "",
            liquid_od_m=THREE_EIGHTHS if g >= FIVE_EIGHTHS else QUARTER,
            gas_od_m=g,
        )
        for n, g in enumerate(gas)
    )


def torques(*ods: float) -> tuple[Torque, ...]:
    """Flare torques of these makers, inside the standard's own."""
    table = {QUARTER: (15.0, 17.5), THREE_EIGHTHS: (34.0, 41.0), HALF: (51.0, 60.0),
             FIVE_EIGHTHS: (64.0, 76.0)}  # fmt: skip
    return tuple(Torque(od_m=d, low_nm=table[d][0], high_nm=table[d][1]) for d in ods)


def air(*cfm: float) -> tuple[Airflow, ...]:
    speeds = ("quiet", "low", "middle", "high")
    return tuple(Airflow(speed=s, m3_s=f * CFM) for s, f in zip(speeds, cfm, strict=True))


def plate(width_m: float) -> dict[str, Any]:
    """Geometry of a high-wall plate: its mark sits left of the centre, the holes at both ends."""
    half = width_m / 2
    return {
        "mark_x_m": -0.045,
        "mark_y_m": 0.15,
        "screws": tuple(
            Spot(x_m=round(x, 4), y_m=y)
            for y in (0.09, -0.05)
            for x in (-0.36 * width_m, -0.203, 0.0, 0.203, 0.36 * width_m)
        ),
        "outlets": (
            Outlet(name="left back", x_m=round(0.045 - half + 0.09, 4), y_m=-0.105),
            Outlet(name="right back", x_m=round(0.045 + half - 0.09, 4), y_m=-0.105),
            Outlet(name="left side", way="side"),
            Outlet(name="right side", way="side"),
        ),
    }


def high_wall(maker: dict[str, Any], model: str, btu_h: float, **more: Any) -> Head:
    """A high-wall head; what ``more`` says ranks above what its size suggests."""
    width = 0.81 if btu_h < 10_000 else 0.88 if btu_h < 15_000 else 1.04
    given: dict[str, Any] = {
        "cool_w": btu_h * BTU_H, "heat_w": 1.2 * btu_h * BTU_H,
        "airflows": air(150, 210, 270, 0.0367 * btu_h), "throw_m": 7.5,
        "width_m": width, "height_m": 0.295, "depth_m": 0.215,
        "weight_kg": 9.5 + (btu_h - 9000) / 4000,
        "liquid_od_m": QUARTER, "gas_od_m": THREE_EIGHTHS if btu_h < 15_000 else HALF,
        "clear_left_m": 5 * INCH, "clear_right_m": 5 * INCH, "clear_ceiling_m": 3 * INCH,
        "min_height_m": 6 * FOOT, "hole_m": 2.5 * INCH, "plate_pitch": "level",
        "drain_od_m": 0.016, "parts": HEAD_PARTS, "notes": FICTION, "edition": "2025",
        "cites": {"clear_ceiling_m": "p. 7", "hole_m": "p. 9", "clear_left_m": "p. 7"},
        "head_class": "wall",
    }  # fmt: skip
    return Head(**(maker | {"model": model} | given | plate(width) | more))


OSMUND_26 = Outdoor(
    **OSMUND, model="OS-26", edition="2025, second", factory_charge_kg=0.62,
    cool_w=9000 * BTU_H, heat_w=10_900 * BTU_H, included_length_m=25 * FOOT,
    rates=(ChargeRate(liquid_od_m=QUARTER, kg_per_m=0.22 * OZ_FT),), max_total_charge_kg=1.0,
    ports=pairs(THREE_EIGHTHS), min_length_m=10 * FOOT, max_length_m=66 * FOOT,
    max_lift_m=39 * FOOT, max_bends=10, max_test_gauge_pa=600 * PSI,
    decay_max_pa=500 * MICRON, torques=torques(QUARTER, THREE_EIGHTHS), voltage_v=230.0,
    mca_a=9.5, mop_a=15.0, rated_current_a=6.8, width_m=0.80, height_m=0.55, depth_m=0.285,
    weight_kg=27.5, feet_width_m=0.514, feet_depth_m=0.30, clear_behind_m=6 * INCH,
    clear_front_m=24 * INCH, frost_base="open", parts=OUTDOOR_PARTS, notes=FICTION,
    cites={"max_length_m": "p. 14", "included_length_m": "p. 15", "rates": "p. 15",
           "max_test_gauge_pa": "p. 18", "clear_behind_m": "p. 11", "torques": "p. 17"},
)  # fmt: skip
PELLOW_35 = Outdoor(
    **PELLOW, model="PX-35", factory_charge_kg=0.95, cool_w=3500.0, heat_w=4200.0,
    included_length_m=7.5, rates=(ChargeRate(liquid_od_m=QUARTER, kg_per_m=0.020),),
    ports=pairs(HALF), min_length_m=3.0, max_length_m=25.0, max_lift_m=12.0,
    max_test_gauge_pa=4.15e6, test_gauge_pa=3.0e6, test_hold_s=12 * HOUR,
    pull_to_pa=250 * MICRON, decay_hold_s=15 * MINUTE, voltage_v=230.0, mca_a=12.0, mop_a=20.0,
    rated_current_a=8.9, width_m=0.83, height_m=0.60, depth_m=0.31, weight_kg=34.0,
    feet_width_m=0.54, feet_depth_m=0.33, clear_behind_m=0.15, clear_left_m=0.10,
    clear_right_m=0.50, clear_front_m=0.70, clear_above_m=0.30,
    parts=f"{OUTDOOR_PARTS}\nRubber feet", notes=FICTION,
)  # fmt: skip


def multi(model: str, ports: tuple[TubePair, ...], kw: float, kg: float, weight: float) -> Outdoor:
    """A home-run outdoor unit of the first maker."""
    return Outdoor(
        **OSMUND, model=model, system="multi", cool_w=1000 * kw, heat_w=1150 * kw,
        min_connected_w=400 * kw, max_connected_w=1350 * kw, min_heads=2, max_heads=len(ports),
        ports=ports, min_length_m=10 * FOOT, max_length_m=82 * FOOT,
        max_total_length_m=len(ports) * 50 * FOOT, max_lift_m=49 * FOOT, max_head_lift_m=25 * FOOT,
        factory_charge_kg=kg, included_length_m=len(ports) * 25 * FOOT,
        rates=(ChargeRate(liquid_od_m=QUARTER, kg_per_m=0.22 * OZ_FT),),
        max_total_charge_kg=kg + 0.8, max_test_gauge_pa=600 * PSI, decay_max_pa=500 * MICRON,
        torques=torques(QUARTER, THREE_EIGHTHS, HALF), voltage_v=230.0, mca_a=5.0 + 2.4 * kw,
        mop_a=25.0 if kw < 6 else 35.0, rated_current_a=4.0 + 1.9 * kw, width_m=0.92,
        height_m=0.70 + 0.015 * kw, depth_m=0.33, weight_kg=weight, feet_width_m=0.58,
        feet_depth_m=0.35, clear_behind_m=6 * INCH, clear_left_m=6 * INCH,
        clear_right_m=20 * INCH, clear_front_m=28 * INCH, clear_above_m=12 * INCH,
        supports=("pad", "stand", "bracket"), frost_base="open", parts=OUTDOOR_PARTS,
        notes=FICTION, edition="2025", cites={"max_connected_w": "p. 6", "min_connected_w": "p. 6"},
    )  # fmt: skip


OSMUND_50 = multi("OS-50M2", pairs(THREE_EIGHTHS, THREE_EIGHTHS), 5.0, 1.15, 39.0)
OSMUND_80 = multi("OS-80M4", pairs(THREE_EIGHTHS, THREE_EIGHTHS, THREE_EIGHTHS, HALF), 8.0, 1.80,
                  62.0)  # fmt: skip
PELLOW_90 = Outdoor(
    **PELLOW, model="PX-90B", system="branch-box", cool_w=9000.0, heat_w=10_500.0,
    min_connected_w=4500.0, max_connected_w=11_700.0, min_heads=2, max_heads=5,
    ports=pairs(FIVE_EIGHTHS, lettered=False), max_length_m=25.0, max_total_length_m=80.0,
    max_main_length_m=55.0, max_lift_m=30.0, max_head_lift_m=12.0, factory_charge_kg=2.4,
    included_length_m=30.0, included_rate_kg_per_m=0.045,
    rates=(ChargeRate(liquid_od_m=QUARTER, kg_per_m=0.018),
           ChargeRate(liquid_od_m=THREE_EIGHTHS, kg_per_m=0.045)),
    head_adders=(HeadAdder(head_class="cassette", kg=0.05), HeadAdder(head_class="wall", kg=0.0)),
    max_added_kg=1.6,
    room_charges=(RoomCharge(area_m2=8.0, max_kg=2.4), RoomCharge(area_m2=12.0, max_kg=3.0),
                  RoomCharge(area_m2=18.0, max_kg=3.7)),
    test_gauge_pa=4.0e6, max_test_gauge_pa=4.15e6, test_hold_s=24 * HOUR, pull_to_pa=250 * MICRON,
    decay_hold_s=30 * MINUTE, torques=torques(THREE_EIGHTHS, FIVE_EIGHTHS), voltage_v=230.0,
    mca_a=24.0, mop_a=40.0, rated_current_a=19.0, width_m=0.95, height_m=1.05, depth_m=0.36,
    weight_kg=94.0, feet_width_m=0.60, feet_depth_m=0.37, clear_behind_m=0.15,
    clear_left_m=0.15, clear_right_m=0.60, clear_front_m=0.80, clear_above_m=0.50,
    clear_under_m=0.10, supports=("pad", "stand"), parts=OUTDOOR_PARTS, notes=FICTION,
)  # fmt: skip


def trunk(model: str, kw: float, heads: int, kg: float, top: bool) -> Outdoor:
    """A trunk-and-tees outdoor unit of the third maker; the large one blows upwards, brazed."""
    return Outdoor(
        **HARTWICK, model=model, system="trunk", discharge="top" if top else "side",
        valves="braze" if top else "flare", cool_w=1000 * kw, heat_w=1120 * kw,
        min_connected_w=500 * kw, max_connected_w=1300 * kw, min_heads=2, max_heads=heads,
        ports=pairs(FIVE_EIGHTHS, lettered=False), max_length_m=70.0, max_total_length_m=300.0,
        max_first_to_last_m=40.0, max_lift_m=50.0, max_lift_below_m=40.0, max_head_lift_m=15.0,
        traps="none", factory_charge_kg=kg, included_length_m=0.0,
        rates=(ChargeRate(liquid_od_m=QUARTER, kg_per_m=0.022),
               ChargeRate(liquid_od_m=THREE_EIGHTHS, kg_per_m=0.059)),
        base_adder_kg=0.4, included_rate_kg_per_m=0.059, test_gauge_pa=4.0e6,
        max_test_gauge_pa=4.15e6, test_hold_s=24 * HOUR, pull_to_pa=200 * MICRON,
        decay_max_pa=500 * MICRON, decay_hold_s=HOUR, torques=torques(THREE_EIGHTHS, FIVE_EIGHTHS),
        voltage_v=230.0, mca_a=2.2 * kw, mop_a=5.0 * round(0.7 * kw), rated_current_a=1.8 * kw,
        width_m=1.24 if top else 1.05, height_m=1.69 if top else 1.34,
        depth_m=0.77 if top else 0.33,
        weight_kg=198.0 if top else 118.0, feet_width_m=0.70, feet_depth_m=0.38,
        clear_behind_m=0.30, clear_left_m=0.10, clear_right_m=0.50, clear_front_m=0.50,
        clear_above_m=1.5 if top else 0.5, supports=("pad", "stand"),
        parts=OUTDOOR_PARTS, notes=FICTION,
    )  # fmt: skip


OSMUND_H26 = high_wall(OSMUND, "OH-26", 9000)
PELLOW_W35 = high_wall(
    PELLOW, "PW-35", 3500 / BTU_H, heat_w=4200.0, weight_kg=11.0, plate_pitch="slight",
    hole_m=0.065, clear_ceiling_m=0.10, min_height_m=None, clear_left_m=None, clear_right_m=None,
    gas_od_m=HALF, cites={},
)  # fmt: skip
OSMUND_F26 = Head(
    **OSMUND, model="OF-26", form="console", head_class="console", cool_w=9000 * BTU_H,
    heat_w=11_500 * BTU_H, airflows=air(130, 190, 250, 310), throw_m=5.5, width_m=0.70,
    height_m=0.60, depth_m=0.21, weight_kg=14.5, liquid_od_m=QUARTER, gas_od_m=THREE_EIGHTHS,
    clear_left_m=0.15, clear_right_m=0.15, clear_ceiling_m=0.60, clear_front_m=1.2,
    min_height_m=0.0, max_height_m=0.15, hole_m=2.5 * INCH, mark_x_m=0.0, mark_y_m=0.30,
    screws=tuple(Spot(x_m=x, y_m=y) for y in (0.20, -0.20) for x in (-0.28, -0.20, 0.20, 0.28)),
    outlets=(Outlet(name="left back", x_m=-0.26, y_m=-0.22),
             Outlet(name="right back", x_m=0.26, y_m=-0.22)),
    parts=HEAD_PARTS, notes=FICTION,
)  # fmt: skip


def cassette(maker: dict[str, Any], model: str, btu_h: float, opening_m: float) -> Head:
    """A ceiling cassette with its own pump."""
    return Head(
        **maker, model=model, form="cassette", head_class="cassette", cool_w=btu_h * BTU_H,
        heat_w=1.15 * btu_h * BTU_H, airflows=air(220, 290, 360, 0.033 * btu_h), throw_m=4.0,
        width_m=opening_m - 0.04, height_m=0.26, depth_m=opening_m - 0.04, weight_kg=17.0,
        liquid_od_m=QUARTER, gas_od_m=THREE_EIGHTHS if btu_h < 15_000 else HALF,
        clear_left_m=1.0, clear_right_m=1.0, min_ceiling_m=2.3, max_ceiling_m=3.2,
        opening_width_m=opening_m, opening_length_m=opening_m, hanger_width_m=opening_m - 0.09,
        hanger_length_m=opening_m - 0.13, min_void_m=0.29, hatch_m=24 * INCH, drain_od_m=0.026,
        pump_lift_m=30 * INCH, pump_within_m=12 * INCH,
        parts="Head\nGrille\nDrain hose and clamp\nFlare nuts, two\nHanger washers, eight",
        notes=FICTION,
    )  # fmt: skip


OSMUND_C35 = cassette(OSMUND, "OC-35", 12_000, 0.66)
OSMUND_D35 = Head(
    **OSMUND, model="OD-35", form="ducted", head_class="ducted", cool_w=12_000 * BTU_H,
    heat_w=13_800 * BTU_H, airflows=air(230, 290, 350, 410), width_m=0.90, height_m=0.20,
    depth_m=0.62, weight_kg=23.0, liquid_od_m=QUARTER, gas_od_m=THREE_EIGHTHS, clear_left_m=0.05,
    clear_right_m=0.30, hanger_width_m=0.94, hanger_length_m=0.38, min_void_m=0.24,
    hatch_m=24 * INCH, pump_lift_m=0.70, pump_within_m=0.30, drain_od_m=0.026,
    parts="Head\nDrain hose and clamp\nFlare nuts, two", notes=FICTION,
)  # fmt: skip

HARTWICK_120 = trunk("HV-120T", 12.0, 8, 3.4, top=False)
PELLOW_W20, PELLOW_C50 = high_wall(PELLOW, "PW-20", 7000), cassette(PELLOW, "PC-50", 18_000, 0.876)
HARTWICK_W25 = high_wall(HARTWICK, "HW-25", 8500)
PELLOW_BOX = BranchBox(
    **PELLOW,
    model="PB-5",
    main_liquid_od_m=THREE_EIGHTHS,
    main_gas_od_m=FIVE_EIGHTHS,
    ports=pairs(THREE_EIGHTHS, THREE_EIGHTHS, THREE_EIGHTHS, HALF, HALF),
    min_heads=2,
    max_heads=5,
    max_branch_length_m=15.0,
    max_branch_total_m=60.0,
    adder_kg=0.0,
    torques=torques(QUARTER, THREE_EIGHTHS, HALF, FIVE_EIGHTHS),
    width_m=0.45,
    height_m=0.30,
    depth_m=0.17,
    weight_kg=6.7,
    clear_service_m=0.35,
    notes=FICTION,
)
HARTWICK_TEE = Tee(
    **HARTWICK,
    model="HT-1",
    liquid_in_m=THREE_EIGHTHS,
    liquid_on_m=THREE_EIGHTHS,
    liquid_off_m=QUARTER,
    gas_in_m=FIVE_EIGHTHS,
    gas_on_m=FIVE_EIGHTHS,
    gas_off_m=HALF,
    straight_before_m=0.5,
    notes=FICTION,
)
OSMUND_KIT_25 = Kit(
    **OSMUND,
    model="OK-25",
    length_m=25 * FOOT,
    liquid_od_m=QUARTER,
    gas_od_m=THREE_EIGHTHS,
    evacuate_head="no",
    min_coil_m=0.30,
    notes=FICTION,
)
SHELF: tuple[Sheet, ...] = (
    OSMUND_26, OSMUND_50, OSMUND_80, PELLOW_35, PELLOW_90, HARTWICK_120,
    trunk("HV-224U", 22.4, 10, 7.2, top=True),
    high_wall(OSMUND, "OH-20", 7000, weight_kg=9.0), OSMUND_H26, high_wall(OSMUND, "OH-35", 12_000),
    OSMUND_F26, OSMUND_C35, OSMUND_D35,
    PELLOW_W20, PELLOW_W35, PELLOW_C50,
    HARTWICK_W25, high_wall(HARTWICK, "HW-50", 17_000),
    PELLOW_BOX, HARTWICK_TEE,
    Kit(**OSMUND, model="OK-15", length_m=15 * FOOT, liquid_od_m=QUARTER, gas_od_m=THREE_EIGHTHS,
        evacuate_head="yes", min_coil_m=0.30, notes=FICTION),
    OSMUND_KIT_25,
)  # fmt: skip
