"""Runs of readings: a nitrogen hold, a pull, a decay. Readings append and never change."""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BeforeValidator, Field, model_validator

from fairline.core.calc.nitrogen import COLDEST_C, HOTTEST_C
from fairline.core.entry import Entry, Moment, Text, blank

RunKind = Literal["hold", "pull", "decay"]

Probe = Literal["shaded", "insulated", "sun", "air"]
PROBES: dict[Probe, str] = {  # where the pipe's temperature was read
    "shaded": "on the pipe, in the shade",
    "insulated": "on the pipe, under insulation",
    "sun": "on the pipe, in the sun",
    "air": "in the air beside it",
}

FIELDS: dict[RunKind, tuple[str, ...]] = {
    "hold": ("gauge_pa", "pipe_c"),
    "pull": ("pa",),
    "decay": ("pa",),
}
LEAST_HOLD_PA = -20_000.0  # a gauge that is not quite at nought
NEEDLE = ("gauge_pa",)  # in place of ``pa``: a vacuum that a needle reads
OURS = ("simulated micron gauge", "simulated digital gauge")  # marked by name before ``simulated``


class Reading(Entry):
    """One reading: ``t_s`` since the run began. Instrument and sequence number are its identity.

    ``probe`` is where the pipe's temperature was read; None where nobody said. A vacuum is read
    absolute (``pa``) or on a needle (``gauge_pa``). ``simulated``: no instrument read it.
    """

    instrument: Annotated[Text, Field(min_length=1)] = "by hand"
    seq: Annotated[int, Field(ge=0, le=2**53)]
    t_s: Annotated[float, Field(ge=0, le=1e8), AfterValidator(lambda s: round(s, 6))]
    gauge_pa: Annotated[float, Field(ge=-101_325, le=2e7)] | None = None
    pipe_c: Annotated[float, Field(ge=COLDEST_C, le=HOTTEST_C)] | None = None
    pa: Annotated[float, Field(ge=0, le=200_000)] | None = None
    probe: Annotated[Probe | None, BeforeValidator(blank)] = None
    simulated: bool = False

    @model_validator(mode="before")
    @classmethod
    def _by_name(cls, value: Any) -> Any:
        """Readings of our own simulated gauges, kept before they were marked."""
        if isinstance(value, dict) and value.get("instrument") in OURS:
            return {"simulated": True} | value
        return value

    def fits(self, kind: RunKind) -> str | None:
        """Why this reading does not belong in a run of ``kind``, or None where it does."""
        fields = FIELDS[kind]
        if kind != "hold" and self.gauge_pa is not None and self.pa is None:
            fields = NEEDLE
        for name in ("gauge_pa", "pipe_c", "pa"):
            here, wanted = getattr(self, name) is not None, name in fields
            if wanted and not here:
                return f"{name} is needed in a {kind}"
            if here and not wanted:
                return f"{name} does not belong in a {kind}"
        if kind == "hold" and self.gauge_pa is not None and self.gauge_pa < LEAST_HOLD_PA:
            return "gauge_pa of a hold is a pressure, not a vacuum"
        if kind != "hold" and (self.gauge_pa or 0.0) > 0:
            return "gauge_pa of a vacuum lies below nought"
        if self.probe is not None and kind != "hold":
            return f"probe does not belong in a {kind}"
        return None


_SET = frozenset(Reading.model_fields)


def stored_reading(
    instrument: str, seq: int, t_s: float, gauge_pa: float | None, pipe_c: float | None,
    pa: float | None, probe: str | None = None, simulated: bool = False,
) -> Reading:  # fmt: skip
    """A reading that was validated when it came in, made anew without looking at it again.

    As ``Reading.model_construct``, without its general machinery: a day's log has 86 400.
    """
    made = Reading.__new__(Reading)
    state = {"instrument": instrument, "seq": seq, "t_s": t_s, "gauge_pa": gauge_pa,
             "pipe_c": pipe_c, "pa": pa, "probe": probe, "simulated": simulated}  # fmt: skip
    object.__setattr__(made, "__dict__", state)
    object.__setattr__(made, "__pydantic_fields_set__", _SET)
    object.__setattr__(made, "__pydantic_extra__", None)
    object.__setattr__(made, "__pydantic_private__", None)
    return made


class Run(Entry):
    """A run of readings, in order of time. ``ended_at`` is set when it is closed."""

    uid: Annotated[Text, Field(min_length=1)]
    kind: RunKind
    started_at: Moment
    started_by: Text = ""
    ended_at: Moment | None = None
    readings: tuple[Reading, ...] = ()

    @model_validator(mode="after")
    def _readings_fit(self) -> "Run":
        seen = set()
        for i, reading in enumerate(self.readings):
            if wrong := reading.fits(self.kind):
                raise ValueError(f"reading {i + 1}: {wrong}")
            if (key := (reading.instrument, reading.seq)) in seen:
                raise ValueError(f"reading {i + 1}: {key[0]} number {key[1]} stands twice")
            seen.add(key)
        return self

    @property
    def simulated(self) -> bool:
        """Whether any of it was read by no instrument."""
        return any(r.simulated for r in self.readings)

    @property
    def last(self) -> Reading | None:
        return self.readings[-1] if self.readings else None
