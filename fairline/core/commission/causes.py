"""Likely causes of a weak zone, in the order in which one looks: the check that decides, minutes.

Common practice, no source: ``tables/weak_zone.json``. What is known already is left out.
"""

from fairline.core.call import Frozen, StageCall, Verdict
from fairline.core.commission.records import MODES
from fairline.core.physics.tubing import table


class Cause(Frozen):
    """One cause: what it is, what decides, how many minutes that takes, which mode it concerns."""

    name: str
    words: str
    decides: str
    minutes: float
    stage: str = ""
    modes: tuple[str, ...] = ()


CAUSES: tuple[Cause, ...] = tuple(Cause.model_validate(row) for row in table("weak_zone")["causes"])


def causes_of(call: StageCall, zone: str) -> list[Cause]:
    """What is looked at for a zone that is weak in a mode; nothing where none is.

    ``zone``: blank for the only one. A cause that the job proved otherwise is left out.
    """
    weak = {
        mode
        for mode in MODES
        for c in call.checks
        if (c.part or c.id) == mode and c.zone == zone and c.call.verdict is Verdict.SHORT
    }
    if not weak:
        return []
    called = next((c.call.verdict for c in call.checks if c.id == "called"), None)
    return [
        cause
        for cause in CAUSES
        if (not cause.modes or weak & {*cause.modes})
        and not (cause.name == "crossed" and called is Verdict.HOLDS)
    ]
