"""How much refrigerant a room may be exposed to: by what burns, or by the air it displaces."""

import math
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import (
    Answer,
    Authority,
    Call,
    Displaced,
    Frozen,
    Limit,
    Request,
    Step,
    Verdict,
)
from fairline.core.physics.nitrogen import atmosphere_pa
from fairline.core.physics.tubing import table
from fairline.core.quantities import both

Mounting = Literal["floor", "window", "wall", "ceiling"]
THIN_AIR_M = 600.0  # above it the most charge falls (IEC 60335-2-40, quoted from memory)
NEAR_SHARE = 0.9  # of a limit; from it on it is watched, our own choice
SAME = 1 + 1e-9  # what rounding leaves over is no charge


class ChargedRoom(Request):
    """A room: floor area, how high refrigerant would leave the head, and its own height.

    ``height_m`` counts for what displaces air; 2.4 m where nobody says.
    """

    id: Annotated[str, Field(min_length=1, max_length=200)]
    area_m2: Annotated[float, Field(gt=0, le=100_000)]
    mounting: Mounting | None = None
    release_height_m: Annotated[float, Field(gt=0, le=20)] | None = None
    height_m: Annotated[float, Field(gt=0, le=50)] | None = None

    @model_validator(mode="after")
    def _one_height(self) -> "ChargedRoom":
        if (self.mounting is None) == (self.release_height_m is None):
            raise ValueError("give one of mounting and release_height_m")
        if self.release_height_m is not None and self.release_height_m > self.room_height_m:
            raise ValueError(
                f"release_height_m: {self.release_height_m:g} m is above the room's "
                f"{self.room_height_m:g} m; give height_m where it is higher"
            )
        return self

    @property
    def room_height_m(self) -> float:
        return float(table("flammability")["height_m"] if self.height_m is None else self.height_m)

    @property
    def release_m(self) -> float:
        if self.release_height_m is not None:
            return self.release_height_m
        return float(table("flammability")["release_height_m"][self.mounting])


class RoomChargeLimitRequest(Request):
    """The whole charge of the system: any one room could receive all of it.

    ``altitude_m`` above the sea: in thin air less refrigerant does the same.
    """

    refrigerant: Literal["R-32", "R-454B", "R-410A"]
    charge_kg: Annotated[float, Field(ge=0, le=10_000)]
    rooms: Annotated[list[ChargedRoom], Field(min_length=1, max_length=200)]
    altitude_m: Annotated[float, Field(ge=-500, le=6000)] = 0.0

    @model_validator(mode="after")
    def _ids_are_single(self) -> "RoomChargeLimitRequest":
        ids = [room.id for room in self.rooms]
        if len(set(ids)) != len(ids):
            raise ValueError("rooms: an id stands twice")
        return self


class RoomLimit(Frozen):
    """One room: the most charge by its area, the least area for this charge. None: no limit."""

    id: str
    max_kg: float | None
    min_area_m2: float | None
    ok: bool


SMALLER = "Take less charge, a larger room or another head; the sheet's own table governs."


def _at_most(room: RoomLimit) -> str:
    most, floor = both(room.max_kg or 0.0, "charge"), both(room.min_area_m2 or 0.0, "area")
    return f"at most {most}, or a floor of at least {floor}"


class RoomChargeLimitResult(Frozen):
    no_limit_below_kg: float | None
    rooms: tuple[RoomLimit, ...]


def no_limit_below_kg(refrigerant: str) -> float | None:
    """The charge up to which no room is too small, kg: 6 m³ · LFL; None where it does not burn.

    IEC 60335-2-40, quoted from memory.

    >>> round(no_limit_below_kg("R-32") or 0.0, 3)
    1.842
    >>> no_limit_below_kg("R-410A") is None
    True
    """
    lfl = table("flammability")["lfl_kg_per_m3"][refrigerant]
    return None if lfl is None else float(table("flammability")["no_limit_factor_m3"] * lfl)


def altitude_factor(altitude_m: float) -> float:
    """What the most charge is divided by in thin air: p(600 m)/p(z), 1 up to 600 m.

    IEC 60335-2-40, quoted from memory; pressures of the standard atmosphere (ISO 2533).

    >>> [round(altitude_factor(z), 2) for z in (600.0, 1000.0, 1600.0, 2500.0)]
    [1.0, 1.05, 1.13, 1.26]
    """
    if altitude_m <= THIN_AIR_M:
        return 1.0
    return atmosphere_pa(THIN_AIR_M) / atmosphere_pa(altitude_m)


