"""Striking out: a record or a reading that was wrong stays visible and counts no more."""

from urllib.parse import urlsplit

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core.readings import RunKind
from fairline.core.stages import STAGE_OF_RECORD, STAGE_OF_RUN
from fairline.core.standing import struck
from fairline.core.strike import READING, Strike
from fairline.store import jobs
from fairline.store.document import NotFoundError
from fairline.web.forms import posted, read
from fairline.web.pages import page
from fairline.web.visit import AForm, AVisit, JobId, Judged

router = APIRouter(include_in_schema=False)


def _is_there(judged: Judged, strike: Strike) -> bool:
    """Whether a strike names something of this job that still stands."""
    job = judged.job
    if strike.of == READING:
        run = next((r for r in job.runs if r.uid == strike.run), None)
        return run is not None and any(
            (r.instrument, r.seq) == (strike.instrument, strike.seq) for r in run.readings
        )
    found = [r for r in job.records if r.struck and r.kind == strike.of and r.at == strike.of_at]
    return any(struck(r, job.strikes) is None for r in found)


@router.post("/jobs/{job_id}/strike")
def strike_out(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """Strike a record or a reading out, by name and reason; it stays on the record as struck."""
    judged = visit.judged(job_id)
    fields = posted(data)
    record, form = read(Strike, fields, visit.system, extra={"kind": "strike", "at": visit.now()})
    if record is not None and not _is_there(judged, record):
        raise NotFoundError("there is no such record to strike out, or it is struck out already")
    if record is None:
        return page("strike.html", visit, 422, j=judged, job=judged.job, form=form, fields=fields)
    with visit.change() as session:
        jobs.append_record(session, job_id, record)
    kind: RunKind = next((r.kind for r in judged.job.runs if r.uid == record.run), "decay")
    stage = STAGE_OF_RECORD.get(record.of) or STAGE_OF_RUN[kind]
    back = urlsplit(str(data.get("_back") or "")).path
    here = back if back.startswith(f"/jobs/{job_id}/") else f"/jobs/{job_id}/{stage}"
    return visit.onward(here, record.by)
