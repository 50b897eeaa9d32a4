"""What is recorded on Evacuate besides readings: the pump let run, isolated, bled, events."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from fairline.core.contents.act import Act, act_of, words
from fairline.core.entry import GaugePa, OneOf, Record, Text
from fairline.core.flare.records import JointRecord
from fairline.core.readings import Run


class PumpOverride(Record):
    """The pump connected before the pressure test holds: who answers for it, and why.

    It passes over that nitrogen was not on the lines, for one evacuation: not for what comes after
    something else was let in.
    """

    struck = "the pump's override"

    kind: Literal["pump"] = "pump"
    reason: Annotated[Text, Field(min_length=1)]


class Isolation(Record):
    """The act that a decay rests on: the valve shut and the pump seen off, for one run."""

    struck = "that the pump was seen off"

    kind: Literal["isolation"] = "isolation"
    run: Annotated[Text, Field(min_length=1)]


class Bled(Record):
    """The nitrogen let out and the gauge read, before pump and micron gauge come near.

    ``ports``: of a system of several circuits, those that were bled; none named: all.
    """

    struck = "that the nitrogen was bled"

    kind: Literal["bled"] = "bled"
    gauge_pa: GaugePa = 0.0
    ports: Annotated[tuple[Text, ...], Field(max_length=40)] = ()


What = Literal["ballast-open", "ballast-shut", "oil", "sweep", "warmed", "gauge-shut"]
WHAT: dict[What, str] = {
    "ballast-open": "gas ballast open",
    "ballast-shut": "gas ballast shut",
    "oil": "pump oil changed",
    "sweep": "swept with dry nitrogen",
    "warmed": "lines warmed",
    "gauge-shut": "the gauge alone shut off",
}


class PumpEvent(Record):
    """Something done during a pull, or between two: it stands on the chart and in the record.

    ``ports``: the circuits that were open to that pump; none said: all.
    """

    struck = "an event of the pull"

    kind: Literal["pump-event"] = "pump-event"
    what: What
    ports: Annotated[tuple[Text, ...], Field(max_length=40)] = ()


class Exposure(Record):
    """From this moment a run stands open to the air, capped, taped, or sealed with nitrogen.

    ``run`` is what it ends in, or ``all``. Tape is no seal: it is counted, as time of its own.
    """

    struck = "what was said of an open run"

    kind: Literal["exposure"] = "exposure"
    run: Annotated[Text, Field(min_length=1)] = "all"
    state: Literal["opened", "capped", "taped", "sealed"]
    weather: OneOf[Literal["dry", "humid", "rain"]] = None


class Accepted(Record):
    """A hold that did not pass, accepted as it is by name and reason; it stays on the record so."""

    struck = "the acceptance of a decay"

    kind: Literal["accepted"] = "accepted"
    run: Annotated[Text, Field(min_length=1)]
    reason: Annotated[Text, Field(min_length=1)]


@dataclass(frozen=True)
class Recorded:
    """What was recorded on the stage, each kind in order.

    ``by_name``: the pump may run though no nitrogen holds. ``let_in``: what came into the lines
    after the decay, in words.
    """

    isolations: Sequence[Isolation] = ()
    bled: Sequence[Bled] = ()
    events: Sequence[PumpEvent] = ()
    accepted: Sequence[Accepted] = ()
    exposures: Sequence[Exposure] = ()
    joints: Sequence[JointRecord] = ()
    by_name: bool = False
    let_in: str = ""


def acts_of(record: Record) -> Iterator[Act]:
    """What a record of this stage does to what is in the pipes."""
    if isinstance(record, Bled):
        yield act_of("bled", record, gauge_pa=record.gauge_pa or 0.0)
    if isinstance(record, PumpEvent) and record.what == "sweep":
        yield act_of("sweep", record)
    if isinstance(record, Exposure):
        said = words(**{record.state: True}, rain=record.weather == "rain")
        yield act_of("exposure", record, place=record.run, said=said)
    if isinstance(record, PumpOverride):
        yield act_of("pump-by-name", record, why=record.reason)
    if isinstance(record, Isolation):
        yield act_of("seen", record, run=record.run)


def acts_of_run(run: Run) -> Iterator[Act]:
    """The pump on, or the valve to it shut."""
    if run.kind == "hold":
        return
    yield Act(
        kind="pump" if run.kind == "pull" else "decay",
        of=run.kind,
        uid=run.uid,
        at=run.started_at,
        by=run.started_by,
        subject=run.subject,
        said=words(read=bool(run.readings)),
    )
