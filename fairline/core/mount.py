"""Mount: the head on its wall, the hole through it, the outdoor unit on its place."""

from typing import Annotated, Literal

from pydantic import BeforeValidator

from fairline.core.call import Call, Check, StageCall, Verdict
from fairline.core.check import against, answered, fault, stage_call
from fairline.core.entry import DistanceM, Entry, LongText, SmallM, _blank
from fairline.core.practice import Rules
from fairline.core.quantities import both

HOLE_TOLERANCE_M = 0.0016  # a sixteenth of an inch: nominal saws differ by less


class MountEntry(Entry):
    """Measured on the wall and outdoors. ``hole_fall_m``: inside above outside, positive."""

    head_left_m: SmallM = None
    head_right_m: SmallM = None
    head_ceiling_m: SmallM = None
    head_height_m: DistanceM = None
    plate: Annotated[Literal["level", "slight", "off"] | None, BeforeValidator(_blank)] = None
    hole_m: SmallM = None
    hole_fall_m: SmallM = None
    wall_m: SmallM = None
    hole_clear: Annotated[Literal["yes", "no"] | None, BeforeValidator(_blank)] = None
    drain_low: Annotated[Literal["yes", "no"] | None, BeforeValidator(_blank)] = None
    support: Annotated[Literal["pad", "bracket", "stand"] | None, BeforeValidator(_blank)] = None
    outdoor_behind_m: SmallM = None
    outdoor_left_m: SmallM = None
    outdoor_right_m: SmallM = None
    outdoor_front_m: SmallM = None
    outdoor_level: Annotated[Literal["yes", "no"] | None, BeforeValidator(_blank)] = None
    outdoor_anchored: Annotated[Literal["yes", "no"] | None, BeforeValidator(_blank)] = None
    notes: LongText = ""


CLEARANCES = (
    ("head_left", "head_left_m", "Clear at the head's left", "Move the head to the right."),
    ("head_right", "head_right_m", "Clear at the head's right", "Move the head to the left."),
    ("head_ceiling", "head_ceiling_m", "Clear above the head", "Lower the head."),
)
OUTDOOR = (
    ("outdoor_behind", "outdoor_behind_m", "Clear behind the outdoor unit",
     "Pull the unit off the wall."),
    ("outdoor_left", "outdoor_left_m", "Clear at its left", "Move it to the right."),
    ("outdoor_right", "outdoor_right_m", "Clear at its right, for service",
     "Move it to the left."),
    ("outdoor_front", "outdoor_front_m", "Clear in front", "Turn it or move what stands there."),
)  # fmt: skip


def judge(entry: MountEntry, rules: Rules) -> StageCall:
    """Every clearance against its limit, the plate, the hole, the outdoor unit's stand."""
    checks = [
        against(name, label, getattr(entry, field), rules.limit(name), "small", "min", fix)
        for name, field, label, fix in CLEARANCES
    ]
    checks += [_height(entry, rules), _plate(entry, rules), *_hole(entry, rules)]
    checks += [
        against(name, label, getattr(entry, field), rules.limit(name), "small", "min", fix)
        for name, field, label, fix in OUTDOOR
    ]
    checks += [
        answered(
            "support",
            "Stand of the outdoor unit",
            entry.support,
            ("pad", "bracket", "stand"),
            {},
            "Say what the outdoor unit stands on.",
        ),
        answered(
            "outdoor_level",
            "Outdoor unit level",
            entry.outdoor_level,
            ("yes",),
            {"no": fault("The outdoor unit is not level.", "Shim it level.")},
            "Put a level on the outdoor unit.",
        ),
        answered(
            "anchored",
            "Anchored, rubber under all four feet",
            entry.outdoor_anchored,
            ("yes",),
            {
                "no": fault(
                    "The outdoor unit is not anchored.", "Bolt it down on rubber at all four feet."
                )
            },
            "Anchor the outdoor unit on rubber feet.",
        ),
    ]
    open_ = sum(c.call.verdict is Verdict.WAIT for c in checks)
    return stage_call(
        checks,
        "Head, hole and outdoor unit are inside every limit.",
        summary="" if open_ == len(checks) else f"{len(checks) - open_} of {len(checks)}",
        started=entry != MountEntry(),
    )


