"""What is entered and recorded on Charge: what the job does differently, weighings, the valves."""

from collections.abc import Container, Iterable, Iterator
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from fairline.core.charge.override import GATES, Lacking
from fairline.core.contents.act import Act, act_of, words
from fairline.core.entry import (
    AddedKg,
    ChargeKg,
    CylinderKg,
    Entry,
    LengthM,
    LongText,
    OneOf,
    RateKgM,
    Record,
    Text,
    YesNo,
)

SchoolOrder = Literal[  # in which order valves are opened, by the schools of the trade
    "gas_first",
    "liquid_cracked",
    "core_in_vacuum",
    "hose_last",
    "core_tool",
    "through_zero",
]
ValveOrder = Literal[SchoolOrder, "kit"]


class ChargeEntry(Entry):
    """What this job does differently with its charge, with the reason.

    ``rate_again``: a rate that looked like a misread column, as it was read a second time, by whom
    and on which page. ``report_kg``: what a maker's design report for this very job adds to the
    factory charge, on which page, for how much line.
    """

    short_line: Literal["", "recover", "leave"] = ""
    short_line_reason: Text = ""
    valve_order: SchoolOrder | Literal[""] = ""
    valve_order_reason: Text = ""
    rate_again: RateKgM = None
    rate_by: Text = ""
    rate_page: Text = ""
    report_kg: AddedKg = None
    report_page: Text = ""
    report_length_m: LengthM = None
    notes: LongText = ""

    @model_validator(mode="after")
    def _says_why(self) -> "ChargeEntry":
        differs = (self.short_line, self.short_line_reason)
        ordered = (self.valve_order, self.valve_order_reason)
        if any(own and not why for own, why in (differs, ordered)):
            raise ValueError("say why this job differs from the company's rules")
        return self


Hose = Literal[
    "purged",  # full of refrigerant when the cylinder was weighed: it takes nothing more
    "vacuum",  # under the vacuum with the lines
    "neither",  # air in it goes in too
]


class Weighing(Record):
    """One weighing: the cylinder before and after, less what stayed in the hose.

    ``way``: charged in, or taken out and recovered; the weights must agree with it. ``running``:
    while the system ran; ``simulated``: no scale weighed it. ``emptied``, of what was taken out:
    the gauge came to nought, nothing is left. ``refrigerant`` of the cylinder, where it is said;
    ``tare_kg``: the empty cylinder; ``phase``: as what it was drawn; ``hose``: what was in the hose
    when the cylinder was weighed. ``ports``: the circuits that
    it went into or came out of; none named: those that are open to it.
    """

    struck = "a weighing"

    kind: Literal["weighing"] = "weighing"
    way: Literal["in", "out"] = "in"
    cylinder: Text = ""
    before_kg: CylinderKg
    after_kg: CylinderKg
    hose_kg: ChargeKg = None
    refrigerant: Text = ""
    tare_kg: CylinderKg = None
    phase: OneOf[Literal["liquid", "vapour"]] = None
    hose: OneOf[Hose] = None
    running: bool = False
    emptied: YesNo = None
    ports: Annotated[tuple[Text, ...], Field(max_length=40)] = ()
    simulated: bool = False

    @model_validator(mode="before")
    @classmethod
    def _kept_before(cls, value: Any) -> Any:
        """Weighings kept before the way was asked say it by their weights."""
        if isinstance(value, dict) and "way" not in value:
            before, after = value.get("before_kg"), value.get("after_kg")
            if isinstance(before, int | float) and isinstance(after, int | float):
                return value | {"way": "out" if after > before else "in"}
        return value

    @model_validator(mode="after")
    def _full_hose(self) -> "Weighing":
        if self.hose == "purged" and self.hose_kg:
            raise ValueError(
                "hose: it was full before the cylinder was weighed, so nothing of this stayed in it"
            )
        return self

    @model_validator(mode="after")
    def _both_weights(self) -> "Weighing":
        if self.before_kg is None or self.after_kg is None:
            raise ValueError("weigh the cylinder before and after")
        heavier = self.after_kg > self.before_kg
        if self.way == "in" and heavier:
            raise ValueError(
                "the cylinder weighs more after than before: exchange the two, or say that "
                "refrigerant was taken out"
            )
        if self.way == "out" and self.after_kg < self.before_kg:
            raise ValueError(
                "the cylinder weighs less after than before: exchange the two, or say that "
                "refrigerant was charged in"
            )
        return self

    @property
    def into_system_kg(self) -> float:
        """What went into the system; negative where refrigerant was taken out."""
        moved = (self.before_kg or 0.0) - (self.after_kg or 0.0)
        # What stayed in the hose came out of the cylinder, or out of the system.
        return moved - (self.hose_kg or 0.0)


