"""Clocks that run on a job while nobody looks: a hold, a decay, a pull, tubing that stands open."""

from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Literal

from fairline.core.call import Frozen, Verdict
from fairline.core.entry import Moment
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.line import LineResult
from fairline.core.pressure_test.stage import PressureTestStageResult

MOST = 8  # of one job; the first to end


class Clock(Frozen):
    """A clock that ends: from then on somebody must be there.

    ``words``: what runs; ``act``: what is done when it ends.
    """

    kind: Literal["hold", "decay", "pull", "open"]
    stage: str
    words: str
    act: str
    ends_at: Moment


def clocks(worked: LineResult) -> tuple[Clock, ...]:
    """The clocks of a job, the first to end first; of what stands and goes on by itself only."""
    found = [*_hold(worked.of(PressureTestStageResult)), *_vacuum(worked)]
    return tuple(sorted(found, key=lambda one: one.ends_at)[:MOST])


def _hold(of: PressureTestStageResult) -> Iterator[Clock]:
    run, answer = of.run, of.answer
    if run is None or answer is None or of.plan is None or run.ended_at is not None:
        return
    last = run.last
    if last is None or answer.call.verdict is not Verdict.WAIT or of.searching:
        return
    left_s = max(0.0, of.plan.hold_s - answer.result.held_s)
    yield Clock(
        kind="hold",
        stage="pressure-test",
        words="Nitrogen holds",
        act="Read gauge and pipe",
        ends_at=_after(run.started_at, last.t_s + left_s),
    )


def _vacuum(worked: LineResult) -> Iterator[Clock]:
    whole = worked.of(EvacuateStageResult)
    for of in whole.groups or (whole,):
        run = of.run
        if run is not None and run.ended_at is None:
            named = f" ({', '.join(of.ports)})" if of.ports else ""
            yield from _decay(of, named) if run.kind == "decay" else _pull(of, named)
    for stood in whole.stood:
        yield from _open(stood.run, [rise.at for rise in stood.rises])


def _decay(of: EvacuateStageResult, named: str) -> Iterator[Clock]:
    run, answer = of.run, of.answer
    if run is None or answer is None or answer.call.verdict is not Verdict.WAIT:
        return
    yield Clock(
        kind="decay",
        stage="evacuate",
        words=f"Decay{named}, pump off",
        act="Read the vacuum gauge",
        ends_at=_after(run.started_at, of.rule.hold_s),
    )


def _pull(of: EvacuateStageResult, named: str) -> Iterator[Clock]:
    """A pull is looked at when a dry, tight system would be there by this rig."""
    run, rig = of.run, of.rig.answer
    if run is None or rig is None or rig.result.time_s is None:
        return
    yield Clock(
        kind="pull",
        stage="evacuate",
        words=f"Pump runs{named}",
        act="Read the vacuum gauge: a dry, tight system would be there by now",
        ends_at=_after(run.started_at, rig.result.time_s),
    )


def _open(run: str, moments: list[datetime]) -> Iterator[Clock]:
    named = "all lines" if run == "all" else f"line {run}"
    for at in moments[:1]:
        yield Clock(
            kind="open",
            stage="evacuate",
            words=f"Tubing stands open, {named}",
            act="Cap it, or it asks for one more sweep with nitrogen",
            ends_at=at,
        )


def _after(at: datetime, seconds: float) -> datetime:
    return at + timedelta(seconds=round(seconds))
