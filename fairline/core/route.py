"""Route: the run as legs, drawn to scale; its length, lift and cut against the limits."""

from typing import Annotated, Literal

from pydantic import Field

from fairline.core.calc.route import RouteRequest, RouteResult
from fairline.core.calc.route import route as work_out
from fairline.core.call import Answer, Call, Check, Frozen, Limit, StageCall, Verdict
from fairline.core.check import answered, fault, stage_call
from fairline.core.entry import DistanceM, Entry, LengthM, LongText, SpanM
from fairline.core.practice import Rules
from fairline.core.quantities import both

Direction = Literal["up", "down", "left", "right", "in", "out"]

STEP = {
    "right": (1.0, 0.0, 0.0),
    "left": (-1.0, 0.0, 0.0),
    "in": (0.0, 1.0, 0.0),
    "out": (0.0, -1.0, 0.0),
    "up": (0.0, 0.0, 1.0),
    "down": (0.0, 0.0, -1.0),
}
SPRING_RADIUS_ODS = 5.0  # centre-line radius by spring: common practice, no published source
LIMIT_NAMES = ("min_length_m", "max_length_m", "max_lift_m", "max_bends")
FALLBACK_RADIUS_M = 0.08
SHORTEST_LEG_M = 1e-4  # shorter is no leg


class Leg(Entry):
    """One straight leg, corner to corner; ``in`` goes through the wall into the house."""

    direction: Direction = "up"
    length_m: DistanceM = None


class RouteEntry(Entry):
    """The run from the outdoor valves to the head's joint, as an installer looks at the wall."""

    valve_height_m: LengthM = None
    legs: Annotated[tuple[Leg, ...], Field(max_length=60)] = ()
    bend_radius_m: SpanM = None
    end_allowance_m: DistanceM = None
    coil_m: DistanceM = None
    both_insulated: Literal["yes", "no", ""] = ""
    notes: LongText = ""


def bend_radius_m(entry: RouteEntry, rules: Rules) -> tuple[float, str]:
    """The centre-line radius in m, and where it comes from."""
    if entry.bend_radius_m:
        return entry.bend_radius_m, "the bender's own"
    od_m = rules.outdoor.port.gas_od_m if rules.outdoor else None
    if od_m:
        return SPRING_RADIUS_ODS * od_m, "5 × the gas tube by spring, common practice"
    return FALLBACK_RADIUS_M, "our own choice: no tube size is known"


def points_m(entry: RouteEntry) -> list[list[float]]:
    """Corners of the run, valve first; legs without a length yet are left out."""
    place = [0.0, 0.0, entry.valve_height_m or 0.0]
    found = [list(place)]
    for leg in entry.legs:
        if leg.length_m and leg.length_m > SHORTEST_LEG_M:
            step = STEP[leg.direction]
            place = [p + s * leg.length_m for p, s in zip(place, step, strict=True)]
            found.append(list(place))
    return found


def lengths(entry: RouteEntry, rules: Rules) -> Answer[RouteResult] | None:
    """The run worked out, or None while there is no leg with a length."""
    points = points_m(entry)
    if len(points) < 2:
        return None
    radius, _ = bend_radius_m(entry, rules)
    governing = {n: limit for n in LIMIT_NAMES if (limit := rules.limit(n)) is not None}
    request = RouteRequest(
        points_m=points,
        bend_radius_m=radius,
        end_allowance_m=entry.end_allowance_m or 0.0,
        coil_m=entry.coil_m or 0.0,
    )
    return work_out(request, governing, needed=("max_length_m", "max_lift_m"))


def installed_length_m(entry: RouteEntry, rules: Rules, zones: int = 1) -> float | None:
    """The tube that will hold refrigerant, in m: what the charge rests on.

    Unknown (None) for several zones, of whose runs only one is drawn, and where a bend does not
    fit: a run that cannot be bent has no length to charge.
    """
    answer = lengths(entry, rules) if zones < 2 else None
    if answer is None or answer.result.tight_legs:
        return None
    return answer.result.installed_length_m


class Left(Frozen):
    """How much of a limit is left; negative where it is passed. In the limit's own unit."""

    limit: Limit
    left: float
    least: bool  # a least value: what is left is how far the run is above it


def left_of_limits(entry: RouteEntry, rules: Rules) -> list[Left]:
    """For each limit of the run that is known, how much is left."""
    answer = lengths(entry, rules)
    if answer is None:
        return []
    run = answer.result
    values = {
        "min_length_m": run.installed_length_m,
        "max_length_m": run.installed_length_m,
        "max_lift_m": abs(run.lift_m),
        "max_bends": float(run.bends),
    }
    found = []
    for name in LIMIT_NAMES:
        if (limit := rules.limit(name)) is not None:
            least = name == "min_length_m"
            left = values[name] - limit.value if least else limit.value - values[name]
            found.append(Left(limit=limit, left=left, least=least))
    return found


def judge(entry: RouteEntry, rules: Rules, zones: int = 1) -> StageCall:
    """The run against the limits; ``zones`` heads want a run each, and only one is drawn here."""
    answer = lengths(entry, rules)
    if answer is None:
        wait = Call(
            verdict=Verdict.WAIT,
            because="The run has no legs yet.",
            do_next="Type the legs from the outdoor valves to the head.",
        )
        return stage_call(
            [Check(id="run", label="Run", call=wait), *_others(zones), _insulation(entry)],
            "",
            started=entry != RouteEntry(),
        )
    result = answer.result
    most = next((limit for limit in answer.governed_by if limit.limit == "most length"), None)
    run = Check(
        id="run",
        label="Length, lift and bends",
        call=answer.call,
        value=result.installed_length_m,
        unit="m",
        limit=most,
    )
    return stage_call(
        [run, *_others(zones), _insulation(entry)],
        answer.call.because,
        summary=both(result.developed_length_m, "length"),
        governed_by=answer.governed_by,
        working=answer.working,
        findings=answer.findings,
    )


def _insulation(entry: RouteEntry) -> Check:
    """Both lines run cold, so both are insulated: the metering device sits outdoors."""
    return answered(
        "insulation",
        "Insulation of both tubes",
        entry.both_insulated,
        ("yes",),
        {"no": fault("One tube is bare: both run cold and sweat.", "Insulate both, all the way.")},
        "Look along the run: both tubes insulated, all the way.",
    )


def _others(zones: int) -> list[Check]:
    """Of several zones one run is not enough: length and charge stay unknown, never guessed."""
    if zones < 2:
        return []
    call = Call(
        verdict=Verdict.UNKNOWN,
        because=f"{zones} heads want a run each; one run says nothing of the whole length.",
        do_next="Measure every run: limits and charge rest on all of them.",
    )
    return [Check(id="others", label="Runs of the other zones", call=call)]
