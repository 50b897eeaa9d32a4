"""What holds a head under a ceiling: rods by their length, anchors by the load on each."""

from fairline.core.calc.fastener_load import (
    FastenerLoadRequest,
    FastenerLoadResult,
    fastener_load,
)
from fairline.core.call import Answer, Call, Check, Verdict
from fairline.core.mount.ceiling import CeilingPlace
from fairline.core.mount.fasteners import fastener_check
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.sheet import Head

HANGERS = 4
SLAB_SHARE = 2 / 3  # of the slab, that an anchor's hole may take; our own choice
NUT_M = 0.03  # of a rod, for two nuts and a washer at the hook; our own choice


def rod_m(place: CeilingPlace, head: Head) -> float | None:
    """The length of the rods, m: from the slab to the head's hooks, with what the nuts take.

    None while the void is not measured, or where the head does not fit into it.

    The hooks are at the head's own height above the ceiling, where no sheet says otherwise.
    """
    if place.kind != "concrete" or not place.void_m or not head.height_m:
        return None
    down = place.void_m - head.height_m
    return max(down, 0.0) + NUT_M if down > -1e-9 else None


def anchors(place: CeilingPlace, head: Head, rules: Rules) -> Answer[FastenerLoadResult] | None:
    """What each of the four anchors in the concrete carries; None without a weight or rating.

    A rod pulls straight down: the weight of head and water, with what the lines weigh, in equal
    parts, against the rating over the margin.
    """
    if place.kind != "concrete" or not head.weight_kg or not place.anchor_rated_kg:
        return None
    return fastener_load(
        FastenerLoadRequest(
            weight_kg=max(head.weight_kg, 0.01),
            carried_kg=rules.value("lines_weight") or 0.0,
            fasteners=HANGERS,
            rated_kg=max(place.anchor_rated_kg, 0.01),
            margin=rules.value("anchor_factor") or 4.0,
        )
    )


def fixing_checks(zone: str, place: CeilingPlace, head: Head, rules: Rules) -> list[Check]:
    """The anchors of a head under concrete: their load, and that each hole is deep enough."""
    if place.kind != "concrete":
        return []
    return [_load(zone, place, head, rules), *_depth(zone, place)]


def _load(zone: str, place: CeilingPlace, head: Head, rules: Rules) -> Check:
    id, label = f"{zone}_anchors", "Anchors in the concrete"
    answer = anchors(place, head, rules)
    if answer is None:
        missing = "weight of the head" if not head.weight_kg else "rating of one anchor"
        call = Call(
            verdict=Verdict.UNKNOWN if not head.weight_kg else Verdict.WAIT,
            because=f"The {missing} is not known.",
            do_next=f"Enter the {missing}: in its sheet, or on the anchors' box.",
        )
        return Check(id=id, label=label, call=call)
    return fastener_check(id, label, answer, rules, "anchor")


def _depth(zone: str, place: CeilingPlace) -> list[Check]:
    """A slab that an anchor would go through, or a hole that is drilled too shallow."""
    hole, slab = place.anchor_depth_m, place.slab_m
    if not hole or not slab:
        return []
    id, label = f"{zone}_slab", "Anchor in the slab"
    text = f"A hole {both(hole, 'small')} deep in a slab of {both(slab, 'small')}"
    if hole > SLAB_SHARE * slab:
        call = Call(
            verdict=Verdict.SHORT,
            because=f"{text}: more than two thirds of it, and it breaks out above.",
            do_next="Take shorter anchors, more of them.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{text}.")
    return [Check(id=id, label=label, call=call)]
