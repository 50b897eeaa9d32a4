"""Charge pages: the added charge, the weighings, the release of the valves."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core import charge
from fairline.store import jobs
from fairline.store.document import now
from fairline.web.forms import Form, posted, read
from fairline.web.stage import stage_page, stage_view
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)


@stage_view("charge")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    job, rules = judged.job, judged.rules
    worked = charge.answer(judged.pipes, job.charge, rules)
    return {
        "checks": {c.id: c for c in judged.stages["charge"].checks},
        "length_m": judged.pipes.total_m,
        "built": judged.pipes.built,
        "result": worked.result if worked else None,
        "weighed_kg": charge.weighed_kg(job.weighings),
        "short_line": charge.short_line(job.charge, rules),
        "blocked": charge.blocked_by(judged.stages),
        "valve_order": rules.school("valve_order"),
        "release_form": Form({"by": visit.person}, prefix="release-"),
    }


@router.post("/jobs/{job_id}/charge/weighings")
def weigh(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    fields = posted(data)
    record, form = read(
        charge.Weighing, fields, visit.system, extra={"kind": "weighing", "at": now()}
    )
    if record is None:
        if form.whole:
            form.errors.setdefault("before_kg", form.whole)
        return stage_page(visit, visit.judged(job_id), "charge", record_form=form, status=422)
    with visit.change() as session:
        jobs.append_record(session, job_id, record)
    return visit.onward(f"/jobs/{job_id}/charge", record.by)


@router.post("/jobs/{job_id}/charge/release")
def release(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """Record the opening of the valves: after both gates, or by a named override with a reason."""
    fields = posted(data)
    judged = visit.judged(job_id)
    extra = {
        "kind": "release",
        "at": now(),
        "full_open": "full_open" in fields,
        "caps_on": "caps_on" in fields,
    }
    record, form = read(charge.Release, fields, visit.system, extra=extra)
    if record is not None and charge.blocked_by(judged.stages) and not record.overridden:
        form.errors["override_by"] = "the gates are not passed: a name and a reason are needed"
        record = None
    if record is None:
        form.prefix = "release-"
        return stage_page(visit, judged, "charge", release_form=form, status=422)
    with visit.change() as session:
        jobs.append_record(session, job_id, record)
    return visit.onward(f"/jobs/{job_id}/charge", record.by)
