"""What the demo's sheets are made of: makers, ports, torques, airflows. Fictional and plausible."""

from typing import Any

from fairline.core.physics.constants import FOOT_M as FOOT
from fairline.core.physics.constants import HOUR_S, MINUTE_S
from fairline.core.physics.constants import INCH_M as INCH
from fairline.core.sheet import Head
from fairline.core.sheet.part import (
    Airflow,
    BoardMark,
    LampCode,
    Outlet,
    Spot,
    Torque,
    TubePair,
)

OUNCE, CFM, BTU_H = 0.028349523125, FOOT**3 / 60, 1055.05585262 / HOUR_S
QUARTER, THREE_EIGHTHS, HALF, FIVE_EIGHTHS = 0.00635, 0.00952, 0.0127, 0.01588
OZ_FT = OUNCE / FOOT

OSMUND: dict[str, Any] = {"maker": "Osmund Works", "series": "Tern", "refrigerant": "R-32"}
PELLOW: dict[str, Any] = {"maker": "Pellow Air", "series": "Ridge", "refrigerant": "R-454B"}
HARTWICK: dict[str, Any] = {"maker": "Hartwick", "series": "Vale", "refrigerant": "R-410A"}
NUMBERS: dict[str, Any] = {"terminals": ("1", "2", "3")}  # of the first maker's blocks
S_NAMES: dict[str, Any] = {"terminals": ("S1", "S2", "S3")}
PAIR: dict[str, Any] = {"terminals": ("X1", "X2")}
OUTDOOR_WIRING: dict[str, Any] = {
    "supply_terminals": ("L1", "L2"),
    "largest_gauge": "8 AWG",
    "discharge_s": 5 * MINUTE_S,
    "cable_gauge": "14 AWG",
    "to_ground_v": 120.0,
    "start_up_s": 4 * MINUTE_S,
}
FICTION = "Fictional sheet for the demo."
HEAD_PARTS = "Head\nMounting plate\nRemote and holder\nDrain elbow\nFlare nuts, two"
OUTDOOR_PARTS = "Outdoor unit\nFlare nuts\nDrain fitting"


TERMINALS: dict[str, tuple[str, ...]] = {
    "Osmund Works": NUMBERS["terminals"],
    "Pellow Air": S_NAMES["terminals"],
    "Hartwick": PAIR["terminals"],
}


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
    table = {
        QUARTER: (15.0, 17.5),
        THREE_EIGHTHS: (34.0, 41.0),
        HALF: (51.0, 60.0),
        FIVE_EIGHTHS: (64.0, 76.0),
    }
    return tuple(Torque(od_m=d, low_nm=table[d][0], high_nm=table[d][1]) for d in ods)


OUTDOOR_CODES = (
    LampCode(
        code="E3",
        means="high pressure",
        do_next="Open both valves fully, then clean the coil's air side",
        page="p. 41",
    ),
    LampCode(
        code="E6",
        means="no signal from a head",
        do_next="Look at the interconnect, screw by screw",
        page="p. 42",
    ),
)
HEAD_CODES = (
    LampCode(
        code="5 blinks",
        means="no signal from the outdoor unit",
        do_next="Look at the interconnect, screw by screw",
        page="p. 33",
    ),
    LampCode(
        code="7 blinks", means="the fan does not turn", do_next="Free the fan wheel", page="p. 33"
    ),
)


def board(terminals: tuple[str, ...]) -> tuple[BoardMark, ...]:
    """Where terminals, switches and plug of the makers' boards are."""
    return (
        BoardMark(what=f"terminals {' '.join(terminals)}", x_percent=78, y_percent=80),
        BoardMark(what="address switches SW1, SW2", x_percent=30, y_percent=25),
        BoardMark(what="test plug CN7", x_percent=14, y_percent=70),
    )


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
        "cool_w": btu_h * BTU_H,
        "heat_w": 1.2 * btu_h * BTU_H,
        "airflows": air(150, 210, 270, 0.0367 * btu_h),
        "throw_m": 7.5,
        "width_m": width,
        "height_m": 0.295,
        "depth_m": 0.215,
        "weight_kg": 9.5 + (btu_h - 9000) / 4000,
        "liquid_od_m": QUARTER,
        "gas_od_m": THREE_EIGHTHS if btu_h < 15_000 else HALF,
        "clear_left_m": 5 * INCH,
        "clear_right_m": 5 * INCH,
        "clear_ceiling_m": 3 * INCH,
        "min_height_m": 6 * FOOT,
        "hole_m": 2.5 * INCH,
        "plate_pitch": "level",
        "drain_od_m": 0.016,
        "parts": HEAD_PARTS,
        "notes": FICTION,
        "edition": "2025",
        "cites": {"clear_ceiling_m": "p. 7", "hole_m": "p. 9", "clear_left_m": "p. 7"},
        "head_class": "wall",
        "terminals": TERMINALS[maker["maker"]],
        "modes": ("economy", "dry", "sleep"),
        "lamp_codes": HEAD_CODES,
        "board": board(TERMINALS[maker["maker"]]),
    }
    return Head(**(maker | {"model": model} | given | plate(width) | more))
