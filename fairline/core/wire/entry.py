"""What is entered on Wire: each unit's circuit, colours and cables, what is set at the controls."""

from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, ValidationInfo, field_validator

from fairline.core.calc.circuit import standard
from fairline.core.entry import (
    AmbientC,
    AmpsA,
    CircuitM,
    DistanceM,
    Entry,
    FractionOf1,
    Gauge,
    LongText,
    OneOf,
    Text,
    VoltageV,
    YesNo,
    words,
)
from fairline.core.equipment import Zone
from fairline.core.route.entry import CableBeside

Colour = Literal[
    "black",
    "white",
    "red",
    "blue",
    "brown",
    "grey",
    "orange",
    "yellow",
    "green",
    "green-yellow",
    "bare",
]
GROUND_COLOURS: tuple[Colour, ...] = ("green", "green-yellow", "bare")
NEUTRAL_COLOURS: tuple[Colour, ...] = ("white", "grey", "blue")
COMMON_ORDER: tuple[Colour, ...] = ("black", "white", "red", "blue", "brown", "orange")
HOT_COLOURS: tuple[Colour, ...] = ("black", "red", "brown", "orange", "yellow", "white")
Conduit = Literal["emt", "rigid", "pvc-40", "pvc-80", "liquid-tight"]
Exposure = Literal["inside", "attic", "weather", "sun", "buried", "knocks"]
Way = Literal["sheathed", "conduit", "outdoor-cable"]
InConduit = Literal["wires", "sheathed", "outdoor-cable"]
Rest = Literal[
    "dedicated",
    "grounded",
    "neutral",
    "white",
    "left_behind",
    "whip",
    "bushing",
    "receptacle",
    "gfci",
]
Pair = Literal["black-white", "blue-white"]  # the colours in which control pairs are sold


class SupplyStretch(Entry):
    """A stretch of a circuit on its way from the panel; what is blank is as for all of it."""

    meets: OneOf[Exposure] = None
    length_m: CircuitM = None
    way: OneOf[Way] = None
    conduit: OneOf[Conduit] = None
    inside: OneOf[InConduit] = None


class Supply(Entry):
    """The circuit that feeds one unit, as it is there or is to be.

    ``plate_*``: the nameplate as it was read on site, where it differs from the sheet. ``code_a``
    and ``drop_told``: what a local code or the electrician's own reckoning says of a conductor that
    our tables do not have. ``ground_gauge``: blank while it is not looked at. ``later_*``: the unit
    wanted later. ``been``: whoever makes the connection has made it. ``stretches``: its way from
    the panel to the unit, in order; their lengths and what they meet then speak for all of it.
    """

    circuit: OneOf[Literal["new", "reused"]] = None
    source: Literal["panel", "battery", "generator"] = "panel"
    source_a: AmpsA = None
    source_v: VoltageV = None
    plate_mca_a: AmpsA = None
    plate_mop_a: Annotated[AmpsA, Field(validate_default=True)] = None
    plate_v: VoltageV = None
    volts_v: VoltageV = None
    poles: OneOf[Literal["1", "2"]] = None
    gauge: Gauge = None
    breaker_a: AmpsA = None
    metal: OneOf[Literal["copper", "aluminium"]] = None
    al_terminals: YesNo = None
    joined: YesNo = None
    gauge_2: Gauge = None
    metal_2: OneOf[Literal["copper", "aluminium"]] = None
    length_2_m: CircuitM = None
    box: OneOf[Literal["reached", "hidden"]] = None
    splices: OneOf[Literal["rated", "unrated"]] = None
    ambient_c: AmbientC = None
    on_roof: YesNo = None
    insulation_90: YesNo = None
    terminal_c: OneOf[Literal["60", "75"]] = None
    length_m: CircuitM = None
    code_source: Text = ""
    code_a: AmpsA = None
    drop_told: FractionOf1 = None
    ground_gauge: Gauge = None
    ground_by: Text = ""
    way: OneOf[Way] = None
    exposures: Annotated[tuple[Exposure, ...], BeforeValidator(words), Field(max_length=6)] = ()
    stretches: Annotated[tuple[SupplyStretch, ...], Field(max_length=20)] = ()
    conduit: OneOf[Conduit] = None
    inside: OneOf[InConduit] = None
    disconnect: OneOf[Literal["switch", "fused", "panel", "none"]] = None
    disconnect_a: AmpsA = None
    fuse_a: AmpsA = None
    in_sight: YesNo = None
    disconnect_m: DistanceM = None
    dedicated: OneOf[Literal["yes", "no", "heads"]] = None
    grounded: OneOf[Literal["yes", "conduit", "no"]] = None
    neutral: OneOf[Literal["ok", "used", "loose", "on-ground"]] = None
    white: OneOf[Literal["ok", "unmarked"]] = None
    left_behind: OneOf[Literal["ok", "open"]] = None
    whip: YesNo = None
    bushing: OneOf[Literal["ok", "missing"]] = None
    receptacle: YesNo = None
    gfci: OneOf[Literal["ok", "missing"]] = None
    later_mca_a: AmpsA = None
    later_mop_a: Annotated[AmpsA, Field(validate_default=True)] = None
    who: OneOf[Literal["us", "electrician"]] = None
    who_name: Text = ""
    licence: Text = ""
    comes: Text = ""
    been: YesNo = None

    @field_validator("breaker_a")
    @classmethod
    def _standard(cls, value: float | None, info: ValidationInfo) -> float | None:
        """Standard sizes are those of AWG's country; elsewhere a code has its own.

        Fuses are made in others too.
        """
        metric = str(info.data.get("gauge") or "").endswith("mm²")
        return value if value is None or metric else standard(value)

    @field_validator("plate_mop_a", "later_mop_a")
    @classmethod
    def _in_order(cls, value: float | None, info: ValidationInfo) -> float | None:
        name = str(info.field_name)
        mca = info.data.get(name.replace("mop", "mca"))
        if value is not None and mca is not None and mca > value:
            raise ValueError(f"MCA {mca:g} A is above MOP {value:g} A: read the plate again")
        return value

    @field_validator("code_a")
    @classmethod
    def _says_where(cls, value: float | None, info: ValidationInfo) -> float | None:
        if value is not None and not info.data.get("code_source"):
            raise ValueError("name the code and its paragraph too")
        return value


