"""Pictures of a job's things: added where the thing is, shown there and in the record."""

from typing import Any
from urllib.parse import quote, urlsplit

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from fairline.core.hand_over.picture import THINGS, Picture, things
from fairline.store import jobs, pictures
from fairline.store.document import NotFoundError
from fairline.web.flare import current_joint, job_pictures, joints_of
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import job_context, jpeg, page
from fairline.web.frame.request_context import (
    Context,
    JobId,
    PostedForm,
    RequestContext,
    posted_file,
)
from fairline.web.frame.stage import stage_page

router = APIRouter(include_in_schema=False)


def offered(judged: JudgedJob) -> dict[str, list[tuple[str, str]]]:
    """What a picture can be taken of: by kind of thing, each place with its words."""
    job, found = judged.job, joints_of(judged)
    words = {j.place: j.label for j in found}
    of = things(job.survey, job.route, [j.place for j in found])
    return {kind: [(p, words.get(p, p)) for p in places] for kind, places in of.items()}


def words_of(judged: JudgedJob) -> dict[tuple[str, str], str]:
    """What each picture of the job shows, in words, by thing and place."""
    known = {(kind, place): words for kind, of in offered(judged).items() for place, words in of}
    return {
        (p.of, p.place): known.get((p.of, p.place), p.place)
        if p.of == "joint"
        else f"{THINGS[p.of]}: {known.get((p.of, p.place), p.place)}"
        for p in judged.job.pictures
    }


def take(ctx: RequestContext, judged: JudgedJob, of: str, place: str, content: bytes) -> str:
    """Keep a picture; its name. Raises NotFoundError for no such thing, PictureError."""
    places = [p for p, _ in offered(judged).get(of, [])]
    if of not in THINGS or not (place in places or (of == "place" and 0 < len(place) <= 200)):
        raise NotFoundError(f"this job has no such {of[:40] or 'thing'} to take a picture of")
    cleaned = pictures.cleaned(content)
    with ctx.change() as session:
        name = pictures.keep(session, judged.id, cleaned)
        by = ctx.person or "not named"
        record = Picture.model_validate(
            {"of": of, "place": place, "name": name, "by": by, "at": ctx.now()}
        )
        jobs.append_record(session, judged.id, record)
    return name


@router.get("/jobs/{job_id}/pictures")
def gallery(job_id: JobId, ctx: Context) -> HTMLResponse:
    """All pictures of a job, and a way to add one of any thing."""
    return _gallery(ctx, ctx.judged(job_id))


def _gallery(
    ctx: RequestContext, judged: JudgedJob, status: int = 200, error: str = ""
) -> HTMLResponse:
    return page(
        "hand_over/pictures.html",
        ctx,
        status,
        **job_context(judged, "hand-over"),
        pictures=job_pictures(ctx, judged),
        shows=words_of(judged),
        offered=offered(judged),
        things=THINGS,
        error=error,
    )


@router.post("/jobs/{job_id}/pictures")
def add_picture(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Keep a picture of one thing: ``thing`` is its kind, a colon, its place."""
    judged, content = ctx.judged(job_id), posted_file(data)
    of, _, place = str(data.get("thing") or "").partition(":")
    place = place or str(data.get("words") or "").strip()[:200]
    asked = urlsplit(str(data.get("_back") or ""))
    back = asked.path if asked.path.startswith(f"/jobs/{job_id}/") else ""
    try:
        take(ctx, judged, of, place, content)
    except pictures.PictureError as error:
        if of != "joint" or not back:
            return _gallery(ctx, judged, 422, str(error))
        found = joints_of(judged)
        more: dict[str, Any] = current_joint(found, place, judged.job.flare, ctx.system)
        return stage_page(ctx, judged, "flare", status=422, picture_error=str(error), **more)
    if of == "joint" and back:
        return ctx.onward(f"/jobs/{job_id}/flare?joint={quote(place)}")
    if of == "nameplate" and back == f"/jobs/{job_id}/wire":
        return ctx.onward(f"{back}?part=supply-{quote(place)}")
    onward = f"{back}?{asked.query}" if asked.query else back
    return ctx.onward(onward or f"/jobs/{job_id}/pictures")


@router.get("/jobs/{job_id}/pictures/{name}.jpg")
def show_picture(job_id: JobId, name: str, ctx: Context) -> Response:
    """A picture as JPEG."""
    return jpeg(pictures.content_of(ctx.session, job_id, name))


@router.post("/jobs/{job_id}/pictures/{name}/out")
def take_out(job_id: JobId, name: str, ctx: Context) -> Response:
    """Remove what a picture shows; the record goes on saying that one was taken."""
    judged = ctx.judged(job_id)
    record = next((p for p in judged.job.pictures if p.name == name), None)
    if record is None:
        raise NotFoundError("there is no such picture")
    with ctx.change() as session:
        pictures.take_out(session, job_id, name)
    if record.of == "joint":
        return ctx.onward(f"/jobs/{job_id}/flare?joint={quote(record.place)}")
    return ctx.onward(f"/jobs/{job_id}/pictures")
