"""Models as the documents that the tables hold."""

from datetime import UTC, datetime
from typing import Any

from fairline.core.entry import Entry
from fairline.core.errors import FairLineError


class NotFoundError(FairLineError):
    """There is no such job, run or sheet."""


def now() -> datetime:
    return datetime.now(UTC)


def dump(model: Entry) -> dict[str, Any]:
    return model.model_dump(mode="json", exclude_defaults=True)
