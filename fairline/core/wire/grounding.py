"""A circuit's equipment ground: there or not, of its size, or the metal conduit itself."""

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import fault_call, waiting_check
from fairline.core.physics.conductor import EquipmentGround, area_mm2
from fairline.core.wire.carrying import ground_awg
from fairline.core.wire.entry import Supply

METAL_PIPES = ("emt", "rigid")  # conduits that are an equipment ground: NEC 250.118, from memory


def ground(entry: Supply, earth: EquipmentGround | None) -> Check:
    id, label = "ground", "Equipment ground"
    wanted = ground_awg(entry, earth)
    if entry.grounded == "no":
        call = fault_call(
            "The circuit has no equipment ground of its own.",
            "It is not used until one is run: an old range or dryer circuit has none.",
            Verdict.STOP,
        )
        return Check(id=id, label=label, call=call)
    if entry.grounded is None:
        want = f" of {wanted} AWG" if wanted else ""
        return waiting_check(
            id,
            label,
            "Whether it has an equipment ground is not said.",
            f"Look for an equipment ground{want}, or metal tubing that is one.",
        )
    if entry.grounded == "conduit":
        return Check(id=id, label=label, call=_by_conduit(entry))
    if wanted is None:
        return Check(id=id, label=label, call=_no_size(entry))
    own = entry.ground_gauge
    if own is None:
        return waiting_check(
            id,
            label,
            "The ground's size is not said.",
            f"Look at it: {wanted} AWG is wanted, or larger.",
        )
    assert earth is not None
    named = f"; {entry.ground_by} stays with 250.122(A)" if entry.ground_by else ""
    if area_mm2(own) >= area_mm2(f"{wanted} AWG") * 0.999:
        said = f"The ground is {own}; {wanted} AWG is wanted{named}."
        call = Call(verdict=Verdict.HOLDS, because=said)
        if named and earth.growth > 1:
            call = fault_call(said, "Show whoever inspects who said so.", Verdict.WATCH)
        return Check(id=id, label=label, call=call)
    exception = ""
    if earth.awg < earth.base_awg and area_mm2(own) >= area_mm2(f"{earth.base_awg} AWG") * 0.999:
        exception = (
            f" A qualified person may stay with {earth.base_awg} AWG by the exception of "
            "250.122(B): enter who."
        )
    call = fault_call(
        f"The ground is {own}; {wanted} AWG is wanted by 250.122.",
        f"Run a ground of {wanted} AWG: it grows with breaker and conductors.{exception}",
    )
    return Check(id=id, label=label, call=call)


def _by_conduit(entry: Supply) -> Call:
    """Metal tubing as the equipment ground, to its box; a flexible whip carries its own."""
    if entry.way == "conduit" and entry.conduit in METAL_PIPES:
        return Call(
            verdict=Verdict.HOLDS,
            because="The metal conduit is the equipment ground to its box (250.118); the whip "
            "carries a ground of its own.",
        )
    return fault_call(
        "A metal conduit is said to be the ground, and the circuit does not run in one.",
        "Say which conduit it runs in, or run a ground conductor.",
    )


def _no_size(entry: Supply) -> Call:
    known = entry.breaker_a is not None and entry.gauge is not None
    return Call(
        verdict=Verdict.WATCH if known else Verdict.WAIT,
        because="It has a ground; what size it has to be is in none of our tables."
        if known
        else "It has a ground; breaker and conductors say what size it has to be.",
        do_next="Ask the local code, or whoever is licensed, for the ground's size."
        if known
        else "Enter breaker and conductors.",
    )
