"""The board: every job with its line, and the ways to begin one."""

from contextlib import suppress
from dataclasses import replace
from functools import partial
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Query
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import ValidationError
from sqlalchemy.orm import Session

from fairline.core.brief import Brief, brief
from fairline.core.job import JobHead
from fairline.core.problem import from_validation
from fairline.core.stages import TITLES
from fairline.store import archive, house, job_file, jobs, pictures, plans
from fairline.store import board as kept
from fairline.store.document import NotFoundError
from fairline.web.frame.forms import CHANGED_MEANWHILE, Form, flat, form_fields, overtaken, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import day, here
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import (
    Context,
    JobId,
    PostedForm,
    RequestContext,
    page_before,
    posted_file,
    remember,
    remember_person,
)

router = APIRouter(include_in_schema=False)

STATES = {
    "": "All",
    "person": "Needs you",
    "waits": "Waits",
    "holds": "Holds",
    "over": "Handed over",
}
LOOKED_AGAIN_S = 60.0  # after so long a board asks which clocks run
PREFERENCES = {"units": ("us", "si"), "theme": ("light", "dark", "")}


@router.get("/")
def board(
    ctx: Context,
    number: Annotated[int, Query(alias="page", ge=1, le=100_000)] = 1,
    away: bool = False,
    q: Annotated[str, Query(max_length=200)] = "",
    state: str = "",
    stage: Annotated[str, Query(max_length=20)] = "",
    today: bool = False,
    mine: bool = False,
    crew: Annotated[str, Query(max_length=200)] = "",
) -> HTMLResponse:
    """A page of the board, what needs a person first, from what is kept of each job."""
    on = day(ctx.now()).isoformat()
    crews = house.crew_book(ctx.session).crews
    people = tuple(p.name for p in crews.get(crew, ())) if crew else ()
    mine_alone = ctx.person if mine and ctx.person else ""
    asked = kept.Asked(q, state, away, stage, on if today else "", mine_alone, people)
    narrowed = asked.narrowed
    rows, count = board_page(ctx, number, asked)
    context: dict[str, Any] = {
        "q": q,
        "state": state,
        "states": STATES,
        "stage_asked": stage if stage in TITLES else "",
        "today": today,
        "mine": mine,
        "crew": crew if people else "",
        "crews": [name for name in crews if name],
        "planned": _planned(ctx, rows),
        **_running(ctx, hidden=away or narrowed or number > 1),
        "narrowed": narrowed,
        "count_all": kept.count(ctx.session, kept.Asked(away=away)) if narrowed else count,
        "shelf_count": ctx.shelf_at[0],
        "jobs": rows,
        "company": house.company(ctx.session),
        "number": number,
        "pages": max(1, -(-count // kept.PAGE)),
        "count": f"{count} or more" if narrowed and count == kept.COUNTED else count,
        "away": away,
        "others": kept.count(ctx.session, kept.Asked(away=not away)),
        "settling": ctx.request.app.state.settling.left(),
        "due": [] if away or narrowed or number > 1 else kept.due(ctx.session, on),
    }
    return page("board/board.html", ctx, **context)


def _planned(ctx: RequestContext, rows: list[kept.Row]) -> dict[int, str]:
    """What the plans of these jobs say of today and of what is ahead, in a few words."""
    now, found = ctx.now(), dict[int, str]()
    for job_id, one in plans.of_jobs(ctx.session, [row.id for row in rows]).items():
        ahead = [s for s in one.plan.slots if s.end > now] if one.plan else []
        if one.plan is None or not ahead:
            continue
        today = [s for s in ahead if day(s.start) == day(now) and s.people]
        names = dict.fromkeys(name for slot in today for name in slot.people)
        words = [f"today {', '.join(names)} from {here(today[0].start):%H:%M}"] if today else []
        words += [f"{s.trade} {here(s.start):%a %d %b %H:%M}" for s in ahead if s.trade]
        found[job_id] = "Plan: " + " · ".join(
            [*words, f"ready {here(one.plan.ready):%a %d %b %H:%M}"]
        )
    return found


def _running(ctx: RequestContext, hidden: bool = False) -> dict[str, Any]:
    """The clocks of all jobs, and in how many seconds the next of them ends."""
    found = [] if hidden else kept.running(ctx.session)
    now = ctx.now()
    ahead = [(clock.ends_at - now).total_seconds() for _, clock in found if clock.ends_at > now]
    return {
        "running": [(row, clock, clock.ends_at <= now) for row, clock in found],
        "again_s": int(min([LOOKED_AGAIN_S, *(s + 1 for s in ahead)])),
        "clocks_hidden": hidden,
    }


@router.get("/clocks")
def clocks(ctx: Context) -> HTMLResponse:
    """The clocks that run, for a board that stays open."""
    return page("board/clocks.html", ctx, **_running(ctx))


@router.get("/settling")
def settling(ctx: Context, board: bool = False) -> HTMLResponse:
    """How many jobs are still judged anew, for the page that asks; the board is shown anew then."""
    left = ctx.request.app.state.settling.left()
    answer = page("board/settling.html", ctx, settling=left, on_board=board, over=not left)
    if board and not left:
        answer.headers["HX-Refresh"] = "true"
    return answer


def board_page(ctx: RequestContext, number: int, asked: kept.Asked) -> tuple[list[kept.Row], int]:
    """One page of the board; what changed under it since (by a gauge, by practice) is settled."""
    rows, count = kept.page(ctx.session, number, asked=asked)
    late = kept.stale(ctx.session, [row.id for row in rows])
    if not late:
        return rows, count
    fresh: dict[int, Brief] = {}
    for job_id in late:
        with suppress(NotFoundError):  # deleted meanwhile
            fresh[job_id] = kept.settle_beside(ctx.session, job_id, partial(_made, ctx))
    rows, count = kept.page(ctx.session, number, asked=asked)
    return [replace(row, brief=fresh.get(row.id, row.brief)) for row in rows], count


def _made(ctx: RequestContext, session: Session, job_id: int) -> Brief:
    """What the board shows of a job that was judged for its own page already, or is now."""
    try:
        judged = ctx.judged(job_id)
    except kept.CannotJudgeError:
        return kept.stored_brief(session, job_id)
    return brief(judged.job, judged.worked)


def _new_page(ctx: RequestContext, form: Form, status: int = 200, **more: Any) -> HTMLResponse:
    context = {
        "form": form,
        "import_error": None,
        "exists": None,
        **more,
    }
    return page("board/new.html", ctx, status=status, **context)


@router.post("/demo")
def look_first(data: PostedForm, ctx: Context) -> Response:
    """The invented sheets, and where asked the practice yard, onto a board without jobs."""
    from fairline.demo.load import put_in  # only here: it makes the whole demo

    if jobs.ids(ctx.session):
        return RedirectResponse("/", 303)
    with ctx.change() as session:
        put_in(session, with_jobs="jobs" in data)
    return RedirectResponse("/" if "jobs" in data else "/shelf", 303)


@router.get("/jobs/new")
def new_job(ctx: Context) -> HTMLResponse:
    company = house.company(ctx.session)
    head = JobHead(name="new", company=company.name, company_phone=company.phone)
    return _new_page(ctx, Form(flat(head, ctx.system) | {"name": ""}))


@router.post("/jobs/new")
def create_job(data: PostedForm, ctx: Context) -> Response:
    fields = form_fields(data)
    head, form = read(JobHead, fields, ctx.system)
    if head is None:
        return _new_page(ctx, form, status=422)
    with ctx.change() as session:
        job_id = jobs.create(session, head)
        company = house.company(session)
        zone = str(data.get("_zone") or "")[:60]
        told = company.model_copy(
            update={
                "name": company.name or head.company,
                "phone": company.phone or head.company_phone,
                "zone": company.zone or (zone if house.zone_named(zone) else ""),
            }
        )
        if told != company:
            house.set_company(session, told)
    return RedirectResponse(f"/jobs/{job_id}/survey", 303)


@router.post("/jobs/import")
def import_job(data: PostedForm, ctx: Context) -> Response:
    """A job file as a new job; one that is here already only as a copy."""
    content = posted_file(data)
    blank = Form({})
    if not content.strip():
        return _new_page(ctx, blank, 422, import_error="Choose a job file: this one is empty.")
    shown: dict[str, bytes] = {}
    try:
        if content.startswith(archive.SIGNATURE):
            content, shown = archive.read(content)
        read_file = job_file.read(content)
        named = {p.name for p in read_file.job.pictures}
        own = [p for p in shown.values() if pictures.name_of(p) in named and pictures.is_jpeg(p)]
        with ctx.change() as session:
            job_id = jobs.import_job(session, read_file.job, as_copy="as_copy" in data)
            for picture in own:
                pictures.keep(session, job_id, picture)
    except jobs.ExistsError as held:
        return _new_page(
            ctx, blank, 409, exists=held.job_id, import_error="This job is here already."
        )
    except ValidationError as error:
        told = from_validation(error)["detail"]
        return _new_page(ctx, blank, 422, import_error=f"Not a job file: {told}")
    except kept.CannotJudgeError as error:
        told = f"This job cannot be judged, and is not taken in: {error.reason}"
        return _new_page(ctx, blank, 422, import_error=told)
    except (job_file.JobFileError, archive.ArchiveError) as error:
        return _new_page(ctx, blank, 422, import_error=f"Not a job file: {error}")
    left = f"?left={quote(', '.join(read_file.left_out)[:1000])}" if read_file.left_out else ""
    return RedirectResponse(f"/jobs/{job_id}/survey{left}", 303)


@router.get("/jobs/{job_id}")
def open_job(job_id: JobId, ctx: Context) -> Response:
    """A job opens where it stands."""
    return RedirectResponse(f"/jobs/{job_id}/{ctx.judged(job_id).at}", 307)


@router.get("/jobs/{job_id}/head")
def edit_head(job_id: JobId, ctx: Context) -> HTMLResponse:
    judged = ctx.judged(job_id)
    return _head_page(ctx, judged, Form(flat(judged.job.head, ctx.system)))


def _head_page(
    ctx: RequestContext, judged: JudgedJob, form: Form, status: int = 200
) -> HTMLResponse:
    version = jobs.head_version(ctx.session, judged.id)
    return page(
        "board/head.html", ctx, status, j=judged, job=judged.job, form=form, version=version
    )


@router.post("/jobs/{job_id}/head")
def save_head(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    judged = ctx.judged(job_id)
    # A job that was begun to practise stays one: what it holds was never measured.
    fields = form_fields(data) | {"practice": judged.job.head.practice}
    head, form = read(JobHead, fields, ctx.system)
    if head is None:
        return _head_page(ctx, judged, form, 422)
    with ctx.change() as session:
        if overtaken(data, jobs.head_version(session, job_id)):
            form.errors[""] = CHANGED_MEANWHILE
            return _head_page(ctx, judged, form, 409)
        jobs.set_head(session, job_id, head)
    return RedirectResponse(f"/jobs/{job_id}/survey", 303)


@router.post("/preferences")
def preferences(data: PostedForm, ctx: Context) -> Response:
    """Units, theme and the person at work, remembered by the browser."""
    response = RedirectResponse(page_before(ctx.request), 303)
    for name, allowed in PREFERENCES.items():
        if (value := data.get(name)) in allowed:
            remember(response, name, str(value))
    person = data.get("person")
    if isinstance(person, str):
        remember_person(response, person)
    return response
