"""A drain as a route of its own: its fall section by section, dips, lift, supports and flow."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import Answer, Authority, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.check import plural
from fairline.core.physics.constants import HOUR_S
from fairline.core.quantities import below, both

IMC_FALL = "IMC 307.2.1, 1/8 unit in 12 units (quoted from memory)"
LATENT_SHARE = 0.30  # of a head's cooling that goes into drying the air; our own choice
VAPORISATION_J_KG = 2.454e6  # water at 20 °C (IAPWS; checked against CoolProp)

FlatM = Annotated[float, Field(ge=-100, le=100)]
LengthM = Annotated[float, Field(ge=0, le=1000)]
Reason = tuple[str, str, str]  # finding, because, do next


class DrainSection(Request):
    """``fall_m``: how far its end lies below its start; negative where it rises."""

    way: Literal["along", "down", "up"] = "along"
    length_m: Annotated[float, Field(gt=0, le=1000)]
    fall_m: FlatM = 0.0

    @model_validator(mode="after")
    def _can_be(self) -> "DrainSection":
        if self.way == "along" and abs(self.fall_m) > self.length_m * (1 + 1e-9):
            raise ValueError(
                f"fall_m: a pipe of {self.length_m:g} m cannot fall {abs(self.fall_m):g} m"
            )
        return self


class DrainLimits(Request):
    min_fall: Annotated[float, Field(gt=0, le=1)] = 1 / 96
    support_every_m: Annotated[float, Field(gt=0, le=100)] = 1.016
    max_pump_lift_m: LengthM | None = None
    pump_within_m: LengthM | None = None
    min_bore_m: Annotated[float, Field(gt=0, le=1)] = 0.01905


class DrainRequest(Request):
    """``cooling_w``: of the heads on this drain. ``joined``: how many drains share it.

    ``bore_m``: inside diameter of the pipe; the maker's own hose belongs to the head.
    """

    sections: Annotated[list[DrainSection], Field(min_length=1, max_length=60)]
    limits: DrainLimits = DrainLimits()
    pumped: bool = False
    bore_m: Annotated[float, Field(gt=0, le=1)] | None = None
    joined: Annotated[int, Field(ge=1, le=40)] = 1
    cooling_w: Annotated[list[Annotated[float, Field(ge=0, le=1e6)]], Field(max_length=40)] = []


class SectionFall(Frozen):
    """A section's fall per length; ``ok`` against the least fall. Heights from the outlet."""

    fall: float
    ok: bool
    from_m: float
    to_m: float


class Dip(Frozen):
    """Where water stands: the section after which the drain rises, and how deep it stands."""

    after: int
    deep_m: float


class DrainResult(Frozen):
    sections: tuple[SectionFall, ...]
    dips: tuple[Dip, ...]
    length_m: float
    fall_m: float
    lift_m: float
    supports: int
    condensate_kg_h: float


def condensate_kg_h(cooling_w: list[float]) -> float:
    """Water expected from heads of these capacities (W) at full load in humid weather, kg/h.

    m = share·P/h, with 30 % of the cooling going into drying (our own choice) and the heat of
    vaporisation at 20 °C.

    >>> round(condensate_kg_h([2600.0, 3500.0]), 2)
    2.68
    """
    return LATENT_SHARE * math.fsum(cooling_w) / VAPORISATION_J_KG * HOUR_S


@dataclass
class _Walk:
    """A drain walked from the head: what each section does, and how far and high one has come."""

    falls: list[SectionFall] = field(default_factory=list)
    dips: list[Dip] = field(default_factory=list)
    reasons: list[Reason] = field(default_factory=list)
    walked: float = 0.0
    height: float = 0.0
    lift: float = 0.0
    lift_at: float = 0.0


def _walk(request: DrainRequest) -> _Walk:
    walk = _Walk()
    least = request.limits.min_fall
    for n, part in enumerate(request.sections, 1):
        drop = {"along": part.fall_m, "down": part.length_m, "up": -part.length_m}[part.way]
        pumped = request.pumped and part.way == "up"
        if pumped:
            walk.lift_at = walk.lift_at if walk.lift else walk.walked
            walk.lift += part.length_m
        fall = drop / part.length_m
        ok = pumped or fall >= least - 1e-9
        at = walk.height
        walk.falls.append(SectionFall(fall=fall, ok=ok, from_m=at, to_m=at - drop))
        rises = drop < -1e-9 and not pumped
        if rises:
            walk.dips.append(Dip(after=n - 1, deep_m=-drop))
        if rises or not ok:
            walk.reasons.append(_fall_reason(n, part, drop, least * part.length_m))
        walk.height -= drop
        walk.walked += part.length_m
    return walk


