"""Sheets as files: JSON whole, CSV with one sheet a row. Errors name the row and the field.

Both hold SI values under the models' own field names, the unit in the name. In CSV a field of a
list stands under ``ports.0.liquid_od_m``, a page of the manual under ``cites.mop_a``; a blank
cell is a silent sheet. A cell may also hold a value with its unit (``66 ft``).
"""

import csv
import io
import json
from collections.abc import Iterable, Iterator
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, ValidationError

from fairline.core.entry import Entry, kind_of
from fairline.core.errors import FairLineError
from fairline.core.problem import field_path, sentence
from fairline.core.sheet import ANY_SHEET, KINDS, AnySheet, Sheet
from fairline.store.shelf import document_of, key_of
from fairline.store.text_file import TextError, decode, delimiter_of, with_formula, without_formula

MOST_SHEETS = 20_000
MOST_COLUMNS = 2_000
MOST_ERRORS = 50


class SheetsFile(BaseModel):
    """The JSON file: every sheet with its kind."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    format: Literal["fairline-sheets"] = "fairline-sheets"
    format_version: Literal[1] = 1
    sheets: list[AnySheet]


class RowError(Entry):
    """What is wrong in one row of a file; ``row`` counts as the file's own lines or items do."""

    row: int
    field: str
    what: str

    def __str__(self) -> str:
        return f"row {self.row}{', ' + self.field if self.field else ''}: {self.what}"


class SheetsFileError(FairLineError):
    """The file is refused whole; ``errors`` says why, row by row, at most fifty."""

    def __init__(self, errors: list[RowError], total: int = 0) -> None:
        super().__init__("; ".join(str(e) for e in errors[:3]))
        self.errors, self.total = errors, max(total, len(errors))


def to_json(sheets: Iterable[Sheet]) -> str:
    head = {"format": "fairline-sheets", "format_version": 1}
    return json.dumps(head | {"sheets": [document_of(s) for s in sheets]}, indent=1)


def read(content: bytes) -> list[Sheet]:
    """The sheets of a JSON or CSV file. Raises SheetsFileError."""
    try:
        text = decode(content)
    except TextError as error:
        raise _whole(error.what, error.line or 1) from None
    if not text.strip():
        raise _whole("the file is empty")
    items = _json_items(text) if text.lstrip()[0] in "[{" else _csv_items(text)
    return _validated(items)


def _whole(what: str, row: int = 1) -> SheetsFileError:
    return SheetsFileError([RowError(row=row, field="", what=what)])


def _json_items(text: str) -> Iterator[tuple[int, Any]]:
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise _whole("this is not JSON") from error
    if isinstance(found, dict):
        if found.get("format", "fairline-sheets") != "fairline-sheets":
            raise _whole("this is no file of sheets")
        if found.get("format_version", 1) != 1:
            raise _whole("a newer version wrote this file")
        found = found.get("sheets")
    if not isinstance(found, list):
        raise _whole("sheets: a list is needed")
    yield from enumerate(found, 1)


def _csv_items(text: str) -> Iterator[tuple[int, Any]]:
    parted = delimiter_of(text.partition("\n")[0]) or ","
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=parted)
    try:
        head = [name.strip() for name in next(reader)]
        if len(head) > MOST_COLUMNS:
            raise _whole("too many columns")
        for missing in ("kind", "maker", "model"):
            if missing not in head:
                raise _whole(f"the column {missing} is missing")
        if len(set(head)) != len(head):
            twice = next(n for n in head if head.count(n) > 1)
            raise _whole(f"the column {twice} stands twice")
        for cells in reader:
            row = reader.line_num
            if not any(c.strip() for c in cells):
                continue
            if len(cells) > len(head):
                raise _whole("more cells than the first row has names", row)
            pairs = zip(head, cells, strict=False)
            yield row, _tree({n: with_formula(c.strip()) for n, c in pairs if c.strip()}, row)
    except csv.Error as error:
        raise _whole("this is no line of a table", reader.line_num) from error


