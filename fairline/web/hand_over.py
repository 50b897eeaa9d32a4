"""Hand-over pages: the record to print, its PDF, the label, the job as a file."""

import re
from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from fairline.core import charge, commission, flare, route
from fairline.core.hand_over import TASKS
from fairline.web.pages import job_context, page
from fairline.web.stage import stage_view
from fairline.web.visit import AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)


@stage_view("hand-over")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    return {
        "tasks": TASKS,
        "checks": {c.id: c for c in judged.stages["hand-over"].checks},
        "label": label(judged),
    }


def label(judged: Judged) -> dict[str, Any]:
    """What the label at the outdoor unit carries."""
    job, rules = judged.job, judged.rules
    length_m = route.installed_length_m(job.route, rules)
    worked = charge.answer(length_m, job.charge, rules)
    added = worked.result.added_kg if worked else None
    weighed = charge.weighed_kg(job.weighings) if job.weighings else None
    factory = rules.sheet.outdoor.factory_charge_kg if rules.sheet else None
    inside = weighed if weighed is not None else added
    return {
        "length_m": length_m,
        "refrigerant": rules.sheet.outdoor.refrigerant if rules.sheet else None,
        "factory_kg": factory,
        "added_kg": inside,
        "weighed": weighed is not None,
        "total_kg": None if factory is None or inside is None else factory + inside,
        "date": job.releases[-1].at if job.releases else None,
    }


def record_context(visit: Visit, judged: Judged) -> dict[str, Any]:
    """All that the record holds, for the page and for the PDF."""
    job, rules = judged.job, judged.rules
    lengths = route.lengths(job.route, rules)
    answers = [(r, commission.answer(r, rules)) for r in job.runnings]
    return {
        **job_context(judged, "hand-over"),
        "label": label(judged),
        "lengths": lengths.result if lengths else None,
        "joints": flare.joints(job.flare, job.joints, rules),
        "looks": flare.LOOKS,
        "runnings": [(r, a.result if a else None) for r, a in answers],
        "mode_words": commission.MODE_WORDS,
        "added": charge.answer(route.installed_length_m(job.route, rules), job.charge, rules),
        "tasks": TASKS,
    }


def file_name(judged: Judged, ending: str) -> str:
    plain = re.sub(r"[^A-Za-z0-9]+", "-", judged.job.head.name).strip("-").lower() or "job"
    return f"{plain[:40]}-{judged.id}.{ending}"


@router.get("/jobs/{job_id}/record")
def record(job_id: JobId, visit: AVisit) -> HTMLResponse:
    judged = visit.judged(job_id)
    return page("hand_over/record.html", visit, **record_context(visit, judged))


@router.get("/jobs/{job_id}/label")
def label_page(job_id: JobId, visit: AVisit) -> HTMLResponse:
    judged = visit.judged(job_id)
    return page("hand_over/label.html", visit, **record_context(visit, judged))


@router.get("/jobs/{job_id}/record.pdf")
def record_pdf(job_id: JobId, visit: AVisit) -> Response:
    from fairline.web.record_pdf import write_record

    judged = visit.judged(job_id)
    content = write_record(record_context(visit, judged), visit.system)
    disposition = f'inline; filename="{file_name(judged, "pdf")}"'
    return Response(
        content, media_type="application/pdf", headers={"Content-Disposition": disposition}
    )


@router.get("/jobs/{job_id}/job.json")
def job_file(job_id: JobId, visit: AVisit) -> Response:
    """The whole job as one file, to be imported again without loss."""
    judged = visit.judged(job_id)
    disposition = f'attachment; filename="{file_name(judged, "fairline.json")}"'
    return Response(
        judged.job.model_dump_json(indent=1),
        media_type="application/json",
        headers={"Content-Disposition": disposition},
    )
