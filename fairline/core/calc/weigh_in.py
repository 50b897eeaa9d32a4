"""Refrigerant by weight: what went in, what is left, and the weight at which to stop."""

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict
from fairline.core.quantities import both

SHARE, MOST_KG, LEAST_KG = 0.03, 0.03, 0.005  # of what is wanted: our own tolerance (TRADE: grams)
BLENDS = ("R-410A", "R-454B")  # they part where vapour is drawn: common practice, no source
EPSILON_KG = 1e-9

Kilograms = Annotated[float, Field(ge=0, le=500)]
Name = Annotated[str, Field(min_length=1, max_length=60, pattern=r"\S")]
Reason = tuple[str, Verdict, str, str]  # finding, verdict, because, do next


class Weighed(Request):
    """One cylinder weighed before and after; ``after_kg`` is None while it stands on the scale.

    ``way``: into the system, or out of it into a recovery cylinder. ``tare_kg``: the empty
    cylinder.
    """

    cylinder: Name
    refrigerant: Name
    way: Literal["in", "out"]
    before_kg: Kilograms
    after_kg: Kilograms | None = None
    tare_kg: Kilograms | None = None
    phase: Literal["liquid", "vapour"] | None = None


def tolerance_of(wanted_kg: float) -> float:
    """How much less or more than wanted is as good, kg: 3 %, at most 30 g and at least 5 g.

    >>> [tolerance_of(kg) for kg in (0.1, -0.5, 4.0)]
    [0.005, 0.015, 0.03]
    """
    return max(LEAST_KG, min(SHARE * abs(wanted_kg), MOST_KG))


class WeighInRequest(Request):
    """``wanted_kg``: to be put in; negative, to be taken out. ``hose_kg``: what stays in the hose.

    ``tolerance_kg``: 3 % of what is wanted, at most 30 g and at least 5 g, where it is not said.
    """

    wanted_kg: Annotated[float, Field(ge=-500, le=500)]
    tolerance_kg: Annotated[float, Field(gt=0, le=10)] | None = None
    hose_kg: Annotated[float, Field(ge=0, le=5)] = 0.0
    unit_refrigerant: Name
    weighings: Annotated[list[Weighed], Field(max_length=200)] = []

    @model_validator(mode="after")
    def _only_the_last_stands(self) -> "WeighInRequest":
        for n, one in enumerate(self.weighings[:-1], 1):
            if one.after_kg is None:
                raise ValueError(f"weighings: number {n} is not the last and has no after_kg")
        return self

    @property
    def tolerance(self) -> float:
        """In kg."""
        if self.tolerance_kg is not None:
            return self.tolerance_kg
        return tolerance_of(self.wanted_kg)


class WeighInResult(Frozen):
    """In kg. ``stop_at_kg``: what the standing cylinder reads when it is enough.

    ``cylinder_short_kg``: what the standing cylinder lacks of it, by its tare.
    """

    in_kg: float
    left_kg: float
    tolerance_kg: float
    stop_at_kg: float | None = None
    cylinder_short_kg: float | None = None


def _hose(request: WeighInRequest, n: int) -> float:
    """What a weighing loses to the hose: once for consecutive weighings of one cylinder."""
    one, before = request.weighings[n], request.weighings[n - 1] if n else None
    if one.way == "out":
        return 0.0
    same = before is not None and before.way == "in" and before.cylinder == one.cylinder
    return 0.0 if same else request.hose_kg


def _net_kg(request: WeighInRequest, n: int) -> float:
    """What a weighing put into the system, kg; negative where it took out of it."""
    one = request.weighings[n]
    if one.after_kg is None:
        return 0.0
    if one.way == "out":
        return -(one.after_kg - one.before_kg)
    return max(0.0, one.before_kg - one.after_kg - _hose(request, n))


