"""Finding a leak: which joints to look at first, and what was found at each."""

from collections.abc import Sequence
from datetime import datetime
from typing import Literal

from fairline.core.call import Call, Frozen, Verdict
from fairline.core.check import fault
from fairline.core.flare.records import JointRecord
from fairline.core.flare.stage import Joint
from fairline.core.pressure_test.records import LeakCheck

WATCH_S = 120.0  # bubbles are watched two to three minutes at each joint: common practice


class Suspect(Frozen):
    """A joint or coil that could leak: why it is looked at when it is, and what was found."""

    id: str
    of: Literal["joint", "coil"]
    label: str
    why: str
    rank: int
    call: Call
    checks: tuple[LeakCheck, ...] = ()


def suspects(
    joints: Sequence[Joint], coils: Sequence[str], checks: Sequence[LeakCheck], since: datetime
) -> list[Suspect]:
    """Joints not measured first, then those made again, factory flares, quiet coils, the rest.

    Only looks since the hold began count, and since the joint was made or tightened: what was
    clean before is not clean now.
    """
    fresh = [c for c in checks if c.at >= since]
    acts = {j.place: max((r.at for r in _acts(j)), default=since) for j in joints}
    brazed = {j.place for j in joints if j.brazed}

    def suspect(of: Literal["joint", "coil"], id: str, label: str, rank: int, why: str) -> Suspect:
        own = tuple(c for c in fresh if c.joint == id and c.at >= acts.get(id, since))
        call = _call(label, own, id in brazed)
        return Suspect(id=id, of=of, label=label, why=why, rank=rank, checks=own, call=call)

    found = [suspect("joint", j.place, j.label, *_rank(j)) for j in joints]
    found += [
        suspect("coil", f"coil.{zone}", f"Coil of head {zone}", 3, "it did not hiss")
        for zone in coils
    ]
    return sorted(found, key=lambda s: s.rank)


def _acts(joint: Joint) -> list[JointRecord]:
    """What was done at a joint's place: a look from before it is of another joint."""
    return [*joint.former, *([joint.record] if joint.record else [])]


def _rank(joint: Joint) -> tuple[int, str]:
    record = joint.record
    if record is None:
        return 0, "not recorded"
    if record.how == "by feel":
        return 0, "tight by feel, not measured"
    if record.how == "loose":
        return 0, "left loose for the purge"
    if joint.call.verdict in (Verdict.SHORT, Verdict.STOP):
        return 0, "its making does not hold"
    if joint.makings > 1:
        return 1, f"made {joint.makings} times"
    if record.flare == "factory":
        return 2, "factory flare"
    return 4, "brazed" if joint.brazed else "made to torque"


def _call(label: str, checks: Sequence[LeakCheck], brazed: bool) -> Call:
    if any(c.found == "leak" for c in checks):
        mend = "Cut it out and braze it again" if brazed else "Tighten it once to torque"
        again = "" if brazed else "; if it still leaks, make it again"
        return fault(f"{label} leaks.", f"{mend}{again}. Then a new hold.")
    bubbled = [c for c in checks if c.method == "bubbles"]
    if bubbled and (bubbled[-1].watched_s or 0.0) < WATCH_S:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{label}: watched too short to see a fine leak.",
            do_next="Watch the bubbles for two to three minutes.",
        )
    if bubbled:
        return Call(verdict=Verdict.HOLDS, because=f"{label}: no bubbles.")
    passes = sum(c.method == "detector" for c in checks)
    if passes:
        return Call(
            verdict=Verdict.HOLDS if passes > 1 else Verdict.WATCH,
            because=f"{label}: no alarm in {passes} pass{'es' if passes > 1 else ''}.",
            do_next=None if passes > 1 else "Pass it a second time.",
        )
    return Call(verdict=Verdict.WAIT, because=f"{label}: not looked at.", do_next="Bubble it.")


def next_to_look_at(found: Sequence[Suspect]) -> Suspect | None:
    """The first suspect that is still open; None where a leak was found or all were looked at."""
    if any(s.call.verdict is Verdict.SHORT for s in found):
        return None
    return next((s for s in found if s.call.verdict in (Verdict.WAIT, Verdict.WATCH)), None)
