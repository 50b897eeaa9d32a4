"""The kinds of quantity of the job: their SI unit, what each system shows, what may be typed."""

import math
from typing import Any, Literal

from fairline.core.call import Frozen

System = Literal["us", "si"]


class Kind(Frozen):
    """A kind of quantity: its SI unit, what each system shows, how finely, what may be typed."""

    name: str
    si: str
    us_unit: str
    si_unit: str
    us_label: str
    si_label: str
    us_places: int
    si_places: int
    accepts: tuple[tuple[str, str], ...]
    style: Literal["number", "feet", "inches"] = "number"
    minimum: float = -math.inf
    maximum: float = math.inf
    model_config = {**Frozen.model_config, "allow_inf_nan": True}


LENGTHS = (
    ("m", "meter"),
    ("metre", "meter"),
    ("meter", "meter"),
    ("cm", "centimeter"),
    ("mm", "millimeter"),
    ("ft", "foot"),
    ("foot", "foot"),
    ("feet", "foot"),
    ("'", "foot"),
    ("in", "inch"),
    ("inch", "inch"),
    ("inches", "inch"),
    ('"', "inch"),
)
INHG = "inch_of_mercury"
PRESSURES = (
    ("psi", "psi"),
    ("psig", "psi"),
    ("bar", "bar"),
    ("barg", "bar"),
    ("mpa", "megapascal"),
    ("kpa", "kilopascal"),
    ("pa", "pascal"),
    ("inhg", INHG),
    ("in.hg", INHG),
    ('"hg', INHG),
)
MICRON = "micron_of_mercury"
VACUA = (
    ("micron", MICRON),
    ("microns", MICRON),
    ("µ", MICRON),
    ("μ", MICRON),
    ("u", MICRON),
    ("um", MICRON),
    ("µmhg", MICRON),
    ("pa", "pascal"),
    ("mbar", "millibar"),
    ("hpa", "hectopascal"),
    ("torr", "torr"),
    ("mtorr", MICRON),
    ("mmhg", "torr"),
    ("kpa", "kilopascal"),
    ("inhg", INHG),
    ('"hg', INHG),
)
TEMPERATURES = (
    ("f", "degF"),
    ("°f", "degF"),
    ("degf", "degF"),
    ("c", "degC"),
    ("°c", "degC"),
    ("degc", "degC"),
    ("k", "kelvin"),
)
DURATIONS = (
    *((word, "second") for word in ("s", "sec", "secs", "second", "seconds")),
    *((word, "minute") for word in ("min", "mins", "minute", "minutes")),
    *((word, "hour") for word in ("h", "hr", "hrs", "hour", "hours")),
    *((word, "day") for word in ("d", "day", "days")),
)
FOOT_POUND, INCH_POUND = "foot*force_pound", "inch*force_pound"
TORQUES = (
    ("lbfft", FOOT_POUND),
    ("lbft", FOOT_POUND),
    ("ftlb", FOOT_POUND),
    ("ftlbs", FOOT_POUND),
    ("lbfin", INCH_POUND),
    ("ftlbf", FOOT_POUND),
    ("lbsft", FOOT_POUND),
    ("footpounds", FOOT_POUND),
    ("inlb", INCH_POUND),
    ("inlbs", INCH_POUND),
    ("inlbf", INCH_POUND),
    ("lbin", INCH_POUND),
    ("lbsin", INCH_POUND),
    ("nm", "newton*meter"),
)
MASSES = (
    ("oz", "ounce"),
    ("ounce", "ounce"),
    ("ounces", "ounce"),
    ("lb", "pound"),
    ("lbs", "pound"),
    ("#", "pound"),
    ("g", "gram"),
    ("kg", "kilogram"),
)


def _kind(
    name: str,
    si: str,
    us: tuple[str, str, int],
    metric: tuple[str, str, int],
    accepts: Any,
    **more: Any,
) -> Kind:
    return Kind(
        name=name,
        si=si,
        us_unit=us[0],
        us_label=us[1],
        us_places=us[2],
        si_unit=metric[0],
        si_label=metric[1],
        si_places=metric[2],
        accepts=tuple(accepts),
        **more,
    )


