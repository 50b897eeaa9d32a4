"""How much refrigerant a room may be exposed to: by what burns, or by the air it displaces."""

import math
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
from fairline.core.physics.tubing import table
from fairline.core.quantities import both

Mounting = Literal["floor", "window", "wall", "ceiling"]


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
    """The whole charge of the system: any one room could receive all of it."""

    refrigerant: Literal["R-32", "R-454B", "R-410A"]
    charge_kg: Annotated[float, Field(ge=0, le=10_000)]
    rooms: Annotated[list[ChargedRoom], Field(min_length=1, max_length=200)]

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
    """Charge up to which no room is too small, 6 m³ · LFL; None where it does not burn."""
    lfl = table("flammability")["lfl_kg_per_m3"][refrigerant]
    return None if lfl is None else float(table("flammability")["no_limit_factor_m3"] * lfl)


def max_charge_kg(lfl_kg_m3: float, height_m: float, area_m2: float) -> float:
    """m_max = 2.5 · LFL^1.25 · h₀ · √A (IEC 60335-2-40, quoted from memory).

    >>> round(max_charge_kg(0.307, 1.8, 3.783), 2)
    2.0
    """
    return float(2.5 * lfl_kg_m3**1.25 * height_m * math.sqrt(area_m2))


def min_area_m2(lfl_kg_m3: float, height_m: float, charge_kg: float) -> float:
    """A_min = (m / (2.5 · LFL^1.25 · h₀))² (IEC 60335-2-40, quoted from memory)."""
    return float((charge_kg / (2.5 * lfl_kg_m3**1.25 * height_m)) ** 2)


def _displacing(request: RoomChargeLimitRequest) -> Answer[RoomChargeLimitResult]:
    """A refrigerant that does not burn takes the place of the air in the room: kg for each m³."""
    row = table("flammability")["displacing"][request.refrigerant]
    most, charge = float(row["kg_per_m3"]), request.charge_kg
    rooms = tuple(
        RoomLimit(
            id=room.id,
            max_kg=most * room.area_m2 * room.room_height_m,
            min_area_m2=charge / (most * room.room_height_m),
            ok=charge <= most * room.area_m2 * room.room_height_m * (1 + 1e-9),
        )
        for room in request.rooms
    )
    limit = Limit(
        limit="most charge for each m³ of the room",
        value=most,
        unit="kg/m³",
        authority=Authority.COMMON,
        source=row["source"],
        displaced=(
            Displaced(
                value=row["other_kg_per_m3"],
                unit="kg/m³",
                authority=Authority.COMMON,
                source=row["other_source"],
            ),
        ),
    )
    over = [room for room in rooms if not room.ok]
    if over:
        worst = min(over, key=lambda room: room.max_kg or 0.0)
        call = Call(
            verdict=Verdict.STOP,
            because=f"{both(charge, 'charge')} of {request.refrigerant} would take the air from "
            f"{worst.id}: {_at_most(worst)}.",
            do_next=SMALLER,
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{both(charge, 'charge')} of {request.refrigerant} leaves air enough in "
            "every room; it does not burn.",
        )
    working = tuple(
        Step(
            step=f"{asked.id}: most charge",
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
        findings=("charge_over_room_limit",) if over else (),
        result=RoomChargeLimitResult(no_limit_below_kg=None, rooms=rooms),
    )


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
    rooms = tuple(
        RoomLimit(
            id=room.id,
            max_kg=(most := max_charge_kg(lfl, room.release_m, room.area_m2)),
            min_area_m2=min_area_m2(lfl, room.release_m, charge),
            ok=charge <= end and (charge <= free or charge <= most),
        )
        for room in request.rooms
    )
    limits = (
        Limit(
            limit="no limit at or below",
            value=free,
            unit="kg",
            authority=Authority.COMMON,
            source=source,
        ),
    )
    working = [
        Step(
            step="no area limit at or below",
            expression=f"6 m³ · {lfl:g} kg/m³",
            value=free,
            unit="kg",
        )
    ]
    for room, limit in zip(request.rooms, rooms, strict=True):
        working.append(
            Step(
                step=f"{room.id}: most charge, 2.5·LFL^1.25·h₀·√A",
                expression=f"2.5 · {lfl:g}^1.25 · {room.release_m:g} · √{room.area_m2:g}",
                value=limit.max_kg or 0.0,
                unit="kg",
            )
        )
    over = [limit for limit in rooms if not limit.ok]
    findings: tuple[str, ...] = ("charge_over_room_limit",) if over else ()
    if charge > end:
        findings = ("over_relation",)
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"{both(charge, 'charge')} of {request.refrigerant} is above "
            f"{both(end, 'charge')}, where the relation of the standard ends.",
            do_next="Only the sheet's own table or a local code can say: enter it, or take less "
            "charge.",
        )
    elif over:
        worst = min(over, key=lambda limit: limit.max_kg or 0.0)
        call = Call(
            verdict=Verdict.STOP,
            because=f"{both(charge, 'charge')} of {request.refrigerant} is too much for "
            f"{worst.id}: {_at_most(worst)}.",
            do_next=SMALLER,
        )
    else:
        below = charge <= free
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{both(charge, 'charge')} is at or below {both(free, 'charge')}: no room is "
            "too small."
            if below
            else f"{both(charge, 'charge')} fits every room.",
        )
    return Answer[RoomChargeLimitResult](
        call=call,
        governed_by=limits,
        working=tuple(working),
        findings=findings,
        result=RoomChargeLimitResult(no_limit_below_kg=free, rooms=rooms),
    )
