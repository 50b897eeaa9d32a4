"""Where a test's data lie: in SQLite, or in a PostgreSQL that FAIRLINE_TEST_POSTGRES names.

A folder of data has one database of its own there, by its path.
"""

import hashlib
import os
import shutil
from pathlib import Path

import psycopg

from fairline.settings import Settings

SERVER = os.environ.get("FAIRLINE_TEST_POSTGRES", "")
_made: set[str] = set()


def url_of(folder: Path) -> str:
    """The database of a folder; in PostgreSQL it is made when it is first asked for."""
    if not SERVER:
        return f"sqlite:///{folder}/fairline.db"
    name = _name(folder)
    if name not in _made:
        _ask(f"CREATE DATABASE {name}")
        _made.add(name)
    return SERVER.replace("/postgres?", f"/{name}?")


def copied(source: Path, target: Path) -> None:
    """The data of a folder once more, in another."""
    shutil.copytree(source, target, dirs_exist_ok=True)
    if SERVER:
        name = _name(target)
        if name in _made:
            _ask(f"DROP DATABASE {name} WITH (FORCE)")
        _ask(f"CREATE DATABASE {name} TEMPLATE {_name(source)}")
        _made.add(name)


def _name(folder: Path) -> str:
    return "t" + hashlib.sha256(str(folder).encode()).hexdigest()[:20]


def _ask(statement: str) -> None:
    with psycopg.connect(SERVER, autocommit=True) as connection:
        connection.execute(statement)


if SERVER:
    Settings.database_url = property(lambda self: url_of(self.data_dir))
