"""Company rules: the schools a company picks, its own limits, and local code entries.

``Rules`` answers the one question every stage asks: which limit governs here, and what did it
displace. The sheet comes first, then local code, then the house, then common practice.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationInfo, field_validator, model_validator

from fairline.core import limits
from fairline.core.call import Frozen, Limit
from fairline.core.entry import Entry, Record, Text
from fairline.core.limit_list import LIMITS, LimitName
from fairline.core.limits import Candidate, governing
from fairline.core.schools import TOPICS, TOPICS_ON, School
from fairline.core.sheet import BranchBox, Head, Kit, Outdoor, Sheet, Tee


class CodeEntry(Entry):
    """A local code's limit, SI, with where it stands."""

    value: float
    source: Annotated[Text, Field(min_length=1)]


class Practice(Entry):
    """What the company does where the sheet is silent: schools by topic, limits by name, SI.

    ``closing``: its own lines of the closing list. ``pictures``: the kinds of things it wants a
    picture of on every job, by their names (``core/hand_over/picture``).

    A limit outside what it can be is refused; of what was kept before (context ``kept``) it is read
    as it stands.
    """

    schools: dict[str, str] = {}
    house: dict[str, float] = {}
    code: dict[str, CodeEntry] = {}
    closing: Annotated[tuple[Text, ...], Field(max_length=20)] = ()
    pictures: Annotated[tuple[Text, ...], Field(max_length=20)] = ()

    @model_validator(mode="before")
    @classmethod
    def _first_form(cls, value: Any) -> Any:
        """Practices kept before schools had a place of their own name their topics outright."""
        if isinstance(value, dict) and any(t in value for t in TOPICS):
            rest = {k: v for k, v in value.items() if k not in TOPICS}
            chosen = {k: v for k, v in value.items() if k in TOPICS}
            return rest | {"schools": chosen | rest.get("schools", {})}
        return value

    @model_validator(mode="before")
    @classmethod
    def _renamed(cls, value: Any) -> Any:
        """The least size of joined drains became the least inside of every drain."""
        if isinstance(value, dict):
            for part in ("house", "code"):
                kept = value.get(part)
                if isinstance(kept, dict) and "drain_joined_m" in kept:
                    rest = {k: v for k, v in kept.items() if k != "drain_joined_m"}
                    value = value | {part: {"drain_bore_m": kept["drain_joined_m"]} | rest}
        return value

    @field_validator("schools")
    @classmethod
    def _known(cls, value: dict[str, str]) -> dict[str, str]:
        for topic, name in value.items():
            check_school(topic, name)
        return value

    @field_validator("house", "code")
    @classmethod
    def _possible(cls, value: dict[str, Any], info: ValidationInfo) -> dict[str, Any]:
        kept = (info.context or {}).get("kept", False)
        for name, said in value.items():
            if name not in LIMITS:
                raise ValueError(f"no limit is called {name}")
            if kept:
                continue
            LIMITS[name].check(said.value if isinstance(said, CodeEntry) else said)
        return value

    def school(self, topic: str) -> School:
        found = TOPICS[topic]
        return found.school(self.schools.get(topic, found.default))


def check_school(topic: str, name: str) -> None:
    """ValueError where there is no such topic, or no such school in it."""
    if topic not in TOPICS:
        raise ValueError(f"no topic is called {topic}")
    if name not in [s.name for s in TOPICS[topic].schools]:
        raise ValueError(f"{TOPICS[topic].label}: no school is called {name}")


class Departure(Record):
    """A job that differs from house practice in one topic, with who said so and why.

    An empty ``school`` goes back to the house's.
    """

    kind: Literal["departure"] = "departure"
    topic: Text
    school: Text = ""
    reason: Text = ""

    @model_validator(mode="after")
    def _says_why(self) -> "Departure":
        if self.school:
            check_school(self.topic, self.school)
            if not self.reason:
                raise ValueError("say why this job differs from the company's rules")
        elif self.topic not in TOPICS:
            raise ValueError(f"no topic is called {self.topic}")
        return self


_ASKED: ContextVar[dict[str, Limit] | None] = ContextVar("limits asked", default=None)


@contextmanager
def limits_asked() -> Iterator[dict[str, Limit]]:
    """The limits that the rules are asked for in the meantime, by their labels."""
    found: dict[str, Limit] = {}
    before = _ASKED.set(found)
    try:
        yield found
    finally:
        _ASKED.reset(before)


class Rules(Frozen):
    """The sheets and the practice that govern one job, for one of its heads."""

    outdoor: Outdoor | None = None
    head: Head | None = None
    heads: dict[str, Head] = {}
    box: BranchBox | None = None
    tee: Tee | None = None
    kits: tuple[Kit, ...] = ()  # of every head of now, where each has one
    practice: Practice = Practice()
    departures: dict[str, Departure] = {}

    def of(self, zone: str) -> "Rules":
        """The same rules for another of the job's heads."""
        return self.model_copy(update={"head": self.heads.get(zone)})

    def school(self, topic: str) -> School:
        """The school this job follows: its own, where it departs from the house's."""
        if own := self.departures.get(topic):
            return TOPICS[topic].school(own.school)
        if topic == "pressure" and self._many_hidden_joints:
            return TOPICS[topic].school("overnight")
        return self.practice.school(topic)

    @property
    def _many_hidden_joints(self) -> bool:
        """A branch box or trunk: tested overnight unless the job departs from that (our choice)."""
        return self.outdoor is not None and self.outdoor.system in ("branch-box", "trunk")

    def who_chose(self, topic: str) -> str:
        own = self.departures.get(topic)
        if own is None and topic == "pressure" and self._many_hidden_joints:
            return "always for branch boxes and trunks"
        return f"this job, {own.by}: {own.reason}" if own else "the company"

    def sheet(self, part: str) -> Sheet | None:
        found: Sheet | None = getattr(self, part)
        return found

    def candidates(self, name: LimitName) -> list[Candidate]:
        d = LIMITS[name]
        found = []
        if d.on_sheet:
            part, field = d.on_sheet.split(".")
            if (sheet := self.sheet(part)) is not None:
                found.append(limits.sheet(getattr(sheet, field), sheet.source(field)))
        if entry := self.practice.code.get(name):
            found.append(limits.code(entry.value, entry.source))
        topics = TOPICS_ON.get(name, ())
        departs = [t for t in self.departures if t in topics and name in self.school(t).values]
        if (own := self.practice.house.get(name)) is not None and not departs:
            found.append(limits.house(own))
        else:
            for topic in topics:
                school = self.school(topic)
                if name in school.values:
                    source = f"{school.label}; {self.who_chose(topic)}" if departs else school.label
                    found.append(limits.house(school.values[name], source))
        found.append(limits.common(d.common, d.common_source))
        return found

    def limit(self, name: LimitName) -> Limit | None:
        """The governing limit called ``name``, or None where nobody says anything."""
        d = LIMITS[name]
        found = governing(d.label, d.unit, self.candidates(name), d.kind)
        asked = _ASKED.get()
        if asked is not None and found is not None:
            asked.setdefault(found.limit, found)
        return found

    def value(self, name: LimitName) -> float | None:
        found = self.limit(name)
        return None if found is None else found.value

    def yes(self, name: LimitName) -> bool | None:
        """The answer of a limit of kind ``yes_no``; None where nobody says anything."""
        found = self.value(name)
        return None if found is None else found >= 0.5


def departures(records: tuple[Departure, ...]) -> dict[str, Departure]:
    """The departures that stand: the last of each topic, unless it went back to the house's."""
    last = {r.topic: r for r in records}
    return {topic: r for topic, r in last.items() if r.school}