def max_charge_kg(lfl_kg_m3: float, height_m: float, area_m2: float) -> float:
    """m_max = 2.5 · LFL^1.25 · h₀ · √A (IEC 60335-2-40, quoted from memory).

    >>> round(max_charge_kg(0.307, 1.8, 3.783), 2)
    2.0
    """
    return float(2.5 * lfl_kg_m3**1.25 * height_m * math.sqrt(area_m2))


def min_area_m2(lfl_kg_m3: float, height_m: float, charge_kg: float) -> float:
    """The least floor for a charge, m²: A_min = (m / (2.5 · LFL^1.25 · h₀))².

    ``lfl_kg_m3``: lower flammability limit; ``height_m``: of the release. The inverse of
    ``max_charge_kg`` (IEC 60335-2-40, quoted from memory).

    >>> round(min_area_m2(0.307, 1.8, 2.0), 2)
    3.78
    """
    return float((charge_kg / (2.5 * lfl_kg_m3**1.25 * height_m)) ** 2)


def _near(charge: float, rooms: tuple[RoomLimit, ...]) -> RoomLimit | None:
    """The room whose limit is nearest, where the charge is within a tenth of it."""
    bound = [r for r in rooms if r.max_kg is not None and charge >= NEAR_SHARE * r.max_kg]
    return min(bound, key=lambda r: r.max_kg or 0.0, default=None)


def _watched(charge: float, room: RoomLimit) -> Call:
    return Call(
        verdict=Verdict.WATCH,
        because=f"{both(charge, 'charge')} fits {room.id} by less than a tenth: {_at_most(room)}.",
        do_next="Measure the room again, and mind what is added for the line.",
    )


def _displacing(request: RoomChargeLimitRequest) -> Answer[RoomChargeLimitResult]:
    """A refrigerant that does not burn takes the place of the air in the room: kg for each m³."""
    row = table("flammability")["displacing"][request.refrigerant]
    high, charge = request.altitude_m > row["up_to_m"], request.charge_kg
    most = float(row["high_kg_per_m3"] if high else row["kg_per_m3"])
    unsaid = request.altitude_m > row["high_up_to_m"]
    fits = [most * room.area_m2 * room.room_height_m for room in request.rooms]
    rooms = tuple(
        RoomLimit(
            id=room.id,
            max_kg=kg,
            min_area_m2=charge / (most * room.room_height_m),
            ok=charge <= kg * SAME and not unsaid,
        )
        for room, kg in zip(request.rooms, fits, strict=True)
    )
    at = f", at {both(request.altitude_m, 'length')}" if high else ""
    limit = Limit(
        limit="most charge for each m³ of the room",
        value=most,
        unit="kg/m³",
        authority=Authority.COMMON,
        source=f"{row['source']}{at}",
        displaced=(
            Displaced(
                value=row["other_kg_per_m3"],
                unit="kg/m³",
                authority=Authority.COMMON,
                source=row["other_source"],
            ),
        ),
    )
    over = [room for room in rooms if charge > (room.max_kg or 0.0) * SAME]
    findings: tuple[str, ...] = ("charge_over_room_limit",) if over else ()
    if over:
        worst = min(over, key=lambda room: room.max_kg or 0.0)
        call = Call(
            verdict=Verdict.STOP,
            because=f"{both(charge, 'charge')} of {request.refrigerant} would take the air from "
            f"{worst.id}: {_at_most(worst)}.",
            do_next=SMALLER,
        )
    elif unsaid:
        findings = ("over_altitude",)
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"Above {both(row['high_up_to_m'], 'length')} we know no limit of "
            f"{request.refrigerant}; this site lies at {both(request.altitude_m, 'length')}.",
            do_next="Ask the local code for the limit at this height.",
        )
    elif (near := _near(charge, rooms)) is not None:
        call = _watched(charge, near)
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{both(charge, 'charge')} of {request.refrigerant} leaves air enough in "
            "every room; it does not burn.",
        )
    working = tuple(
        Step(
            step=f"{asked.id}: most charge{at}",
            expression=f"{most:g} kg/m³ · {asked.area_m2:g} m² · {asked.room_height_m:g} m",
            value=room.max_kg or 0.0,
            unit="kg",
        )
        for asked, room in zip(request.rooms, rooms, strict=True)
    )
    return Answer[RoomChargeLimitResult](
        call=call,
        governed_by=(limit,),
        working=working,
        findings=findings,
        result=RoomChargeLimitResult(no_limit_below_kg=None, rooms=rooms),
    )


