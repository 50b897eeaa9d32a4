"""Field types for what people enter: typed text becomes SI, a blank field becomes None.

Forms, JSON import and the store all validate with the same models. A number is taken as SI;
text is parsed with the unit system given in the validation context (``{"system": "us"}``).
"""

from typing import Annotated, Any, cast

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    ValidationInfo,
    WithJsonSchema,
)

from fairline.core.quantities import parse
from fairline.core.units import KINDS, System


class Entry(BaseModel):
    """What people enter on a stage: unknown fields refused, blanks are None, no NaN."""

    model_config = ConfigDict(
        extra="forbid", allow_inf_nan=False, str_strip_whitespace=True, frozen=True
    )


class QuantityKind:
    """Marks a field with the kind of quantity it holds, for pages that show it."""

    def __init__(self, name: str) -> None:
        self.name = name


def _quantity(kind: str) -> Any:
    k = KINDS[kind]

    def read(value: Any, info: ValidationInfo) -> Any:
        if isinstance(value, str):
            if not value.strip():
                return None
            system = cast(System, (info.context or {}).get("system", "us"))
            return parse(value, kind, system)
        if isinstance(value, bool):
            raise ValueError("a number is needed here")
        return value

    def inside(value: float | None) -> float | None:
        if value is not None and not k.minimum <= value <= k.maximum:
            raise ValueError("outside anything this job can have")
        return value

    schema = {"anyOf": [{"type": "number"}, {"type": "null"}]}
    return (
        BeforeValidator(read),
        AfterValidator(inside),
        QuantityKind(kind),
        WithJsonSchema(schema),
    )


def _positive(value: float | None) -> float | None:
    if value is not None and value < 0:
        raise ValueError("cannot be negative")
    return value


def _blank(value: Any) -> Any:
    return None if isinstance(value, str) and not value.strip() else value


LengthM = Annotated[float | None, *_quantity("length")]
DistanceM = Annotated[float | None, *_quantity("length"), AfterValidator(_positive)]
SmallM = Annotated[float | None, *_quantity("small")]
TubeM = Annotated[float | None, *_quantity("tube")]
GaugePa = Annotated[float | None, *_quantity("gauge")]
PressureDifferencePa = Annotated[
    float | None, *_quantity("pressure_difference"), AfterValidator(_positive)
]
TemperatureDifferenceK = Annotated[
    float | None, *_quantity("temperature_difference"), AfterValidator(_positive)
]
VacuumPa = Annotated[float | None, *_quantity("vacuum")]
TemperatureC = Annotated[float | None, *_quantity("temperature")]
ChargeKg = Annotated[float | None, *_quantity("charge"), AfterValidator(_positive)]
WeightKg = Annotated[float | None, *_quantity("weight")]
TorqueNm = Annotated[float | None, *_quantity("torque")]
PowerW = Annotated[float | None, *_quantity("power")]
AirflowM3S = Annotated[float | None, *_quantity("airflow")]
RateKgM = Annotated[float | None, *_quantity("rate")]
CurrentA = Annotated[float | None, *_quantity("current")]
FractionOf1 = Annotated[float | None, *_quantity("fraction")]
DurationS = Annotated[float | None, *_quantity("duration")]
AreaM2 = Annotated[float | None, *_quantity("area")]

Text = Annotated[str, Field(max_length=200)]
LongText = Annotated[str, Field(max_length=4000)]
Count = Annotated[Annotated[int, Field(ge=0, le=1000)] | None, BeforeValidator(_blank)]
Degrees = Annotated[Annotated[int, Field(ge=0, le=90)] | None, BeforeValidator(_blank)]


def kind_of(model: type[BaseModel], field: str) -> str | None:
    """The quantity kind of a field (``"length"``), or None where it holds something else."""
    info = model.model_fields[field]
    for mark in info.metadata:
        if isinstance(mark, QuantityKind):
            return mark.name
    return None
