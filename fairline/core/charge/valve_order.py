"""The order in which valves are opened, step by step: the schools, what each step does and risks.

Each circuit is opened by itself: its service valves, the gauge's hose, the core, the caps. Steps
are recorded one by one or as a list that went as it should; a step that was done before one that
should have come first is told with what that risks. Steps and orders: ``tables/valve_orders.json``.
"""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import Call, Check, Frozen, Verdict
from fairline.core.charge.entry import PumpedDown, Release, ValveOrder, ValvesShut
from fairline.core.check import fault_call
from fairline.core.contents.act import Act, act_of
from fairline.core.contents.state import Contents
from fairline.core.entry import Record, Text
from fairline.core.physics.tubing import table

KIT: ValveOrder = "kit"  # the order of a charged kit: no gauge, no hose, the hiss at each valve
CRACKS = ("gas-crack", "liquid-crack")
FULL = {"gas": ("gas-open", "gas-hiss"), "liquid": ("liquid-open", "liquid-hiss")}
OPENS = frozenset({*CRACKS, *FULL["gas"], *FULL["liquid"]})
ISOLATION = "isolation-open"


class ValveStep(Frozen):
    """One step: what is done, and what it risks where a later one was done before it.

    ``unless``: how it is said that it did not go as it should; blank where that is not asked.
    ``mends``: the act that makes good what was risked (``decay`` or ``emptied``).
    """

    words: str
    skipped: str
    skipped_verdict: Verdict = Verdict.WATCH
    skipped_do_next: str = "Look at the port and the caps with bubbles."
    mends: str = ""
    unless: str = ""
    wrong: str = ""
    wrong_verdict: Verdict = Verdict.SHORT
    do_next: str = ""


_TABLE = table("valve_orders")
STEPS: Mapping[str, ValveStep] = {
    name: ValveStep.model_validate(row) for name, row in _TABLE["steps"].items()
}
ORDERS: Mapping[str, tuple[str, ...]] = {n: tuple(row) for n, row in _TABLE["orders"].items()}


class ValveSteps(Record):
    """Steps of an order that were done, in their sequence, on the valves of some circuits.

    ``went_wrong``: the last of them did not go as it should.
    """

    struck = "what was done at the valves"

    kind: Literal["valve-steps"] = "valve-steps"
    order: ValveOrder
    ports: Annotated[tuple[Text, ...], Field(max_length=40)] = ()
    steps: Annotated[tuple[Text, ...], Field(min_length=1, max_length=12)]
    went_wrong: bool = False

    @model_validator(mode="after")
    def _known(self) -> "ValveSteps":
        if unknown := [s for s in self.steps if s not in STEPS]:
            raise ValueError(f"steps: no step is called {unknown[0]}")
        if self.went_wrong and not STEPS[self.steps[-1]].unless:
            raise ValueError("steps: of this step nothing is asked")
        return self

    @property
    def opens(self) -> bool:
        """Whether a valve was opened with it, were it only cracked."""
        return any(s in OPENS for s in self.steps)


def acts_of(record: Record) -> Iterator[Act]:
    """What steps at the valves do to what is in the pipes: refrigerant comes with the first."""
    if isinstance(record, ValveSteps):
        if record.opens:
            yield act_of("released", record)
        last = [s for s in record.steps if s in OPENS or s == "shut-again"]
        if last and last[-1] == "shut-again":
            yield act_of("shut", record)


@dataclass(frozen=True)
class Done:
    """One step as it was done; ``before`` names those that should have come first."""

    name: str
    at: datetime
    by: str
    uid: str = ""
    wrong: bool = False
    before: tuple[str, ...] = ()


