"""Field types for what people enter: typed text becomes SI, a blank field becomes None.

Forms, JSON import and the store all validate with the same models. A number is taken as SI;
text is parsed with the unit system given in the validation context (``{"system": "us"}``), as
SI where none is given.
"""

import re
from datetime import date, datetime
from typing import Annotated, Any, ClassVar, Literal, TypeVar, cast

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    ValidationInfo,
    WithJsonSchema,
)

from fairline.core.call import SMALLEST
from fairline.core.physics.conductor import LONGEST_M, gauge
from fairline.core.quantities import both, parse
from fairline.core.units import KINDS, System

Said = TypeVar("Said")


class Entry(BaseModel):
    """What people enter on a stage: unknown fields refused, blanks are None, no NaN."""

    model_config = ConfigDict(
        extra="forbid", allow_inf_nan=False, str_strip_whitespace=True, frozen=True
    )


class QuantityKind:
    """Marks a field with the kind of quantity it holds, for pages that show it.

    ``plausible``: what the field can hold, by which the unit of a bare number is taken.
    """

    def __init__(self, name: str, plausible: tuple[float, float] | None = None) -> None:
        self.name, self.plausible = name, plausible


def _quantity(kind: str, plausible: tuple[float, float] | None = None) -> Any:
    k = KINDS[kind]

    def read(value: Any, info: ValidationInfo) -> Any:
        if isinstance(value, str):
            if not value.strip():
                return None
            # A form says in which units it was typed; a file's bare number is SI.
            system = cast(System, (info.context or {}).get("system", "si"))
            return parse(value, kind, system, plausible)
        if isinstance(value, bool):
            raise ValueError("a number is needed here")
        return value

    def inside(value: float | None) -> float | None:
        if value is not None and not k.minimum <= value <= k.maximum:
            raise ValueError("outside anything this job can have")
        return 0.0 if value is not None and abs(value) < SMALLEST else value

    schema = {"anyOf": [{"type": "number"}, {"type": "null"}]}
    return (
        BeforeValidator(read),
        AfterValidator(inside),
        QuantityKind(kind, plausible),
        WithJsonSchema(schema),
    )


def between(low: float, high: float, kind: str) -> AfterValidator:
    """Refuses an SI value outside ``low`` to ``high``, told in both unit systems."""

    def check(value: float | None) -> float | None:
        if value is not None and not low <= value <= high:
            raise ValueError(f"must lie between {both(low, kind)} and {both(high, kind)}")
        return value

    return AfterValidator(check)


def _positive(value: float | None) -> float | None:
    if value is not None and value < 0:
        raise ValueError("cannot be negative")
    return value


def blank(value: Any) -> Any:
    return None if isinstance(value, str) and not value.strip() else value


def whole(value: Any) -> Any:
    """A whole number as it is typed; a blank is None."""
    value = blank(value)
    if isinstance(value, str):
        text = value.strip().removesuffix(".0")
        if not re.fullmatch(r"[+-]?\d{1,9}", text):
            raise ValueError("a whole number is needed, such as 3")
        return int(text)
    return value


def words(value: Any) -> Any:
    """``"pad stand"`` as a list of words; a list without its blanks."""
    if isinstance(value, str):
        return value.replace(",", " ").split()
    return [v for v in value if v != ""] if isinstance(value, list | tuple) else value


def rows(model: type[BaseModel]) -> BeforeValidator:
    """Rows of a form: those in which nothing is entered are left out."""

    def entered(row: Any) -> bool:
        if not isinstance(row, dict):
            return True
        defaults = {n: f.default for n, f in model.model_fields.items()}
        return any(
            v not in ("", None) and not (defaults.get(k) == v and isinstance(v, str))
            for k, v in row.items()
        )

    def read(value: Any) -> Any:
        return [r for r in value if entered(r)] if isinstance(value, list | tuple) else value

    return BeforeValidator(read)


