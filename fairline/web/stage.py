"""What all stages share: opening a stage, and saving what is entered on it."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any
from urllib.parse import quote, unquote

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import ValidationError
from starlette.datastructures import FormData

from fairline.core.call import Check
from fairline.core.change import Step, difference, onto, put
from fairline.core.entry import Entry
from fairline.core.head_out import letters_named
from fairline.core.job import ENTRIES
from fairline.core.route_edit import EditError
from fairline.core.units import System
from fairline.store import board, edits, entries, jobs
from fairline.store.document import NotFoundError, dump
from fairline.store.edits import Editing
from fairline.web.forms import Form, flat, posted, read, understood
from fairline.web.pages import job_context, page
from fairline.web.rows import rows_changed, with_the_rest
from fairline.web.told import told
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)


class Checks(dict[str, Check]):
    """The checks of a page by their short names; one that is not there is None."""

    def __missing__(self, key: str) -> None:
        return None


View = Callable[[Visit, Judged], dict[str, Any]]
VIEWS: dict[str, View] = {}
TOLD = "fairline_told"  # a cookie that lives until the next page


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
        "clashes": (),
        "undone": None,
        "undo": edits.undoable(visit.session, judged.id, stage, visit.hand, most=1),
        "redo": edits.redoable(visit.session, judged.id, stage, visit.hand),
        "editor": visit.new_editor(),
        "version": judged.versions.get(stage, 0),
        **job_context(judged, stage),
        **VIEWS[stage](visit, judged),
        **more,
    }
    status = 200 if visit.htmx else status
    kept_words = unquote(visit.request.cookies.get(TOLD, ""))[:600]
    context["undone"] = context["undone"] or kept_words
    answer = page(f"{jobs.field_name(stage)}/page.html", visit, status=status, **context)
    if kept_words:
        answer.delete_cookie(TOLD)
    return answer


def stage_url(job_id: JobId, stage: str) -> str:
    return f"/jobs/{job_id}/{stage}"


@router.get("/jobs/{job_id}/{stage}")
def open_stage(job_id: JobId, stage: str, visit: AVisit) -> Response:
    if stage not in VIEWS:
        raise NotFoundError(f"a job has no stage called {stage}")
    return stage_page(visit, visit.judged(job_id), stage)


@dataclass(frozen=True)
class Clash:
    """A field that two people changed: what the other's is now, to choose from."""

    field: str
    words: str

    @classmethod
    def of(cls, step: Step, by: str, shown: dict[str, Any]) -> "Clash":
        who, theirs = by or "Somebody else", shown.get(step.field)
        if isinstance(theirs, str | float | int):
            said = f"{who} put {theirs} here" if theirs != "" else f"{who} emptied this"
        else:
            said = f"{who} changed this too"
        return cls(step.field, f"{said} while you had it open. Choose whose it is.")

    @property
    def place(self) -> str:
        """The field in words, for what no field on the page shows."""
        return self.field.replace(".", " ").replace("_", " ")


@dataclass(frozen=True)
class Choice:
    """``mine:VERSION:FIELD`` or ``theirs:VERSION:FIELD``: whose a field is that clashed."""

    side: str = ""
    version: int = 0
    field: str = ""

    @classmethod
    def of(cls, data: FormData) -> "Choice":
        side, _, rest = str(data.get("_settle") or "")[:400].partition(":")
        version, _, name = rest.partition(":")
        return cls(side, _whole(version), name) if side in ("mine", "theirs") else cls()


@dataclass
class Entered:
    """What a posted form comes to: the entry to keep, the form as it comes back, the clashes."""

    entry: Entry | None
    form: Form
    clashes: list[Clash] = field(default_factory=list)


