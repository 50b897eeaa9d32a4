"""Striking out: a record or a reading that was wrong stays visible and counts no more."""

from urllib.parse import urlsplit

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core.call import Verdict
from fairline.core.contents.story import ACT_WORDS
from fairline.core.counted import strike_of
from fairline.core.flare.stage import FlareStageResult
from fairline.core.line import up_to_flare
from fairline.core.readings import RunKind
from fairline.core.stages import STAGE_OF_RECORD, STAGE_OF_RUN
from fairline.core.strike import READING, Strike
from fairline.store import jobs
from fairline.store.document import NotFoundError
from fairline.web.frame.forms import form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import moment
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, JobId, PostedForm

router = APIRouter(include_in_schema=False)


def _named(judged: JudgedJob, strike: Strike) -> Strike | None:
    """A strike with the id of the record that it is of; None where nothing of it stands."""
    job = judged.job
    if strike.of == READING:
        run = next((r for r in job.runs if r.uid == strike.run), None)
        here = run is not None and any(
            (r.instrument, r.seq) == (strike.instrument, strike.seq) for r in run.readings
        )
        return strike if here else None
    for record in job.records:
        mine = record.uid == strike.of_uid if strike.of_uid else record.at == strike.of_at
        if (
            mine
            and record.struck
            and record.kind == strike.of
            and strike_of(record, job.strikes) is None
        ):
            return strike.model_copy(update={"of_uid": record.uid, "of_at": record.at})
    return None


def stops_without(judged: JudgedJob, strike: Strike) -> list[str]:
    """The later acts that would be out of order, were this struck out: what was wrong with each."""
    before = judged.of(FlareStageResult).contents
    known = {f.act.uid for f in before.findings if f.verdict is Verdict.STOP}
    job = judged.job.model_copy(update={"records": (*judged.job.records, strike)})
    after = up_to_flare(job, judged.rules.practice)[1].contents
    found = [f for f in after.findings if f.verdict is Verdict.STOP and f.act.uid not in known]
    words = {f.act.uid: f"{moment(f.act.at)}, {ACT_WORDS[f.act.kind]}: {f.because}" for f in found}
    return list(words.values())


@router.post("/jobs/{job_id}/strike")
def strike_out(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Strike a record or a reading out, by name and reason; it stays on the record as struck."""
    judged = ctx.judged(job_id)
    fields = {k: v for k, v in form_fields(data).items() if k != "all_the_same"}
    record, form = read(Strike, fields, ctx.system, extra={"kind": "strike", "at": ctx.now()})
    if record is not None:
        record = _named(judged, record)
        if record is None:
            raise NotFoundError("there is no such record to strike out, or it is out already")
    stops = stops_without(judged, record) if record is not None else []
    if stops and not data.get("all_the_same"):
        record = None
    if record is None:
        more = {"j": judged, "job": judged.job, "form": form, "fields": fields, "stops": stops}
        return page("strike.html", ctx, 422, **more)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    kind: RunKind = next((r.kind for r in judged.job.runs if r.uid == record.run), "decay")
    stage = STAGE_OF_RECORD.get(record.of) or STAGE_OF_RUN[kind]
    back = urlsplit(str(data.get("_back") or "")).path
    here = back if back.startswith(f"/jobs/{job_id}/") else f"/jobs/{job_id}/{stage}"
    return ctx.onward(here, record.by)
