"""Readings as CSV, in and out.

A file has a header and one reading a line. Columns, in any order and case: a time
(``t_s``, ``t_min`` or ``time`` as ISO date and time), a pressure (``gauge_pa``, ``gauge_psi``,
``gauge_bar`` for nitrogen; ``pa``, ``micron``, ``mbar`` for vacuum, or ``gauge_inhg``,
``gauge_mpa`` of a needle), the pipe (``pipe_c``, ``pipe_f``), and, if there, ``instrument``,
``seq``, ``simulated`` (``yes``) and, for nitrogen, ``probe`` (``shaded``, ``insulated``, ``sun``
or ``air``). Headers as loggers write them are read too: ``Microns``, ``minutes``, ``Time (s)``,
``Pressure [psi]``; one that could be two things is asked for. Other columns are left out. Comma,
semicolon, tab or bar part the columns; a decimal comma is read where the comma does not.
"""

import csv
import io
import math
import re
from datetime import datetime

from pydantic import TypeAdapter, ValidationError

from fairline.core.calc.nitrogen import PSI_PA
from fairline.core.entry import aware
from fairline.core.problem import sentence
from fairline.core.readings import FIELDS, NEEDLE, Reading, Run, RunKind
from fairline.store.text_file import TextError, decode, defused, parted_by

MAX_ROWS = 200_000
READINGS: TypeAdapter[list[Reading]] = TypeAdapter(list[Reading])
MICRON_PA = 133.322368 / 1000

COLUMNS: dict[str, tuple[str, float, float]] = {  # name: field, factor, offset
    "t_s": ("t_s", 1.0, 0.0),
    "t_min": ("t_s", 60.0, 0.0),
    "gauge_pa": ("gauge_pa", 1.0, 0.0),
    "gauge_psi": ("gauge_pa", PSI_PA, 0.0),
    "gauge_bar": ("gauge_pa", 1e5, 0.0),
    "gauge_kpa": ("gauge_pa", 1e3, 0.0),
    "gauge_mpa": ("gauge_pa", 1e6, 0.0),
    "gauge_inhg": ("gauge_pa", 3386.389, 0.0),
    "t_h": ("t_s", 3600.0, 0.0),
    "pipe_c": ("pipe_c", 1.0, 0.0),
    "pipe_f": ("pipe_c", 5 / 9, -160 / 9),
    "pa": ("pa", 1.0, 0.0),
    "micron": ("pa", MICRON_PA, 0.0),
    "mbar": ("pa", 100.0, 0.0),
    "torr": ("pa", 133.322368, 0.0),
    "mtorr": ("pa", MICRON_PA, 0.0),
}
UNITS: dict[str, tuple[str, str]] = {  # a unit in a header: what it measures, its column's end
    "s": ("time", "s"), "sec": ("time", "s"), "secs": ("time", "s"), "second": ("time", "s"),
    "seconds": ("time", "s"), "min": ("time", "min"), "mins": ("time", "min"),
    "minute": ("time", "min"), "minutes": ("time", "min"), "h": ("time", "h"),
    "hr": ("time", "h"), "hours": ("time", "h"),
    "psi": ("gauge", "psi"), "psig": ("gauge", "psi"), "bar": ("gauge", "bar"),
    "barg": ("gauge", "bar"), "kpa": ("gauge", "kpa"), "mpa": ("gauge", "mpa"),
    "inhg": ("gauge", "inhg"), "pa": ("pressure", "pa"),
    "micron": ("vacuum", "micron"), "microns": ("vacuum", "micron"), "µ": ("vacuum", "micron"),
    "um": ("vacuum", "micron"), "µm": ("vacuum", "micron"), "umhg": ("vacuum", "micron"),
    "µmhg": ("vacuum", "micron"), "mbar": ("vacuum", "mbar"), "hpa": ("vacuum", "mbar"),
    "torr": ("vacuum", "torr"), "mtorr": ("vacuum", "mtorr"),
    "c": ("temperature", "c"), "°c": ("temperature", "c"), "degc": ("temperature", "c"),
    "f": ("temperature", "f"), "°f": ("temperature", "f"), "degf": ("temperature", "f"),
}  # fmt: skip
WORDS: dict[str, str] = {  # a word in a header: what it measures
    "time": "time", "elapsed": "time", "t": "time", "pressure": "pressure", "gauge": "pressure",
    "p": "pressure", "vacuum": "vacuum", "pipe": "temperature", "temperature": "temperature",
    "temp": "temperature", "probe": "temperature",
}  # fmt: skip
DOUBTFUL = {"time": "s, min or h, or the date and time of each reading", "pressure": "its unit",
            "vacuum": "micron, Pa or mbar", "temperature": "C or F"}  # fmt: skip


