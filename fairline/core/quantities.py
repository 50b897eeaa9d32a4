"""Quantities as people type and read them; SI floats inside.

People type ``12' 6"``, ``3.8 m``, ``500 micron`` or ``1.1 oz`` and read both unit systems.
Unit factors come from pint, once per unit; a bare number takes the unit of the person's system.
"""

import math
import re
from functools import cache
from pathlib import Path
from typing import Any

from fairline.core.call import Frozen
from fairline.core.units import KINDS, Kind, System

GROUP = "\u202f"  # narrow no-break space, between groups of three digits


UNITS_FILE = Path(__file__).parent / "tables" / "units.txt"


@cache
def _registry() -> Any:
    import pint

    registry: Any = pint.UnitRegistry(str(UNITS_FILE), cache_folder=None)
    return registry


@cache
def scale(unit: str, si: str) -> tuple[float, float]:
    """Factor and offset that carry ``unit`` to ``si``: SI = factor · x + offset."""
    registry = _registry()
    offset = float(registry.Quantity(0.0, unit).to(si).magnitude)
    one = float(registry.Quantity(1.0, unit).to(si).magnitude)
    return one - offset, offset


def to_si(value: float, unit: str, kind: Kind) -> float:
    factor, offset = scale(unit, kind.si)
    return value * factor + offset


def from_si(value: float, unit: str, kind: Kind) -> float:
    factor, offset = scale(unit, kind.si)
    return (value - offset) / factor


_NUMBER = r"\d+(?:[.,]\d+)?|[.,]\d+"
_MIXED = rf"(?:(\d+)[\s-]+)?(\d+)\s*/\s*(\d+)|({_NUMBER})"
_GLYPHS = {
    "½": " 1/2",
    "¼": " 1/4",
    "¾": " 3/4",
    "⅛": " 1/8",
    "⅜": " 3/8",
    "⅝": " 5/8",
    "⅞": " 7/8",
    "″": '"',
    "′": "'",
    "”": '"',
    "“": '"',
    "’": "'",
    "‘": "'",
    "−": "-",
    "–": "-",
    GROUP: "",
    "\u00a0": " ",
    "\u2009": "",
}
_PART = re.compile(rf"\s*(?:{_MIXED})\s*([^\d\s.,-][^\d.,-]*)?")


def _number(match: re.Match[str]) -> float:
    whole, top, bottom, plain = match.group(1, 2, 3, 4)
    if top:
        if int(bottom) == 0:
            raise ValueError("a fraction cannot have zero below the line")
        return int(whole or 0) + int(top) / int(bottom)
    return float(plain.replace(",", "."))


def parse(text: str, kind: str, system: System = "us") -> float:
    """What a person typed, in SI. Raises ValueError with a sentence that says what to type.

    Takes one number with a unit, a bare number (the unit of ``system``), feet with inches, and
    fractions: ``12' 6 1/2"``, ``3.8 m``, ``3,8 m``, ``-10 F``, ``0.22 oz/ft``, ``1 lb 4 oz``.
    """
    k = KINDS[kind]
    s = text.strip().lower()
    for glyph, plain in _GLYPHS.items():
        s = s.replace(glyph, plain)
    power = r"(?<![a-z])(m|ft|cm|in)([23])(?![\d\"'.,]|\s*in|/\d)"
    s = re.sub(power, lambda m: m[1] + "²³"[int(m[2]) - 2], s.strip())
    label = k.us_label if system == "us" else k.si_label
    example = EXAMPLES.get(kind, f"12 {label}")
    sentence = f"“{text.strip()[:40]}” is not understood; type it like {example}"
    if len(s) > 60:
        raise ValueError(f"too long to be a number; type it like {example}")
    if re.search(r"(?<!\d)[1-9]\d{0,2},\d{3}(?!\d)", s):
        raise ValueError(f"“{text.strip()[:40]}” can be read two ways; leave out the comma")
    sign = -1.0 if s.startswith("-") else 1.0
    s = s.lstrip("+-").strip()
    accepts = dict(k.accepts)
    total, position, parts, last_unit = 0.0, 0, 0, ""
    while position < len(s):
        match = _PART.match(s, position)
        if match is None or match.end() == position:
            raise ValueError(sentence)
        unit = re.sub(r"[\s·*.-]", "", match.group(5) or "")
        if not unit:
            unit_name = (
                "inch" if last_unit == "foot" else k.us_unit if system == "us" else k.si_unit
            )
            if parts and last_unit != "foot":
                raise ValueError(sentence)
        elif unit in accepts:
            unit_name = accepts[unit]
        else:
            known = ", ".join(dict.fromkeys(u for u, _ in k.accepts))
            raise ValueError(f"the unit “{unit[:20]}” is not known here; use one of {known}")
        if parts and (kind == "temperature" or last_unit not in ("foot", "pound", "hour")):
            raise ValueError(sentence)
        total += to_si(sign * _number(match) if parts == 0 else _number(match), unit_name, k) * (
            1.0 if parts == 0 else sign
        )
        position, parts, last_unit = match.end(), parts + 1, unit_name if unit else ""
    if not parts:
        raise ValueError(f"type a number, like {example}")
    if not math.isfinite(total) or not k.minimum <= total <= k.maximum:
        raise ValueError(f"{text.strip()[:40]} is outside anything this job can have")
    return total


