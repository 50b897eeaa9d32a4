"""The second look: every joint under refrigerant, once the valves are open, before covers go on."""

from collections.abc import Iterable, Sequence

from fairline.core.call import Call, Check, Verdict
from fairline.core.charge.override import Lacking
from fairline.core.charge.valve_order import ValveProgress
from fairline.core.check import plural
from fairline.core.contents.state import Contents
from fairline.core.flare.stage import Joint
from fairline.core.pressure_test.leak_search import Suspect, next_to_look_at, suspects
from fairline.core.pressure_test.records import LeakCheck


def looks(
    joints: Sequence[Joint],
    coils: Sequence[str],
    checks: Sequence[LeakCheck],
    progress: Iterable[ValveProgress],
    contents: Contents,
) -> list[Suspect]:
    """Every joint of the circuits that were opened, with what was seen at it since.

    ``coils``: those of heads that did not hiss.
    """
    found: list[Suspect] = []
    for one in progress:
        if one.first_at is None:
            continue
        own = [j for j in joints if _on(f"joint:{j.key}", one.circuit, contents)]
        heads = [z for z in coils if _on(f"head:{z}", one.circuit, contents)]
        found += suspects(own, heads, checks, one.first_at, contents)
    once = {s.id: s for s in found}
    return sorted(once.values(), key=lambda s: s.rank)


def _on(part: str, circuit: str, contents: Contents) -> bool:
    """Whether a part stands under refrigerant since an opening; the cap of a shut port does not."""
    circuits = contents.places(part) if contents.places else ()
    return not circuit or circuit in circuits


def looked_check(looked: Sequence[Suspect], open_: bool) -> Check:
    """Every joint under refrigerant, with bubbles or detector for its time."""
    leaking = next((s for s in looked if s.call.verdict is Verdict.SHORT), None)
    left = next_to_look_at(looked)
    done = sum(s.call.verdict is Verdict.HOLDS for s in looked)
    if not open_:
        call = Call(
            verdict=Verdict.WAIT,
            because="No joint is under refrigerant yet.",
            do_next="Open both valves, then look at every joint.",
        )
    elif leaking is not None:
        call = leaking.call
    elif left is not None or not looked:
        name = left.label if left else "each joint"
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{done} of {plural(len(looked), 'joint')} looked at under refrigerant.",
            do_next=f"Bubble {name}, two to three minutes, or pass it twice with a detector.",
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS, because=f"{plural(done, 'joint')} dry under refrigerant."
        )
    return Check(id="looked", label="Joints under refrigerant", call=call)


def by_feel(joints: Iterable[Joint], looked: Iterable[Suspect]) -> list[Lacking]:
    """A joint of a charged kit that went by feel, and that nobody looked at under refrigerant."""
    dry = {s.id for s in looked if s.call.verdict is Verdict.HOLDS}
    for joint in joints:
        felt = joint.record is not None and joint.record.how == "by feel"
        if felt and joint.place not in dry:
            because = f"{joint.label} is tight by feel, and nobody looked at it under refrigerant."
            return [Lacking("looked", because)]
    return []
