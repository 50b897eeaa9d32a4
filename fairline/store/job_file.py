"""A job file read: what a newer program wrote into it is named and left out, the rest opens."""

import json
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from fairline.core.errors import FairLineError
from fairline.core.job import Job
from fairline.store.text_file import TextError, decode

MOST_READINGS = 250_000  # of one file; a day at 1 Hz is 86 400
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
    try:
        text = decode(content)
    except TextError as error:
        raise JobFileError(error.what) from None
    if text.count('"t_s"') > MOST_READINGS:
        raise JobFileError(
            f"there are more than {MOST_READINGS} readings in it: take the long logs out and "
            "bring them as CSV, a run each"
        )
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
