"""The circuits of an outdoor unit: each pair of valves shuts off a volume of its own.

A single zone, a branch box or a trunk is one volume behind one pair of valves: nothing is asked.
Of home runs a proof is of the ports that were open to it, and says nothing of the others.
"""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from fairline.core.entry import Record, Text
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR
from fairline.core.route.piping import Piping

Open = tuple[str, ...]  # the circuits that were open to the rig, by the runs they begin with


class Ports(Record):
    """Which circuits were open to nitrogen or to the rig, for one hold, pull or decay."""

    struck = "which ports were open"

    kind: Literal["ports"] = "ports"
    run: Annotated[Text, Field(min_length=1)]
    open: Annotated[tuple[Text, ...], Field(min_length=1, max_length=40)]


@dataclass(frozen=True)
class Circuit:
    """What lies behind one pair of valves: its tag, and the runs of it."""

    id: str
    tag: str
    runs: tuple[str, ...]


def circuits_of(pipes: Piping, rules: Rules) -> tuple[Circuit, ...]:
    """The circuits of a system where there are several; none where all of it is one volume.

    So it is too where the sheet has one pair of valves before all ports.
    """
    if rules.outdoor is not None and rules.outdoor.one_valve_pair == "yes":
        return ()
    fed_from = {s.id: s.start for s in pipes.stretches}

    def root(run: str) -> str:
        seen: set[str] = set()
        while fed_from.get(run, OUTDOOR) != OUTDOOR and run not in seen:
            seen.add(run)
            run = fed_from[run]
        return run

    first = [s for s in pipes.stretches if s.start == OUTDOOR]
    if len(first) < 2:
        return ()
    return tuple(
        Circuit(s.id, s.tag, tuple(run for run in fed_from if root(run) == s.id)) for s in first
    )