def _stop_at(request: WeighInRequest, left: float) -> tuple[float | None, float | None]:
    """The weight at which to stop, kg, and what the standing cylinder lacks of it."""
    if not request.weighings or request.weighings[-1].after_kg is not None:
        return None, None
    one = request.weighings[-1]
    if abs(left) <= request.tolerance + EPSILON_KG:
        return None, None
    if one.way == "out":
        return (one.before_kg - left, None) if left < 0 else (None, None)
    if left < 0:
        return None, None
    stop = one.before_kg - left - _hose(request, len(request.weighings) - 1)
    tare = one.tare_kg or 0.0
    if stop < tare - EPSILON_KG:
        return tare, tare - stop
    return max(stop, 0.0), None


def faults(request: WeighInRequest) -> list[Reason]:
    """What is wrong with the weighings themselves, the worst kind first.

    >>> row = {"cylinder": "A", "refrigerant": "R-22", "way": "in", "before_kg": 9.0}
    >>> asked = {"wanted_kg": 0.4, "unit_refrigerant": "R-32", "weighings": [row]}
    >>> [name for name, *_ in faults(WeighInRequest.model_validate(asked))]
    ['other_refrigerant']
    """
    unit = request.unit_refrigerant
    found: list[Reason] = []
    for one in request.weighings:
        if one.refrigerant != unit:
            other = f"Cylinder {one.cylinder} holds {one.refrigerant}, the unit {unit}."
            act = "Shut the valve: no other refrigerant, and no mixture, goes into it or with it."
            found.append(("other_refrigerant", Verdict.STOP, other, act))
    for one in request.weighings:
        after = one.after_kg
        lighter = after is not None and after < one.before_kg - EPSILON_KG
        heavier = after is not None and after > one.before_kg + EPSILON_KG
        if (heavier and one.way == "in") or (lighter and one.way == "out"):
            told = "heavier after charging" if heavier else "lighter after recovering"
            because = f"Cylinder {one.cylinder} is {told}."
            act = "Say which weight was before: were the two exchanged, or the scale set to nought?"
            found.append(("weights_exchanged", Verdict.UNKNOWN, because, act))
    for one in request.weighings:
        least = min(one.before_kg, one.after_kg if one.after_kg is not None else math.inf)
        if one.tare_kg is not None and least < one.tare_kg - EPSILON_KG:
            because = (
                f"Cylinder {one.cylinder} weighs {both(least, 'cylinder')}, less than its tare of "
                f"{both(one.tare_kg, 'cylinder')}."
            )
            act = "Read the tare on its collar and the scale again."
            found.append(("below_tare", Verdict.UNKNOWN, because, act))
    return found


def _over(request: WeighInRequest, in_kg: float) -> list[Reason]:
    """More than was wanted, either way, beyond the tolerance."""
    wanted, tolerance = request.wanted_kg, request.tolerance + EPSILON_KG
    beyond = in_kg - wanted
    if wanted > 0 and beyond > tolerance:
        act = f"Recover {both(beyond, 'charge')} by weight."
    elif wanted < 0 and -beyond > tolerance:
        act = f"Weigh {both(-beyond, 'charge')} back in as liquid."
    elif wanted == 0 and abs(beyond) > tolerance:
        act = f"{'Recover' if beyond > 0 else 'Weigh in'} {both(abs(beyond), 'charge')}."
    else:
        return []
    went = f"{both(abs(in_kg), 'charge')} {'went in' if in_kg >= 0 else 'came out'}"
    because = f"{went}; {both(abs(wanted), 'charge')} {'in' if wanted >= 0 else 'out'} is wanted."
    return [("over", Verdict.SHORT, because, act)]


