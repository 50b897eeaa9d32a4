"""A job file read and written, its long logs by column.

What a newer program wrote into it is named and left out, the rest opens.
"""

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import msgspec
from pydantic import ValidationError

from fairline.core.errors import FairLineError
from fairline.core.job import Job
from fairline.core.problem import from_validation
from fairline.core.readings import COLUMNS_BY_KIND, AnyReadings, Run
from fairline.store.text_file import TextError, decode

MOST_READINGS = 250_000  # of one file; a day at 1 Hz is 86 400
MOST_ONE_BY_ONE = 20_000  # that are looked at one by one, to say which is wrong
AT_ONCE = 5_000  # readings of one piece of a file that is written
ROUNDS = 4
KEPT = {"kept": True}  # limits as they were kept, also such as are refused by now
UNKNOWN = ("extra_forbidden", "union_tag_invalid")


class JobFileError(FairLineError, ValueError):
    """Why a file is not taken: a sentence for a person."""


@dataclass(frozen=True)
class JobFile:
    """A job, and the fields of its file that this program does not know."""

    job: Job
    left_out: tuple[str, ...] = ()


def read(content: bytes) -> JobFile:
    """The job of a file. Raises JobFileError, or pydantic.ValidationError naming the fields."""
    count = content.count(b'"t_s"')
    if count > MOST_READINGS:
        raise JobFileError(
            f"there are more than {MOST_READINGS} readings in it: take the long logs out and "
            "bring them as CSV, a run each"
        )
    if (job := _by_column(content, told=count > MOST_ONE_BY_ONE)) is not None:
        return JobFile(job)
    try:
        text = decode(content)
    except TextError as error:
        raise JobFileError(error.what) from None
    try:
        return JobFile(Job.model_validate_json(text, context=KEPT))
    except ValidationError as error:
        if not any(e["type"] in UNKNOWN or _newer(e) for e in error.errors(include_url=False)):
            raise
        first = error
    try:
        whole = json.loads(text)
    except (ValueError, RecursionError):
        raise first from None
    return _what_is_known(whole, first)


class _Reading(msgspec.Struct, forbid_unknown_fields=True, gc=False):
    """A reading of any kind of run as a file has it."""

    seq: int
    t_s: float
    instrument: str = "by hand"
    simulated: bool = False
    gauge_pa: float | None = None
    pipe_c: float | None = None
    pa: float | None = None
    probe: str | None = None
    side: str | None = None


def _by_column(content: bytes, told: bool) -> Job | None:
    """The job of a file as we write it, its readings never one by one.

    None where anything in it is otherwise; ``told``: then JobFileError where it lies in a reading.
    """
    try:
        parts = msgspec.json.decode(content, type=dict[str, msgspec.Raw])
        whole = {name: msgspec.json.decode(raw) for name, raw in parts.items() if name != "runs"}
        runs = msgspec.json.decode(parts.get("runs", b"[]"), type=list[dict[str, msgspec.Raw]])
    except (msgspec.MsgspecError, RecursionError, UnicodeDecodeError):
        return None
    try:
        whole["runs"] = [_run(number, run) for number, run in enumerate(runs)]
        return Job.model_validate(whole, context=KEPT)
    except ValidationError:
        return None
    except JobFileError:
        if told:
            raise
        return None


def _run(number: int, parts: dict[str, msgspec.Raw]) -> dict[str, Any]:
    """A run as a document, its readings by column. Raises JobFileError."""
    try:
        run = {name: msgspec.json.decode(raw) for name, raw in parts.items() if name != "readings"}
        run["readings"] = _columns(run.get("kind"), parts.get("readings", b"[]"))
    except ValidationError as error:
        raise JobFileError(f"runs.{number}: {from_validation(error)['detail']}") from None
    except (msgspec.MsgspecError, ValueError, OverflowError) as error:
        which = re.search(r"\$\[(\d+)\]", str(error))
        told = f"reading {int(which[1]) + 1} is none" if which else "its readings are none"
        raise JobFileError(f"runs.{number}: {told}: a number, a name or a field is wrong") from None
    return run


