"""A head taken out of the job: what was planned for it goes with it, and its letter stays free.

Records stay: a joint that was made was made. So that no later head inherits them, a letter that
anything of the job still names is not given out again.
"""

import re
from collections.abc import Collection, Iterable

from fairline.core.equipment import LETTERS
from fairline.core.job import Job
from fairline.core.mount.stage import MountEntry
from fairline.core.route.edit import ways_kept
from fairline.core.route.entry import RouteEntry
from fairline.core.survey.stage import SurveyEntry
from fairline.core.wire.entry import WireEntry

NAMING = (
    "place",
    "joint",
    "zone",
    "run",
    "cable",
    "block",
    "unit",
)  # fields of a record that begin with a head's letter
ONE_LETTER = re.compile(r"[A-Z](\.|$)")


def route_without(route: RouteEntry, gone: Collection[str]) -> RouteEntry:
    """The piping without some heads: their runs and drains.

    A drain that joined one of theirs ends nowhere; a run that kept to one of their paths keeps
    its way.
    """
    runs = {e: r for e, r in route.runs.items() if e not in gone}
    drains = {
        zone: d.model_copy(update={"ends": None, "joins": ""})
        if d.ends == "joins" and d.joins in gone
        else d
        for zone, d in route.drains.items()
        if zone not in gone
    }
    return ways_kept(route, route.model_copy(update={"runs": runs, "drains": drains}))


def mount_without(mount: MountEntry, gone: Collection[str]) -> MountEntry:
    """The places without those of some heads."""
    return mount.model_copy(
        update={
            "walls": {z: w for z, w in mount.walls.items() if z not in gone},
            "ceilings": {z: c for z, c in mount.ceilings.items() if z not in gone},
        }
    )


def wire_without(wire: WireEntry, gone: Collection[str]) -> WireEntry:
    """The wiring without the circuits, cables and addresses of some heads."""
    parts = {
        name: {z: v for z, v in getattr(wire, name).items() if z not in gone}
        for name in ("supplies", "cables", "addresses")
    }
    controller = None if wire.controller in gone else wire.controller
    return wire.model_copy(update={**parts, "controller": controller})


def boxes_without(survey: SurveyEntry, gone: Collection[str]) -> SurveyEntry:
    """The survey without the boxes of heads that it does not want any more."""
    boxes = {z: b for z, b in survey.boxes.items() if z not in gone}
    return survey.model_copy(update={"boxes": boxes})


def letters_named(job: Job) -> set[str]:
    """Every letter that something of the job names."""
    found = {h.zone for h in job.survey.heads} | {e for e in job.route.runs if len(e) == 1}
    found |= {*job.route.drains, *job.mount.walls, *job.mount.ceilings}
    wired = {*job.wire.supplies, *job.wire.cables, *job.wire.addresses}
    found |= {name for name in wired if len(name) == 1}
    for record in job.records:
        for name in NAMING:
            said = getattr(record, name, "")
            if isinstance(said, str) and ONE_LETTER.match(said):
                found.add(said[0])
    return found


def next_letter(named: Iterable[str]) -> str | None:
    """The letter after the last one that is named; else the first that is free; None for none."""
    known = {z for z in named if z in LETTERS}
    last = max((LETTERS.index(z) for z in known), default=-1)
    if last + 1 < len(LETTERS):
        return LETTERS[last + 1]
    return next((z for z in LETTERS if z not in known), None)
