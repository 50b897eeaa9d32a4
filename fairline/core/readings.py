"""Runs of readings: a nitrogen hold, a pull, a decay. Readings append and never change.

A run keeps its readings by column, as arrays, from the store to the verdict: a day at one reading
a second has 86 400. As a sequence they are single readings, which is how people see them.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Annotated, Any, ClassVar, Generic, Literal, TypeVar, get_args, overload

import numpy as np
from numpy.typing import NDArray
from pydantic import (
    AfterValidator,
    BeforeValidator,
    Field,
    GetCoreSchemaHandler,
    TypeAdapter,
    ValidationError,
    model_validator,
)
from pydantic_core import core_schema

from fairline.core.entry import Entry, Moment, Text, blank
from fairline.core.physics.constants import ATMOSPHERE_PA
from fairline.core.physics.nitrogen import COLDEST_C, HOTTEST_C

RunKind = Literal["hold", "pull", "decay"]
VacuumKind = Literal["pull", "decay"]
VACUUM: tuple[VacuumKind, ...] = ("pull", "decay")


def kinds_beside(kind: RunKind) -> tuple[RunKind, ...]:
    """The kinds of runs that one gauge reads in turn: a hold alone, a pull and its decay."""
    return ("hold",) if kind == "hold" else VACUUM


Probe = Literal["shaded", "insulated", "sun", "air"]
PROBES: dict[Probe, str] = {  # where the pipe's temperature was read
    "shaded": "on the pipe, in the shade",
    "insulated": "on the pipe, under insulation",
    "sun": "on the pipe, in the sun",
    "air": "in the air beside it",
}

LEAST_HOLD_PA = -20_000.0  # a gauge that is not quite at nought
OURS = ("simulated micron gauge", "simulated digital gauge")  # marked by name before ``simulated``

MOST_DRAWN = 240  # of a run's readings on one chart

Floats = NDArray[np.float64]
Array = NDArray[Any]


def _a_pressure(value: float) -> float:
    if value < LEAST_HOLD_PA:
        raise ValueError("gauge_pa of a hold is a pressure, not a vacuum")
    return value


def _a_vacuum(value: float | None) -> float | None:
    if value is not None and value > 0:
        raise ValueError("gauge_pa of a vacuum lies below nought")
    return value


class Reading(Entry):
    """One reading: ``t_s`` since the run began. Instrument and sequence number are its identity.

    ``simulated``: no instrument read it.
    """

    instrument: Annotated[Text, Field(min_length=1)] = "by hand"
    seq: Annotated[int, Field(ge=0, le=2**53)]
    t_s: Annotated[float, Field(ge=0, le=1e8), AfterValidator(lambda s: round(s, 6))]
    simulated: bool = False

    @model_validator(mode="before")
    @classmethod
    def _by_name(cls, value: Any) -> Any:
        """What another kind of run reads may stand there blank; our own gauges' old readings."""
        if not isinstance(value, dict):
            return value
        known = {k: v for k, v in value.items() if v is not None or k in cls.model_fields}
        return {"simulated": True} | known if known.get("instrument") in OURS else known


class HoldReading(Reading):
    """Nitrogen: gauge pressure in Pa and the pipe's temperature in °C, taken together.

    ``probe`` is where the temperature was read; None where nobody said.
    """

    gauge_pa: Annotated[float, Field(ge=-ATMOSPHERE_PA, le=2e7), AfterValidator(_a_pressure)]
    pipe_c: Annotated[float, Field(ge=COLDEST_C, le=HOTTEST_C)]
    probe: Annotated[Probe | None, BeforeValidator(blank)] = None


Side = Literal["gas", "liquid"]


class VacuumReading(Reading):
    """A vacuum: absolute (``pa``), or on a needle (``gauge_pa``, below nought). Pa.

    ``side`` is where a needle sits, if there are two.
    """

    pa: Annotated[float, Field(ge=0, le=200_000)] | None = None
    gauge_pa: Annotated[
        Annotated[float, Field(ge=-ATMOSPHERE_PA, le=2e7)] | None, AfterValidator(_a_vacuum)
    ] = None

    side: Annotated[Side | None, BeforeValidator(blank)] = None

    @model_validator(mode="after")
    def _one_of_them(self) -> "VacuumReading":
        if self.side is not None and self.gauge_pa is None:
            raise ValueError("only a needle sits on a side")
        if (self.pa is None) == (self.gauge_pa is None):
            raise ValueError("a vacuum is read absolute, pa, or on a needle, gauge_pa")
        return self