def column_of(header: str, kind: RunKind) -> str:
    """Our name for a logger's header: ``Pressure [psi]`` is ``gauge_psi``; else as it stands.

    Raises CsvError where it plainly measures something needed and its unit is not said.
    """
    name = header.strip().lower().lstrip("'")
    if name in COLUMNS or name in ("time", "instrument", "seq", "probe", "simulated"):
        return name
    parts = [p for p in re.split(r"[\s()\[\]{}/_,:.-]+", name) if p]
    unit = next((UNITS[p] for p in reversed(parts) if p in UNITS), None)
    what = next((WORDS[p] for p in parts if p in WORDS), None)
    if unit is None and what is not None:
        raise CsvError(f"the column “{header.strip()[:30]}” does not say {DOUBTFUL[what]}", 1)
    if unit is None:
        return name
    measured, end = unit
    if measured == "time":
        return f"t_{end}"
    if measured == "temperature":
        outdoors = {"ambient", "outdoor", "outdoors", "air", "room"} & set(parts)
        return name if outdoors else f"pipe_{end}"
    if measured == "vacuum":
        return end
    if end == "pa":
        return "gauge_pa" if kind == "hold" else "pa"
    return f"gauge_{end}"


WANTED = {"hold": "a time, gauge_pa (or _psi, _bar) and pipe_c (or _f)",
          "pull": "a time and pa (or micron, mbar, gauge_inhg)",
          "decay": "a time and pa (or micron, mbar, gauge_inhg)"}  # fmt: skip


class CsvError(ValueError):
    """What is wrong in a file, with its line and column (both from 1)."""

    def __init__(self, reason: str, line: int | None = None, column: int | None = None) -> None:
        where = f"line {line}" if line else "the file"
        if column:
            where += f", column {column}"
        super().__init__(f"{where}: {reason}")
        self.line, self.column = line, column


def _delimiter(header: str) -> str:
    found = parted_by(header)
    if found is None:
        raise CsvError("the header has one column only; part columns by comma, semicolon or tab", 1)
    return found


def _number(cell: str, delimiter: str, line: int, column: int) -> float:
    try:
        value = float(cell)
    except ValueError:
        text = cell.strip().replace("\u202f", "").replace("\u00a0", "").replace("−", "-")
        if delimiter != ",":
            text = text.replace(",", ".")
        try:
            value = float(text)
        except ValueError:
            raise CsvError(f"“{cell.strip()[:30]}” is not a number", line, column) from None
    if not math.isfinite(value):
        raise CsvError("not-a-number and infinity are refused", line, column)
    return value


def _moment(cell: str, line: int, column: int) -> datetime:
    try:
        at = datetime.fromisoformat(cell.strip())
    except ValueError:
        raise CsvError(
            f"“{cell.strip()[:30]}” is not a date and time like 2026-03-05T17:40", line, column
        ) from None
    try:
        return aware(at)
    except ValueError as error:
        raise CsvError(str(error), line, column) from None


def read(content: bytes, kind: RunKind, first_seq: int = 0) -> list[Reading]:
    """The readings of a file for a run of ``kind``; raises CsvError, and then nothing is taken."""
    return read_log(content, kind, first_seq)[0]


