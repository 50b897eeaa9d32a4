"""What the owner is left with: a page, its PDF, and the dates for a calendar."""

from collections.abc import Iterator
from datetime import date, timedelta

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from fairline.core.hand_over.owner import FILTERS
from fairline.core.hand_over.stage import HandOverStageResult
from fairline.web.frame.calendar import CalendarEntry, calendar_file
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import day
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId
from fairline.web.hand_over.files import answered, file_name
from fairline.web.record.outline import units

router = APIRouter(include_in_schema=False)
FILTER_DAYS = 30


@router.get("/jobs/{job_id}/owner")
def owner(job_id: JobId, ctx: Context) -> HTMLResponse:
    """The owner's page, to read and to print."""
    judged = ctx.judged(job_id)
    context = job_context(judged, "hand-over")
    return page("hand_over/owner.html", ctx, **context, parts=judged.of(HandOverStageResult).owner)


@router.get("/jobs/{job_id}/owner.pdf")
def owner_pdf(job_id: JobId, ctx: Context) -> Response:
    from fairline.web.record.owner_pdf import write_owner

    judged = ctx.judged(job_id)
    head = judged.job.head
    heading = [head.site, " · ".join(x for x in (head.company, head.company_phone) if x)]
    content = write_owner(
        head.name, [x for x in heading if x], judged.of(HandOverStageResult).owner, ctx.system
    )
    named = file_name(f"{head.name} owner", judged.id, "pdf")
    return answered(content, "application/pdf", named)


@router.get("/jobs/{job_id}/visits.ics")
def dates(job_id: JobId, ctx: Context) -> Response:
    """Visits that are due, each as a day, and the filters every month once the job is over."""
    judged = ctx.judged(job_id)
    named = file_name(judged.job.head.name, judged.id, "ics")
    return answered(calendar(judged), "text/calendar", named)


def calendar(judged: JudgedJob) -> bytes:
    """The visits of a job that are due, and its filters once it was handed over."""
    return calendar_file(_entries(judged))


def _entries(judged: JudgedJob) -> Iterator[CalendarEntry]:
    job, head = judged.job, judged.job.head
    for due in judged.of(HandOverStageResult).visits:
        if due.made is None:
            yield CalendarEntry(
                uid=f"{job.uid}-{due.id}",
                made_at=job.created_at,
                summary=f"{head.name}: {due.words}",
                starts=date.fromisoformat(due.on),
                place=head.site,
                words="\n".join(units(judged)),
            )
    if job.handed_over is not None:
        yield CalendarEntry(
            uid=f"{job.uid}-filters",
            made_at=job.handed_over.at,
            summary=f"{head.name}: wash the filters",
            starts=day(job.handed_over.at) + timedelta(days=FILTER_DAYS),
            words=FILTERS,
            monthly=True,
        )
