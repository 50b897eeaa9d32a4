"""The run at hand: the one that is open, how far it reaches, whether it is asked for at all."""

from datetime import datetime, timedelta

from fastapi.responses import Response

from fairline.core import kit
from fairline.core.call import Verdict
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.readings import Run, RunKind
from fairline.web.frame.forms import Form
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import RequestContext
from fairline.web.frame.stage import stage_page

GOES_ON = timedelta(days=7)  # no test holds longer: what was read before is another hold


def open_run(judged: JudgedJob, *kinds: RunKind) -> Run | None:
    """The newest run of these kinds, while it is not closed."""
    runs = [r for r in judged.job.runs if r.kind in kinds]
    return runs[-1] if runs and runs[-1].ended_at is None else None


def current_hold(judged: JudgedJob, now: datetime) -> Run | None:
    """The hold that the next reading belongs to: the open one, or one that only wants more time.

    A log that was closed is read on by hand while its call waits; another hold is begun by name.
    """
    run = open_run(judged, "hold")
    worked = judged.of(PressureTestStageResult)
    if run is not None or worked.answer is None or worked.run is None:
        return run
    closed = next((r for r in judged.job.holds if r.uid == worked.run.uid), None)
    if closed is None or worked.answer.call.verdict is not Verdict.WAIT:
        return None
    last = closed.started_at + timedelta(seconds=float(closed.readings.t_s[-1]))
    return closed if now - last <= GOES_ON else None


def held_s(run: Run | None) -> float | None:
    """How long a run's readings reach, from its first."""
    if run is None or not run.readings:
        return None
    return run.readings.span_s


def not_asked(ctx: RequestContext, judged: JudgedJob, stage: str) -> Response | None:
    """The page that keeps nitrogen and pump off a charged kit, or None where they are asked."""
    if kit.may_be_evacuated(judged.rules):
        return None
    told = "a charged kit: neither nitrogen nor pump is connected"
    return stage_page(ctx, judged, stage, record_form=Form({}, {"": told}), status=422)
