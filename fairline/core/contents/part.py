"""What one circuit holds, and which valves and ends of it stand open."""

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from fairline.core.physics.constants import PSI_PA
from fairline.core.quantities import both

NOUGHT_PA = PSI_PA  # what a nitrogen gauge cannot tell from nought; our own choice

Content = Literal[
    "air",
    "charged",  # a charged kit before its valves are opened: sealed, never under pump or nitrogen
    "purge",  # nitrogen flowing through a nut that was left loose
    "nitrogen",
    "vacuum",
    "refrigerant",
    "recovered",  # the refrigerant taken out by weight, the gauge at nought
    "pumped-down",  # the refrigerant drawn into the outdoor unit, both valves shut
    "mixed",  # refrigerant with nitrogen or air, or an amount that nobody knows
]


@dataclass(frozen=True)
class Part:
    """The state of one circuit.

    ``since``: when its content came about, by the act of ``by``; None where nothing was done yet.
    ``gauge_pa``: nitrogen as it was read last, in Pa; None where nobody read it. ``valves``:
    whether its service valves are open. ``pump``: the pump is on it; ``pumped``: it was, since the
    content came about. ``tested``: nitrogen was on it at a pressure since it was open last.
    ``ends``: joints that were opened and not made again, by their keys. ``leaks``: where a leak
    was found under refrigerant and not mended. ``raining``: since when it rains on open tubing.
    ``named``: who lets the pump run without nitrogen before, and why; for one evacuation.
    ``seat``: nothing was done on it yet, refrigerant stands behind its shut valve, whose seat
    nobody proved, and what is on this side was not read.
    """

    content: Content = "air"
    since: datetime | None = None
    by: str = ""
    gauge_pa: float | None = None
    valves: bool = False
    pump: bool = False
    pumped: bool = False
    tested: bool = False
    ends: frozenset[str] = frozenset()
    leaks: frozenset[str] = frozenset()
    raining: datetime | None = None
    named: str = ""
    seat: bool = False

    @property
    def pressed(self) -> bool:
        """Whether nitrogen stands in it at a pressure, or nobody read that it does not."""
        return self.content == "nitrogen" and (self.gauge_pa is None or self.gauge_pa > NOUGHT_PA)

    @property
    def words(self) -> str:
        """What is in it, in words: ``nitrogen, 300 psig (2.07 MPa)``.

        >>> Part("vacuum", pump=True).words, Part("nitrogen", gauge_pa=0.0).words
        ('a vacuum, pump on', 'nitrogen, bled to nought')
        """
        match self.content:
            case "nitrogen" if self.gauge_pa is None:
                return "nitrogen, not read"
            case "nitrogen" if not self.pressed:
                return "nitrogen, bled to nought"
            case "nitrogen":
                return f"nitrogen, {both(self.gauge_pa or 0.0, 'gauge')}"
            case "vacuum":
                return "a vacuum, pump on" if self.pump else "a vacuum"
            case "refrigerant":
                return "refrigerant" if self.valves else "refrigerant, valves shut"
            case other:
                return WORDS[other]


WORDS: dict[Content, str] = {
    "air": "air",
    "charged": "the kit's own charge",
    "purge": "nitrogen flowing",
    "recovered": "nothing: recovered",
    "pumped-down": "nothing: pumped down",
    "mixed": "refrigerant, mixed or of unknown weight",
}
