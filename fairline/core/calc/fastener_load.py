"""Whether screws, anchors or lags carry what hangs on them."""

import math
from typing import Annotated

from pydantic import Field, model_validator

from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict
from fairline.core.check import plural
from fairline.core.quantities import both

Kg = Annotated[float, Field(ge=0, le=10_000)]
Metres = Annotated[float, Field(ge=0, le=100)]


class FastenerLoadRequest(Request):
    """Weights in kg. ``reach_m``: how far off the wall the weight hangs; ``arm_m``: how far
    the pulled fasteners sit above the edge it turns about; ``pulled``: how many are pulled."""

    weight_kg: Annotated[float, Field(gt=0, le=10_000)]
    carried_kg: Kg = 0.0
    fasteners: Annotated[int, Field(ge=0, le=200)]
    rated_kg: Annotated[float, Field(gt=0, le=10_000)]
    margin: Annotated[float, Field(ge=1, le=100)] = 4.0
    reach_m: Metres = 0.0
    arm_m: Metres = 0.0
    pulled: Annotated[int, Field(ge=0, le=200)] = 0

    @model_validator(mode="after")
    def _pulled_are_there(self) -> "FastenerLoadRequest":
        if self.pulled > self.fasteners:
            raise ValueError(f"pulled: {self.pulled} of {self.fasteners} fasteners cannot be")
        return self


class FastenerLoadResult(Frozen):
    """``load_kg``: on the hardest-worked fastener, shear and pull added; ``share`` of what it
    may take; ``needed``: how many would do."""

    load_kg: float | None
    allowed_kg: float
    share: float | None
    needed: int


def fastener_load(request: FastenerLoadRequest) -> Answer[FastenerLoadResult]:
    """Shear shared by all, pull by lever on the pulled ones, added, against rating over margin.

    Statics: each carries W/n across; those pulled also hold W · reach / (arm · pulled). Shear
    and pull are added as they are, which is on the safe side of any interaction curve.

    >>> asked = {"weight_kg": 12.0, "fasteners": 6, "rated_kg": 34.0}
    >>> round(fastener_load(FastenerLoadRequest.model_validate(asked)).result.load_kg, 2)
    2.0
    """
    r = request
    weight = r.weight_kg + r.carried_kg
    allowed = r.rated_kg / r.margin
    levered = r.reach_m > 0
    if levered and r.arm_m <= 0 and r.fasteners:
        return _no_lever(r, allowed)
    pull = weight * r.reach_m / (r.arm_m * max(r.pulled, 1)) if levered and r.arm_m else 0.0
    pulled_share = (r.pulled / r.fasteners) if levered and r.fasteners and r.pulled else 0.0
    steps = [
        Step(
            step="one fastener may take",
            expression=f"{r.rated_kg:.4g} / {r.margin:g}",
            value=allowed,
            unit="kg",
            kind="weight",
        )
    ]
    # With more fasteners of the same pattern, both shares fall in proportion.
    turning = 0.0
    if levered and r.arm_m > 0:
        turning = weight * r.reach_m / (r.arm_m * (pulled_share or 1.0))
    needed = math.ceil((weight + turning) / allowed - 1e-9)
    if r.fasteners == 0:
        call = Call(
            verdict=Verdict.SHORT,
            because="Nothing carries it.",
            do_next=f"Set at least {plural(needed, 'fastener')}.",
        )
        return Answer[FastenerLoadResult](
            call=call,
            working=tuple(steps),
            findings=("no_fastener",),
            result=FastenerLoadResult(load_kg=None, allowed_kg=allowed, share=None, needed=needed),
        )
    shear = weight / r.fasteners
    load = shear + pull
    steps += [
        Step(
            step="across, each",
            expression=f"{weight:.4g} / {r.fasteners}",
            value=shear,
            unit="kg",
            kind="weight",
        )
    ]
    if levered:
        steps.append(
            Step(
                step="pulled out, each of those pulled",
                expression=f"{weight:.4g} · {r.reach_m:.4g} / ({r.arm_m:.4g} · {max(r.pulled, 1)})",
                value=pull,
                unit="kg",
                kind="weight",
            )
        )
    share = load / allowed
    said = (
        f"{both(load, 'weight')} on the hardest-worked of {r.fasteners}, {both(allowed, 'weight')}"
    )
    if share > 1 + 1e-9:
        call = Call(
            verdict=Verdict.SHORT,
            because=f"{said} allowed.",
            do_next=f"Set {needed} of them, stronger ones, or reach the studs.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{said} allowed.")
    return Answer[FastenerLoadResult](
        call=call,
        working=tuple(steps),
        findings=("overloaded",) if share > 1 + 1e-9 else (),
        result=FastenerLoadResult(load_kg=load, allowed_kg=allowed, share=share, needed=needed),
    )


def _no_lever(r: FastenerLoadRequest, allowed: float) -> Answer[FastenerLoadResult]:
    """The weight hangs off the wall, and nobody measured the arm that holds against it."""
    return Answer[FastenerLoadResult](
        call=Call(
            verdict=Verdict.UNKNOWN,
            because=f"It hangs {both(r.reach_m, 'small')} off the wall, and how far the pulled "
            "fasteners sit above the edge it turns about is not measured.",
            do_next="Measure from the lower edge up to the pulled fasteners.",
        ),
        findings=("lever_missing",),
        result=FastenerLoadResult(load_kg=None, allowed_kg=allowed, share=None, needed=0),
    )
