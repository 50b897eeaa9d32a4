"""The outdoor unit in the wind: whether it stays by its weight, and what holds it if not."""

from collections.abc import Sequence
from dataclasses import dataclass

from fairline.core.call import Call, Check, Step, Verdict
from fairline.core.check import fault_call
from fairline.core.mount.yard import YardPlace
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.sheet import Outdoor

AIR_KG_M3 = 1.225  # ASCE 7, 26.10: 0.613 v² in Pa is half of it; from memory
ON_GROUND, ON_ROOF = 1.3, 1.9  # force over pressure and face: ASCE 7, 29.4, from memory
DEAD = 0.6  # of the weight that may be counted against wind: ASCE 7, 2.4.1, from memory
FRICTION = 0.4  # rubber or steel on concrete, wet: common practice, no source
G = 9.80665
CORNERS = 4  # feet that are held


@dataclass(frozen=True)
class Wind:
    """Forces in N at the design wind; ``uplift_n`` and ``sliding_n`` are those of one corner.

    Both are 0 where its weight alone keeps the unit in place.
    """

    push_n: float
    uplift_n: float
    sliding_n: float

    @property
    def load_kg(self) -> float:
        """Pull and shear of one corner added, as a weight: on the side of safety."""
        return (self.uplift_n + self.sliding_n) / G


def wind(
    speed_m_s: float,
    weight_kg: float,
    size_m: Sequence[float],
    feet_m: float,
    force_factor: float = ON_GROUND,
) -> Wind:
    """Wind on the broad face; ``size_m`` is width and height, ``feet_m`` how deep the feet stand.

    Statics: F = ½·ρ·v²·C·w·h at half the height turns the unit about the feet in the lee, DEAD of
    its weight turns it back; what is missing is pulled by the two corners in the wind.

    >>> found = wind(40.0, 40.0, (0.9, 0.7), 0.35)
    >>> round(found.push_n), round(found.uplift_n), round(found.sliding_n)
    (803, 342, 177)
    >>> wind(10.0, 40.0, (0.9, 0.7), 0.35).load_kg
    0.0
    """
    width, height = size_m
    push = AIR_KG_M3 / 2 * speed_m_s**2 * force_factor * width * height
    held = DEAD * weight_kg * G
    uplift = max(0.0, push * height / 2 - held * feet_m / 2) / feet_m / 2
    sliding = max(0.0, push - FRICTION * held) / CORNERS
    return Wind(push, uplift, sliding)


def of_place(place: YardPlace, unit: Outdoor, rules: Rules) -> Wind | None:
    """A job's unit at the design wind on pad, stand or roof; None where a figure is missing."""
    limit, feet = rules.limit("design_wind"), unit.feet_depth_m or unit.depth_m
    if place.support not in ("pad", "stand", "roof") or limit is None:
        return None
    if not (unit.weight_kg and unit.width_m and unit.height_m and feet):
        return None
    factor = ON_ROOF if place.support == "roof" else ON_GROUND
    return wind(limit.value, unit.weight_kg, (unit.width_m, unit.height_m), feet, factor)


def wind_steps(found: Wind, unit: Outdoor) -> list[Step]:
    """The working of a unit's forces, for a pencil."""
    return [
        Step(
            step="wind on the broad face",
            expression=f"{unit.width_m:.4g} · {unit.height_m:.4g} m",
            value=found.push_n / G,
            unit="kg",
            kind="weight",
        ),
        Step(
            step="pull and shear on one of four corners",
            expression=f"held back by {DEAD:.0%} of {unit.weight_kg:.4g} kg",
            value=found.load_kg,
            unit="kg",
            kind="weight",
        ),
    ]


def wind_checks(place: YardPlace, found: Wind | None, rules: Rules) -> list[Check]:
    """Whether it is held against the design wind; where none is set, only a roof asks for it."""
    if found is None:
        unset = place.support == "roof" and rules.limit("design_wind") is None
        return [_asked()] if unset else []
    return [
        Check(
            id="wind",
            label="Held against wind",
            call=_call(place, found, rules),
            value=found.load_kg,
            unit="kg",
            kind="weight",
        )
    ]


def _call(place: YardPlace, found: Wind, rules: Rules) -> Call:
    if found.load_kg <= 0:
        return Call(verdict=Verdict.HOLDS, because="Its weight holds it in the design wind.")
    margin = rules.value("anchor_factor") or 4.0
    needed = found.load_kg * margin
    said = f"The design wind pulls {both(found.load_kg, 'weight')} at one corner"
    if place.held_rated_kg is None:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{said}; what one fastener at a corner is rated for is not entered.",
            do_next=f"Take fasteners rated for {both(needed, 'weight')}: a margin of {margin:g}.",
        )
    if place.held_rated_kg < needed * (1 - 1e-9):
        return fault_call(
            f"{said}; {both(place.held_rated_kg, 'weight')} over a margin of {margin:g} is less.",
            f"Take fasteners rated for {both(needed, 'weight')} or more, or strap it as well.",
        )
    return Call(
        verdict=Verdict.HOLDS,
        because=f"{said}; a fastener rated {both(place.held_rated_kg, 'weight')} holds it.",
    )


def _asked() -> Check:
    call = Call(
        verdict=Verdict.UNKNOWN,
        because="It stands on a roof, and no design wind speed is set.",
        do_next="Enter the design wind of local code in the house rules, or on this job.",
    )
    return Check(id="wind", label="Held against wind", call=call)
