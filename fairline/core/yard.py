"""The outdoor unit before its wall: what is entered, and its judgement."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from fairline.core.calc.bracket_rail import BracketRailRequest, BracketRailResult, bracket_rail
from fairline.core.calc.fastener_load import FastenerLoadRequest, fastener_load
from fairline.core.calc.head_position import moved
from fairline.core.calc.lift_plan import LiftPlanRequest, LiftPlanResult, lift_plan
from fairline.core.calc.outdoor_position import (
    OutdoorBody,
    OutdoorClear,
    OutdoorPositionRequest,
    OutdoorPositionResult,
    Way,
    YardThing,
    outdoor_position,
)
from fairline.core.call import Answer, Call, Check, Step, Verdict
from fairline.core.check import against, answered, fault
from fairline.core.entry import Count, Entry, LongText, SmallM, WeightKg, blank
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.sheet import Outdoor
from fairline.core.stud import SpacingM, stud_centres
from fairline.core.survey import SurveyEntry

SLACK_M = 0.001
TALL_M = 2.5  # how high a thing is taken to reach where nobody says

YardKind = Literal[
    "wall", "fence", "shrub", "meter", "sash", "dryer-vent", "gas-vent", "bedroom-window",
    "property-line", "eave",
]  # fmt: skip
WAYS: dict[str, Way] = {
    "wall": "solid",
    "fence": "solid",
    "shrub": "solid",
    "meter": "solid",
    "eave": "solid",
    "sash": "sash",
    "dryer-vent": "vent",
    "gas-vent": "vent",
    "bedroom-window": "bedroom",
    "property-line": "boundary",
}
YesNo = Annotated[Literal["yes", "no"] | None, BeforeValidator(blank)]


class InYard(Entry):
    """Something near the unit: along the wall, off the wall, and between which heights."""

    kind: YardKind = "wall"
    x_m: SmallM = None
    y_m: SmallM = None
    width_m: SmallM = None
    depth_m: SmallM = None
    bottom_m: SmallM = None
    top_m: SmallM = None

    @property
    def whole(self) -> bool:
        return self.x_m is not None and bool(
            (self.width_m or 0) > 0 and (self.depth_m or 0) > 0
        )  # fmt: skip


class YardPlace(Entry):
    """The yard along one wall; ``x_m`` the unit's left side, ``y_m`` the gap behind it."""

    wall_m: SmallM = None
    yard_m: SmallM = None
    things: Annotated[tuple[InYard, ...], Field(max_length=60)] = ()
    x_m: SmallM = None
    y_m: SmallM = None
    base_m: SmallM = None
    support: Annotated[Literal["pad", "bracket", "stand"] | None, BeforeValidator(blank)] = None
    bedroom_wall: YesNo = None
    rail_m: SmallM = None
    rail_left_m: SmallM = None
    stud_first_m: SmallM = None
    stud_spacing_m: SpacingM = None
    blocked: YesNo = None
    fasteners: Count = None
    fastener_rated_kg: WeightKg = None
    arm_m: SmallM = None
    people: Count = None
    aid: Annotated[Literal["none", "dolly", "hoist"] | None, BeforeValidator(blank)] = None
    frost_drain: Annotated[
        Literal["open", "hose", "plugged"] | None, BeforeValidator(blank)
    ] = None  # fmt: skip
    level: YesNo = None
    anchored: YesNo = None
    notes: LongText = ""

    def stud_list(self) -> list[float]:
        return stud_centres((), self.stud_first_m, self.stud_spacing_m, self.wall_m)


