"""Steps of a procedure that were done, or passed over by somebody who answers for it."""

from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.entry import Record, Text
from fairline.core.procedures.procedure import At


class ProcedureSteps(Record):
    """Steps of a procedure that were done at a place, in their sequence.

    ``token`` says which machine or tube stood there. ``went_wrong``: the last of them did not go as
    it should. ``passed_because``: what is left of the list is passed over, and why.
    """

    struck = "steps of a list"

    kind: Literal["procedure-steps"] = "procedure-steps"
    procedure: Annotated[Text, Field(min_length=1)]
    place: Annotated[Text, Field(max_length=40)] = ""
    token: Annotated[Text, Field(max_length=60)] = ""
    steps: Annotated[tuple[Text, ...], Field(max_length=60)] = ()
    went_wrong: bool = False
    passed_because: Text = ""

    @model_validator(mode="after")
    def _says_something(self) -> "ProcedureSteps":
        if not self.steps and not self.passed_because:
            raise ValueError("steps: say which steps were done, or why they are passed over")
        return self


def of_place(records: Iterable[ProcedureSteps], procedure: str, at: At) -> list[ProcedureSteps]:
    """The records of one list at one place, made on the machine or tube that stands there now."""
    own = [
        r
        for r in records
        if r.procedure == procedure and r.place == at.place and r.token in ("", at.token)
    ]
    return sorted(own, key=lambda r: r.at)


def done_steps(records: Iterable[ProcedureSteps], place: str, token: str) -> frozenset[str]:
    """The steps of any list that were done at a place, as they should be."""
    found: set[str] = set()
    own = [r for r in records if r.place == place and r.token in ("", token)]
    for record in sorted(own, key=lambda r: r.at):
        found |= set(record.steps)
        if record.went_wrong:
            found.discard(record.steps[-1])
    return frozenset(found)
