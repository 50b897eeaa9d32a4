"""The indoor head's sheet: capacity, air, where it may hang, its plate, hole and drain."""

from typing import Annotated, ClassVar, Literal

from pydantic import BeforeValidator

from fairline.core.entry import (
    CoilM3,
    CurrentA,
    DistanceM,
    Gauge,
    PowerW,
    SizeM,
    SmallM,
    SpanM,
    Text,
    TubeM,
    VoltageV,
    WeightKg,
    YesNo,
    blank,
)
from fairline.core.sheet.part import (
    Airflows,
    BoardMarks,
    Body,
    LampCodes,
    Outlet,
    Outlets,
    Refrigerant,
    SpecialModes,
    Spots,
    Terminals,
    Torques,
)

Form = Literal["high-wall", "console", "cassette", "ducted"]

FORMS: dict[Form, str] = {
    "high-wall": "High-wall",
    "console": "Floor console",
    "cassette": "Ceiling cassette",
    "ducted": "Slim ducted",
}
ON_WALL: tuple[Form, ...] = ("high-wall", "console")


class Head(Body):
    """One head. Plate geometry: the mark right of the centre line and above the underside."""

    ORDERED: ClassVar = (
        ("min_height_m", "max_height_m", "the least height is above the most"),
        ("min_ceiling_m", "max_ceiling_m", "the least ceiling height is above the most"),
        ("mca_a", "mop_a", "MCA is above MOP"),
    )

    kind: Literal["head"] = "head"
    form: Form = "high-wall"
    refrigerant: Annotated[Refrigerant | None, BeforeValidator(blank)] = None
    head_class: Text = ""
    cool_w: PowerW = None
    heat_w: PowerW = None
    airflows: Airflows = ()
    throw_m: DistanceM = None
    weight_kg: WeightKg = None
    liquid_od_m: TubeM = None
    gas_od_m: TubeM = None
    torques: Torques = ()
    coil_m3: CoilM3 = None
    drain_od_m: TubeM = None
    pump_lift_m: SpanM = None
    pump_within_m: SpanM = None
    clear_left_m: SpanM = None
    clear_right_m: SpanM = None
    clear_ceiling_m: SpanM = None
    clear_below_m: SpanM = None
    clear_front_m: DistanceM = None
    min_height_m: DistanceM = None
    max_height_m: DistanceM = None
    min_ceiling_m: DistanceM = None
    max_ceiling_m: DistanceM = None
    hole_m: SizeM = None
    plate_pitch: Annotated[Literal["level", "slight"] | None, BeforeValidator(blank)] = None
    mark_x_m: SmallM = None
    mark_y_m: SmallM = None
    screws: Spots = ()
    outlets: Outlets = ()
    opening_width_m: SizeM = None
    opening_length_m: SizeM = None
    hanger_width_m: SizeM = None
    hanger_length_m: SizeM = None
    min_void_m: SizeM = None
    hatch_m: SizeM = None
    modes: SpecialModes = ()
    lamp_codes: LampCodes = ()
    board: BoardMarks = ()
    terminals: Terminals = ()
    own_supply: YesNo = None
    voltage_v: VoltageV = None
    mca_a: CurrentA = None
    mop_a: CurrentA = None
    supply_terminals: Terminals = ()
    largest_gauge: Gauge = None

    @property
    def on_wall(self) -> bool:
        return self.form in ON_WALL

    @property
    def airflow_m3_s(self) -> float | None:
        """Air moved at the highest speed the sheet lists."""
        return max((a.m3_s for a in self.airflows if a.m3_s is not None), default=None)

    def outlet(self, name: str) -> Outlet | None:
        """The outlet called ``name``, else the first one through the back."""
        named = [o for o in self.outlets if o.name == name]
        back = [o for o in self.outlets if o.way == "back"]
        return next(iter(named or back), None)

    def from_mark(self, x_m: float | None, y_m: float | None) -> tuple[float, float]:
        """A point of the plate, right of the head's centre line and above its underside."""
        return (self.mark_x_m or 0.0) + (x_m or 0.0), (self.mark_y_m or 0.0) + (y_m or 0.0)
