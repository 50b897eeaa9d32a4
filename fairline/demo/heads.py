"""The heads on the demo's shelf. Fictional and plausible."""

from typing import Any

from fairline.core.physics.constants import INCH_M as INCH
from fairline.core.sheet import Head
from fairline.core.sheet.part import (
    Outlet,
    Spot,
)
from fairline.demo.sheet_parts import (
    BTU_H,
    FICTION,
    HALF,
    HARTWICK,
    HEAD_PARTS,
    NUMBERS,
    OSMUND,
    PELLOW,
    QUARTER,
    TERMINALS,
    THREE_EIGHTHS,
    air,
    high_wall,
)

OSMUND_H26 = high_wall(OSMUND, "OH-26", 9000)
PELLOW_W35 = high_wall(
    PELLOW,
    "PW-35",
    3500 / BTU_H,
    heat_w=4200.0,
    weight_kg=11.0,
    plate_pitch="slight",
    hole_m=0.065,
    clear_ceiling_m=0.10,
    min_height_m=None,
    clear_left_m=None,
    clear_right_m=None,
    gas_od_m=HALF,
    cites={},
)
OSMUND_F26 = Head(
    **OSMUND,
    model="OF-26",
    form="console",
    head_class="console",
    cool_w=9000 * BTU_H,
    heat_w=11_500 * BTU_H,
    airflows=air(130, 190, 250, 310),
    throw_m=5.5,
    **NUMBERS,
    width_m=0.70,
    height_m=0.60,
    depth_m=0.21,
    weight_kg=14.5,
    liquid_od_m=QUARTER,
    gas_od_m=THREE_EIGHTHS,
    clear_left_m=0.15,
    clear_right_m=0.15,
    clear_ceiling_m=0.60,
    clear_front_m=1.2,
    min_height_m=0.0,
    max_height_m=0.15,
    hole_m=2.5 * INCH,
    mark_x_m=0.0,
    mark_y_m=0.30,
    screws=tuple(Spot(x_m=x, y_m=y) for y in (0.20, -0.20) for x in (-0.28, -0.20, 0.20, 0.28)),
    outlets=(
        Outlet(name="left back", x_m=-0.26, y_m=-0.22),
        Outlet(name="right back", x_m=0.26, y_m=-0.22),
    ),
    parts=HEAD_PARTS,
    notes=FICTION,
)


def cassette(maker: dict[str, Any], model: str, btu_h: float, opening_m: float) -> Head:
    """A ceiling cassette with its own pump."""
    return Head(
        **maker,
        model=model,
        form="cassette",
        head_class="cassette",
        cool_w=btu_h * BTU_H,
        heat_w=1.15 * btu_h * BTU_H,
        airflows=air(220, 290, 360, 0.033 * btu_h),
        throw_m=4.0,
        terminals=TERMINALS[maker["maker"]],
        width_m=opening_m - 0.04,
        height_m=0.26,
        depth_m=opening_m - 0.04,
        weight_kg=17.0,
        liquid_od_m=QUARTER,
        gas_od_m=THREE_EIGHTHS if btu_h < 15_000 else HALF,
        clear_left_m=1.0,
        clear_right_m=1.0,
        min_ceiling_m=2.3,
        max_ceiling_m=3.2,
        opening_width_m=opening_m,
        opening_length_m=opening_m,
        hanger_width_m=opening_m - 0.09,
        hanger_length_m=opening_m - 0.13,
        min_void_m=0.29,
        hatch_m=24 * INCH,
        drain_od_m=0.026,
        pump_lift_m=30 * INCH,
        pump_within_m=12 * INCH,
        parts="Head\nGrille\nDrain hose and clamp\nFlare nuts, two\nHanger washers, eight",
        notes=FICTION,
    )


OSMUND_C35 = cassette(OSMUND, "OC-35", 12_000, 0.66)
OSMUND_D35 = Head(
    **OSMUND,
    model="OD-35",
    form="ducted",
    head_class="ducted",
    cool_w=12_000 * BTU_H,
    heat_w=13_800 * BTU_H,
    airflows=air(230, 290, 350, 410),
    **NUMBERS,
    width_m=0.90,
    height_m=0.20,
    depth_m=0.62,
    weight_kg=23.0,
    liquid_od_m=QUARTER,
    gas_od_m=THREE_EIGHTHS,
    clear_left_m=0.05,
    clear_right_m=0.30,
    hanger_width_m=0.94,
    hanger_length_m=0.38,
    min_void_m=0.24,
    hatch_m=24 * INCH,
    pump_lift_m=0.70,
    pump_within_m=0.30,
    drain_od_m=0.026,
    parts="Head\nDrain hose and clamp\nFlare nuts, two",
    notes=FICTION,
)

HARTWICK_W25 = high_wall(
    HARTWICK,
    "HW-25",
    8500,
    own_supply="yes",
    voltage_v=230.0,
    mca_a=0.6,
    mop_a=15.0,
    supply_terminals=("L1", "L2"),
    largest_gauge="12 AWG",
)
PELLOW_W20 = high_wall(PELLOW, "PW-20", 7000)
PELLOW_C50 = cassette(PELLOW, "PC-50", 18_000, 0.876)
