"""What is entered on Route: every run of the system as legs, its drains, levels and ports."""

import re
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, field_validator, model_validator

from fairline.core.entry import (
    BoreM,
    Count,
    DistanceM,
    Entry,
    LengthM,
    LongText,
    RadiusM,
    SizeM,
    SmallM,
    SpanM,
    Text,
    TubeM,
    YesNo,
    blank,
)

Direction = Literal["up", "down", "left", "right", "in", "out"]
Setting = Literal["outside", "wall", "attic", "room", "roof", "buried"]
Kept = Literal["cover", "tape", "bare", "sleeve"]
CableBeside = Literal["lines", "own", "supply"]

STEP: dict[Direction, tuple[float, float, float]] = {
    "right": (1.0, 0.0, 0.0),
    "left": (-1.0, 0.0, 0.0),
    "in": (0.0, 1.0, 0.0),
    "out": (0.0, -1.0, 0.0),
    "up": (0.0, 0.0, 1.0),
    "down": (0.0, 0.0, -1.0),
}
SETTINGS: dict[Setting, str] = {
    "outside": "outside wall",
    "wall": "through or in a wall",
    "attic": "attic or crawl space",
    "room": "room",
    "roof": "roof",
    "buried": "buried",
}
KEPT: dict[Kept, str] = {
    "cover": "in a cover",
    "tape": "taped, from the bottom up",
    "bare": "bare foam",
    "sleeve": "in a pipe sleeve",
}
CABLE_WAYS: dict[CableBeside, str] = {
    "lines": "with the lines",
    "own": "by itself",
    "supply": "with the supply",
}
OUTDOOR = "outdoor"
ENDS = re.compile(r"[A-Z]|box[1-9]|tee[1-9]\d?")  # a head's zone, a branch box, a tee
SHORTEST_LEG_M = 1e-4  # shorter is no leg


class Leg(Entry):
    """One straight leg, corner to corner; ``in`` goes towards the inside of the house.

    ``kept`` says in what it lies; blank: as all of the job. ``setting`` says where it runs; blank:
    outside until the first leg ``in``, which goes through the wall, then in the room. ``cable``:
    how the interconnect goes beside it; blank: as Wire says of all of it.
    """

    direction: Direction = "up"
    length_m: DistanceM = None
    setting: Annotated[Setting | None, BeforeValidator(blank)] = None
    kept: Annotated[Kept | None, BeforeValidator(blank)] = None
    cable: Annotated[CableBeside | None, BeforeValidator(blank)] = None

    @property
    def real(self) -> bool:
        return bool(self.length_m and self.length_m > SHORTEST_LEG_M)


class LineRun(Entry):
    """A pair of tubes that ends in the head, box or tee it is kept under.

    ``along`` names a run whose first ``along_legs`` legs this one keeps to. ``built_m`` is what
    was measured along the tube once it hung; the plan stays beside it.
    """

    fed_from: Annotated[str, Field(max_length=40)] = ""
    outlet: Annotated[str, Field(max_length=40)] = ""
    sheet: Text = ""
    kit: Text = ""
    liquid_od_m: TubeM = None
    gas_od_m: TubeM = None
    isolation: YesNo = None
    along: Text = ""
    along_legs: Count = None
    legs: Annotated[tuple[Leg, ...], Field(max_length=60)] = ()
    coil_m: DistanceM = None
    built_m: DistanceM = None
    join_access: YesNo = None
    notes: LongText = ""


class DrainPart(Entry):
    """A part of a drain: its length along the pipe, and how far its end lies below its start.

    A negative fall rises. ``way`` up is lifted by a pump.
    """

    way: Literal["along", "down", "up"] = "along"
    length_m: DistanceM = None
    fall_m: SmallM = None

    @property
    def can_be(self) -> bool:
        """A pipe falls no further than it is long."""
        return self.way != "along" or abs(self.fall_m or 0.0) <= (self.length_m or 0.0) + 1e-9


class DrainRun(Entry):
    """The drain of one head, from its outlet to where it ends or joins another's.

    ``bore_m`` is the pipe's inside diameter; the maker's own hose belongs to the head.
    """

    parts: Annotated[tuple[DrainPart, ...], Field(max_length=40)] = ()
    ends: Annotated[
        Literal["ground", "gutter", "stack", "sink", "joins"] | None, BeforeValidator(blank)
    ] = None
    joins: Text = ""
    bore_m: BoreM = None
    insulated: YesNo = None
    reach: YesNo = None
    trapped: YesNo = None

    @model_validator(mode="before")
    @classmethod
    def _had_an_outside(cls, value: Any) -> Any:
        """Drains kept before the inside was asked for name an outside, which tells nothing."""
        if isinstance(value, dict) and "od_m" in value:
            return {k: v for k, v in value.items() if k != "od_m"}
        return value


class Level(Entry):
    """A height of the house that the drawing shows: floor, ceiling, attic, roof."""

    name: Text = ""
    height_m: LengthM = None


def _ended(value: dict[str, Entry]) -> dict[str, Entry]:
    for key in value:
        if not ENDS.fullmatch(key):
            raise ValueError(f"no head, box or tee is called {key[:40]}")
    return value


class RouteEntry(Entry):
    """The whole piping: runs and drains by what they end in, and what holds for all of them."""

    runs: dict[str, LineRun] = {}
    drains: dict[str, DrainRun] = {}
    ports: dict[str, Literal["capped", "kept"]] = {}
    levels: Annotated[tuple[Level, ...], Field(max_length=12)] = ()
    valve_height_m: LengthM = None
    bend_radius_m: RadiusM = None
    end_allowance_m: DistanceM = None
    wall_m: SpanM = None
    both_insulated: YesNo = None
    cut_as: Literal["pair", "apart"] = "pair"
    joins_allowed: YesNo = None
    covered: YesNo = None
    cover_across_m: SizeM = None
    cover_deep_m: SizeM = None
    siding_steps: YesNo = None
    cable_tail_m: DistanceM = None
    notes: LongText = ""

    _runs_end = field_validator("runs", "drains")(classmethod(lambda _, value: _ended(value)))

    @field_validator("ports")
    @classmethod
    def _ports_are_named(cls, value: dict[str, str]) -> dict[str, str]:
        for key in value:
            if not re.fullmatch(r"(outdoor|box[1-9])-\w{1,3}", key):
                raise ValueError(f"no port is called {key[:40]}")
        return value

    @model_validator(mode="before")
    @classmethod
    def _from_one_run(cls, value: Any) -> Any:
        """Routes kept before there were several runs hold the legs of the only one."""
        if not isinstance(value, dict) or not {"legs", "coil_m"} & set(value):
            return value
        rest = {k: v for k, v in value.items() if k not in ("legs", "coil_m")}
        only = {"fed_from": OUTDOOR, "legs": value.get("legs") or ()}
        if value.get("coil_m") is not None:
            only["coil_m"] = value["coil_m"]
        return rest | {"runs": {"A": only} | rest.get("runs", {})}

    def run(self, end: str) -> LineRun:
        return self.runs.get(end, LineRun())

    def drain(self, zone: str) -> DrainRun:
        return self.drains.get(zone, DrainRun())
