"""What is set at the controls: a box's ports, a trunk's addresses, what a tool shows of them."""

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import fault_call
from fairline.core.route.piping import Piping
from fairline.core.wire.entry import WireEntry

PART = "settings"


def checks(entry: WireEntry, pipes: Piping) -> list[Check]:
    """Ports of every box, addresses of a trunk; nothing where a system has neither."""
    boxes = [s.id for s in pipes.stretches if s.kind == "box"]
    found = [_box(box, entry, pipes) for box in boxes]
    if pipes.addresses:
        found += _addresses(entry, pipes)
    return found


def used_ports(box: str, pipes: Piping) -> tuple[str, ...]:
    """The ports of a box that have a head on them, as its sheet orders them."""
    return tuple(p for p in pipes.outlets.get(box, ()) if f"{box}-{p}" in pipes.used)


def _box(box: str, entry: WireEntry, pipes: Piping) -> Check:
    id, label = f"ports_{box}", f"Ports set at {box}"
    used, told = set(used_ports(box, pipes)), entry.box_ports.get(box)
    names = ", ".join(sorted(used))
    if not told:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"Which ports of {box} are used is not set at the control.",
            do_next=f"Set {names} as used and the others as not used, then say so.",
        )
        return Check(id=id, label=label, call=call, part=PART)
    extra, missing = sorted(set(told) - used), sorted(used - set(told))
    if extra or missing:
        said = [f"{p} is set as used and has no head" for p in extra]
        said += [f"{p} has a head and is not set" for p in missing]
        call = fault_call(f"{box}: {'; '.join(said)}.", f"Set {names} as used, and no other.")
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{box}: {names} set as used.")
    return Check(id=id, label=label, call=call, part=PART)


def _addresses(entry: WireEntry, pipes: Piping) -> list[Check]:
    """Every head with an address of its own, without a gap; and what a tool shows of them."""
    own = {z: entry.addresses.get(z) for z in pipes.addresses}
    is_set = {z: a.whole for z, a in own.items() if a is not None and a.whole}
    found = [_set(is_set, list(pipes.addresses))]
    for number in sorted(set(is_set.values())):
        heads = [z for z, a in is_set.items() if a == number]
        if len(heads) > 1:
            call = fault_call(
                f"Heads {' and '.join(heads)} are both set to {number}.",
                f"Set head {heads[-1]} to an address of its own.",
            )
            found.append(Check(id=f"address_{number}", label="Address", call=call, part=PART))
    if entry.seen:
        found.append(_seen(entry, is_set))
    return found


def _set(is_set: dict[str, str], heads: list[str]) -> Check:
    id, label = "addresses", "Addresses of the heads"
    missing = [z for z in heads if z not in is_set]
    if missing:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"No address is set at {', '.join(missing)}.",
            do_next="Set refrigerant circuit and head at each, as the card has them.",
        )
        return Check(id=id, label=label, call=call, part=PART)
    circuits = sorted({a.split("-")[0] for a in is_set.values()})
    numbers = sorted({int(a.split("-")[1]) for a in is_set.values()})
    gap = next((n for n in range(numbers[-1] + 1) if n not in numbers), None)
    if len(circuits) > 1:
        call = fault_call(
            f"Heads of one outdoor unit stand on circuits {', '.join(circuits)}.",
            "Set one refrigerant circuit at all of them.",
        )
    elif gap is not None and len(numbers) == len(heads):
        call = fault_call(
            f"Address {gap:02} is missing: the heads go on to {numbers[-1]:02}.",
            "Number the heads from 00 on without a gap.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because="Every head has an address, without a gap.")
    return Check(id=id, label=label, call=call, part=PART)


def _seen(entry: WireEntry, is_set: dict[str, str]) -> Check:
    wanted, seen = set(is_set.values()), set(entry.seen)
    lost, strange = sorted(wanted - seen), sorted(seen - wanted)
    if lost or strange:
        said = [f"{a} is not seen" for a in lost]
        said += [f"{a} is seen and set nowhere" for a in strange]
        call = fault_call(
            f"The service tool shows other addresses: {'; '.join(said)}.",
            "Look at the pair and the switches of the heads that are not seen.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because="The service tool shows every address set.")
    return Check(id="seen", label="Addresses seen", call=call, part=PART)
