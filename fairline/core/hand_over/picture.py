"""A picture of a thing of the job: the record says what it shows, the store keeps what is on it."""

from typing import Annotated, Literal

from pydantic import Field

from fairline.core.entry import Record, Text
from fairline.core.route.entry import RouteEntry
from fairline.core.survey.stage import SurveyEntry
from fairline.core.survey.unboxing import OUTDOOR

Thing = Literal["joint", "hole", "head", "box", "nameplate", "terminals", "run", "drain", "place"]
THINGS: dict[Thing, str] = {
    "joint": "Joint",
    "hole": "Hole",
    "head": "Head",
    "box": "Box",
    "nameplate": "Nameplate",
    "terminals": "Terminals",
    "run": "Run",
    "drain": "Drain",
    "place": "Place",
}
OF_UNITS: tuple[Thing, ...] = ("box", "nameplate", "terminals")
OF_HEADS: tuple[Thing, ...] = ("head", "hole", "drain")


class Picture(Record):
    """A picture taken of a thing. ``name`` is the SHA-256 of its JPEG, 64 hex digits.

    ``of`` and ``place`` say what it shows: a joint by its place, a unit by its zone or
    ``outdoor``, a run by its end, a place in any words.
    """

    kind: Literal["picture"] = "picture"
    of: Thing = "joint"
    place: Annotated[Text, Field(min_length=1)]
    name: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


def things(survey: SurveyEntry, route: RouteEntry, joints: list[str]) -> dict[Thing, list[str]]:
    """What of a job a picture can be taken of: the places of each kind of thing."""
    zones = [h.zone for h in survey.heads]
    found: dict[Thing, list[str]] = {"joint": joints, "run": [*route.runs]}
    found |= dict.fromkeys(OF_HEADS, zones)
    return found | {kind: [OUTDOOR, *zones] for kind in OF_UNITS}
