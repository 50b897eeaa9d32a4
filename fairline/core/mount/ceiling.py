"""A ceiling with a cassette or ducted head in it: what is entered, and its judgement."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from fairline.core.calc.ceiling_position import (
    FAR_WALL,
    CeilingBody,
    CeilingPositionRequest,
    CeilingPositionResult,
    CeilingThing,
    ceiling_position,
)
from fairline.core.call import Answer, Call, Check, Verdict
from fairline.core.check import check_choice, check_limit, fault_call
from fairline.core.entry import (
    DistanceM,
    Entry,
    LongText,
    SizeM,
    SmallM,
    SpanM,
    WallM,
    WeightKg,
    YesNo,
    blank,
)
from fairline.core.mount.outside import outside
from fairline.core.mount.placed import SLACK_M, Placed, with_nearest
from fairline.core.mount.stud import STUD_M, SpacingM, Stud, stud_centres
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.sheet import Head


class InCeiling(Entry):
    """A light, duct, sprinkler or beam, from the room's left far corner."""

    kind: Literal["light", "duct", "sprinkler", "beam", "wire"] = "light"
    x_m: SmallM = None
    y_m: SmallM = None
    width_m: SizeM = None
    length_m: SizeM = None

    @property
    def whole(self) -> bool:
        return None not in (self.x_m, self.y_m) and bool(
            (self.width_m or 0) > 0 and (self.length_m or 0) > 0
        )


class CeilingPlace(Entry):
    """The ceiling seen from below; ``x_m``, ``y_m`` is the centre of the head."""

    width_m: WallM = None
    length_m: WallM = None
    ceiling_m: DistanceM = None
    void_m: SizeM = None
    kind: Annotated[Literal["joists", "concrete"] | None, BeforeValidator(blank)] = None
    joists_along: Literal["x", "y"] = "x"
    stud_first_m: SmallM = None
    stud_spacing_m: SpacingM = None
    stud_width_m: SizeM = None
    studs: Annotated[tuple[Stud, ...], Field(max_length=60)] = ()
    fixing: Literal["hung", "between", "framed"] = "hung"
    rails: YesNo = None
    things: Annotated[tuple[InCeiling, ...], Field(max_length=60)] = ()
    x_m: SmallM = None
    y_m: SmallM = None
    turned: Literal["no", "yes"] = "no"
    hatch_m: SizeM = None
    pump_lift_m: SpanM = None
    pump_run_m: SpanM = None
    level: YesNo = None
    drain_test: Annotated[Literal["ran", "stood"] | None, BeforeValidator(blank)] = None
    looked: YesNo = None
    slab_m: SizeM = None
    anchor_hole_m: SizeM = None
    anchor_depth_m: SizeM = None
    anchor_rated_kg: WeightKg = None
    notes: LongText = ""

    def joist_list(self) -> list[float]:
        across = self.length_m if self.joists_along == "x" else self.width_m
        return stud_centres(self.studs, self.stud_first_m, self.stud_spacing_m, across)


def body_m(place: CeilingPlace, head: Head) -> tuple[float, float] | None:
    """Width and length of the opening in the plan as it is turned; None where it is unknown."""
    width, length = head.opening_width_m or head.width_m, head.opening_length_m or head.depth_m
    if not width or not length:
        return None
    return (length, width) if place.turned == "yes" else (width, length)


def request(
    place: CeilingPlace, head: Head, rules: Rules, slack_m: float = 0.0
) -> CeilingPositionRequest | None:
    size = body_m(place, head)
    if size is None or None in (place.width_m, place.length_m, place.x_m, place.y_m):
        return None
    if not (place.width_m and place.length_m):
        return None
    hangers = (head.hanger_width_m, head.hanger_length_m)
    if place.turned == "yes":
        hangers = (hangers[1], hangers[0])
    return CeilingPositionRequest(
        room_width_m=place.width_m,
        room_length_m=place.length_m,
        body=CeilingBody(
            width_m=size[0],
            length_m=size[1],
            hanger_width_m=hangers[0] or None,
            hanger_length_m=hangers[1] or None,
            x_m=place.x_m or 0.0,
            y_m=place.y_m or 0.0,
        ),
        clear_m=_clear_m(rules) + slack_m,
        things=[
            CeilingThing(
                id=f"the {t.kind} ({n})",
                x_m=t.x_m or 0.0,
                y_m=t.y_m or 0.0,
                width_m=t.width_m or 1.0,
                length_m=t.length_m or 1.0,
            )
            for n, t in enumerate(place.things, 1)
            if t.whole
        ],
        joists_along=place.joists_along,
        joists_m=[] if place.kind == "concrete" else place.joist_list(),
        joist_width_m=place.stud_width_m or STUD_M,
        fixing=place.fixing,
        rails=place.rails == "yes" or place.kind == "concrete",
    )


def _clear_m(rules: Rules) -> float:
    return max(rules.value("head_left") or 0.0, rules.value("head_right") or 0.0)


def position(
    asked: CeilingPositionRequest, place: CeilingPlace, head: Head, rules: Rules
) -> Answer[CeilingPositionResult]:
    """The head measured in the plan; the nearest place is sought with a pencil's width."""
    here = ceiling_position(asked)
    if here.call.verdict is not Verdict.SHORT:
        return here
    return with_nearest(
        here, request(place, head, rules, SLACK_M), ceiling_position, "it", *FAR_WALL
    )


