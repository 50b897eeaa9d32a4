"""Hand-over pages: the record to print, its PDF, the label, the job as a file."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response, StreamingResponse

from fairline.core.hand_over.entry import HandOverEntry
from fairline.core.hand_over.records import VISITS, Addition, AnswerToIt, Question
from fairline.core.hand_over.stage import (
    TASKS,
    TASKS_SHORT,
    HandOverStageResult,
    as_ticked,
    left_open,
)
from fairline.core.limit_list import LIMITS
from fairline.store import archive, jobs, pictures
from fairline.web.flare import job_pictures
from fairline.web.frame.forms import Form
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.merging import stage_keeps
from fairline.web.frame.moments import day
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId, RequestContext, whole_job
from fairline.web.frame.stage import stage_view
from fairline.web.hand_over.files import answered, file_name
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
        "tasks_short": TASKS_SHORT,
        "to_do": [name for name in TASKS if not getattr(entry, name)],
        "left_open": left_open(judged.stages),
        "label": judged.of(HandOverStageResult).label,
        **_after(ctx, judged),
    }


def _after(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    """Visits, additions and questions, with a form for each."""
    answers: dict[str, list[AnswerToIt]] = {}
    for one in judged.counted.recorded(AnswerToIt):
        answers.setdefault(one.question, []).append(one)
    return {
        "visits": judged.of(HandOverStageResult).visits,
        "today": day(ctx.now()),
        "additions": judged.counted.recorded(Addition),
        "asked_maker": judged.counted.recorded(Question),
        "maker_answers": answers,
        "visit_kinds": list(VISITS.items()),
        "limit_names": [("", "none"), *((d.label, d.label) for d in LIMITS.values())],
        "addition_form": Form({"by": ctx.person}, prefix="addition-"),
        "visit_form": Form({"by": ctx.person}, prefix="visit-"),
        "question_form": Form({"by": ctx.person}, prefix="question-"),
        "made_form": Form({}),
        "begun_form": Form({}),
        "answer_form": Form({}),
    }


def record_of(ctx: RequestContext, judged: JudgedJob) -> Record:
    """The job's record, for the page and for the PDF."""
    words = words_of(judged)
    shown = [Shown(p, words[p.of, p.place], here) for p, here in job_pictures(ctx, judged)]
    return outline(judged, shown, ctx.system)


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
    return answered(content, "application/pdf", file_name(judged.job.head.name, judged.id, "pdf"))


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
    content = archive.write(ctx.session, job_id, judged.job)
    name = file_name(judged.job.head.name, judged.id, "fairline.zip")
    return answered(content, "application/zip", name, inline=False)
