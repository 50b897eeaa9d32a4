"""What every simulated sensor has in common: it lags behind, and now and then shows nothing."""

import math
import random
from dataclasses import dataclass


@dataclass(frozen=True)
class Sensor:
    """``lag_s``: the time constant it follows with. ``drops_each_s``: about how often it drops out,
    one time in so many seconds, for up to ``dropped_s``; nought for never."""

    lag_s: float = 0.0
    drops_each_s: float = 0.0
    dropped_s: float = 20.0

    def fresh(self) -> "Shown":
        return Shown(self)


STEADY = Sensor()
USUAL_SENSOR = Sensor(lag_s=1.5, drops_each_s=900.0)  # our own choice


@dataclass
class Shown:
    """What a sensor shows as time goes on."""

    sensor: Sensor
    value: float | None = None
    dark_s: float = 0.0

    def follow(self, true: float, since_s: float, chance: random.Random) -> float | None:
        """What it shows of ``true``, ``since_s`` after it was last asked; None when dropped out."""
        lag = self.sensor.lag_s
        keep = math.exp(-since_s / lag) if lag else 0.0
        self.value = true if self.value is None else true + (self.value - true) * keep
        if self.dark_s > 0:
            self.dark_s -= since_s
            return None
        each = self.sensor.drops_each_s
        # Between readings that lie far apart it may have come back again.
        if each and chance.random() < min(since_s, self.sensor.dropped_s) / each:
            self.dark_s = chance.uniform(0.2, 1.0) * self.sensor.dropped_s
            return None
        return self.value