def _height(entry: MountEntry, rules: Rules) -> Check:
    """Head height is a window: judged against the end it is nearer to falling out of."""
    label, low, high = "Height above the floor", rules.limit("head_low"), rules.limit("head_high")
    value = entry.head_height_m
    if value is not None and high is not None and value > high.value:
        return against("head_height", label, value, high, "length", "max", "Lower the head.")
    return against(
        "head_height",
        label,
        value,
        low,
        "length",
        "min",
        "Raise the head, or write down why it stays low and keep its front clear.",
    )


def _plate(entry: MountEntry, rules: Rules) -> Check:
    wants = (rules.sheet.head.plate_pitch if rules.sheet else None) or "level"
    words = {"level": "dead level", "slight": "pitched slightly to the drain"}
    off = fault(f"The plate is off; it should be {words[wants]}.", "Set the plate again.")
    other = "slight" if wants == "level" else "level"
    differs = fault(
        f"The plate is {words[other]}; it should be {words[wants]}.",
        "Set the plate again.",
        Verdict.WATCH if wants == "level" else Verdict.SHORT,
    )
    return answered(
        "plate",
        "Mounting plate",
        entry.plate,
        (wants,),
        {"off": off, other: differs},
        f"Set the plate {words[wants]}.",
    )


def _hole(entry: MountEntry, rules: Rules) -> list[Check]:
    size = rules.limit("hole_size")
    if entry.hole_m is not None and size is not None:
        off = entry.hole_m - size.value
        fits = abs(off) <= HOLE_TOLERANCE_M
        text = (
            f"The hole is {both(entry.hole_m, 'small')}, the sheet wants "
            f"{both(size.value, 'small')}."
        )
        call = (
            Call(verdict=Verdict.HOLDS, because=text)
            if fits
            else (
                fault(text, "Enlarge the hole to the sheet's size.")
                if off < 0
                else fault(
                    text,
                    "Sleeve it and seal it well: it is larger than it needs to be.",
                    Verdict.WATCH,
                )
            )
        )
        hole = Check(
            id="hole_size",
            label="Hole",
            call=call,
            value=entry.hole_m,
            unit="m",
            bound="min",
            limit=size,
        )
    else:
        hole = against("hole_size", "Hole", entry.hole_m, size, "small", "min", "")
    fall = against(
        "hole_fall",
        "Fall of the hole to the outside",
        entry.hole_fall_m,
        rules.limit("hole_fall"),
        "small",
        "min",
        "Drill it again with the outside lower: water runs back indoors.",
    )
    clear = answered(
        "hole_clear",
        "Hole clear of studs, pipes and wires",
        entry.hole_clear,
        ("yes",),
        {
            "no": fault(
                "The hole meets a stud, a pipe or a wire.",
                "Stop. Move the hole: do not drill there.",
                Verdict.STOP,
            )
        },
        "Find studs and services before the drill goes in.",
    )
    drain = answered(
        "drain",
        "Drain at the bottom of the bundle",
        entry.drain_low,
        ("yes",),
        {
            "no": fault(
                "The drain is not at the bottom of the bundle.",
                "Turn the bundle: drain below, tubes in the middle, cable on top.",
            )
        },
        "Look at the bundle where it leaves the head.",
    )
    return [hole, fall, clear, drain]


def weight_caution(rules: Rules) -> str | None:
    """Who lifts the outdoor unit, from its weight on the sheet."""
    weight = rules.sheet.outdoor.weight_kg if rules.sheet else None
    return None if weight is None else f"The outdoor unit weighs {both(weight, 'weight')}."
