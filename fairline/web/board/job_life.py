"""The life of a job: copied, put away and brought back, deleted."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from fairline.store import jobs
from fairline.web.frame.forms import Form
from fairline.web.frame.judged_job import with_uid
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext

router = APIRouter(include_in_schema=False)


def _name(ctx: RequestContext, job_id: int) -> str:
    head: Any = jobs.job_row(ctx.session, job_id).head
    return str(head.get("name") or f"job {job_id}") if isinstance(head, dict) else f"job {job_id}"


def _life_page(ctx: RequestContext, job_id: int, form: Form, status: int = 200) -> HTMLResponse:
    row = jobs.job_row(ctx.session, job_id)
    return page(
        "board/life.html",
        ctx,
        status,
        id=job_id,
        posts=lambda path: with_uid(f"/jobs/{job_id}{path}", row.uid),
        name=_name(ctx, job_id),
        form=form,
        away=row.put_away,
        handed_over=row.handed_over,
    )


@router.get("/jobs/{job_id}/life")
def life(job_id: JobId, ctx: Context) -> HTMLResponse:
    """What can be done with a job as a whole; a job that cannot be judged has this page too."""
    return _life_page(ctx, job_id, Form({"name": f"{_name(ctx, job_id)}, again"[:200]}))


@router.post("/jobs/{job_id}/copy")
def copy(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """A new job planned as this one: no readings, records, names, serial numbers."""
    called = str(data.get("name") or "").strip()
    if not called or len(called) > 200:
        form = Form({"name": called[:400]}, {"name": "a name of at most 200 letters is needed"})
        return _life_page(ctx, job_id, form, 422)
    job = ctx.judged(job_id).job
    with ctx.change() as session:
        made = jobs.copy(session, job, called)
    return RedirectResponse(f"/jobs/{made}/survey", 303)


@router.post("/jobs/{job_id}/put-away")
def put_away(job_id: JobId, ctx: Context) -> Response:
    """Off the board; nothing of it changes, and it is brought back from there."""
    with ctx.change() as session:
        jobs.put_away(session, job_id)
    return RedirectResponse("/", 303)


@router.post("/jobs/{job_id}/bring-back")
def bring_back(job_id: JobId, ctx: Context) -> Response:
    with ctx.change() as session:
        jobs.put_away(session, job_id, away=False)
    return RedirectResponse("/", 303)


@router.post("/jobs/{job_id}/delete")
def delete(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """For good: only with the job's name typed, a file of it offered first."""
    typed, name = str(data.get("typed") or "").strip(), _name(ctx, job_id)
    if typed != name.strip():
        told = {"typed": f"type the job's name as it stands: {name}"}
        return _life_page(ctx, job_id, Form({"typed": typed[:200]}, told), 422)
    with ctx.change() as session:
        jobs.remove(session, job_id)
    ctx.request.app.state.judged.forget([job_id])
    return RedirectResponse("/", 303)
