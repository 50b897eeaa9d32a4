"""What a job is offered for: its materials and hours by price, options, and what came of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from fairline.core.calc.materials import GROUPS, Line
from fairline.core.entry import DateText, Entry, LongText, Text
from fairline.core.job import Job
from fairline.core.plan.tasks import PlanTask
from fairline.core.plan.times import task_times

Price = Annotated[float, Field(ge=0, le=1e9)]
Quantity = Annotated[float, Field(ge=0, le=1e6)]
Key = Annotated[str, Field(min_length=1, max_length=300)]
MOST = 400
LABOUR, TRADE, OWN, MACHINES = "labour", "trade", "own", "machines"
BOUGHT = (MACHINES, *GROUPS)  # groups of lines that the markup is on


class PriceBook(Entry):
    """The company's prices by line (``key``), for one of what it is counted in.

    ``hour``: a person's hour of work. ``markup`` is on materials, ``tax`` on all, as fractions.
    """

    prices: Annotated[dict[Key, Price], Field(max_length=5000)] = {}
    hour: Price | None = None
    markup: Annotated[float, Field(ge=0, le=10)] = 0.0
    tax: Annotated[float, Field(ge=0, le=1)] = 0.0
    currency: Annotated[Text, Field(max_length=8)] = "$"


class OwnLine(Entry):
    """A line of a bid's own: ``quantity`` of it at ``price`` each."""

    words: Annotated[Text, Field(min_length=1)]
    quantity: Annotated[float, Field(gt=0, le=1e6)] = 1.0
    price: Price | None = None


class Option(Entry):
    """What a customer may have besides, for one price; ``chosen``: it is in the sum."""

    words: Annotated[Text, Field(min_length=1)]
    price: Price | None = None
    chosen: bool = False


class GivenLine(Entry):
    """A line as it was offered."""

    key: Key
    words: Text
    quantity: float
    price: Price | None = None


class Given(Entry):
    """The bid as it was given to the customer: from then on it is what came of it."""

    on: DateText
    by: Text = ""
    total: float
    currency: Annotated[Text, Field(max_length=8)] = "$"
    lines: Annotated[tuple[GivenLine, ...], Field(max_length=MOST)] = ()


class Bid(Entry):
    """What is particular to a job's bid; lines without a price here go by the company's list.

    ``prices`` and ``quantities`` are by ``key``; a quantity of nought leaves a line out.
    """

    prices: Annotated[dict[Key, Price], Field(max_length=MOST)] = {}
    quantities: Annotated[dict[Key, Quantity], Field(max_length=MOST)] = {}
    own: Annotated[tuple[OwnLine, ...], Field(max_length=60)] = ()
    options: Annotated[tuple[Option, ...], Field(max_length=20)] = ()
    note: LongText = ""
    given: Given | None = None


@dataclass(frozen=True)
class BidLine:
    """One line: ``quantity`` in m, pieces or hours, at ``price`` for one; None: no price yet.

    ``worked_out``: the quantity that list or plan gives, where somebody typed another.
    """

    key: str
    group: str
    words: str
    unit: str
    quantity: float
    price: float | None
    worked_out: float

    @property
    def sum(self) -> float:
        """What it comes to, in the currency; nothing while it has no price."""
        return round(self.quantity * (self.price or 0.0), 2)

    @property
    def lacks(self) -> bool:
        return self.price is None and self.quantity > 0


@dataclass(frozen=True)
class BidSheet:
    """A bid worked out. ``lacking``: lines that have no price, so that the total is too low."""

    lines: tuple[BidLine, ...]
    options: tuple[Option, ...]
    materials: float
    markup: float
    work: float
    chosen: float
    tax: float
    lacking: tuple[str, ...]

    @property
    def total(self) -> float:
        return round(self.materials + self.markup + self.work + self.chosen + self.tax, 2)


def line_key(line: Line) -> str:
    """What a line of the materials list is known by in a list of prices."""
    return f"{line.group}|{line.item}|{line.size}|{line.unit}"[:300]


def bid_sheet(
    job: Job, materials: Sequence[Line], tasks: Sequence[PlanTask], bid: Bid, book: PriceBook
) -> BidSheet:
    """The bid of a job: its machines, its materials list and the tasks of its plan, done or not.

    Hours are of people: a task of two for an hour is two. Waits cost nothing; another trade is a
    line with a price of its own.
    """
    lines = [
        *_machines(job, bid, book),
        *_materials(materials, bid, book),
        *_work(tasks, bid, book),
        *_own(bid),
    ]
    bought = sum(x.sum for x in lines if x.group in BOUGHT)
    work = sum(x.sum for x in lines if x.group not in BOUGHT)
    chosen = sum(o.price or 0.0 for o in bid.options if o.chosen)
    markup = round(bought * book.markup, 2)
    tax = round((bought + markup + work + chosen) * book.tax, 2)
    lacking = [x.words for x in lines if x.lacks]
    lacking += [o.words for o in bid.options if o.chosen and o.price is None]
    return BidSheet(
        lines=tuple(lines),
        options=bid.options,
        materials=round(bought, 2),
        markup=markup,
        work=round(work, 2),
        chosen=round(chosen, 2),
        tax=tax,
        lacking=tuple(lacking),
    )


