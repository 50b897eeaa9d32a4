"""Before hands go in: off, locked, proved dead, for each unit and each power-down."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from fairline.core.call import Call, Check, Limit, Verdict
from fairline.core.check import fault_call
from fairline.core.quantities import both
from fairline.core.wire.records import PowerOn, ProvedDead, SwitchedOff

LUGS = "The main's supply lugs stay live with the main off: keep the dead front on, and hands away."


@dataclass(frozen=True, eq=False)
class Dead:
    """How one unit stands: what was done since power was last on, and whether hands may go in.

    ``ready_at``: from when the stored charge is gone; None while it is not switched off. ``on``:
    power came on, and it was neither switched off nor proved dead since. ``reached``: it was wired
    while no circuit reached it, and is connected by now.
    """

    unit: str
    title: str
    off: SwitchedOff | None
    proof: ProvedDead | None
    ready_at: datetime | None
    call: Call
    on: bool = False
    reached: bool = False

    @property
    def proved(self) -> bool:
        """Whether hands may go in now."""
        return self.call.verdict is Verdict.HOLDS and not self.reached

    def ready_in_s(self, now: datetime) -> float | None:
        """How long stored charge still runs down; None where it is not off, or proved dead."""
        if self.ready_at is None or self.proved:
            return None
        return max(0.0, (self.ready_at - now).total_seconds())

    @property
    def keeps_hands_out(self) -> str:
        """Why no hand goes in, in words; blank where the last proof of it still stands."""
        if self.proof is not None and not self.on and not self.reached:
            return ""
        if self.reached:
            return f"a circuit reaches the {self.title} now: switch it off, lock it, prove it dead"
        if not self.on:
            return (
                f"say first that the {self.title} is off, locked and proved dead, or that no "
                "circuit reaches it yet"
            )
        return f"power is on at the {self.title}: switch it off, lock it, prove it dead first"


@dataclass(frozen=True)
class Fed:
    """A unit with a circuit of its own; ``connected``: somebody said that it is, at the panel."""

    unit: str
    title: str
    connected: bool = False


Act = SwitchedOff | ProvedDead | PowerOn


def dead(fed: Fed, acts: Sequence[Act], touched: Sequence[datetime], wait: Limit | None) -> Dead:
    """One unit as it stands; ``touched``: when each of what lies in it now was landed."""
    own = sorted(
        (a for a in acts if isinstance(a, PowerOn) or a.unit == fed.unit), key=lambda a: a.at
    )
    off, proof = _since_power(own)
    wait_s = wait.value if wait is not None else 0.0
    ready = off.at + timedelta(seconds=wait_s) if off is not None else None
    early = max((at for at in touched if not _safe(at, own, wait_s)), default=None)
    call = _call(fed, off, proof, early, own, wait)
    on = bool(own) and isinstance(own[-1], PowerOn)
    return Dead(fed.unit, fed.title, off, proof, ready, call, on, _reached(fed, proof))


def _reached(fed: Fed, proof: ProvedDead | None) -> bool:
    return fed.connected and proof is not None and proof.how == "not fed"


def _since_power(acts: Sequence[Act]) -> tuple[SwitchedOff | None, ProvedDead | None]:
    """The switching off and the proof that stand since power was last on."""
    off: SwitchedOff | None = None
    proof: ProvedDead | None = None
    for act in acts:
        if isinstance(act, PowerOn):
            off = proof = None
        elif isinstance(act, SwitchedOff):
            off, proof = act, None
        else:
            proof = act
    return off, proof


def _safe(at: datetime, acts: Sequence[Act], wait_s: float) -> bool:
    """Whether a unit was proved dead when hands went in at ``at``."""
    off, proof = _since_power([act for act in acts if act.at <= at])
    return proof is not None and _what_lacks(off, proof, wait_s) is None


def _dead_since(early: datetime, acts: Sequence[Act], wait_s: float) -> bool:
    """Whether a unit was proved dead at some time after a moment."""
    return any(
        isinstance(act, ProvedDead) and act.at > early and _safe(act.at, acts, wait_s)
        for act in acts
    )


def _what_lacks(off: SwitchedOff | None, proof: ProvedDead, wait_s: float) -> Call | None:
    """Why a proof does not count; None where it does."""
    if proof.dead == "no":
        return fault_call(
            "The tester shows voltage: it is live.",
            "Hands out. Find what feeds it, switch it off and lock it, then prove it again.",
            Verdict.STOP,
        )
    if proof.how == "not fed":
        return None
    if off is None or off.locked != "yes":
        return fault_call(
            "It was proved dead, but nobody has locked it off.",
            "Lock the disconnect and the breaker off, then prove it dead.",
        )
    if proof.tester_before != "yes" or proof.tester_after != "yes":
        return fault_call(
            "The tester was not tried on something live before and after.",
            "Try the tester on a live source, prove it dead, try the tester again.",
        )
    if proof.dead != "yes":
        return Call(
            verdict=Verdict.WAIT,
            because="What the tester showed is not said.",
            do_next="Measure every pair of conductors, and each to ground.",
        )
    short_s = wait_s - (proof.at - off.at).total_seconds()
    if short_s > 0.5:
        return fault_call(
            f"It was proved dead {both(wait_s - short_s, 'duration')} after it was switched off; "
            f"stored charge wants {both(wait_s, 'duration')}.",
            "Wait, then prove it dead again.",
        )
    return None


def _early_call(
    fed: Fed, early: datetime, acts: Sequence[Act], wait_s: float, locked: bool
) -> Call:
    """Landings made before a unit was dead: a stop until it is, then each pulled once more."""
    if not _dead_since(early, acts, wait_s):
        live = isinstance(acts[-1], PowerOn) if acts else False
        live = live and any(isinstance(a, PowerOn) and a.at <= early for a in acts)
        how = "with power on it" if live else "before it was proved dead"
        return fault_call(
            f"Hands went into the {fed.title} {how}.",
            f"Stop. Switch it off, lock it, wait {both(wait_s, 'duration')}, prove it dead. {LUGS}",
            Verdict.STOP,
        )
    return Call(
        verdict=Verdict.WATCH,
        because=f"Some landings in the {fed.title} were made before it was proved dead.",
        do_next="Pull each of them once more now that it is dead."
        if locked
        else "Switch off, lock, prove it dead, and pull each of them once more.",
    )


def _call(
    fed: Fed,
    off: SwitchedOff | None,
    proof: ProvedDead | None,
    early: datetime | None,
    acts: Sequence[Act],
    wait: Limit | None,
) -> Call:
    """How a unit stands; ``early``: the last of the landings that were made before it was dead."""
    is_on = bool(acts) and isinstance(acts[-1], PowerOn)
    wait_s = wait.value if wait is not None else 0.0
    if proof is not None and (lacks := _what_lacks(off, proof, wait_s)) is not None:
        return lacks
    if early is not None:
        return _early_call(fed, early, acts, wait_s, locked=proof is not None and not is_on)
    if _reached(fed, proof):
        return Call(
            verdict=Verdict.HOLDS,
            because=f"The {fed.title} was wired before a circuit reached it; it is connected now. "
            "Off, locked, proved dead before hands go in again.",
        )
    if proof is not None:
        words = "no circuit reaches it yet" if proof.how == "not fed" else "locked and proved dead"
        return Call(verdict=Verdict.HOLDS, because=f"The {fed.title}: {words}, {proof.by}.")
    if is_on:
        return Call(
            verdict=Verdict.HOLDS, because=f"The {fed.title} was wired dead; power is on since."
        )
    if off is not None:
        return Call(
            verdict=Verdict.WAIT,
            because=f"The {fed.title} is off; stored charge runs down for "
            f"{both(wait_s, 'duration')}.",
            do_next="Then try the tester on something live, prove it dead, try the tester again.",
        )
    return Call(
        verdict=Verdict.WAIT,
        because=f"The {fed.title} is not off, locked and proved dead.",
        do_next=f"Before its cover comes off: switch it off and lock it. {LUGS}",
    )


def check(found: Dead, wait: Limit | None) -> Check:
    return Check(
        id=f"dead_{found.unit}",
        label=f"Proved dead: {found.title}",
        call=found.call,
        limit=wait,
        kind="duration",
        part=f"unit-{found.unit}",
    )
