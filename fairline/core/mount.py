"""Mount: each head on its wall or in its ceiling, the outdoor unit in its yard."""

from pydantic import field_validator

from fairline.core import ceiling, wall_checks, yard_checks
from fairline.core.call import Call, Check, StageCall, Step, Verdict
from fairline.core.ceiling import CeilingPlace
from fairline.core.check import stage_call
from fairline.core.entry import Entry, LongText
from fairline.core.equipment import Equipment
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.survey import SurveyEntry
from fairline.core.wall import WallPlace
from fairline.core.yard import YardPlace


class MountEntry(Entry):
    """Walls and ceilings by zone, and the yard."""

    walls: dict[str, WallPlace] = {}
    ceilings: dict[str, CeilingPlace] = {}
    outdoor: YardPlace = YardPlace()
    notes: LongText = ""

    @field_validator("walls", "ceilings")
    @classmethod
    def _zones(cls, value: dict[str, Entry]) -> dict[str, Entry]:
        for key in value:
            if not (len(key) == 1 and "A" <= key <= "Z"):
                raise ValueError(f"no zone is called {key[:40]}")
        return value

    def wall(self, zone: str) -> WallPlace:
        return self.walls.get(zone, WallPlace())

    def ceiling(self, zone: str) -> CeilingPlace:
        return self.ceilings.get(zone, CeilingPlace())


def judge(
    entry: MountEntry, survey: SurveyEntry, equipment: Equipment, rules: Rules
) -> StageCall:  # fmt: skip
    """Every place against the limits that govern it: the heads of now, then the outdoor unit."""
    checks: list[Check] = []
    working: list[Step] = []
    for head in survey.now:
        found, steps = judge_zone(head.zone, entry, equipment, rules)
        checks += found if len(survey.now) == 1 else [_of_zone(c, head.zone) for c in found]
        working += [s.model_copy(update={"step": f"{head.zone}: {s.step}"}) for s in steps]
    if not survey.now:
        wait = Call(
            verdict=Verdict.WAIT,
            because="No head is wanted yet.",
            do_next="Enter rooms and heads in Survey first.",
        )
        checks.append(Check(id="survey", label="Heads", call=wait))
    if rules.outdoor is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="No outdoor unit is chosen.",
            do_next="Choose the outdoor unit in Survey.",
        )
        checks.append(Check(id="survey", label="Outdoor unit", call=call))
    else:
        found, steps = yard_checks.judge(entry.outdoor, survey, rules.outdoor, rules)
        checks += found
        working += steps
    open_ = sum(c.call.verdict is Verdict.WAIT for c in checks)
    started = entry != MountEntry()
    return stage_call(
        checks,
        "Heads, holes and outdoor unit are inside every limit.",
        summary=f"{len(checks) - open_} of {len(checks)}" if started else "",
        started=started,
        working=working,
    )


def _of_zone(check: Check, zone: str) -> Check:
    """A check of one of several heads, with the zone before what it says."""
    call = check.call.model_copy(update={"because": f"{zone}: {check.call.because}"})
    return check.model_copy(update={"call": call})


def judge_zone(
    zone: str, entry: MountEntry, equipment: Equipment, rules: Rules
) -> tuple[list[Check], list[Step]]:
    """One head where it hangs; unknown while no sheet says what it is."""
    head = equipment.head(zone)
    if head is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"No head is chosen for zone {zone}.",
            do_next=f"Choose the head of zone {zone} in Survey.",
        )
        return [Check(id="survey", label=f"Head {zone}", call=call)], []
    own = rules.model_copy(update={"head": head})
    if head.on_wall:
        place = entry.wall(zone)
        return wall_checks.judge(zone, place, head, own)
    return ceiling.judge(zone, entry.ceiling(zone), head, own)


def weight_caution(rules: Rules) -> str | None:
    """Who lifts the outdoor unit, from its weight on the sheet."""
    weight = rules.outdoor.weight_kg if rules.outdoor else None
    return None if weight is None else f"The outdoor unit weighs {both(weight, 'weight')}."
