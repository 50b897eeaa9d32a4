"""Added charge for line length, and what the tube can hold at all."""

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import Answer, Call, Frozen, Limit, Request, Step, Verdict, sheet_limit
from fairline.core.physics.tubing import full_liquid_kg_per_m, same_size, size_label
from fairline.core.quantities import both

Name = Annotated[str, Field(min_length=1, max_length=200)]
Kg = Annotated[float, Field(ge=0, le=10_000)]
Metres = Annotated[float, Field(ge=0, le=100_000)]
Millimetres = Annotated[float, Field(gt=0, le=200)]

FULL_TUBE_MARGIN = 1.25  # a rate above this share of a tube full of liquid is a misread column
LEAST_OF_TUBE = 0.3  # one below this share has slipped a decimal; our own choice


class Segment(Request):
    id: Name
    liquid_od_mm: Millimetres
    length_m: Metres
    zone: Name | None = None


class Rate(Request):
    liquid_od_mm: Millimetres
    kg_per_m: Annotated[float, Field(ge=0, le=100)]


class ChargeRule(Request):
    included_length_m: Metres
    included_applies_to: Literal["system", "each_zone"]
    rates: Annotated[list[Rate], Field(min_length=1, max_length=50)]
    included_rate_kg_per_m: Annotated[float, Field(ge=0, le=100)] | None = None
    head_adders_kg: dict[str, Kg] | None = None
    base_adder_kg: Kg | None = None
    max_added_kg: Kg | None = None

    @model_validator(mode="after")
    def _one_rate_a_size(self) -> "ChargeRule":
        sizes = [r.liquid_od_mm for r in self.rates]
        if len(set(sizes)) != len(sizes):
            raise ValueError("rates: the same liquid diameter stands twice")
        return self


class ChargedHead(Request):
    id: Name
    class_: Annotated[Name, Field(alias="class")]


class AddedChargeRequest(Request):
    """Lengths in m, rates in kg/m; ``zone`` names the zone a segment serves (each_zone)."""

    segments: Annotated[list[Segment], Field(min_length=1, max_length=1000)]
    rule: ChargeRule
    heads: Annotated[list[ChargedHead], Field(max_length=1000)] | None = None
    short_line: Literal["recover", "leave"]
    factory_charge_kg: Kg | None = None
    max_total_kg: Kg | None = None
    refrigerant: Literal["R-32", "R-454B", "R-410A"] | None = None

    @model_validator(mode="after")
    def _ids_are_single(self) -> "AddedChargeRequest":
        for name, items in (("segments", self.segments), ("heads", self.heads or [])):
            ids = [item.id for item in items]
            if len(set(ids)) != len(ids):
                raise ValueError(f"{name}: an id stands twice")
        return self


class Share(Frozen):
    """What one segment, adder or credit brings. ``kg`` is negative for the included length."""

    id: str
    kg: float
    length_m: float | None = None
    liquid_od_mm: float | None = None
    kg_per_m: float | None = None
    zone: str | None = None


class AddedChargeResult(Frozen):
    added_kg: float | None
    total_kg: float | None = None
    breakdown: tuple[Share, ...] = ()


def rate_for(rates: list[Rate], od_mm: float) -> float | None:
    """The rate of a liquid tube in kg/m: of the same size within 0.1 mm; None where none is given.

    >>> rate_for([Rate(liquid_od_mm=6.35, kg_per_m=0.02)], 6.4)
    0.02
    >>> rate_for([Rate(liquid_od_mm=6.35, kg_per_m=0.02)], 9.52) is None
    True
    """
    near = min(rates, key=lambda r: abs(r.liquid_od_mm - od_mm))
    return near.kg_per_m if same_size(near.liquid_od_mm, od_mm) else None


def _unknown(finding: str, because: str, do_next: str) -> Answer[AddedChargeResult]:
    return Answer[AddedChargeResult](
        call=Call(verdict=Verdict.UNKNOWN, because=because, do_next=do_next),
        findings=(finding,),
        result=AddedChargeResult(added_kg=None),
    )


