"""What all stages share: opening a stage, and saving what is entered on it."""

from collections.abc import Callable
from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from fairline.core.entry import Entry
from fairline.core.job import ENTRIES
from fairline.store import jobs
from fairline.web.forms import Form, flat, nested, posted, read
from fairline.web.pages import job_context, page
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)

View = Callable[[Visit, Judged], dict[str, Any]]
VIEWS: dict[str, View] = {}


def stage_view(stage: str) -> Callable[[View], View]:
    """Names the function that gives a stage's page what only that stage shows."""

    def register(view: View) -> View:
        VIEWS[stage] = view
        return view

    return register


def entry_of(judged: Judged, stage: str) -> Entry:
    entry: Entry = getattr(judged.job, jobs.field_name(stage))
    return entry


def stage_page(
    visit: Visit, judged: Judged, stage: str, form: Form | None = None, status: int = 200,
    **more: Any,
) -> HTMLResponse:  # fmt: skip
    """The page of a stage: its entry as a form, its own view, the line and the plate."""
    shown = form or Form(flat(entry_of(judged, stage), visit.system))
    context = {
        "form": shown,
        "record_form": Form({"by": visit.person}),
        "saved": False,
        "conflict": None,
        "editor": visit.new_editor(),
        "version": judged.versions.get(stage, 0),
        **job_context(judged, stage),
        **VIEWS[stage](visit, judged),
        **more,
    }
    status = 200 if visit.htmx else status
    return page(f"{jobs.field_name(stage)}/page.html", visit, status=status, **context)


def stage_url(job_id: JobId, stage: str) -> str:
    return f"/jobs/{job_id}/{stage}"


@router.get("/jobs/{job_id}/{stage}")
def open_stage(job_id: JobId, stage: str, visit: AVisit) -> Response:
    if stage not in VIEWS:
        raise jobs.NotFoundError(f"a job has no stage called {stage}")
    return stage_page(visit, visit.judged(job_id), stage)


def rows_changed(fields: dict[str, Any], add: str, remove: str) -> dict[str, Any]:
    """The fields with a row added to a list (``legs``) or one taken out (``legs.2``)."""
    if remove and "." in remove:
        prefix, index = remove.rsplit(".", 1)
        kept: dict[str, Any] = {}
        for name, value in fields.items():
            row, _, rest = name.removeprefix(f"{prefix}.").partition(".")
            if not name.startswith(f"{prefix}.") or not (row + index).isdecimal():
                kept[name] = value
            elif row != index:
                moved = int(row) - (int(row) > int(index))
                kept[f"{prefix}.{moved}.{rest}"] = value
        return kept
    if add:
        count = len(
            nested({k: v for k, v in fields.items() if k.startswith(f"{add}.")}).get(add, [])
        )
        blank = {"legs": {"direction": "up", "length_m": ""}, "rooms": {"name": "", "load_w": ""}}
        return fields | {f"{add}.{count}.{k}": v for k, v in blank.get(add, {}).items()}
    return fields


@router.post("/jobs/{job_id}/{stage}")
def save_stage(job_id: JobId, stage: str, data: AForm, visit: AVisit) -> Response:
    """Save what is entered on a stage, as a person types: all of it, or nothing."""
    if stage not in VIEWS:
        raise jobs.NotFoundError(f"a job has no stage called {stage}")
    judged = visit.judged(job_id)
    edit = jobs.Editing(
        version=_whole(data.get("_version")),
        editor=str(data.get("_editor") or "")[:40],
        turn=_whole(data.get("_turn")),
        by=visit.person,
    )
    added, removed = (str(data.get(name) or "") for name in ("_add", "_remove"))
    entry, form = read(
        ENTRIES[stage],
        posted(data),
        visit.system,
        entry_of(judged, stage),
        reshape=lambda fields: rows_changed(fields, added, removed),
    )
    held: dict[str, Any] = {"editor": edit.editor, "version": edit.version}
    if entry is None:
        return stage_page(visit, judged, stage, form, status=422, **held)
    try:
        with visit.change() as session:
            jobs.save_entry(session, job_id, stage, entry, edit)
    except jobs.ConflictError as conflict:
        return stage_page(visit, judged, stage, form, status=409, conflict=conflict, **held)
    if not visit.htmx:
        return RedirectResponse(stage_url(job_id, stage), 303)
    judged = visit.judged(job_id)
    return stage_page(visit, judged, stage, saved=True, editor=edit.editor)


def _whole(value: object) -> int:
    """A hidden field's whole number; 0 for anything else."""
    text = str(value or "")
    return int(text) if text.isdecimal() and len(text) < 10 else 0
