"""Models as the documents that the tables hold."""

from typing import Any

from fairline.core.entry import Entry
from fairline.core.errors import FairLineError


class NotFoundError(FairLineError):
    """There is no such job, run or sheet."""


def dump(model: Entry) -> dict[str, Any]:
    return model.model_dump(mode="json", exclude_defaults=True)
