"""Backups: a whole database as one file, pictures too, made while it is in use, and checked.

Copying the database's file by hand loses what still lies in its log beside it: SQLite's own
backup does not.
"""

import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import ExitStack, closing, contextmanager
from datetime import datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from fairline.core.errors import FairLineError
from fairline.store.revisions import HEAD, migrations


class BackupError(FairLineError):
    """Why a file cannot be written, read or taken: one sentence for a person."""


def _counted(file: Path) -> tuple[int, str]:
    """How many jobs a database file holds and the migration it stands at; raises BackupError."""
    if not file.is_file():
        raise BackupError(f"there is no file {file}")
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as opened:
            (sound,) = opened.execute("PRAGMA integrity_check").fetchone()
            if sound != "ok":
                raise BackupError(f"{file} is damaged: {sound}")
            (count,) = opened.execute("SELECT count(*) FROM job").fetchone()
            (revision,) = opened.execute("SELECT version_num FROM alembic_version").fetchone()
    except sqlite3.Error as error:
        raise BackupError(f"{file} is no backup of Fair Line: {error}") from None
    return int(count), str(revision)


def _copy_with_log(source: Path, folder: Path) -> None:
    """A database and the log beside it, as files that may be written."""
    shutil.copy(source, folder / "copy")
    if (log := Path(f"{source}-wal")).is_file():
        shutil.copy(log, folder / "copy-wal")
    for file in folder.iterdir():
        file.chmod(0o600)


@contextmanager
def _opened(source: Path, room: Path) -> Iterator[sqlite3.Connection]:
    """A database to be read; raises BackupError, which names it, where it cannot be.

    On a disk that cannot be written SQLite opens none with a log beside it: a copy of both, in
    ``room``, is read then.
    """
    with ExitStack() as stack:
        try:
            opened = stack.enter_context(
                closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True))
            )
            opened.execute("SELECT count(*) FROM sqlite_master").fetchone()
        except sqlite3.OperationalError:
            with _blaming(source, "read"):
                folder = Path(stack.enter_context(TemporaryDirectory(dir=room)))
                _copy_with_log(source, folder)
                opened = stack.enter_context(closing(sqlite3.connect(folder / "copy")))
                opened.execute("SELECT count(*) FROM sqlite_master").fetchone()
        except sqlite3.DatabaseError as error:
            raise BackupError(f"{source} cannot be read: {error}") from None
        yield opened


@contextmanager
def _blaming(file: Path, what: str) -> Iterator[None]:
    try:
        yield
    except (sqlite3.Error, OSError) as error:
        raise BackupError(f"{file} cannot be {what}: {error}") from None


def copy(source: Path, target: Path) -> None:
    """Copy a database as it stands, committed changes only, to a file that appears whole."""
    half = target.with_name(f"{target.name}.part")
    try:
        with _blaming(target, "written"), closing(sqlite3.connect(half)) as written:
            written.execute("PRAGMA user_version")  # a folder that cannot be written is told first
            with _opened(source, target.parent) as opened:
                opened.backup(written)
            written.execute("PRAGMA journal_mode=DELETE")
        with _blaming(target, "written"):
            os.chmod(half, 0o600)
            half.replace(target)
    except BackupError:
        half.unlink(missing_ok=True)
        raise


def backup(database: Path, target: Path) -> int:
    """Write a backup of a database to a file and check it; how many jobs are in it."""
    if not database.is_file():
        raise BackupError(f"there is no database at {database}")
    if target.resolve() == database.resolve():
        raise BackupError("a backup is another file than the database itself")
    copy(database, target)
    return _counted(target)[0]


def verify(file: Path) -> tuple[int, str]:
    """Check a backup: how many jobs are in it, and the migration it stands at."""
    return _counted(file)


def restore(file: Path, database: Path) -> tuple[int, Path | None]:
    """Put a backup in the place of a database; what was there is kept beside it under its time.

    The server must not run. Gives how many jobs there are now, and where the old one lies.
    """
    count, revision = _counted(file)
    if revision not in migrations():
        raise BackupError(f"{file} was made by a newer Fair Line ({revision}, here {HEAD})")
    aside: Path | None = None
    database.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    if database.is_file():
        stamp = datetime.now().strftime("%Y%m%d-%H%M%S")
        aside = database.with_name(f"{database.stem}-before-restore-{stamp}.db")
        copy(database, aside)
    fresh = database.with_name(f"{database.name}.restored")
    copy(file, fresh)
    for log in ("-wal", "-shm"):
        Path(f"{database}{log}").unlink(missing_ok=True)
    fresh.replace(database)
    return count, aside
