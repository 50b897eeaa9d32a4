"""The equipment sheet: what the maker says of one outdoor unit and one head. SI throughout.

A field the sheet leaves blank is None: the limit then falls through to local code, house
practice and common practice, or stays unknown.
"""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, model_validator

from fairline.core.entry import (
    AirflowM3S,
    ChargeKg,
    Count,
    CurrentA,
    DistanceM,
    Entry,
    HoldS,
    LongText,
    PowerW,
    RateKgM,
    SmallM,
    TestPa,
    Text,
    TorqueNm,
    TubeM,
    VacuumLimitPa,
    WeightKg,
    _blank,
)
from fairline.core.tubing import tube_at

Refrigerant = Literal["R-32", "R-454B", "R-410A"]


class Outdoor(Entry):
    """The outdoor unit: charge, line limits, test pressure, electrical, clearances."""

    model: Annotated[Text, Field(min_length=1)]
    refrigerant: Refrigerant
    factory_charge_kg: ChargeKg = None
    included_length_m: DistanceM = None
    rate_kg_per_m: RateKgM = None
    short_line: Annotated[Literal["recover", "leave"] | None, BeforeValidator(_blank)] = None
    max_total_charge_kg: ChargeKg = None
    liquid_od_m: TubeM = None
    gas_od_m: TubeM = None
    min_length_m: DistanceM = None
    max_length_m: DistanceM = None
    max_lift_m: DistanceM = None
    max_bends: Count = None
    max_test_gauge_pa: TestPa = None
    test_gauge_pa: TestPa = None
    test_hold_s: HoldS = None
    pull_to_pa: VacuumLimitPa = None
    decay_max_pa: VacuumLimitPa = None
    decay_hold_s: HoldS = None
    liquid_torque_low_nm: TorqueNm = None
    liquid_torque_high_nm: TorqueNm = None
    gas_torque_low_nm: TorqueNm = None
    gas_torque_high_nm: TorqueNm = None
    mca_a: CurrentA = None
    mop_a: CurrentA = None
    rated_current_a: CurrentA = None
    weight_kg: WeightKg = None
    clear_behind_m: SmallM = None
    clear_left_m: SmallM = None
    clear_right_m: SmallM = None
    clear_front_m: SmallM = None

    @model_validator(mode="after")
    def _agrees_with_itself(self) -> "Outdoor":
        for low, high, what in (
            (self.min_length_m, self.max_length_m, "the minimum length is above the maximum"),
            (
                self.liquid_torque_low_nm,
                self.liquid_torque_high_nm,
                "the liquid torque's low end is above its high end",
            ),
            (
                self.gas_torque_low_nm,
                self.gas_torque_high_nm,
                "the gas torque's low end is above its high end",
            ),
            (self.mca_a, self.mop_a, "MCA is above MOP"),
            (
                self.test_gauge_pa,
                self.max_test_gauge_pa,
                "the test pressure is above the maximum test pressure",
            ),
            (
                self.factory_charge_kg,
                self.max_total_charge_kg,
                "the factory charge is above the maximum total charge",
            ),
        ):
            if low is not None and high is not None and low > high:
                raise ValueError(f"the sheet contradicts itself: {what}")
        for low, high, what in (
            (self.liquid_torque_low_nm, self.liquid_torque_high_nm, "liquid"),
            (self.gas_torque_low_nm, self.gas_torque_high_nm, "gas"),
        ):
            if (low is None) != (high is None):
                raise ValueError(f"the {what} torque needs both ends of its range, or neither")
        return self


class Head(Entry):
    """The indoor head: capacity, airflow, clearances, hole."""

    model: Annotated[Text, Field(min_length=1)]
    kind: Literal["high-wall"] = "high-wall"
    cool_w: PowerW = None
    heat_w: PowerW = None
    airflow_m3_s: AirflowM3S = None
    weight_kg: WeightKg = None
    width_m: SmallM = None
    clear_left_m: SmallM = None
    clear_right_m: SmallM = None
    clear_ceiling_m: SmallM = None
    min_height_m: DistanceM = None
    max_height_m: DistanceM = None
    hole_m: SmallM = None
    plate_pitch: Annotated[Literal["level", "slight"] | None, BeforeValidator(_blank)] = None

    @model_validator(mode="after")
    def _agrees_with_itself(self) -> "Head":
        low, high = self.min_height_m, self.max_height_m
        if low is not None and high is not None and low > high:
            raise ValueError("the sheet contradicts itself: the least height is above the most")
        return self


class Sheet(Entry):
    """One outdoor unit with the head that belongs to it."""

    maker: Annotated[Text, Field(min_length=1)]
    outdoor: Outdoor
    head: Head
    parts: LongText = ""
    notes: LongText = ""

    @property
    def name(self) -> str:
        return f"{self.maker} {self.outdoor.model} / {self.head.model}"

    @property
    def source(self) -> str:
        return self.name

    def parts_list(self) -> tuple[str, ...]:
        """One part a line, as the sheet lists what belongs in the boxes."""
        return tuple(line.strip() for line in self.parts.splitlines() if line.strip())

    def od_mm(self, line: Literal["liquid", "gas"]) -> float | None:
        """Outside diameter of a line in mm, at its nominal size where it is one."""
        value = self.outdoor.liquid_od_m if line == "liquid" else self.outdoor.gas_od_m
        if value is None:
            return None
        tube = tube_at(value * 1000)
        return tube.od_mm if tube else round(value * 1000, 3)
