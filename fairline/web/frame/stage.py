"""What all stages share: opening a stage, and saving what is entered on it."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any
from urllib.parse import quote, unquote

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from sqlalchemy.orm import Session
from starlette.convertors import Convertor, register_url_convertor
from starlette.datastructures import FormData

from fairline.core.call import Check, Verdict, worst
from fairline.core.sheet.needs import silent
from fairline.core.stages import ENTRIES, TITLES
from fairline.store import board, edits, entries, jobs
from fairline.store.edits import Editing, Undo
from fairline.web.frame import merging
from fairline.web.frame.change_context import change_context
from fairline.web.frame.edit_effects import edit_effects
from fairline.web.frame.forms import Form, flat
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.merging import entry_of
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.plate import is_refused
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.sheet_fields import field_of, quantity_kind


class StageName(Convertor[str]):
    """In an address: the name of a stage, and nothing else."""

    regex = "|".join(TITLES)

    def convert(self, value: str) -> str:
        return value

    def to_string(self, value: str) -> str:
        return value


register_url_convertor("stage", StageName())
router = APIRouter(include_in_schema=False)


class Checks(dict[str, Check]):
    """The checks of a page by their short names; one that is not there is None."""

    def __missing__(self, key: str) -> None:
        return None


def state_of(checks: list[Check]) -> Verdict:
    """The worst verdict of a part's checks; to wait where there is none."""
    return worst(c.call.verdict for c in checks) if checks else Verdict.WAIT


View = Callable[[RequestContext, JudgedJob], dict[str, Any]]
VIEWS: dict[str, View] = {}
TOLD = "fairline_told"  # a cookie that lives until the next page


WayOutView = Callable[[RequestContext, JudgedJob, str, dict[str, Any]], dict[str, Any]]
WAY_OUT: list[WayOutView] = []


def way_out_view(view: WayOutView) -> WayOutView:
    """Names the function that gives every stage's page what is in the pipes, and the way out."""
    WAY_OUT.append(view)
    return view


def stage_view(stage: str) -> Callable[[View], View]:
    """Names the function that gives a stage's page what only that stage shows."""

    def register(view: View) -> View:
        VIEWS[stage] = view
        return view

    return register


def stage_page(
    ctx: RequestContext,
    judged: JudgedJob,
    stage: str,
    form: Form | None = None,
    status: int = 200,
    **more: Any,
) -> HTMLResponse:
    """The page of a stage: its entry as a form, its own view, the line and the plate."""
    context = stage_context(ctx, judged, stage, form, more)
    context["refused"] = is_refused(context)
    status = 200 if ctx.htmx else status
    kept_words = unquote(ctx.request.cookies.get(TOLD, ""))[:600]
    context["undone"] = context["undone"] or kept_words
    answer = page(f"{jobs.field_name(stage)}/page.html", ctx, status=status, **context)
    if kept_words:
        answer.delete_cookie(TOLD)
    return answer


def stage_context(
    ctx: RequestContext, judged: JudgedJob, stage: str, form: Form | None, more: dict[str, Any]
) -> dict[str, Any]:
    """All that a stage's page shows; ``more`` stands before what is shown otherwise."""
    shown = form or Form(flat(entry_of(judged, stage), ctx.system))
    shown.notes |= more.pop("notes", {})
    context = {
        "form": shown,
        "record_form": Form({"by": ctx.person}),
        "saved": False,
        "conflict": None,
        "silent_sheets": silent(judged.job.equipment, stage),
        "said_form": ("", Form({})),
        "field_of": field_of,
        "quantity_kind": quantity_kind,
        "clashes": (),
        "undone": None,
        **_undo_and_redo(ctx, judged, stage),
        **change_context(judged, ctx.person),
        "editor": ctx.new_editor(),
        "version": judged.versions.get(stage, 0),
        **job_context(judged, stage),
        "procedures": judged.worked.done[stage].worked.procedures,
        "list_form": Form({"by": ctx.person}, prefix="list-"),
        "list_open": "",
        "list_drawings": {},
        **VIEWS[stage](ctx, judged),
        "way_act": "",
    }
    for view in WAY_OUT:
        context |= view(ctx, judged, stage, context | more)
    return context | more


def _undo_and_redo(ctx: RequestContext, judged: JudgedJob, stage: str) -> dict[str, Undo | None]:
    """What this browser can take back on a stage, or do again; looked up once for a revision."""

    def look() -> dict[str, Undo | None]:
        return {
            "undo": edits.undoable(ctx.session, judged.id, stage, ctx.hand, most=1),
            "redo": edits.redoable(ctx.session, judged.id, stage, ctx.hand),
        }

    found: dict[str, Undo | None] = judged.once(("undo", stage, ctx.hand), look)
    return found


def stage_url(job_id: JobId, stage: str) -> str:
    return f"/jobs/{job_id}/{stage}"


@router.get("/jobs/{job_id}/{stage:stage}")
def open_stage(job_id: JobId, stage: str, ctx: Context) -> Response:
    return stage_page(ctx, ctx.judged(job_id), stage)