def _credits(request: AddedChargeRequest, shares: list[Share]) -> list[Share] | None:
    """The included length as negative shares: once for the system, or once for each zone.

    At the rule's own rate, else at the one rate of the segments that it covers; None where these
    have several. Where a short line is left as it is, a credit never exceeds its length.
    """
    rule, leave = request.rule, request.short_line == "leave"
    if rule.included_length_m <= 0:
        return []
    covered: dict[str, list[Share]] = {}
    for share in shares:
        if rule.included_applies_to == "system":
            covered.setdefault("", []).append(share)
        elif share.zone is not None:  # a main run belongs to no zone: charged in full
            covered.setdefault(share.zone, []).append(share)
    found = []
    for zone, own in covered.items():
        rates = {s.kg_per_m for s in own}
        rate = rule.included_rate_kg_per_m
        if rate is None and len(rates) == 1:
            rate = own[0].kg_per_m
        if rate is None:
            return None
        length = rule.included_length_m
        if leave:
            length = min(length, math.fsum(s.length_m or 0.0 for s in own))
        found.append(
            Share(
                id=f"pre-charged length, {zone}" if zone else "pre-charged length",
                kg=-length * rate,
                length_m=length,
                kg_per_m=rate,
                zone=zone or None,
            )
        )
    return found


def _share(rule: ChargeRule, segment: Segment) -> Share | None:
    """What a segment's length asks for; None where the rule has no rate for its tube."""
    rate = rate_for(rule.rates, segment.liquid_od_mm)
    if rate is None:
        return None
    return Share(
        id=segment.id,
        kg=segment.length_m * rate,
        length_m=segment.length_m,
        liquid_od_mm=segment.liquid_od_mm,
        kg_per_m=rate,
        zone=segment.zone,
    )


def _working(
    request: AddedChargeRequest,
    shares: list[Share],
    credits: list[Share],
    adders: list[Share],
    added_kg: float,
) -> tuple[Step, ...]:
    steps = [(f"line {s.id}", f"{s.length_m:.3f} m · {s.kg_per_m:.5f} kg/m", s.kg) for s in shares]
    for s in credits:
        left = s.length_m is None
        words = "never below nought" if left else f"−{s.length_m:.3f} m · {s.kg_per_m:.5f} kg/m"
        steps.append((s.id, words, s.kg))
    steps += [(a.id, "adder", a.kg) for a in adders]
    left = request.short_line == "leave"
    steps.append(
        ("added charge", "sum, never below nought for the line" if left else "sum", added_kg)
    )
    if (factory := request.factory_charge_kg) is not None:
        steps.append(("total charge", f"{factory:.4f} + {added_kg:.4f}", factory + added_kg))
    return tuple(Step(step=n, expression=words, value=kg, unit="kg") for n, words, kg in steps)


def added_charge(
    request: AddedChargeRequest, limits: tuple[Limit, ...] | None = None
) -> Answer[AddedChargeResult]:
    """Charge to add for the length beyond what the factory charge covers; negative: recover.

    Added = Σ rate·length − included length·its rate + adders (the maker's rule). Under "leave"
    the line's part is never below nought.

    >>> asked = {"segments": [{"id": "a", "liquid_od_mm": 6.35, "length_m": 9.62}],
    ...          "rule": {"included_length_m": 7.62, "included_applies_to": "system",
    ...                   "rates": [{"liquid_od_mm": 6.35, "kg_per_m": 0.02}]},
    ...          "short_line": "recover"}
    >>> round(added_charge(AddedChargeRequest.model_validate(asked)).result.added_kg, 3)
    0.04
    """
    shares = []
    for segment in request.segments:
        if (share := _share(request.rule, segment)) is None:
            size = size_label(segment.liquid_od_mm)
            return _unknown(
                "rate_missing",
                f"No rate is given for a {size} liquid tube.",
                f"Enter the sheet's rate for {size}.",
            )
        shares.append(share)
    credits = _credits(request, shares)
    if credits is None:
        return _unknown(
            "included_rate_missing",
            "Tubes of several rates, and none is named for the included length.",
            "Enter at which rate the sheet credits the included length.",
        )
    line_kg = math.fsum(s.kg for s in shares + credits)
    if request.short_line == "leave" and line_kg < 0:
        credits.append(Share(id="left in a short line", kg=-line_kg))
        line_kg = 0.0
    classes = request.rule.head_adders_kg or {}
    unnamed = [h.class_ for h in request.heads or [] if h.class_ not in classes]
    if classes and unnamed:
        return _unknown(
            "head_adder_missing",
            f"The rule names no adder for head class {unnamed[0]}.",
            "Enter the sheet's adder for that class, 0 if it has none.",
        )
    adders = [Share(id=h.id, kg=classes.get(h.class_, 0.0)) for h in request.heads or []]
    if base_kg := request.rule.base_adder_kg:
        adders.insert(0, Share(id="base adder", kg=base_kg))
    added = line_kg + math.fsum(a.kg for a in adders)
    total = None if request.factory_charge_kg is None else request.factory_charge_kg + added
    findings, call = _judge(request, added, total)
    return Answer[AddedChargeResult](
        call=call,
        governed_by=_limits(request) if limits is None else limits,
        working=_working(request, shares, credits, adders, added),
        findings=tuple(findings),
        result=AddedChargeResult(
            added_kg=added, total_kg=total, breakdown=(*shares, *credits, *adders)
        ),
    )


