"""What every command needs: where the data lies, and why it cannot be opened, in a sentence."""

import argparse
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from typing import TYPE_CHECKING

from fairline.core.errors import FairLineError

if TYPE_CHECKING:
    from fairline.settings import Settings


class CommandError(FairLineError):
    """Why a command cannot be done: one plain sentence."""


def settings_of(arguments: argparse.Namespace, part: str = "") -> "Settings":
    from fairline.settings import Settings, default_data_dir

    folder = arguments.data or (default_data_dir() / part if part else default_data_dir())
    known = Settings(folder)
    hosts = tuple(name.lower() for name in getattr(arguments, "hosts", ()))
    return replace(known, hosts=known.hosts + hosts)


@contextmanager
def openable(settings: "Settings") -> Iterator[None]:
    """Say in a sentence why the database cannot be opened."""
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
            f"The database in {settings.data_dir} cannot be opened: {told}."
        ) from None
