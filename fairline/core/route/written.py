"""What stands on site is written down at the first act on it: outlet, isolation valve, kept port.

Until then the drawing may choose them; from then on no edit elsewhere and no house rule turns them.
"""

from fairline.core.equipment import Equipment
from fairline.core.route.entry import OUTDOOR, RouteEntry
from fairline.core.route.joints import VALVE, JointSpec
from fairline.core.route.piping import kind_of, outlets_of, outlets_taken
from fairline.core.route.stage import RouteStageResult


def written_down(entry: RouteEntry, routed: RouteStageResult, spec: JointSpec) -> RouteEntry:
    """The entry with what a joint that is made shows: on which outlet, with a valve or without."""
    if spec.end != "start" or spec.cap:
        return entry
    if spec.run not in entry.runs:  # the valve on a port that waits for a later head
        ports = entry.ports | {spec.run: "kept"}
        return entry.model_copy(update={"ports": ports})
    run, stretch = entry.run(spec.run), routed.pipes.get(spec.run)
    update: dict[str, str] = {}
    if not run.outlet and stretch is not None and stretch.outlet:
        update["outlet"] = stretch.outlet
    if run.isolation is None and run.fed_from == OUTDOOR and kind_of(spec.run) == "head":
        valve = any(j.run == spec.run and j.sides[1] == VALVE for j in routed.joints)
        update["isolation"] = "yes" if valve else "no"
    if not update:
        return entry
    return entry.model_copy(update={"runs": entry.runs | {spec.run: run.model_copy(update=update)}})


def outlets_as_found(entry: RouteEntry, equipment: Equipment) -> RouteEntry:
    """The entry of a job of before with the outlets that its runs had: in the order they stand in.

    Until then a run without one took the first free one in that order, which an undo could turn.
    """
    outdoor = equipment.outdoor.sheet if equipment.outdoor else None
    taken = outlets_taken(entry, outlets_of(entry, equipment, outdoor), entry.runs)
    runs = {
        end: run.model_copy(update={"outlet": taken.get(end, run.outlet)})
        for end, run in entry.runs.items()
    }
    return entry.model_copy(update={"runs": runs})
