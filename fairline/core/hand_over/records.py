"""What is recorded at handing over and after it: sign-off, additions, visits, questions."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from fairline.core.call import Verdict
from fairline.core.entry import DateText, Entry, LongText, Record, Text

STROKES = r"^(\d{1,3},\d{1,3}( \d{1,3},\d{1,3})*(;\d{1,3},\d{1,3}( \d{1,3},\d{1,3})*)*)?$"
SIGNED_WIDE, SIGNED_HIGH = 600, 200  # of the field that one signs in
Strokes = Annotated[str, Field(max_length=20_000, pattern=STROKES)]
VisitKind = Literal[
    "first-start", "off-season", "soft-ground", "later-head", "leak", "service", "season", "open"
]
VISITS: dict[VisitKind, str] = {
    "first-start": "First start, after the electrician",
    "off-season": "The other mode, when the weather allows it",
    "soft-ground": "Level on soft ground",
    "later-head": "A head added",
    "leak": "Leak",
    "service": "Service",
    "season": "Seasonal check",
    "open": "What was left open",
}


def strokes_of(text: str) -> list[list[tuple[int, int]]]:
    """A drawn signature's strokes as points, x to the right and y down.

    >>> strokes_of("1,2 3,4;5,6")
    [[(1, 2), (3, 4)], [(5, 6)]]
    """
    return [
        [(int(x), int(y)) for x, _, y in (p.partition(",") for p in stroke.split(" "))]
        for stroke in text.split(";")
        if stroke
    ]


class DayCall(Entry):
    """What a stage was called on the day of handing over."""

    verdict: Verdict
    because: Annotated[str, Field(max_length=2000)] = ""


class HandedOver(Record):
    """The job was handed over: it changes no more, and keeps the calls of that day.

    ``version`` is the program's that called them. ``reason`` is why it was handed over with what
    did not hold; the record opens with it. ``signed`` and ``to_signed``: as they were drawn, by
    who handed over and by who received. ``seal`` is the last digest of the job's chain.
    """

    kind: Literal["handed-over"] = "handed-over"
    to: Text = ""
    reason: Text = ""
    calls: Annotated[dict[str, DayCall], Field(max_length=40)] = {}
    version: Text = ""
    signed: Strokes = ""
    to_signed: Strokes = ""
    seal: Annotated[str, Field(max_length=64, pattern=r"^[0-9a-f]*$")] = ""


class Reopened(Record):
    """A job that was handed over was opened again: by whom, and why.

    ``visit``: the visit for which it was; blank where it was for none.
    """

    kind: Literal["reopened"] = "reopened"
    reason: Annotated[Text, Field(min_length=1)]
    visit: Annotated[str, Field(max_length=40)] = ""


class Addition(Record):
    """Something added to the record, also of a job that stands as it is: dated, by name."""

    struck: ClassVar[str] = "an addition"
    kind: Literal["addition"] = "addition"
    words: Annotated[LongText, Field(min_length=1)]


class Visit(Record):
    """A visit that is due: what for, on which day, and the stages that are gone through again."""

    struck: ClassVar[str] = "a visit"
    kind: Literal["visit"] = "visit"
    what: VisitKind = "service"
    on: Annotated[DateText, Field(min_length=1)]
    stages: Annotated[tuple[Text, ...], Field(max_length=20)] = ()
    note: Text = ""


class VisitDone(Record):
    """A visit was made. ``visit`` is its id, or the name of one that a stage asks for."""

    struck: ClassVar[str] = "a visit that was made"
    kind: Literal["visit-done"] = "visit-done"
    visit: Annotated[str, Field(min_length=1, max_length=40)]
    found: Annotated[LongText, Field(min_length=1)]


class Question(Record):
    """A question to the maker, and what was asked of whom."""

    struck: ClassVar[str] = "a question"
    kind: Literal["question"] = "question"
    words: Annotated[LongText, Field(min_length=1)]
    asked_of: Text = ""


class AnswerToIt(Record):
    """The maker's answer to a question: who gave it, and which limit it changes."""

    struck: ClassVar[str] = "an answer"
    kind: Literal["answer"] = "answer"
    question: Annotated[str, Field(min_length=1, max_length=24)]
    words: Annotated[LongText, Field(min_length=1)]
    given_by: Annotated[Text, Field(min_length=1)]
    limit: Text = ""
    changes_to: Text = ""

    @model_validator(mode="after")
    def _says_of_what(self) -> "AnswerToIt":
        if self.changes_to and not self.limit:
            raise ValueError("limit: say which limit it changes")
        return self


AFTER_SEAL = ("addition", "visit", "visit-done", "question", "answer", "picture", "reopened")
