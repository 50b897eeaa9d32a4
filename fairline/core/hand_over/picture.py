"""A picture of a thing of the job: the record says what it shows, the store keeps what is on it."""

from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from fairline.core.call import Call, Check, Verdict
from fairline.core.entry import Record, Text
from fairline.core.route.entry import RouteEntry
from fairline.core.survey.stage import SurveyEntry
from fairline.core.survey.unboxing import OUTDOOR

Thing = Literal[
    "joint",
    "hole",
    "head",
    "box",
    "nameplate",
    "terminals",
    "run",
    "drain",
    "label",
    "gauge",
    "place",
]
THINGS: dict[Thing, str] = {
    "joint": "Joint",
    "hole": "Hole",
    "head": "Head",
    "box": "Box",
    "nameplate": "Nameplate",
    "terminals": "Terminals",
    "run": "Run",
    "drain": "Drain",
    "label": "Label",
    "gauge": "Gauge",
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
    found |= {"label": [OUTDOOR], "gauge": ["nitrogen", "vacuum"]}
    found |= dict.fromkeys(OF_HEADS, zones)
    return found | {kind: [OUTDOOR, *zones] for kind in OF_UNITS}


def missing(
    wanted: Sequence[str], offered: Mapping[Thing, Sequence[str]], taken: Sequence[Picture]
) -> list[tuple[Thing, str]]:
    """The things of which the company wants a picture and has none, in the order of the things."""
    have = {(p.of, p.place) for p in taken}
    return [
        (kind, place)
        for kind in THINGS
        if kind in wanted
        for place in offered.get(kind, ())
        if (kind, place) not in have
    ]


def pictures_check(lacking: Sequence[tuple[Thing, str]]) -> Check:
    """What the company's list of pictures still asks, as a check of Hand over."""
    if not lacking:
        call = Call(verdict=Verdict.HOLDS, because="Every picture of the company's list is there.")
    else:
        named = ", ".join(f"{THINGS[kind].lower()} {place}" for kind, place in lacking[:4])
        more = f" and {len(lacking) - 4} more" if len(lacking) > 4 else ""
        call = Call(
            verdict=Verdict.WAIT,
            because=f"No picture of {named}{more}.",
            do_next=f"Take a picture of {THINGS[lacking[0][0]].lower()} {lacking[0][1]}.",
        )
    return Check(id="pictures", label="Pictures of the company's list", call=call)
