"""The judgement of an outdoor unit in its yard: clearances, support, lift, frost."""

from fairline.core.calc.fastener_load import FastenerLoadRequest, fastener_load
from fairline.core.calc.lift_plan import LiftPlanRequest, LiftPlanResult, lift_plan
from fairline.core.calc.outdoor_position import OutdoorPositionRequest, OutdoorPositionResult
from fairline.core.call import Answer, Call, Check, Verdict
from fairline.core.check import capitalized, check_choice, check_limit, fault_call
from fairline.core.limit_list import LimitName
from fairline.core.mount.fasteners import fastener_check
from fairline.core.mount.footing import footing_checks
from fairline.core.mount.placed import Placed
from fairline.core.mount.wind import Wind, of_place, wind_checks, wind_steps
from fairline.core.mount.yard import WAYS, YARD, YardPlace, position, rail, request
from fairline.core.mount.yard_clear import clear_checks
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.sheet import Outdoor
from fairline.core.survey.stage import SurveyEntry


def placed(
    place: YardPlace, survey: SurveyEntry, unit: Outdoor, rules: Rules
) -> Placed[OutdoorPositionRequest, OutdoorPositionResult]:
    """The outdoor unit in its yard worked out."""
    wet = wet_m(survey)
    asked = request(place, unit, rules, 0.0, wet)
    answer = position(asked, place, unit, rules, wet) if asked else None
    steps = list(answer.working) if answer else []
    if unit.weight_kg:
        steps += _lift_answer(place, unit.weight_kg, rules).working
    blown = of_place(place, unit, rules)
    if blown is not None:
        steps += wind_steps(blown, unit)
    return Placed(
        part=YARD,
        zone="",
        asked=asked,
        answer=answer,
        checks=tuple(_checks(place, survey, unit, rules, answer, blown)),
        steps=tuple(steps),
    )


def _checks(
    place: YardPlace,
    survey: SurveyEntry,
    unit: Outdoor,
    rules: Rules,
    answer: Answer[OutdoorPositionResult] | None,
    blown: Wind | None,
) -> list[Check]:
    """Clearances and distances, base height, support, rail and lags, lift, frost, level."""
    checks = _around(place, unit, rules, answer)
    checks += _bedrooms(place, survey)
    checks += _base(place, survey, rules)
    checks += _support(place, survey, unit, rules)
    checks += footing_checks(place, unit)
    checks += wind_checks(place, blown, rules)
    checks.append(_lift(place, unit, rules))
    if survey.frost == "yes":
        checks.append(_frost(place, unit))
    checks += [
        check_choice(
            "outdoor_level",
            "Outdoor unit level",
            place.level,
            ("yes",),
            {"no": fault_call("The outdoor unit is not level.", "Shim it level.")},
            "Put a level on the outdoor unit.",
        ),
        check_choice(
            "anchored",
            "Anchored, rubber under all four feet",
            place.anchored,
            ("yes",),
            {
                "no": fault_call(
                    "The outdoor unit is not anchored.", "Bolt it down on rubber at all four feet."
                )
            },
            "Anchor the outdoor unit on rubber feet.",
        ),
    ]
    return checks


def wet_m(survey: SurveyEntry) -> float:
    """How high flood or snow comes."""
    return max(survey.flood_m or 0.0, survey.snow_m or 0.0)


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
    checks = clear_checks(place, unit, rules, m, fix)
    for id, names, words, do_next in (
        ("corner", m.corners, "stands at a corner of the unit", fix),
        ("beyond", m.beyond, "is where the unit stands beyond", fix),
        ("sash", m.sashes, "swings into the unit", fix),
        ("overlap", m.overlaps, "stands where the unit is", fix),
        ("intake", m.intake_vents, "blows into the unit's intake", fix),
    ):
        if names:
            call = fault_call(capitalized(f"{' and '.join(names)} {words}."), do_next)
            checks.append(Check(id=id, label=capitalized(names[0]), call=call))
    return checks + _distances(place, rules, m, fix)


