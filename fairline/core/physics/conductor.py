"""Copper conductors by gauge: what they carry, what protects them, their ground, their drop.

The tables stand in ``tables/conductors.json``, each with its source. They say nothing of
aluminium and of sizes in mm²: there a local code has to.
"""

import re
from functools import cache
from math import exp, log, pi
from typing import Any, Literal

from fairline.core.call import Frozen
from fairline.core.physics.constants import FOOT_M
from fairline.core.physics.tubing import table

TerminalC = Literal[60, 75]
KFT_M = 1000 * FOOT_M
LONGEST_M = 500.0  # a circuit of a house; beyond it a length is a slip of the unit
AWG_SIZES = (18, 16, 14, 12, 10, 8, 6, 4, 3, 2, 1)
MM2_SIZES = (0.5, 0.75, 1, 1.5, 2.5, 4, 6, 10, 16, 25, 35)  # IEC 60228, from memory


class Conductor(Frozen):
    """A copper conductor: amperes by its terminals' temperature, ohms a length, area in kcmil.

    ``small_a``: the most that protects it in general, for the small ones.
    """

    awg: int
    at_60_a: float
    at_75_a: float
    small_a: float | None
    ohm_per_kft: float
    kcmil: float

    def ampacity_a(self, terminal_c: TerminalC) -> float:
        return self.at_60_a if terminal_c == 60 else self.at_75_a

    def protected_a(self, terminal_c: TerminalC) -> float:
        """The largest breaker that protects it where no nameplate says otherwise."""
        most = self.ampacity_a(terminal_c)
        return most if self.small_a is None else min(most, self.small_a)

    @property
    def ohm_per_m(self) -> float:
        return self.ohm_per_kft / KFT_M


def gauge(text: str) -> str:
    """A conductor's size in its one spelling; ValueError for none that is made.

    >>> gauge("#12"), gauge("AWG 14"), gauge("2,5 mm2")
    ('12 AWG', '14 AWG', '2.5 mm²')
    """
    said = text.strip().lower().replace(",", ".").replace("²", "2")
    metric = re.fullmatch(r"(\d+(?:\.\d+)?)\s*(?:mm2|mm\^2|sqmm|qmm)", said)
    if metric:
        if float(metric[1]) not in MM2_SIZES:
            raise ValueError(f"{metric[1]} mm² is not made; {_listed(MM2_SIZES)} mm² are")
        return f"{float(metric[1]):g} mm²"
    plain = re.fullmatch(r"(?:awg|#|no\.?)?\s*(\d+)\s*(?:awg|ga|gauge)?", said)
    if not plain:
        raise ValueError(f"“{text.strip()[:20]}” is no wire; type it like 12 AWG or 2.5 mm²")
    if int(plain[1]) not in AWG_SIZES:
        raise ValueError(f"{int(plain[1])} AWG is not made; {_listed(AWG_SIZES)} are")
    return f"{int(plain[1])} AWG"


def _listed(sizes: tuple[float, ...]) -> str:
    return ", ".join(f"{s:g}" for s in sizes)


def awg_of(size: str | None) -> int | None:
    """The number of a gauge; None for a size in mm², and where none is said."""
    return int(size.split()[0]) if size and size.endswith("AWG") else None


def area_mm2(size: str) -> float:
    """The copper of a conductor, solid: an AWG's from its diameter (ASTM B258, from memory).

    >>> round(area_mm2("14 AWG"), 2), area_mm2("2.5 mm²")
    (2.08, 2.5)
    """
    awg = awg_of(size)
    if awg is None:
        return float(size.split()[0])
    diameter_mm = 0.127 * exp(log(92) * (36 - awg) / 39)
    return pi / 4 * diameter_mm**2


def _table() -> dict[str, Any]:
    return table("conductors")


@cache
def conductors() -> dict[int, Conductor]:
    """By gauge, the smallest first."""
    return {row["awg"]: Conductor.model_validate(row) for row in _table()["rows"]}


@cache
def standard_sizes_a() -> tuple[float, ...]:
    """The standard ratings of breakers and fuses (NEC 240.6(A), from memory)."""
    return tuple(float(a) for a in _table()["standard_a"])


def largest_standard_a(at_most_a: float) -> float | None:
    """The largest standard size that is not above ``at_most_a``; None below the smallest.

    >>> largest_standard_a(34.9), largest_standard_a(14.0)
    (30.0, None)
    """
    return max((a for a in standard_sizes_a() if a <= at_most_a + 1e-9), default=None)


def nearest_standard_a(amps: float) -> tuple[float, ...]:
    """The standard sizes on both sides of a rating that is none.

    >>> nearest_standard_a(22.0)
    (20.0, 25.0)
    """
    under = [a for a in standard_sizes_a() if a < amps]
    over = [a for a in standard_sizes_a() if a > amps]
    return (*under[-1:], *over[:1])


def _step(breaker_a: float) -> int | None:
    """The equipment ground of a breaker; None above the table."""
    rows = _table()["grounds"]
    return next((int(r["awg"]) for r in rows if breaker_a <= r["breaker_a"] + 1e-9), None)


def smallest_for(amps: float, terminal_c: TerminalC) -> Conductor | None:
    """The smallest conductor that a breaker of this size protects; None above the table."""
    fit = (c for c in conductors().values() if c.protected_a(terminal_c) >= amps - 1e-9)
    return next(fit, None)


def equipment_ground_awg(breaker_a: float, awg: int, terminal_c: TerminalC) -> int | None:
    """The equipment ground's gauge: by the breaker, and grown with a conductor that was enlarged.

    NEC table 250.122 and 250.122(B), from memory: as the hot conductors grow beyond what the
    breaker asks, so grows the ground, by area; it need never be larger than they are. None above
    the table.

    >>> equipment_ground_awg(20, 12, 60), equipment_ground_awg(20, 10, 60)
    (12, 10)
    """
    base, wanted = _step(breaker_a), smallest_for(breaker_a, terminal_c)
    hot = conductors().get(awg)
    if base is None or hot is None:
        return None
    grown = conductors()[base].kcmil
    if wanted is not None and hot.kcmil > wanted.kcmil:
        grown *= hot.kcmil / wanted.kcmil
    fit = (c.awg for c in conductors().values() if c.kcmil >= grown - 1e-9)
    return max(next(fit, awg), awg)


def drop_share(awg: int, length_m: float, amps: float, volts: float) -> float:
    """The share of the voltage lost on the way there and back: 2 · L · R · I / V.

    >>> round(drop_share(12, 30.48, 16.0, 240.0), 4)
    0.0264
    """
    return 2 * length_m * conductors()[awg].ohm_per_m * amps / volts
