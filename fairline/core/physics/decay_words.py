"""What is said of a decay's shape: what it may be, and what it asks for."""

from fairline.core.physics.decay_shape import Shape

MAY_BE: dict[Shape, str] = {
    "leak": "a leak",
    "leak_and_moisture": "water and a leak",
    "moisture": "water that boils",
    "outgassing": "gas given off by walls, oil or a pocket",
    "steady": "a level that wanders",
    "ice": "ice that warms",
}
MAY_BE_BELOW: dict[Shape, str] = {  # the pressure at which free water boils
    "leak_and_moisture": "a leak beside gas that a pocket gives off",
    "moisture": "water held in oil or slow to boil, or gas from a pocket",
}

STEEPENS = (
    "Its rise grows steeper, as no leak's does: ice that warms and goes, or a valve that opens."
)

SHAPE_ACTS: dict[Shape, str] = {
    "leak": "Break with nitrogen, pressure-test and bubble every joint, then pull again.",
    "moisture": "Break with dry nitrogen, let it dwell, change the pump oil, warm the line and "
    "pull again, three times.",
    "leak_and_moisture": "Pressure-test and bubble the joints first, then dry with nitrogen "
    "sweeps.",
    "outgassing": "Pull on for as long again, then close the valve and time it once more.",
    "ice": "Warm the line above freezing, sweep with dry nitrogen and pull again.",
    "not_isolated": "Shut the valve between pump and gauge, see the pump off and say so; else time "
    "it again.",
    "steady": "Pull lower, then close the valve again; where it goes no lower, change the pump's "
    "oil and look at hose and core.",
    "undecided": "Log at least eight readings over a minute, then judge again.",
}


READ_ON = (
    "Leave the valve shut and read on for {} more: what slows is water or gas given off, what goes "
    "straight on is a leak."
)
NOT_SEEN = (
    "It stays under the limit, and nobody said that the valve was shut and the pump seen off: a "
    "valve that passes to a running pump looks so too."
)