OneReading = TypeVar("OneReading", bound=Reading)
Self = TypeVar("Self", bound="Readings[Any]")

_NUMBERS: Mapping[str, Any] = {"seq": np.int64, "simulated": np.bool_}  # others are float64
_WORDS = ("instrument", "probe", "side")


class Readings(Sequence[OneReading], Generic[OneReading]):
    """The readings of one run by column, in order of time; by index each as its model.

    A number that was not read is NaN in its column, a word that was not said is None.
    """

    model: ClassVar[type[Reading]]

    def __init__(self, columns: Mapping[str, Sequence[Any] | Array], count: int) -> None:
        self._columns: dict[str, Array] = {}
        for name in self.names():
            self._columns[name] = _column(name, columns.get(name), count)
        self._count = count

    @classmethod
    def names(cls) -> tuple[str, ...]:
        """The columns, by the names of the model's fields."""
        return tuple(cls.model.model_fields)

    @classmethod
    def of(cls: type[Self], readings: Iterable[Reading]) -> Self:
        """Readings that were looked at already, by column. Raises ValueError for another kind's."""
        found = list(readings)
        for n, reading in enumerate(found):
            if not isinstance(reading, cls.model):
                raise ValueError(f"readings.{n}: this is read in another kind of run")
        return cls({n: [getattr(r, n) for r in found] for n in cls.names()}, len(found))

    @classmethod
    def read(cls: type[Self], columns: Mapping[str, Any], count: int) -> Self:
        """Columns as they came in, each reading looked at as its model asks.

        What the model asks of a number is an interval: where the least and the most of a column
        lie in it, all do. So only these are looked at, and one reading of each word. Raises
        pydantic.ValidationError, each place beginning with the reading's number from 0.
        """
        found = cls({**columns, "t_s": np.round(columns["t_s"], 6)}, count)
        try:
            cls._look(found.only(found._telling()))
        except ValidationError:
            cls._look(found)  # all of them, to say which is the first
            raise
        for name in OURS:
            found._columns["simulated"] |= found._columns["instrument"] == name
        return found

    @classmethod
    def _look(cls, readings: "Readings[Any]") -> None:
        TypeAdapter(list[cls.model]).validate_python(_documents(readings))  # type: ignore[name-defined]

    def _telling(self) -> Array:
        """The readings by which all are looked at, by number."""
        at = set(self._first_of_each_pattern())
        for name, column in self._columns.items():
            if name in _WORDS:
                at |= {int(np.flatnonzero(column == word)[0]) for word in set(column.tolist())}
            elif column.dtype == np.float64:
                blank = np.isnan(column)
                at |= {int(np.flatnonzero(b)[0]) for b in (blank, ~blank) if b.any()}
                if not blank.all():
                    at |= {int(np.nanargmin(column)), int(np.nanargmax(column))}
            else:
                at |= {int(np.argmin(column)), int(np.argmax(column))}
        return np.array(sorted(at), dtype=np.intp)

    def _first_of_each_pattern(self) -> list[int]:
        """The first reading of each set of values that are there: not every set may be."""
        pattern = np.zeros(self._count, dtype=np.int64)
        for name, column in self._columns.items():
            if name in _WORDS:
                there = np.array([word is not None for word in column.tolist()], dtype=np.bool_)
            elif column.dtype == np.float64:
                there = ~np.isnan(column)
            else:
                continue
            pattern = pattern * 2 + there
        return [int(n) for n in np.unique(pattern, return_index=True)[1]]

    def __len__(self) -> int:
        return self._count

    @overload
    def __getitem__(self, at: int) -> OneReading: ...

    @overload
    def __getitem__(self, at: slice) -> "Readings[OneReading]": ...

    def __getitem__(self, at: int | slice) -> Any:
        if isinstance(at, slice):
            return self.only(at)
        if not -self._count <= at < self._count:
            raise IndexError(at)
        return self._made({n: c[at] for n, c in self._columns.items()})

    def __iter__(self) -> Iterator[OneReading]:
        names = self.names()
        for values in zip(*(self._columns[n].tolist() for n in names), strict=True):
            yield self._made(dict(zip(names, values, strict=True)))

    def __eq__(self, other: object) -> bool:
        return other is self or (
            isinstance(other, type(self))
            and len(other) == len(self)
            and all(_same(c, other._columns[n]) for n, c in self._columns.items())
        )

    __hash__ = None  # type: ignore[assignment]

    def _made(self, values: dict[str, Any]) -> Any:
        plain = {k: v.item() if isinstance(v, np.generic) else v for k, v in values.items()}
        said: dict[str, Any] = {k: None if v != v else v for k, v in plain.items()}  # no NaN
        return self.model.model_construct(**said)

    def only(self: Self, at: slice | Array) -> Self:
        """Some of them: by a slice, by numbers, or where a mask is true."""
        columns = {n: c[at] for n, c in self._columns.items()}
        return type(self)(columns, len(columns["t_s"]))

    def thinned(self: Self, most: int = MOST_DRAWN) -> Self:
        """At most ``most`` of them, evenly, with first and last kept: as many as a chart draws."""
        if self._count <= most:
            return self
        return self.only(np.round(np.linspace(0, self._count - 1, most)).astype(np.intp))

    def and_then(self: Self, others: Self) -> Self:
        """These and others, in order of time."""
        columns = {n: np.concatenate((c, others._columns[n])) for n, c in self._columns.items()}
        return type(self)(columns, len(self) + len(others)).in_order()

    def column(self, name: str) -> Array:
        """One column; an array of float64, int64, bool, or of words."""
        return self._columns[name]

    def has(self, name: str) -> bool:
        """Whether any reading has a value in a column."""
        column = self._columns[name]
        if column.dtype == np.float64:
            return not np.isnan(column).all()
        return name not in _WORDS or any(word is not None for word in column)

    def in_order(self: Self) -> Self:
        """These in order of time, and of number where two are of one moment."""
        t = self.t_s
        return self.only(np.lexsort((self.column("seq"), t))) if np.any(t[1:] < t[:-1]) else self

    def values(self, names: Sequence[str]) -> list[list[Any]]:
        """Columns as plain values; what was not read is None."""
        return [_plain(self._columns[n]) for n in names]

    def rows(self) -> Iterator[tuple[Any, ...]]:
        """Each reading as plain values in the order of ``names``; what was not read is None."""
        return zip(*self.values(self.names()), strict=True)

    @property
    def t_s(self) -> Floats:
        return self._columns["t_s"]

    @property
    def span_s(self) -> float:
        """From the first reading to the last; 0 for none."""
        return float(self.t_s[-1] - self.t_s[0]) if self._count else 0.0

    @property
    def simulated(self) -> NDArray[np.bool_]:
        return self._columns["simulated"]

    def instruments(self) -> set[str]:
        """The names of what read them."""
        return set(self._columns["instrument"].tolist())

    def standing_twice(self) -> int | None:
        """The first reading whose instrument and number stand before it already; None: none."""
        seq, words = self._columns["seq"], self._columns["instrument"]
        if len(np.unique(seq)) == len(seq):
            return None
        seen: set[tuple[str, int]] = set()
        for n, key in enumerate(zip(words.tolist(), seq.tolist(), strict=True)):
            if key in seen:
                return n
            seen.add(key)
        return None

    @classmethod
    def __get_pydantic_core_schema__(
        cls, source: Any, handler: GetCoreSchemaHandler
    ) -> core_schema.CoreSchema:
        def read(value: Any, inner: Callable[[Any], list[Reading]]) -> Any:
            return value if isinstance(value, cls) else cls.of(inner(value))

        return core_schema.no_info_wrap_validator_function(
            read,
            core_schema.list_schema(handler.generate_schema(cls.model)),
            serialization=core_schema.plain_serializer_function_ser_schema(_documents),
        )


