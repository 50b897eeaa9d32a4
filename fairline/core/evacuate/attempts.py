"""Decays one after another: what the same level, or the same rate, again means."""

from collections.abc import Sequence
from dataclasses import dataclass

from fairline.core.calc.vacuum_decay import VacuumDecayResult
from fairline.core.call import Answer, Call, Check, Verdict
from fairline.core.check import fault_call, plural
from fairline.core.evacuate.records import PumpEvent
from fairline.core.quantities import both
from fairline.core.readings import VacuumRun

SAME_LEVEL = 0.15  # two plateaus within this share of each other are the same; our own choice
SAME_RATE = 0.25  # and two rates
DRYING = ("oil", "sweep", "warmed")


@dataclass(frozen=True, eq=False)
class Attempt:
    """One decay that was timed: its run and what its readings show."""

    run: VacuumRun
    answer: Answer[VacuumDecayResult]

    @property
    def failed(self) -> bool:
        return self.answer.call.verdict is Verdict.SHORT


def compared(found: Sequence[Attempt], events: Sequence[PumpEvent], run_on: bool) -> Check | None:
    """What the last failed decay says beside the one before it; None where it says nothing more.

    ``run_on``: the school pulls once more after a failure, and calls a second one a leak.
    """
    if len(found) < 2 or not found[-1].failed or not found[-2].failed:
        return None
    before, last = found[-2], found[-1]
    dried = [
        e
        for e in events
        if e.what in DRYING and before.run.started_at <= e.at <= last.run.started_at
    ]
    call = _same_rate(before, last, bool(dried))
    if call is None and not run_on:
        call = _same_level(before, last)
    if call is None and run_on:
        call = fault_call(
            "The second hold failed after the pump had run on: by this school that is a leak.",
            "Break with nitrogen, pressure-test and bubble every joint.",
        )
    if call is None:
        return None
    label = f"{plural(len(found), 'hold')} so far"
    return Check(id="attempts", label=label, call=call)


def _same_rate(before: Attempt, last: Attempt, dried: bool) -> Call | None:
    a, b = before.answer.result.rate_pa_s, last.answer.result.rate_pa_s
    if not a or not b or abs(a - b) > SAME_RATE * max(a, b):
        return None
    after = "drying changed nothing" if dried else "nothing has changed"
    return fault_call(
        f"It rises by {both(b * 60, 'vacuum')} a minute as before: {after}, so it is a leak.",
        "Break with nitrogen, pressure-test and bubble every joint.",
    )


def _same_level(before: Attempt, last: Attempt) -> Call | None:
    a, b = before.answer.result.plateau_pa, last.answer.result.plateau_pa
    if not a or not b or abs(a - b) > SAME_LEVEL * max(a, b):
        return None
    return fault_call(
        f"It levels off at {both(b, 'vacuum', True)} again: the water is not gone yet.",
        "Sweep with dry nitrogen, fresh oil, warm the line, and pull again.",
    )