class CableEntry(Entry):
    """One cable of the interconnect, where it differs from the others of the job.

    ``sunlight`` and ``burial``: whether its jacket is marked for sunlight, and for the ground.
    """

    kind: OneOf[Literal["outdoor", "building", "shielded"]] = None
    gauge: Gauge = None
    way: OneOf[CableBeside] = None
    sunlight: YesNo = None
    burial: YesNo = None


class Address(Entry):
    """What a trunk's head is set to: refrigerant circuit and head, as two digits each."""

    circuit: Annotated[Text, Field(max_length=3)] = ""
    head: Annotated[Text, Field(max_length=3)] = ""

    @field_validator("circuit", "head")
    @classmethod
    def _two_digits(cls, value: str) -> str:
        if value and not value.isdecimal():
            raise ValueError("an address is a number, such as 00 or 03")
        return value.zfill(2) if value else ""

    @property
    def whole(self) -> str:
        """``00-03``; blank while either is."""
        return f"{self.circuit}-{self.head}" if self.circuit and self.head else ""


class WireEntry(Entry):
    """Circuits by the unit they feed, colours in the order of terminals, cables, settings.

    ``box_ports``: the ports set as used at a box's control. ``seen``: addresses that a service
    tool shows. ``controller``: the head at whose terminals a controller joins the pair.
    """

    supplies: dict[str, Supply] = {}
    pair: OneOf[Pair] = None
    colour_1: OneOf[Colour] = None
    colour_2: OneOf[Colour] = None
    colour_3: OneOf[Colour] = None
    colour_4: OneOf[Colour] = None
    colour_ground: OneOf[Colour] = None
    cable_kind: OneOf[Literal["outdoor", "building", "shielded"]] = None
    cable_gauge: Gauge = None
    cable_way: OneOf[CableBeside] = None
    cable_sunlight: YesNo = None
    cable_burial: YesNo = None
    cables: dict[str, CableEntry] = {}
    addresses: dict[str, Address] = {}
    controller: OneOf[Zone] = None
    box_ports: dict[str, Annotated[tuple[Text, ...], BeforeValidator(words)]] = {}
    seen: Annotated[tuple[Text, ...], BeforeValidator(words), Field(max_length=40)] = ()
    notes: LongText = ""

    @field_validator("supplies", "cables", "addresses", "box_ports")
    @classmethod
    def _short_keys(cls, value: dict[str, Any]) -> dict[str, Any]:
        if len(value) > 60 or any(not 1 <= len(key) <= 12 for key in value):
            raise ValueError("no unit is called so")
        return value

    @field_validator("colour_1", "colour_2", "colour_3", "colour_4")
    @classmethod
    def _colours_are_single(cls, value: Colour | None, info: ValidationInfo) -> Colour | None:
        if value in GROUND_COLOURS:
            raise ValueError("green and bare are the ground's alone")
        if value is not None and value in info.data.values():
            raise ValueError(f"{value} is chosen for two terminals")
        return value

    @field_validator("seen")
    @classmethod
    def _as_set(cls, value: tuple[str, ...]) -> tuple[str, ...]:
        """``0-1`` as ``00-01``: as the heads are set."""
        return tuple("-".join(part.zfill(2) for part in v.split("-")) for v in value)

    @field_validator("colour_ground")
    @classmethod
    def _ground_is_told(cls, value: Colour | None) -> Colour | None:
        if value is not None and value not in GROUND_COLOURS:
            raise ValueError("a ground is green, green-yellow or bare")
        return value

    def supply(self, unit: str) -> Supply:
        return self.supplies.get(unit, Supply())

    def cable(self, id: str) -> CableEntry:
        """A cable as it is: its own entry, else what is entered for all."""
        own = self.cables.get(id, CableEntry())
        return CableEntry(
            kind=own.kind or self.cable_kind,
            gauge=own.gauge or self.cable_gauge,
            way=own.way or self.cable_way,
            sunlight=own.sunlight or self.cable_sunlight,
            burial=own.burial or self.cable_burial,
        )

    def colour(self, number: int) -> Colour | None:
        """The colour of the n-th terminal; the common order where none is chosen."""
        own: Colour | None = getattr(self, f"colour_{number}", None)
        if own is not None or number > len(COMMON_ORDER):
            return own
        taken = {getattr(self, f"colour_{n}", None) for n in range(1, 5)}
        common = COMMON_ORDER[number - 1]
        left = [c for c in COMMON_ORDER if c not in taken]
        return common if common not in taken else next(iter(left), None)

    def pair_colour(self, number: int) -> Colour | None:
        """The colour of a pair's n-th conductor; None until somebody looked at the pair."""
        own: Colour | None = getattr(self, f"colour_{number}", None)
        if own is not None or self.pair is None or number > 2:
            return own
        first: Colour = "blue" if self.pair == "blue-white" else "black"
        return first if number == 1 else "white"

    @property
    def ground(self) -> Colour:
        return self.colour_ground or "green"