@router.post("/jobs/{job_id}/{stage}")
def save_stage(job_id: JobId, stage: str, data: AForm, visit: AVisit) -> Response:
    """Save what is entered on a stage, as a person types: every field that is understood.

    What another person saved since the page was opened is kept beside it, field by field.
    """
    if stage not in VIEWS:
        raise NotFoundError(f"a job has no stage called {stage}")
    edit = Editing(
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
            seen = entries.opened(session, job_id, stage, ENTRIES[stage], edit)
            if seen is None:
                entered = _entered(stage, data, judged, visit.system, part)
                standing = edit
            else:
                entered = _together(stage, data, judged, visit.system, part, seen)
                standing = replace(edit, version=judged.versions[stage])
            if entered.entry is not None:
                kept = entries.save_entry(session, job_id, stage, entered.entry, standing)
                held["version"] = edit.version if entered.clashes else kept
    except entries.ConflictError as conflict:
        judged = visit.judged(job_id)
        form = _entered(stage, data, judged, visit.system, part).form
        return stage_page(visit, judged, stage, form, status=409, conflict=conflict, **held)
    except jobs.HandedOverError as over:
        judged = visit.judged(job_id)
        form = _entered(stage, data, judged, visit.system, part).form
        form.errors[""] = str(over)
        return stage_page(visit, judged, stage, form, status=409, **held)
    form = entered.form
    if entered.clashes:
        return stage_page(
            visit, visit.judged(job_id), stage, form, status=409, clashes=entered.clashes, **held
        )
    if entered.entry is None or form.errors:
        return stage_page(visit, visit.judged(job_id), stage, form, status=422, **held)
    after = visit.judged(job_id)
    changed = told(judged, after, visit.system) if _orders(data) else ""
    if not visit.htmx:
        return _telling(RedirectResponse(_page_of(job_id, stage, part), 303), changed)
    judged = after
    unsaid = {
        name: str(value)[:2000]
        for name, value in data.items()
        if value and (name == "_say" or name.startswith("_before."))
    }
    if unsaid and not any(data.getlist("_edit")):  # an order that is not given yet stays there
        form = Form(flat(entry_of(judged, stage), visit.system) | unsaid)
        return stage_page(visit, judged, stage, form, saved=True, editor=edit.editor)
    return stage_page(
        visit, judged, stage, saved=True, editor=edit.editor, notes=form.notes, undone=changed
    )


def _telling(response: RedirectResponse, words: str) -> RedirectResponse:
    """A redirect whose page says something once."""
    if words:
        response.set_cookie(TOLD, quote(words[:600]), max_age=60, httponly=True, samesite="lax")
    return response


@router.post("/jobs/{job_id}/{stage}/undo")
def undo(job_id: JobId, stage: str, visit: AVisit) -> Response:
    """Take back this browser's newest edit of a stage, with all that it changed elsewhere."""
    return _take_back(job_id, stage, visit, again=False)


@router.post("/jobs/{job_id}/{stage}/redo")
def redo(job_id: JobId, stage: str, visit: AVisit) -> Response:
    """Do again what this browser took back last."""
    return _take_back(job_id, stage, visit, again=True)


def _take_back(job_id: int, stage: str, visit: Visit, again: bool) -> Response:
    if stage not in VIEWS:
        raise NotFoundError(f"a job has no stage called {stage}")
    find = edits.redoable if again else edits.undoable
    said, before = "", visit.judged(job_id)
    try:
        with visit.change() as session:
            found = find(session, job_id, stage, visit.hand)
            if found is None:
                said = f"There is nothing of yours to {'do again' if again else 'take back'}."
            else:
                left = entries.take_back(session, job_id, found, visit.edit, again)
                said = f"{'Done again' if again else 'Taken back'}: {found.words}."
                if left:
                    said += f" Changed by somebody since, and left: {', '.join(left[:3])}."
    except (entries.ConflictError, board.CannotJudgeError):
        said = "It cannot be taken back any more: what came after rests on it."
    after = visit.judged(job_id)
    said = f"{said} {told(before, after, visit.system)}".strip()
    if not visit.htmx:
        part = visit.request.query_params.get("part", "")[:400]
        return _telling(RedirectResponse(_page_of(job_id, stage, part), 303), said)
    return stage_page(visit, after, stage, undone=said)


def _page_of(job_id: int, stage: str, part: str) -> str:
    return stage_url(job_id, stage) + (f"?part={quote(part)}" if part else "")


def _entered(
    stage: str,
    data: FormData,
    judged: Judged,
    system: System,
    part: str,
) -> Entered:
    """What is to be kept of a posted form, and the form as it comes back.

    A field that is not understood keeps its error and its text; all others are kept. An order (a
    row added or taken out, a change of the tree) waits until every field is understood.
    """
    before = entry_of(judged, stage)
    fields = with_the_rest(posted(data), flat(before, system), part, stage in EDITS)
    return _ordered(stage, data, judged, system, fields, before)


def _ordered(
    stage: str,
    data: FormData,
    judged: Judged,
    system: System,
    fields: dict[str, Any],
    before: Entry,
) -> Entered:
    """The entry of a form's fields with the order that its button gave."""
    added, removed, put = (str(data.get(name) or "")[:400] for name in ("_add", "_remove", "_put"))
    entry, form = read(
        ENTRIES[stage],
        fields,
        system,
        before,
        reshape=lambda given: rows_changed(given, added, removed, put, letters_named(judged.job)),
    )
    if entry is None and not _orders(data):
        entry = understood(ENTRIES[stage], fields, form.errors, system, before)
    if entry is not None and stage in EDITS:
        try:
            entry = EDITS[stage](entry, data, judged, system)
        except EditError as error:
            form.errors[error.field] = str(error)
            form.values |= {k: str(v) for k, v in data.items() if k == error.field}
            entry = None
    return Entered(entry, form)


def _orders(data: FormData) -> bool:
    return any(data.get(name) for name in ("_add", "_remove", "_put")) or any(data.getlist("_edit"))


def _together(
    stage: str, data: FormData, judged: Judged, system: System, part: str, seen: entries.Opened
) -> Entered:
    """A form that was opened before another's save, put together with it.

    Every field that only one of the two has changed is kept as that one has it; the others are
    clashes: they stay as they are kept until somebody chooses (``_settle``).
    """
    model, theirs, choice = ENTRIES[stage], entry_of(judged, stage), Choice.of(data)
    fields = with_the_rest(posted(data), flat(seen.entry, system), part, stage in EDITS)
    mine, form = read(model, fields, system, seen.entry)
    mine = mine or understood(model, fields, form.errors, system, seen.entry)
    if mine is None:
        return Entered(None, form)
    base = dump(seen.entry)
    steps = difference(base, dump(mine))
    if choice.side == "theirs":
        steps = [step for step in steps if step.field != choice.field]
    made, left = onto(dump(theirs), steps, base)
    if choice.side == "mine" and choice.version == judged.versions.get(stage):
        for step in left:
            made = put(made, step.path, step.after) if step.field == choice.field else made
        left = [step for step in left if step.field != choice.field]
    try:
        entry = model.model_validate(made)
    except ValidationError:
        raise entries.ConflictError(seen.by, seen.at) from None
    shown = flat(entry, system)
    if not left and not form.errors and not _lost_row(data, fields, shown):
        return _ordered(stage, data, judged, system, shown, entry)
    clashes = [Clash.of(step, seen.by, shown) for step in left]
    for name in form.errors:
        shown = _with(shown, fields, name)
    for clash in clashes:
        shown = _with(shown, fields, clash.field)
        form.errors[clash.field] = clash.words
    if not left and not form.errors:
        form.errors[""] = f"{seen.by or 'Somebody else'} changed these rows meanwhile: look again"
    return Entered(entry, Form(shown, form.errors), clashes)


def _with(fields: dict[str, Any], others: dict[str, Any], name: str) -> dict[str, Any]:
    """The fields with one (or all rows of one list) as it is among the others."""

    def of(key: str) -> bool:
        return key == name or key.startswith(f"{name}.")

    return {k: v for k, v in fields.items() if not of(k)} | {
        k: v for k, v in others.items() if of(k)
    }


def _lost_row(data: FormData, mine: dict[str, Any], shown: dict[str, Any]) -> bool:
    """Whether a row is to be taken out of a list that is another one by now."""
    rows = str(data.get("_remove") or "").rpartition(".")[0]
    if not rows:
        return False
    count = [len({k.split(".")[rows.count(".") + 1] for k in fields if k.startswith(f"{rows}.")})
             for fields in (mine, shown)]  # fmt: skip
    return count[0] != count[1]


def _whole(value: object) -> int:
    """A hidden field's whole number; 0 for anything else."""
    text = str(value or "")
    return int(text) if text.isdecimal() and len(text) < 10 else 0
