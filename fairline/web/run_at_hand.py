"""The run at hand: the one that is open, how far it reaches, whether it is asked for at all."""

from fastapi.responses import Response

from fairline.core import kit
from fairline.core.readings import Run, RunKind
from fairline.web.forms import Form
from fairline.web.stage import stage_page
from fairline.web.visit import Judged, Visit


def open_run(judged: Judged, *kinds: RunKind) -> Run | None:
    """The newest run of these kinds, while it is not closed."""
    runs = [r for r in judged.job.runs if r.kind in kinds]
    return runs[-1] if runs and runs[-1].ended_at is None else None


def held_s(run: Run | None) -> float | None:
    """How long a run's readings reach, from its first."""
    if run is None or not run.readings:
        return None
    return run.readings.span_s


def not_asked(visit: Visit, judged: Judged, stage: str) -> Response | None:
    """The page that keeps nitrogen and pump off a charged kit, or None where they are asked."""
    if kit.asked(judged.rules):
        return None
    told = "a charged kit: neither nitrogen nor pump is connected"
    return stage_page(visit, judged, stage, record_form=Form({}, {"": told}), status=422)