def _documents(readings: Readings[Any]) -> list[dict[str, Any]]:
    names = readings.names()
    return [dict(zip(names, row, strict=True)) for row in readings.rows()]


def _column(name: str, values: Any, count: int) -> Array:
    if name in _WORDS:
        if values is None:
            return np.full(count, None, dtype=object)
        return values if isinstance(values, np.ndarray) else np.array(values, dtype=object)
    kind = _NUMBERS.get(name, np.float64)
    if values is None:
        return np.full(count, np.nan if kind is np.float64 else 0, dtype=kind)
    return np.asarray(values, dtype=kind)


def _plain(column: Array) -> list[Any]:
    if column.dtype == np.float64 and np.isnan(column).any():
        return [None if v != v else v for v in column.tolist()]
    return list(column.tolist())


def _same(a: Array, b: Array) -> bool:
    return bool(np.array_equal(a, b, equal_nan=a.dtype == np.float64))


class HoldReadings(Readings[HoldReading]):
    """The readings of a nitrogen hold."""

    model = HoldReading

    @property
    def gauge_pa(self) -> Floats:
        return self._columns["gauge_pa"]

    @property
    def pipe_c(self) -> Floats:
        return self._columns["pipe_c"]


class VacuumReadings(Readings[VacuumReading]):
    """The readings of a pull or a decay; ``pa`` is NaN where a needle was read."""

    model = VacuumReading

    @property
    def pa(self) -> Floats:
        return self._columns["pa"]

    @property
    def needle_pa(self) -> Floats:
        """On the needle, below nought; NaN where it was read absolute."""
        return self._columns["gauge_pa"]

    def absolute(self) -> "VacuumReadings":
        """Those that were read absolute."""
        read = ~np.isnan(self.pa)
        return self if read.all() else self.only(read)

    def by_needle(self) -> "VacuumReadings":
        """Those that a needle read."""
        return self.only(~np.isnan(self.needle_pa))


