"""Instruments that report to a job: who they are, and what those say that are read once, at a tap.

A gauge on a run sends readings into it (``core/readings``). Scale, thermometer and wrench send what
they show just so; a person takes a value from there into a record.
"""

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, model_validator

from fairline.core.entry import Entry, Moment, Record, Text
from fairline.core.readings import Run

What = Literal["micron", "manometer", "scale", "thermometer", "wrench"]
WHAT: dict[What, str] = {
    "micron": "micron gauge",
    "manometer": "digital gauge",
    "scale": "scale",
    "thermometer": "thermometer",
    "wrench": "torque wrench",
}
Spot = Literal["scale", "thermometer", "wrench"]
SHOWS: dict[Spot, tuple[str, ...]] = {
    "scale": ("mass_kg",),
    "thermometer": ("air_c", "humidity"),
    "wrench": ("torque_nm",),
}


class Introduction(Entry):
    """How an instrument introduces itself: what it is, and in which steps it shows.

    ``name`` is the one its readings carry. ``resolution`` is SI: Pa, kg, K or N·m.
    """

    name: Annotated[Text, Field(min_length=1)]
    what: What
    resolution: Annotated[float, Field(gt=0, le=1e6)] | None = None
    simulated: bool = False


class InstrumentOn(Record, Introduction):
    """An instrument that introduced itself, and when."""

    kind: Literal["instrument"] = "instrument"


class SpotReading(Entry):
    """What an instrument shows at a moment; name and sequence number are its identity.

    kg of a scale, °C and relative humidity 0–1 of a thermometer, N·m of a wrench that clicked.
    """

    instrument: Annotated[Text, Field(min_length=1)]
    seq: Annotated[int, Field(ge=0, le=2**53)]
    what: Spot
    at: Moment
    mass_kg: Annotated[float, Field(ge=-1000, le=1000)] | None = None
    air_c: Annotated[float, Field(ge=-60, le=150)] | None = None
    humidity: Annotated[float, Field(ge=0, le=1)] | None = None
    torque_nm: Annotated[float, Field(ge=0, le=1000), AfterValidator(lambda v: round(v, 6))] | (
        None
    ) = None
    simulated: bool = False

    @model_validator(mode="after")
    def _shows_its_own(self) -> "SpotReading":
        own = SHOWS[self.what]
        if getattr(self, own[0]) is None:
            raise ValueError(f"a {self.what} reads {own[0]}")
        others = [n for s in SHOWS.values() for n in s if n not in own]
        if wrong := next((n for n in others if getattr(self, n) is not None), None):
            raise ValueError(f"a {self.what} does not read {wrong}")
        return self

    def values(self) -> dict[str, Any]:
        """What it shows, by name."""
        return {n: v for n in SHOWS[self.what] if (v := getattr(self, n)) is not None}


def reported_resolution(instruments: Sequence[InstrumentOn], runs: Sequence[Run]) -> float | None:
    """The coarsest steps that what read these runs says it shows in; None where none says."""
    newest = {i.name: i.resolution for i in instruments}
    if not newest:
        return None
    reading = set[str]().union(*(run.readings.instruments() for run in runs))
    told = [step for name, step in newest.items() if name in reading and step is not None]
    return max(told, default=None)
