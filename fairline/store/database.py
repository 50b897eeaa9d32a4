"""Opening the database: engine, sessions, migrations."""

from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, inspect, text
from sqlalchemy.orm import Session, sessionmaker

from fairline.store import board, sqlite

MIGRATIONS = Path(__file__).parent / "migrations"
HEAD = "0005"  # the newest migration; a test holds this against the folder


class Database:
    """One open database; ``session()`` gives a unit of work."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine: Engine = create_engine(url)
        sqlite.prepare(self.engine)
        self.session: sessionmaker[Session] = sessionmaker(self.engine, expire_on_commit=False)

    def close(self) -> None:
        self.engine.dispose()


def open_database(url: str) -> Database:
    """The database at ``url``, its folder made and its tables migrated to the newest."""
    if url.startswith("sqlite:///"):
        Path(url.removeprefix("sqlite:///")).parent.mkdir(parents=True, exist_ok=True)
    database = Database(url)
    if revision(database.engine) != HEAD:
        migrate(database.engine)
        with database.session() as session:
            board.renew(session)
            session.commit()
    return database


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