class _Run(Entry):
    """A run of readings, in order of time. ``ended_at`` is set when it is closed.

    ``subject`` and ``practice`` are those of its beginning, as of a record (``core/entry``).
    """

    uid: Annotated[Text, Field(min_length=1)]
    kind: RunKind
    started_at: Moment
    started_by: Text = ""
    ended_at: Moment | None = None
    subject: Annotated[str, Field(max_length=24)] = ""
    practice: Annotated[str, Field(max_length=24)] = ""

    @model_validator(mode="after")
    def _readings_are_single(self) -> Any:
        readings: Readings[Any] = self.readings  # type: ignore[attr-defined]
        if (n := readings.standing_twice()) is not None:
            twice = readings[n]
            raise ValueError(f"reading {n + 1}: {twice.instrument} number {twice.seq} stands twice")
        return self


class HoldRun(_Run):
    """A nitrogen hold."""

    kind: Literal["hold"] = "hold"
    readings: HoldReadings = HoldReadings({}, 0)

    @property
    def simulated(self) -> bool:
        """Whether any of it was read by no instrument."""
        return bool(self.readings.simulated.any())

    @property
    def last(self) -> HoldReading | None:
        return self.readings[-1] if self.readings else None


class VacuumRun(_Run):
    """A pull, or the decay that ended it."""

    kind: VacuumKind
    readings: VacuumReadings = VacuumReadings({}, 0)

    @property
    def simulated(self) -> bool:
        """Whether any of it was read by no instrument."""
        return bool(self.readings.simulated.any())

    @property
    def last(self) -> VacuumReading | None:
        return self.readings[-1] if self.readings else None


Run = HoldRun | VacuumRun
AnyRun = Annotated[Run, Field(discriminator="kind")]
AnyReading = HoldReading | VacuumReading
AnyReadings = HoldReadings | VacuumReadings
MODEL_BY_KIND: dict[RunKind, type[HoldReading] | type[VacuumReading]] = {
    kind: HoldReading if kind == "hold" else VacuumReading for kind in get_args(RunKind)
}
COLUMNS_BY_KIND: dict[RunKind, type[HoldReadings] | type[VacuumReadings]] = {
    kind: HoldReadings if kind == "hold" else VacuumReadings for kind in get_args(RunKind)
}
LIST_BY_KIND: dict[RunKind, TypeAdapter[Any]] = {
    "hold": TypeAdapter(list[HoldReading]),
    "pull": TypeAdapter(list[VacuumReading]),
    "decay": TypeAdapter(list[VacuumReading]),
}


def run(kind: RunKind, readings: Any, **about: Any) -> Run:
    """A run of what was looked at when it came in: nothing of it is looked at again."""
    if kind == "hold":
        return HoldRun.model_construct(kind=kind, readings=readings, **about)
    return VacuumRun.model_construct(kind=kind, readings=readings, **about)
