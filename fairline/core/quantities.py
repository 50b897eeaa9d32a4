"""Quantities as people type and read them; SI floats inside.

People type ``12' 6"``, ``3.8 m``, ``500 micron`` or ``1.1 oz`` and read both unit systems.
Unit factors come from pint, once per unit; a bare number takes the unit of the person's system.
"""

import math
import re
from functools import cache
from json import loads
from pathlib import Path
from typing import Any, cast

from fairline.core.call import Frozen
from fairline.core.physics.constants import ATMOSPHERE_PA, INCH_M
from fairline.core.units import KINDS, Kind, System, example_of

GROUP = "\u202f"  # narrow no-break space, between groups of three digits


FACTORS_FILE = Path(__file__).parent / "tables" / "unit_factors.json"
UNITS_FILE = Path(__file__).parent / "tables" / "units.txt"


@cache
def _registry() -> Any:
    import pint

    registry: Any = pint.UnitRegistry(str(UNITS_FILE), cache_folder=None)
    return registry


@cache
def _factors() -> dict[str, dict[str, tuple[float, float]]]:
    found: dict[str, dict[str, tuple[float, float]]] = loads(FACTORS_FILE.read_text("utf-8"))
    return found


@cache
def scale(unit: str, si: str) -> tuple[float, float]:
    """Factor and offset that carry ``unit`` to ``si``: SI = factor · x + offset.

    From the committed table (``tools/unit_factors``), else by pint.

    >>> factor, offset = scale("degF", "degC")
    >>> round(factor * 212 + offset, 6)
    100.0
    """
    known = _factors().get(si, {}).get(unit)
    return (known[0], known[1]) if known else by_pint(unit, si)


def by_pint(unit: str, si: str) -> tuple[float, float]:
    """As ``scale``, by pint with our short list of units."""
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
    "×": "x",
    GROUP: "",
    "\u00a0": " ",
    "\u2009": " ",
}
_PART = re.compile(rf"\s*(?:{_MIXED})\s*([^\d\s.,-][^\d.,-]*)?")
# Words that people put beside a number and that change nothing of it.
_SAID = re.compile(
    r"\b(?:about|approx|ca|roughly|up|down|high|tall|wide|deep|long|left|right|above|below|each)\b\.?"
)
_GROUPED = re.compile(r"(?<![\d.,/])\d{1,3}(?: \d{3})+(?![\d/])")
_COMMA = re.compile(r"(?<![\d.,])([1-9]\d{0,2})((?:,\d{3})+)(?!\d)(.*)")
_THOUSANDS = ("power", "vacuum", "airflow")  # kinds whose numbers often run to thousands
_NEVER_THOUSANDS = (  # kinds of which no number of this job runs to a thousand
    *("tube", "temperature", "temperature_difference", "pressure_difference", "torque", "rate"),
    *("current", "fraction", "volume"),
)
LEAST_SMALL_M = 0.0005  # below it a size is a slip of the unit: it prints as nought
_TWO_PARTS = ("foot", "pound", "hour")  # units that a second, smaller part may follow


def _number(match: re.Match[str]) -> float:
    whole, top, bottom, plain = match.group(1, 2, 3, 4)
    if top:
        if int(bottom) == 0:
            raise ValueError("a fraction cannot have zero below the line")
        return int(whole or 0) + int(top) / int(bottom)
    return float(plain.replace(",", "."))


def _commas(s: str, text: str, kind: str, system: System) -> str:
    """Commas between groups of three digits taken out, or left as the decimal mark they are."""
    found = _COMMA.search(s)
    if found is None:
        return s
    several = found[2].count(",") > 1
    thousands = kind in _THOUSANDS and system == "us" and not found[3].strip().startswith("k")
    if several or thousands:
        return s[: found.start()] + found[1] + found[2].replace(",", "") + found[3]
    if kind in _NEVER_THOUSANDS or (system == "si" and kind not in _THOUSANDS):
        return s
    grouped = s[: found.start()] + found[1] + found[2].replace(",", "") + found[3]
    if _usual(grouped, kind, system) and not _usual(s, kind, system):
        return grouped
    raise ValueError(f"“{text.strip()[:40]}” can be read two ways; leave out the comma")


USUAL: dict[str, tuple[float, float]] = {  # what a job has, in SI; our own choice, wide
    "area": (2.0, 2000.0),
    "power": (300.0, 200_000.0),
    "length": (0.2, 150.0),
    "weight": (2.0, 400.0),
    "vacuum": (5.0, 110_000.0),
    "voltage": (20.0, 1000.0),
}