LengthM = Annotated[float | None, *_quantity("length")]
AltitudeM = Annotated[float | None, *_quantity("length"), between(-500, 6000, "length")]
DistanceM = Annotated[float | None, *_quantity("length"), between(0, 1000, "length")]
SmallM = Annotated[float | None, *_quantity("small")]
SizeM = Annotated[float | None, *_quantity("small"), between(0.001, 100, "small")]
WallM = Annotated[
    float | None, *_quantity("small", (1.2, 31.0)), between(0.001, 100, "small")
]  # a side of a room: 8 is feet, 4.2 metres
RadiusM = Annotated[
    float | None, *_quantity("small", (0.01, 2.0)), AfterValidator(_positive)
]  # of a bend: 2.5 is inches, 60 millimetres, 0.06 metres
SpanM = Annotated[float | None, *_quantity("small"), AfterValidator(_positive)]
TubeM = Annotated[
    float | None, *_quantity("tube"), between(0.003, 0.055, "tube")
]  # outside: 63.5 mm is 6.35 with its decimal slipped
BoreM = Annotated[float | None, *_quantity("tube"), between(0.003, 0.1, "tube")]
GaugePa = Annotated[float | None, *_quantity("gauge")]
TestPa = Annotated[float | None, *_quantity("gauge"), between(1e5, 1.5e7, "gauge")]
PressureDifferencePa = Annotated[
    float | None, *_quantity("pressure_difference"), between(0, 5e5, "pressure_difference")
]
NeedlePa = Annotated[float | None, *_quantity("needle")]
VacuumPa = Annotated[float | None, *_quantity("vacuum")]
VacuumLimitPa = Annotated[float | None, *_quantity("vacuum"), between(1, 2e4, "vacuum")]
VacuumStepPa = Annotated[float | None, *_quantity("vacuum"), between(0, 1e3, "vacuum")]
TemperatureC = Annotated[float | None, *_quantity("temperature")]
AmbientC = Annotated[float | None, *_quantity("temperature"), between(-40, 70, "temperature")]
TemperatureDifferenceK = Annotated[
    float | None,
    *_quantity("temperature_difference"),
    between(0, 20, "temperature_difference"),
]
ChargeKg = Annotated[float | None, *_quantity("charge"), AfterValidator(_positive)]
AddedKg = Annotated[float | None, *_quantity("charge"), between(-50, 500, "charge")]
WeightKg = Annotated[float | None, *_quantity("weight"), AfterValidator(_positive)]
CylinderKg = Annotated[float | None, *_quantity("cylinder")]
TorqueNm = Annotated[float | None, *_quantity("torque")]
PowerW = Annotated[float | None, *_quantity("power", (200.0, 100_000.0))]
AirflowM3S = Annotated[float | None, *_quantity("airflow"), between(0.001, 20, "airflow")]
RateKgM = Annotated[float | None, *_quantity("rate")]
VoltageV = Annotated[float | None, *_quantity("voltage"), between(24, 1000, "voltage")]
CurrentA = Annotated[float | None, *_quantity("current")]
FractionOf1 = Annotated[float | None, *_quantity("fraction")]
DurationS = Annotated[float | None, *_quantity("duration")]
StartUpS = Annotated[float | None, *_quantity("duration"), between(10, 3600, "duration")]
HoldS = Annotated[float | None, *_quantity("duration"), between(60, 1e6, "duration")]
CoilM3 = Annotated[float | None, *_quantity("volume"), between(1e-5, 0.1, "volume")]
AreaM2 = Annotated[float | None, *_quantity("area")]
AmpsA = Annotated[float | None, *_quantity("current"), between(0.1, 400, "current")]
CircuitM = Annotated[float | None, *_quantity("length"), between(0, LONGEST_M, "length")]
Gauge = Annotated[  # "12 AWG" or "2.5 mm²"
    Annotated[str, Field(max_length=20), AfterValidator(gauge)] | None, BeforeValidator(blank)
]
OneOf = Annotated[Said | None, BeforeValidator(blank)]  # of a Literal; a blank says nothing
YesNo = OneOf[Literal["yes", "no"]]


def aware(value: datetime) -> datetime:
    """A moment with its zone; one without is this machine's local time, summer time counted."""
    if not 1970 <= value.year <= 2200:
        raise ValueError("a moment between the years 1970 and 2200 is needed")
    return value if value.tzinfo is not None else value.astimezone()


def _iso_date(value: str) -> str:
    """A day as 2027-05-31, or blank."""
    try:
        return date.fromisoformat(value).isoformat() if value else value
    except ValueError:
        raise ValueError("type a day like 2027-05-31") from None


DateText = Annotated[
    str, BeforeValidator(lambda v: str(v or "").strip()), AfterValidator(_iso_date)
]
Moment = Annotated[datetime, AfterValidator(aware)]
Text = Annotated[str, Field(max_length=200)]
LongText = Annotated[str, Field(max_length=4000)]
Count = Annotated[Annotated[int, Field(ge=0, le=1000)] | None, BeforeValidator(whole)]
Percent = Annotated[Annotated[int, Field(ge=0, le=100)] | None, BeforeValidator(whole)]
Degrees = Annotated[Annotated[int, Field(ge=0, le=90)] | None, BeforeValidator(whole)]


class Record(Entry):
    """A decision or a measurement with its maker and time: appended, never changed.

    ``kind`` tells them apart, ``uid`` each from every other of the job. ``subject`` names the
    parts that the job had when it was made (``core/proofs``), ``practice`` the house practice of
    that day; both are blank where nobody kept them. ``struck`` is what a person strikes out, in a
    few words; blank where it cannot be struck out.
    """

    struck: ClassVar[str] = ""

    kind: str
    uid: Annotated[str, Field(max_length=24, pattern=r"^[A-Za-z0-9-]*$")] = ""
    subject: Annotated[str, Field(max_length=24)] = ""
    practice: Annotated[str, Field(max_length=24)] = ""
    by: Annotated[Text, Field(min_length=1)]
    at: Moment


def quantity_of(model: type[BaseModel], field: str) -> QuantityKind | None:
    """What quantity a field holds, or None where it holds something else."""
    marks = model.model_fields[field].metadata
    return next((mark for mark in marks if isinstance(mark, QuantityKind)), None)


def kind_of(model: type[BaseModel], field: str) -> str | None:
    """The quantity kind of a field (``"length"``), or None where it holds something else."""
    found = quantity_of(model, field)
    return found.name if found else None