def read_log(
    content: bytes, kind: RunKind, first_seq: int = 0
) -> tuple[list[Reading], datetime | None]:
    """The readings of a file, and when the first was taken, where the file says it."""
    try:
        text = decode(content)
    except TextError as error:
        raise CsvError(error.what, error.line) from None
    lines = text.splitlines()
    if not any(line.strip() for line in lines):
        raise CsvError("it is empty")
    delimiter = _delimiter(lines[0])
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    try:
        header = [column_of(name, kind) for name in next(rows)]
    except csv.Error:
        raise CsvError("its header is no line of a table", 1) from None
    fields = {COLUMNS[name][0] for name in header if name in COLUMNS}
    wanted = FIELDS[kind]
    if kind != "hold" and "pa" not in fields and "gauge_pa" in fields:
        wanted = NEEDLE
    timed = "t_s" in fields or "time" in header
    if not timed or not set(wanted) <= fields:
        raise CsvError(f"the header needs {WANTED[kind]}; it has {', '.join(header)[:120]}", 1)
    twice = [n for n in set(header) if n in COLUMNS and header.count(n) > 1]
    if twice:
        raise CsvError(f"the column {twice[0]} stands twice", 1)
    plan = [(n, *COLUMNS[name]) for n, name in enumerate(header)
            if name in COLUMNS and COLUMNS[name][0] in ("t_s", *wanted)]  # fmt: skip
    moment = header.index("time") if "time" in header and "t_s" not in fields else None
    named, numbered, placed, marked = (
        header.index(n) if n in header else None
        for n in ("instrument", "seq", "probe", "simulated")
    )
    if kind != "hold":
        placed = None
    values: list[dict[str, float | str | int]] = []
    at_line: list[int] = []
    began: datetime | None = None
    try:
        for row in rows:
            line = rows.line_num
            if not any(cell.strip() for cell in row):
                continue
            if len(row) != len(header):
                raise CsvError(f"{len(row)} columns where the header has {len(header)}", line)
            if len(values) >= MAX_ROWS:
                raise CsvError(f"more than {MAX_ROWS} readings; part the file", line)
            one: dict[str, float | str | int] = {
                "instrument": "file",
                "seq": first_seq + len(values),
            }
            for n, field, factor, offset in plan:
                one[field] = _number(row[n], delimiter, line, n + 1) * factor + offset
            if moment is not None:
                at = _moment(row[moment], line, moment + 1)
                began = began or at
                one["t_s"] = (at - began).total_seconds()
            if named is not None and row[named].strip():
                one["instrument"] = row[named].strip().lstrip("'")
            if numbered is not None and row[numbered].strip():
                one["seq"] = int(_number(row[numbered], delimiter, line, numbered + 1))
            if placed is not None and row[placed].strip():
                one["probe"] = row[placed].strip().lower()
            if marked is not None:
                one["simulated"] = row[marked].strip().lower() in ("yes", "true", "1")
            values.append(one)
            at_line.append(line)
    except csv.Error:
        raise CsvError("this is no line of a table", rows.line_num) from None
    try:
        found = READINGS.validate_python(values)
    except ValidationError as error:
        first = error.errors()[0]
        index, field = int(first["loc"][0]), str(first["loc"][1])
        column = next(
            (n for n, name in enumerate(header, 1)
             if name == field or COLUMNS.get(name, ("",))[0] == field), None)  # fmt: skip
        raise CsvError(f"{field}: {sentence(first)}", at_line[index], column) from None
    if not found:
        raise CsvError("it has a header and no reading")
    for line, reading in zip(at_line, found, strict=True):
        if wrong := reading.fits(kind):
            raise CsvError(wrong, line)
    return found, began


def write(run: Run) -> str:
    """A run's readings as CSV in SI; text cells are defused."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    fields = FIELDS[run.kind]
    if run.kind != "hold" and run.readings and all(r.pa is None for r in run.readings):
        fields = NEEDLE
    placed = any(r.probe for r in run.readings)
    marked = run.simulated
    more = [name for name, there in (("probe", placed), ("simulated", marked)) if there]
    writer.writerow(["instrument", "seq", "t_s", *fields, *more])
    for r in run.readings:
        writer.writerow(
            [
                defused(r.instrument),
                r.seq,
                f"{r.t_s:g}" if r.t_s < 1e5 else r.t_s,
                *("" if getattr(r, f) is None else repr(getattr(r, f)) for f in fields),
                *([r.probe or ""] if placed else []),
                *(["yes" if r.simulated else "no"] if marked else []),
            ]
        )
    return out.getvalue()
