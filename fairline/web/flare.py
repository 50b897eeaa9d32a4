"""Flare pages: every joint, the wrench, and each making recorded."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core import flare, line
from fairline.core.quantities import parse
from fairline.store import jobs
from fairline.store.document import now
from fairline.web.drawing.flare_gauge import flare_gauge
from fairline.web.forms import Form, posted, read
from fairline.web.stage import stage_page, stage_view
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)


def joints_of(judged: Judged) -> list[flare.Joint]:
    """Every joint of a job as it stands."""
    specs = line.joints_of(judged.job, judged.rules, judged.pipes)
    return flare.joints(judged.job.flare, specs, judged.job.joints, judged.rules)


@stage_view("flare")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    joints = joints_of(judged)
    return {
        "joints": joints,
        "looks": flare.LOOKS,
        "gauges": {j.place: flare_gauge(j, visit.system) for j in joints},
        "open_joint": None,
        "share": judged.job.flare.share(),
    }


@router.post("/jobs/{job_id}/flare/joints")
def record_joint(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """Append one making of a joint. The torque typed is the wrench's; the nut's is worked out."""
    fields = posted(data)
    judged = visit.judged(job_id)
    extra: dict[str, Any] = {"at": now(), "kind": "joint"}
    try:
        if fields.get("how") != "by feel" and fields.get("wrench_nm"):
            read_nm = parse(fields["wrench_nm"], "torque", visit.system)
            extra["applied_nm"] = read_nm / judged.job.flare.share()
    except ValueError:
        pass  # the model says it beside the field
    record, form = read(flare.JointRecord, fields, visit.system, extra=extra)
    if record is None:
        return stage_page(
            visit,
            judged,
            "flare",
            record_form=_pointed(form),
            status=422,
            open_joint=fields.get("place"),
        )
    with visit.change() as session:
        jobs.append_record(session, job_id, record)
    return visit.onward(f"/jobs/{job_id}/flare#at-{record.place}", record.by)


def _pointed(form: Form) -> Form:
    """A joint without a torque is told so at the torque."""
    if form.whole:
        form.errors.setdefault("wrench_nm", form.whole)
    return form
