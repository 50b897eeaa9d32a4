"""What all stages share: opening a stage, and saving what is entered on it."""

import re
from collections.abc import Callable
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from starlette.datastructures import FormData

from fairline.core.call import Check
from fairline.core.entry import Entry
from fairline.core.equipment import LETTERS
from fairline.core.job import ENTRIES
from fairline.core.route_edit import EditError
from fairline.core.units import System
from fairline.store import jobs
from fairline.store.document import NotFoundError
from fairline.web.forms import Form, flat, posted, read, understood
from fairline.web.pages import job_context, page
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)


class Checks(dict[str, Check]):
    """The checks of a page by their short names; one that is not there is None."""

    def __missing__(self, key: str) -> None:
        return None


View = Callable[[Visit, Judged], dict[str, Any]]
VIEWS: dict[str, View] = {}


def stage_view(stage: str) -> Callable[[View], View]:
    """Names the function that gives a stage's page what only that stage shows."""

    def register(view: View) -> View:
        VIEWS[stage] = view
        return view

    return register


Edit = Callable[[Any, FormData, Judged, System], Any]
EDITS: dict[str, Edit] = {}


def stage_edit(stage: str) -> Callable[[Edit], Edit]:
    """Names the function that does a stage's own orders (``_edit``) on its entry.

    It raises EditError where an order cannot be done. Such a stage's forms hold a part of its
    fields; what they do not name stays as it is kept.
    """

    def register(edit: Edit) -> Edit:
        EDITS[stage] = edit
        return edit

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
    shown.notes |= more.pop("notes", {})
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
        raise NotFoundError(f"a job has no stage called {stage}")
    return stage_page(visit, visit.judged(job_id), stage)


def _next_zone(fields: dict[str, Any]) -> str:
    """The letter after the last one a head of the survey has."""
    taken = [str(v) for k, v in fields.items() if re.fullmatch(r"heads\.\d+\.zone", k)]
    last = max((LETTERS.find(z) for z in taken), default=-1)
    return LETTERS[min(last + 1, len(LETTERS) - 1)]


THING = {"x_m": "0.5 m", "width_m": "0.9 m"}
BLANKS: tuple[tuple[str, dict[str, str]], ...] = (  # the fields of a new row, by its list's name
    (r"runs\..*\.legs", {"direction": "up", "length_m": "", "setting": ""}),
    (r"drains\..*\.parts", {"way": "along", "length_m": "", "fall_m": ""}),
    (r"levels", {"name": "", "height_m": ""}),
    (r"rooms", {"name": "", "area_m2": "", "load_w": ""}),
    (r"heads", {"room": "", "form": "high-wall", "when": "now", "sheet": ""}),
    (r".*\.studs", {"x_m": ""}),
    (r"walls\..*\.things", {"kind": "window", "y_m": "0.9 m", "height_m": "1.1 m", **THING}),
    (r"ceilings\..*\.things", {"kind": "light", "x_m": "0.5 m", "y_m": "0.5 m",
                               "width_m": "0.2 m", "length_m": "0.2 m"}),
    (r"outdoor\.things", {"kind": "wall", "y_m": "0 m", "depth_m": "0.2 m", **THING}),
)  # fmt: skip


def rows_changed(fields: dict[str, Any], add: str, remove: str, put: str = "") -> dict[str, Any]:
    """The fields with a row added to a list (``legs``) or one taken out (``legs.2``).

    ``put`` sets fields outright: ``walls.A.x_m=1.2 m;walls.A.y_m=2.1 m``.
    """
    for order in put.split(";"):
        name, _, value = order.partition("=")
        if name in fields:
            fields = fields | {name: value}
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
        rows = {
            name.removeprefix(f"{add}.").partition(".")[0]
            for name in fields
            if name.startswith(f"{add}.")
        }
        blank = next((b for pattern, b in BLANKS if re.fullmatch(pattern, add)), {})
        if add == "heads":
            blank = blank | {"zone": _next_zone(fields)}
        return fields | {f"{add}.{len(rows)}.{k}": v for k, v in blank.items()}
    return fields


