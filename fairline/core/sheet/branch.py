"""What stands between outdoor unit and heads: branch boxes, tees, pre-charged kits."""

from typing import Annotated, ClassVar, Literal

from pydantic import BeforeValidator

from fairline.core.entry import (
    ChargeKg,
    Count,
    DistanceM,
    SizeM,
    SpanM,
    TubeM,
    WeightKg,
    YesNo,
    blank,
)
from fairline.core.sheet.part import Body, Refrigerant, Sheet, Terminals, Torques, TubePairs


class BranchBox(Body):
    """A distribution box: one main pair in, a pair out to each head."""

    ORDERED: ClassVar = (("min_heads", "max_heads", "the least number of heads is above the most"),)

    kind: Literal["branch-box"] = "branch-box"
    refrigerant: Refrigerant
    main_liquid_od_m: TubeM = None
    main_gas_od_m: TubeM = None
    ports: TubePairs = ()
    lettered_from: Literal["bottom", "top", "left"] = "bottom"
    min_heads: Count = None
    max_heads: Count = None
    max_branch_length_m: DistanceM = None
    max_branch_total_m: DistanceM = None
    adder_kg: ChargeKg = None
    torques: Torques = ()
    weight_kg: WeightKg = None
    clear_service_m: SpanM = None
    drain_od_m: TubeM = None
    main_terminals: Terminals = ()
    terminals: Terminals = ()


class Tee(Sheet):
    """A separation tee: one pair in, the main on, one branch off."""

    kind: Literal["tee"] = "tee"
    refrigerant: Annotated[Refrigerant | None, BeforeValidator(blank)] = None
    liquid_in_m: TubeM = None
    liquid_on_m: TubeM = None
    liquid_off_m: TubeM = None
    gas_in_m: TubeM = None
    gas_on_m: TubeM = None
    gas_off_m: TubeM = None
    joints: Literal["flare", "braze"] = "braze"
    straight_before_m: SpanM = None
    adder_kg: ChargeKg = None


class Kit(Sheet):
    """A line set sold sealed: never cut, its surplus coiled.

    ``lines_hold``: refrigerant, or nitrogen that is let out; the latter is pumped as any line is.
    """

    kind: Literal["kit"] = "kit"
    refrigerant: Refrigerant
    length_m: DistanceM = None
    liquid_od_m: TubeM = None
    gas_od_m: TubeM = None
    lines_hold: Annotated[Literal["refrigerant", "nitrogen"] | None, BeforeValidator(blank)] = None
    evacuate_head: YesNo = None
    min_coil_m: SizeM = None
    torques: Torques = ()
