"""What the pressure test asks for: its pressure and hold, the stops on the way up, the waiting."""

from fairline.core.call import Frozen, Limit
from fairline.core.physics.constants import HOUR_S
from fairline.core.practice import Rules

# Pressures to stop at on the way up: a large leak is heard before the full pressure is on it
# (common practice, no published source).
STOPS = (
    (0.5e6, 180.0, "Listen, and look at every joint: a large leak shows here."),
    (1.5e6, 300.0, "Watch the gauge: a leak that moves it is mended before going on."),
)
# What fits into the waiting, how long it takes, and whether each head asks for it: our own choice,
# no published source.
MEANWHILE = (
    ("Drains: support, fall, pour water", 1800.0, True),
    ("Supply, disconnect, whip", HOUR_S, False),
    ("Interconnect of each zone, number to number, pull-tested", 1200.0, True),
    ("Cover, tape and sleeves", 2700.0, False),
)


class Plan(Frozen):
    """What the test asks for, never over the most the equipment may see. Pa and s."""

    gauge_pa: float
    hold_s: float
    max_gauge_pa: float
    limits: tuple[Limit, ...]
    lowered: bool = False


class PlanStep(Frozen):
    """One step of the way up: a pressure, how long it is kept, and what it is for. Pa and s."""

    gauge_pa: float
    hold_s: float
    why: str
    last: bool = False


class Meanwhile(Frozen):
    """Work for the waiting; ``fits`` where the rest of the hold is long enough for it too. s."""

    work: str
    takes_s: float
    fits: bool


def plan(rules: Rules) -> Plan | None:
    """The test's pressure, hold and ceiling; None where the sheet gives no maximum."""
    pressure, hold = rules.limit("test_pressure"), rules.limit("test_hold")
    most = rules.limit("max_test")
    if pressure is None or hold is None or most is None:
        return None
    return Plan(
        gauge_pa=min(pressure.value, most.value),
        hold_s=hold.value,
        max_gauge_pa=most.value,
        limits=(pressure, hold, most),
        lowered=pressure.value > most.value,
    )


def steps(to_hold: Plan) -> tuple[PlanStep, ...]:
    """The stops below the test pressure, then the test itself."""
    stops = tuple(
        PlanStep(gauge_pa=gauge, hold_s=hold, why=why)
        for gauge, hold, why in STOPS
        if gauge < 0.8 * to_hold.gauge_pa
    )
    final = PlanStep(
        gauge_pa=to_hold.gauge_pa,
        hold_s=to_hold.hold_s,
        why="The test: read gauge and pipe at its beginning and at its end.",
        last=True,
    )
    return (*stops, final)


def meanwhile(to_hold: Plan, held_s: float, heads: int) -> list[Meanwhile]:
    """The work that fits into the rest of the hold, in order, and what no longer does."""
    left, found = to_hold.hold_s - held_s, []
    for work, each, by_head in MEANWHILE:
        takes = each * (max(1, heads) if by_head else 1)
        left -= takes
        found.append(Meanwhile(work=work, takes_s=takes, fits=left >= 0))
    return found