def with_the_rest(
    fields: dict[str, Any], before: dict[str, Any], part: str, merged: bool = False
) -> dict[str, Any]:
    """The fields of one part of an entry (``walls.A``), with all other parts as they are kept.

    ``merged``: every field that is not posted stays as it is kept.
    """
    if merged:
        return {name: value for name, value in before.items() if value != ()} | fields
    if not part:
        return fields
    rest = {
        name: value
        for name, value in before.items()
        if name != part and not name.startswith(f"{part}.")
    }
    return rest | {name: v for name, v in fields.items() if name.startswith(f"{part}.")}


@router.post("/jobs/{job_id}/{stage}")
def save_stage(job_id: JobId, stage: str, data: AForm, visit: AVisit) -> Response:
    """Save what is entered on a stage, as a person types: every field that is understood."""
    if stage not in VIEWS:
        raise NotFoundError(f"a job has no stage called {stage}")
    edit = jobs.Editing(
        version=_whole(data.get("_version")),
        editor=str(data.get("_editor") or "")[:40],
        turn=_whole(data.get("_turn")),
        by=visit.person,
    )
    part = str(data.get("_part") or "")[:400]
    held: dict[str, Any] = {"editor": edit.editor, "version": edit.version}
    try:
        with visit.change() as session:  # read and written in one: no other change lies between
            judged = visit.judged(job_id)
            entry, form = _entered(stage, data, judged, visit.system, part)
            if entry is not None:
                held["version"] = jobs.save_entry(session, job_id, stage, entry, edit)
    except jobs.ConflictError as conflict:
        judged = visit.judged(job_id)
        _, form = _entered(stage, data, judged, visit.system, part)
        return stage_page(visit, judged, stage, form, status=409, conflict=conflict, **held)
    if entry is None or form.errors:
        judged = visit.judged(job_id)
        return stage_page(visit, judged, stage, form, status=422, **held)
    if not visit.htmx:
        shown = f"?part={quote(part)}" if part else ""
        return RedirectResponse(stage_url(job_id, stage) + shown, 303)
    judged = visit.judged(job_id)
    unsaid = str(data.get("_say") or "")
    if unsaid and not data.get("_edit"):  # words of an order that is not given yet stay there
        form = Form(flat(entry_of(judged, stage), visit.system) | {"_say": unsaid[:2000]})
        return stage_page(visit, judged, stage, form, saved=True, editor=edit.editor)
    return stage_page(visit, judged, stage, saved=True, editor=edit.editor, notes=form.notes)


def _entered(
    stage: str, data: FormData, judged: Judged, system: System, part: str
) -> tuple[Entry | None, Form]:
    """What is to be kept of a posted form, and the form as it comes back.

    A field that is not understood keeps its error and its text; all others are kept. An order (a
    row added or taken out, a change of the tree) waits until every field is understood.
    """
    added, removed, put = (
        str(data.get(name) or "")[:400] for name in ("_add", "_remove", "_put")
    )  # fmt: skip
    before = entry_of(judged, stage)
    fields = with_the_rest(posted(data), flat(before, system), part, stage in EDITS)
    entry, form = read(
        ENTRIES[stage],
        fields,
        system,
        before,
        reshape=lambda given: rows_changed(given, added, removed, put),
    )
    ordered = bool(added or removed or put or any(data.getlist("_edit")))
    if entry is None and not ordered:
        entry = understood(ENTRIES[stage], fields, form.errors, system, before)
    if entry is not None and stage in EDITS:
        try:
            entry = EDITS[stage](entry, data, judged, system)
        except EditError as error:
            form.errors[error.field] = str(error)
            form.values |= {k: str(v) for k, v in data.items() if k == error.field}
            entry = None
    return entry, form


def _whole(value: object) -> int:
    """A hidden field's whole number; 0 for anything else."""
    text = str(value or "")
    return int(text) if text.isdecimal() and len(text) < 10 else 0
