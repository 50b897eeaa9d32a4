"""All in which SQLite and PostgreSQL differ."""

import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from threading import Lock, RLock
from typing import Any
from weakref import WeakKeyDictionary

from sqlalchemy import ColumnElement, Engine, create_engine, event, func, select, text
from sqlalchemy.orm import Session

from fairline.store.models import JobRow

INDEXED = 3  # letters of a word that the index of words knows
BUSY_TIMEOUT_MS = 5000
WRITES = 0x46414952  # PostgreSQL's lock of whoever writes: a number of ours


def opened(url: str) -> Engine:
    """The engine of a database: psycopg, where a URL names PostgreSQL and no driver."""
    named = re.sub("^postgres(ql)?://", "postgresql+psycopg://", url)
    # A connection that the server has closed meanwhile is opened anew.
    engine = create_engine(named, pool_pre_ping=not named.startswith("sqlite"))
    _prepare(engine)
    return engine


def _prepare(engine: Engine) -> None:
    """Write-ahead log, foreign keys, patience with a busy file, every commit on the disk."""
    if engine.dialect.name != "sqlite":
        return

    @event.listens_for(engine, "connect")
    def on_connect(connection: Any, _record: Any) -> None:
        cursor = connection.cursor()
        cursor.execute("PRAGMA journal_mode=WAL")
        cursor.execute("PRAGMA foreign_keys=ON")
        cursor.execute(f"PRAGMA busy_timeout={BUSY_TIMEOUT_MS}")
        cursor.execute("PRAGMA synchronous=FULL")
        cursor.close()


def begin_write(session: Session) -> None:
    """Begin a change that reads before it writes: no other change comes in between.

    SQLite lets one write at a time; of PostgreSQL a lock is asked for, until the change ends.
    """
    session.rollback()
    if session.get_bind().dialect.name == "sqlite":
        session.connection().exec_driver_sql("BEGIN IMMEDIATE")
    elif session.get_bind().dialect.name == "postgresql":
        session.execute(text(f"SET LOCAL lock_timeout = {BUSY_TIMEOUT_MS}"))
        session.execute(select(func.pg_advisory_xact_lock(WRITES)))


_turns: WeakKeyDictionary[Any, RLock] = WeakKeyDictionary()
_guard = Lock()


@contextmanager
def writing(session: Session) -> Iterator[None]:
    """A change of this process: it is begun when it has its turn, and ends before the next one's.

    So none of them finds the database held by another. One that another process holds for longer
    than ``BUSY_TIMEOUT_MS`` is an OperationalError. The caller commits or rolls back.
    """
    with _guard:
        turn = _turns.setdefault(session.get_bind(), RLock())
    with turn:
        begin_write(session)
        yield


def jobs_with(session: Session, words: Sequence[str]) -> list[ColumnElement[bool]]:
    """The conditions of jobs in whose words all of these stand, each as a part of a word or whole.

    SQLite asks its index of three letters (``job_search``), and looks for what is shorter in the
    words themselves; PostgreSQL chooses between the two.
    """
    indexed = session.get_bind().dialect.name == "sqlite"
    long = [w for w in words if indexed and len(w) >= INDEXED]
    found: list[ColumnElement[bool]] = [
        JobRow.found_by.contains(word, autoescape=True) for word in words if word not in long
    ]
    if long:
        asked = " AND ".join('"' + word.replace('"', '""') + '"' for word in long)
        # The plus keeps the board's own order: the first page is full before all are looked at.
        within = text("+job.id IN (SELECT rowid FROM job_search WHERE job_search MATCH :asked)")
        found.append(within.bindparams(asked=asked))  # type: ignore[arg-type]
    return found


def insert_or_ignore(
    session: Session, table: Any, columns: Sequence[str], rows: Sequence[tuple[Any, ...]]
) -> int:
    """Insert rows, leaving out those whose key is already there; how many were new."""
    if not rows:
        return 0
    connection = session.connection()
    if connection.dialect.name == "sqlite":  # plainly: a day's log has 86 400 rows
        marks = ", ".join("?" * len(columns))
        plain = f"INSERT OR IGNORE INTO {table.name} ({', '.join(columns)}) VALUES ({marks})"
        return int(connection.exec_driver_sql(plain, list(rows)).rowcount)
    kinds = [table.c[name].type.compile(connection.dialect) for name in columns]
    arrays = ", ".join(f"%s::{kind}[]" for kind in kinds)  # of PostgreSQL: a column, an array
    many = f"INSERT INTO {table.name} ({', '.join(columns)}) SELECT * FROM unnest({arrays}) "
    values = tuple(list(column) for column in zip(*rows, strict=True))
    return int(connection.exec_driver_sql(f"{many} ON CONFLICT DO NOTHING", values).rowcount)


def plain_rows(session: Session, query: Any) -> list[tuple[Any, ...]]:
    """What a query finds, as the driver gives it: without a row object for each of many."""
    found: Any = session.connection().execute(query)
    rows = list(found.cursor.fetchall())
    found.close()
    return rows
