"""What a circuit's wires carry, by table or local code, in pieces, in warm air; their ground."""

import re

from fairline.core.call import Check, Verdict
from fairline.core.check import fault_call, unknown_check
from fairline.core.physics.conductor import (
    EquipmentGround,
    TerminalC,
    awg_of,
    conductors,
    equipment_ground,
    heat_factor,
)
from fairline.core.wire.entry import Supply
from fairline.core.wire.supply_way import stretches

ROOF_K = 33.0  # warmer in a raceway close above a sunny roof: NEC 310.15(B)(2), from memory


def terminal_c(entry: Supply) -> TerminalC:
    """The lower where nobody says: indoor sheathed cable counts there always (NEC 334.80)."""
    return 75 if entry.terminal_c == "75" and not any(map(_sheathed, stretches(entry))) else 60


def _sheathed(entry: Supply) -> bool:
    return "sheathed" in (entry.way, entry.inside if entry.way == "conduit" else None)


def is_copper(entry: Supply) -> bool:
    """Copper as said; of a new circuit it is what is pulled, unless somebody says otherwise."""
    return entry.metal == "copper" or (entry.metal is None and entry.circuit == "new")


def after_box(entry: Supply) -> Supply | None:
    """The piece of a circuit after the box in which it is lengthened; None where it is of one."""
    if entry.joined != "yes":
        return None
    metal = entry.metal_2 or "copper"
    return entry.model_copy(
        update={
            "gauge": entry.gauge_2,
            "metal": metal,
            "length_m": entry.length_2_m,
            "joined": None,
        }
    )


def pieces(entry: Supply) -> list[Supply]:
    """The pieces of a circuit, each as if it were all of it."""
    after = after_box(entry)
    return [entry] if after is None else [entry.model_copy(update={"joined": None}), after]


def ampacity_of(entry: Supply) -> tuple[float | None, str]:
    """What a circuit carries and who says so: local code first, then the table of copper.

    Of two pieces, and of several stretches, the weakest; None while one of them is not known.
    """
    found = [_ampacity(s) for piece in pieces(entry) for s in stretches(piece)]
    known = [(a, said) for a, said in found if a is not None]
    return min(known, key=lambda f: f[0]) if len(known) == len(found) else (None, "")


def _ampacity(entry: Supply) -> tuple[float | None, str]:
    awg = awg_of(entry.gauge)
    if entry.code_a is not None:
        return entry.code_a, f"local code: {entry.code_source}"
    if awg not in conductors() or not is_copper(entry) or awg is None:
        return None, ""
    wire, at = conductors()[awg], terminal_c(entry)
    table_a, said = wire.ampacity_a(at), f"{awg} AWG copper at {at} °C terminals, 310.16"
    air_c = 30.0 if entry.ambient_c is None else entry.ambient_c
    air_c += ROOF_K if entry.on_roof == "yes" else 0.0
    if air_c <= 30.0:
        return table_a, said
    # Sheathed cable has insulation for 90 °C (NEC 334.112, from memory); heat is taken off that.
    rated = 90 if entry.insulation_90 == "yes" or entry.way == "sheathed" else at
    start = wire.at_90_a if rated == 90 else table_a
    left = round(start * heat_factor(air_c, rated), 1)
    if left >= table_a:
        return table_a, f"{said}; warm air takes nothing off it, 310.15(B)"
    return left, f"{said}, in air of {air_c:g} °C by 310.15(B) from the {rated} °C column"


def highest_column_a(entry: Supply) -> float | None:
    """The most that any column of 310.16 gives a wire of this size; None where it has none."""
    wire = conductors().get(awg_of(entry.gauge) or 0)
    if wire is None:
        return None
    return wire.aluminium_90_a if entry.metal == "aluminium" else wire.at_90_a


def doubted(entry: Supply) -> Check | None:
    """A code entry that no column of the table reaches: believed only by its section."""
    most = highest_column_a(entry)
    if entry.code_a is None or most is None or entry.code_a <= most:
        return None
    said = f"{entry.gauge} at {entry.code_a:g} A: no column of table 310.16 goes over {most:g} A"
    named = re.search(r"\d+[.(]\s?\d+|§|section|table|paragraph", entry.code_source, re.IGNORECASE)
    if not named:
        return unknown_check(
            "conductor",
            "Conductor",
            f"{said}, and the entry names no section.",
            "Enter the code's section that allows it, or what the table gives.",
        )
    call = fault_call(
        f"{said}; {entry.code_source} says so.",
        "Show the section to whoever inspects.",
        Verdict.WATCH,
    )
    return Check(id="code", label="Ampacity by local code", call=call)


def earth_of(entry: Supply, mca_a: float | None) -> EquipmentGround | None:
    """The equipment ground that a circuit wants; None where our tables do not say."""
    awg = awg_of(entry.gauge)
    if entry.breaker_a is None or awg is None or mca_a is None or not is_copper(entry):
        return None
    return equipment_ground(entry.breaker_a, awg, mca_a, terminal_c(entry))


def ground_awg(entry: Supply, earth: EquipmentGround | None) -> int | None:
    """The ground's gauge: grown with the conductors, or by 250.122(A) where a person answers."""
    if earth is None:
        return None
    return earth.base_awg if entry.ground_by else earth.awg
