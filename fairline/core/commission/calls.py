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