def _distances(place: YardPlace, rules: Rules, m: OutdoorPositionResult, fix: str) -> list[Check]:
    """What is kept at a distance: judged where local code or the house says how far."""
    checks = []
    names: dict[str, LimitName] = {
        "vent": "vent_distance",
        "bedroom": "bedroom_distance",
        "boundary": "boundary_distance",
    }
    for n, thing in enumerate(place.things, 1):
        way = WAYS[thing.kind]
        key = f"the {thing.kind.replace('-', ' ')} ({n})"
        if way not in names or key not in m.distances_m:
            continue
        value, limit = m.distances_m[key], rules.limit(names[way])
        label = f"To {key}"
        if limit is not None:
            checks.append(check_limit(f"far_{n}", label, value, limit, "length", "min", fix))
        else:
            call = Call(
                verdict=Verdict.WATCH,
                because=f"{label}: {both(value, 'length')}; nobody gives a distance.",
                do_next="Ask what local code wants, and enter it under Practice.",
            )
            checks.append(
                Check(id=f"far_{n}", label=label, call=call, value=value, unit="m", kind="length")
            )
    return checks


def _bedrooms(place: YardPlace, survey: SurveyEntry) -> list[Check]:
    """Bedrooms seen on the survey belong into the drawing before a place is called good."""
    drawn = any(t.kind == "bedroom-window" for t in place.things)
    if survey.bedrooms_near != "yes" or drawn or place.bedroom_wall:
        return []
    call = fault_call(
        "Bedrooms are near, and none is drawn.",
        "Draw their windows, and say whether a bedroom lies behind this wall.",
        Verdict.WATCH,
    )
    return [Check(id="bedrooms", label="Bedrooms near", call=call)]


def _base(place: YardPlace, survey: SurveyEntry, rules: Rules) -> list[Check]:
    """The unit's feet above flood and snow, and what the sheet wants clear under it."""
    under = rules.limit("outdoor_under")
    wet = wet_m(survey)
    if under is None:
        return []
    value = None if place.base_m is None else place.base_m - wet
    label = "Base above flood and snow" if wet > 0 else "Base above the ground"
    return [
        check_limit(
            "base",
            label,
            value,
            under,
            "small",
            "min",
            "Raise it: a stand, a higher pad or a bracket.",
        )
    ]


def _support(place: YardPlace, survey: SurveyEntry, unit: Outdoor, rules: Rules) -> list[Check]:
    allowed = unit.supports
    advice, who = _advice(survey, unit, rules)
    checks = [
        check_choice(
            "support",
            "Stand of the outdoor unit",
            place.support,
            ("pad", "bracket", "stand", "roof"),
            {},
            f"Choose what it stands on: {advice} by {who}.",
        ),
    ]
    call = None
    if place.support and allowed and place.support not in allowed:
        call = fault_call(
            f"A {place.support} is not on the sheet's list: {', '.join(allowed)}.",
            f"Take a {allowed[0]}.",
        )
    elif place.support == "bracket" and place.bedroom_wall == "yes":
        call = fault_call(
            "A bracket on a bedroom's wall carries its hum indoors.",
            "A pad is quieter here; else rubber at every fixing.",
            Verdict.WATCH,
        )
    elif place.support == "pad" and (survey.snow_m or 0.0) > 0:
        call = fault_call(
            "A pad stands in the snow.",
            "A stand or a bracket keeps it clear; else a pad above the snow.",
            Verdict.WATCH,
        )
    elif place.support and place.support != advice and not place.notes:
        call = fault_call(
            f"A {advice} by {who}; this is a {place.support}, and no note says why.",
            "Write down why, or take the other.",
            Verdict.WATCH,
        )
    if call is not None:
        checks[0] = checks[0].model_copy(update={"call": call})
    if place.support == "bracket":
        masonry = (place.wall or survey.wall) == "masonry"
        checks += _bracket(place, unit, rules, masonry)
    return checks


def _advice(survey: SurveyEntry, unit: Outdoor, rules: Rules) -> tuple[str, str]:
    """What it should stand on, and who says so: the sheet's list, the snow, then the school."""
    school = rules.school("support").name
    if school == "pad" and max(survey.snow_m or 0.0, survey.flood_m or 0.0) > 0:
        if not unit.supports or "stand" in unit.supports:
            return "stand", "snow or flood"
    if unit.supports and school not in unit.supports:
        return unit.supports[0], "the sheet"
    return school, rules.who_chose("support")