def _line(
    key: str, group: str, words: str, unit: str, quantity: float, bid: Bid, price: float | None
) -> BidLine:
    return BidLine(
        key=key,
        group=group,
        words=words,
        unit=unit,
        quantity=bid.quantities.get(key, quantity),
        price=bid.prices.get(key, price),
        worked_out=quantity,
    )


def _machines(job: Job, bid: Bid, book: PriceBook) -> list[BidLine]:
    """Outdoor unit, heads, boxes, tees and kits by the name on their sheet, equal ones together."""
    equipment, count = job.equipment, dict[str, int]()
    sheets = [equipment.outdoor.sheet] if equipment.outdoor else []
    for sheet in (
        *sheets,
        *(h.sheet for h in equipment.heads),
        *(f.sheet for f in equipment.fittings),
    ):
        count[sheet.name] = count.get(sheet.name, 0) + 1
    return [
        _line(key, MACHINES, name, "pieces", float(n), bid, book.prices.get(key))
        for name, n in count.items()
        if (key := f"{MACHINES}|{name}"[:300])
    ]


def _materials(materials: Sequence[Line], bid: Bid, book: PriceBook) -> list[BidLine]:
    found: dict[str, tuple[Line, float]] = {}
    for line in materials:
        key = line_key(line)
        found[key] = (line, found[key][1] + line.quantity if key in found else line.quantity)
    return [
        _line(
            key,
            line.group,
            f"{line.item} {line.size}".strip(),
            line.unit,
            quantity,
            bid,
            book.prices.get(key),
        )
        for key, (line, quantity) in found.items()
    ]


def _work(tasks: Sequence[PlanTask], bid: Bid, book: PriceBook) -> list[BidLine]:
    hours: dict[str, float] = {}
    trades: dict[str, str] = {}
    for task in tasks:
        if task.trade:
            trades[f"{TRADE}|{task.id}"] = f"{task.trade.capitalize()}: {task.words}"
        elif task.crew:
            words = task_times()[task.time].words if task.time else task.words
            hours[words] = hours.get(words, 0.0) + task.duration_s * task.crew / 3600.0
    own = [
        _line(f"{LABOUR}|{words}"[:300], LABOUR, words, "h", round(h, 2), bid, book.hour)
        for words, h in hours.items()
    ]
    return own + [
        _line(key[:300], TRADE, words, "pieces", 1.0, bid, book.prices.get(key))
        for key, words in trades.items()
    ]


def _own(bid: Bid) -> list[BidLine]:
    return [
        BidLine(f"{OWN}|{n}", OWN, x.words, "pieces", x.quantity, x.price, x.quantity)
        for n, x in enumerate(bid.own)
    ]


def given(sheet: BidSheet, on: str, by: str, currency: str) -> Given:
    """The bid as it is given today."""
    return Given(
        on=on,
        by=by,
        total=sheet.total,
        currency=currency,
        lines=tuple(
            GivenLine(key=x.key, words=x.words, quantity=x.quantity, price=x.price)
            for x in sheet.lines
            if x.quantity
        ),
    )


@dataclass(frozen=True)
class Came:
    """A line as it was offered and as it is now; quantities in m, pieces or hours."""

    words: str
    unit: str
    offered: float
    came: float
    price: float | None

    @property
    def more(self) -> float:
        """By how much it comes to more than was offered, in the currency; negative: less."""
        return round((self.came - self.offered) * (self.price or 0.0), 2)


def what_came(offer: Given, sheet: BidSheet, took_h: Mapping[str, float]) -> list[Came]:
    """The bid that was given against the job as it stands: lines that differ, the dearest first.

    ``took_h``: the hours that were measured, by the words of a kind of task; the plan's stand where
    none were.
    """
    now = {x.key: x for x in sheet.lines}
    found = []
    for line in offer.lines:
        current = now.get(line.key)
        unit = current.unit if current else "h" if line.key.startswith(LABOUR) else "pieces"
        came = current.worked_out if current else 0.0
        if line.key.startswith(OWN):
            came = current.quantity if current else 0.0
        came = took_h.get(line.key.removeprefix(f"{LABOUR}|"), came) if unit == "h" else came
        found.append(Came(line.words, unit, line.quantity, round(came, 2), line.price))
    known = {line.key for line in offer.lines}
    for key, current in now.items():
        if key not in known and current.quantity:
            found.append(Came(current.words, current.unit, 0.0, current.quantity, current.price))
    differ = [one for one in found if abs(one.came - one.offered) > 0.005]
    return sorted(differ, key=lambda one: -abs(one.more))
