"""Hand-over pages: the record to print, its PDF, the label, the job as a file."""

import re
from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response, StreamingResponse

from fairline.core.hand_over.stage import (
    SHOWN,
    TASKS,
    HandOverEntry,
    HandOverStageResult,
    as_ticked,
    left_open,
)
from fairline.core.stages import TITLES
from fairline.store import archive, jobs, pictures
from fairline.web.flare import job_pictures
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.merging import stage_keeps
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId, RequestContext, whole_job
from fairline.web.frame.stage import stage_view
from fairline.web.pictures import words_of
from fairline.web.record.outline import Record, Shown
from fairline.web.record.outline import record as outline

router = APIRouter(include_in_schema=False)


@stage_keeps("hand-over")
def keeps(entry: HandOverEntry, before: HandOverEntry, judged: JudgedJob) -> HandOverEntry:
    """What the ticks were for: the label as it was, the machines that were registered."""
    return as_ticked(entry, before, judged.of(HandOverStageResult).now)


@stage_view("hand-over")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    entry = judged.job.hand_over
    return {
        "tasks": TASKS,
        "to_show": () if any(getattr(entry, name) for name in SHOWN) else SHOWN,
        "left_open": [TITLES[name] for name in left_open(judged.stages)],
        "label": judged.of(HandOverStageResult).label,
    }


def record_of(ctx: RequestContext, judged: JudgedJob) -> Record:
    """The job's record, for the page and for the PDF."""
    words = words_of(judged)
    shown = [Shown(p, words[p.of, p.place], here) for p, here in job_pictures(ctx, judged)]
    return outline(judged, shown, ctx.system)


def file_name(name: str, job_id: int, ending: str) -> str:
    plain = re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower() or "job"
    return f"{plain[:40]}-{job_id}.{ending}"


@router.get("/jobs/{job_id}/record")
def record(job_id: JobId, ctx: Context) -> HTMLResponse:
    judged = ctx.judged(job_id)
    context = job_context(judged, "hand-over")
    return page("hand_over/record.html", ctx, **context, record=record_of(ctx, judged))


@router.get("/jobs/{job_id}/label")
def label_page(job_id: JobId, ctx: Context) -> HTMLResponse:
    judged = ctx.judged(job_id)
    context = job_context(judged, "hand-over")
    return page("hand_over/label.html", ctx, **context, label=judged.of(HandOverStageResult).label)


@router.get("/jobs/{job_id}/record.pdf")
def record_pdf(job_id: JobId, ctx: Context) -> Response:
    from fairline.web.record.pdf import write_record

    judged = ctx.judged(job_id)
    content = write_record(
        record_of(ctx, judged),
        lambda name: pictures.content_of(ctx.session, judged.id, name),
    )
    disposition = f'inline; filename="{file_name(judged.job.head.name, judged.id, "pdf")}"'
    return Response(
        content, media_type="application/pdf", headers={"Content-Disposition": disposition}
    )


@router.get("/jobs/{job_id}/job.json")
def job_file(job_id: JobId, ctx: Context) -> Response:
    """The whole job as one file, to be imported again without loss."""
    named = str(jobs.job_row(ctx.session, job_id).head.get("name", ""))
    disposition = f'attachment; filename="{file_name(named, job_id, "fairline.json")}"'
    return StreamingResponse(
        whole_job(ctx, job_id),
        media_type="application/json",
        headers={"Content-Disposition": disposition},
    )


@router.get("/jobs/{job_id}/job.zip")
def job_archive(job_id: JobId, ctx: Context) -> Response:
    """The whole job with its pictures, and its logs as CSV, to be imported again without loss."""
    judged = ctx.judged(job_id)
    disposition = (
        f'attachment; filename="{file_name(judged.job.head.name, judged.id, "fairline.zip")}"'
    )
    return Response(
        archive.write(ctx.session, job_id, judged.job),
        media_type="application/zip",
        headers={"Content-Disposition": disposition},
    )