EXAMPLES = {
    "length": "12' 6\" or 3.8 m",
    "small": '4 1/2" or 115 mm',
    "tube": '1/4" or 6.35 mm',
    "gauge": "300 psi or 20.7 bar",
    "vacuum": "500 microns or 67 Pa",
    "temperature": "68 F or 20 C",
    "charge": "1.1 oz or 31 g",
    "weight": "75 lb or 34 kg",
    "cylinder": "17.3 lb or 7.842 kg",
    "torque": "12 lbf·ft or 16 N·m",
    "power": "12000 BTU/h or 3.5 kW",
    "airflow": "400 cfm or 680 m3/h",
    "rate": "0.22 oz/ft or 20 g/m",
    "duration": "30 min or 1 h",
    "fraction": "50 %",
    "current": "6.2 A",
    "area": "120 ft2 or 11 m2",
    "volume": "55 in3 or 0.9 l",
}


class Shown(Frozen):
    """A quantity as it is read: number and unit in one system, and the other system in full."""

    number: str
    unit: str
    other: str

    @property
    def text(self) -> str:
        return f"{self.number} {self.unit}".strip()


def grouped(value: float, places: int) -> str:
    """A plain decimal number; groups of three from five digits on; a true minus sign."""
    text = f"{value:.{places}f}"
    if float(text) == 0:
        text = text.lstrip("-")
    head, dot, tail = text.partition(".")
    sign, digits = ("−", head[1:]) if head.startswith("-") else ("", head)
    if len(digits) > 4:
        digits = f"{int(digits):,}".replace(",", GROUP)
    return sign + digits + dot + tail


def fractional_inches(inches: float, parts: int = 8) -> str:
    """Inches to the nearest 1/``parts``: ``4 1/2"``. Never negative."""
    ticks = round(inches * parts)
    whole, rest = divmod(ticks, parts)
    if not rest:
        return f'{whole}"'
    common = math.gcd(rest, parts)
    fraction = f"{rest // common}/{parts // common}"
    return f'{whole} {fraction}"' if whole else f'{fraction}"'


def feet_and_inches(value_m: float) -> str:
    """``12' 6 1/2"``, to the nearest eighth of an inch."""
    ticks = round(abs(value_m) / 0.0254 * 8)
    feet, rest = divmod(ticks, 96)
    sign = "−" if value_m < 0 and ticks else ""
    inches = fractional_inches(rest / 8)
    if not feet:
        return sign + inches
    return f"{sign}{feet}'" if not rest else f"{sign}{feet}' {inches}"


def _one(value: float, k: Kind, system: System) -> tuple[str, str]:
    if system == "us" and k.style == "feet":
        return feet_and_inches(value), ""
    if system == "us" and k.style == "inches":
        sign = "−" if value < 0 else ""
        return sign + fractional_inches(abs(value) / 0.0254, 16 if k.name == "small" else 8), ""
    if system == "us":
        return grouped(from_si(value, k.us_unit, k), k.us_places), k.us_label
    return grouped(from_si(value, k.si_unit, k), k.si_places), k.si_label


def show(value: float, kind: str, system: System = "us") -> Shown:
    """``value`` (SI) as it is read in ``system``, the other system beside it."""
    k = KINDS[kind]
    number, unit = _one(value, k, system)
    other = " ".join(_one(value, k, "si" if system == "us" else "us")).strip()
    return Shown(number=number, unit=unit, other="" if k.us_unit == k.si_unit else other)


def typed(value: float, kind: str, system: System = "us") -> str:
    """``value`` (SI) as it stands in an input field: it parses back to the same reading."""
    return show(value, kind, system).text.replace(GROUP, "").replace("−", "-")


def both(value: float, kind: str) -> str:
    """``value`` in both systems, for sentences: ``12.62 m (41' 5")``. See ``preferring``."""
    shown = show(value, kind, "si")
    text = f"{shown.number}\u00a0{shown.unit.replace(' ', chr(0xA0))}"
    return f"{text} ({shown.other})" if shown.other else text


_BOTH = re.compile(r"((?:[^\s(]|\u202f)+\u00a0[^\s(]+) \(([^()]+)\)")


def preferring(sentence: str, system: System) -> str:
    """A sentence made with ``both``, with one unit system left in it."""
    return _BOTH.sub(lambda m: m[2] if system == "us" else m[1], sentence)


def duration(seconds: float) -> str:
    """A span as people say it: ``45 s``, ``12 min``, ``3 h 20 min``."""
    if seconds < 90:
        return f"{math.ceil(seconds)} s"
    minutes = math.ceil(seconds / 60)
    if minutes < 90:
        return f"{minutes} min"
    hours, rest = divmod(minutes, 60)
    return f"{hours} h {rest} min" if rest else f"{hours} h"
