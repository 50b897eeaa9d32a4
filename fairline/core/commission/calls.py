"""One zone called at a time: which tubes answered, and which cables are crossed."""

from collections.abc import Mapping, Sequence

from fairline.core.calc.cross_wire import CrossWireRequest, CrossWireResult, cross_wire
from fairline.core.call import Answer, Check
from fairline.core.commission.records import Called
from fairline.core.wire.records import Landing


def standing_calls(
    calls: Sequence[Called], landings: Sequence[Landing], zones: Sequence[str]
) -> dict[str, Called]:
    """Of every zone its newest call, where its cable was not landed anew since."""
    landed = {z: max((x.at for x in landings if x.cable == z), default=None) for z in zones}
    found = {}
    for call in sorted(calls, key=lambda c: c.at):
        moved = landed.get(call.zone)
        if call.zone in landed and (moved is None or call.at >= moved):
            found[call.zone] = call
    return found


CHANGED_K = 6.0  # a tube that answers is that much off the others: cold, or warm; our own choice


def answering(tubes_c: Mapping[str, float], warm: bool = False) -> tuple[str, ...]:
    """The ports whose tubes answered, by a clamp thermometer on every one.

    ``tubes_c``: °C at each port; ``warm``: it was called to heat. A tube answers that is 6 K off
    the one that changed least.

    >>> answering({"A": 9.0, "B": 24.0, "C": 23.0})
    ('A',)
    """
    if len(tubes_c) < 2:
        return ()
    still = min(tubes_c.values()) if warm else max(tubes_c.values())
    return tuple(port for port, c in tubes_c.items() if abs(c - still) >= CHANGED_K - 1e-9)


def answered(
    calls: Mapping[str, Called], ports: Mapping[str, str]
) -> Answer[CrossWireResult] | None:
    """What the calls say of the cables; None of a single zone. ``ports``: each head's own port."""
    if len(ports) < 2:
        return None
    observed = {zone: list(call.ports) for zone, call in calls.items() if zone in ports}
    return cross_wire(CrossWireRequest(intended=dict(ports), observed=observed))


def calls_check(found: Answer[CrossWireResult]) -> Check:
    """Until every zone was called alone, and answered, none is proven."""
    return Check(id="called", label="Zones called one by one", call=found.call)
