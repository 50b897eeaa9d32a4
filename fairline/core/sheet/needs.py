"""What the stages cannot do without on a sheet, and why: the short form of each kind.

All else may stay blank until a stage asks for it: then local code, house practice and common
practice stand in, or the call is unknown. The choice is our own.
"""

import csv
from collections.abc import Callable
from fnmatch import fnmatch
from importlib.resources import files
from typing import Literal

from fairline.core.call import Check, Frozen, Place, StageCall, Verdict
from fairline.core.equipment import Equipment
from fairline.core.sheet import Sheet


class Need(Frozen):
    """A field that a stage cannot do without, of one kind of sheet.

    ``asked``: ``first``, in the short form, or ``there``, by the stage. ``only``: the systems, or
    the forms of a head, that have it at all; blank for every one. ``checks``: the checks of the
    stage that rest on it, by patterns of their ids.
    """

    kind: str
    field: str
    stage: str
    asked: Literal["first", "there"]
    only: str = ""
    checks: str = ""
    why: str

    def has(self, sheet: Sheet) -> bool:
        """Whether a sheet is one that has this field."""
        which = getattr(sheet, "system", "") or getattr(sheet, "form", "")
        return not self.only or which in self.only.split()

    def feeds(self, check: Check) -> bool:
        """Whether a check rests on this field."""
        return any(fnmatch(check.id, pattern) for pattern in self.checks.split())


class Silent(Frozen):
    """A sheet of a job that does not say what a stage cannot do without.

    ``at`` is ``outdoor``, or the letter or run that the sheet is planned for.
    """

    at: str
    name: str
    kind: str
    needs: tuple[Need, ...]


def _needs() -> tuple[Need, ...]:
    text = (files("fairline.core") / "tables" / "sheet_needs.csv").read_text("utf-8")
    return tuple(Need.model_validate(row) for row in csv.DictReader(text.splitlines()))


NEEDS = _needs()


def needs_of(kind: str) -> dict[str, Need]:
    """The short form of a kind: its fields in order.

    >>> list(needs_of("kit"))[:3]
    ['maker', 'model', 'length_m']
    """
    return {n.field: n for n in NEEDS if n.kind == kind and n.asked == "first"}


def planned(equipment: Equipment) -> dict[str, Sheet]:
    """Every sheet that a job is planned with, by the place it is planned for."""
    found: dict[str, Sheet] = {}
    if equipment.outdoor is not None:
        found["outdoor"] = equipment.outdoor.sheet
    found |= {h.zone: h.sheet for h in equipment.heads}
    return found | {f"{f.kind}.{f.at}": f.sheet for f in equipment.fittings}


def silent(equipment: Equipment, stage: str) -> list[Silent]:
    """The sheets of a job that do not say what a stage cannot do without; each model once."""
    found, told = [], set()
    for at, sheet in planned(equipment).items():
        blank = tuple(
            n
            for n in NEEDS
            if n.kind == getattr(sheet, "kind", "")
            and n.stage == stage
            and n.has(sheet)
            and getattr(sheet, n.field) in (None, (), "")
        )
        if blank and sheet.name not in told:
            found.append(Silent(at=at, name=sheet.name, kind=blank[0].kind, needs=blank))
            told.add(sheet.name)
    return found


def with_sheets(call: StageCall, stage: str, equipment: Callable[[], Equipment]) -> StageCall:
    """A stage's call whose checks, where a sheet is silent, are mended on that sheet."""
    asked = _resting_on_sheets(call, stage)
    if not asked:
        return call
    sheets = planned(equipment())
    places: dict[str, Place] = {}
    for one in silent(equipment(), stage):
        fed = [c for c in asked if any(n.feeds(c) for n in one.needs)]
        own = [c for c in fed if not c.zone or one.at not in sheets or _is_of(c, one, sheets)]
        places |= {c.id: Place(stage=stage, id=f"sheet-{one.at}") for c in own}
    mended = [
        c.model_copy(update={"mend": places[c.id]}) if c.id in places else c for c in call.checks
    ]
    return call.model_copy(update={"checks": tuple(mended)})


def _resting_on_sheets(call: StageCall, stage: str) -> list[Check]:
    """The checks of a stage that are unknown and rest on a field of a sheet."""
    needs = [n for n in NEEDS if n.stage == stage and n.checks]
    unknown = [c for c in call.checks if c.call.verdict is Verdict.UNKNOWN]
    return [c for c in unknown if any(n.feeds(c) for n in needs)]


def _is_of(check: Check, one: Silent, sheets: dict[str, Sheet]) -> bool:
    """Whether the head that a check is of is planned by a sheet."""
    own = sheets.get(check.zone)
    return one.kind != "head" or (own is not None and own.name == one.name)
