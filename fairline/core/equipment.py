"""The equipment of a job: its own copies of the sheets it was planned with."""

import string
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from fairline.core.entry import Entry
from fairline.core.sheet import BranchBox, Head, Kit, Outdoor, Tee

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


class PlannedFitting(Entry):
    """The sheet of a box or tee, or of the kit a run is made of, by the run's end."""

    at: Annotated[str, Field(min_length=1, max_length=8)]
    kind: Literal["branch-box", "tee", "kit"]
    version: Annotated[int, Field(ge=1)] = 1
    sheet: Annotated[BranchBox | Tee | Kit, Field(discriminator="kind")]

    @model_validator(mode="before")
    @classmethod
    def _kind_tells(cls, value: Any) -> Any:
        """Documents leave out what stands by default, and so a sheet's own kind."""
        if not isinstance(value, dict):
            return value
        sheet = value.get("sheet")
        if isinstance(sheet, dict):
            return value | {"sheet": {"kind": value.get("kind")} | sheet}
        return {"kind": getattr(sheet, "kind", None)} | value


Token = Annotated[str, Field(min_length=1, max_length=24, pattern=r"^[A-Za-z0-9]+$")]


class Equipment(Entry):
    """One outdoor unit, the heads on it by zone, and what stands between them.

    Sheets say what a machine is like; tokens say which one it is. ``machines`` has the token of
    the outdoor unit (``outdoor``), of each head by zone, of each box and tee; ``tubes`` that of the
    tube of each run: two runs that a tee parted share one. ``connections`` has a token for the
    start of a run that was connected anew on site. What has no token is still the first one.
    """

    outdoor: PlannedOutdoor | None = None
    heads: Annotated[tuple[PlannedHead, ...], Field(max_length=26)] = ()
    fittings: Annotated[tuple[PlannedFitting, ...], Field(max_length=60)] = ()
    machines: dict[str, Token] = {}
    tubes: dict[str, Token] = {}
    connections: dict[str, Token] = {}

    @model_validator(mode="after")
    def _zones_are_single(self) -> "Equipment":
        zones = [h.zone for h in self.heads]
        if len(set(zones)) != len(zones):
            raise ValueError("heads: a zone stands twice")
        return self

    def head(self, zone: str) -> Head | None:
        return next((h.sheet for h in self.heads if h.zone == zone), None)

    def fitting(self, at: str) -> BranchBox | Tee | Kit | None:
        return next((f.sheet for f in self.fittings if f.at == at), None)

    def machine(self, name: str) -> str:
        """Which machine stands there: its token, or its place while it is the first one."""
        return self.machines.get(name, name)

    def tube(self, end: str) -> str:
        """Which tube a run is made of: its token, or by what it ends in while it is the first."""
        return self.tubes.get(end, f"tube{end}")

    def tube_start(self, end: str) -> str:
        """The tube of a run at its start, where it may have been connected anew."""
        anew = self.connections.get(end)
        return f"{self.tube(end)}+{anew}" if anew else self.tube(end)

    @property
    def name(self) -> str:
        """What the job is planned with, in one line."""
        models = [self.outdoor.sheet.model] if self.outdoor else []
        return " / ".join(models + [h.sheet.model for h in self.heads])
