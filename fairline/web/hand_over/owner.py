"""What the owner is left with: a page, its PDF, and the dates for a calendar."""

from datetime import date, timedelta
from typing import TYPE_CHECKING

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from fairline.core.hand_over.owner import FILTERS
from fairline.core.hand_over.stage import HandOverStageResult
from fairline.core.hand_over.visits import Due
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import day
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId
from fairline.web.hand_over.files import answered, file_name
from fairline.web.record.outline import units

if TYPE_CHECKING:
    from icalendar import Event

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
    """The dates of a job as iCalendar (RFC 5545)."""
    from icalendar import Calendar, Event

    made = Calendar()
    made.add("prodid", "-//Fair Line//dates of a job//EN")
    made.add("version", "2.0")
    head, handed = judged.job.head, judged.job.handed_over
    for due in judged.of(HandOverStageResult).visits:
        if due.made is None:
            made.add_component(_event(judged, due))
    if handed is not None:
        begins = day(handed.at) + timedelta(days=FILTER_DAYS)
        event = Event()
        event.add("uid", f"{judged.job.uid}-filters@fairline")
        event.add("dtstamp", handed.at)
        event.add("summary", f"{head.name}: wash the filters")
        event.add("description", FILTERS)
        event.add("dtstart", begins)
        event.add("rrule", {"freq": "monthly"})
        made.add_component(event)
    return bytes(made.to_ical())


def _event(judged: JudgedJob, due: Due) -> "Event":
    from icalendar import Event

    head = judged.job.head
    event = Event()
    event.add("uid", f"{judged.job.uid}-{due.id}@fairline")
    event.add("dtstamp", judged.job.created_at)
    event.add("summary", f"{head.name}: {due.words}")
    event.add("location", head.site)
    event.add("description", "\n".join(units(judged)))
    event.add("dtstart", date.fromisoformat(due.on))
    return event
