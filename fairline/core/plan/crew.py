"""The company's people: who can do what, in which crew, and the hours they work."""

from datetime import time
from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from fairline.core.entry import Entry, Text

Skill = Literal["brazing", "refrigerant", "electrical"]
SKILLS: dict[Skill, str] = {
    "brazing": "Brazes",
    "refrigerant": "Handles refrigerant",
    "electrical": "Licensed for power",
}
WEEK = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


class Person(Entry):
    """Somebody who works on jobs; ``crew``: whom he goes out with, by the crew's name."""

    name: Annotated[Text, Field(min_length=1)]
    crew: Text = ""
    skills: tuple[Skill, ...] = ()


def _hour(value: str) -> str:
    try:
        time.fromisoformat(value)
    except ValueError:
        raise ValueError("type an hour like 08:00") from None
    return value


class CrewBook(Entry):
    """The people, and when they work: ``opens`` to ``closes`` on ``days``, 0 for Monday."""

    people: Annotated[tuple[Person, ...], Field(max_length=60)] = ()
    opens: Annotated[str, Field(pattern=r"^\d\d:\d\d$")] = "08:00"
    closes: Annotated[str, Field(pattern=r"^\d\d:\d\d$")] = "16:30"
    days: Annotated[tuple[Annotated[int, Field(ge=0, le=6)], ...], Field(max_length=7)] = (
        0,
        1,
        2,
        3,
        4,
    )

    @field_validator("opens", "closes")
    @classmethod
    def _hour(cls, value: str) -> str:
        return _hour(value)

    @field_validator("people")
    @classmethod
    def _told_apart(cls, value: tuple[Person, ...]) -> tuple[Person, ...]:
        names = [p.name.casefold() for p in value]
        if twice := next((n for n in names if names.count(n) > 1), ""):
            raise ValueError(f"{twice} stands twice: two people need two names")
        return value

    @model_validator(mode="after")
    def _works(self) -> "CrewBook":
        if self.opens >= self.closes:
            raise ValueError("closes: the day ends before it begins")
        if not self.days:
            raise ValueError("days: at least one day of the week is worked")
        return self

    @property
    def crews(self) -> dict[str, tuple[Person, ...]]:
        """The people of each crew, by its name; those of none under a blank."""
        found: dict[str, tuple[Person, ...]] = {}
        for person in self.people:
            found[person.crew] = (*found.get(person.crew, ()), person)
        return found
