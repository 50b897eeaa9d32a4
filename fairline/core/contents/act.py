"""Acts that say what is in the pipes, whichever stage records them, in the order they were done.

Each stage says of its own records and runs which acts they are (``core/stage.Stage.acts``).
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from fairline.core.entry import Record

Kind = Literal[
    "joint",  # made, tightened, opened or capped; a seam brazed; a nut left loose for the purge
    "look",  # for a leak, with bubbles or a probe
    "machine",  # exchanged, or another one by what was said of an edit
    "nitrogen",  # brought to a pressure
    "bled",
    "ports",  # which ports a run was on
    "pump",
    "decay",
    "seen",  # the valve shut and the pump seen off
    "parted",  # whether ports pulled together were shut off before one was opened
    "sweep",
    "exposure",
    "pump-by-name",
    "weighed",
    "released",
    "shut",
    "pumped-down",
]
ORDER: dict[Kind, int] = {"nitrogen": 1, "pump": 3, "decay": 4}  # of runs among acts of one moment
AFTER: dict[Kind, int] = {"bled": 2, "pump-by-name": 2, "seen": 5, "sweep": 4, "weighed": 6}
AFTER |= {"released": 7, "shut": 8, "pumped-down": 8}


@dataclass(frozen=True)
class Act:
    """One act: ``of`` is the kind of its record or run, ``uid`` its id, ``number`` its place there.

    ``ports``: the circuits that it names; none named: see ``state.where``. ``place`` is a joint's
    id, a run, or a machine; ``sides`` a joint's. ``gauge_pa`` is what the gauge read, in Pa.
    ``said`` are words that change what the act is (``opened``, ``brazed``, ``running``, ``leak``).
    ``why``: the reason of an override. ``run``: the run that the act is about.
    """

    kind: Kind
    of: str
    uid: str
    at: datetime
    by: str = ""
    number: int = 0
    subject: str = ""
    ports: tuple[str, ...] = ()
    place: str = ""
    sides: tuple[str, ...] = ()
    gauge_pa: float | None = None
    said: frozenset[str] = frozenset()
    why: str = ""
    run: str = ""


def act_of(kind: Kind, record: Record, **more: Any) -> Act:
    """A record as an act: its id, moment and maker, and what ``more`` says of it."""
    return Act(
        kind=kind,
        of=record.kind,
        uid=record.uid,
        at=record.at,
        by=record.by,
        subject=record.subject,
        **{"ports": getattr(record, "ports", ()), **more},
    )


def words(**said: object) -> frozenset[str]:
    """The words of an act that are true of it.

    >>> sorted(words(opened=True, brazed=False, by_name=1))
    ['by name', 'opened']
    """
    return frozenset(name.replace("_", " ") for name, true in said.items() if true)


def in_order(acts: Iterable[Act]) -> list[Act]:
    """Acts by the moment they were done, those of one moment by their number.

    Runs are not numbered among the records: of one moment each stands where the order of work has
    it, after the joints and before what comes of it.
    """
    runs: list[Act] = []
    found: list[Act] = []
    for act in acts:
        (runs if act.kind in ORDER else found).append(act)
    found.sort(key=lambda a: (a.at, a.number))
    for run in sorted(runs, key=lambda a: (a.at, ORDER[a.kind], a.number)):
        place = next(
            (n for n, a in enumerate(found) if a.at > run.at),
            len(found),
        )
        while place and found[place - 1].at == run.at and _later(found[place - 1], run):
            place -= 1
        found.insert(place, run)
    return found


def _later(act: Act, run: Act) -> bool:
    """Whether an act of a run's moment comes after the run."""
    return AFTER.get(act.kind, ORDER.get(act.kind, 0)) > ORDER[run.kind]
