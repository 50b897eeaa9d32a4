"""A picture of a joint: the record says whose joint it shows, the store keeps what is on it."""

from typing import Annotated, Literal

from pydantic import Field

from fairline.core.entry import Entry, Moment, Text


class JointPicture(Entry):
    """A picture taken of a joint. ``name`` is the SHA-256 of its JPEG, 64 hex digits."""

    kind: Literal["picture"] = "picture"
    place: Annotated[Text, Field(min_length=1)]
    name: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
    by: Annotated[Text, Field(min_length=1)]
    at: Moment
