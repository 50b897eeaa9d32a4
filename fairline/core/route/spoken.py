"""A run as it is said on the ladder: "up 9 ft, left 4 ft 6, through wall, down 7"."""

import re

from fairline.core.errors import FairLineError
from fairline.core.quantities import parse
from fairline.core.route.entry import Direction, Leg, Setting
from fairline.core.units import System

WAYS: dict[str, Direction] = {
    "up": "up",
    "rise": "up",
    "down": "down",
    "drop": "down",
    "left": "left",
    "right": "right",
    "in": "in",
    "through": "in",
    "out": "out",
    "back": "out",
}
PLACES: dict[str, Setting] = {
    "outside": "outside",
    "attic": "attic",
    "crawl space": "attic",
    "room": "room",
    "roof": "roof",
    "wall": "wall",
}
_SPLIT = re.compile(r"\s*(?:[;\n]|,(?!\d)|\bthen\b)\s*")


class SpokenError(FairLineError, ValueError):
    """What of the sentence is not understood, and what to say instead."""


def spoken_legs(text: str, system: System, wall_m: float | None = None) -> tuple[Leg, ...]:
    """The legs of a sentence, in order. Lengths in either system; a bare number in ``system``.

    "through wall" takes ``wall_m`` (the wall's thickness) where no length is said. Raises
    SpokenError naming the part that is not understood.
    """
    parts = [p for p in _SPLIT.split(text.strip()) if p]
    if not parts:
        raise SpokenError("say the legs in order, like: up 9 ft, left 4 ft 6, through wall, down 7")
    if len(parts) > 60:
        raise SpokenError("more than 60 legs are no run")
    return tuple(_leg(part, system, wall_m) for part in parts)


def _leg(part: str, system: System, wall_m: float | None) -> Leg:
    words = part.lower().strip(" .")
    setting: Setting | None = None
    if found := re.search(
        r"\b(?:in|on|along|through) (?:the )?(" + "|".join(PLACES) + r")\b", words
    ):
        through = words[: found.end()].strip() in (found.group(0), "through")
        if not (through and found.group(1) == "wall"):
            setting = PLACES[found.group(1)]
            words = (words[: found.start()] + words[found.end() :]).strip()
    way, _, rest = words.partition(" ")
    if way not in WAYS:
        raise SpokenError(
            f"“{part[:40]}”: begin with up, down, left, right, in, out or through wall"
        )
    rest = re.sub(r"^(?:the )?wall\b", "", rest.strip()).strip()
    if not rest:
        if WAYS[way] == "in" and wall_m:
            return Leg(direction="in", length_m=wall_m, setting=setting)
        lacks = "how thick is the wall" if WAYS[way] == "in" else "how far"
        raise SpokenError(f"“{part[:40]}”: say {lacks}, like: {way} 9 ft")
    try:
        length_m = parse(rest, "length", system)
        return Leg(direction=WAYS[way], length_m=length_m, setting=setting)
    except ValueError as error:
        reason = str(error).splitlines()[0] if isinstance(error, SpokenError) else ""
        raise SpokenError(
            f"“{part[:40]}”: {reason or 'the length is not understood, type it like 4 ft 6'}"
        ) from None
