"""A simulated torque wrench with a radio: set to a torque, it clicks near it and tells its reading.

Its readings scatter as a good click wrench's do: within 4 % of the setting (ISO 6789-1:2017,
quoted from memory), two standard deviations.
"""

import random
from dataclasses import dataclass, field

SCATTER = 0.02  # standard deviation, as a share of the setting


@dataclass
class TorqueWrench:
    """Set in N·m; ``click`` gives what it read. The same seed gives the same clicks."""

    set_nm: float
    seed: int = 1
    _chance: random.Random = field(init=False)

    def __post_init__(self) -> None:
        if self.set_nm <= 0:
            raise ValueError("set the wrench to a torque above nought")
        self._chance = random.Random(self.seed)

    def click(self) -> float:
        """What the wrench read as it clicked, in N·m."""
        return max(0.0, self.set_nm * (1 + self._chance.gauss(0, SCATTER)))