def _working(
    request: RoomChargeLimitRequest,
    rooms: Sequence[RoomLimit],
    lfl: float,
    free_kg: float,
    thin: float,
) -> tuple[Step, ...]:
    steps = [("no area limit at or below", f"6 m³ · {lfl:g} kg/m³", free_kg, "kg")]
    in_thin_air = ""
    if thin > 1:
        at = f"at {request.altitude_m:g} m"
        steps.append(("less in thin air, p(600 m)/p(altitude)", at, thin, ""))
        in_thin_air = f" / {thin:.3f}"
    for room, limit in zip(request.rooms, rooms, strict=True):
        relation = f"2.5 · {lfl:g}^1.25 · {room.release_m:g} · √{room.area_m2:g}{in_thin_air}"
        name = f"{room.id}: most charge, 2.5·LFL^1.25·h₀·√A"
        steps.append((name, relation, limit.max_kg or 0.0, "kg"))
    return tuple(Step(step=n, expression=e, value=v, unit=u) for n, e, v, u in steps)


def room_charge_limit(request: RoomChargeLimitRequest) -> Answer[RoomChargeLimitResult]:
    """Hold the whole charge against every room that a leak could fill.

    >>> asked = {"refrigerant": "R-32", "charge_kg": 2.0,
    ...          "rooms": [{"id": "loft", "area_m2": 12, "mounting": "wall"}]}
    >>> room_charge_limit(RoomChargeLimitRequest.model_validate(asked)).call.verdict.value
    'holds'
    """
    charge, source = request.charge_kg, table("flammability")["source"]
    lfl = table("flammability")["lfl_kg_per_m3"][request.refrigerant]
    free = no_limit_below_kg(request.refrigerant)
    if lfl is None or free is None:
        return _displacing(request)
    end = float(table("flammability")["relation_end_factor_m3"] * lfl)
    thin, unbound = altitude_factor(request.altitude_m), charge <= free * SAME
    rooms = tuple(
        RoomLimit(
            id=room.id,
            max_kg=(most := max_charge_kg(lfl, room.release_m, room.area_m2) / thin),
            min_area_m2=min_area_m2(lfl, room.release_m, charge * thin),
            ok=charge <= end * SAME and (unbound or charge <= most * SAME),
        )
        for room in request.rooms
    )
    over = [r for r in rooms if not unbound and charge > (r.max_kg or 0.0) * SAME]
    findings: tuple[str, ...] = ("charge_over_room_limit",) if over else ()
    if over:  # what can hurt before what nobody knows
        worst = min(over, key=lambda limit: limit.max_kg or 0.0)
        call = Call(
            verdict=Verdict.STOP,
            because=f"{both(charge, 'charge')} of {request.refrigerant} is too much for "
            f"{worst.id}: {_at_most(worst)}.",
            do_next=SMALLER,
        )
    elif charge > end * SAME:
        findings = ("over_relation",)
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"{both(charge, 'charge')} of {request.refrigerant} is above "
            f"{both(end, 'charge')}, where the relation of the standard ends.",
            do_next="Only the sheet's own table or a local code can say: enter it, or take less "
            "charge.",
        )
    elif unbound:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{both(charge, 'charge')} is at or below {both(free, 'charge')}: no room is "
            "too small.",
        )
    elif (near := _near(charge, rooms)) is not None:
        call = _watched(charge, near)
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{both(charge, 'charge')} fits every room.")
    limit = Limit(
        limit="no limit at or below",
        value=free,
        unit="kg",
        authority=Authority.COMMON,
        source=source,
    )
    return Answer[RoomChargeLimitResult](
        call=call,
        governed_by=(limit,),
        working=_working(request, rooms, lfl, free, thin),
        findings=findings,
        result=RoomChargeLimitResult(no_limit_below_kg=free, rooms=rooms),
    )
