"""The equipment of a job: its own copies of the sheets it was planned with."""

import string
from typing import Annotated

from pydantic import Field, model_validator

from fairline.core.entry import Entry
from fairline.core.sheet import Head, Outdoor

LETTERS = string.ascii_uppercase
Zone = Annotated[str, Field(pattern=r"^[A-Z]$")]


class PlannedOutdoor(Entry):
    """The outdoor unit's sheet as it stood on the shelf in ``version``."""

    version: Annotated[int, Field(ge=1)] = 1
    sheet: Outdoor


class PlannedHead(Entry):
    """A head's sheet as it stood on the shelf in ``version``, for one zone."""

    zone: Zone
    version: Annotated[int, Field(ge=1)] = 1
    sheet: Head


class Equipment(Entry):
    """One outdoor unit and the heads on it, by zone."""

    outdoor: PlannedOutdoor | None = None
    heads: Annotated[tuple[PlannedHead, ...], Field(max_length=26)] = ()

    @model_validator(mode="after")
    def _zones_are_single(self) -> "Equipment":
        zones = [h.zone for h in self.heads]
        if len(set(zones)) != len(zones):
            raise ValueError("heads: a zone stands twice")
        return self

    def head(self, zone: str) -> Head | None:
        return next((h.sheet for h in self.heads if h.zone == zone), None)

    @property
    def first(self) -> Head | None:
        return self.heads[0].sheet if self.heads else None

    @property
    def name(self) -> str:
        """What the job is planned with, in one line."""
        models = [self.outdoor.sheet.model] if self.outdoor else []
        return " / ".join(models + [h.sheet.model for h in self.heads])
