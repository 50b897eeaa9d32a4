"""Who lifts a unit, and with what."""

import math
from typing import Annotated

from pydantic import Field

from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict
from fairline.core.quantities import both

TEAM_SHARE = 0.85  # people who lift together carry less each: our own choice
MOST_BY_HAND = 3  # beyond it a hoist or dolly: our own choice


class LiftPlanRequest(Request):
    """``people`` and ``aid`` are what the job has named; None and False while it has not.

    ``done``: it hangs already, and this is how it was lifted.
    """

    weight_kg: Annotated[float, Field(gt=0, le=10_000)]
    one_person_kg: Annotated[float, Field(gt=0, le=1000)]
    people: Annotated[int, Field(ge=1, le=50)] | None = None
    aid: bool = False
    done: bool = False


class LiftPlanResult(Frozen):
    """``share_kg``: what each of those named carries; None while nobody is named."""

    people: int
    aid: bool
    share_kg: float | None = None


def _call(r: LiftPlanRequest, said: str, enough: int) -> Call:
    """Who was named against who is wanted; ``said``: the weight and what it wants."""
    if r.people is None:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{said}.",
            do_next="Name who lifts, and with what, before it leaves the van.",
        )
    share = r.weight_kg / r.people
    each = "" if r.aid else f", {both(share, 'weight')} each"
    if r.people >= enough:
        return Call(verdict=Verdict.HOLDS, because=f"{said}; {r.people} named{each}.")
    if r.done:
        return Call(
            verdict=Verdict.WATCH,
            because=f"It hangs. {said}; it was lifted by {r.people}{each}.",
            do_next="Write down how, and let the next one wait for another person.",
        )
    if r.people == 1 or share > r.one_person_kg * (1 + 1e-9):
        return Call(
            verdict=Verdict.STOP,
            because=f"{said}; {r.people} named{each}.",
            do_next="Wait for another person. Above the company's limit never one alone."
            if r.people == 1
            else "Wait for another person, or take a hoist or dolly.",
        )
    return Call(
        verdict=Verdict.WATCH,
        because=f"{said}; {r.people} named{each}: within what one lifts alone, and people who "
        "lift together carry less.",
        do_next="Take another person, or a hoist or dolly, where the way is bad.",
    )


def lift_plan(request: LiftPlanRequest) -> Answer[LiftPlanResult]:
    """How many people a lift wants by the company's limit, and when it wants straps or a dolly.

    One person up to the limit, never one above it; together each carries 85 % of it, and above the
    limit itself nobody does.

    >>> asked = {"weight_kg": 60.0, "one_person_kg": 23.0}
    >>> lift_plan(LiftPlanRequest.model_validate(asked)).result.people
    4
    """
    r = request
    people = 1
    if r.weight_kg > r.one_person_kg:
        people = max(2, math.ceil(r.weight_kg / (r.one_person_kg * TEAM_SHARE) - 1e-9))
    aid = people > MOST_BY_HAND
    hands = "one person" if people == 1 else f"{people} people"
    said = f"{both(r.weight_kg, 'weight')} wants {hands}"
    if aid:
        said += ", or a hoist or dolly"
    step = Step(
        step="people",
        expression=f"{r.weight_kg:.4g} / ({r.one_person_kg:.4g} · {TEAM_SHARE:g})"
        if people > 1
        else f"{r.weight_kg:.4g} ≤ {r.one_person_kg:.4g}",
        value=float(people),
        unit="people",
    )
    enough = people
    if r.aid and people > 1:
        enough, said = 2, f"{both(r.weight_kg, 'weight')} on a hoist or dolly wants 2 people"
    call = _call(r, said, enough)
    findings = ("too_few_people",) if r.people is not None and r.people < enough else ()
    share = None if r.people is None else r.weight_kg / r.people
    return Answer[LiftPlanResult](
        call=call,
        working=(step,),
        findings=findings,
        result=LiftPlanResult(people=people, aid=aid, share_kg=share),
    )
