"""Which heads answer each other's call: their cables are exchanged, and how to put them right."""

from collections import Counter
from itertools import pairwise
from typing import Annotated

from pydantic import Field, field_validator, model_validator

from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict, deciding

Name = Annotated[str, Field(min_length=1, max_length=40)]
Ports = Annotated[list[Name], Field(max_length=40)]


class CrossWireRequest(Request):
    """``intended``: the port that each head's tubes are on. ``observed``: for each head that was
    called alone, the ports whose tubes answered."""

    intended: Annotated[dict[Name, Name], Field(min_length=1, max_length=40)]
    observed: Annotated[dict[Name, Ports], Field(max_length=40)]

    @field_validator("intended")
    @classmethod
    def _ports_are_single(cls, value: dict[str, str]) -> dict[str, str]:
        for port in value.values():
            twice = [head for head, its in value.items() if its == port]
            if len(twice) > 1:
                raise ValueError(f"port {port} stands twice, at {twice[0]} and {twice[1]}")
        return value

    @model_validator(mode="after")
    def _heads_are_known(self) -> "CrossWireRequest":
        for head in self.observed:
            if head not in self.intended:
                raise ValueError(f"observed: there is no head called {head}")
        return self


class CrossWireResult(Frozen):
    """``cycles``: heads whose cables are exchanged, each on the port of the one after it.

    ``swaps``: pairs of ports, to be exchanged in this order. ``ok``: heads that answer themselves.
    """

    cycles: tuple[tuple[str, ...], ...]
    ok: tuple[str, ...]
    swaps: tuple[tuple[str, str], ...] = ()


def _cycles(lands: dict[str, str]) -> list[tuple[str, ...]]:
    """The closed rounds of a map of heads to the heads whose ports answer them."""
    found, seen = [], set()
    for first in sorted(lands):
        way, at = [], first
        while at in lands and at not in seen:
            seen.add(at)
            way.append(at)
            at = lands[at]
        if len(way) > 1 and at == first:
            found.append(tuple(way))
    return found


def _sure(request: CrossWireRequest, answered: dict[str, list[str]]) -> dict[str, str]:
    """The head whose port answered each call, where one port did and no other call had it too."""
    heads = {port: head for head, port in request.intended.items()}
    single = {head: ports[0] for head, ports in answered.items() if len(ports) == 1}
    count = Counter(single.values())
    return {h: heads[p] for h, p in single.items() if p in heads and count[p] == 1}


def cross_wire(request: CrossWireRequest) -> Answer[CrossWireResult]:
    """Hold what answered each head's call against the port its tubes are on.

    >>> asked = {"intended": {"A": "A", "B": "B", "C": "C"},
    ...          "observed": {"A": ["A"], "B": ["C"], "C": ["B"]}}
    >>> cross_wire(CrossWireRequest.model_validate(asked)).result.swaps
    (('B', 'C'),)
    """
    answered = {head: sorted(set(ports)) for head, ports in request.observed.items()}
    sure = _sure(request, answered)
    cycles = _cycles(sure)
    swaps = tuple(
        (request.intended[a], request.intended[b]) for cycle in cycles for a, b in pairwise(cycle)
    )
    silent = sorted(head for head, ports in answered.items() if not ports)
    several = sorted(h for h, ports in answered.items() if ports and h not in sure)
    missing = sorted(set(request.intended) - set(request.observed))
    calls, findings = _told(cycles, swaps, silent, several, missing)
    return Answer[CrossWireResult](
        call=deciding(calls),
        governed_by=(),
        working=tuple(
            Step(
                step=f"{head} called",
                expression=f"tubes of port {request.intended[head]}; answered: "
                f"{', '.join(ports) or 'none'}",
                value=float(len(ports)),
                unit="ports",
            )
            for head, ports in sorted(answered.items())
        ),
        findings=tuple(findings),
        result=CrossWireResult(
            cycles=tuple(cycles),
            ok=tuple(sorted(h for h, at in sure.items() if at == h)),
            swaps=swaps,
        ),
    )


def _told(
    cycles: list[tuple[str, ...]],
    swaps: tuple[tuple[str, str], ...],
    silent: list[str],
    several: list[str],
    missing: list[str],
) -> tuple[list[Call], list[str]]:
    """What is not in order; what is not certain comes first, for it may change the rest."""
    calls, findings = [], []
    if silent:
        findings.append("no_response")
        calls.append(
            Call(
                verdict=Verdict.UNKNOWN,
                because=f"Nothing answered the call of {', '.join(silent)}.",
                do_next=f"Wait out the start-up logic, call {silent[0]} alone again, then look at "
                "its cable.",
            )
        )
    if several:
        findings.append("ambiguous")
        calls.append(
            Call(
                verdict=Verdict.UNKNOWN,
                because=f"What answered {', '.join(several)} is not one port of its own.",
                do_next=f"Switch all heads off, wait, and call {several[0]} alone.",
            )
        )
    crossed = "; ".join(" → ".join((*c, c[0])) for c in cycles)
    if cycles:
        findings.append("crossed")
    if missing and not calls:  # all are called before anything is opened
        so_far = f" Crossed so far: {crossed}." if cycles else ""
        calls.append(
            Call(
                verdict=Verdict.WAIT,
                because=f"Not called yet: {', '.join(missing)}.{so_far}",
                do_next=f"Call {missing[0]} alone and feel which tubes go cold.",
            )
        )
    if cycles and not calls:
        pairs = ", then on ".join(f"{a} and {b}" for a, b in swaps)
        calls.append(
            Call(
                verdict=Verdict.SHORT,
                because=f"Crossed: {crossed}.",
                do_next=f"Power off, prove dead, exchange the cables on {pairs}.",
            )
        )
    if not calls:
        calls.append(Call(verdict=Verdict.HOLDS, because="Every head answers its own call."))
    return calls, findings
