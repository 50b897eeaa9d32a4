"""A quantity in its field: the number as it is typed, the unit that stands beside it."""

import re
from dataclasses import dataclass

from fairline.core.quantities import is_bare
from fairline.core.units import KINDS, System

MARKS = {"'": "ft", '"': "in"}
WRITTEN = {unit: mark for mark, unit in MARKS.items()}


@dataclass(frozen=True)
class InField:
    """What a field shows: its text, and the units that it can be typed in, the chosen one first.

    The first of ``units`` that is blank as a value is the one of the person's system.
    """

    text: str
    unit: str
    units: tuple[tuple[str, str], ...]


def in_field(text: object, kind: str, system: System, own: str = "") -> InField:
    """A field's text with its unit apart: ``2.5 m`` is ``2.5`` and ``m``.

    What holds more than one number with one unit (``8' 2 3/8"``) stays whole. ``own``: the unit
    of a bare number, where the instrument at hand has another than the page.

    >>> in_field("2.5 m", "length", "si").text, in_field('4 1/2"', "small", "us").unit
    ('2.5', 'in')
    """
    k, said = KINDS[kind], str(text)
    bare = own or (k.us_label if system == "us" else k.si_label)
    offered = tuple(dict.fromkeys((bare, *k.offered)))
    number, unit = said, bare
    for name in offered:
        head = _without(said, name)
        if head is not None:
            number, unit = head, name
            break
    return InField(number, unit, tuple(("" if u == bare else u, u) for u in offered))


def _without(text: str, unit: str) -> str | None:
    """The bare number before a unit; None where the text is not that."""
    for ending in (unit, WRITTEN.get(unit, "")):
        head = text.strip()
        if ending and head.lower().endswith(ending.lower()):
            head = head[: -len(ending)].strip()
            if is_bare(head):
                return head
    return None


def joined(text: str, unit: str) -> str:
    """A bare number with the unit that was chosen beside it; all else as it was typed.

    >>> joined("4 1/2", "in"), joined("2.5", "m"), joined("8' 2", "ft")
    ('4 1/2"', '2.5 m', "8' 2")
    """
    if not unit or not is_bare(text):
        return text
    mark = WRITTEN.get(unit)
    return f"{text.strip()}{mark}" if mark else f"{text.strip()} {unit}"


# What the keys above a phone's number pad add, by what a kind's text may need.
FEET = "' \" / ␣"
MAY_BE_BELOW_NOUGHT = ("temperature", "needle", "length", "small")  # a fall that rises, a cellar


def keys_for(kind: str, system: System) -> str:
    """The keys that a number pad lacks for a kind: feet, inches and fractions; a minus."""
    feet = system == "us" and KINDS[kind].style != "number"
    minus = kind in MAY_BE_BELOW_NOUGHT
    return " ".join([*([FEET] if feet else []), *(["-"] if minus else [])])


_UNIT_NAME = re.compile(r"_u\.(.+)")


def unit_of(name: str) -> str | None:
    """The field that a unit's own field belongs to: ``_u.legs.0.length_m``."""
    match = _UNIT_NAME.fullmatch(name)
    return match[1] if match else None