def _usual(s: str, kind: str, system: System) -> bool:
    """Whether a spelling reads as something that a job has; False where that is not known."""
    k = KINDS[kind]
    low, high = USUAL.get(kind, (math.inf, -math.inf))
    parts = _parts(s.lstrip("+-").strip(), k, k.us_unit if system == "us" else k.si_unit)
    return bool(parts) and low <= sum(to_si(v, u, k) for v, u in parts or ()) <= high


def _plain(text: str, kind: str, system: System) -> str:
    """What was typed, in the one spelling that is read: glyphs, groups, powers, said words."""
    s = text.strip().lower()
    for glyph, plain in _GLYPHS.items():
        s = s.replace(glyph, plain)
    power = r"(?<![a-z])(m|ft|cm|in)([23])(?![\d\"'.,]|\s*in|/\d)"
    s = re.sub(power, lambda m: m[1] + "²³"[int(m[2]) - 2], s)
    s = re.sub(r"(?<=[a-z])-(?=[a-z])", "", s)  # ft-lb, N-m
    s = _SAID.sub(" ", s).strip().strip("~≈ ")
    s = _GROUPED.sub(lambda m: m[0].replace(" ", ""), s)
    s = _commas(s, text, kind, system)
    if kind == "power":
        s = re.sub(
            rf"({_NUMBER})\s*k(?=\s*(?:$|btu))",
            lambda m: f"{float(m[1].replace(',', '.')) * 1000:g}",
            s,
        )
    if kind == "temperature":
        s = re.sub(r"(?<=[\d\s])(?:degrees?|deg|°)\s*$", "", s).strip()
    if kind == "voltage":  # 208/230 V: the lower of the two, which draws the more current
        s = re.sub(r"^(\d{2,3})\s*/\s*(\d{2,3})", lambda m: min(m[1], m[2], key=int), s)
    return s


def _area(s: str, system: System) -> float | None:
    """Two sides, ``16x20`` or ``4 m by 5 m``, in m²; None where it is not two sides."""
    sides = re.split(r"\s*(?:x|\bby\b)\s*", s)
    if len(sides) != 2 or not all(sides):
        return None
    unit = re.search(r"[a-z'\"]+$", sides[1])
    first = sides[0] + (unit[0] if unit and not re.search(r"[a-z'\"]$", sides[0]) else "")
    return parse(first, "length", system) * parse(sides[1], "length", system)


def parse(
    text: str, kind: str, system: System = "us", plausible: tuple[float, float] | None = None
) -> float:
    """What a person typed, in SI. Raises ValueError with a sentence that says what to type.

    Takes one number with a unit, a bare number (the unit of ``system``), feet with inches, and
    fractions: ``12' 6 1/2"``, ``3.8 m``, ``3,8 m``, ``-10 F``, ``0.22 oz/ft``, ``1 lb 4 oz``,
    ``1h 30``. ``plausible`` is what the field can hold: a bare number that lies outside it takes
    the unit that brings it in (see ``assumed``).

    >>> round(parse("12 ft-lb", "torque"), 2), parse("18 000", "vacuum", "si")
    (16.27, 18000.0)
    """
    k = KINDS[kind]
    if k.style == "yes_no":
        return _yes_or_no(text)
    s = _plain(text, kind, system)
    if len(s) > 60:
        raise ValueError(f"too long to be a number; type it like {example_of(k, system)}")
    if kind == "area" and (sides := _area(s, system)) is not None:
        return _inside(sides, k, text)
    bare = k.us_unit if system == "us" else k.si_unit
    if plausible is not None:
        bare = assumed(text, kind, system, plausible) or bare
        if kind == "power" and (match := _BARE.fullmatch(s)):
            value = to_si(_number(match), bare, k)
            if 0 < value < plausible[0]:
                said = f"“{text.strip()[:40]}” is too little for a room or a machine"
                raise ValueError(f"{said}; type its unit, like {example_of(k, system)}")
    sign = -1.0 if s.startswith("-") else 1.0
    parts = _parts(s.lstrip("+-").strip(), k, bare)
    if parts is None:
        told = f"“{text.strip()[:40]}” is not understood; type it like {example_of(k, system)}"
        raise ValueError(told)
    if not parts:
        raise ValueError(f"type a number, like {example_of(k, system)}")
    # The sign stands before the whole: the first number carries it, for a scale with an offset.
    (first, unit), rest = parts[0], parts[1:]
    total = to_si(sign * first, unit, k) + sum(sign * to_si(v, u, k) for v, u in rest)
    if kind == "small" and 0 < abs(total) < LEAST_SMALL_M:
        raise ValueError(
            f"“{text.strip()[:40]}” would be {total * 1000:.2g} mm: type its unit with it, "
            f"like {example_of(k, system)}"
        )
    return _inside(_by_needle(total, parts[-1][1], kind), k, text)


