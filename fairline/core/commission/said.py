"""What is known of a running system: measured, seen and promised, as far as it still stands."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TypeVar

from fairline.core.commission.lamp_codes import CodeSeen
from fairline.core.commission.records import Mode, Running, WaterTest, WholeSystem
from fairline.core.commission.start_up import CommissionEntry, items_of, special_modes
from fairline.core.mount.stage import MountEntry
from fairline.core.physics.constants import ATMOSPHERE_PA
from fairline.core.practice import Rules
from fairline.core.proofs import Difference
from fairline.core.survey.stage import SurveyEntry

OfZone = TypeVar("OfZone", Running, WaterTest)


def cassettes(rules: Rules) -> bool:
    """Whether a head of the job hangs in a ceiling, with a panel below it."""
    return any(head.form == "cassette" for head in rules.heads.values())


def looked_at(rules: Rules, promised: Sequence[str]) -> Mapping[str, str]:
    """What is looked at once on this job, in words."""
    return items_of(cassettes(rules), special_modes(rules), promised)


def promised(survey: SurveyEntry, mount: MountEntry) -> tuple[str, ...]:
    """What Survey and Mount agreed of each head, which is looked at once it runs."""
    found = []
    for head in survey.now:
        told = [head.agreed] if head.agreed else []
        if mount.wall(head.zone).low_reason:
            told.append("vanes split left and right, its front kept free")
        found += [f"{head.zone}: {words}" for words in told]
    return tuple(found)


def of_zone(records: Sequence[OfZone], zone: str, only: bool) -> tuple[OfZone, ...]:
    """The records of one zone; the only one there is takes those that name none."""
    return tuple(r for r in records if r.zone == zone or (only and not r.zone))


def latest(records: Sequence[Running], mode: Mode) -> Running | None:
    """The newest measurement in a mode; of those that were only seen, where nothing was measured
    since the last of both airs."""
    own = [r for r in records if r.mode == mode]
    whole = [r for r in own if r.both_airs]
    return whole[-1] if whole else own[-1] if own else None


@dataclass(frozen=True)
class Said:
    """What is known of a system that runs, as far as it still stands."""

    entry: CommissionEntry = field(default_factory=CommissionEntry)
    records: tuple[Running, ...] = ()
    water: tuple[WaterTest, ...] = ()
    whole: tuple[WholeSystem, ...] = ()
    codes: tuple[CodeSeen, ...] = ()
    promised: tuple[str, ...] = ()
    older: Mapping[str, list[Difference]] = field(default_factory=dict)
    pressure_pa: float = ATMOSPHERE_PA