def request(
    place: YardPlace, unit: Outdoor, rules: Rules, slack_m: float = 0.0
) -> OutdoorPositionRequest | None:
    if not (unit.width_m and unit.depth_m and unit.height_m and place.wall_m and place.yard_m):
        return None
    if place.x_m is None or place.y_m is None:
        return None

    def least(name: str) -> float:
        return (rules.value(name) or 0.0) + slack_m

    return OutdoorPositionRequest(
        wall_m=place.wall_m,
        yard_m=place.yard_m,
        unit=OutdoorBody(
            width_m=unit.width_m,
            depth_m=unit.depth_m,
            height_m=unit.height_m,
            x_m=place.x_m,
            y_m=max(place.y_m, 0.0),
            base_m=max(place.base_m or 0.0, 0.0),
        ),
        clear=OutdoorClear(
            behind_m=least("outdoor_behind"),
            left_m=least("outdoor_left"),
            right_m=least("outdoor_right"),
            front_m=least("outdoor_front"),
            above_m=least("outdoor_above"),
            vent_m=rules.value("vent_distance"),
            bedroom_m=rules.value("bedroom_distance"),
            boundary_m=rules.value("boundary_distance"),
        ),
        things=[
            YardThing(
                id=f"the {t.kind.replace('-', ' ')} ({n})",
                way=WAYS[t.kind],
                x_m=t.x_m or 0.0,
                y_m=t.y_m or 0.0,
                width_m=t.width_m or 1.0,
                depth_m=t.depth_m or 1.0,
                bottom_m=max(t.bottom_m or 0.0, 0.0),
                top_m=max(t.top_m if t.top_m is not None else TALL_M, t.bottom_m or 0.0),
            )
            for n, t in enumerate(place.things, 1)
            if t.whole
        ],
    )


def position(
    place: YardPlace, unit: Outdoor, rules: Rules
) -> Answer[OutdoorPositionResult] | None:  # fmt: skip
    asked = request(place, unit, rules)
    if asked is None:
        return None
    here = outdoor_position(asked)
    roomy = request(place, unit, rules, SLACK_M)
    if here.call.verdict is Verdict.HOLDS or roomy is None:
        return here
    better = outdoor_position(roomy).result.nearest
    if better is None:
        return here
    result = here.result.model_copy(update={"nearest": better})
    words = moved(better).replace(" up", " off the wall").replace(" down", " nearer the wall")
    call = here.call.model_copy(
        update={"do_next": f"Move the unit {words}: there everything holds."}
    )
    return here.model_copy(update={"result": result, "call": call})


def rail(place: YardPlace, unit: Outdoor) -> Answer[BracketRailResult] | None:
    if not place.rail_m or place.rail_left_m is None:
        return None
    return bracket_rail(
        BracketRailRequest(
            rail_m=place.rail_m,
            left_m=place.rail_left_m,
            studs_m=place.stud_list(),
            arms_m=unit.feet_width_m or None,
            blocked=place.blocked == "yes",
        )
    )


def judge(
    place: YardPlace, survey: SurveyEntry, unit: Outdoor, rules: Rules
) -> tuple[list[Check], list[Step]]:
    """Clearances and distances, base height, support, rail and lags, lift, frost, level."""
    answer = position(place, unit, rules)
    checks = _around(place, unit, rules, answer)
    checks += _base(place, survey, rules)
    checks += _support(place, survey, unit, rules)
    checks.append(_lift(place, unit, rules))
    if survey.frost == "yes":
        checks.append(_frost(place, unit))
    checks += [
        answered("outdoor_level", "Outdoor unit level", place.level, ("yes",),
                 {"no": fault("The outdoor unit is not level.", "Shim it level.")},
                 "Put a level on the outdoor unit."),
        answered("anchored", "Anchored, rubber under all four feet", place.anchored, ("yes",),
                 {"no": fault("The outdoor unit is not anchored.",
                              "Bolt it down on rubber at all four feet.")},
                 "Anchor the outdoor unit on rubber feet."),
    ]  # fmt: skip
    steps = list(answer.working) if answer else []
    if unit.weight_kg:
        steps += _lift_answer(place, unit.weight_kg, rules).working
    return checks, steps


