"""The refrigerant of a company over all its jobs: what each cylinder gave and took; the sums."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise

from fairline.core.physics.tubing import table
from fairline.core.quantities import both

AGREES_KG = 0.03  # between one weighing and the next of a cylinder: two scales, our own choice
UNNAMED = "not named"


@dataclass(frozen=True)
class Move:
    """One weighing of a cylinder on a job; ``before_kg`` and ``after_kg`` as the scale had them."""

    at: datetime
    cylinder: str
    refrigerant: str
    way: str
    before_kg: float
    after_kg: float
    job_id: int
    job: str
    by: str
    tare_kg: float | None = None

    @property
    def moved_kg(self) -> float:
        """What left the cylinder; negative where it was recovered into it."""
        return self.before_kg - self.after_kg


@dataclass(frozen=True)
class CylinderLine:
    """A cylinder: what it weighed last, what went out of it and into it, what is asked of it."""

    name: str
    refrigerant: str
    last_kg: float
    tare_kg: float | None
    charged_kg: float
    recovered_kg: float
    moves: tuple[Move, ...]
    asks: tuple[str, ...]

    @property
    def left_kg(self) -> float | None:
        """What is in it by its tare; None where nobody said the tare."""
        return None if self.tare_kg is None else self.last_kg - self.tare_kg


@dataclass(frozen=True)
class YearLine:
    """A refrigerant in a year; ``co2e_kg``: of what was charged, None where no factor is known."""

    year: int
    refrigerant: str
    charged_kg: float
    recovered_kg: float
    co2e_kg: float | None


def gwp_source() -> str:
    """Where the factors of CO₂ equivalent are from."""
    return str(table("gwp")["source"])


def cylinders(moves: Iterable[Move]) -> list[CylinderLine]:
    """Every cylinder by its name and refrigerant, the one used last first."""
    by_name: dict[tuple[str, str], list[Move]] = {}
    for move in sorted(moves, key=lambda m: m.at):
        key = (move.cylinder.strip().casefold(), move.refrigerant)
        by_name.setdefault(key, []).append(move)
    found = [_line(own) for own in by_name.values()]
    return sorted(found, key=lambda line: line.moves[-1].at, reverse=True)


def _line(moves: Sequence[Move]) -> CylinderLine:
    tares = [m.tare_kg for m in moves if m.tare_kg is not None]
    last = moves[-1]
    return CylinderLine(
        name=last.cylinder.strip() or UNNAMED,
        refrigerant=last.refrigerant,
        last_kg=last.after_kg,
        tare_kg=tares[-1] if tares else None,
        charged_kg=math.fsum(m.moved_kg for m in moves if m.way == "in"),
        recovered_kg=math.fsum(-m.moved_kg for m in moves if m.way == "out"),
        moves=tuple(moves),
        asks=_asks(moves) if last.cylinder.strip() else (),
    )


def _asks(moves: Sequence[Move]) -> tuple[str, ...]:
    """What does not add up from one weighing of a cylinder to the next."""
    found = []
    for one, other in pairwise(moves):
        gone = one.after_kg - other.before_kg
        if abs(gone) > AGREES_KG + 1e-9:
            what = "less" if gone > 0 else "more"
            told = f"{both(abs(gone), 'charge')} {what} before {other.job} than after {one.job}"
            found.append(f"{told}: weighed elsewhere, another scale, or refilled?")
    for move in moves:
        if move.tare_kg is not None and move.after_kg < move.tare_kg - 1e-9:
            found.append(f"Lighter than its tare after {move.job}: read the tare again.")
    return tuple(found)


def years(moves: Iterable[Move]) -> list[YearLine]:
    """What was charged and recovered in each year, by refrigerant, the newest first."""
    factors = table("gwp")["factors"]
    sums: dict[tuple[int, str], list[Move]] = {}
    for move in moves:
        sums.setdefault((move.at.year, move.refrigerant), []).append(move)
    found = []
    for (year, refrigerant), own in sums.items():
        charged = math.fsum(m.moved_kg for m in own if m.way == "in")
        factor = factors.get(refrigerant)
        found.append(
            YearLine(
                year=year,
                refrigerant=refrigerant,
                charged_kg=charged,
                recovered_kg=math.fsum(-m.moved_kg for m in own if m.way == "out"),
                co2e_kg=None if factor is None else charged * factor,
            )
        )
    return sorted(found, key=lambda line: (-line.year, line.refrigerant))