def drawn_as_vapour(request: WeighInRequest) -> list[Reason]:
    """A blend that was drawn as vapour: it boils apart.

    >>> row = {"cylinder": "A", "refrigerant": "R-410A", "way": "in", "before_kg": 9.0}
    >>> asked = {"wanted_kg": 0.4, "unit_refrigerant": "R-410A", "weighings": [
    ...     row | {"phase": "vapour"}]}
    >>> [name for name, *_ in drawn_as_vapour(WeighInRequest.model_validate(asked))]
    ['blend_as_vapour']
    """
    vapour = [
        one
        for one in request.weighings
        if one.way == "in" and one.phase == "vapour" and one.refrigerant in BLENDS
    ]
    if not vapour:
        return []
    because = f"{vapour[0].refrigerant} was drawn as vapour: a blend parts as it boils."
    act = "Turn the cylinder, or use its liquid valve; what went in so stays on the record."
    return [("blend_as_vapour", Verdict.SHORT, because, act)]


def weigh_in(request: WeighInRequest) -> Answer[WeighInResult]:
    """Refrigerant weighed in or out against what is wanted, and the weight at which to stop.

    In = Σ max(0, before − after − hose) of what went in − Σ (after − before) of what came out; the
    hose counts once for consecutive weighings of one cylinder. All in kg.

    >>> asked = {"wanted_kg": 0.4, "unit_refrigerant": "R-32", "hose_kg": 0.02, "weighings": [
    ...     {"cylinder": "A", "refrigerant": "R-32", "way": "in", "before_kg": 9.0}]}
    >>> round(weigh_in(WeighInRequest.model_validate(asked)).result.stop_at_kg, 3)
    8.58
    """
    count = len(request.weighings)
    nets = [_net_kg(request, n) for n in range(count)]
    in_kg = math.fsum(nets)
    left = request.wanted_kg - in_kg
    stop_at, short = _stop_at(request, left)
    reasons = [*faults(request), *_over(request, in_kg), *drawn_as_vapour(request)]
    if short is not None:
        because = f"Cylinder {request.weighings[-1].cylinder} lacks {both(short, 'charge')} of it."
        act = f"Weigh it at {both(stop_at or 0.0, 'cylinder')}, then change to another cylinder."
        reasons.append(("change_cylinder", Verdict.WAIT, because, act))
    if reasons:
        _, verdict, because, act = reasons[0]
        call = Call(verdict=verdict, because=because, do_next=act)
    else:
        call = _call(request, in_kg, left, stop_at)
    return Answer[WeighInResult](
        call=call,
        working=(
            *(_step(request, n, net) for n, net in enumerate(nets)),
            Step(step="left", expression="wanted − in", value=left, unit="kg"),
        ),
        findings=tuple(dict.fromkeys(finding for finding, *_ in reasons)),
        result=WeighInResult(
            in_kg=in_kg,
            left_kg=left,
            tolerance_kg=request.tolerance,
            stop_at_kg=stop_at,
            cylinder_short_kg=short,
        ),
    )


def _step(request: WeighInRequest, n: int, net: float) -> Step:
    one = request.weighings[n]
    if one.after_kg is None:
        words = "stands on the scale"
    elif one.way == "out":
        words = f"−({one.after_kg:g} − {one.before_kg:g})"
    else:
        words = f"{one.before_kg:g} − {one.after_kg:g} − {_hose(request, n):g}, never below nought"
    return Step(step=f"{one.cylinder}, {one.way}", expression=words, value=net, unit="kg")


def _call(request: WeighInRequest, in_kg: float, left: float, stop_at: float | None) -> Call:
    wanted = request.wanted_kg
    if abs(left) <= request.tolerance + EPSILON_KG:
        went = "went in" if in_kg >= 0 else "came out"
        said = f"{both(abs(in_kg), 'charge')} {went}, {both(abs(wanted), 'charge')} is wanted."
        return Call(verdict=Verdict.HOLDS, because=said)
    rest = both(abs(left), "charge")
    if stop_at is not None:
        act = f"Stop at {both(stop_at, 'cylinder')} on the scale."
    elif left > 0:
        act = f"Weigh in another {rest} as liquid."
    else:
        act = f"Recover another {rest} by weight."
    because = f"{rest} is still to {'go in' if left > 0 else 'come out'}."
    return Call(verdict=Verdict.WAIT, because=because, do_next=act)