def _tree(cells: dict[str, str], row: int) -> dict[str, Any]:
    """Dotted columns as nested values, numbers of quantities as SI."""
    tree: dict[str, Any] = {}
    for name, cell in cells.items():
        *path, last = name.split(".")
        if len(path) > 2:
            raise SheetsFileError([RowError(row=row, field=name[:80], what="no such field")])
        place: Any = tree
        for part in path:
            place = place.setdefault(part, {})
            if not isinstance(place, dict):
                raise SheetsFileError([RowError(row=row, field=name[:80], what="no such field")])
        place[last] = cell
    model = KINDS.get(tree.get("kind", ""))
    return _si({k: _listed(v) for k, v in tree.items()}, model)


def _listed(value: Any) -> Any:
    if isinstance(value, dict) and value and all(k.isdecimal() and len(k) < 4 for k in value):
        return [value[k] for k in sorted(value, key=int)]
    return value


def _si(tree: dict[str, Any], model: type[BaseModel] | None) -> dict[str, Any]:
    """Bare numbers in the columns of quantities are SI; text with a unit stays text."""
    if model is None:
        return tree
    found: dict[str, Any] = {}
    for name, value in tree.items():
        if isinstance(value, list):
            inner = _row_of(model, name)
            found[name] = [_si(v, inner) if isinstance(v, dict) else v for v in value]
        elif name in model.model_fields and kind_of(model, name) and isinstance(value, str):
            found[name] = _number(value)
        else:
            found[name] = value
    return found


def _row_of(model: type[BaseModel], name: str) -> type[BaseModel] | None:
    if name not in model.model_fields:
        return None
    annotation = model.model_fields[name].annotation
    inner = getattr(annotation, "__args__", (None,))[0]
    return inner if isinstance(inner, type) and issubclass(inner, BaseModel) else None


def _number(text: str) -> float | str:
    try:
        return float(text)
    except ValueError:
        return text


def _validated(items: Iterator[tuple[int, Any]]) -> list[Sheet]:
    sheets: list[Sheet] = []
    errors: list[RowError] = []
    total = 0
    seen: dict[str, int] = {}
    for count, (row, item) in enumerate(items):
        if count >= MOST_SHEETS:
            raise _whole(f"more than {MOST_SHEETS} sheets", row)
        try:
            sheet = ANY_SHEET.validate_python(item)
        except ValidationError as error:
            found = error.errors(include_url=False)
            total += len(found)
            for e in found[: MOST_ERRORS - len(errors)]:
                where = e["loc"][1:] if e["loc"] and e["loc"][0] in KINDS else e["loc"]
                errors.append(RowError(row=row, field=field_path(where), what=sentence(e)))
            continue
        key = key_of(sheet.name)
        if key in seen:
            total += 1
            if len(errors) < MOST_ERRORS:
                what = f"{sheet.name} stands in row {seen[key]} already"
                errors.append(RowError(row=row, field="model", what=what))
        else:
            seen[key] = row
            sheets.append(sheet)
    if errors:
        raise SheetsFileError(errors, total)
    if not sheets:
        raise _whole("there is no sheet in this file")
    return sheets


def to_csv(sheets: Iterable[Sheet]) -> str:
    """One sheet a row; the columns are those that any of the sheets fills."""
    rows = [_cells(document_of(s)) for s in sheets]
    first = ["kind", "maker", "model"]
    rest = sorted({name for row in rows for name in row} - set(first), key=_column_order)
    out = io.StringIO(newline="")
    writer = csv.DictWriter(out, [*first, *rest], restval="", lineterminator="\r\n")
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue()


def _column_order(name: str) -> tuple[int, str]:
    head = name.split(".")[0]
    fields = [f for model in KINDS.values() for f in model.model_fields]
    return (fields.index(head) if head in fields else len(fields)), name


def _cells(document: dict[str, Any]) -> dict[str, Any]:
    cells: dict[str, Any] = {}
    for name, value in document.items():
        if isinstance(value, dict):
            cells |= {f"{name}.{k}": v for k, v in value.items()}
        elif isinstance(value, list | tuple) and value and isinstance(value[0], dict):
            for i, row in enumerate(value):
                cells |= {f"{name}.{i}.{k}": v for k, v in row.items()}
        elif isinstance(value, list | tuple):
            cells[name] = ", ".join(str(v) for v in value)
        else:
            cells[name] = value
    return {name: _cell(value) for name, value in cells.items()}


def _cell(value: Any) -> Any:
    """One cell: a number as it is, text so that no spreadsheet takes it for a formula."""
    if isinstance(value, float):
        return repr(value)
    return without_formula(value) if isinstance(value, str) else value
