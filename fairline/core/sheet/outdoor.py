"""The outdoor unit's sheet: what it carries, its line, charge, test, electrical and body."""

from typing import Annotated, ClassVar, Literal

from pydantic import BeforeValidator, Field

from fairline.core.entry import (
    ChargeKg,
    Count,
    CurrentA,
    DistanceM,
    Gauge,
    HoldS,
    PowerW,
    RateKgM,
    SizeM,
    SpanM,
    StartUpS,
    TestPa,
    VacuumLimitPa,
    VoltageV,
    WeightKg,
    YesNo,
    blank,
    words,
)
from fairline.core.physics.tubing import same_size
from fairline.core.sheet.part import (
    Body,
    ChargeRates,
    HeadAdders,
    LampCodes,
    Refrigerant,
    RoomCharges,
    Shield,
    Terminals,
    Torques,
    TubePair,
    TubePairs,
)

System = Literal["single", "multi", "branch-box", "trunk"]
Support = Literal["pad", "bracket", "stand", "roof"]

SYSTEMS: dict[System, str] = {
    "single": "Single zone",
    "multi": "Multi-zone, home runs",
    "branch-box": "Branch box",
    "trunk": "Trunk and tees",
}


class Outdoor(Body):
    """One outdoor unit. ``ports`` lists every pair of valves, one for all but home runs."""

    ORDERED: ClassVar = (
        ("min_connected_w", "max_connected_w", "the least connected capacity is above the most"),
        ("min_heads", "max_heads", "the least number of heads is above the most"),
        ("min_length_m", "max_length_m", "the minimum length is above the maximum"),
        ("max_length_m", "max_total_length_m", "the most length of a zone is above the total"),
        ("mca_a", "mop_a", "MCA is above MOP"),
        (
            "factory_charge_kg",
            "max_total_charge_kg",
            "the factory charge is above the maximum total charge",
        ),
        (
            "test_gauge_pa",
            "max_test_gauge_pa",
            "the test pressure is above the maximum test pressure",
        ),
    )

    kind: Literal["outdoor"] = "outdoor"
    system: System = "single"
    discharge: Literal["side", "top"] = "side"
    valves: Literal["flare", "braze"] = "flare"
    refrigerant: Refrigerant
    cool_w: PowerW = None
    heat_w: PowerW = None
    min_connected_w: PowerW = None
    max_connected_w: PowerW = None
    min_heads: Count = None
    max_heads: Count = None
    ports: TubePairs = ()
    one_valve_pair: YesNo = None  # one pair of valves before all ports: then they are one circuit
    min_length_m: DistanceM = None
    max_length_m: DistanceM = None
    max_total_length_m: DistanceM = None
    max_main_length_m: DistanceM = None
    max_first_to_last_m: DistanceM = None
    max_lift_m: DistanceM = None
    max_lift_below_m: DistanceM = None
    max_head_lift_m: DistanceM = None
    max_bends: Count = None
    traps: Annotated[Literal["none", "foot-and-rise"] | None, BeforeValidator(blank)] = None
    trap_every_m: DistanceM = None
    factory_charge_kg: ChargeKg = None
    included_length_m: DistanceM = None
    included_applies_to: Literal["system", "each_zone"] = "system"
    rates: ChargeRates = ()
    included_rate_kg_per_m: RateKgM = None
    head_adders: HeadAdders = ()
    base_adder_kg: ChargeKg = None
    max_added_kg: ChargeKg = None
    max_total_charge_kg: ChargeKg = None
    short_line: Annotated[Literal["recover", "leave"] | None, BeforeValidator(blank)] = None
    room_charges: RoomCharges = ()
    test_gauge_pa: TestPa = None
    max_test_gauge_pa: TestPa = None
    test_hold_s: HoldS = None
    pull_to_pa: VacuumLimitPa = None
    decay_max_pa: VacuumLimitPa = None
    decay_hold_s: HoldS = None
    vacuum_gauge: Annotated[Literal["micron", "needle"] | None, BeforeValidator(blank)] = None
    needle_pull_s: HoldS = None
    needle_hold_s: HoldS = None
    torques: Torques = ()
    voltage_v: VoltageV = None
    mca_a: CurrentA = None
    mop_a: CurrentA = None
    rated_current_a: CurrentA = None
    rated_input_w: PowerW = None
    start_up_s: StartUpS = None
    lamp_codes: LampCodes = ()
    supply_terminals: Terminals = ()
    largest_gauge: Gauge = None
    discharge_s: HoldS = None
    terminals: Terminals = ()
    cable_gauge: Gauge = None
    shield: Annotated[Shield | None, BeforeValidator(blank)] = None
    to_ground_v: VoltageV = None
    test_plug: YesNo = None
    weight_kg: WeightKg = None
    feet_width_m: SizeM = None
    feet_depth_m: SizeM = None
    clear_behind_m: SpanM = None
    clear_left_m: SpanM = None
    clear_right_m: SpanM = None
    clear_front_m: SpanM = None
    clear_above_m: SpanM = None
    clear_under_m: SpanM = None
    supports: Annotated[tuple[Support, ...], BeforeValidator(words), Field(max_length=4)] = ()
    frost_base: Annotated[Literal["open", "heated"] | None, BeforeValidator(blank)] = None

    @property
    def port(self) -> TubePair:
        """The first pair of valves: the only one of all but home runs."""
        return self.ports[0] if self.ports else TubePair()

    def rate_kg_per_m(self, od_mm: float) -> float | None:
        """The sheet's charge per metre for this liquid tube; None where it gives none."""
        for row in self.rates:
            if row.liquid_od_m is not None and same_size(row.liquid_od_m * 1000, od_mm):
                return row.kg_per_m
        return None

    def port_count(self) -> int | None:
        """How many heads have a place of their own: ports of home runs; None elsewhere."""
        return len(self.ports) if self.system == "multi" and self.ports else None
