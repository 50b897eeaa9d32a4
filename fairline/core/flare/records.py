"""What is entered and recorded at the joints: the wrench, every making, how a seat can look."""

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, model_validator

from fairline.core.calc.flare_torque import wrench_setting_nm
from fairline.core.contents.act import Act, act_of, words
from fairline.core.entry import Degrees, Entry, LongText, Record, SizeM, SpanM, Text, TorqueNm
from fairline.core.parts import CORE, OUTDOOR, PartChange

Look = Literal[
    "good",
    "uneven",
    "split",
    "step",
    "scratch",
    "burr",
    "thinned",
    "small",
    "large",
    "gap",
    "pinhole",
    "overheated",
]

FIRST_NAMES = {  # of the four joints of a single zone, before there were several runs
    "gas_head": "A.gas.end",
    "liquid_head": "A.liquid.end",
    "gas_outdoor": "A.gas.start",
    "liquid_outdoor": "A.liquid.start",
}
MENDS: dict[Look, str] = {  # what to do about a fault of the seat
    "good": "",
    "uneven": "Cut it off square with a sharp wheel and flare again.",
    "split": "Cut back to soft tube, ream less deep, flare again.",
    "step": "Clamp the bar tighter, oil the cone lightly, flare again.",
    "scratch": "Cut it off; keep bar and cone clean.",
    "burr": "Cut it off, ream with the end pointing down, tap the chips out.",
    "thinned": "Cut it off; stop the yoke as the cone bottoms.",
    "small": "Cut it off and set the tube higher in the bar.",
    "large": "Cut it off and set the tube lower in the bar.",
    "gap": "Cut it out and braze it again, heat on the fitting first.",
    "pinhole": "Cut it out and braze it again; never over a leak.",
    "overheated": "Cut it out, with the seat that was heated, and braze it again.",
}
SEAMS: dict[Look, str] = {
    "good": "clean, whole, evenly filled",
    "gap": "a gap: not filled all round",
    "pinhole": "a pinhole or a bubble",
    "overheated": "overheated: black, sagging or burnt",
}
LOOKS: dict[Look, str] = {
    "good": "even, bright, no mark",
    "uneven": "uneven: the bar was not square",
    "split": "split: the tube was hard or cut too deep",
    "step": "a step: the cone slipped",
    "scratch": "scratched seat",
    "burr": "a burr is left",
    "thinned": "thinned: the yoke was over-tightened",
    "small": "too small for the nut",
    "large": "too large: it touches the thread",
}


def look_words(look: Look) -> str:
    """How a flare or a seam looks, in words."""
    return LOOKS.get(look) or SEAMS[look]


class WrenchEntry(Entry):
    """The wrench at hand: length to the grip, adapter offset and its angle (0 in line).

    ``clicks``: it gives way at what it is set to, and shows nothing else.
    """

    wrench_m: SpanM = None
    adapter_m: SpanM = None
    adapter_deg: Degrees = None
    reads: Literal["", "lbf·ft", "lbf·in", "N·m"] = ""
    clicks: bool = False
    notes: LongText = ""

    @model_validator(mode="after")
    def _adapter_needs_wrench(self) -> "WrenchEntry":
        if self.adapter_m and not self.wrench_m:
            raise ValueError("an adapter needs the wrench's length too")
        return self

    def share(self) -> float:
        """What the wrench reads as a share of what the nut gets."""
        if not self.wrench_m:
            return 1.0
        return wrench_setting_nm(
            1.0, self.wrench_m * 1000, (self.adapter_m or 0.0) * 1000, self.adapter_deg or 0
        )


def core_change(unit: str, port: str, in_the_open: bool) -> dict[str, Any]:
    """What a record says of a valve core that was changed at a port of the unit with a token.

    In the open it is a joint made anew; through the core tool nothing was open.
    """
    return {
        "place": f"{OUTDOOR}-{port}.gas.{CORE}",
        "sides": (f"{unit}.{port}", CORE),
        "did": "made" if in_the_open else "tightened",
        "how": "by feel",
        "look": "good",
    }


Opening = Annotated[str, Field(pattern=r"^[A-Za-z0-9]{1,24}\.[\w.]{1,40}$")]
Piece = Annotated[str, Field(pattern=r"^[\w+]{1,60}$")]


class JointRecord(Record):
    """One act at a joint. ``applied_nm`` is at the nut; None where it went by feel.

    ``did``: made, or tightened without opening it, opened, or its end capped. ``sides`` are the
    opening and the tube that it joined that day (``route/joints``); a record of before has none.

    ``loose``: the nut is left loose on purpose while nitrogen purges the line. ``simulated``: no
    wrench read it. ``place`` is the joint's id, ``flare`` whose it is. A brazed joint has no
    torque: ``nitrogen`` flowed meanwhile, and what must stay cool was ``cooled``; ``swage_m`` is
    how deep the tube sits in its swage. ``sealant`` is where any was put on a flare. ``roof``: it
    rained, and the work was under a roof. A valve core is made where it was changed in the open,
    tightened where it was changed through the core tool.
    """

    struck = "the making of a joint"

    kind: Literal["joint"] = "joint"
    place: Annotated[Text, BeforeValidator(lambda v: FIRST_NAMES.get(str(v), v))]
    sides: tuple[()] | tuple[Opening, Piece] = ()
    did: Literal["made", "tightened", "opened", "capped"] = "made"
    look: Look
    how: Literal["measured", "by feel", "brazed", "loose"] = "measured"
    flare: Literal["own", "factory"] = "own"
    nitrogen: Literal["", "yes", "no"] = ""
    cooled: Literal["", "yes", "no"] = ""
    roof: bool = False
    swage_m: SizeM = None
    sealant: Literal["", "none", "seat", "threads"] = ""
    wrench_nm: TorqueNm = None
    applied_nm: TorqueNm = None
    simulated: bool = False

    @model_validator(mode="after")
    def _measured_has_torque(self) -> "JointRecord":
        if self.how == "measured" and self.applied_nm is None:
            raise ValueError("enter the torque, or say that it went by feel")
        return self


def acts_of(record: Record) -> Iterator[Act]:
    """What a record of this stage does to what is in the pipes."""
    if isinstance(record, JointRecord):
        said = words(
            **{record.did: True},
            brazed=record.how == "brazed",
            purge=record.how == "loose",
            core=record.place.endswith(f".{CORE}"),
            roof=record.roof,
        )
        yield act_of("joint", record, place=record.place, sides=record.sides, said=said)
    if isinstance(record, PartChange) and record.how != "corrected":
        for name, ends in record.parts.items():
            if ends.then:  # what comes new opens nothing by itself: its joints do
                yield act_of("machine", record, place=name)
