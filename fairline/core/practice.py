"""House practice: the schools a company picks, its own limits, and local code entries.

``Rules`` answers the one question every stage asks: which limit governs here, and what did it
displace. The sheet comes first, then local code, then the house, then common practice.
"""

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from fairline.core import limits
from fairline.core.call import Frozen, Limit
from fairline.core.entry import Entry, Text
from fairline.core.limits import Candidate, governing
from fairline.core.quantities import both
from fairline.core.sheet import Sheet

PSI, INCH, FOOT, MICRON, MINUTE, HOUR = 6894.757293168, 0.0254, 0.3048, 0.133322368, 60.0, 3600.0


class LimitDef(Frozen):
    """A limit of the job: where the sheet has it, what common practice says, how it is shown."""

    name: str
    label: str
    unit: str
    kind: str
    on_sheet: str | None = None  # "outdoor.max_length_m"
    common: float | None = None
    common_source: str = "no published source"
    low: float = 0.0
    high: float = 1000.0

    def check(self, value: float) -> float:
        """The value where it can be a limit of this kind; else ValueError with a sentence."""
        if not self.low <= value <= self.high:
            ends = [both(v, self.kind) if self.kind else f"{v:g}" for v in (self.low, self.high)]
            raise ValueError(f"{self.label}: must lie between {ends[0]} and {ends[1]}")
        return value


BOUNDS = {"gauge": (1e5, 1.5e7), "vacuum": (1.0, 2e4), "duration": (60.0, 1e6)}


def _d(
    name: str,
    label: str,
    unit: str,
    kind: str,
    on_sheet: str | None = None,
    common: float | None = None,
) -> LimitDef:
    low, high = BOUNDS.get(kind, (0.0, 1000.0))
    return LimitDef(
        name=name,
        label=label,
        unit=unit,
        kind=kind,
        on_sheet=on_sheet,
        common=common,
        low=low,
        high=high,
    )


LIMITS: dict[str, LimitDef] = {
    d.name: d
    for d in (
        _d("head_left", "clear at the head's left", "m", "small", "head.clear_left_m", 12 * INCH),
        _d("head_right", "clear at the head's right", "m", "small", "head.clear_right_m",
           12 * INCH),
        _d("head_ceiling", "clear above the head", "m", "small", "head.clear_ceiling_m",
           4 * INCH),
        _d("head_low", "least height of the head", "m", "length", "head.min_height_m", 6 * FOOT),
        _d("head_high", "most height of the head", "m", "length", "head.max_height_m",
           7.5 * FOOT),
        _d("hole_size", "hole diameter", "m", "small", "head.hole_m"),
        _d("hole_fall", "fall of the hole to the outside", "m", "small", None, 0.5 * INCH),
        _d("outdoor_behind", "clear behind the outdoor unit", "m", "small",
           "outdoor.clear_behind_m", 4 * INCH),
        _d("outdoor_left", "clear at its left", "m", "small", "outdoor.clear_left_m", 4 * INCH),
        _d("outdoor_right", "clear at its right", "m", "small", "outdoor.clear_right_m",
           24 * INCH),
        _d("outdoor_front", "clear in front", "m", "small", "outdoor.clear_front_m", 28 * INCH),
        _d("min_length_m", "least length", "m", "length", "outdoor.min_length_m", 10 * FOOT),
        _d("max_length_m", "most length", "m", "length", "outdoor.max_length_m"),
        _d("max_lift_m", "most height difference", "m", "length", "outdoor.max_lift_m"),
        _d("max_bends", "most bends", "bends", "", "outdoor.max_bends"),
        _d("max_test", "most test pressure", "Pa", "gauge", "outdoor.max_test_gauge_pa"),
        _d("test_pressure", "test pressure", "Pa", "gauge", "outdoor.test_gauge_pa"),
        _d("test_hold", "hold of the test", "s", "duration", "outdoor.test_hold_s"),
        _d("pull_to", "pull down to", "Pa", "vacuum", "outdoor.pull_to_pa"),
        _d("decay_max", "decay limit", "Pa", "vacuum", "outdoor.decay_max_pa"),
        _d("decay_hold", "hold of the decay", "s", "duration", "outdoor.decay_hold_s"),
    )
}  # fmt: skip


class School(Frozen):
    """One way of doing a thing that practitioners hold to, with what speaks for it."""

    name: str
    label: str
    why: str
    values: dict[str, float] = {}


