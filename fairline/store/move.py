"""Everything of one database into another, empty one; afterwards both are compared row by row."""

import hashlib
from collections.abc import Iterator
from typing import Any

from sqlalchemy import Connection, Integer, Table, delete, insert, make_url, select, text
from sqlalchemy.exc import ArgumentError

from fairline.core.errors import FairLineError
from fairline.store.database import Database
from fairline.store.models import Base, JobNumberRow, JobRow, PersonRow, SheetRow

AT_ONCE = 2_000  # rows
TABLES: tuple[Table, ...] = tuple(Base.metadata.sorted_tables)  # each after those it refers to


class MoveError(FairLineError, ValueError):
    """Why a database cannot be taken over: a sentence without its stop."""


def without_password(url: str) -> str:
    """A database's address as it may be shown."""
    try:
        return make_url(url).render_as_string(hide_password=True)
    except ArgumentError:
        return "the address that was given"


def move(source: Database, target: Database) -> dict[str, int]:
    """Copy every row, compare both, and only then keep it; how many rows each table has.

    Raises MoveError where something is in the target already, or where the two differ.
    """
    with source.engine.connect() as old, target.engine.begin() as new:
        _one_moment(old)
        if any(
            new.execute(select(row.id).limit(1)).first() for row in (JobRow, SheetRow, PersonRow)
        ):
            raise MoveError("there are jobs, sheets or people in it already: take an empty one")
        for table in reversed(TABLES):
            new.execute(delete(table))  # what a new database begins with
        for table in TABLES:
            for rows in _rows(old, table):
                new.execute(insert(table), [dict(row._mapping) for row in rows])
        _number_on(old, new)
        counts = {}
        for table in TABLES:
            before, after = _digest(old, table), _digest(new, table)
            if before != after:
                raise MoveError(f"{table.name} is not the same there: nothing of it was kept")
            counts[table.name] = before[0]
    return counts


def _one_moment(connection: Connection) -> None:
    """All that is read is of one moment, though somebody else may write meanwhile."""
    if connection.dialect.name == "sqlite":
        connection.exec_driver_sql("BEGIN")
    else:
        connection.execute(text("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ"))


def _rows(connection: Connection, table: Table) -> Iterator[Any]:
    asked = select(table).order_by(*table.primary_key).execution_options(yield_per=AT_ONCE)
    return iter(connection.execute(asked).partitions())


def _digest(connection: Connection, table: Table) -> tuple[int, str]:
    """How many rows a table has, and one digest over all of them.

    Ordered here: databases sort words each in its own way.
    """
    found = sorted(
        hashlib.sha256(repr(tuple(row)).encode()).digest()
        for rows in _rows(connection, table)
        for row in rows
    )
    return len(found), hashlib.sha256(b"".join(found)).hexdigest()


def _number_on(old: Connection, new: Connection) -> None:
    """Numbers go on where they stood: those of jobs were given once, though a job is gone."""
    numbers = JobNumberRow.__table__
    given = max(_last_given(old), *(n for n in new.scalars(select(JobRow.id))), 0)
    if new.dialect.name == "sqlite":
        if given:
            new.execute(insert(JobNumberRow).values(id=given))
            new.execute(delete(JobNumberRow))
        return
    for table in TABLES:
        key = [*table.primary_key]
        if len(key) == 1 and isinstance(key[0].type, Integer) and not key[0].foreign_keys:
            top = given if table is numbers else 0
            new.exec_driver_sql(
                f"SELECT setval(pg_get_serial_sequence('{table.name}', '{key[0].name}'), "
                f"greatest(%s, (SELECT max({key[0].name}) FROM {table.name}), 1))",
                (top,),
            )


def _last_given(old: Connection) -> int:
    if old.dialect.name == "sqlite":
        asked = "SELECT seq FROM sqlite_sequence WHERE name = 'job_number'"
    else:
        asked = "SELECT last_value FROM job_number_id_seq WHERE is_called"
    return int(old.execute(text(asked)).scalar() or 0)
