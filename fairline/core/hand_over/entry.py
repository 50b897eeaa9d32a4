"""What is entered on Hand over: what was done before leaving, who received it, who cares."""

from typing import Annotated, Literal

from pydantic import Field

from fairline.core.entry import Entry, LongText, OneOf, Text


class HandOverEntry(Entry):
    """What was done before leaving. ``label_of`` and ``registered_of`` are digests of what the
    label said, and of the machines that were registered, when that was ticked; blank: not kept.
    ``cares`` looks after it, ``weeds`` keeps weeds and poison from it, by name.
    """

    label_of: Annotated[str, Field(max_length=24)] = ""
    registered_of: Annotated[str, Field(max_length=24)] = ""
    labels: bool = False
    filters: bool = False
    breaker: bool = False
    yearly: bool = False
    manuals: bool = False
    warranty: bool = False
    received_by: Text = ""
    registration: Text = ""
    cares: OneOf[Literal["owner", "tenant", "house"]] = None
    cares_name: Text = ""
    weeds: Text = ""
    notes: LongText = ""
