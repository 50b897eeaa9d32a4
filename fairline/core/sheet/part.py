"""What the rows of a sheet are made of, and what every sheet has in common. SI throughout.

A field the sheet leaves blank is None: the limit then falls through to local code, house
practice and common practice, or stays unknown.
"""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import AfterValidator, BeforeValidator, Field, ValidationInfo, field_validator

from fairline.core.entry import (
    AirflowM3S,
    AreaM2,
    ChargeKg,
    Entry,
    LongText,
    Percent,
    RateKgM,
    SmallM,
    Text,
    TorqueNm,
    TubeM,
    rows,
    words,
)
from fairline.core.physics.tubing import same_size

Refrigerant = Literal["R-32", "R-454B", "R-410A"]
Name = Annotated[Text, Field(min_length=1)]


class TubePair(Entry):
    """A port or connection: its letter where it has one, its liquid and gas tube."""

    letter: Annotated[str, Field(max_length=3)] = ""
    liquid_od_m: TubeM = None
    gas_od_m: TubeM = None


class ChargeRate(Entry):
    """Charge per length of line beyond what is covered, by the liquid tube's diameter."""

    liquid_od_m: TubeM
    kg_per_m: RateKgM


class HeadAdder(Entry):
    """Charge the sheet adds for each head of a class."""

    head_class: Name
    kg: ChargeKg


class Torque(Entry):
    """The torque of a flare nut on a tube."""

    od_m: TubeM
    low_nm: TorqueNm
    high_nm: TorqueNm

    @field_validator("high_nm")
    @classmethod
    def _in_order(cls, value: float | None, info: ValidationInfo) -> float | None:
        low = info.data.get("low_nm")
        if (low is None) != (value is None):
            raise ValueError("a torque needs both ends of its range")
        if low is not None and value is not None and value < low:
            raise ValueError("the sheet contradicts itself: the high end is below the low end")
        return value


def torque_nm(torques: tuple[Torque, ...], od_mm: float) -> tuple[float, float] | None:
    """A sheet's torque for a flare nut of this tube; None where it says nothing."""
    for row in torques:
        near = row.od_m is not None and same_size(row.od_m * 1000, od_mm)
        if near and row.low_nm is not None and row.high_nm is not None:
            return row.low_nm, row.high_nm
    return None


class RoomCharge(Entry):
    """One line of the sheet's own room table: the most charge for a floor area."""

    area_m2: AreaM2
    max_kg: ChargeKg


class Airflow(Entry):
    """Air moved at one fan speed."""

    speed: Name
    m3_s: AirflowM3S


class LampCode(Entry):
    """What lamps or the display show, what the sheet says that means, and what to do."""

    code: Name
    means: Name
    do_next: Text = ""
    page: Text = ""


class BoardMark(Entry):
    """What stands on a unit's board, and where: percent from its left edge and from its top."""

    what: Name
    x_percent: Percent
    y_percent: Percent


class Spot(Entry):
    """A point of the mounting plate, right and up of the plate's mark."""

    x_m: SmallM
    y_m: SmallM


class Outlet(Entry):
    """Where the lines leave: straight back through the wall, or by a knockout at a side.

    ``x_m`` and ``y_m`` are the hole's centre, right and up of the plate's mark; a side outlet
    has none, because its hole is wherever the lines go through.
    """

    name: Name
    way: Literal["back", "side"] = "back"
    x_m: SmallM = None
    y_m: Annotated[SmallM, Field(validate_default=True)] = None

    @field_validator("y_m")
    @classmethod
    def _back_has_a_place(cls, value: float | None, info: ValidationInfo) -> float | None:
        if info.data.get("way") == "back" and (value is None or info.data.get("x_m") is None):
            raise ValueError("an outlet through the back needs the hole's place, both ways")
        return value


Shield = Literal["none", "outdoor", "every"]


def listed(value: Any) -> Any:
    """``"economy, dry"`` as a list: names may have several words, a comma parts them."""
    if isinstance(value, str):
        return [name.strip() for name in value.split(",") if name.strip()]
    return value


def each_mode_once(value: tuple[str, ...]) -> tuple[str, ...]:
    """Modes, none of them twice."""
    twice = next((m for m in value if [x.lower() for x in value].count(m.lower()) > 1), None)
    if twice is not None:
        raise ValueError(f"the mode {twice} stands twice")
    return value


def each_once(value: tuple[str, ...]) -> tuple[str, ...]:
    """Names of terminals, none of them twice."""
    twice = next((name for name in value if value.count(name) > 1), None)
    if twice is not None:
        raise ValueError(f"terminal {twice} stands twice")
    return value


GROUND_MARKS = ("g", "gnd", "ground", "earth", "pe", "⏚", "⊥")


