"""The refrigerant of a company over all its jobs: what each cylinder gave and took; the sums."""

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from itertools import pairwise
from typing import Annotated

from pydantic import Field

from fairline.core.entry import CylinderKg, DateText, Entry, Text
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


class Cylinder(Entry):
    """A cylinder of the company as it is kept in its book.

    ``most_kg``: what it may weigh at most, filled to four fifths. ``test_due``: until when it may
    be used. ``holder``: who has it.
    """

    name: Annotated[Text, Field(min_length=1)]
    refrigerant: Text = ""
    tare_kg: CylinderKg = None
    most_kg: CylinderKg = None
    owner: Text = ""
    holder: Text = ""
    test_due: DateText = ""


class CylinderBook(Entry):
    """Every cylinder of the company, by its name."""

    cylinders: Annotated[tuple[Cylinder, ...], Field(max_length=500)] = ()

    def get(self, name: str) -> Cylinder | None:
        """The cylinder of a name, as people write it."""
        wanted = known_as(name)
        return next((c for c in self.cylinders if known_as(c.name) == wanted), None)

    def with_one(self, one: Cylinder) -> "CylinderBook":
        """The book with a cylinder as it is now, in place of one of its name."""
        others = tuple(c for c in self.cylinders if known_as(c.name) != known_as(one.name))
        return CylinderBook(cylinders=(*others, one))

    def without(self, name: str) -> "CylinderBook":
        wanted = known_as(name)
        return CylinderBook(
            cylinders=tuple(c for c in self.cylinders if known_as(c.name) != wanted)
        )


NO_BOOK = CylinderBook()


def known_as(name: str) -> str:
    """A cylinder's name as it is compared.

    >>> known_as(" C-4 ") == known_as("c-4")
    True
    """
    return name.strip().casefold()


@dataclass(frozen=True)
class CylinderLine:
    """A cylinder: what it weighed last, what went out of it and into it, what is asked of it.

    ``book``: as it is kept in the company's book; None where it is not.
    """

    name: str
    refrigerant: str
    last_kg: float | None
    tare_kg: float | None
    charged_kg: float
    recovered_kg: float
    moves: tuple[Move, ...]
    asks: tuple[str, ...]
    book: Cylinder | None = None

    @property
    def left_kg(self) -> float | None:
        """What is in it by its tare; None where nobody said the tare, or weighed it."""
        if self.tare_kg is None or self.last_kg is None:
            return None
        return self.last_kg - self.tare_kg


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


def cylinders(
    moves: Iterable[Move], book: CylinderBook = NO_BOOK, today: date | None = None
) -> list[CylinderLine]:
    """Every cylinder by its name and refrigerant, the one used last first, unused ones last."""
    by_name: dict[tuple[str, str], list[Move]] = {}
    for move in sorted(moves, key=lambda m: m.at):
        key = (known_as(move.cylinder), move.refrigerant)
        by_name.setdefault(key, []).append(move)
    found = [_line(own, book.get(own[-1].cylinder), today) for own in by_name.values()]
    found.sort(key=lambda line: line.moves[-1].at, reverse=True)
    used = {name for name, _ in by_name}
    return found + [_unused(c, today) for c in book.cylinders if known_as(c.name) not in used]


def _unused(one: Cylinder, today: date | None) -> CylinderLine:
    asks = tuple(_asks_of_book((), one, today))
    return CylinderLine(one.name, one.refrigerant, None, one.tare_kg, 0.0, 0.0, (), asks, one)


def _line(moves: Sequence[Move], book: Cylinder | None, today: date | None) -> CylinderLine:
    tares = [m.tare_kg for m in moves if m.tare_kg is not None]
    if book is not None and book.tare_kg is not None:
        tares.append(book.tare_kg)
    last, tare_kg = moves[-1], tares[-1] if tares else None
    asks = (*_asks(moves, tare_kg), *_asks_of_book(moves, book, today))
    return CylinderLine(
        name=last.cylinder.strip() or UNNAMED,
        refrigerant=last.refrigerant,
        last_kg=last.after_kg,
        tare_kg=tare_kg,
        charged_kg=math.fsum(m.moved_kg for m in moves if m.way == "in"),
        recovered_kg=math.fsum(-m.moved_kg for m in moves if m.way == "out"),
        moves=tuple(moves),
        asks=asks if last.cylinder.strip() else (),
        book=book,
    )


def _asks_of_book(
    moves: Sequence[Move], book: Cylinder | None, today: date | None
) -> Iterator[str]:
    """What does not agree with the company's book."""
    if book is None:
        return
    if book.test_due and today is not None and book.test_due < today.isoformat():
        yield f"Its test was due {book.test_due}: not filled nor carried until it was tested."
    other = next((m for m in moves if book.refrigerant and m.refrigerant != book.refrigerant), None)
    if other is not None:
        yield f"{other.refrigerant} at {other.job}, and the book says {book.refrigerant}."
    over = [m for m in moves if book.most_kg is not None and m.after_kg > book.most_kg + 1e-9]
    if over:
        yield (
            f"{both(over[-1].after_kg, 'cylinder')} after {over[-1].job} is over "
            f"{both(book.most_kg or 0.0, 'cylinder')}: never filled over four fifths."
        )


def _asks(moves: Sequence[Move], tare_kg: float | None) -> tuple[str, ...]:
    """What does not add up from one weighing of a cylinder to the next."""
    found = []
    for one, other in pairwise(moves):
        gone = one.after_kg - other.before_kg
        if abs(gone) > AGREES_KG + 1e-9:
            what = "less" if gone > 0 else "more"
            told = f"{both(abs(gone), 'charge')} {what} before {other.job} than after {one.job}"
            found.append(f"{told}: weighed elsewhere, another scale, or refilled?")
    for move in moves:
        tare = move.tare_kg if move.tare_kg is not None else tare_kg
        if tare is not None and move.after_kg < tare - 1e-9:
            found.append(f"Lighter than its tare after {move.job}: read the tare again.")
    return tuple(found)


@dataclass(frozen=True)
class Need:
    """What a job still wants of a refrigerant, and the cylinders that can give it."""

    job_id: int
    job: str
    refrigerant: str
    kg: float
    cylinders: tuple[CylinderLine, ...]


def needs(
    wants: Iterable[tuple[int, str, str, float]], lines: Sequence[CylinderLine]
) -> list[Need]:
    """Which job wants how much from which cylinder: each is promised no more than it holds.

    ``wants``: id, name, refrigerant and kg of each job, in the order in which they are served. The
    fullest cylinder that is known by its tare comes first; one cylinder, or several in turn.
    """
    left = {id(c): c.left_kg for c in lines if c.left_kg is not None and c.left_kg > 0}
    found = []
    for job_id, job, refrigerant, kg in wants:
        mine = [c for c in lines if c.refrigerant == refrigerant and left.get(id(c), 0.0) > 1e-9]
        mine.sort(key=lambda c: (left[id(c)] < kg, -left[id(c)]))
        taken, still = [], kg
        for one in mine:
            if still <= 1e-9:
                break
            gives = min(left[id(one)], still)
            left[id(one)] -= gives
            still -= gives
            taken.append(one)
        found.append(Need(job_id, job, refrigerant, kg, tuple(taken) if still <= 1e-9 else ()))
    return found


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