def placed(
    zone: str, place: CeilingPlace, head: Head, rules: Rules
) -> Placed[CeilingPositionRequest, CeilingPositionResult]:
    """A head in its ceiling worked out."""
    asked = request(place, head, rules)
    answer = position(asked, place, head, rules) if asked else None
    return Placed(
        part=f"ceilings.{zone}",
        zone=zone,
        asked=asked,
        answer=answer,
        checks=tuple(_checks(zone, place, head, rules, answer)),
        steps=answer.working if answer else (),
    )


def _checks(
    zone: str,
    place: CeilingPlace,
    head: Head,
    rules: Rules,
    answer: Answer[CeilingPositionResult] | None,
) -> list[Check]:
    """Opening and hangers in the plan, the void, the hatch, the pump, level and drain test."""
    checks = [_plan(zone, place, head, answer)]
    if place.things and place.width_m and place.length_m:
        things = [
            (f"{t.kind} ({n})", t.x_m or 0.0, t.y_m or 0.0, t.width_m or 0.0, t.length_m or 0.0)
            for n, t in enumerate(place.things, 1)
            if t.whole
        ]
        checks.append(outside(zone, "room", place.width_m, place.length_m, things))
    if answer is not None:
        limit = rules.limit("head_left")
        checks.append(
            check_limit(
                f"{zone}_clear",
                "Clear to walls and things",
                answer.result.clear_m,
                limit,
                "small",
                "min",
                answer.call.do_next or "Move the head.",
            )
        )
    if (low := rules.limit("ceiling_low")) is not None:
        checks.append(
            check_limit(
                f"{zone}_ceiling_low",
                "Ceiling above the floor",
                place.ceiling_m,
                low,
                "length",
                "min",
                "Take another head: the air would reach the people.",
            )
        )
    if (high := rules.limit("ceiling_high")) is not None:
        checks.append(
            check_limit(
                f"{zone}_ceiling_high",
                "Ceiling above the floor",
                place.ceiling_m,
                high,
                "length",
                "max",
                "Take another head: the air would not come down.",
            )
        )
    checks.append(
        check_limit(
            f"{zone}_void",
            "Void above the ceiling",
            place.void_m,
            rules.limit("void"),
            "small",
            "min",
            "Lower the ceiling here, or take a flatter head.",
        )
    )
    checks.append(
        check_limit(
            f"{zone}_hatch",
            "Service hatch beside the piping",
            place.hatch_m,
            rules.limit("hatch"),
            "small",
            "min",
            "Cut the hatch larger.",
        )
    )
    if head.pump_lift_m is not None or place.pump_lift_m is not None:
        checks.append(
            check_limit(
                f"{zone}_pump_lift",
                "Lift of the condensate pump",
                place.pump_lift_m,
                rules.limit("pump_lift"),
                "small",
                "max",
                "Lower the drain, or add a pump that lifts further.",
            )
        )
        checks.append(
            check_limit(
                f"{zone}_pump_run",
                "From the outlet to the lift",
                place.pump_run_m,
                rules.limit("pump_within"),
                "small",
                "max",
                "Take the drain up nearer the outlet.",
            )
        )
    checks += [
        check_choice(
            f"{zone}_looked",
            "Joists, pipes and wires looked for",
            place.looked,
            ("yes",),
            {
                "no": fault_call(
                    "Nobody has looked above the ceiling.",
                    "Stop. Look before the saw goes in.",
                    Verdict.STOP,
                )
            },
            "Look above the ceiling before the saw goes in.",
        ),
        check_choice(
            f"{zone}_level",
            "Dead level",
            place.level,
            ("yes",),
            {
                "no": fault_call(
                    "The head is not level: a tilt fools the float switch.",
                    "Level it on its four hangers.",
                )
            },
            "Put a level on it, both ways.",
        ),
        check_choice(
            f"{zone}_drain",
            "Drain test",
            place.drain_test,
            ("ran",),
            {
                "stood": fault_call(
                    "Water stood, or came back.",
                    "Find the dip or the lift, mend it, and pour again.",
                )
            },
            "Pour in about 2 litres while cooling; look again three minutes after it stops.",
        ),
    ]
    return checks


def _plan(
    zone: str, place: CeilingPlace, head: Head, answer: Answer[CeilingPositionResult] | None
) -> Check:
    if answer is not None:
        call = answer.call
        if call.verdict is Verdict.HOLDS and place.kind == "concrete":
            call = Call(
                verdict=Verdict.HOLDS,
                because="Clear of what is in the ceiling; the hangers go into concrete anchors.",
            )
        elif call.verdict is Verdict.HOLDS and not place.joist_list():
            call = Call(
                verdict=Verdict.WAIT,
                because="The joists are not found yet.",
                do_next="Find the joists: enter the first and their spacing, or each one.",
            )
    elif body_m(place, head) is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"{head.name}: the sheet gives no opening and no size.",
            do_next="Enter the opening on the sheet.",
        )
    elif not (place.width_m and place.length_m):
        call = Call(
            verdict=Verdict.WAIT,
            because="The ceiling is not measured yet.",
            do_next="Enter the room's width and length.",
        )
    else:
        size = body_m(place, head) or (0.0, 0.0)
        call = Call(
            verdict=Verdict.WAIT,
            because=f"The head has no place yet; it wants {both(size[0], 'small')} by "
            f"{both(size[1], 'small')}.",
            do_next="Drag the head into the plan, or type its place.",
        )
    return Check(id=f"{zone}_plan", label="Opening, joists, hangers", call=call)
