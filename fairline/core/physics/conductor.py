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

    ``small_a``: the most that protects it in general, for the small ones. ``at_90_a``: what no
    terminal allows, but from which heat is taken off where the insulation bears it.
    ``aluminium_90_a``: of aluminium of this size; None where the table has none.
    """

    awg: int
    at_60_a: float
    at_75_a: float
    at_90_a: float
    aluminium_90_a: float | None
    small_a: float | None
    ohm_per_kft: float
    kcmil: float

    def ampacity_a(self, terminal_c: TerminalC) -> float:
        return self.at_60_a if terminal_c == 60 else self.at_75_a

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
    """The number of an AWG size; None for a size in mm², and where none is said.

    >>> awg_of("12 AWG"), awg_of("2.5 mm²")
    (12, None)
    """
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
    """Copper conductors by AWG number, the smallest first.

    Ampacity in A from NEC table 310.16, ohms from chapter 9 table 8, both quoted from memory.

    >>> conductors()[14].at_60_a, conductors()[14].kcmil
    (15.0, 4.11)
    """
    return {row["awg"]: Conductor.model_validate(row) for row in _table()["rows"]}


@cache
def standard_sizes_a() -> tuple[float, ...]:
    """The standard ratings of breakers and fuses in A, in order (NEC 240.6(A), quoted from memory).

    >>> standard_sizes_a()[:4]
    (10.0, 15.0, 20.0, 25.0)
    """
    return tuple(float(a) for a in _table()["standard_a"])


def largest_standard_a(at_most_a: float) -> float | None:
    """The largest standard size that is not above ``at_most_a``; None below the smallest.

    >>> largest_standard_a(34.9), largest_standard_a(9.0)
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


def next_standard_a(at_least_a: float) -> float | None:
    """The next standard size that is not below ``at_least_a`` (NEC 240.4(B), from memory).

    >>> next_standard_a(55.0), next_standard_a(20.0)
    (60.0, 20.0)
    """
    return min((a for a in standard_sizes_a() if a >= at_least_a - 1e-9), default=None)


def protecting_a(conductor: Conductor, ampacity_a: float) -> float:
    """The largest breaker in A that protects a wire where no nameplate says otherwise.

    A small conductor by NEC 240.4(D), a larger one up to the next standard size by 240.4(B); both
    quoted from memory. ``ampacity_a`` in A.

    >>> protecting_a(conductors()[14], 20.0), protecting_a(conductors()[6], 55.0)
    (15.0, 60.0)
    """
    if conductor.small_a is not None:
        return min(conductor.small_a, next_standard_a(ampacity_a) or ampacity_a)
    return next_standard_a(ampacity_a) or ampacity_a


def heat_factor(ambient_c: float, rated_c: float) -> float:
    """What is left of an ampacity in warm air: √((T − T_air)/(T − 30 °C)), T of the insulation.

    The relation behind NEC table 310.15(B)(1), from memory; 1 at 30 °C and below, 0 at T.

    >>> round(heat_factor(50.0, 90.0), 2), heat_factor(20.0, 60.0)
    (0.82, 1.0)
    """
    left = max(0.0, rated_c - ambient_c) / (rated_c - 30.0)
    return float(min(1.0, left**0.5))


class EquipmentGround(Frozen):
    """A circuit's equipment ground: by its breaker, and as it grew with the conductors.

    ``base_awg`` by table 250.122(A); ``growth`` as the conductors' area over that of the smallest
    that carries MCA, ``smallest_awg``; ``awg`` what is wanted, 250.122(B).
    """

    base_awg: int
    smallest_awg: int
    growth: float
    awg: int


def equipment_ground(
    breaker_a: float, awg: int, mca_a: float, terminal_c: TerminalC
) -> EquipmentGround | None:
    """The equipment ground by breaker, conductors and MCA; None above the tables.

    NEC table 250.122 and 250.122(B), from memory: as the hot conductors grow beyond the smallest
    that carries MCA at its terminals, so grows the ground, by area; never above them.

    >>> equipment_ground(20, 12, 16, 60).awg, equipment_ground(20, 10, 16, 60).awg
    (12, 10)
    """
    base, hot = _step(breaker_a), conductors().get(awg)
    fits = (c for c in conductors().values() if c.ampacity_a(terminal_c) >= mca_a - 1e-9)
    smallest = next(fits, None)
    if base is None or hot is None or smallest is None:
        return None
    growth = max(1.0, hot.kcmil / smallest.kcmil)
    grown = conductors()[base].kcmil * growth
    enough = (c.awg for c in conductors().values() if c.kcmil >= grown - 1e-9)
    return EquipmentGround(
        base_awg=base,
        smallest_awg=smallest.awg,
        growth=growth,
        awg=max(next(enough, awg), awg),
    )


def drop_share(awg: int, length_m: float, amps: float, volts: float) -> float:
    """The share of the voltage lost on the way there and back: 2 · L · R · I / V.

    >>> round(drop_share(12, 30.48, 16.0, 240.0), 4)
    0.0264
    """
    return 2 * length_m * conductors()[awg].ohm_per_m * amps / volts