def _terminals(value: Any) -> Any:
    """Terminals as typed, but the ground's: its screw is there anyway. What is kept stays."""
    typed = words(value)
    if not isinstance(value, str):
        return typed
    return [name for name in typed if name.lower() not in GROUND_MARKS]


# In order, as they are printed beside the screws: "1 2 3", "S1 S2 S3"; without the ground.
Terminals = Annotated[
    tuple[Annotated[str, Field(min_length=1, max_length=6)], ...],
    BeforeValidator(_terminals),
    AfterValidator(each_once),
    Field(max_length=6),
]
TubePairs = Annotated[tuple[TubePair, ...], rows(TubePair), Field(max_length=12)]
ChargeRates = Annotated[tuple[ChargeRate, ...], rows(ChargeRate), Field(max_length=12)]
HeadAdders = Annotated[tuple[HeadAdder, ...], rows(HeadAdder), Field(max_length=20)]
Torques = Annotated[tuple[Torque, ...], rows(Torque), Field(max_length=12)]
RoomCharges = Annotated[tuple[RoomCharge, ...], rows(RoomCharge), Field(max_length=60)]
Airflows = Annotated[tuple[Airflow, ...], rows(Airflow), Field(max_length=8)]
LampCodes = Annotated[tuple[LampCode, ...], rows(LampCode), Field(max_length=60)]
BoardMarks = Annotated[tuple[BoardMark, ...], rows(BoardMark), Field(max_length=20)]
# Of the remote, in the sheet's own words: "economy, dry, sleep"; cooling and heating go without.
SpecialModes = Annotated[
    tuple[Annotated[str, Field(min_length=1, max_length=40)], ...],
    BeforeValidator(listed),
    AfterValidator(each_mode_once),
    Field(max_length=12),
]
Spots = Annotated[tuple[Spot, ...], rows(Spot), Field(max_length=40)]


def _numbered(value: Any) -> Any:
    """Outlets that nobody named are called by their number."""
    if not isinstance(value, list | tuple):
        return value
    return [
        row | {"name": f"outlet {n}"} if isinstance(row, dict) and not row.get("name") else row
        for n, row in enumerate(value, 1)
    ]


# Rows that are blank go first, then those that are left are numbered.
Outlets = Annotated[
    tuple[Outlet, ...], BeforeValidator(_numbered), rows(Outlet), Field(max_length=12)
]


def _cites(value: Any) -> Any:
    if isinstance(value, dict):
        return {k: v for k, v in value.items() if not isinstance(v, str) or v.strip()}
    return value


Cites = Annotated[dict[str, Text], BeforeValidator(_cites), Field(max_length=200)]


class Sheet(Entry):
    """What every sheet has: who makes it, which edition, what lies in the box.

    ``cites`` names the page of the manual a field was read from, by the field's name.
    ``ORDERED`` lists pairs of fields of which the first may not exceed the second.
    """

    ORDERED: ClassVar[tuple[tuple[str, str, str], ...]] = ()

    maker: Name
    model: Name
    series: Text = ""
    edition: Text = ""
    parts: LongText = ""
    notes: LongText = ""
    cites: Cites = {}

    @property
    def name(self) -> str:
        return f"{self.maker} {self.model}"

    def source(self, field: str) -> str:
        """Where a field of this sheet stands: the sheet, and the page where one is named."""
        cite = self.cites.get(field)
        return f"{self.name}, {cite}" if cite else self.name

    def parts_list(self) -> tuple[str, ...]:
        """One part a line, as the sheet lists what belongs in the box."""
        return tuple(line.strip() for line in self.parts.splitlines() if line.strip())

    @field_validator("*", mode="after")
    @classmethod
    def _agrees_with_itself(cls, value: Any, info: ValidationInfo) -> Any:
        for low, high, what in cls.ORDERED:
            least = info.data.get(low)
            if info.field_name == high and None not in (value, least) and value < least:
                raise ValueError(f"the sheet contradicts itself: {what}")
        return value

    @field_validator("cites")
    @classmethod
    def _cites_fields(cls, value: dict[str, str]) -> dict[str, str]:
        for name in value:
            if name not in cls.model_fields:
                raise ValueError(f"{name} is no field of this sheet")
        return value


class Body(Sheet):
    """A unit with a body of its own."""

    width_m: SmallM = None
    height_m: SmallM = None
    depth_m: SmallM = None

    @field_validator("width_m", "height_m", "depth_m")
    @classmethod
    def _some_size(cls, value: float | None) -> float | None:
        if value is not None and not 0.01 <= value <= 10:
            raise ValueError("must lie between 1 cm and 10 m")
        return value