def _around(
    place: YardPlace, unit: Outdoor, rules: Rules, answer: Answer[OutdoorPositionResult] | None
) -> list[Check]:
    if answer is None:
        if not (unit.width_m and unit.depth_m and unit.height_m):
            call = Call(
                verdict=Verdict.UNKNOWN,
                because=f"{unit.name}: the sheet gives no width, depth and height.",
                do_next="Measure the outdoor unit and enter it on the sheet.",
            )
        else:
            call = Call(
                verdict=Verdict.WAIT,
                because="The outdoor unit has no place yet.",
                do_next="Enter the wall and the yard, then drag the unit to its place.",
            )
        return [Check(id="yard", label="Place of the outdoor unit", call=call)]
    m, fix = answer.result, answer.call.do_next or "Move the unit."
    checks = []
    for name, label, value in (
        ("outdoor_behind", "Clear behind the outdoor unit", m.clear_behind_m),
        ("outdoor_left", "Clear at its left", m.clear_left_m),
        ("outdoor_right", "Clear at its right, for service", m.clear_right_m),
        ("outdoor_front", "Clear in front", m.clear_front_m),
        ("outdoor_above", "Clear above", m.clear_above_m),
    ):
        limit = rules.limit(name)
        if value is not None and limit is None:
            call = Call(verdict=Verdict.WATCH, because=f"{label}: {both(value, 'small')}; nobody "
                        "gives a limit.", do_next="Look for it on the sheet.")  # fmt: skip
            checks.append(Check(id=name, label=label, call=call, value=value, unit="m"))
        elif value is not None:
            checks.append(against(name, label, value, limit, "small", "min", fix))
        elif limit is not None:
            call = Call(verdict=Verdict.HOLDS, because=f"{label}: nothing stands there.")
            checks.append(Check(id=name, label=label, call=call, limit=limit))
    for id, names, words, do_next in (
        ("sash", m.sashes, "swings into the unit", fix),
        ("overlap", m.overlaps, "stands where the unit is", fix),
        ("intake", m.intake_vents, "blows into the unit's intake", fix),
    ):
        if names:
            call = fault(f"{' and '.join(names)} {words}.".capitalize(), do_next)
            checks.append(Check(id=id, label=names[0].capitalize(), call=call))
    return checks + _distances(place, rules, m, fix)


def _distances(
    place: YardPlace, rules: Rules, m: OutdoorPositionResult, fix: str
) -> list[Check]:  # fmt: skip
    """What is kept at a distance: judged where local code or the house says how far."""
    checks = []
    names = {"vent": "vent_distance", "bedroom": "bedroom_distance", "boundary": "boundary_distance"}
    for n, thing in enumerate(place.things, 1):
        way = WAYS[thing.kind]
        key = f"the {thing.kind.replace('-', ' ')} ({n})"
        if way not in names or key not in m.distances_m:
            continue
        value, limit = m.distances_m[key], rules.limit(names[way])
        label = f"To {key}"
        if limit is not None:
            checks.append(against(f"far_{n}", label, value, limit, "length", "min", fix))
        else:
            call = Call(
                verdict=Verdict.WATCH,
                because=f"{label}: {both(value, 'length')}; nobody gives a distance.",
                do_next="Ask what local code wants, and enter it under Practice.",
            )
            checks.append(Check(id=f"far_{n}", label=label, call=call, value=value, unit="m",
                                kind="length"))  # fmt: skip
    return checks


def _base(place: YardPlace, survey: SurveyEntry, rules: Rules) -> list[Check]:
    """The unit's feet above flood and snow, and what the sheet wants clear under it."""
    under = rules.limit("outdoor_under")
    wet = max(survey.flood_m or 0.0, survey.snow_m or 0.0)
    if under is None:
        return []
    value = None if place.base_m is None else place.base_m - wet
    label = "Base above flood and snow" if wet > 0 else "Base above the ground"
    return [
        against("base", label, value, under, "small", "min",
                "Raise it: a stand, a higher pad or a bracket.")
    ]  # fmt: skip


def _support(place: YardPlace, survey: SurveyEntry, unit: Outdoor, rules: Rules) -> list[Check]:
    school = rules.school("support")
    allowed = unit.supports
    advice = school.name if not allowed or school.name in allowed else allowed[0]
    checks = [
        answered("support", "Stand of the outdoor unit", place.support,
                 ("pad", "bracket", "stand"), {},
                 f"Choose what it stands on: {advice} by "
                 f"{'the sheet' if advice != school.name else rules.who_chose('support')}."),
    ]  # fmt: skip
    call = None
    if place.support and allowed and place.support not in allowed:
        call = fault(
            f"A {place.support} is not on the sheet's list: {', '.join(allowed)}.",
            f"Take a {allowed[0]}.",
        )
    elif place.support == "bracket" and place.bedroom_wall == "yes":
        call = fault(
            "A bracket on a bedroom's wall carries its hum indoors.",
            "A pad is quieter here; else rubber at every fixing.",
            Verdict.WATCH,
        )
    elif place.support == "pad" and (survey.snow_m or 0.0) > 0:
        call = fault(
            "A pad stands in the snow.",
            "A stand or a bracket keeps it clear; else a pad above the snow.",
            Verdict.WATCH,
        )
    elif place.support and place.support != advice:
        call = fault(
            f"{rules.who_chose('support').capitalize()} wants a {advice} where nothing speaks "
            f"against it; this is a {place.support}.",
            "Write down why, or take the other.",
            Verdict.WATCH if not place.notes else Verdict.HOLDS,
        )
    if call is not None:
        checks[0] = checks[0].model_copy(update={"call": call})
    if place.support == "bracket":
        checks += _bracket(place, unit, rules)
    return checks