KINDS: dict[str, Kind] = {
    k.name: k
    for k in (
        _kind("length", "meter", ("foot", "ft", 2), ("meter", "m", 2), LENGTHS, style="feet",
              minimum=-1000, maximum=10_000),
        _kind("small", "meter", ("inch", "in", 2), ("millimeter", "mm", 0), LENGTHS,
              style="inches", minimum=-100, maximum=100),
        _kind("gauge", "pascal", ("psi", "psig", 1), ("bar", "bar", 2), PRESSURES,
              minimum=-101325, maximum=2e8),
        _kind("needle", "pascal", (INHG, "inHg", 1), ("megapascal", "MPa", 3), PRESSURES,
              minimum=-101325, maximum=101325),
        _kind("pressure_difference", "pascal", ("psi", "psi", 1), ("bar", "bar", 3), PRESSURES),
        _kind("vacuum", "pascal", (MICRON, "microns", 0), ("pascal", "Pa", 1), VACUA,
              minimum=0, maximum=200_000),
        _kind("temperature", "degC", ("degF", "°F", 1), ("degC", "°C", 1), TEMPERATURES,
              minimum=-273.15, maximum=400),
        _kind("temperature_difference", "kelvin", ("delta_degF", "°F", 1), ("kelvin", "K", 1),
              (("f", "delta_degF"), ("°f", "delta_degF"), ("k", "kelvin"), ("c", "kelvin"),
               ("°c", "kelvin"))),
        _kind("charge", "kilogram", ("ounce", "oz", 1), ("gram", "g", 0), MASSES,
              minimum=-1000, maximum=1000),
        _kind("weight", "kilogram", ("pound", "lb", 1), ("kilogram", "kg", 1), MASSES,
              minimum=0, maximum=10_000),
        _kind("cylinder", "kilogram", ("pound", "lb", 2), ("kilogram", "kg", 3), MASSES,
              minimum=0, maximum=1000),
        _kind("torque", "newton*meter", (FOOT_POUND, "lbf·ft", 1), ("newton*meter", "N·m", 1),
              TORQUES, minimum=0, maximum=1000),
        _kind("power", "watt", ("Btu_it/hour", "BTU/h", 0), ("watt", "W", 0),
              (("btu/h", "Btu_it/hour"), ("btuh", "Btu_it/hour"), ("btu", "Btu_it/hour"),
               ("w", "watt"), ("kw", "kilowatt"), ("watts", "watt"), ("ton", "refrigeration_ton"),
               ("tons", "refrigeration_ton")), minimum=0, maximum=1e6),
        _kind("airflow", "meter**3/second", ("foot**3/minute", "cfm", 0),
              ("meter**3/hour", "m³/h", 0),
              (("cfm", "foot**3/minute"), ("m³/h", "meter**3/hour"),
               ("l/s", "liter/second"), ("m³/s", "meter**3/second"),
               ("m³/min", "meter**3/minute")), minimum=0, maximum=100),
        _kind("rate", "kilogram/meter", ("ounce/foot", "oz/ft", 3), ("gram/meter", "g/m", 1),
              (("oz/ft", "ounce/foot"), ("g/m", "gram/meter"), ("kg/m", "kilogram/meter")),
              minimum=0, maximum=10),
        _kind("tube", "meter", ("inch", "in", 3), ("millimeter", "mm", 2), LENGTHS,
              style="inches", minimum=0, maximum=0.2),
        _kind("duration", "second", ("minute", "min", 0), ("minute", "min", 0),
              DURATIONS,
              minimum=0, maximum=1e7),
        _kind("current", "ampere", ("ampere", "A", 1), ("ampere", "A", 1),
              (("a", "ampere"), ("amp", "ampere"), ("amps", "ampere")), minimum=0, maximum=1000),
        _kind("voltage", "volt", ("volt", "V", 0), ("volt", "V", 0),
              (("v", "volt"), ("vac", "volt"), ("volts", "volt")), minimum=0, maximum=1000),
        _kind("fraction", "dimensionless", ("percent", "%", 0), ("percent", "%", 0),
              (("%", "percent"),), minimum=0, maximum=1),
        _kind("area", "meter**2", ("foot**2", "ft²", 0), ("meter**2", "m²", 1),
              (("ft²", "foot**2"), ("sqft", "foot**2"), ("sf", "foot**2"), ("m²", "meter**2")),
              minimum=0, maximum=100_000),
        _kind("volume", "meter**3", ("inch**3", "in³", 0), ("liter", "l", 2),
              (("in³", "inch**3"), ("l", "liter"), ("cm³", "milliliter"), ("ml", "milliliter")),
              minimum=0, maximum=10),
    )
}  # fmt: skip
