"""A simulated system on its way through time, integrated by SciPy's LSODA."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
LONGEST_STEP_S = 60.0
RELATIVE = 1e-7
END_S = 1e9


class Integrated:
    """The state of a system in time: s since it was begun, one number for each quantity.

    LSODA (Hindmarsh and Petzold, through SciPy) chooses its steps; between two of them its own
    interpolation gives what is asked, so that reading often costs little.
    """

    def __init__(
        self,
        slopes: Callable[[float, Floats], Sequence[float]],
        state: Sequence[float],
        within: Sequence[float],
    ) -> None:
        """``slopes`` gives the change of each quantity a second; ``within`` its absolute error."""
        # It takes long to load: only where something is simulated.
        from scipy.integrate import LSODA

        self._solver: Any = LSODA(
            slopes,
            0.0,
            np.array(state, dtype=float),
            END_S,
            max_step=LONGEST_STEP_S,
            rtol=RELATIVE,
            atol=np.array(within, dtype=float),
        )
        self._between: Callable[[float], Floats] | None = None
        self.t_s = 0.0

    def after(self, seconds: float) -> Floats:
        """The state that much later."""
        self.t_s += seconds
        while self._solver.t < self.t_s:
            self._solver.step()
            if self._solver.status == "failed":
                raise ArithmeticError("the simulated system could not be followed on")
            self._between = self._solver.dense_output()
        if self._between is None:
            return np.array(self._solver.y)
        return self._between(self.t_s)