def _columns(kind: Any, raw: msgspec.Raw | bytes) -> AnyReadings:
    """Readings by column. Raises ValueError, OverflowError, MsgspecError, ValidationError."""
    if kind not in COLUMNS_BY_KIND:
        raise ValueError(f"there is no run of kind {str(kind)[:20]}")
    found = msgspec.json.decode(raw, type=list[_Reading])
    model: Any = COLUMNS_BY_KIND[kind]
    if not found:
        return model({}, 0)  # type: ignore[no-any-return]
    columns = {name: [getattr(reading, name) for reading in found] for name in model.names()}
    for name in set(_Reading.__struct_fields__) - set(columns):
        if any(getattr(reading, name) is not None for reading in found):
            raise ValueError(f"{name} is read in another kind of run")
    readings: AnyReadings = model.read(_blank_as_nan(columns), len(found))
    return readings


def _blank_as_nan(columns: dict[str, list[Any]]) -> dict[str, Any]:
    """Numbers that were not read, as columns have them; words that are blank are not said."""
    for name in ("gauge_pa", "pipe_c", "pa"):
        if name in columns:
            columns[name] = [float("nan") if value is None else value for value in columns[name]]
    for name in ("probe", "side"):
        if name in columns:
            columns[name] = [value or None for value in columns[name]]
    return columns


def write(job: Job) -> Iterator[str]:
    """A job as its file, piece by piece: a long log is never text as a whole."""
    whole = job.model_dump(mode="json", exclude={"runs": {"__all__": {"readings"}}})
    yield "{"
    for n, (name, value) in enumerate(whole.items()):
        yield f"{',' if n else ''}\n {json.dumps(name)}: "
        if name != "runs":
            yield _text(value)
            continue
        yield "["
        for k, (document, run) in enumerate(zip(value, job.runs, strict=True)):
            yield f"{',' if k else ''}\n  "
            yield from _run_text(document, run)
        yield "]"
    yield "\n}"


def _text(value: Any) -> str:
    return json.dumps(value, indent=1, ensure_ascii=False)


def _run_text(document: dict[str, Any], run: Run) -> Iterator[str]:
    yield _text(document).rstrip().removesuffix("}").rstrip() + ',\n "readings": ['
    names = run.readings.names()
    for first in range(0, len(run.readings), AT_ONCE):
        rows = run.readings[first : first + AT_ONCE].rows()
        lines = (msgspec.json.encode(dict(zip(names, row, strict=True))).decode() for row in rows)
        yield ("," if first else "") + "\n  " + ",\n  ".join(lines)
    yield "]}"


def _newer(error: Any) -> bool:
    return error["loc"] == ("format_version",) and isinstance(error["input"], int)


def _what_is_known(whole: Any, error: ValidationError) -> JobFile:
    """Take out what is not known, as often as something new comes to light by it."""
    left_out: list[str] = []
    for _ in range(ROUNDS):
        found = error.errors(include_url=False)
        for e in reversed(found):
            if _newer(e) and whole["format_version"] > Job.model_fields["format_version"].default:
                left_out.append(f"format version {whole.pop('format_version')}")
            elif e["type"] in UNKNOWN:
                left_out.append(_without(whole, e["loc"]))
            else:
                raise error
        try:
            return JobFile(Job.model_validate(whole, context=KEPT), tuple(dict.fromkeys(left_out)))
        except ValidationError as another:
            error = another
    raise error


def _without(whole: Any, location: tuple[int | str, ...]) -> str:
    """Take one place out of a document; its name. Names of kinds in a location are no places."""
    at: Any = whole
    place: tuple[Any, Any] | None = None
    parts: list[str] = []
    for part in location:
        inside = part in at if isinstance(at, dict) else isinstance(at, list)
        if inside and (isinstance(at, dict) or isinstance(part, int)):
            place, parts = (at, part), [*parts, str(part)]
            at = at[part]
    if place is not None:
        del place[0][place[1]]
    return ".".join(parts)
