"""The clock of the server under test, which a test lets run ahead."""

from datetime import datetime, timedelta


class Later(datetime):
    """The server's clock, which a test lets run ahead."""

    by = timedelta()

    @classmethod
    def now(cls, tz=None):
        return datetime.now(tz) + cls.by


def passes(after: str) -> None:
    """So many minutes pass: ``"20 min"``."""
    Later.by += timedelta(minutes=float(after.partition(" ")[0]))
