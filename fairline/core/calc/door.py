"""The calculation door: every computation by name, for the API and the command line alike."""

from collections.abc import Callable
from typing import Any, get_type_hints

from pydantic import BaseModel

from fairline.core.calc.added_charge import added_charge
from fairline.core.calc.bracket_rail import bracket_rail
from fairline.core.calc.ceiling_position import ceiling_position
from fairline.core.calc.circuit import circuit
from fairline.core.calc.cross_wire import cross_wire
from fairline.core.calc.cut_plan import cut_plan
from fairline.core.calc.day_plan import day_plan
from fairline.core.calc.drain import drain
from fairline.core.calc.expected_split import expected_split
from fairline.core.calc.fastener_load import fastener_load
from fairline.core.calc.flare_torque import flare_torque
from fairline.core.calc.head_position import head_position
from fairline.core.calc.leak_rate import leak_rate
from fairline.core.calc.lift_plan import lift_plan
from fairline.core.calc.materials import materials
from fairline.core.calc.outdoor_position import outdoor_position
from fairline.core.calc.pressure_hold import pressure_hold
from fairline.core.calc.pump_down import pump_down
from fairline.core.calc.room_charge_limit import room_charge_limit
from fairline.core.calc.route import route
from fairline.core.calc.system_capacity import system_capacity
from fairline.core.calc.system_tree import system_tree
from fairline.core.calc.vacuum_decay import vacuum_decay
from fairline.core.calc.weigh_in import weigh_in
from fairline.core.calc.zone_capacity import zone_capacity
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


def _calculation(function: Callable[[Any], Answer[Any]]) -> Calculation:
    """A computation as the door has it: named and typed as its function is."""
    hints = get_type_hints(function)
    return Calculation(
        name=function.__name__.replace("_", "-"),
        request=hints["request"],
        answer=hints["return"],
        function=function,
    )


IN_ORDER: tuple[Callable[[Any], Answer[Any]], ...] = (
    route,
    system_tree,
    drain,
    materials,
    leak_rate,
    cut_plan,
    added_charge,
    weigh_in,
    flare_torque,
    pressure_hold,
    vacuum_decay,
    pump_down,
    room_charge_limit,
    system_capacity,
    head_position,
    ceiling_position,
    outdoor_position,
    fastener_load,
    bracket_rail,
    lift_plan,
    zone_capacity,
    expected_split,
    circuit,
    cross_wire,
    day_plan,
)
CALCULATIONS: dict[str, Calculation] = {c.name: c for c in map(_calculation, IN_ORDER)}
