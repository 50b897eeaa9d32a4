"""The record of a job: its outline once, which page and PDF lay out."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from fairline.core.call import Check, Verdict
from fairline.core.commission.records import MODE_WORDS
from fairline.core.commission.stage import CommissionStageResult
from fairline.core.flare.stage import FlareStageResult, looked
from fairline.core.hand_over.label import UnitLabel
from fairline.core.hand_over.picture import Picture
from fairline.core.hand_over.stage import TASKS, HandOverStageResult
from fairline.core.limits import AUTHORITY_WORDS
from fairline.core.pressure_test.records import METHODS
from fairline.core.quantities import preferring, show
from fairline.core.schools import TOPICS
from fairline.core.stages import TITLES
from fairline.core.survey.unboxing import OUTDOOR
from fairline.core.units import System
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import moment, zone_words
from fairline.web.frame.pages import hms, quantity
from fairline.web.frame.plate import VERDICT_WORDS
from fairline.web.record import NONE, after, figures
from fairline.web.record import changes as record_changes
from fairline.web.record import procedures as record_procedures
from fairline.web.record import runs as record_runs
from fairline.web.record import wire as record_wire
from fairline.web.record.charge import charged
from fairline.web.record.commission import seen, told
from fairline.web.record.figures import Figure
from fairline.web.record.handed import handed_words, signatures_of, struck_words

PORT_STATES = {"kept": "kept for a later head", "open": "open: nothing closes it"}
PRACTISED = "PRACTICE JOB: simulated readings count here and prove nothing elsewhere."
DEFERS = (
    "Local codes and licensed practice come first. Worked out by Fair Line from what was "
    "measured and entered."
)


@dataclass(frozen=True)
class Row:
    """A line of a table; ``verdict`` is drawn beside the first cell, ``strong`` stands out."""

    cells: tuple[str, ...]
    verdict: str = ""
    strong: bool = False


@dataclass(frozen=True)
class Column:
    """A column: its head, and how wide it is beside the others."""

    head: str
    share: int


@dataclass(frozen=True)
class Section:
    """A titled table; where it has no rows it is left out."""

    title: str
    columns: tuple[Column, ...]
    rows: tuple[Row, ...]

    @property
    def headed(self) -> bool:
        return any(c.head for c in self.columns)


@dataclass(frozen=True)
class Shown:
    """A picture with its words; ``here``: what it shows is still kept with this job."""

    picture: Picture
    words: str
    here: bool


@dataclass(frozen=True)
class Record:
    """The whole record: its heading, the sections before and after the pictures, the close.

    ``signatures``: strokes as they were drawn, and whose they are.
    """

    name: str
    heading: tuple[str, ...]
    house: tuple[Figure, ...]
    evidence: tuple[Figure, ...]
    signatures: tuple[tuple[str, str], ...]
    before: tuple[Section, ...]
    pictures: tuple[Shown, ...]
    after: tuple[Section, ...]
    closing: tuple[str, ...]
    practice: bool


def record(judged: JudgedJob, pictures: list[Shown], system: System) -> Record:
    """The record of a job in one person's units."""
    job, say = judged.job, _Teller(judged, system)
    return Record(
        name=job.head.name,
        heading=tuple(_heading(judged)),
        house=tuple(figures.house(judged, system)),
        evidence=tuple(figures.evidence(judged, system)),
        signatures=tuple(signatures_of(judged)),
        before=_told(
            _section("Calls", ("Stage", 22, "Verdict", 16, "Why", 110), say.calls()),
            _section(
                "Places",
                ("What", 46, "Measured", 22, "Limit", 30, "Says", 58, "", 14),
                say.places(),
            ),
            _section(
                "Where this job differs from the company",
                ("When", 30, "What", 110, "By", 24),
                say.departures(),
            ),
            _section("Run and charge", ("What", 40, "Value", 100), say.label()),
            _section(
                "Joints",
                (
                    "Joint",
                    34,
                    "Tube",
                    22,
                    "At the nut",
                    20,
                    "Wanted",
                    34,
                    "Flare or seam",
                    30,
                    "By",
                    20,
                    "When",
                    26,
                ),
                say.joints(),
            ),
        ),
        pictures=tuple(pictures),
        after=_told(
            _section(
                "Looked at for leaks",
                ("When", 30, "Joint", 44, "How", 44, "Found", 18, "By", 28),
                say.looks(),
            ),
            _section(
                "Limits that governed",
                ("Stage", 20, "Limit", 32, "Value", 22, "Says", 56, "Displaced", 40),
                say.limits(),
            ),
            _section(
                "Tests",
                ("Run", 24, "Begun", 30, "By", 22, "Readings", 16, "First", 34, "Last", 52),
                (Row(cells) for cells in record_runs.tests(judged, system)),
            ),
            _section(
                "Done by hand",
                ("List", 46, "How far", 70, "By", 28, "Last", 28),
                (Row(cells) for cells in record_procedures.lists(judged)),
            ),
            _section(
                "At the pump",
                ("When", 30, "What", 110, "By", 24),
                (Row(cells) for cells in record_runs.acts(judged, system)),
            ),
            _section(
                "Circuits",
                ("Unit", 26, "MCA / MOP", 24, "Breaker", 26, "Conductor", 34, "Connected", 40),
                (Row(cells) for cells in record_wire.circuits(judged)),
            ),
            _section(
                "Landings",
                ("At", 30, "Cable", 30, "Conductors", 60, "By", 22, "When", 28),
                (Row(cells) for cells in record_wire.ends(judged)),
            ),
            _section(
                "Power off and on",
                ("When", 30, "What", 110, "By", 24),
                (
                    Row((w, what, by), strong=over)
                    for w, what, by, over in record_wire.power(judged)
                ),
            ),
            _section(
                "What was in the pipes",
                ("When", 30, "What", 110, "By", 24),
                (Row(cells, strong=wrong) for cells, wrong in record_changes.contents(judged)),
            ),
            _section("Weighed and opened", ("When", 30, "What", 110, "By", 24), say.charged()),
            _section(
                "Running",
                (
                    "Zone",
                    10,
                    "Mode",
                    18,
                    "Return",
                    20,
                    "Supply",
                    20,
                    "Capacity",
                    24,
                    "Current",
                    16,
                    "By",
                    22,
                    "When",
                    28,
                ),
                say.running(),
            ),
            _section(
                "Called, poured, all on",
                ("When", 30, "What", 110, "By", 24),
                (Row((moment(at), words, by)) for words, by, at in told(judged)),
            ),
            *(
                _section(title, columns, (Row(cells) for cells in rows))
                for title, columns, rows in record_changes.sections(judged, system)
            ),
            _section("Struck out", ("When", 30, "What", 110, "By", 24), say.strikes()),
            _section("Handed over", ("", 16, "", 130), say.tasks()),
            *(
                _section(title, columns, (Row(cells) for cells in rows))
                for title, columns, rows in after.sections(judged, say.say)
            ),
        ),
        closing=(
            *handed_words(judged),
            *([job.hand_over.notes] if job.hand_over.notes else []),
            DEFERS,
        ),
        practice=job.head.practice,
    )


