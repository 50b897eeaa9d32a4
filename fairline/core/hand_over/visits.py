"""Visits on a standing record: those planned, those that a stage asks for, and which were made."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date

from fairline.core.commission.records import MODE_WORDS
from fairline.core.commission.start_up import CommissionEntry
from fairline.core.entry import Record
from fairline.core.hand_over.records import VISITS, Visit, VisitDone, VisitKind
from fairline.core.mount.stage import MountEntry

GROUND, MODE = "ask-ground", "ask-mode"  # names of visits that a stage asks for


@dataclass(frozen=True)
class Due:
    """A visit. ``id`` names it, ``stages`` are those it goes through again, ``made`` how it went.

    ``asked``: a stage asks for it, nobody planned it by hand.
    """

    id: str
    what: VisitKind
    on: str
    words: str
    stages: tuple[str, ...]
    made: VisitDone | None
    asked: bool = False

    def late(self, today: date) -> bool:
        """Whether its day has come, and nobody has been."""
        return self.made is None and self.on != "" and self.on <= today.isoformat()


def visits(mount: MountEntry, commission: CommissionEntry, records: Sequence[Record]) -> list[Due]:
    """Every visit of a job in the order of its days, those that were made last."""
    made = {r.visit: r for r in records if isinstance(r, VisitDone)}
    found = [*_asked(mount, commission, made), *_planned(records, made)]
    return sorted(found, key=lambda due: (due.made is not None, due.on, due.id))


def _planned(records: Iterable[Record], made: dict[str, VisitDone]) -> Iterable[Due]:
    for r in records:
        if isinstance(r, Visit):
            words = VISITS[r.what] + (f": {r.note}" if r.note else "")
            yield Due(r.uid, r.what, r.on, words, r.stages, made.get(r.uid))


def _asked(
    mount: MountEntry, commission: CommissionEntry, made: dict[str, VisitDone]
) -> Iterable[Due]:
    yard = mount.outdoor
    if yard.ground == "soft" and yard.look_again and yard.looked_again is None:
        words = VISITS["soft-ground"]
        yield Due(GROUND, "soft-ground", yard.look_again, words, ("mount",), made.get(GROUND), True)
    if commission.later_mode:
        mode = MODE_WORDS[commission.later_mode].lower()
        words = f"{VISITS['off-season']}: {mode}"
        who = f", {commission.later_by}" if commission.later_by else ""
        yield Due(
            MODE,
            "off-season",
            commission.later_on,
            words + who,
            ("commission",),
            made.get(MODE),
            True,
        )


def next_due(found: Sequence[Due]) -> Due | None:
    """The visit that is next: the first that nobody has made."""
    return next((due for due in found if due.made is None), None)
