"""What stands in the way of the database, in a plain sentence; what a damaged file raises."""

import lzma
import zipfile
import zlib
from dataclasses import dataclass

from sqlalchemy.exc import DBAPIError


@dataclass(frozen=True)
class Trouble:
    """What is wrong with the machine; ``status`` as HTTP has it."""

    status: int
    words: str


KNOWN = {
    "disk is full": Trouble(
        507, "The disk is full: this was not kept. Make room, and it goes on by itself."
    ),
    "readonly": Trouble(
        503,
        "The folder of the data cannot be written: this was not kept. Give it back its "
        "permission to write, and it goes on by itself.",
    ),
    "locked": Trouble(503, "Another program holds the database: this was not kept. Try again."),
    "lock timeout": Trouble(503, "Another change takes long: this was not kept. Try again."),
    "connection": Trouble(503, "The database does not answer: this was not kept. Is it running?"),
    "unable to open": Trouble(503, "The database's file cannot be opened. Is its disk there?"),
    "disk I/O error": Trouble(503, "The disk does not answer: this was not kept. Look after it."),
    "malformed": Trouble(503, "The database is damaged: stop, and restore the last backup."),
}

# What reading a ZIP file raises where it is damaged.
BROKEN_ZIP = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    RuntimeError,
    NotImplementedError,
    EOFError,
    OSError,
)


def trouble(error: DBAPIError) -> Trouble | None:
    """What stands in the way; None for what is no trouble of the machine but a fault of ours."""
    said = str(error.orig)
    return next((known for mark, known in KNOWN.items() if mark in said), None)
