"""The clock of the server under test, which a test lets run ahead."""

import time
from datetime import UTC, datetime, timedelta


class Later:
    """The computer's clock and its even seconds, which a test lets run ahead together."""

    by = timedelta()

    @classmethod
    def now(cls) -> datetime:
        return datetime.now(UTC) + cls.by

    @classmethod
    def steady(cls) -> float:
        return time.monotonic() + cls.by.total_seconds()


def passes(after: str) -> None:
    """So many minutes pass: ``"20 min"``."""
    Later.by += timedelta(minutes=float(after.partition(" ")[0]))
