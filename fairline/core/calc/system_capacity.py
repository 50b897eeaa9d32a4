"""The heads of a system against what one outdoor unit may carry, now and later."""

from collections.abc import Sequence
from typing import Annotated

from pydantic import Field, model_validator

from fairline.core.call import Answer, Call, Frozen, Limit, Request, Step, Verdict, sheet_limit
from fairline.core.check import plural
from fairline.core.quantities import both

Watts = Annotated[float, Field(gt=0, le=1e6)]
Heads = Annotated[int, Field(ge=0, le=100)]


class WantedHeadLoad(Request):
    """A head with its rated cooling; ``later`` where it comes another year."""

    id: Annotated[str, Field(min_length=1, max_length=100)]
    cool_w: Watts
    later: bool = False


class CarryRule(Request):
    """What the outdoor unit's sheet permits; None where it is silent."""

    min_connected_w: Annotated[float, Field(ge=0, le=1e6)] | None = None
    max_connected_w: Watts | None = None
    min_heads: Heads | None = None
    max_heads: Heads | None = None
    ports: Heads | None = None

    @model_validator(mode="after")
    def _in_order(self) -> "CarryRule":
        for low, high, what in (
            (self.min_connected_w, self.max_connected_w, "connected_w"),
            (self.min_heads, self.max_heads, "heads"),
        ):
            if low is not None and high is not None and low > high:
                raise ValueError(f"min_{what} is above max_{what}")
        return self


class SystemCapacityRequest(Request):
    heads: Annotated[list[WantedHeadLoad], Field(min_length=1, max_length=100)]
    rule: CarryRule

    @model_validator(mode="after")
    def _ids_are_single(self) -> "SystemCapacityRequest":
        ids = [h.id for h in self.heads]
        if len(set(ids)) != len(ids):
            raise ValueError("heads: an id stands twice")
        return self


class SystemCapacityResult(Frozen):
    """Σ of the heads' rated cooling and their number, now and with those of later."""

    connected_w: float
    connected_later_w: float
    heads: int
    heads_later: int


def _faults(
    request: SystemCapacityRequest, result: SystemCapacityResult, most_heads: int | None
) -> list[tuple[str, str, str]]:
    """What lies outside the range: a finding, in words, and what to do."""
    faults: list[tuple[str, str, str]] = []
    rule, now = request.rule, result.heads
    connected, later = result.connected_w, result.connected_later_w
    if rule.max_connected_w is not None:
        for when, value in (("now", connected), ("with the heads of later", later)):
            if value > rule.max_connected_w + 1e-6 and not faults:
                faults.append(
                    (
                        "over_capacity",
                        f"{both(value, 'power')} connected {when} is over "
                        f"{both(rule.max_connected_w, 'power')}",
                        "Choose a larger outdoor unit, or smaller heads.",
                    )
                )
    if rule.min_connected_w is not None and now and connected < rule.min_connected_w - 1e-6:
        faults.append(
            (
                "under_capacity",
                f"{both(connected, 'power')} connected now is under "
                f"{both(rule.min_connected_w, 'power')}",
                "Choose a smaller outdoor unit, or hang more heads now.",
            )
        )
    if most_heads is not None and len(request.heads) > most_heads:
        faults.append(
            (
                "too_many_heads",
                f"{plural(len(request.heads), 'head')}, now and later, for {most_heads}",
                "Choose an outdoor unit with a place for each head.",
            )
        )
    if rule.min_heads is not None and now and now < rule.min_heads:
        faults.append(
            (
                "too_few_heads",
                f"{plural(now, 'head')} now, at least {rule.min_heads} wanted",
                "Choose another outdoor unit, or hang more heads now.",
            )
        )
    return faults


def _limits(rule: CarryRule, most_heads: int | None) -> tuple[Limit, ...]:
    return tuple(
        sheet_limit(limit=label, value=float(v), unit=u, source="the request")
        for label, v, u in (
            ("least connected capacity", rule.min_connected_w, "W"),
            ("most connected capacity", rule.max_connected_w, "W"),
            ("least number of heads", rule.min_heads, "heads"),
            ("most heads", most_heads, "heads"),
        )
        if v is not None
    )


def _call(
    request: SystemCapacityRequest,
    later_w: float,
    faults: Sequence[tuple[str, str, str]],
    most_heads: int | None,
) -> Call:
    least, most = request.rule.min_connected_w, request.rule.max_connected_w
    if least is not None and most is not None and least > most:
        return Call(
            verdict=Verdict.UNKNOWN,
            because=f"At least {both(least, 'power')} and at most {both(most, 'power')} "
            "are wanted: no system can have both.",
            do_next="Look at both limits again: the sheet, the code entry, company rules.",
        )
    if faults:
        because = "; ".join(because for _, because, _ in faults) + "."
        return Call(verdict=Verdict.SHORT, because=because, do_next=faults[0][2])
    if most is None or most_heads is None:
        missing = "most connected capacity" if most is None else "most heads"
        return Call(
            verdict=Verdict.UNKNOWN,
            because=f"The sheet does not say the {missing}.",
            do_next=f"Find the {missing} on the outdoor unit's sheet.",
        )
    return Call(
        verdict=Verdict.HOLDS,
        because=f"{plural(len(request.heads), 'head')} of {both(later_w, 'power')} in all, "
        f"{both(most, 'power')} at most.",
    )


def system_capacity(
    request: SystemCapacityRequest, governed_by: tuple[Limit, ...] | None = None
) -> Answer[SystemCapacityResult]:
    """Hold Σ of head capacity and the number of heads against the permitted range.

    The range must hold now, and again when the heads wanted later are on. W in and out.
    ``governed_by``: who says each limit, where it is not the request.

    >>> asked = {"heads": [{"id": "A", "cool_w": 2600.0}, {"id": "B", "cool_w": 3500.0}],
    ...          "rule": {"max_connected_w": 5000.0}}
    >>> system_capacity(SystemCapacityRequest.model_validate(asked)).call.verdict.value
    'short'
    """
    rule = request.rule
    now = [h for h in request.heads if not h.later]
    connected, later = sum(h.cool_w for h in now), sum(h.cool_w for h in request.heads)
    most_heads = min((n for n in (rule.max_heads, rule.ports) if n is not None), default=None)
    result = SystemCapacityResult(
        connected_w=connected,
        connected_later_w=later,
        heads=len(now),
        heads_later=len(request.heads),
    )
    faults = _faults(request, result, most_heads)
    terms = " + ".join(f"{h.cool_w:.0f}" for h in request.heads if not h.later)
    working = [Step(step="connected now", expression=terms or "0", value=connected, unit="W")]
    if len(now) < len(request.heads):
        terms = " + ".join(f"{h.cool_w:.0f}" for h in request.heads)
        working.append(
            Step(step="with the heads of later", expression=terms, value=later, unit="W")
        )
    return Answer[SystemCapacityResult](
        call=_call(request, later, faults, most_heads),
        governed_by=_limits(rule, most_heads) if governed_by is None else governed_by,
        working=tuple(working),
        findings=tuple(f[0] for f in faults),
        result=result,
    )
