"""Plans that no job has: not refused, since a house can be odd, but asked about.

The ranges are wide on purpose; our own choice, no source.
"""

from collections.abc import Iterator

from fairline.core.call import Call, Check, Verdict
from fairline.core.quantities import both
from fairline.core.route.entry import RouteEntry
from fairline.core.route.piping import Piping

LEAST_RADIUS_ODS = 2.0  # of the tube: a bend tighter than that kinks; common practice, no source

# Of all runs: the field, what it is called, its kind of quantity, the least and the most of it.
WHOLE = (
    ("end_allowance_m", "Tail at each end", "length", 0.0, 5.0),
    ("cable_tail_m", "Cable tail at each end", "length", 0.0, 10.0),
    ("valve_height_m", "Valves above the ground", "length", -3.0, 100.0),
    ("wall_m", "Wall's thickness", "small", 0.02, 1.5),
)
# Of one run: longer than that is told by the sheet's own limit, if there is one.
LONGEST_LEG_M = 100.0
LONGEST_COIL_M = 30.0
BUILT_OVER_PLAN = 3.0  # how many times the plan a built length may be, and the plan it


def checks(entry: RouteEntry, pipes: Piping) -> list[Check]:
    """One check for each figure that can hardly be."""
    found = [*_whole(entry), *_radius(entry, pipes), *_runs(entry, pipes)]
    return [
        Check(
            id=f"asked_{name}",
            label=label,
            call=Call(
                verdict=Verdict.WATCH,
                because=f"{label}: {said}. Is that so?",
                do_next="Look at it again, and type it anew if it is not.",
            ),
        )
        for name, label, said in found
    ]


def _whole(entry: RouteEntry) -> Iterator[tuple[str, str, str]]:
    for field, label, kind, least, most in WHOLE:
        value = getattr(entry, field)
        if value is not None and not least <= value <= most:
            yield field, label, both(value, kind)


def _radius(entry: RouteEntry, pipes: Piping) -> Iterator[tuple[str, str, str]]:
    radius = entry.bend_radius_m
    thickest = max((s.tube.gas_mm or 0.0 for s in pipes.stretches), default=0.0) / 1000
    if radius and not LEAST_RADIUS_ODS * thickest <= radius <= 1.0:
        yield "bend_radius_m", "Bend radius", both(radius, "small")


def _runs(entry: RouteEntry, pipes: Piping) -> Iterator[tuple[str, str, str]]:
    for stretch in pipes.stretches:
        run, name = entry.run(stretch.id), f"Run {stretch.id}"
        longest = max((leg.length_m or 0.0 for leg in run.legs), default=0.0)
        if longest > LONGEST_LEG_M:
            yield f"leg_{stretch.id}", f"{name}, one leg", both(longest, "length")
        if run.coil_m is not None and run.coil_m > LONGEST_COIL_M:
            yield f"coil_{stretch.id}", f"{name}, coil", both(run.coil_m, "length")
        built, planned = stretch.built_m, stretch.planned_m
        if built and planned and not 1 / BUILT_OVER_PLAN <= built / planned <= BUILT_OVER_PLAN:
            said = f"{both(built, 'length')} built, {both(planned, 'length')} planned"
            yield f"built_{stretch.id}", name, said
