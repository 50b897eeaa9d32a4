"""The tools of this very job: what its walls, tubes, joints and tests ask for, in numbers."""

from collections.abc import Iterator

from fairline.core.call import Frozen
from fairline.core.equipment import Equipment
from fairline.core.mount.drilling import drilling
from fairline.core.mount.stage import MountEntry, known_ceiling, known_wall
from fairline.core.physics.constants import ATMOSPHERE_PA
from fairline.core.physics.tubing import size_label, table
from fairline.core.practice import Rules
from fairline.core.procedures.procedure import HandStep
from fairline.core.quantities import both
from fairline.core.route.joints import JointSpec
from fairline.core.route.piping import Piping
from fairline.core.route.volume import volume
from fairline.core.sheet.part import torque_nm
from fairline.core.survey.stage import SurveyEntry
from fairline.core.survey.unboxing import OUTDOOR

CYLINDER_M3 = 0.008  # water volume of a nitrogen cylinder of 40 ft³; from memory
TESTS = 2  # how often the lines are filled: a leak is mended once; our own choice
PURGES = 5.0  # volumes of the lines that are run through; common practice, no source
ABOVE_M = 0.9144  # a ladder reaches 3 ft above where one steps off: OSHA 1926.1053, from memory


class NitrogenNeeded(Frozen):
    """``free_m3``: nitrogen at the air's pressure; ``cylinder_pa``: what its gauge has to show."""

    free_m3: float
    cylinder_pa: float


def nitrogen_needed(
    volume_m3: float, test_pa: float, cylinder_m3: float = CYLINDER_M3
) -> NitrogenNeeded:
    """Nitrogen for the tests of a volume, and the least gauge pressure of a cylinder before them.

    Constant temperature, ideal gas: each test takes V · p / p₀ of free gas, the purge its volumes.
    The cylinder has to push the last test still, so that p = p_test + free · p₀ / V_cylinder.

    >>> n = nitrogen_needed(0.001, 20e5)
    >>> round(n.free_m3 * 1000), round(n.cylinder_pa / 1e5)
    (44, 26)
    """
    free = TESTS * volume_m3 * test_pa / ATMOSPHERE_PA + PURGES * volume_m3
    return NitrogenNeeded(free_m3=free, cylinder_pa=test_pa + free * ATMOSPHERE_PA / cylinder_m3)


def tools(
    survey: SurveyEntry,
    mount: MountEntry,
    equipment: Equipment,
    pipes: Piping,
    joints: list[JointSpec],
    rules: Rules,
) -> list[HandStep]:
    """Everything that this job's hands need, each in words with its number."""
    found = [
        *_holes(survey, mount, equipment, rules),
        *_tubes(pipes, joints, rules),
        *_gas(pipes, rules),
        *_loads(survey, mount, rules),
        *_missing(survey, equipment),
    ]
    return [HandStep(name=name, words=words) for name, words in found]


Tool = tuple[str, str]


def _holes(
    survey: SurveyEntry, mount: MountEntry, equipment: Equipment, rules: Rules
) -> Iterator[Tool]:
    """Saws and bits by the walls, anchors by a concrete ceiling."""
    for head in survey.now:
        sheet = equipment.head(head.zone)
        if sheet is None:
            continue
        if not sheet.on_wall:
            place = known_ceiling(mount, survey, head.zone)
            if place.kind == "concrete":
                hole = (
                    both(place.anchor_hole_m, "small") if place.anchor_hole_m else "by the anchor"
                )
                yield (
                    f"anchors-{head.zone}",
                    f"Head {head.zone}: four anchors, hooks, rods; bit {hole}",
                )
            continue
        wall = known_wall(mount, survey, head.zone)
        size = rules.of(head.zone).value("hole_size")
        if not size:
            continue
        words = f"Head {head.zone}: hole saw {both(size, 'small')}"
        if wall.thickness_m:
            bored = drilling(wall.thickness_m, rules.of(head.zone).value("hole_fall") or 0.0)
            words += f", bit of at least {both(bored.bit_m, 'small')}"
        if wall.kind == "masonry":
            words += "; for masonry, mask, vacuum"
        yield f"saw-{head.zone}", words
    yield "detector-walls", "Detector for pipes and wires, level"


