"""Readings as CSV: read by column, each told by line and column where it is wrong; and written."""

import csv
import io
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, tzinfo
from typing import Any

import numpy as np
from pydantic import ValidationError

from fairline.core.problem import sentence
from fairline.core.readings import COLUMNS_BY_KIND as OF_KIND
from fairline.core.readings import AnyReadings, Floats, HoldRun, Run, RunKind
from fairline.store.bulk import many_values
from fairline.store.local_times import LocalTimeError, moments
from fairline.store.log_header import COLUMNS, CsvError, column_of
from fairline.store.text_file import TextError, decode, delimiter_of, without_formula

MAX_ROWS = 250_000
WANTED = {
    "hold": "a time, gauge_pa (or _psi, _bar) and pipe_c (or _f)",
    "pull": "a time and pa (or micron, mbar, gauge_inhg)",
    "decay": "a time and pa (or micron, mbar, gauge_inhg)",
}
PRESSURES = ("pa", "gauge_pa")  # of a vacuum: absolute, or on a needle
YES = ("yes", "true", "1")


@dataclass(frozen=True)
class _Table:
    """The cells of a file by row, with the line each stands on, and its header as we name it."""

    header: list[str]
    delimiter: str
    rows: list[list[str]]
    lines: Sequence[int]

    def cells(self, at: int) -> list[str]:
        return [row[at] for row in self.rows]

    def at(self, name: str) -> int | None:
        return self.header.index(name) if name in self.header else None


def read(content: bytes, kind: RunKind, first_seq: int = 0) -> AnyReadings:
    """The readings of a file for a run of ``kind``; raises CsvError, and then nothing is taken."""
    return read_log(content, kind, first_seq)[0]


def read_log(
    content: bytes, kind: RunKind, first_seq: int = 0, zone: tzinfo | None = None
) -> tuple[AnyReadings, datetime | None]:
    """The readings of a file, and when the first was taken, where the file says it.

    ``zone``: the one in which times without an offset are local; None: this machine's.
    """
    with many_values():
        return _read_log(content, kind, first_seq, zone)


def _read_log(
    content: bytes, kind: RunKind, first_seq: int, zone: tzinfo | None
) -> tuple[AnyReadings, datetime | None]:
    table = _table(content, kind)
    fields = _fields(table, kind)
    if not table.rows:
        raise CsvError("it has a header and no reading")
    columns: dict[str, Any] = {
        field: _numbers(table, at, blank=optional) * factor + offset
        for field, (at, factor, offset, optional) in fields.items()
    }
    began = None
    if "t_s" not in columns:
        columns["t_s"], began = _moments(table, zone)
    columns |= _words(table, kind, first_seq)
    try:
        return OF_KIND[kind].read(columns, len(table.rows)), began
    except ValidationError as error:
        raise _told(error, table) from None


def _table(content: bytes, kind: RunKind) -> _Table:
    try:
        text = decode(content)
    except TextError as error:
        raise CsvError(error.what, error.line) from None
    first = next(iter(text.splitlines()), "")
    if not text.strip():
        raise CsvError("it is empty")
    delimiter = delimiter_of(first)
    if delimiter is None:
        raise CsvError("the header has one column only; part columns by comma, semicolon or tab", 1)
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    try:
        header = [column_of(name, kind) for name in next(rows)]
    except csv.Error:
        raise CsvError("its header is no line of a table", 1) from None
    lines: Sequence[int]
    try:
        found = list(rows)
        plain = rows.line_num == len(found) + 1  # a row each line: none is blank, none is long
        if plain and all(len(row) == len(header) and row[0] for row in found):
            cells, lines = found, range(2, len(found) + 2)
        else:
            cells, lines = _line_by_line(text, delimiter, len(header))
    except csv.Error:
        raise CsvError("this is no line of a table", rows.line_num) from None
    if len(cells) > MAX_ROWS:
        raise CsvError(f"more than {MAX_ROWS} readings; part the file", lines[MAX_ROWS])
    return _Table(header, delimiter, cells, lines)


def _line_by_line(text: str, delimiter: str, width: int) -> tuple[list[list[str]], Sequence[int]]:
    """The rows that are not blank, with the line each stands on; CsvError for one of other width.

    Raises csv.Error.
    """
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    next(rows)
    cells: list[list[str]] = []
    lines: list[int] = []
    for row in rows:
        if not "".join(row).strip():
            continue
        if len(row) != width:
            raise CsvError(f"{len(row)} columns where the header has {width}", rows.line_num)
        cells.append(row)
        lines.append(rows.line_num)
    return cells, lines


def _fields(table: _Table, kind: RunKind) -> dict[str, tuple[int, float, float, bool]]:
    """The fields of a reading by column: where, factor and offset to SI, whether blank may be."""
    header = table.header
    there = {COLUMNS[name][0] for name in header if name in COLUMNS}
    wanted = {"gauge_pa", "pipe_c"} if kind == "hold" else there & set(PRESSURES)
    timed = "t_s" in there or "time" in header
    if not timed or not wanted or not wanted <= there:
        raise CsvError(f"the header needs {WANTED[kind]}; it has {', '.join(header)[:120]}", 1)
    twice = [n for n in set(header) if n in COLUMNS and header.count(n) > 1]
    if twice:
        raise CsvError(f"the column {twice[0]} stands twice", 1)
    either = kind != "hold" and len(wanted) > 1
    return {
        COLUMNS[name][0]: (at, *COLUMNS[name][1:], either and COLUMNS[name][0] in PRESSURES)
        for at, name in enumerate(header)
        if name in COLUMNS and COLUMNS[name][0] in ("t_s", *wanted)
    }