def _fall_reason(n: int, part: DrainSection, drop: float, need: float) -> Reason:
    if drop < -1e-9:
        because = f"Part {n} rises by {both(-drop, 'small')}: water stands before it."
        return "dip", because, f"Lower the end of part {n}."
    return (
        "too_little_fall",
        f"Part {n} falls {both(drop, 'small')} in {both(part.length_m, 'length')}; it wants "
        f"{both(need, 'small')}.",
        f"Lower the end of part {n} by {both(need - drop, 'small')}.",
    )


def _pump_reasons(limits: DrainLimits, walk: _Walk) -> list[Reason]:
    """What a pump cannot: lift so high, or from so far."""
    if not walk.lift:
        return []
    reasons = []
    most, within = limits.max_pump_lift_m, limits.pump_within_m
    if most is not None and walk.lift > most + 1e-9:
        because = (
            f"The pump lifts {both(walk.lift, 'small')}, at most {both(most, 'small')} is allowed."
        )
        reasons.append(("pump_lift", because, "Lower the top of the lift."))
    if within is not None and walk.lift_at > within + 1e-9:
        because = (
            f"The lift begins {both(walk.lift_at, 'small')} from the outlet, at most "
            f"{both(within, 'small')} is allowed."
        )
        reasons.append(("lift_too_far", because, "Begin the lift nearer to the outlet."))
    return reasons


def _bore_reasons(request: DrainRequest) -> list[Reason]:
    bore, least = request.bore_m, request.limits.min_bore_m
    if bore is None or not below(bore, least, "tube"):
        return []
    joins = f"{plural(request.joined, 'drain')} in " if request.joined > 1 else ""
    because = f"{joins}{both(bore, 'tube')} inside; at least {both(least, 'tube')} is wanted."
    return [("too_thin", because, "Take a larger pipe from the maker's hose on.")]


def _call(request: DrainRequest, walk: _Walk, reasons: Sequence[Reason]) -> Call:
    if reasons:
        return Call(verdict=Verdict.SHORT, because=reasons[0][1], do_next=reasons[0][2])
    lying = [f.fall for f, p in zip(walk.falls, request.sections, strict=True) if p.way == "along"]
    least = min(lying, default=math.inf)
    said = f"at least 1 in {1 / least:.0f}" if 0 < least < math.inf else "straight down"
    return Call(verdict=Verdict.HOLDS, because=f"The drain falls {said} all the way.")


def drain(request: DrainRequest, governing: dict[str, Limit] | None = None) -> Answer[DrainResult]:
    """Whether water runs away by itself: fall of every section, dips, pump lift, size, supports.

    Fall = fall_m / length_m of each section that lies; upright sections only count their height.

    >>> asked = {"sections": [{"length_m": 2.0, "fall_m": 0.03}], "bore_m": 0.02}
    >>> drain(DrainRequest.model_validate(asked)).result.fall_m
    0.03
    """
    limits = request.limits
    walk = _walk(request)
    reasons = [*walk.reasons, *_pump_reasons(limits, walk), *_bore_reasons(request)]
    lying = math.fsum(p.length_m for p in request.sections if p.way == "along")
    supports = sum(
        math.ceil(p.length_m / limits.support_every_m - 1e-9) + 1
        for p in request.sections
        if p.way == "along"
    )
    water = condensate_kg_h(list(request.cooling_w))
    source = Limit(
        limit="least fall of the drain",
        value=limits.min_fall,
        unit="1",
        authority=Authority.COMMON,
        source=IMC_FALL,
    )
    return Answer[DrainResult](
        call=_call(request, walk, reasons),
        governed_by=tuple(governing.values()) if governing else (source,),
        working=(
            Step(step="lying length", expression="Σ of what lies", value=lying, unit="m"),
            Step(
                step="supports",
                expression=f"each part every {limits.support_every_m:.3f}, and one at its start",
                value=float(supports),
                unit="",
            ),
            Step(
                step="water expected",
                expression=f"{LATENT_SHARE:g} · {math.fsum(request.cooling_w):.0f} W / "
                f"{VAPORISATION_J_KG:.4g} J/kg · 3600, {plural(len(request.cooling_w), 'head')}",
                value=water,
                unit="kg/h",
            ),
        ),
        findings=tuple(dict.fromkeys(code for code, _, _ in reasons)),
        result=DrainResult(
            sections=tuple(walk.falls),
            dips=tuple(walk.dips),
            length_m=walk.walked,
            fall_m=-walk.height,
            lift_m=walk.lift,
            supports=supports,
            condensate_kg_h=water,
        ),
    )
