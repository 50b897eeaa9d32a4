"""What is recorded on Wire: conductors as they are landed, ends as finished, power off and on."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.entry import OneOf, Record, Text, YesNo
from fairline.core.wire.entry import Colour

Side = Literal["start", "end"]
ALL = frozenset({"wire", "valves", "caps"})  # what power may be switched on over
GROUND = "ground"  # the terminal that every block of line voltage has beside the named ones
Id = Annotated[str, Field(min_length=1, max_length=24)]


class Landing(Record):
    """One conductor under a terminal: of which cable, at which of its ends, and whether pulled.

    ``block`` and ``terminal`` say where it lies, whatever was planned. A blank ``colour`` takes the
    cable's conductor off that terminal.
    """

    struck = "the landing of a conductor"

    kind: Literal["landing"] = "landing"
    cable: Id
    side: Side
    block: Id
    terminal: Annotated[str, Field(min_length=1, max_length=8)]
    colour: OneOf[Colour] = None
    pulled: bool = False


class WireEnd(Record):
    """How a cable's end was finished, once its conductors were landed.

    ``letter`` is what it is marked with. ``tip``: as the terminal takes it, or bare strands under a
    screw that wants a lug or ferrule. ``plug``: the factory's test plug, out, or none was there.
    """

    struck = "the finish of a cable's end"

    kind: Literal["wire-end"] = "wire-end"
    cable: Id
    side: Side
    letter: Annotated[Text, Field(max_length=12)] = ""
    tip: OneOf[Literal["taken", "bare"]] = None
    slack: YesNo = None
    strain: YesNo = None
    cover: YesNo = None
    plug: OneOf[Literal["out", "none", "in"]] = None
    shield: OneOf[Literal["grounded", "taped"]] = None


class SwitchedOff(Record):
    """A unit's circuit was switched off; ``locked`` where nobody can switch it on again."""

    struck = "a switching off"

    kind: Literal["switched-off"] = "switched-off"
    unit: Id
    locked: YesNo = None


class ProvedDead(Record):
    """A unit was proved dead with a tester that was tried on something live before and after.

    ``how`` is ``not fed`` where no circuit reaches the unit yet, seen at both ends.
    """

    struck = "a proof that it is dead"

    kind: Literal["proved-dead"] = "proved-dead"
    unit: Id
    how: Literal["locked", "not fed"] = "locked"
    tester_before: YesNo = None
    tester_after: YesNo = None
    dead: YesNo = None


class PowerOn(Record):
    """Power came on: what for, and by whose word where something was open still.

    ``passed``: the things that the override passes over, by name; None where nobody kept them.
    """

    struck = "a switching on"

    kind: Literal["power-on"] = "power-on"
    why: Literal["start", "charge", "recover"] = "start"
    override_by: Text = ""
    override_reason: Text = ""
    passed: Annotated[tuple[Text, ...], Field(max_length=20)] | None = None

    @property
    def named(self) -> frozenset[str]:
        """What the override passes over; one of before named nothing, and passed over all."""
        if not self.overridden:
            return frozenset()
        return ALL if self.passed is None else frozenset(self.passed)

    @property
    def overridden(self) -> bool:
        return bool(self.override_by and self.override_reason)

    @model_validator(mode="after")
    def _both_or_none(self) -> "PowerOn":
        if bool(self.override_by) != bool(self.override_reason):
            raise ValueError("an override needs its name and its reason")
        return self
