"""A record, or the owner's page, by a link that ends: it reads, and opens nothing else."""

from collections.abc import Callable
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Path
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from fairline.core.people import RIGHTS
from fairline.store import jobs, people
from fairline.store.clock import now
from fairline.store.document import NotFoundError
from fairline.store.people import Key
from fairline.web.frame.forms import Form, form_fields
from fairline.web.frame.moments import wall_moment
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.hand_over.owner import owner_pdf
from fairline.web.hand_over.routes import record_pdf

router = APIRouter(include_in_schema=False)
PAPERS: dict[str, tuple[str, Callable[[int, RequestContext], Response]]] = {
    "record": ("The record", record_pdf),
    "owner": ("The owner's page", owner_pdf),
}
Secret = Annotated[str, Path(max_length=200)]


@router.get("/jobs/{job_id}/sharing")
def sharing(job_id: JobId, ctx: Context) -> HTMLResponse:
    return _page(ctx, job_id, Form({"paper": "record"}))


def _page(
    ctx: RequestContext, job_id: int, form: Form, status: int = 200, link: str = ""
) -> HTMLResponse:
    judged = ctx.judged(job_id)
    return page(
        "people/sharing.html",
        ctx,
        status,
        j=judged,
        job=judged.job,
        form=form,
        link=link,
        papers={name: words for name, (words, _) in PAPERS.items()},
        shared=people.keys(ctx.session, "share", job_id=job_id),
    )


@router.post("/jobs/{job_id}/sharing")
def share(job_id: JobId, data: PostedForm, ctx: Context) -> HTMLResponse:
    """A new link, shown this once; it ends on the day that is said."""
    fields = form_fields(data)
    form, paper = Form(dict(fields)), str(fields.get("paper", ""))
    if paper not in PAPERS:
        form.errors["paper"] = "choose what is shared"
    until = None
    try:
        until = until_typed(str(fields.get("until", "")).strip())
        if until is None:
            form.errors["until"] = "say on which day the link ends"
        elif until <= now():
            form.errors["until"] = "that day is over"
    except ValueError:
        form.errors["until"] = "type a day like 2027-05-31"
    if form.errors:
        return _page(ctx, job_id, form, 422)
    who = ctx.admitted.person
    with ctx.change(settles=False) as session:
        jobs.job_row(session, job_id)
        secret = people.make_key(
            session,
            "share",
            person_id=who.id if who else None,
            job_id=job_id,
            words=paper,
            until=until,
        )
    link = f"{ctx.request.url.scheme}://{ctx.request.headers['host']}/shared/{secret}"
    return _page(ctx, job_id, Form({"paper": paper}), link=link)


@router.post("/jobs/{job_id}/sharing/{key_id}/end")
def end_share(job_id: JobId, key_id: int, ctx: Context) -> Response:
    """A link ends before its day."""
    with ctx.change(settles=False) as session:
        if key_id not in {k.id for k in people.keys(session, "share", job_id=job_id)}:
            raise NotFoundError("there is no such link")
        people.revoke(session, key_id)
    return RedirectResponse(f"/jobs/{job_id}/sharing", 303)


def _shared(ctx: RequestContext, secret: str) -> Key:
    """What a link opens. Raises NotFoundError: one that ended, or whose maker may share no more."""
    key = people.opened_with(ctx.session, "share", secret)
    if key is None or key.job_id is None:
        raise NotFoundError("this link has ended, or never was")
    if key.person_id is not None:
        maker = people.person(ctx.session, key.person_id)
        if maker.ended or "answer" not in RIGHTS[maker.role]:
            raise NotFoundError("this link has ended, or never was")
    return key


@router.get("/shared/{secret}")
def shared_page(secret: Secret, ctx: Context) -> HTMLResponse:
    """What was shared, by its name, and the paper to open."""
    key = _shared(ctx, secret)
    job = ctx.judged(key.job_id or 0).job
    return page(
        "people/shared.html",
        ctx,
        job=job,
        key=key,
        secret=secret,
        paper=PAPERS[key.words][0],
        file=key.words,
    )


@router.get("/shared/{secret}/{paper}")
def shared_paper(secret: Secret, paper: str, ctx: Context) -> Response:
    key = _shared(ctx, secret)
    if paper != f"{key.words}.pdf":
        raise NotFoundError("this link opens another paper")
    return PAPERS[key.words][1](key.job_id or 0, ctx)


def until_typed(text: str) -> datetime | None:
    """The end of a day, in the zone at hand; None for no day. Raises ValueError."""
    return wall_moment(f"{text}T23:59") if text else None
