"""What is struck out: a record or a reading that was wrong stays visible and counts no more."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.entry import Moment, Record, Text

READING = "reading"  # what a strike of a reading is of; else it is a record's kind


class Strike(Record):
    """A record struck out, by its own id; or a reading, by its run and number.

    Strikes kept before records had an id name them by kind and moment.
    """

    kind: Literal["strike"] = "strike"
    of: Annotated[str, Field(pattern=r"^[a-z-]{1,20}$")]
    of_at: Moment | None = None
    of_uid: Annotated[str, Field(max_length=24)] = ""
    run: Text = ""
    instrument: Text = ""
    seq: Annotated[int, Field(ge=0, le=2**53)] | None = None
    reason: Annotated[Text, Field(min_length=1)]

    @model_validator(mode="after")
    def _names_something(self) -> "Strike":
        if self.of == READING and not (self.run and self.instrument and self.seq is not None):
            raise ValueError("name the reading: its run, its instrument and its number")
        if self.of != READING and self.of_at is None and not self.of_uid:
            raise ValueError("name the record: its id, or its kind and its moment")
        return self
