"""Lines in the wall before heads and unit are there: each closed, under nitrogen of its own."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from fairline.core.calc.pressure_hold import (
    HoldReading,
    PressureHoldRequest,
    RequiredHold,
    pressure_hold,
)
from fairline.core.call import Call, Check, Verdict, deciding
from fairline.core.check import fault_call, waiting_check
from fairline.core.entry import GaugePa, OneOf, Record, TemperatureC, Text, YesNo
from fairline.core.flare.stage import Joint
from fairline.core.physics.tubing import tube_at
from fairline.core.pressure_test.hold import BAROMETER_PA, TestEntry
from fairline.core.pressure_test.plan import Plan
from fairline.core.quantities import both
from fairline.core.route.piping import Piping, Stretch

MONTHS_PA = 3_000.0  # by which the air's pressure differs from month to month: WMO, from memory
LEAST_LEFT_PA = 100_000.0  # gauge, that is left on a line: above it a fall shows; our own choice
BOX = {"yes": "A box behind the head", "no": "No box"}
Ends = Literal["capped", "brazed", "open"]
DrainJoint = Literal["slip", "glued", "none"]


class RoughIn(Record):
    """How a line was left in the wall: its ends, what lies in the box behind the head.

    ``drain``: threaded to slip, or glued; ``clamped``: its hose on both sides.
    """

    struck: ClassVar[str] = "a line left in the wall"
    kind: Literal["rough-in"] = "rough-in"
    run: Annotated[Text, Field(min_length=1)]
    ends: OneOf[Ends] = None
    box: YesNo = None
    drain: OneOf[DrainJoint] = None
    clamped: YesNo = None
    cable: YesNo = None


class RoughRead(Record):
    """Nitrogen read on a line in the wall: at its test, as it was left, and again months later."""

    struck: ClassVar[str] = "a reading of a line in the wall"
    kind: Literal["rough-read"] = "rough-read"
    run: Annotated[Text, Field(min_length=1)]
    what: Literal["test", "left", "again"] = "test"
    gauge_pa: GaugePa = None
    pipe_c: TemperatureC = None

    @model_validator(mode="after")
    def _both_are_read(self) -> "RoughRead":
        for name in ("gauge_pa", "pipe_c"):
            if getattr(self, name) is None:
                raise ValueError(f"{name}: a reading is pressure and temperature of the pipe")
        if (self.gauge_pa or 0.0) < 0:
            raise ValueError("gauge_pa: a pressure, not a vacuum")
        return self


@dataclass(frozen=True, eq=False)
class RoughRun:
    """A line in the wall: how it was left, what was read, its own volume in m³, how it stands."""

    id: str
    tag: str
    record: RoughIn
    reads: tuple[RoughRead, ...]
    volume_m3: float | None
    call: Call
    checks: tuple[Check, ...]

    @property
    def next(self) -> str:
        """What is read next: the test, what is left on, or again before mounting."""
        said = [r.what for r in self.reads]
        return "again" if "left" in said else "test"


def rough_runs(
    pipes: Piping,
    records: Sequence[RoughIn],
    reads: Sequence[RoughRead],
    joints: Iterable[Joint],
    entry: TestEntry,
    to_hold: Plan | None,
) -> list[RoughRun]:
    """Every line that was left in the wall, as it was left last, with what was read since."""
    made = {j.run: j.record.at for j in joints if j.record is not None}
    newest = {r.run: r for r in records}
    found = []
    for stretch in pipes.stretches:
        record = newest.get(stretch.id)
        if record is None:
            continue
        own = tuple(r for r in reads if r.run == stretch.id and r.at >= record.at)
        opened = made.get(stretch.id)
        checks = tuple(_checks(stretch, record, own, entry, to_hold, opened is not None))
        found.append(
            RoughRun(
                id=stretch.id,
                tag=stretch.tag,
                record=record,
                reads=own,
                volume_m3=tubes_m3(stretch),
                call=deciding([c.call for c in checks]),
                checks=checks,
            )
        )
    return found


def tubes_m3(stretch: Stretch) -> float | None:
    """What both tubes of a line hold, in m³; None while size or length is not known."""
    if stretch.length_m is None or None in (stretch.tube.liquid_mm, stretch.tube.gas_mm):
        return None
    tubes = [tube_at(mm) for mm in (stretch.tube.liquid_mm, stretch.tube.gas_mm) if mm is not None]
    if None in tubes:
        return None
    return sum(tube.bore_area_m2 * stretch.length_m for tube in tubes if tube is not None)


def _checks(
    stretch: Stretch,
    record: RoughIn,
    reads: Sequence[RoughRead],
    entry: TestEntry,
    to_hold: Plan | None,
    opened: bool,
) -> Iterable[Check]:
    label = f"Line {stretch.tag} in the wall"
    yield _check(stretch, "ends", label, _ends(record))
    yield _check(stretch, "nitrogen", label, _nitrogen(stretch, reads, entry, to_hold, opened))
    for name, call in _in_the_box(record):
        yield _check(stretch, name, label, call)


def _check(stretch: Stretch, name: str, label: str, call: Call) -> Check:
    call = call.model_copy(update={"because": f"Line {stretch.tag}: {call.because}"})
    return Check(id=f"rough_{name}_{stretch.id}", label=label, call=call, part="rough")


def _ends(record: RoughIn) -> Call:
    if record.ends is None:
        return waiting_check("", "", "how its ends are closed is not said.", "Say it.").call
    if record.ends == "open":
        return fault_call(
            "an end is open: damp air and dust go in while the wall is built.",
            "Cap it or braze it shut, then nitrogen.",
        )
    return Call(verdict=Verdict.HOLDS, because=f"its ends are {record.ends}.")


def _in_the_box(record: RoughIn) -> Iterable[tuple[str, Call]]:
    """Drain and cable behind the head, which nobody reaches once the wall is closed."""
    if record.drain is None or record.cable is None:
        asked = "drain and cable behind the head are not said.", "Look before the wall is closed."
        yield "box", waiting_check("", "", *asked).call
        return
    wrong = [
        words
        for words, bad in (
            ("no drain lies there", record.drain == "none"),
            ("the cable does not reach there", record.cable == "no"),
            ("the drain's hose is not clamped on both sides", record.clamped == "no"),
        )
        if bad
    ]
    if wrong:
        yield "box", fault_call(f"{', '.join(wrong)}.", "Mend it before the wall is closed.")
    elif record.box == "no":
        yield (
            "box",
            fault_call(
                "no box behind the head: plaster closes over what lies there.",
                "Set a box, or measure and photograph the place.",
                Verdict.WATCH,
            ),
        )
    else:
        yield "box", Call(verdict=Verdict.HOLDS, because="drain and cable lie in its box.")


def _nitrogen(
    stretch: Stretch,
    reads: Sequence[RoughRead],
    entry: TestEntry,
    to_hold: Plan | None,
    opened: bool,
) -> Call:
    """The test before the wall closes, what was left on, and whether it is still there."""
    test = [r for r in reads if r.what == "test"]
    left = next((n for n, r in enumerate(reads) if r.what == "left"), None)
    if to_hold is None:
        return Call(
            verdict=Verdict.UNKNOWN,
            because="no sheet says how much nitrogen it may have.",
            do_next="Enter the sheet's test pressure.",
        )
    if not test:
        return waiting_check(
            "",
            "",
            "it was not tested.",
            f"Bring {both(to_hold.gauge_pa, 'gauge')} onto it and read, with its temperature.",
        ).call
    tested = _held(test, to_hold.gauge_pa, to_hold.hold_s, BAROMETER_PA, entry, to_hold)
    if tested.verdict is not Verdict.HOLDS:
        return tested
    if left is None:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{tested.because} Nothing says what was left on it.",
            do_next="Leave nitrogen on it with a gauge, and read that.",
        )
    return _stands(reads[left:], entry, to_hold, opened)


def _stands(reads: Sequence[RoughRead], entry: TestEntry, to_hold: Plan, opened: bool) -> Call:
    first, again = reads[0], [r for r in reads if r.what == "again"]
    standing = f"under {both(first.gauge_pa or 0.0, 'gauge')} since {first.at:%Y-%m-%d}"
    if (first.gauge_pa or 0.0) < LEAST_LEFT_PA:
        return fault_call(
            f"it stands {standing}: too little to show a leak by.",
            f"Leave {both(LEAST_LEFT_PA, 'gauge')} or more on it.",
        )
    if again:
        call = _held([first, *again], first.gauge_pa or 0.0, 0.0, MONTHS_PA, entry, to_hold)
        return call.model_copy(update={"because": f"read again: {call.because}"})
    if opened:
        return fault_call(
            f"it stood {standing}, and was opened without being read again.",
            "Test its joints and the line anew: nobody knows whether it held.",
            Verdict.WATCH,
        )
    return Call(
        verdict=Verdict.HOLDS,
        because=f"it stands {standing}.",
        do_next="Read it again before anything is mounted on it.",
    )


def _held(
    reads: Sequence[RoughRead],
    wanted_pa: float,
    hold_s: float,
    air_pa: float,
    entry: TestEntry,
    to_hold: Plan,
) -> Call:
    """Readings of one line judged as any hold is, by the temperatures of its pipe."""
    start = reads[0].at
    answer = pressure_hold(
        PressureHoldRequest(
            readings=[
                HoldReading(
                    t_s=(r.at - start).total_seconds(),
                    gauge_pa=r.gauge_pa or 0.0,
                    pipe_c=r.pipe_c or 0.0,
                )
                for r in sorted(reads, key=lambda r: r.at)
            ],
            required=RequiredHold(gauge_pa=max(wanted_pa, 1.0), hold_s=hold_s),
            max_gauge_pa=to_hold.max_gauge_pa,
            atmosphere_pa=entry.atmosphere_pa,
            gauge_resolution_pa=entry.resolution_pa,
            thermometer_uncertainty_k=entry.thermometer_k,
            barometer_uncertainty_pa=air_pa,
        )
    )
    return answer.call