def _lags(place: YardPlace, unit: Outdoor, rules: Rules) -> Check:
    """What each lag of the bracket carries, against its rating with a margin."""
    if unit.weight_kg is None:
        weight = Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no weight of the outdoor unit.",
            do_next="Enter its weight on the sheet.",
        )
        return Check(id="lags", label="Lags of the bracket", call=weight)
    if (wait := _lags_asked(place)) is not None:
        return Check(id="lags", label="Lags of the bracket", call=wait)
    answer = fastener_load(
        FastenerLoadRequest(
            weight_kg=max(unit.weight_kg, 0.01),
            fasteners=place.fasteners or 0,
            rated_kg=place.fastener_rated_kg or 1.0,
            margin=rules.value("anchor_factor") or 4.0,
            reach_m=min(100.0, max(0.0, place.y_m or 0.0) + (unit.depth_m or 0.0) / 2),
            arm_m=place.arm_m or 0.0,
            pulled=place.pulled or 0,
        )
    )
    return fastener_check("lags", "Lags of the bracket", answer, rules, "lag")


def _bracket(place: YardPlace, unit: Outdoor, rules: Rules, masonry: bool) -> list[Check]:
    rail_studs = rules.limit("rail_studs")
    found = rail(place, unit, rail_studs.value if rail_studs else 2.0)
    if masonry:
        call = Call(
            verdict=Verdict.HOLDS,
            because="The rail is on masonry: anchors by their rating, no stud is sought.",
        )
    elif found is None:
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
    blocked = place.blocked == "yes" or masonry
    reached = float(len(found.result.studs_m)) if found and not blocked else None
    checks = [
        Check(
            id="rail",
            label="Bracket's rail and studs",
            call=call,
            value=reached,
            unit="studs",
            bound="min",
            limit=None if blocked else rail_studs,
        )
    ]
    return [*checks, _lags(place, unit, rules)]


def _lags_asked(place: YardPlace) -> Call | None:
    """What is still to be said of the lags; None where all of it is known."""
    asks = (
        (not place.fasteners, "how many lags hold the bracket"),
        (not place.fastener_rated_kg, "what one lag is rated for"),
        (not place.pulled, "how many of them are in the top row, which is pulled"),
        (not place.arm_m, "how far the top row sits above the lower edge"),
        (place.y_m is None, "the gap behind the unit"),
    )
    missing = next((words for open_, words in asks if open_), None)
    if missing is not None:
        return Call(
            verdict=Verdict.WAIT,
            because=f"The lags of the bracket: {missing} is not said yet.",
            do_next=f"Enter {missing}.",
        )
    if (place.pulled or 0) >= (place.fasteners or 0) > 1:
        return fault_call(
            f"All {place.fasteners} lags cannot be the top row: those at the edge it turns about "
            "are not pulled.",
            "Count the top row only.",
        )
    return None


def _lift_answer(place: YardPlace, weight_kg: float, rules: Rules) -> Answer[LiftPlanResult]:
    return lift_plan(
        LiftPlanRequest(
            weight_kg=weight_kg,
            one_person_kg=rules.value("one_person") or 23.0,
            people=place.people or None,
            aid=place.aid in ("dolly", "hoist"),
            done=place.lifted == "yes",
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
    each = unit.weight_kg / max(place.people or 1, 1)
    aided = place.aid in ("dolly", "hoist")
    return Check(
        id="lift",
        label="Lift, for each",
        call=answer.call,
        value=each,
        unit="kg",
        kind="weight",
        limit=None if aided else rules.limit("one_person"),
    )


def _frost(place: YardPlace, unit: Outdoor) -> Check:
    """A heat pump's melt water in frost: it must run out freely, and not where people walk."""
    bad = {
        "plugged": fault_call(
            "The base is plugged: melt water freezes into the coil.",
            "Take the plugs out; let it drip free under a stand.",
        ),
        "hose": fault_call(
            "A drain hose freezes shut in frost.",
            "Leave the base open in frost, or heat hose and base.",
            Verdict.HOLDS if unit.frost_base == "heated" else Verdict.SHORT,
        ),
    }
    return check_choice(
        "frost_drain",
        "Melt water in frost",
        place.frost_drain,
        ("open",),
        bad,
        "Say where the melt water goes; never onto a walkway, where it is ice.",
    )