@router.post("/jobs/{job_id}/{stage:stage}")
def save_stage(job_id: JobId, stage: str, data: PostedForm, ctx: Context) -> Response:
    """Save what is entered on a stage, as a person types: every field that is understood.

    What another person saved since the page was opened is kept beside it, field by field.
    """
    edit = Editing(
        version=merging.whole_number(data.get("_version")),
        editor=str(data.get("_editor") or "")[:40],
        turn=merging.whole_number(data.get("_turn")),
        by=ctx.person,
    )
    part = str(data.get("_part") or "")[:400]
    held: dict[str, Any] = {"editor": edit.editor, "version": edit.version}
    try:
        with ctx.change() as session:  # read and written in one: no other change lies between
            judged = ctx.judged(job_id)
            seen = entries.opened(session, job_id, stage, ENTRIES[stage], edit)
            if seen is None:
                entered = merging.read_entry(stage, data, judged, ctx.system, part)
                standing = edit
            else:
                entered = merging.merge_entry(stage, data, judged, ctx.system, part, seen)
                standing = replace(edit, version=judged.versions[stage])
            if entered.entry is not None:
                entry = merging.with_kept(stage, entered.entry, judged)
                kept = entries.save_entry(session, job_id, stage, entry, standing)
                held["version"] = edit.version if entered.clashes else kept
    except (entries.ConflictError, jobs.HandedOverError) as refused:
        judged = ctx.judged(job_id)
        form = merging.read_entry(stage, data, judged, ctx.system, part).form
        if isinstance(refused, entries.ConflictError):
            held["conflict"] = refused
        else:
            form.errors[""] = str(refused)
        return stage_page(ctx, judged, stage, form, status=409, **held)
    form = entered.form
    if entered.clashes:
        return stage_page(
            ctx, ctx.judged(job_id), stage, form, status=409, clashes=entered.clashes, **held
        )
    if entered.entry is None or form.errors:
        return stage_page(ctx, ctx.judged(job_id), stage, form, status=422, **held)
    after = ctx.judged(job_id)
    changed = edit_effects(judged, after, ctx.system) if merging.orders(data) else ""
    if not ctx.htmx:
        return with_message(RedirectResponse(_page_of(job_id, stage, part), 303), changed)
    if not any(data.getlist("_edit")) and (unsaid := _unsaid(data)):
        form = Form(flat(entry_of(after, stage), ctx.system) | unsaid)
        return stage_page(ctx, after, stage, form, saved=True, editor=edit.editor)
    return stage_page(
        ctx, after, stage, saved=True, editor=edit.editor, notes=form.notes, undone=changed
    )


def _unsaid(data: FormData) -> dict[str, str]:
    """An order that was typed and is not given yet: it stays where it was typed."""
    return {
        name: str(value)[:2000]
        for name, value in data.items()
        if value and (name == "_say" or name.startswith("_before."))
    }


def with_message(response: RedirectResponse, words: str) -> RedirectResponse:
    """A redirect whose page says something once."""
    if words:
        response.set_cookie(TOLD, quote(words[:600]), max_age=60, httponly=True, samesite="lax")
    return response


@router.post("/jobs/{job_id}/{stage:stage}/undo")
def undo(job_id: JobId, stage: str, ctx: Context) -> Response:
    """Take back this browser's newest edit of a stage, with all that it changed elsewhere."""
    return _take_back(job_id, stage, ctx, again=False)


@router.post("/jobs/{job_id}/{stage:stage}/redo")
def redo(job_id: JobId, stage: str, ctx: Context) -> Response:
    """Do again what this browser took back last."""
    return _take_back(job_id, stage, ctx, again=True)


def _taken_back(session: Session, job_id: int, stage: str, ctx: RequestContext, again: bool) -> str:
    """Take back the last edit of one's own, or do it again; in words what came of it."""
    find = edits.redoable if again else edits.undoable
    found = find(session, job_id, stage, ctx.hand)
    if found is None:
        return f"There is nothing of yours to {'do again' if again else 'take back'}."
    done, left = entries.take_back(session, job_id, found, ctx.edit, again)
    said = f"{'Done again' if again else 'Taken back'}: {done or 'nothing'}."
    return f"{said} Changed by somebody since, and left: {left}." if left else said


def _take_back(job_id: int, stage: str, ctx: RequestContext, again: bool) -> Response:
    before = ctx.judged(job_id)
    try:
        with ctx.change() as session:
            said = _taken_back(session, job_id, stage, ctx, again)
    except (entries.ConflictError, board.CannotJudgeError):
        said = "It cannot be taken back any more: what came after rests on it."
    after = ctx.judged(job_id)
    said = f"{said} {edit_effects(before, after, ctx.system)}".strip()
    if not ctx.htmx:
        part = ctx.request.query_params.get("part", "")[:400]
        return with_message(RedirectResponse(_page_of(job_id, stage, part), 303), said)
    return stage_page(ctx, after, stage, undone=said)


def _page_of(job_id: int, stage: str, part: str) -> str:
    return stage_url(job_id, stage) + (f"?part={quote(part)}" if part else "")
