"""The judgement of a head on its wall: clearances, hole, plate and its screws, drain."""

from fairline.core.calc.fastener_load import fastener_load
from fairline.core.calc.head_position import HeadPositionRequest, HeadPositionResult
from fairline.core.call import Answer, Call, Check, Limit, Verdict
from fairline.core.check import capitalized, check_limit, fault_call
from fairline.core.mount.as_built import as_built
from fairline.core.mount.outside import outside
from fairline.core.mount.placed import Placed
from fairline.core.mount.throw import Reach, known_reach, throw_check
from fairline.core.mount.wall import (
    WallPlace,
    anchors,
    off_the_body,
    other_outlets,
    outlet,
    position,
    request,
)
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.sheet import Head


def placed(
    zone: str,
    place: WallPlace,
    head: Head,
    rules: Rules,
    ticked: frozenset[str] | None = None,
) -> Placed[HeadPositionRequest, HeadPositionResult]:
    """A head on its wall worked out; ``ticked``: the steps of its lists that were done."""
    asked = request(place, head, rules)
    part = f"walls.{zone}"
    if asked is None:
        return Placed(
            part=part, zone=zone, asked=None, answer=None, checks=(_missing(zone, place, head),)
        )
    answer = position(asked, place, head, rules)
    others = tuple(other_outlets(place, head, rules))
    air = known_reach(place.in_front, place.y_m, rules.value("throw"))
    return Placed(
        part=part,
        zone=zone,
        asked=asked,
        answer=answer,
        checks=(
            *_checks(zone, place, head, rules, answer, others, air),
            *as_built(zone, place, head, rules, ticked),
        ),
        steps=answer.working,
        other_outlets=others,
        reach=air,
    )


def _checks(
    zone: str,
    place: WallPlace,
    head: Head,
    rules: Rules,
    answer: Answer[HeadPositionResult],
    others: tuple[str, ...],
    reach: Reach | None,
) -> list[Check]:
    """Every clearance, the hole, the plate and its screws, each against the limit that governs."""
    m = answer.result
    fix = answer.call.do_next or "Move the head."
    if answer.call.verdict is Verdict.HOLDS:
        others = ()
    hole_fix = fix + (f" Or take the outlet {others[0]}." if others else "")
    checks = [
        check_limit(
            f"{zone}_head_left",
            "Clear at the head's left",
            m.clear_left_m,
            rules.limit("head_left"),
            "small",
            "min",
            fix,
        ),
        check_limit(
            f"{zone}_head_right",
            "Clear at the head's right",
            m.clear_right_m,
            rules.limit("head_right"),
            "small",
            "min",
            fix,
        ),
        check_limit(
            f"{zone}_head_ceiling",
            "Clear above the head",
            m.clear_above_m,
            rules.limit("head_ceiling"),
            "small",
            "min",
            fix,
        ),
        _height(zone, place, head, rules),
    ]
    if below := rules.limit("head_below"):
        checks.append(
            check_limit(
                f"{zone}_head_below",
                "Clear below the head",
                m.clear_below_m,
                below,
                "small",
                "min",
                fix,
            )
        )
    if m.overlaps:
        checks.append(
            _found(f"{zone}_overlap", "Covered", f"The head covers {_and(m.overlaps)}.", fix)
        )
    if place.things and place.width_m and place.ceiling_m:
        things = [
            (f"{t.kind} ({n})", t.x_m or 0.0, t.y_m or 0.0, t.width_m or 0.0, t.height_m or 0.0)
            for n, t in enumerate(place.things, 1)
            if t.whole
        ]
        checks.append(outside(zone, "wall", place.width_m, place.ceiling_m, things))
    checks += _front(zone, place, rules)
    if reach is not None:
        low = rules.limit("head_low")
        is_low = low is not None and (place.y_m or 0.0) < low.value - 1e-6
        far = rules.value("throw") or reach.reach_m
        checks.append(throw_check(zone, reach, far, is_low and head.form != "console"))
    checks += _behind(zone, place, head, rules)
    checks += _hole(zone, place, head, rules, m, hole_fix)
    checks += _screws(zone, place, head, rules, m)
    return checks