def _yes_or_no(text: str) -> float:
    said = text.strip().lower()
    if said not in ("yes", "no"):
        raise ValueError("type yes or no")
    return float(said == "yes")


FOLLOWS = {"foot": "inch", "hour": "minute"}  # the unit of a bare number after one in the first


def _parts(s: str, k: Kind, bare: str) -> list[tuple[float, str]] | None:
    """The numbers of a text with their units; None where it is not understood.

    Raises ValueError for a unit that is not known.
    """
    found: list[tuple[float, str]] = []
    accepts, position, last = dict(k.accepts), 0, ""
    while position < len(s):
        match = _PART.match(s, position)
        if match is None or match.end() == position:
            return None
        unit = re.sub(r"[\s·*.-]", "", match.group(5) or "")
        if found and (k.name == "temperature" or last not in _TWO_PARTS):
            return None
        if not unit and found and last not in FOLLOWS:
            return None
        if unit and unit not in accepts:
            known = ", ".join(dict.fromkeys(u for u, _ in k.accepts))
            raise ValueError(f"the unit “{unit[:20]}” is not known here; use one of {known}")
        name = accepts[unit] if unit else FOLLOWS.get(last, bare)
        found.append((_number(match), name))
        position, last = match.end(), name if unit else ""
    return found


def _by_needle(total: float, unit: str, kind: str) -> float:
    """A vacuum in inches of mercury is read down from the atmosphere, as a needle shows it."""
    if kind == "vacuum" and unit == "inch_of_mercury":
        if total > 0:
            raise ValueError("a needle reads a vacuum below nought: type it like −30 inHg")
        return max(0.0, ATMOSPHERE_PA + total)
    if kind in ("gauge", "needle") and unit == "inch_of_mercury":
        return max(total, -ATMOSPHERE_PA)  # −30 on the face is the whole of it, −29.9
    return total


def _inside(value: float, k: Kind, text: str) -> float:
    if not math.isfinite(value) or not k.minimum <= value <= k.maximum:
        raise ValueError(f"{text.strip()[:40]} is outside anything this job can have")
    return value


_BARE = re.compile(rf"\s*(?:{_MIXED})\s*")
ASSUMED = {"us": ("inch", "foot"), "si": ("millimeter", "centimeter", "meter")}
POWERS = {"us": ("Btu_it/hour",), "si": ("watt", "kilowatt")}


def is_bare(text: str) -> bool:
    """Whether a text is one number without a unit: ``2.5``, ``-3``, ``4 1/2``."""
    s = text.strip()
    for glyph, plain in _GLYPHS.items():
        s = s.replace(glyph, plain)
    return _BARE.fullmatch(s.strip().lstrip("+-")) is not None


def assumed(text: str, kind: str, system: System, plausible: tuple[float, float]) -> str | None:
    """The unit a bare number takes where the field's own would make it absurd; else None.

    A wall's height typed ``8`` is feet, not inches; ``4.2`` is metres, not millimetres.
    """
    k = KINDS[kind]
    s = _plain(text, kind, system)
    match = _BARE.fullmatch(s)
    if match is None:
        return None
    value = _number(match)
    own = k.us_unit if system == "us" else k.si_unit
    low, high = plausible
    if low <= to_si(value, own, k) <= high:
        return None
    units = (POWERS if kind == "power" else ASSUMED)[system]
    return next((u for u in units if low <= to_si(value, u, k) <= high), None)


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
    ticks = round(abs(value_m) / INCH_M * 8)
    feet, rest = divmod(ticks, 96)
    sign = "−" if value_m < 0 and ticks else ""
    inches = fractional_inches(rest / 8)
    if not feet:
        return sign + inches
    return f"{sign}{feet}'" if not rest else f"{sign}{feet}' {inches}"


KNOWN_DIGITS = 3  # of what is worked out from several readings; our own choice


def rounded(value: float, digits: int) -> float:
    """A number to so many significant digits.

    >>> rounded(10801.3, 3), rounded(0.04567, 2), rounded(0.0, 3)
    (10800.0, 0.046, 0.0)
    """
    if value == 0 or not math.isfinite(value):
        return value
    return float(round(value, digits - 1 - math.floor(math.log10(abs(value)))))