@dataclass(frozen=True)
class ValveProgress:
    """How far one circuit is opened; ``listed``: the steps of its order, in their order.

    ``opened``: the record with which its valves were opened first since they were shut. ``whole``:
    it was recorded in one, not step by step. ``earlier``: how they were opened before they were
    shut; ``first_at``: when they were opened for the first time.
    """

    circuit: str
    order: ValveOrder
    listed: tuple[str, ...]
    done: tuple[Done, ...] = ()
    opened: Release | None = None
    whole: bool = False
    earlier: Release | None = None
    first_at: datetime | None = None

    @property
    def names(self) -> frozenset[str]:
        return frozenset(d.name for d in self.done if not d.wrong)

    @property
    def left(self) -> tuple[str, ...]:
        """The steps that are still to be done."""
        return tuple(s for s in self.listed if s not in self.names)

    @property
    def next(self) -> str:
        return next(iter(self.left), "")

    def by(self, order: ValveOrder) -> "ValveProgress":
        """The same by another order, as long as nothing was done."""
        if self.done or self.opened is not None:
            return self
        return replace(self, order=order, listed=listed(order, ISOLATION in self.listed))

    @property
    def under_way(self) -> bool:
        """Whether some steps were recorded by themselves, and some are left."""
        return bool(self.done) and not self.whole and bool(self.left)

    @property
    def wrong(self) -> tuple[Done, ...]:
        """The steps that did not go as they should and were not done again since."""
        last = {d.name: d for d in self.done}
        return tuple(d for d in last.values() if d.wrong)

    def valve(self, side: str) -> Literal["shut", "cracked", "open"]:
        """How the gas or the liquid valve stands."""
        if self.whole and self.opened is not None:
            return "open" if self.opened.full_open else "cracked"
        if self.names & {*FULL[side]}:
            return "open"
        moved = [d.name for d in self.done if d.name in (f"{side}-crack", "shut-again")]
        return "cracked" if moved and moved[-1] != "shut-again" else "shut"

    @property
    def hose(self) -> bool:
        """Whether the gauge's hose is on the port still."""
        return "hose-off" in self.listed and not self.whole and "hose-off" not in self.names

    @property
    def caps(self) -> bool:
        return self.opened.caps_on if self.whole and self.opened else "caps" in self.names

    @property
    def release(self) -> Release | None:
        """The opening of this circuit as it stands; None while no valve was opened."""
        if self.opened is None or self.whole:
            return self.opened
        heard = {d.name for d in self.done if d.name.endswith("-hiss") and not d.wrong}
        hiss = "none" if any(d.name.endswith("-hiss") for d in self.wrong) else ""
        return self.opened.model_copy(
            update={
                "full_open": all(self.valve(side) == "open" for side in FULL),
                "caps_on": self.caps,
                "hiss": hiss or ("heard" if len(heard) == len(FULL) else ""),
            }
        )


def listed(order: ValveOrder, isolated: bool = False) -> tuple[str, ...]:
    """The steps of an order; behind an isolation valve it is opened before the caps go on.

    >>> listed("gas_first")[:2], listed("gas_first", isolated=True)[-2:]
    (('gas-crack', 'gauge-rises'), ('isolation-open', 'caps'))
    """
    steps = ORDERS[order]
    return (*steps[:-1], ISOLATION, steps[-1]) if isolated else steps


@dataclass
class _Fold:
    order: ValveOrder
    isolated: Collection[str]
    found: dict[str, ValveProgress] = field(default_factory=dict)

    def add(self, record: Record, circuit: str) -> None:
        was = self.found.get(circuit)
        if isinstance(record, ValvesShut | PumpedDown):
            now = self.fresh(circuit, self.order)
        elif isinstance(record, Release):
            one = record if not circuit else record.model_copy(update={"ports": (circuit,)})
            now = replace(self.fresh(circuit, record.order), opened=one, whole=True)
        elif isinstance(record, ValveSteps):
            now = _stepped(self.before(circuit, record.order), record)
        else:
            return
        if now.first_at is None and now.opened is not None:
            now = replace(now, first_at=was.first_at if was and was.first_at else now.opened.at)
        self.found[circuit] = now

    def fresh(self, circuit: str, order: ValveOrder) -> ValveProgress:
        was = self.found.get(circuit)
        earlier = (was.release or was.earlier) if was is not None else None
        first_at = was.first_at if was is not None else None
        steps = listed(order, circuit in self.isolated)
        return ValveProgress(circuit, order, steps, earlier=earlier, first_at=first_at)

    def before(self, circuit: str, order: ValveOrder) -> ValveProgress:
        """The circuit as it stands, by the order of the step that comes now."""
        now = self.found.get(circuit) or self.fresh(circuit, order)
        if now.whole and now.opened is not None:
            return replace(now, whole=False, done=_as_recorded(now, now.opened))
        return replace(now, order=order, listed=listed(order, circuit in self.isolated))


def _as_recorded(progress: ValveProgress, opened: Release) -> tuple[Done, ...]:
    """The steps of an opening that was recorded in one, as far as it says that they were done."""
    undone = () if opened.full_open else (*FULL["gas"], *FULL["liquid"])
    undone = undone if opened.caps_on else (*undone, "caps")
    names = [s for s in progress.listed if s not in undone]
    return tuple(Done(s, opened.at, opened.by, opened.uid) for s in names)


def _stepped(progress: ValveProgress, record: ValveSteps) -> ValveProgress:
    for n, name in enumerate(record.steps):
        wrong = record.went_wrong and n == len(record.steps) - 1
        place = progress.listed.index(name) if name in progress.listed else 0
        before = tuple(s for s in progress.listed[:place] if s not in progress.names)
        done = Done(name, record.at, record.by, record.uid, wrong, before)
        progress = replace(progress, done=(*progress.done, done))
        if progress.opened is None and name in OPENS:
            progress = replace(progress, opened=_opening(progress, record))
    return progress


def _opening(progress: ValveProgress, record: ValveSteps) -> Release:
    """The opening of a circuit's valves that began with a step."""
    return Release(
        uid=record.uid,
        subject=record.subject,
        practice=record.practice,
        by=record.by,
        at=record.at,
        order=record.order,
        ports=(progress.circuit,) if progress.circuit else (),
    )


