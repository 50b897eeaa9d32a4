"""The shared vocabulary: verdict, limit, working, call, answer.

Every stage of the job ends in a *call*: a verdict on measured or planned values against the
limit that governs, with what to do next. Code, JSON, pages and the record all use these models.
"""

from collections.abc import Iterable, Sequence
from enum import StrEnum
from typing import Annotated, Any, Generic, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, field_validator
from pydantic.json_schema import SkipJsonSchema


class Frozen(BaseModel):
    """A value: never changed after it is made, unknown fields refused, no NaN, no infinity."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Verdict(StrEnum):
    HOLDS = "holds"  # within its limit
    WATCH = "watch"  # within, but look
    WAIT = "wait"  # more time or readings needed
    SHORT = "short"  # outside
    STOP = "stop"  # someone or something can be hurt
    UNKNOWN = "unknown"  # the sheet or a reading is missing


SEVERITY = (
    Verdict.STOP,
    Verdict.SHORT,
    Verdict.UNKNOWN,
    Verdict.WAIT,
    Verdict.WATCH,
    Verdict.HOLDS,
)


class Authority(StrEnum):
    """Who says so, in the order in which limits govern."""

    SHEET = "sheet"
    CODE = "code"
    HOUSE = "house"
    COMMON = "common"


class Displaced(Frozen):
    """A limit that says something else, but ranks below the one that governs."""

    value: float
    unit: str
    authority: Authority
    source: str


KIND_OF_UNIT = {  # how a value in this unit is read where nothing else is said
    "m": "length",
    "Pa": "gauge",
    "kg": "charge",
    "N·m": "torque",
    "W": "power",
    "s": "duration",
    "A": "current",
    "kg/m": "rate",
    "1": "fraction",
}


def _kind(data: dict[str, Any]) -> str:
    return KIND_OF_UNIT.get(data.get("unit") or "", "")


def _kind_of_limit(data: dict[str, Any]) -> str:
    limit: Limit | None = data.get("limit")
    return limit.kind if limit is not None else _kind(data)


class Limit(Frozen):
    """A limit that governs a call. ``value`` is in SI, ``unit`` names it (``m``, ``Pa``, …).

    ``kind``: the kind of quantity (``core/units``), by which it is shown; it stays inside.
    """

    limit: str
    value: float
    unit: str
    authority: Authority
    source: str
    displaced: tuple[Displaced, ...] = ()
    kind: SkipJsonSchema[str] = Field(default_factory=_kind, exclude=True)


def sheet_limit(
    limit: str,
    value: float,
    unit: str,
    source: str,
    displaced: tuple[Displaced, ...] = (),
    kind: str = "",
) -> Limit:
    """A limit that the maker's sheet gives; ``source`` names the sheet and its place there."""
    found = Limit(
        limit=limit,
        value=value,
        unit=unit,
        authority=Authority.SHEET,
        source=source,
        displaced=displaced,
    )
    return found.model_copy(update={"kind": kind}) if kind else found


class Step(Frozen):
    """One line of the working, with the numbers in, to be followed with a pencil. SI."""

    step: str
    expression: str
    value: float
    unit: str
    kind: SkipJsonSchema[str] = Field(default_factory=_kind, exclude=True)


class Call(Frozen):
    verdict: Verdict
    because: str
    do_next: str | None = None


Result = TypeVar("Result", bound=BaseModel)


class Answer(Frozen, Generic[Result]):
    """What every computation of the job answers: the call, its limits, working and result."""

    call: Call
    governed_by: tuple[Limit, ...] = ()
    working: tuple[Step, ...] = ()
    findings: tuple[str, ...] = ()
    result: Result


class Place(Frozen):
    """Where a check is mended: the stage, the part of its page, the check that stands there."""

    stage: str
    part: str = ""
    id: str = ""


class Check(Frozen):
    """One judged value of a stage: what was judged, the value against its limit, the call.

    ``kind`` is the kind of quantity behind ``value``; ``zone`` the head it is of, blank where it is
    of none; ``part`` the part of the stage's page on which it can be mended. ``mend``: the place,
    where that is another stage or another check's.
    """

    id: str
    label: str
    call: Call
    value: float | None = None
    unit: str | None = None
    bound: Literal["min", "max"] = "max"
    limit: Limit | None = None
    kind: str = Field(default_factory=_kind_of_limit)
    zone: str = ""
    part: str = ""
    mend: Place | None = None


class StageCall(Frozen):
    """The call of a whole stage: the worst of its checks decides, all of them are kept.

    ``also_asked``: the limits that it was worked out with besides those that govern it.
    ``proof_call``: what it was before what stands beside the proof changed it: lists of steps, a
    house target that was missed.
    """

    call: Call
    proof_call: Annotated[Call | None, Field(exclude=True)] = None
    summary: str = ""
    checks: tuple[Check, ...] = ()
    governed_by: tuple[Limit, ...] = ()
    also_asked: tuple[Limit, ...] = ()
    working: tuple[Step, ...] = ()
    findings: tuple[str, ...] = ()
    started: bool = True
    progress: float | None = None  # of a wait on the clock, 0 to 1

    @property
    def proof(self) -> Call:
        """What was measured and looked at comes to: by it gates open."""
        return self.proof_call or self.call


def deciding_check(call: StageCall) -> Check | None:
    """The check whose call the whole call is; else the first with the same verdict."""
    same = [c for c in call.checks if c.call.verdict is call.call.verdict]
    return next((c for c in same if c.call == call.call), next(iter(same), None))


def worst(verdicts: Iterable[Verdict]) -> Verdict:
    """The verdict that decides among several; ``holds`` for none."""
    return min(verdicts, key=SEVERITY.index, default=Verdict.HOLDS)


def deciding(calls: Sequence[Call]) -> Call:
    """The first of the worst calls: the one whose reason and next step stand for all."""
    return min(calls, key=lambda call: SEVERITY.index(call.verdict))


SMALLEST = 1e-12  # in SI units: nothing on a job is smaller and not nought


class Asked(BaseModel):
    """A part of a request that comes in great numbers: SI, strict, unknown fields refused."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, strict=True)


class Request(Asked):
    """What a computation is asked: SI, strict types, unknown fields refused, no NaN.

    A number that is nearly nought is nought: a division by it would have no end.
    """

    @field_validator("*", mode="before")
    @classmethod
    def _nought(cls, value: Any) -> Any:
        return 0.0 if isinstance(value, float) and abs(value) < SMALLEST else value
