"""How refrigerant is weighed, by what is wanted: the steps, and the marks of a metered charge."""

import math

from fairline.core.call import Frozen
from fairline.core.contents.state import Contents
from fairline.core.physics.tubing import table
from fairline.core.practice import Rules

PORTION_KG = 0.15  # what a running compressor takes at once; our own choice
NOTHING_KG = 1e-9


class WeighWay(Frozen):
    """One way of weighing: what it is called, and its steps in order."""

    label: str
    steps: tuple[str, ...]


WAYS: dict[str, WeighWay] = {
    name: WeighWay.model_validate(row) for name, row in table("weigh_steps")["ways"].items()
}


def way_of(left_kg: float, rules: Rules, contents: Contents) -> WeighWay:
    """How what is left is weighed: in or out, with the valves as they stand, by school.

    ``left_kg``: what is still to go in; negative, to be taken out.
    """
    if contents.lost is not None:
        return WAYS["all"]
    if left_kg < -NOTHING_KG:
        return WAYS["recover"]
    open_ = any(part.valves for part in contents.parts().values())
    running = open_ or rules.school("charge_into").name == "running"
    return WAYS["running" if running else "vacuum"]


def marks(before_kg: float, stop_kg: float) -> list[float]:
    """The weights at which a metered charge is stopped, one after the other, the last at the mark.

    >>> marks(8.0, 7.6)
    [7.867, 7.733, 7.6]
    """
    wanted = before_kg - stop_kg
    if wanted <= NOTHING_KG:
        return []
    count = math.ceil(wanted / PORTION_KG - NOTHING_KG)
    return [round(before_kg - wanted * n / count, 3) for n in range(1, count)] + [stop_kg]
