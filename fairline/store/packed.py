"""A long log once more as arrays in one row: made of its readings, and good for nothing else.

What counts are the rows of ``reading``. To read a day of them takes most of a second; their pack a
few milliseconds. A pack that is damaged, or lacks some, is as if there were none.
"""

import io
from typing import Any

import numpy as np
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from fairline.core.readings import COLUMNS_BY_KIND, AnyReadings, Readings, RunKind
from fairline.store.models import PackRow
from fairline.store.trouble import BROKEN_ZIP

PACK_FROM = 10_000  # readings, and packed again after as many more
WORDS = ("", " words")  # beside a column of words, by number, the words themselves


def keep(session: Session, run_id: int, readings: AnyReadings) -> None:
    """Pack the readings of a run; what was packed of it before goes."""
    session.execute(delete(PackRow).where(PackRow.run_id == run_id))
    session.add(PackRow(run_id=run_id, count=len(readings), content=_content(readings)))
    session.flush()


def count(session: Session, run_id: int) -> int:
    """How many readings of a run are packed."""
    return session.scalar(select(PackRow.count).where(PackRow.run_id == run_id)) or 0


def load(session: Session, run_id: int, kind: RunKind) -> AnyReadings | None:
    """The packed readings of a run; None where there is no pack, or one that cannot be read."""
    query = select(PackRow.count, PackRow.content).where(PackRow.run_id == run_id)
    found = session.execute(query).one_or_none()
    if found is None:
        return None
    many, content = found
    made = COLUMNS_BY_KIND[kind]
    try:
        with np.load(io.BytesIO(content)) as kept:
            if set(kept.files) - {column + words for column in made.names() for words in WORDS}:
                return None  # a name of another's: it is damaged
            return made({name: _column(kept, name) for name in made.names()}, many)
    except (ValueError, LookupError, *BROKEN_ZIP):
        return None


def _content(readings: Readings[Any]) -> bytes:
    """Numbers as they are; of words each once, and a number for each reading, −1 for none."""
    arrays: dict[str, Any] = {}
    for name in readings.names():
        column = readings.column(name)
        if column.dtype != object:
            arrays[name] = column
            continue
        words = sorted({word for word in column.tolist() if word is not None})
        codes = np.full(len(column), -1, dtype=np.int32)
        for n, word in enumerate(words):
            codes[column == word] = n
        arrays[name], arrays[f"{name}{WORDS[1]}"] = codes, np.array(words, dtype=str)
    file = io.BytesIO()
    np.savez(file, **arrays)
    return file.getvalue()


def _column(kept: Any, name: str) -> Any:
    if f"{name}{WORDS[1]}" not in kept:
        return kept[name]
    words = np.array([*kept[f"{name}{WORDS[1]}"].tolist(), None], dtype=object)
    return words[kept[name]]