def _tubes(pipes: Piping, joints: list[JointSpec], rules: Rules) -> Iterator[Tool]:
    """Bender, flaring tool, torque wrench, brazing kit, by the tubes and joints there are."""
    tubes = {mm for s in pipes.stretches for mm in (s.tube.liquid_mm, s.tube.gas_mm) if mm}
    if tubes:
        sizes = ", ".join(size_label(mm) for mm in sorted(tubes))
        yield "bender", f"Cutter, reamer, spring or bender for {sizes}"
    flared = sorted({j.od_mm for j in joints if j.kind == "flare" and j.od_mm})
    if flared:
        sizes = ", ".join(size_label(mm) for mm in flared)
        yield "flaring", f"Flaring tool, gauge, second wrench for {sizes}"
        if (span := _torques(flared, rules)) is not None:
            yield (
                "torque",
                f"Torque wrench from {both(span[0], 'torque')} to {both(span[1], 'torque')}",
            )
    if any(j.kind == "braze" for j in joints):
        yield "brazing", "Torch, rod, wet cloths, shield, extinguisher, swage tool"


def _torques(sizes: list[float], rules: Rules) -> tuple[float, float] | None:
    """The least and the most torque that a joint of this job asks for, N·m."""
    common = {
        row["od_mm"]: (row["low_nm"], row["high_nm"]) for row in table("flare_torque")["rows"]
    }
    sheets = [s for s in (rules.outdoor, rules.box, *rules.heads.values()) if s is not None]
    found = []
    for mm in sizes:
        said = next((t for s in sheets if (t := torque_nm(s.torques, mm)) is not None), None)
        if (own := said or common.get(mm)) is not None:
            found.append(own)
    return (min(low for low, _ in found), max(high for _, high in found)) if found else None


def _gas(pipes: Piping, rules: Rules) -> Iterator[Tool]:
    """Nitrogen by volume and test, pump and gauge, scale and what refrigerant asks."""
    held, pressure = volume(pipes, rules), rules.limit("test_pressure")
    if held is not None and pressure is not None:
        need = nitrogen_needed(held.total_m3, pressure.value)
        yield (
            "nitrogen",
            f"Nitrogen, {need.free_m3 * 1000:.0f} l free: a cylinder of 40 ft³ at "
            f"{both(need.cylinder_pa, 'gauge')} or more; regulator with relief",
        )
    yield (
        "vacuum",
        "Pump, fresh oil, one short wide hose, core tool, micron gauge, port adapter",
    )
    yield "scale", "Scale, cylinder, recovery machine, hex key for the stems"
    yield "leaks", "Bubbles, leak detector, multimeter, clamp meter, thermometers"
    if rules.outdoor is not None and rules.outdoor.refrigerant != "R-410A":
        yield "flammable", f"Tools marked for {rules.outdoor.refrigerant}: it burns"


def _loads(survey: SurveyEntry, mount: MountEntry, rules: Rules) -> Iterator[Tool]:
    """Ladder by the height of the work, lift by the unit's weight, what has to be ordered ahead."""
    if survey.work_height_m:
        reach = survey.work_height_m + ABOVE_M
        yield "ladder", f"Ladder that reaches {both(reach, 'length')}, tie, tool lines"
    unit, limit = rules.outdoor, rules.value("one_person")
    if unit is not None and unit.weight_kg and limit and unit.weight_kg > limit:
        yield "lift", f"Dolly, straps or hoist for {both(unit.weight_kg, 'weight')}"
    if mount.outdoor.support in ("bracket", "stand", "roof"):
        yield "support", f"The {mount.outdoor.support}: ordered ahead, bolts, washers, rubber"


def _missing(survey: SurveyEntry, equipment: Equipment) -> Iterator[Tool]:
    """What a box lacks, once somebody has looked into it."""
    planned = {h.zone: h.sheet for h in equipment.heads}
    lists = {z: s.parts_list() for z, s in planned.items()}
    if equipment.outdoor is not None:
        lists[OUTDOOR] = equipment.outdoor.sheet.parts_list()
    for key, parts in lists.items():
        seen = survey.box(key).parts_seen
        for n, part in enumerate(p for p in parts if seen and p not in seen):
            yield f"lacks-{key}-{n}", f"Not in the box of {key}: {part}"
