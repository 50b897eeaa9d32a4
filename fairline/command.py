"""What every command needs: where the data lies, and why it cannot be opened, in a sentence."""

import argparse
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from fairline.core.errors import FairLineError

if TYPE_CHECKING:
    from fairline.settings import Settings


EXIT_FAILED = 1


class CommandError(FairLineError):
    """Why a command cannot be done: one plain sentence."""


def settings_of(arguments: argparse.Namespace, part: str = "") -> "Settings":
    from fairline.settings import Settings, default_data_dir

    folder = arguments.data or (default_data_dir() / part if part else default_data_dir())
    known = Settings(folder)
    hosts = tuple(name.lower() for name in getattr(arguments, "hosts", ()))
    return replace(known, hosts=known.hosts + hosts)


@contextmanager
def openable(settings: "Settings", where: str = "") -> Iterator[None]:
    """Say in a sentence why the database cannot be opened; ``where`` it is, if elsewhere."""
    from sqlalchemy.exc import SQLAlchemyError

    from fairline.store.backup import BackupError
    from fairline.store.database import NewerError

    try:
        yield
    except (NewerError, BackupError) as error:
        raise CommandError(str(error)) from None
    except (SQLAlchemyError, OSError) as error:
        told = str(getattr(error, "orig", error))
        raise CommandError(
            f"The database in {where or settings.data_dir} cannot be opened: {told}."
        ) from None


@contextmanager
def alone(folder: Path) -> Iterator[None]:
    """Hold a folder for this process: two servers on one folder would not know of each other."""
    import fcntl

    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        held = (folder / "server.lock").open("w")
    except OSError as error:
        raise CommandError(f"The folder {folder} cannot be written: {error.strerror}.") from None
    with held:
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise CommandError(
                f"Another Fair Line works in {folder} already: stop it, or take another folder."
            ) from None
        yield
