"""All that is particular to SQLite."""

from typing import Any

from sqlalchemy import Engine, event, func, insert, select
from sqlalchemy.dialects import sqlite
from sqlalchemy.orm import Session

BUSY_TIMEOUT_MS = 5000


def prepare(engine: Engine) -> None:
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
    """Begin a change that reads before it writes: no other change comes in between."""
    session.rollback()
    if session.get_bind().dialect.name == "sqlite":
        session.connection().exec_driver_sql("BEGIN IMMEDIATE")


def insert_or_ignore(session: Session, table: Any, rows: list[dict[str, Any]]) -> int:
    """Insert rows, leaving out those whose key is already there; how many were new."""
    if not rows:
        return 0
    name = session.get_bind().dialect.name
    statement: Any
    if name == "sqlite":
        statement = sqlite.insert(table).on_conflict_do_nothing()
    elif name == "postgresql":
        from sqlalchemy.dialects import postgresql

        statement = postgresql.insert(table).on_conflict_do_nothing()
    else:
        statement = insert(table)
    connection = session.connection()
    if len(rows) == 1:
        return int(connection.execute(statement, rows[0]).rowcount)
    before = connection.execute(_count(table, rows[0]["run_id"])).scalar_one()
    if name == "sqlite":  # plainly: a day's log has 86 400 rows
        columns = list(rows[0])
        plain = f"INSERT OR IGNORE INTO {table.name} ({', '.join(columns)}) VALUES "
        plain += f"({', '.join('?' * len(columns))})"
        connection.exec_driver_sql(plain, [tuple(row.values()) for row in rows])
    else:
        connection.execute(statement, rows)
    after = connection.execute(_count(table, rows[0]["run_id"])).scalar_one()
    return int(after - before)


def _count(table: Any, run_id: int) -> Any:
    return select(func.count()).select_from(table).where(table.c.run_id == run_id)
