"""What the wiring takes from the van, each from what was entered."""

import math
from collections import Counter
from collections.abc import Sequence

from fairline.core.calc.materials import Line, Unit
from fairline.core.physics.conductor import largest_standard_a
from fairline.core.physics.constants import FOOT_M
from fairline.core.wire.carrying import is_copper
from fairline.core.wire.entry import Supply, WireEntry
from fairline.core.wire.interconnect import COMMON_GAUGE
from fairline.core.wire.supply import SupplyResult
from fairline.core.wire.supply_way import CONDUIT_WORDS, stretches
from fairline.core.wire.wiring import Wiring

STRAP_EVERY_M = 10 * FOOT_M  # of conduit: common practice after NEC 358.30, from memory
CARRIED_ALONG_M = 1.0  # of each conductor in panel and disconnect: our own choice


def _line(item: str, quantity: float, unit: Unit, origin: str, size: str = "") -> Line:
    return Line(group="power", item=item, quantity=quantity, unit=unit, origin=origin, size=size)


def needed(entry: WireEntry, wiring: Wiring, supplies: Sequence[SupplyResult]) -> list[Line]:
    """Every line of the wiring: per circuit, then lugs, labels and tape for all of it."""
    lines = [line for one in supplies for line in _circuit(one)]
    lines += _landings(entry, wiring)
    white = [s.title for s in supplies if s.entry.way == "sheathed"]
    if white:
        lines.append(_line("Marking tape, roll", 1.0, "pieces", "a white used as hot, both ends"))
    return lines


def _circuit(one: SupplyResult) -> list[Line]:
    e, found = one.entry, one.rating
    origin = one.title
    lines: list[Line] = []
    fits = largest_standard_a(found.mop_a) if found.mop_a is not None else None
    over = e.breaker_a is not None and found.mop_a is not None and e.breaker_a > found.mop_a
    amps = fits if over else e.breaker_a
    poles = e.poles or ("1" if found.low else "2")
    if amps is not None and (e.circuit == "new" or over):
        why = f"{origin}: in the place of {e.breaker_a:g} A" if over else origin
        lines.append(_line("Breaker", 1.0, "pieces", why, f"{amps:g} A, {poles}-pole"))
    if e.circuit == "new" and e.disconnect in ("switch", "fused"):
        size = f"{e.disconnect_a:g} A" if e.disconnect_a is not None else ""
        fused = "Disconnect, fused" if e.disconnect == "fused" else "Disconnect"
        lines.append(_line(fused, 1.0, "pieces", origin, size))
    if e.disconnect == "fused" and e.fuse_a is not None:
        lines.append(_line("Fuse", float(poles), "pieces", origin, f"{e.fuse_a:g} A"))
    if e.whip == "no" or e.circuit == "new":
        lines.append(_line("Whip, liquid-tight", 1.0, "pieces", origin))
    return lines + _wires(one, int(poles))


def _wires(one: SupplyResult, poles: int) -> list[Line]:
    """Conductors and conduit of a new circuit; of one used again they lie there."""
    e = one.entry
    if e.circuit != "new" or e.length_m is None or e.gauge is None:
        return []
    every = [s for s in stretches(e) if s.length_m is not None] or [e]
    every = [e] if len(every) < len(e.stretches) else every
    lines: list[Line] = []
    for n, s in enumerate(every):
        ends = (n == 0) + (n == len(every) - 1)
        lines += _laid(s, one, (s.length_m or 0.0) + CARRIED_ALONG_M * ends / 2, poles)
    return _summed(lines)


def _laid(e: Supply, one: SupplyResult, length: float, poles: int) -> list[Line]:
    """What a stretch takes; ``length`` in m with what panel and disconnect take of it."""
    origin, metal = one.title, "copper" if is_copper(e) else e.metal or ""
    if e.way != "conduit":
        kind = "Indoor sheathed cable" if e.way == "sheathed" else "Outdoor-rated supply cable"
        return [_line(kind, length, "m", origin, f"{e.gauge} {metal}, two and ground")]
    hots = max(2, poles)  # two hots, or hot and neutral
    lines = [_line("Supply conductor", hots * length, "m", origin, f"{e.gauge} {metal}")]
    if one.ground_awg is not None:
        lines.append(_line("Ground conductor", length, "m", origin, f"{one.ground_awg} AWG copper"))
    if e.conduit is not None:
        conduit_m, words = e.length_m or 0.0, CONDUIT_WORDS[e.conduit]
        lines.append(_line("Conduit", conduit_m, "m", origin, words))
        straps = math.ceil(conduit_m / STRAP_EVERY_M) + 2
        lines.append(
            _line("Conduit strap", float(straps), "pieces", f"{origin}: every 10 ft", words)
        )
        lines.append(_line("Conduit connector", 2.0, "pieces", f"{origin}: one an end", words))
    return lines


def _summed(lines: Sequence[Line]) -> list[Line]:
    """Equal things of several stretches as one line."""
    found: dict[tuple[str, str], Line] = {}
    for line in lines:
        before = found.get((line.item, line.size))
        more = line.quantity + (before.quantity if before else 0.0)
        found[line.item, line.size] = line.model_copy(update={"quantity": more})
    return list(found.values())


def _landings(entry: WireEntry, wiring: Wiring) -> list[Line]:
    """A lug or ferrule for each landing, a letter for each end of a cable."""
    lugs: Counter[str] = Counter()
    ends = 0
    for cable in wiring.cables.values():
        for side in cable.sides:
            block = wiring.planned(cable.id, side)
            if block is None:
                continue
            own = entry.cable(cable.id).gauge or COMMON_GAUGE
            gauge = own
            if cable.kind == "supply":
                gauge = entry.supply(block.unit).gauge or ""
            lugs[gauge] += len(block.places)
            ends += cable.kind == "cable"
    lines = [
        _line("Lug or ferrule", float(n), "pieces", "one a landing", gauge)
        for gauge, n in lugs.items()
        if n
    ]
    if ends:
        lines.append(_line("Cable letter", float(ends), "pieces", "both ends of every cable"))
    if wiring.blocks:
        units = {b.unit for b in wiring.blocks.values()}
        lines.append(_line("Lid card", float(len(units)), "pieces", "terminals of each unit"))
    return lines