class Standing(Entry):
    """A cylinder that stands on the scale, as far as its form is filled in."""

    way: Literal["in", "out"] = "in"
    before_kg: CylinderKg = None
    after_kg: CylinderKg = None
    hose_kg: ChargeKg = None
    tare_kg: CylinderKg = None
    cylinder: Text = ""
    refrigerant: Text = ""
    phase: OneOf[Literal["liquid", "vapour"]] = None
    hose: OneOf[Hose] = None


class Release(Record):
    """The opening of the service valves; an override carries its name and reason for good.

    ``ports``: of a system of several circuits, those whose valves were opened; none named: all.
    ``passed``: the things that the override passes over, by their names (``charge/override``); None
    where nobody kept them.
    """

    struck = "the opening of the valves"

    kind: Literal["release"] = "release"
    order: ValveOrder
    ports: Annotated[tuple[Text, ...], Field(max_length=40)] = ()
    full_open: bool = False
    caps_on: bool = False
    hiss: Literal["", "heard", "none"] = ""  # of a charged kit, as each valve opened
    override_by: Text = ""
    override_reason: Text = ""
    passed: Annotated[tuple[Text, ...], Field(max_length=20)] | None = None

    @property
    def overridden(self) -> bool:
        return bool(self.override_by and self.override_reason)

    @property
    def named(self) -> frozenset[str]:
        """What the override passes over; one of before, which named nothing, all the gates."""
        if not self.overridden:
            return frozenset()
        return GATES if self.passed is None else frozenset(self.passed)


def left_undone(release: Release, sealed: bool) -> list[Lacking]:
    """What an opening of the valves leaves undone; ``sealed``: of a charged kit."""
    undone = {
        "full-open": not release.full_open,
        "caps": not release.caps_on,
        "hiss": sealed and release.hiss != "heard",
    }
    return [Lacking(name, "") for name, open_ in undone.items() if open_]


def weighed_kg(
    weighings: Iterable[Weighing], factory_kg: float = 0.0, whole: Container[str] = ()
) -> float:
    """What was weighed into the system beyond the factory's charge; negative where less is in it.

    ``whole``: weighings, by their ids, that took all of it out, the factory's charge too.
    """
    found = 0.0
    for weighing in weighings:
        found = -factory_kg if weighing.uid in whole else found + weighing.into_system_kg
    return found


class ValvesShut(Record):
    """Both service valves shut again. ``ports``: of several circuits, those; none named: all."""

    struck = "the shutting of the valves"

    kind: Literal["valves-shut"] = "valves-shut"
    ports: Annotated[tuple[Text, ...], Field(max_length=40)] = ()


class PumpedDown(Record):
    """A tight system drawn into its outdoor unit: liquid valve shut, compressor off before nought,
    gas valve shut, and the gauge read. The grams stay in the unit.
    """

    struck = "the pumping down"

    kind: Literal["pumped-down"] = "pumped-down"
    ports: Annotated[tuple[Text, ...], Field(max_length=40)] = ()


def acts_of(record: Record) -> Iterator[Act]:
    """What a record of this stage does to what is in the pipes."""
    if isinstance(record, Weighing):
        out = record.way == "out"
        said = words(
            out=out,
            running=record.running,
            emptied=out and record.emptied == "yes",
            by_machine=out and not record.running,
        )
        yield act_of("weighed", record, said=said)
    if isinstance(record, Release):
        said = words(by_name=record.overridden)
        yield act_of("released", record, said=said, why=record.override_reason)
    if isinstance(record, ValvesShut):
        yield act_of("shut", record)
    if isinstance(record, PumpedDown):
        yield act_of("pumped-down", record)