def _judge(
    request: AddedChargeRequest, added: float, total: float | None
) -> tuple[list[str], Call]:
    """Findings in falling order of harm; the first decides the call."""
    rule = request.rule
    found: list[tuple[str, Call]] = []

    def say(finding: str, verdict: Verdict, because: str, do_next: str) -> None:
        found.append((finding, Call(verdict=verdict, because=because, do_next=do_next)))

    most = request.max_total_kg
    if most is not None and total is not None and total > most + 1e-9:
        say(
            "over_max_total",
            Verdict.STOP,
            f"{both(total, 'charge')} in all is over the most the unit may hold, "
            f"{both(most, 'charge')}.",
            "Do not add charge: shorten the line or choose another unit.",
        )
    if rule.max_added_kg is not None and added > rule.max_added_kg + 1e-9:
        say(
            "over_max_added",
            Verdict.SHORT,
            f"{both(added, 'charge')} is more than the sheet lets one add, "
            f"{both(rule.max_added_kg, 'charge')}.",
            "Shorten the line or choose another unit.",
        )
    for finding, because, do_next in _doubtful_rates(request):
        say(finding, Verdict.WATCH, because, do_next)
    if added < -1e-9:
        say(
            "recover",
            Verdict.WATCH,
            f"The line is short: {both(-added, 'charge')} is too much.",
            f"Recover {both(-added, 'charge')} into a cylinder, by weight.",
        )
    if found:
        return [name for name, _ in found], found[0][1]
    if added <= 1e-9:
        return [], Call(verdict=Verdict.HOLDS, because="The factory charge covers this line.")
    return [], Call(
        verdict=Verdict.HOLDS,
        because=f"{both(added, 'charge')} belongs in for the length beyond what is covered.",
        do_next=f"Weigh in {both(added, 'charge')} as liquid.",
    )


def _doubtful_rates(request: AddedChargeRequest) -> list[tuple[str, str, str]]:
    """Rates that the tube cannot be meant with: a finding of each kind, in words, what to do."""
    found: dict[str, tuple[str, str, str]] = {}
    for rate in request.rule.rates if request.refrigerant else ():
        size = size_label(rate.liquid_od_mm)
        full = full_liquid_kg_per_m(str(request.refrigerant), rate.liquid_od_mm)
        if full is None or not rate.kg_per_m:
            continue
        do_next = "Read the rate on the sheet again, for this tube size."
        said, holds = both(rate.kg_per_m, "rate"), both(full, "rate")
        if rate.kg_per_m > FULL_TUBE_MARGIN * full:
            because = (
                f"{said} is more than a {size} tube full of liquid holds, {holds}: perhaps a "
                "misread column."
            )
            found.setdefault("rate_exceeds_full_tube", ("rate_exceeds_full_tube", because, do_next))
        elif rate.kg_per_m < LEAST_OF_TUBE * full:
            because = (
                f"{said} is little for a {size} tube, which holds {holds} of liquid: perhaps a "
                "decimal too low."
            )
            found.setdefault("rate_below_tube", ("rate_below_tube", because, do_next))
    return list(found.values())


def _limits(request: AddedChargeRequest) -> tuple[Limit, ...]:
    values = (
        ("included length", request.rule.included_length_m, "m"),
        ("most added charge", request.rule.max_added_kg, "kg"),
        ("most total charge", request.max_total_kg, "kg"),
    )
    return tuple(
        sheet_limit(
            limit=name,
            value=value,
            unit=unit,
            source="rule of the request",
        )
        for name, value, unit in values
        if value is not None
    )
