"""Readings in the database: appended by column, read back as arrays."""

from itertools import repeat
from typing import Any, cast

from sqlalchemy import and_, event, or_, select, update
from sqlalchemy.orm import Session

from fairline.core.errors import FairLineError
from fairline.core.readings import COLUMNS_BY_KIND, AnyReadings, Readings, RunKind
from fairline.store import packed
from fairline.store.bulk import many_values
from fairline.store.dialect import insert_or_ignore, plain_rows
from fairline.store.models import ReadingRow, RunRow

AT_ONCE = 20_000  # rows of one insert: many more would lie in memory twice
WRITTEN = "readings written"  # of runs that this session filled: they are not read back


class TakenError(FairLineError):
    """A sequence number that is kept already with another value: nothing of it is stored."""

    def __init__(self, index: int, instrument: str, seq: int) -> None:
        super().__init__(
            f"readings.{index}: number {seq} of {instrument} is kept already with another value"
        )


def load(
    session: Session, run: RunRow, kind: RunKind, known: AnyReadings | None = None
) -> AnyReadings:
    """The readings of a run in order of time. They were looked at when they came in.

    Of ``known``, those of the same run earlier, only what came since is read.
    """
    known = session.info.get(WRITTEN, {}).get(run.id, known)
    if known is None and run.count >= packed.PACK_FROM:
        known = packed.load(session, run.id, kind)
    if known is not None and len(known) == run.count:
        return known
    if known is not None and len(known):
        new: Any = _read(session, kind, ReadingRow.run_id == run.id, _after(known))
        if len(known) + len(new) == run.count:
            joined: AnyReadings = known.and_then(new)
            return joined
    return _read(session, kind, ReadingRow.run_id == run.id)


def _read(session: Session, kind: RunKind, *where: Any) -> AnyReadings:
    made = COLUMNS_BY_KIND[kind]
    names = made.names()
    query = select(*(ReadingRow.__table__.c[name] for name in names)).where(*where)
    with many_values():
        found = plain_rows(session, query)
        by_column = zip(*found, strict=True) if found else ()
        readings: AnyReadings = made(dict(zip(names, by_column, strict=False)), len(found))
    return readings.in_order()


def _after(known: Readings[Any]) -> Any:
    """Readings beyond the last number of each instrument, or of another instrument."""
    instrument, seq = known.column("instrument"), known.column("seq")
    names = set(instrument.tolist())
    later = [
        and_(ReadingRow.instrument == name, ReadingRow.seq > int(seq[instrument == name].max()))
        for name in names
    ]
    return or_(*later, ReadingRow.instrument.not_in(names))


def append(session: Session, run: RunRow, readings: AnyReadings) -> int:
    """Append readings; how many were new. Raises TakenError where a number is taken."""
    if not len(readings):
        return 0
    begun = run.count == 0
    names = tuple(n for n in readings.names() if readings.has(n))
    new = 0
    for first in range(0, len(readings), AT_ONCE):
        part = readings[first : first + AT_ONCE]
        with many_values():
            rows = list(zip(repeat(run.id), *part.values(names), strict=False))
            new += insert_or_ignore(session, ReadingRow.__table__, ("run_id", *names), rows)
    if new < len(readings):
        _same_as_kept(session, run.id, readings)
    if new:
        grown = update(RunRow).where(RunRow.id == run.id).values(count=RunRow.count + new)
        session.execute(grown.execution_options(synchronize_session=False))
        session.expire(run, ["count"])
    if begun and new == len(readings):
        session.info.setdefault(WRITTEN, {})[run.id] = readings.in_order()
    if _packs(session, run):
        packed.keep(session, run.id, load(session, run, cast(RunKind, run.kind)))
    return new


def _packs(session: Session, run: RunRow) -> bool:
    """Whether so many came since the last pack that the run is packed again."""
    most = packed.PACK_FROM
    return run.count >= most and run.count - packed.count(session, run.id) >= most


@event.listens_for(Session, "after_rollback")
def _nothing_written(session: Session) -> None:
    session.info.pop(WRITTEN, None)


def _same_as_kept(session: Session, run_id: int, readings: Readings[Any]) -> None:
    """Known is only what is identical: another value under a number that is taken is told."""
    names = readings.names()
    seq = readings.column("seq")
    query = select(*(ReadingRow.__table__.c[name] for name in names)).where(
        ReadingRow.run_id == run_id,
        ReadingRow.instrument.in_(set(readings.column("instrument").tolist())),
        ReadingRow.seq.between(int(seq.min()), int(seq.max())),
    )
    who, number = names.index("instrument"), names.index("seq")
    kept = {(row[who], row[number]): tuple(row) for row in session.execute(query)}
    for n, row in enumerate(readings.rows()):
        if kept[(row[who], row[number])] != row:
            raise TakenError(n, row[who], row[number])
