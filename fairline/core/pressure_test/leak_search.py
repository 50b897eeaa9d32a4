"""Finding a leak: which joints to look at first, and what was found at each."""

from collections.abc import Sequence
from datetime import datetime
from typing import Literal

from fairline.core.call import Call, Frozen, Verdict
from fairline.core.check import capitalized, fault_call
from fairline.core.contents.part import Part
from fairline.core.contents.state import Contents
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
    joints: Sequence[Joint],
    coils: Sequence[str],
    checks: Sequence[LeakCheck],
    since: datetime,
    contents: Contents | None = None,
) -> list[Suspect]:
    """Joints not measured first, then those made again, factory flares, quiet coils, the rest.

    Only looks since the hold began count, and since the joint was made or tightened: what was
    clean before is not clean now. A look at lines with nothing in them that it could find shows
    nothing (``contents``).
    """
    blind = _blind(contents)
    fresh = [c for c in checks if c.at >= since and (c.found == "leak" or c.uid not in blind)]
    acts = {j.place: max((r.at for r in _acts(j)), default=since) for j in joints}
    brazed = {
        j.place for j in joints if j.brazed or (j.record is not None and j.record.how == "brazed")
    }
    names = {j.place: f"joint:{j.key}" for j in joints}

    def suspect(of: Literal["joint", "coil"], id: str, label: str, rank: int, why: str) -> Suspect:
        own = tuple(c for c in fresh if c.joint == id and c.at >= acts.get(id, since))
        name = names.get(id, f"head:{id.removeprefix('coil.')}")
        part = contents.of(name) if contents is not None else Part()
        call = _call(label, own, id in brazed, part)
        return Suspect(id=id, of=of, label=label, why=why, rank=rank, checks=own, call=call)

    found = [suspect("joint", j.place, j.label, *_rank(j)) for j in joints]
    found += [
        suspect("coil", f"coil.{zone}", f"Coil of head {zone}", 3, "it did not hiss")
        for zone in coils
    ]
    return sorted(found, key=lambda s: s.rank)


def _blind(contents: Contents | None) -> set[str]:
    """The looks, by their ids, at lines in which there was nothing to be found."""
    if contents is None:
        return set()
    return {f.act.uid for f in contents.findings if f.act.kind == "look" and f.act.uid}


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


def _mend(brazed: bool, part: Part) -> str:
    """How a leak is mended, by what is in the part: nothing is opened with that in it."""
    anew = "cut it out and braze it again" if brazed else "make it again"
    if part.content in ("refrigerant", "mixed"):
        shut = (
            "Shut both valves; recover that part by machine"
            if part.valves
            else ("Recover that part by machine")
        )
        return f"{shut}, never pump down; {anew}, then from the pressure test on."
    bleed = "bleed the nitrogen, " if part.pressed else ""
    if brazed:
        words = f"{bleed}{anew}. Then a new hold."
    else:
        words = f"tighten it once to torque; if it still leaks, {bleed}{anew}. Then a new hold."
    return capitalized(words)


def _call(label: str, checks: Sequence[LeakCheck], brazed: bool, part: Part) -> Call:
    if any(c.found == "leak" for c in checks):
        return fault_call(f"{label} leaks.", _mend(brazed, part))
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
