"""Which measurements are of the machines, tubes and joints that are there now."""

from collections.abc import Sequence
from typing import TypeVar

from fairline.core.call import Check, Verdict
from fairline.core.commission.records import Called, Running
from fairline.core.parts import UNIT, Circuits
from fairline.core.proofs import COVERS, LEAK, Difference, Proofs, asked_again

OfZone = TypeVar("OfZone", Running, Called)


def stands_now(
    records: Sequence[OfZone], zones: Sequence[str], proofs: Proofs
) -> tuple[tuple[OfZone, ...], dict[str, list[Difference]]]:
    """The measurements of what is there now; of each zone what changed after its newest one.

    A joint that was made again concerns all that stood open to it: every zone of a running
    system. A machine or tube that is another one concerns the zones that it feeds.
    """
    stand: list[OfZone] = []
    older: dict[str, list[Difference]] = {}
    for record in records:
        zone = record.zone or next(iter(zones), "")
        different = proofs.differences(record.subject, record.at, COVERS["running"].kinds)
        ways = [_way(Circuits(proofs.at_beginning(record.subject, record.at)), zone)]
        ways.append(_way(Circuits(proofs.now), zone))
        own = [d for d in different if _concerns(d, ways, proofs, record)]
        if own:
            older[zone] = own
        if not own or all(d.what == LEAK for d in own):
            stand.append(record)
        if not own:
            older.pop(zone, None)
    return tuple(stand), older


def _way(circuits: Circuits, zone: str) -> set[str]:
    """The runs that lead from the outdoor unit to a head."""
    fed_from = {run: place.partition(".")[0] for place, run in circuits.starts.items()}
    found, run = set[str](), zone
    while run in fed_from and run not in found:
        found.add(run)
        run = fed_from[run]
    return found


def _concerns(
    difference: Difference, ways: Sequence[set[str]], proofs: Proofs, record: Running | Called
) -> bool:
    """Whether a difference concerns a zone whose way is known then and now."""
    made_again = difference.then is not None and difference.now is not None
    if difference.part == UNIT or (made_again and difference.part.startswith("joint:")):
        return True
    then = Circuits(proofs.at_beginning(record.subject, record.at)).run(difference.part)
    now = Circuits(proofs.now).run(difference.part)
    return then in ways[0] or now in ways[1]


def changed_check(different: Sequence[Difference]) -> Check:
    """That a zone was measured before something of it changed."""
    leaks = all(d.what == LEAK for d in different)
    do_next = "once the leak is mended" if leaks else "in both modes"
    call = asked_again(
        different,
        "the measurement",
        "after this zone was measured.",
        f"Measure it again, {do_next}.",
    )
    if leaks:
        call = call.model_copy(update={"verdict": Verdict.WATCH})
    return Check(id="changed", label="Changed since", call=call)
