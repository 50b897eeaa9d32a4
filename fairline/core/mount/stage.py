"""Mount: each head on its wall or in its ceiling, the outdoor unit in its yard."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from pydantic import field_validator

from fairline.core.call import Call, Check, StageCall, Step, Verdict
from fairline.core.check import stage_call
from fairline.core.entry import Entry, LongText
from fairline.core.equipment import Equipment
from fairline.core.mount import ceiling, wall_checks, yard_checks
from fairline.core.mount.ceiling import CeilingPlace
from fairline.core.mount.ceiling_fixing import fixing_checks
from fairline.core.mount.placed import Placed
from fairline.core.mount.procedures import of_ceiling, of_wall, of_yard
from fairline.core.mount.setting_out import Card, ceiling_card, wall_card, yard_card
from fairline.core.mount.wall import WallPlace
from fairline.core.mount.yard import YARD, YardPlace, rail
from fairline.core.parts import OUTDOOR
from fairline.core.practice import Rules
from fairline.core.procedures.procedure import Asked
from fairline.core.procedures.progress import steps_known
from fairline.core.procedures.records import ProcedureSteps, done_steps
from fairline.core.quantities import both
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.stage import SurveyEntry

InRoom = TypeVar("InRoom", WallPlace, CeilingPlace)


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


def known_wall(entry: MountEntry, survey: SurveyEntry, zone: str) -> WallPlace:
    """A wall with what the survey knows of its room: the ceiling, where it is not said here."""
    return _with_ceiling(entry.wall(zone), survey, zone)


def known_ceiling(entry: MountEntry, survey: SurveyEntry, zone: str) -> CeilingPlace:
    """A ceiling with its height from the survey, where it is not said here."""
    return _with_ceiling(entry.ceiling(zone), survey, zone)


def _with_ceiling(place: InRoom, survey: SurveyEntry, zone: str) -> InRoom:
    room = survey.room_of(zone)
    if place.ceiling_m is not None or room is None or not room.ceiling_m:
        return place
    return place.model_copy(update={"ceiling_m": room.ceiling_m})


AnyPlaced = Placed[Any, Any]


@dataclass(frozen=True, eq=False)
class MountStageResult(StageResult):
    """Every place worked out, by its part (``walls.A``, ``outdoor``), and the setting-out cards."""

    places: dict[str, AnyPlaced]
    cards: tuple[Card, ...]


def work(context: StageContext) -> MountStageResult:
    entry, survey, rules = context.entry(MountEntry), context.entry(SurveyEntry), context.rules
    equipment = context.equipment
    steps = context.records(ProcedureSteps)
    listed = context.asks_lists and not steps_known(context.rules_begun)
    places = places_of(
        entry,
        survey,
        equipment,
        lambda place: context.rules_since(equipment.machine(place)),
        lambda zone: done_steps(steps, zone, equipment.machine(zone)) if listed else None,
    )
    return MountStageResult(
        call=judged(entry, survey, rules, places),
        places={p.part: p for p in places},
        cards=tuple(cards(entry, equipment, rules, places)),
    )


def judge(entry: MountEntry, survey: SurveyEntry, equipment: Equipment, rules: Rules) -> StageCall:
    """Every place against the limits that govern it: the heads of now, then the outdoor unit."""
    return judged(entry, survey, rules, places_of(entry, survey, equipment, lambda _: rules))


def places_of(
    entry: MountEntry,
    survey: SurveyEntry,
    equipment: Equipment,
    rules_of: Callable[[str], Rules],
    ticked: Callable[[str], frozenset[str] | None] = lambda _: None,
) -> list[AnyPlaced]:
    """The places of the heads of now, then the outdoor unit's; its own where it is chosen.

    ``rules_of``: what governs the head of a zone, or the outdoor unit, where it hangs. ``ticked``:
    the steps of a head's lists that were done, None where no list is asked.
    """
    zones = [head.zone for head in survey.now]
    found = [
        _of_head(zone, entry, survey, equipment, rules_of(zone), ticked(zone)) for zone in zones
    ]
    rules = rules_of(OUTDOOR)
    if rules.outdoor is not None:
        found.append(yard_checks.placed(entry.outdoor, survey, rules.outdoor, rules))
    return found


def _of_head(
    zone: str,
    entry: MountEntry,
    survey: SurveyEntry,
    equipment: Equipment,
    rules: Rules,
    ticked: frozenset[str] | None,
) -> AnyPlaced:
    """One head where it hangs; unknown while no sheet says what it is."""
    head = equipment.head(zone)
    if head is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"No head is chosen for zone {zone}.",
            do_next=f"Choose the head of zone {zone} in Survey.",
        )
        check = Check(id="survey", label=f"Head {zone}", call=call)
        return Placed(part=f"walls.{zone}", zone=zone, asked=None, answer=None, checks=(check,))
    own = rules.model_copy(update={"head": head})
    if head.on_wall:
        return wall_checks.placed(zone, known_wall(entry, survey, zone), head, own, ticked)
    place = known_ceiling(entry, survey, zone)
    found = ceiling.placed(zone, place, head, own)
    return replace(found, checks=(*found.checks, *fixing_checks(zone, place, head, own)))


def judged(
    entry: MountEntry, survey: SurveyEntry, rules: Rules, places: list[AnyPlaced]
) -> StageCall:
    """The call of all places together."""
    several = len(survey.now) > 1
    checks = [_of_place(c, p, several) for p in places for c in p.checks]
    working = [_step(s, p.zone) for p in places for s in p.steps]
    if not survey.now:
        wait = Call(
            verdict=Verdict.WAIT,
            because="No head is wanted yet.",
            do_next="Enter rooms and heads in Survey first.",
        )
        checks.insert(0, Check(id="survey", label="Heads", call=wait))
    if rules.outdoor is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="No outdoor unit is chosen.",
            do_next="Choose the outdoor unit in Survey.",
        )
        checks.append(Check(id="survey", label="Outdoor unit", call=call, part=YARD))
    open_ = sum(c.call.verdict is Verdict.WAIT for c in checks)
    started = entry != MountEntry()
    return stage_call(
        checks,
        "Heads, holes and outdoor unit are inside every limit.",
        summary=f"{len(checks) - open_} of {len(checks)}" if started else "",
        started=started,
        working=working,
    )


def _step(step: Step, zone: str) -> Step:
    """A step with its zone before it; a length on a wall or in a yard is a small one."""
    named = f"{zone}: {step.step}" if zone else step.step
    kind = "small" if step.unit == "m" else step.kind
    return step.model_copy(update={"step": named, "kind": kind})


def _of_place(check: Check, place: AnyPlaced, several: bool) -> Check:
    """A check with the place it belongs to; of several heads with the zone before what it says."""
    change: dict[str, Any] = {"zone": place.zone, "part": place.part}
    if several and place.zone:
        told = f"{place.zone}: {check.call.because}"
        change["call"] = check.call.model_copy(update={"because": told})
    return check.model_copy(update=change)


def cards(
    entry: MountEntry, equipment: Equipment, rules: Rules, places: list[AnyPlaced]
) -> Iterator[Card]:
    """The setting-out card of every place that has one."""
    for place in places:
        head = equipment.head(place.zone)
        if place.part == YARD and rules.outdoor is not None:
            unit, yard = rules.outdoor, entry.outdoor
            if (card := yard_card(yard, unit, rail(yard, unit))) is not None:
                yield card
        elif head is not None and place.asked is not None and place.answer is not None:
            if head.on_wall:
                yield wall_card(
                    place.zone, entry.wall(place.zone), head, place.asked, place.answer.result
                )
            else:
                yield ceiling_card(place.zone, place.asked, head)


def weight_caution(rules: Rules) -> str | None:
    """Who lifts the outdoor unit, from its weight on the sheet."""
    weight = rules.outdoor.weight_kg if rules.outdoor else None
    return None if weight is None else f"The outdoor unit weighs {both(weight, 'weight')}."


def procedures(context: StageContext, worked: MountStageResult) -> Iterator[Asked]:
    """The lists of every place: its hole, its head, the outdoor unit."""
    entry, survey = context.entry(MountEntry), context.entry(SurveyEntry)
    for place in worked.places.values():
        head = context.equipment.head(place.zone)
        rules = context.rules.of(place.zone)
        if place.part == YARD:
            yield from of_yard(entry.outdoor, survey, context.equipment)
        elif head is not None and head.on_wall:
            wall = known_wall(entry, survey, place.zone)
            yield from of_wall(place.zone, wall, head, context.equipment, survey, rules)
        elif head is not None:
            ceiling_ = known_ceiling(entry, survey, place.zone)
            yield from of_ceiling(place.zone, ceiling_, head, context.equipment)


STAGE = Stage(name="mount", title="Mount", entry=MountEntry, work=work, procedures=procedures)