def _one(value: float, k: Kind, system: System, worked_out: bool = False) -> tuple[str, str]:
    if k.style == "yes_no":
        return ("yes" if value >= 0.5 else "no"), ""
    if system == "us" and k.style == "feet":
        return feet_and_inches(value), ""
    if system == "us" and k.style == "inches":
        sign = "−" if value < 0 else ""
        return sign + fractional_inches(abs(value) / INCH_M, 16 if k.name == "small" else 8), ""
    us = system == "us"
    read = from_si(value, k.us_unit if us else k.si_unit, k)
    number = grouped(
        rounded(read, KNOWN_DIGITS) if worked_out else read, k.us_places if us else k.si_places
    )
    return number, k.us_label if us else k.si_label


def show(value: float, kind: str, system: System = "us", worked_out: bool = False) -> Shown:
    """``value`` (SI) as it is read in ``system``, the other system beside it.

    ``worked_out`` from several readings: with no more digits than are known of it.

    >>> show(3166.0, "power", worked_out=True).text
    '10\u202f800 BTU/h'
    """
    k = KINDS[kind]
    number, unit = _one(value, k, system, worked_out)
    other = " ".join(_one(value, k, "si" if system == "us" else "us", worked_out)).strip()
    return Shown(number=number, unit=unit, other="" if k.us_unit == k.si_unit else other)


def typed(value: float, kind: str, system: System = "us") -> str:
    """``value`` (SI) as it stands in an input field: it parses back to the same reading."""
    return show(value, kind, system).text.replace(GROUP, "").replace("−", "-")


def both(value: float, kind: str, worked_out: bool = False) -> str:
    """``value`` in both systems, for sentences: ``12.62 m (41' 5")``. See ``preferring``.

    ``worked_out`` from several readings: with no more digits than are known of it.
    """
    shown = show(value, kind, "si", worked_out)
    text = f"{shown.number}\u00a0{shown.unit.replace(' ', chr(0xA0))}".rstrip()
    return f"{text} ({shown.other})" if shown.other else text


_BOTH = re.compile(r"((?:[^\s(]|\u202f)+\u00a0[^\s(]+) \(([^()]+)\)")


def preferring(sentence: str, system: System) -> str:
    """A sentence made with ``both``, with one unit system left in it."""
    return _BOTH.sub(lambda m: m[2] if system == "us" else m[1], sentence)


def same_print(a: float, b: float, kind: str) -> bool:
    """Whether two values differ by no more than the page can show, in either system.

    What the page prints as inside is inside: a limit of 42 N·m is met by 31.0 lbf·ft.
    """
    return abs(a - b) <= _half_print(kind) * (1 + 1e-6)


@cache
def _half_print(kind: str) -> float:
    """Half of the coarser of the two steps in which a kind is printed, in SI."""
    k = KINDS[kind]
    if k.name == "tube":
        return 1e-4
    us = 10.0**-k.us_places * scale(k.us_unit, k.si)[0]
    if k.style != "number":
        us = INCH_M / (16 if k.name == "small" else 8)
    return max(us, 10.0**-k.si_places * scale(k.si_unit, k.si)[0]) / 2


def typed_alike(value: float, limit: float, kind: str) -> bool:
    """Whether a value was typed as a limit is printed: 13.3 lbf·ft beside one of 18.0 N·m.

    >>> typed_alike(13.3 * 1.3558179, 18.0, "torque"), typed_alike(18.02, 18.0, "torque")
    (True, False)
    """
    k = KINDS[kind]
    for system, unit, places in (("us", k.us_unit, k.us_places), ("si", k.si_unit, k.si_places)):
        steps = from_si(value, unit, k) * 10**places
        whole = abs(steps - round(steps)) < 1e-4
        if whole and _one(value, k, cast(System, system)) == _one(limit, k, cast(System, system)):
            return True
    return False


def exact(value: float, kind: str) -> str:
    """As ``both``, with two digits more: where a value prints as its limit and is beyond it."""
    k = KINDS[kind]
    si, us = from_si(value, k.si_unit, k), from_si(value, k.us_unit, k)
    return (
        f"{grouped(si, k.si_places + 2)}\u00a0{k.si_label} "
        f"({grouped(us, k.us_places + 2)} {k.us_label})"
    )


def above(value: float, limit: float, kind: str) -> bool:
    """Over a limit, and not only by less than the page shows."""
    return value > limit and not same_print(value, limit, kind)


def below(value: float, limit: float, kind: str) -> bool:
    """Under a limit, and not only by less than the page shows."""
    return value < limit and not same_print(value, limit, kind)


def duration(seconds: float) -> str:
    """A span as people say it: ``45 s``, ``12 min``, ``3 h 20 min``."""
    if seconds < 90:
        return f"{math.ceil(seconds)} s"
    minutes = math.ceil(seconds / 60)
    if minutes < 90:
        return f"{minutes} min"
    hours, rest = divmod(minutes, 60)
    return f"{hours} h {rest} min" if rest else f"{hours} h"