def _told(*sections: Section) -> tuple[Section, ...]:
    return tuple(s for s in sections if s.rows)


def _section(title: str, columns: tuple[str | int, ...], rows: Iterator[Row]) -> Section:
    heads, shares = columns[::2], columns[1::2]
    made = tuple(Column(str(h), int(w)) for h, w in zip(heads, shares, strict=True))
    return Section(title, made, tuple(rows))


def _heading(judged: JudgedJob) -> Iterator[str]:
    head, day = judged.job.head, judged.job.handed_over
    if day is not None and day.reason:
        open_ = ", ".join(TITLES[n] for n, c in day.calls.items() if c.verdict != "holds")
        yield f"Handed over by {day.by} with what did not hold ({open_}): {day.reason}"
    customer = f"for {head.customer}" if head.customer else ""
    for parts in ((head.site, customer), (head.company, head.company_phone)):
        if any(parts):
            yield " · ".join(p for p in parts if p)
    yield from units(judged)
    yield zone_words()


@dataclass(frozen=True)
class _Teller:
    """What a job's record says, section by section, in one person's units."""

    judged: JudgedJob
    system: System

    def say(self, value: float | None, kind: str) -> str:
        return NONE if value is None else quantity(value, kind, self.system)

    def both(self, value: float | None, kind: str) -> str:
        """A value with the other system's beside it."""
        other = show(value, kind, self.system).other if value is not None else None
        return self.say(value, kind) + (f" ({other})" if other else "")

    def calls(self) -> Iterator[Row]:
        for name, stage in self.judged.stages.items():
            call = stage.call
            because = preferring(call.because, self.system)
            yield Row((TITLES[name], VERDICT_WORDS[call.verdict], because), call.verdict)

    def places(self) -> Iterator[Row]:
        """What was decided where, with its limit: every check of Mount that carries one."""
        for c in self.judged.stages["mount"].checks:
            if c.limit is not None:
                bound = "at least" if c.bound == "min" else "at most"
                yield Row(
                    (
                        c.label + (f", {c.zone}" if c.zone else ""),
                        self._measured(c),
                        f"{bound} {self.say(c.limit.value, c.kind)}",
                        f"{AUTHORITY_WORDS[c.limit.authority]}: {c.limit.source}",
                        VERDICT_WORDS[c.call.verdict],
                    )
                )

    def _measured(self, c: Check) -> str:
        """What was measured; of what holds without a number, why it does."""
        if c.value is None and c.call.verdict is Verdict.HOLDS:
            return preferring(c.call.because, self.system).rstrip(".")
        return self.say(c.value, c.kind)

    def departures(self) -> Iterator[Row]:
        for r in self.judged.job.departures:
            topic = TOPICS[r.topic]
            school = topic.school(r.school).label if r.school else "the company's again"
            yield Row((moment(r.at), f"{topic.label}: {school}. {r.reason}", r.by))

    def label(self) -> Iterator[Row]:
        label = self.judged.of(HandOverStageResult).label
        yield Row(("Refrigerant", label.refrigerant or NONE))
        for words, value, kind in (
            ("Line, in all", label.length_m, "length"),
            ("Factory charge", label.factory_kg, "charge"),
            ("Added" if label.weighed else "Added, planned", label.added_kg, "charge"),
            ("Total charge", label.total_kg, "charge"),
        ):
            yield Row((words, self.both(value, kind)))
        yield from self._runs(label)
        for port in label.ports:
            where = "" if port.at == OUTDOOR else f" of {_of_tree(port.at)}"
            state = PORT_STATES.get(port.state)
            state = f"zone {port.zone}" if port.state == "used" else state
            yield Row((f"Port {port.port}{where}", state or "not used, capped"))

    def _runs(self, label: UnitLabel) -> Iterator[Row]:
        for run in label.runs if len(label.runs) > 1 else ():
            named = f"Run {run.tag}" + (f", address {run.address}" if run.address else "")
            built = ", as built" if run.built else ""
            yield Row((named, f"{self.say(run.length_m, 'length')}{built}"))

    def joints(self) -> Iterator[Row]:
        for joint in self.judged.of(FlareStageResult).joints:
            record = joint.record
            target = joint.answer.result.target_nm if joint.answer else None
            got = NONE
            if record:
                got = "brazed" if joint.brazed else "not measured"
            if record and record.applied_nm:
                got = self.say(record.applied_nm, "torque")
                got += ", simulated" if record.simulated else ""
            yield Row(
                (
                    joint.label,
                    joint.size or NONE,
                    got,
                    " to ".join(self.say(t, "torque") for t in target) if target else NONE,
                    looked(joint),
                    record.by if record else NONE,
                    moment(record.at) if record else NONE,
                )
            )

    def looks(self) -> Iterator[Row]:
        labels = {j.place: j.label for j in self.judged.of(FlareStageResult).joints}
        for c in self.judged.counted.leak_checks:
            watched = f", {hms(c.watched_s)}" if c.watched_s else ""
            found = "leaks" if c.found == "leak" else "clean"
            where = labels.get(c.joint, c.joint)
            yield Row((moment(c.at), where, METHODS[c.method] + watched, found, c.by))

    def limits(self) -> Iterator[Row]:
        for name, stage in self.judged.stages.items():
            for limit in (*stage.governed_by, *stage.also_asked):
                displaced = ", ".join(
                    f"{AUTHORITY_WORDS[d.authority]} {self.say(d.value, limit.kind)}"
                    for d in limit.displaced
                )
                says = f"{AUTHORITY_WORDS[limit.authority]}: {limit.source}"
                value = self.say(limit.value, limit.kind)
                yield Row((TITLES[name], limit.limit, value, says, displaced))

    def charged(self) -> Iterator[Row]:
        for words, by, at, strong in charged(self.judged, self.say):
            yield Row((moment(at), words, by), strong=strong)

    def running(self) -> Iterator[Row]:
        for r, answer in self.judged.of(CommissionStageResult).answers:
            yield Row(
                (
                    r.zone or NONE,
                    ", ".join(x for x in (MODE_WORDS[r.mode], seen(r)) if x)
                    + (", simulated" if r.simulated else ""),
                    self.say(r.return_c, "temperature"),
                    self.say(r.supply_c, "temperature"),
                    self._capacity(answer.result if answer else None),
                    NONE if r.current_a is None else f"{r.current_a:.1f} A",
                    r.by,
                    moment(r.at),
                )
            )

    def _capacity(self, result: Any) -> str:
        if result is None:
            return NONE
        if result.total_w is None:
            return f"{self.say(result.sensible_w, 'power')} sensible, not proven"
        return self.say(result.total_w, "power")

    def strikes(self) -> Iterator[Row]:
        for strike in self.judged.job.strikes:
            when = f" of {moment(strike.of_at)}" if strike.of_at else ""
            words = struck_words(self.judged.job, strike)
            yield Row((moment(strike.at), f"{words}{when}: {strike.reason}", strike.by))

    def tasks(self) -> Iterator[Row]:
        for name, words in TASKS.items():
            done = getattr(self.judged.job.hand_over, name)
            yield Row(("Done" if done else "Open", words))


def units(judged: JudgedJob) -> list[str]:
    """Every unit of the job with its sheet, version and serial number, a line each."""
    equipment, survey = judged.job.equipment, judged.job.survey

    def line(named: str, at: str, version: int) -> str:
        serial = survey.box(at).serial
        return " · ".join(
            [named, *([f"serial {serial}"] if serial else []), f"sheet version {version}"]
        )

    found = []
    if equipment.outdoor:
        sheet = equipment.outdoor.sheet
        named = f"{sheet.name} · {sheet.refrigerant}"
        found.append(line(named, OUTDOOR, equipment.outdoor.version))
    found += [line(f"{h.zone}: {h.sheet.name}", h.zone, h.version) for h in equipment.heads]
    for fitting in equipment.fittings:
        what = "kit of run " + fitting.at if fitting.kind == "kit" else _of_tree(fitting.at)
        found.append(f"{what}: {fitting.sheet.name} · sheet version {fitting.version}")
    return found


def _of_tree(at: str) -> str:
    return at.replace("box", "box ").replace("tee", "tee ")