def _missing(zone: str, place: WallPlace, head: Head) -> Check:
    if not (head.width_m and head.height_m):
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"{head.name}: the sheet gives no width or height of the head.",
            do_next="Measure the head and enter it on the sheet.",
        )
    elif not (place.width_m and place.ceiling_m):
        call = Call(
            verdict=Verdict.WAIT,
            because="The wall is not measured yet.",
            do_next="Enter the wall's width and the ceiling's height.",
        )
    else:
        call = Call(
            verdict=Verdict.WAIT,
            because="The head has no place on the wall yet.",
            do_next="Drag the head onto the wall, or type its place.",
        )
    return Check(id=f"{zone}_wall", label="Wall", call=call)


def _found(id: str, label: str, because: str, do_next: str, stop: bool = False) -> Check:
    return Check(
        id=id,
        label=label,
        call=fault_call(because, do_next, Verdict.STOP if stop else Verdict.SHORT),
    )


def _and(names: tuple[str, ...]) -> str:
    return " and ".join(names)


def _height(zone: str, place: WallPlace, head: Head, rules: Rules) -> Check:
    """Height is a window: judged against the end it is nearer to falling out of."""
    label, value = "Underside above the floor", place.y_m
    low, high = rules.limit("head_low"), rules.limit("head_high")
    if head.form == "console" and head.min_height_m is None:
        call = Call(verdict=Verdict.HOLDS, because="A console stands at the floor.")
        return Check(
            id=f"{zone}_height", label=label, call=call, value=value, unit="m", kind="length"
        )
    if value is not None and high is not None and value > high.value + 1e-6:
        return check_limit(f"{zone}_height", label, value, high, "length", "max", "Lower the head.")
    check = check_limit(
        f"{zone}_height",
        label,
        value,
        low,
        "length",
        "min",
        "Raise the head, take a floor console, or write down why it stays low.",
    )
    if check.call.verdict is Verdict.SHORT and place.low_reason:
        call = fault_call(
            f"{check.call.because} It stays low: {place.low_reason}",
            "Keep everything out of its front and split the vanes left and right.",
            Verdict.WATCH,
        )
        return check.model_copy(update={"call": call})
    return check


def _front(zone: str, place: WallPlace, rules: Rules) -> list[Check]:
    checks = []
    if limit := rules.limit("head_front"):
        checks.append(
            check_limit(
                f"{zone}_front",
                "Free room in front",
                place.front_m,
                limit,
                "length",
                "min",
                "Turn the head to the room's long side, or clear its front.",
            )
        )
    throw = rules.limit("throw")
    if throw is not None and place.front_m is not None and place.front_m > throw.value:
        call = fault_call(
            f"The room goes on for {both(place.front_m, 'length')}, the air reaches "
            f"{both(throw.value, 'length')}.",
            "Look whether the far end is served: hang it higher, or on the long wall.",
            Verdict.WATCH,
        )
        checks.append(
            Check(
                id=f"{zone}_throw",
                label="Throw",
                call=call,
                value=place.front_m,
                unit="m",
                limit=throw,
                kind="length",
            )
        )
    return checks