def _numbers(table: _Table, at: int, blank: bool = False) -> Floats:
    """A column as numbers; NaN only for a blank cell where that may be."""
    cells = table.cells(at)
    try:
        found = np.array(cells, dtype=np.float64)
    except ValueError:
        found = np.array([_number(cell, table.delimiter, blank) for cell in cells])
    wrong = np.flatnonzero(~np.isfinite(found))
    for n in wrong.tolist():
        cell = cells[n].strip()
        if blank and not cell:
            continue
        told = "not-a-number and infinity are refused"
        if found[n] == REFUSED:
            told = f"“{cell[:30]}” is not a number"
        raise CsvError(told, table.lines[n], at + 1)
    return found


REFUSED = -math.inf  # in place of a cell that is no number


def _number(cell: str, delimiter: str, blank: bool) -> float:
    """A cell as a number, with a decimal comma where commas part no columns."""
    text = cell.strip().replace("\u202f", "").replace("\u00a0", "").replace("−", "-")
    if not text and blank:
        return math.nan
    try:
        return float(text if delimiter == "," else text.replace(",", "."))
    except ValueError:
        return REFUSED


def _moments(table: _Table, zone: tzinfo | None) -> tuple[Floats, datetime]:
    """Seconds since the first reading, from a column of dates and times; when that was."""
    at = table.at("time") or 0
    cells = zip(table.cells(at), table.lines, strict=True)
    typed = [_typed(cell, line, at + 1) for cell, line in cells]
    try:
        found = moments(typed, zone)
    except LocalTimeError as error:
        raise CsvError(str(error), table.lines[error.at], at + 1) from None
    return np.array([(moment - found[0]).total_seconds() for moment in found]), found[0]


def _typed(cell: str, line: int, column: int) -> datetime:
    try:
        return datetime.fromisoformat(cell.strip())
    except ValueError:
        raise CsvError(
            f"“{cell.strip()[:30]}” is not a date and time like 2026-03-05T17:40", line, column
        ) from None


def _words(table: _Table, kind: RunKind, first_seq: int) -> dict[str, Any]:
    """Instrument, number, probe and mark of each reading, as far as the file has them."""
    count = len(table.rows)
    found: dict[str, Any] = {
        "instrument": ["file"] * count,
        "seq": np.arange(first_seq, first_seq + count),
    }
    readers: dict[str, Callable[[str], Any]] = {
        "instrument": lambda cell: cell.lstrip("'") or "file",
        "probe": lambda cell: cell.lower() or None,
        "side": lambda cell: cell.lower() or None,
        "simulated": lambda cell: cell.lower() in YES,
    }
    for name, read_cell in readers.items():
        at = table.at(name)
        if (
            at is not None
            and (name != "probe" or kind == "hold")
            and (name != "side" or kind != "hold")
        ):
            found[name] = [read_cell(cell.strip()) for cell in table.cells(at)]
    if (at := table.at("seq")) is not None:
        typed = _numbers(table, at, blank=True)
        found["seq"] = np.where(np.isnan(typed), found["seq"], typed).astype(np.int64)
    return found


def _told(error: ValidationError, table: _Table) -> CsvError:
    """What is wrong with the first reading that is, by line and column."""
    first = error.errors()[0]
    index, *rest = first["loc"]
    field = str(rest[0]) if rest else ""
    column = next(
        (
            n
            for n, name in enumerate(table.header, 1)
            if name == field or COLUMNS.get(name, ("",))[0] == field
        ),
        None,
    )
    told = f"{field}: {sentence(first)}" if field else sentence(first)
    return CsvError(told, table.lines[int(index)], column)


def write(run: Run) -> str:
    """A run's readings as CSV in SI; text cells are defused."""
    readings = run.readings
    names = ["instrument", "seq", "t_s"]
    if isinstance(run, HoldRun):
        names += ["gauge_pa", "pipe_c"]
        placed = any(p is not None for p in readings.column("probe"))
    else:
        read_so = [n for n in PRESSURES if not np.isnan(readings.column(n)).all()]
        names, placed = names + (read_so or ["pa"]), False
    sided = not isinstance(run, HoldRun) and any(s is not None for s in readings.column("side"))
    also = (("probe", placed), ("side", sided), ("simulated", run.simulated))
    names += [n for n, there in also if there]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(names)
    at = [readings.names().index(n) for n in names]
    show: list[Callable[[Any], Any]] = [_SHOWN.get(n, _shown) for n in names]
    writer.writerows(
        [say(row[n]) for n, say in zip(at, show, strict=True)] for row in readings.rows()
    )
    return out.getvalue()


def _shown(value: Any) -> str:
    return "" if value is None else repr(value)


_SHOWN: dict[str, Callable[[Any], Any]] = {
    "instrument": without_formula,
    "seq": lambda n: n,
    "t_s": lambda t: f"{t:g}" if t < 1e5 else t,
    "probe": lambda p: p or "",
    "side": lambda s: s or "",
    "simulated": lambda s: "yes" if s else "no",
}