def progress_of(
    records: Iterable[Record],
    circuits: Sequence[str],
    order: ValveOrder,
    isolated: Collection[str] = (),
) -> dict[str, ValveProgress]:
    """How far each circuit is opened, by what was recorded since its valves were shut last.

    ``circuits``: none of a system that is one volume. ``order``: what is followed where nothing
    was begun. ``isolated``: the circuits with isolation valves at their port.
    """
    fold = _Fold(order, isolated)
    names = tuple(circuits) or ("",)
    for record in sorted(records, key=lambda r: r.at):
        ports: tuple[str, ...] = getattr(record, "ports", ())
        for circuit in names:
            if not circuit or not ports or circuit in ports:
                fold.add(record, circuit)
    return {c: fold.found.get(c) or fold.fresh(c, order) for c in names}


def openings(progress: Mapping[str, ValveProgress]) -> tuple[Release, ...]:
    """The newest opening of every circuit whose valves were opened, the earliest of them first.

    Whether they were shut since is not asked here (``valves_open``).
    """
    found = [r for p in progress.values() if (r := p.release or p.earlier) is not None]
    return tuple(sorted(found, key=lambda r: r.at))


def as_if_done(progress: Mapping[str, ValveProgress]) -> tuple[Release, ...]:
    """The openings, those under way as if their last steps were done: what is left is told by
    ``steps_check``, and is no fault yet."""
    done = {"full_open": True, "caps_on": True}
    found = []
    for one in progress.values():
        release = one.release or one.earlier
        if release is not None:
            found.append(release.model_copy(update=done) if one.under_way else release)
    return tuple(sorted(found, key=lambda r: r.at))


def being_opened(progress: Mapping[str, ValveProgress]) -> Check | None:
    """That valves are being opened, step by step; None where none are."""
    on = [p for p in progress.values() if p.under_way]
    if not on:
        return None
    ports = ", ".join(p.circuit for p in on if p.circuit)
    of = f" of {ports}" if ports else ""
    call = Call(
        verdict=Verdict.WAIT,
        because=f"The valves{of} are being opened, step by step.",
        do_next=_next_call(on[0]).do_next,
    )
    return Check(id="release", label="Valves", call=call)


def _where(progress: ValveProgress) -> str:
    return f"Port {progress.circuit}: " if progress.circuit else ""


def out_of_order(progress: ValveProgress, contents: Contents) -> list[Call]:
    """What steps that were done too early risk, the worst first; nothing that was made good."""
    found = []
    for done in progress.done:
        for name in done.before:
            step = STEPS[name]
            if step.mends and _mended(progress.circuit, done.at, step.mends, contents):
                continue
            before = f"{STEPS[done.name].words}, before: {_lowered(step.words)}."
            because = f"{_where(progress)}{before} {step.skipped}"
            found.append(fault_call(because, step.skipped_do_next, step.skipped_verdict))
    return sorted(found, key=lambda call: call.verdict is Verdict.WATCH)


def _lowered(text: str) -> str:
    return text[:1].lower() + text[1:]


def _mended(circuit: str, at: datetime, mends: str, contents: Contents) -> bool:
    circuits = (circuit,) if circuit else contents.circuits or ("",)
    kind = "weighed" if mends == "emptied" else mends
    later = contents.since(at, circuits, kind)
    return any(mends == kind or mends in told.act.said for told in later)


def too_early(progress: ValveProgress, names: Sequence[str]) -> list[str]:
    """What steps would risk if they were done now, in words: those that should come first."""
    found = []
    have = set(progress.names)
    for name in names:
        place = progress.listed.index(name) if name in progress.listed else 0
        found += [STEPS[s].skipped for s in progress.listed[:place] if s not in have]
        have.add(name)
    return list(dict.fromkeys(found))


def steps_check(progress: Mapping[str, ValveProgress], contents: Contents) -> Check | None:
    """How the opening goes, step by step: what went wrong, what came too early, what is next."""
    wrong = [
        fault_call(f"{_where(p)}{STEPS[d.name].wrong}", STEPS[d.name].do_next, verdict)
        for p in progress.values()
        for d in p.wrong
        if (verdict := STEPS[d.name].wrong_verdict)
    ]
    wrong.sort(key=lambda call: call.verdict is not Verdict.STOP)
    early = [call for p in progress.values() for call in out_of_order(p, contents)]
    bad = [call for call in early if call.verdict is not Verdict.WATCH]
    under_way = [_next_call(p) for p in progress.values() if p.under_way]
    for call in (*wrong, *bad, *under_way, *early):
        return Check(id="valve_steps", label="Steps at the valves", call=call)
    return None


def _next_call(progress: ValveProgress) -> Call:
    count, of = len(progress.listed) - len(progress.left), len(progress.listed)
    return Call(
        verdict=Verdict.WAIT,
        because=f"{_where(progress)}{count} of {of} steps at the valves are done.",
        do_next=f"{_where(progress)}{STEPS[progress.next].words}.",
    )