SCHOOLS: dict[str, tuple[School, ...]] = {
    "pressure": (
        School(name="hour", label="300 psig, one hour", why="The default: shows a leak that ten "
               "minutes hide, and fits into the wiring.",
               values={"test_pressure": 300 * PSI, "test_hold": HOUR}),
        School(name="quick", label="150 psig, ten minutes", why="For a coil or a re-made joint; "
               "small leaks stay unseen.",
               values={"test_pressure": 150 * PSI, "test_hold": 10 * MINUTE}),
        School(name="soak", label="150 psig while wiring", why="Bubbles on every joint while the "
               "wiring is done; an hour at least.",
               values={"test_pressure": 150 * PSI, "test_hold": HOUR}),
        School(name="overnight", label="500 psig, 24 hours", why="For long lines and joints that "
               "will be closed in.",
               values={"test_pressure": 500 * PSI, "test_hold": 24 * HOUR}),
    ),
    "decay": (
        School(name="deep", label="to 300 microns, 10 min, at most 500", why="The default: a lower "
               "start leaves room to see a rise.",
               values={"pull_to": 300 * MICRON, "decay_max": 500 * MICRON,
                       "decay_hold": 10 * MINUTE}),
        School(name="short", label="to 500 microns, 5 min, at most 500", why="For a dry, short "
               "line in fair weather.",
               values={"pull_to": 500 * MICRON, "decay_max": 500 * MICRON,
                       "decay_hold": 5 * MINUTE}),
        School(name="half-hour", label="to 500 microns, 30 min, at most 500", why="Tells slow "
               "water from a sound system.",
               values={"pull_to": 500 * MICRON, "decay_max": 500 * MICRON,
                       "decay_hold": 30 * MINUTE}),
        School(name="run-on", label="30 min at 500 microns, 10 min, at most 1000",
               why="Lets the pump run on; over 1000 it is pulled again, then it is a leak.",
               values={"pull_to": 500 * MICRON, "decay_max": 1000 * MICRON,
                       "decay_hold": 10 * MINUTE}),
    ),
    "short_line": (
        School(name="leave", label="leave the charge as it is", why="The default: variable-speed "
               "equipment takes up a small surplus."),
        School(name="recover", label="recover the difference", why="For equipment with a critical "
               "charge."),
    ),
    "valve_order": (
        School(name="gas_first", label="gas valve first", why="The default: anything loose is "
               "drawn back through the filter."),
        School(name="liquid_cracked", label="liquid valve cracked first", why="Lifts the vacuum "
               "before the hose comes off."),
    ),
    "sealant": (
        School(name="none", label="dry flare", why="The default: torque tables are for dry "
               "threads."),
        School(name="seat", label="thin film on the seat and the flare's back", why="Lets the nut "
               "turn without turning the tube. Never on the threads: they over-torque."),
        School(name="paste", label="thread paste all round", why="Listed because it is done: "
               "greased threads over-torque, and torque readings no longer hold."),
    ),
}  # fmt: skip

SCHOOL_LABELS = {
    "pressure": "Pressure test",
    "decay": "Vacuum and decay",
    "short_line": "Line shorter than covered",
    "valve_order": "Order of the valves",
    "sealant": "Sealant on flares",
}


class CodeEntry(Entry):
    """A local code's limit, SI, with where it stands."""

    value: float
    source: Annotated[Text, Field(min_length=1)]


class Practice(Entry):
    """What the company does where the sheet is silent. Limits by name, SI."""

    pressure: Literal["quick", "soak", "hour", "overnight"] = "hour"
    decay: Literal["short", "deep", "half-hour", "run-on"] = "deep"
    short_line: Literal["leave", "recover"] = "leave"
    valve_order: Literal["gas_first", "liquid_cracked"] = "gas_first"
    sealant: Literal["none", "seat", "paste"] = "none"
    house: dict[str, float] = {}
    code: dict[str, CodeEntry] = {}

    @field_validator("house", "code")
    @classmethod
    def _possible(cls, value: dict[str, Any]) -> dict[str, Any]:
        for name, said in value.items():
            if name not in LIMITS:
                raise ValueError(f"no limit is called {name}")
            LIMITS[name].check(said.value if isinstance(said, CodeEntry) else said)
        return value

    def school(self, topic: str) -> School:
        chosen = getattr(self, topic)
        return next(s for s in SCHOOLS[topic] if s.name == chosen)


class Rules(Frozen):
    """The sheet and the practice that govern one job."""

    sheet: Sheet | None
    practice: Practice = Practice()

    def candidates(self, name: str) -> list[Candidate]:
        d = LIMITS[name]
        found = []
        if self.sheet is not None and d.on_sheet:
            part, field = d.on_sheet.split(".")
            found.append(limits.sheet(getattr(getattr(self.sheet, part), field), self.sheet.source))
        if entry := self.practice.code.get(name):
            found.append(limits.code(entry.value, entry.source))
        if (own := self.practice.house.get(name)) is not None:
            found.append(limits.house(own))
        else:
            for topic in ("pressure", "decay"):
                school = self.practice.school(topic)
                if name in school.values:
                    found.append(limits.house(school.values[name], school.label))
        found.append(limits.common(d.common, d.common_source))
        return found

    def limit(self, name: str) -> Limit | None:
        """The governing limit called ``name``, or None where nobody says anything."""
        d = LIMITS[name]
        return governing(d.label, d.unit, self.candidates(name))
