"""The calculation door: every computation by name, for the API and the command line alike."""

from collections.abc import Callable
from typing import Any

from pydantic import BaseModel

from fairline.core.calc.added_charge import AddedChargeRequest, AddedChargeResult, added_charge
from fairline.core.calc.bracket_rail import BracketRailRequest, BracketRailResult, bracket_rail
from fairline.core.calc.ceiling_position import (
    CeilingPositionRequest,
    CeilingPositionResult,
    ceiling_position,
)
from fairline.core.calc.cut_plan import CutPlanRequest, CutPlanResult, cut_plan
from fairline.core.calc.drain import DrainRequest, DrainResult, drain
from fairline.core.calc.fastener_load import FastenerLoadRequest, FastenerLoadResult, fastener_load
from fairline.core.calc.flare_torque import FlareTorqueRequest, FlareTorqueResult, flare_torque
from fairline.core.calc.head_position import HeadPositionRequest, HeadPositionResult, head_position
from fairline.core.calc.leak_rate import LeakRateRequest, LeakRateResult, leak_rate
from fairline.core.calc.lift_plan import LiftPlanRequest, LiftPlanResult, lift_plan
from fairline.core.calc.materials import MaterialsRequest, MaterialsResult, materials
from fairline.core.calc.outdoor_position import (
    OutdoorPositionRequest,
    OutdoorPositionResult,
    outdoor_position,
)
from fairline.core.calc.pressure_hold import PressureHoldRequest, PressureHoldResult, pressure_hold
from fairline.core.calc.room_charge_limit import (
    RoomChargeLimitRequest,
    RoomChargeLimitResult,
    room_charge_limit,
)
from fairline.core.calc.route import RouteRequest, RouteResult, route
from fairline.core.calc.system_capacity import (
    SystemCapacityRequest,
    SystemCapacityResult,
    system_capacity,
)
from fairline.core.calc.system_tree import SystemTreeRequest, SystemTreeResult, system_tree
from fairline.core.calc.vacuum_decay import VacuumDecayRequest, VacuumDecayResult, vacuum_decay
from fairline.core.calc.zone_capacity import ZoneCapacityRequest, ZoneCapacityResult, zone_capacity
from fairline.core.call import Answer, Frozen, Request


class Calculation(Frozen):
    """One computation: its name, what it is asked, what it answers."""

    name: str
    request: type[Request]
    answer: type[BaseModel]
    function: Callable[[Any], Answer[Any]]

    def run(self, body: bytes | str) -> Answer[Any]:
        """Validate a JSON request and answer it; raises pydantic.ValidationError."""
        return self.function(self.request.model_validate_json(body))

    def describe(self) -> dict[str, Any]:
        return {
            "name": self.name,
            "about": (self.function.__doc__ or "").split("\n\n")[0],
            "request": self.request.model_json_schema(),
            "answer": self.answer.model_json_schema(),
        }


CALCULATIONS: dict[str, Calculation] = {
    c.name: c
    for c in (
        Calculation(name="route", request=RouteRequest, answer=Answer[RouteResult],
                    function=route),
        Calculation(name="system-tree", request=SystemTreeRequest,
                    answer=Answer[SystemTreeResult], function=system_tree),
        Calculation(name="drain", request=DrainRequest, answer=Answer[DrainResult],
                    function=drain),
        Calculation(name="materials", request=MaterialsRequest, answer=Answer[MaterialsResult],
                    function=materials),
        Calculation(name="leak-rate", request=LeakRateRequest, answer=Answer[LeakRateResult],
                    function=leak_rate),
        Calculation(name="cut-plan", request=CutPlanRequest, answer=Answer[CutPlanResult],
                    function=cut_plan),
        Calculation(name="added-charge", request=AddedChargeRequest,
                    answer=Answer[AddedChargeResult], function=added_charge),
        Calculation(name="flare-torque", request=FlareTorqueRequest,
                    answer=Answer[FlareTorqueResult], function=flare_torque),
        Calculation(name="pressure-hold", request=PressureHoldRequest,
                    answer=Answer[PressureHoldResult], function=pressure_hold),
        Calculation(name="vacuum-decay", request=VacuumDecayRequest,
                    answer=Answer[VacuumDecayResult], function=vacuum_decay),
        Calculation(name="room-charge-limit", request=RoomChargeLimitRequest,
                    answer=Answer[RoomChargeLimitResult], function=room_charge_limit),
        Calculation(name="system-capacity", request=SystemCapacityRequest,
                    answer=Answer[SystemCapacityResult], function=system_capacity),
        Calculation(name="head-position", request=HeadPositionRequest,
                    answer=Answer[HeadPositionResult], function=head_position),
        Calculation(name="ceiling-position", request=CeilingPositionRequest,
                    answer=Answer[CeilingPositionResult], function=ceiling_position),
        Calculation(name="outdoor-position", request=OutdoorPositionRequest,
                    answer=Answer[OutdoorPositionResult], function=outdoor_position),
        Calculation(name="fastener-load", request=FastenerLoadRequest,
                    answer=Answer[FastenerLoadResult], function=fastener_load),
        Calculation(name="bracket-rail", request=BracketRailRequest,
                    answer=Answer[BracketRailResult], function=bracket_rail),
        Calculation(name="lift-plan", request=LiftPlanRequest,
                    answer=Answer[LiftPlanResult], function=lift_plan),
        Calculation(name="zone-capacity", request=ZoneCapacityRequest,
                    answer=Answer[ZoneCapacityResult], function=zone_capacity),
    )
}  # fmt: skip
