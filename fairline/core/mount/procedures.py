"""The lists of steps that Mount asks: hole, head, ceiling, outdoor unit, each by its kind."""

from collections.abc import Iterator

from fairline.core.equipment import Equipment
from fairline.core.mount.ceiling import CeilingPlace
from fairline.core.mount.ceiling_fixing import rod_m
from fairline.core.mount.drilling import drilling
from fairline.core.mount.wall import WallPlace
from fairline.core.mount.yard import YARD, YardPlace
from fairline.core.parts import OUTDOOR
from fairline.core.practice import Rules
from fairline.core.procedures.procedure import Asked, At, Figure, asked
from fairline.core.sheet import Head
from fairline.core.survey.stage import SurveyEntry

PAIR_KG = 15.0  # a head that one person does not hold and feed alone; our own choice
HOLES = ("hole-frame", "hole-open", "hole-masonry-in", "hole-masonry-out")


def of_wall(
    zone: str,
    place: WallPlace,
    head: Head,
    equipment: Equipment,
    survey: SurveyEntry,
    rules: Rules,
) -> Iterator[Asked]:
    """The hole and the head of a zone that hangs on a wall."""
    at = At(zone, equipment.machine(zone), f"walls.{zone}")
    school = rules.school("masonry_hole").name
    wall = place.kind or (survey.wall if survey.wall != "mixed" else "") or ""
    facts = {"wall": wall, "masonry_hole": school, "form": head.form}
    facts["low"] = "yes" if place.low_reason else ""
    facts["pair"] = "yes" if (head.weight_kg or 0.0) > PAIR_KG else ""
    for name in HOLES:
        yield from asked(name, facts, at, _hole(place, rules, name))
    yield from asked("hang", facts, at)


def _hole(place: WallPlace, rules: Rules, name: str) -> dict[str, Figure]:
    fall = max(rules.value("hole_fall") or 0.0, place.hole_fall_m or 0.0)
    if not place.thickness_m or not fall:
        return {}
    found = drilling(place.thickness_m, fall, both_sides=name == "hole-masonry-out")
    figures: dict[str, Figure] = {
        "tilt": (found.tilt_deg, "degrees"),
        "bit": (found.bit_m, "small"),
    }
    if name in ("hole-masonry-in", "hole-masonry-out"):
        figures["saw"] = (found.saw_m, "small")
    return figures


def of_ceiling(zone: str, place: CeilingPlace, head: Head, equipment: Equipment) -> Iterator[Asked]:
    """A head that hangs in a ceiling: what holds it, then the head."""
    at = At(zone, equipment.machine(zone), f"ceilings.{zone}")
    facts = {"form": head.form, "ceiling": place.kind or ""}
    figures: dict[str, Figure] = {}
    for name, value in (
        ("rod", rod_m(place, head)),
        ("hole", place.anchor_hole_m),
        ("deep", place.anchor_depth_m),
    ):
        if value:
            figures[name] = (value, "small")
    if head.weight_kg:
        figures["weight"] = (head.weight_kg, "weight")
    yield from asked("hang-concrete", facts, at, figures)
    yield from asked("hang-ceiling", facts, at, figures)


def of_yard(place: YardPlace, survey: SurveyEntry, equipment: Equipment) -> Iterator[Asked]:
    """The outdoor unit as it is set on its support."""
    facts = {
        "support": place.support or "",
        "travels": survey.travels or "",
        "frost": survey.frost or "",
        "snow": "yes" if survey.snow_m else "",
    }
    at = At(OUTDOOR, equipment.machine(OUTDOOR), YARD)
    yield from asked("set-outdoor", facts, at)