def _bracket(place: YardPlace, unit: Outdoor, rules: Rules) -> list[Check]:
    found = rail(place, unit)
    if found is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="The rail has no place yet.",
            do_next="Enter the rail's length, its left end, and the studs behind it.",
        )
    elif not place.stud_list() and place.blocked != "yes":
        call = Call(
            verdict=Verdict.WAIT,
            because="The studs behind the rail are not found yet.",
            do_next="Find the studs: the first and their spacing.",
        )
    else:
        call = found.call
    checks = [Check(id="rail", label="Bracket's rail and studs", call=call)]
    if unit.weight_kg is None:
        weight = Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no weight of the outdoor unit.",
            do_next="Enter its weight on the sheet.",
        )
        return [*checks, Check(id="lags", label="Lags of the bracket", call=weight)]
    if not place.fasteners or not place.fastener_rated_kg:
        wait = Call(
            verdict=Verdict.WAIT,
            because="The lags are not named yet.",
            do_next="Enter how many lags hold the bracket, and what one is rated for.",
        )
        return [*checks, Check(id="lags", label="Lags of the bracket", call=wait)]
    answer = fastener_load(
        FastenerLoadRequest(
            weight_kg=max(unit.weight_kg, 0.01),
            fasteners=place.fasteners,
            rated_kg=place.fastener_rated_kg,
            margin=rules.value("anchor_factor") or 4.0,
            reach_m=(place.y_m or 0.0) + (unit.depth_m or 0.0) / 2,
            arm_m=place.arm_m or 0.0,
            pulled=max(1, place.fasteners // 2),
        )
    )
    lags = Check(
        id="lags", label="Lags of the bracket", call=answer.call, value=answer.result.load_kg,
        unit="kg", kind="weight",
    )  # fmt: skip
    return [*checks, lags]


def _lift_answer(place: YardPlace, weight_kg: float, rules: Rules) -> Answer[LiftPlanResult]:
    return lift_plan(
        LiftPlanRequest(
            weight_kg=weight_kg,
            one_person_kg=rules.value("one_person") or 23.0,
            people=place.people or None,
            aid=place.aid in ("dolly", "hoist"),
        )
    )


def _lift(place: YardPlace, unit: Outdoor, rules: Rules) -> Check:
    if not unit.weight_kg:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no weight of the outdoor unit.",
            do_next="Enter its weight on the sheet, and name who lifts.",
        )
        return Check(id="lift", label="Lift", call=call)
    answer = _lift_answer(place, unit.weight_kg, rules)
    return Check(
        id="lift", label="Lift", call=answer.call, value=unit.weight_kg, unit="kg", kind="weight",
        limit=rules.limit("one_person"),
    )  # fmt: skip


def _frost(place: YardPlace, unit: Outdoor) -> Check:
    """A heat pump's melt water in frost: it must run out freely, and not where people walk."""
    bad = {
        "plugged": fault(
            "The base is plugged: melt water freezes into the coil.",
            "Take the plugs out; let it drip free under a stand.",
        ),
        "hose": fault(
            "A drain hose freezes shut in frost.",
            "Leave the base open in frost, or heat hose and base.",
            Verdict.HOLDS if unit.frost_base == "heated" else Verdict.SHORT,
        ),
    }
    return answered(
        "frost_drain", "Melt water in frost", place.frost_drain, ("open",), bad,
        "Say where the melt water goes; never onto a walkway, where it is ice.",
    )  # fmt: skip