def _hole(
    zone: str, place: WallPlace, head: Head, rules: Rules, m: HeadPositionResult, fix: str
) -> list[Check]:
    way_out = outlet(place, head)
    if way_out is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no place for the hole.",
            do_next="Hold the plate up, measure its outlets, and enter them on the sheet.",
        )
        return [Check(id=f"{zone}_hole", label="Hole", call=call)]
    checks = []
    if way_out.way == "back":
        if m.hole_stud_m is not None and m.hole_stud_m < -1e-6:
            into = fault_call(f"The hole cuts {both(-m.hole_stud_m, 'small')} into a stud.", fix)
            checks.append(
                Check(
                    id=f"{zone}_hole_stud",
                    label="Hole to the nearest stud",
                    call=into,
                    value=m.hole_stud_m,
                    unit="m",
                    bound="min",
                    limit=rules.limit("hole_stud"),
                    kind="small",
                )
            )
        elif m.hole_stud_m is not None:
            checks.append(
                check_limit(
                    f"{zone}_hole_stud",
                    "Hole to the nearest stud",
                    m.hole_stud_m,
                    rules.limit("hole_stud"),
                    "small",
                    "min",
                    fix,
                )
            )
        elif place.kind != "masonry":
            wait = Call(
                verdict=Verdict.WAIT,
                because="The studs are not found yet.",
                do_next="Find the studs: enter the first and their spacing, or each one.",
            )
            checks.append(
                Check(id=f"{zone}_hole_stud", label="Hole to the nearest stud", call=wait)
            )
        if m.hole_service_m is not None:
            near = check_limit(
                f"{zone}_hole_service",
                "Hole to the nearest pipe or wire",
                m.hole_service_m,
                rules.limit("hole_service"),
                "small",
                "min",
                f"Do not drill there. {fix}",
            )
            if near.call.verdict is Verdict.SHORT:
                near = near.model_copy(
                    update={"call": near.call.model_copy(update={"verdict": Verdict.STOP})}
                )
            checks.append(near)
        if m.hole_meets:
            checks.append(
                _found(f"{zone}_hole_meets", "Hole", f"The hole meets {_and(m.hole_meets)}.", fix)
            )
    return checks


def _behind(zone: str, place: WallPlace, head: Head, rules: Rules) -> list[Check]:
    """Hole and screws lie behind the head: what does not was measured from another point."""
    asked = request(place, head, rules)
    seen = off_the_body(asked) if asked is not None else []
    if not seen:
        return []
    words = _and(tuple(seen))
    return [
        _found(
            f"{zone}_behind",
            "Behind the head",
            f"{capitalized(words)} would not be behind the head: the sheet measures from "
            "another point of the plate.",
            "Hold the plate up, measure its mark, outlets and holes again, and mend the sheet.",
        )
    ]


def _screws(
    zone: str, place: WallPlace, head: Head, rules: Rules, m: HeadPositionResult
) -> list[Check]:
    key, label = f"{zone}_screws", "Plate's screws"
    checks = []
    if m.screws_at_services:
        numbers = ", ".join(str(n + 1) for n in m.screws_at_services)
        checks.append(
            _found(
                f"{zone}_screw_service",
                label,
                f"Screw {numbers} would meet a pipe or wire.",
                "Do not drive it: leave it out, or move the head.",
                stop=True,
            )
        )
    asked = anchors(place, head, rules)
    in_studs = len(m.screws_in_studs)
    if not head.screws:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no screw holes of the plate.",
            do_next="Measure the plate and enter its holes on the sheet.",
        )
    elif in_studs >= 2:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{in_studs} of {len(head.screws)} screws meet studs; the rest on anchors.",
        )
    elif asked is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no weight of the head.",
            do_next="Weigh the head and enter it on the sheet.",
        )
    else:
        answer = fastener_load(asked)
        ones = "no screw meets" if not in_studs else "one screw meets"
        return [
            *checks,
            Check(
                id=key,
                label=label,
                call=answer.call.model_copy(
                    update={"because": f"{capitalized(ones)} a stud; {answer.call.because}"}
                ),
                value=answer.result.load_kg,
                unit="kg",
                limit=_allowed(place, rules),
                kind="weight",
            ),
        ]
    return [*checks, Check(id=key, label=label, call=call)]


def _allowed(place: WallPlace, rules: Rules) -> Limit | None:
    """What one anchor may take: its rating over the margin, by whoever gave the rating."""
    rated, margin = rules.limit("anchor_rated"), rules.value("anchor_factor") or 4.0
    if rated is None:
        return None
    value = (place.anchor_rated_kg or rated.value) / margin
    who = "the anchors at hand" if place.anchor_rated_kg else rated.source
    return Limit(
        limit="load on one anchor",
        value=value,
        unit="kg",
        kind="weight",
        authority=rated.authority,
        source=f"{who}; rating over a margin of {margin:g}",
    )
