"""The machine that was there before: whether it goes, why it failed, what was recovered."""

from typing import Literal

from fairline.core.entry import ChargeKg, Entry, OneOf, Text, YesNo


class OldMachine(Entry):
    """What was there before: whether it goes, why it failed, what was recovered from it."""

    fate: OneOf[Literal["none", "goes", "stays"]] = None
    complaint: Text = ""
    age: Text = ""
    fault: Text = ""
    recovered_kg: ChargeKg = None
    circuit_again: YesNo = None
