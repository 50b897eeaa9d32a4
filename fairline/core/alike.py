"""What a place of a job takes over from another of its kind: what is planned, never what is seen.

A wall, a ceiling, a drain or a circuit that is like another one is typed once. Where it lies, what
was measured on it and what was looked at is its own.
"""

from collections.abc import Mapping
from typing import TypeVar

from fairline.core.entry import Entry
from fairline.core.parts import OUTDOOR

ALIKE: dict[str, tuple[str, ...]] = {
    "walls": (
        *("ceiling_m", "kind", "thickness_m", "stud_spacing_m", "stud_width_m"),
        *("anchor_rated_kg", "y_m", "outlet", "hole_m"),
    ),
    "ceilings": (
        *("ceiling_m", "void_m", "kind", "joists_along", "stud_spacing_m", "stud_width_m"),
        *("fixing", "rails", "hatch_m", "pump_lift_m", "pump_run_m"),
    ),
    "drains": ("ends", "bore_m"),
    "supplies": (
        *("circuit", "poles", "gauge", "metal", "breaker_a", "insulation_90", "way", "exposures"),
        *("conduit", "inside", "disconnect", "disconnect_a", "fuse_a"),
        *("who", "who_name", "licence", "comes"),
    ),
}

AnyEntry = TypeVar("AnyEntry", bound=Entry)


def _lacks(own: Entry, other: Entry, names: tuple[str, ...]) -> dict[str, object]:
    """What another place says and one leaves blank, by field."""
    blank = {name: field.default for name, field in type(own).model_fields.items()}
    return {
        name: getattr(other, name)
        for name in names
        if getattr(own, name) == blank[name] != getattr(other, name)
    }


def like(entry: AnyEntry, places: str, name: str, other: str) -> AnyEntry:
    """An entry whose place ``name`` of ``places`` has its blank fields as ``other`` has them."""
    all_places: Mapping[str, Entry] = getattr(entry, places)
    if other not in all_places:
        return entry
    own = all_places.get(name) or type(all_places[other])()
    filled = own.model_copy(update=_lacks(own, all_places[other], ALIKE[places]))
    return entry.model_copy(update={places: {**all_places, name: filled}})


def model_for(entry: Entry, places: str, name: str) -> str:
    """The first other place that says what this one leaves blank; blank where there is none."""
    all_places: Mapping[str, Entry] = getattr(entry, places)
    others = [other for other in sorted(all_places) if other not in (name, OUTDOOR)]
    if not others or name == OUTDOOR:
        return ""
    own = all_places.get(name) or type(all_places[others[0]])()
    return next((o for o in others if _lacks(own, all_places[o], ALIKE[places])), "")
