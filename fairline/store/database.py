"""Opening the database: engine, sessions, migrations."""

from pathlib import Path
from typing import Any

from sqlalchemy import Engine, inspect, text
from sqlalchemy.orm import Session, sessionmaker

from fairline.core.errors import FairLineError
from fairline.store import board, dialect
from fairline.store.backup import backup
from fairline.store.revisions import HEAD, MIGRATIONS, migrations


class Database:
    """One open database; ``session()`` gives a unit of work."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine: Engine = dialect.opened(url)
        self.session: sessionmaker[Session] = sessionmaker(self.engine, expire_on_commit=False)

    def close(self) -> None:
        self.engine.dispose()


def open_database(url: str) -> Database:
    """The database at ``url``, its folder made and its tables migrated to the newest."""
    file = file_of(url)
    if file is not None:
        file.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    database = Database(url)
    stands_at = revision(database.engine)
    if stands_at is not None and stands_at not in migrations():
        database.close()
        raise NewerError(
            f"The database at {url} was made by a newer Fair Line ({stands_at}, here {HEAD}): "
            "install that one, or take another folder."
        )
    if stands_at != HEAD:
        if stands_at is not None and file is not None:
            backup(file, file.with_name(f"{file.stem}-before-{HEAD}.db"))
        migrate(database.engine)
        with database.session() as session:
            board.renew(session)
            session.commit()
    return database


class NewerError(FairLineError):
    """The database was made by a newer program than this one."""


def file_of(url: str) -> Path | None:
    """The file of a SQLite database; None for another kind."""
    return Path(url.removeprefix("sqlite:///")) if url.startswith("sqlite:///") else None


def revision(engine: Engine) -> str | None:
    """The migration the tables stand at; None for an empty database."""
    with engine.connect() as connection:
        if not inspect(connection).has_table("alembic_version"):
            return None
        found: Any = connection.execute(text("SELECT version_num FROM alembic_version")).scalar()
        return str(found) if found else None


def migrate(engine: Engine, to: str = "head") -> None:
    """Bring the tables to a migration, the newest where none is named."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, to)
