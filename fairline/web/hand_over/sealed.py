"""Whether a job, or a file that somebody brings, is as it was when it was sealed."""

from fastapi import APIRouter
from fastapi.responses import HTMLResponse

from fairline.store import seals
from fairline.store.verified import UnreadableError, verify_file
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId, PostedForm, posted_file

router = APIRouter(include_in_schema=False)


@router.get("/jobs/{job_id}/seal")
def of_job(job_id: JobId, ctx: Context) -> HTMLResponse:
    """A job as it lies here, held against the seal of the day on which it was handed over."""
    judged = ctx.judged(job_id)
    found = seals.verify(ctx.session, job_id, judged.job)
    context = job_context(judged, "hand-over")
    return page("hand_over/seal.html", ctx, **context, found=found, error="")


@router.get("/verify")
def ask(ctx: Context) -> HTMLResponse:
    return page("hand_over/verify.html", ctx, found=None, error="")


@router.post("/verify")
def look(data: PostedForm, ctx: Context) -> HTMLResponse:
    """Look at a job's ZIP or JSON file; nothing of it is kept."""
    content = posted_file(data)
    if not content:
        return page("hand_over/verify.html", ctx, 422, found=None, error="Choose a file.")
    try:
        found = verify_file(content)
    except UnreadableError as error:
        told = f"This cannot be read as a job's file: {error}."
        return page("hand_over/verify.html", ctx, 422, found=None, error=told)
    return page("hand_over/verify.html", ctx, found=found, error="")
