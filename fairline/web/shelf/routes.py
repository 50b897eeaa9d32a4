"""The shelf: equipment sheets of every kind, shown with what governs where a sheet is silent."""

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from fairline.core.limit_list import LIMITS
from fairline.core.practice import Rules
from fairline.core.sheet import KIND_WORDS, KINDS, Sheet
from fairline.core.sheet.needs import NEEDS, needs_of, planned
from fairline.store import equipment, house, nameplates, pictures, shelf
from fairline.store.document import NotFoundError
from fairline.web.frame.forms import Form, flat, form_fields, read
from fairline.web.frame.pages import jpeg, page
from fairline.web.frame.request_context import (
    Context,
    JobId,
    PostedForm,
    RequestContext,
    posted_file,
)
from fairline.web.frame.sheet_fields import ONLY, SPARE_ROWS, groups, quantity_kind, short_form
from fairline.web.frame.stage import VIEWS, stage_page

router = APIRouter(include_in_schema=False)

PAGE = 48
MOST_LIKE = 60  # sheets to copy from


@router.get("/shelf")
def show_shelf(
    ctx: Context, kind: str = "", q: str = "", at: int = 1, taken: str = ""
) -> HTMLResponse:
    kind = kind if kind in KINDS else ""
    q, at = q[:100], min(max(at, 1), 10_000)
    count = shelf.count(ctx.session, kind, q)
    return page(
        "shelf/shelf.html",
        ctx,
        shelf=shelf.sheets(ctx.session, kind, q, PAGE, (at - 1) * PAGE),
        kind=kind,
        q=q,
        at=at,
        count=count,
        last=max(1, -(-count // PAGE)),
        kinds=KIND_WORDS,
        counts=dict.fromkeys(KINDS, 0) | shelf.counts(ctx.session),
        taken=taken[:100],
        errors=[],
        error_total=0,
    )


def sheet_page(
    ctx: RequestContext,
    kind: str,
    form: Form,
    sheet: Sheet | None,
    sheet_id: int | None,
    status: int = 200,
    old_version: int | None = None,
    plate_error: str = "",
) -> HTMLResponse:
    practice, _ = house.practice(ctx.session)
    part = kind if kind in ("outdoor", "head") else ""
    rules = Rules(practice=practice)
    if sheet is not None and part:
        rules = rules.model_copy(update={part: sheet})
    governed = {
        d.on_sheet.split(".")[1]: (d, rules.limit(d.name))
        for name, d in LIMITS.items()
        if d.on_sheet and d.on_sheet.startswith(f"{part}.")
    }
    return page(
        "shelf/sheet.html",
        ctx,
        status=status,
        form=form,
        sheet=sheet,
        sheet_id=sheet_id,
        kind=kind,
        kind_words=KIND_WORDS[kind],
        kept="kept" in ctx.request.query_params,
        all_kinds=KIND_WORDS,
        groups=groups(kind),
        short=short_form(kind),
        needs=needs_of(kind),
        only=ONLY | {n.field: n.only for n in NEEDS if n.kind == kind and n.only},
        plate=nameplates.of(ctx.session, sheet_id) if sheet_id else [],
        plate_error=plate_error,
        like=[] if sheet_id else shelf.sheets(ctx.session, kind, limit=MOST_LIKE),
        governed=governed if part else {},
        quantity_kind=quantity_kind,
        spare=SPARE_ROWS,
        versions=shelf.versions(ctx.session, sheet_id) if sheet_id else [],
        old_version=old_version,
    )


@router.get("/shelf/new/{kind}")
def new_sheet(kind: str, ctx: Context, like: int | None = None) -> HTMLResponse:
    """A blank sheet, or one that begins as another (``like``): all but its model."""
    if kind not in KINDS:
        raise NotFoundError(f"there is no kind of sheet called {kind[:40]}")
    if like is not None and (other := shelf.shelved(ctx.session, like).sheet).kind == kind:
        return sheet_page(ctx, kind, Form(flat(other, ctx.system) | {"model": ""}), None, None)
    blank = {
        name: field.default
        for name, field in KINDS[kind].model_fields.items()
        if isinstance(field.default, str)
    }
    return sheet_page(ctx, kind, Form({"refrigerant": "R-32"} | blank), None, None)


@router.get("/shelf/{sheet_id}")
def open_sheet(sheet_id: JobId, ctx: Context, version: int | None = None) -> HTMLResponse:
    shelved = shelf.shelved(ctx.session, sheet_id)
    if version is not None and version != shelved.version:
        shelved = shelf.version_of(ctx.session, sheet_id, version)
    else:
        version = None
    form = Form(flat(shelved.sheet, ctx.system))
    return sheet_page(ctx, shelved.sheet.kind, form, shelved.sheet, sheet_id, old_version=version)


@router.post("/shelf/new/{kind}")
def add_sheet(kind: str, data: PostedForm, ctx: Context) -> Response:
    if kind not in KINDS:
        raise NotFoundError(f"there is no kind of sheet called {kind[:40]}")
    return _save(ctx, data, kind, None)


@router.post("/shelf/{sheet_id}")
def save_sheet(sheet_id: JobId, data: PostedForm, ctx: Context) -> Response:
    return _save(ctx, data, shelf.shelved(ctx.session, sheet_id).sheet.kind, sheet_id)


@router.post("/shelf/{sheet_id}/nameplate")
def keep_nameplate(sheet_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Keep a picture of the unit's nameplate with its sheet."""
    shelved = shelf.shelved(ctx.session, sheet_id)
    try:
        cleaned = pictures.cleaned(posted_file(data))
    except pictures.PictureError as error:
        form = Form(flat(shelved.sheet, ctx.system))
        return sheet_page(
            ctx, shelved.sheet.kind, form, shelved.sheet, sheet_id, 422, plate_error=str(error)
        )
    with ctx.change(settles=False) as session:
        nameplates.keep(session, sheet_id, cleaned, ctx.person)
    return RedirectResponse(f"/shelf/{sheet_id}", 303)


@router.get("/shelf/{sheet_id}/nameplate/{name}.jpg")
def show_nameplate(sheet_id: JobId, name: str, ctx: Context) -> Response:
    return jpeg(nameplates.content_of(ctx.session, sheet_id, name))


@router.post("/jobs/{job_id}/sheet-says")
def sheet_says(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Write what a sheet was silent on onto the shelf's sheet, and into the job's copy at once.

    All else of the copy stays as the job was planned; it alone is filled where the shelf has no
    such sheet.
    """
    judged, fields = ctx.judged(job_id), form_fields(data)
    at, stage = str(fields.pop("at", "")), str(fields.pop("stage", ""))
    sheet = planned(judged.job.equipment).get(at)
    if sheet is None or stage not in VIEWS:
        raise NotFoundError("this job is not planned with such a sheet")
    held = shelf.by_name(ctx.session, sheet.name)
    base = held.sheet if held else sheet
    kind = shelf.document_of(base)["kind"]
    known = {n.field for n in NEEDS if n.kind == kind}
    told = {
        k: v
        for k, v in fields.items()
        if k.removeprefix("cites.").partition(".")[0] in known and v not in ("", None)
    }
    lists = {k.partition(".")[0] for k in told if "." in k and not k.startswith("cites.")}

    def filled(one: Sheet) -> tuple[Sheet | None, Form]:
        before = flat(one, ctx.system)
        kept = {k: v for k, v in before.items() if k.partition(".")[0] not in lists}
        return read(KINDS[kind], kept | told, ctx.system, one)

    said, form = filled(base)
    own, _ = filled(sheet)
    if said is None or own is None or not told:
        form.errors = form.errors or {"": "type what the sheet says"}
        form.prefix = f"{at}-"
        return stage_page(ctx, judged, stage, status=422, said_form=(at, form))
    with ctx.change() as session:
        if held is not None:
            shelf.put(session, said, held.id, by=ctx.person)
        equipment.fill_in(session, job_id, sheet, own)
    return ctx.onward(f"/jobs/{job_id}/{stage}")


def _save(ctx: RequestContext, data: PostedForm, kind: str, sheet_id: int | None) -> Response:
    held = shelf.shelved(ctx.session, sheet_id) if sheet_id else None
    before = held.sheet if held else None
    fields = form_fields(data)
    sheet, form = read(KINDS[kind], fields, ctx.system, before)
    if sheet is None:
        return sheet_page(ctx, kind, form, before, sheet_id, status=422)
    version = str(data.get("_version") or "")
    if held is not None and version and version != str(held.version):
        form.errors[""] = (
            f"Somebody kept version {held.version} after you opened version {version}. What you "
            "typed is still here; open theirs in another tab and compare"
        )
        return sheet_page(ctx, kind, form, before, sheet_id, status=409)
    try:
        with ctx.change() as session:
            sheet_id = shelf.put(session, sheet, sheet_id, by=ctx.person)
    except shelf.NameTakenError as taken:
        form.errors["model"] = f"{taken}"
        return sheet_page(ctx, kind, form, before, sheet_id, status=422)
    return RedirectResponse(f"/shelf/{sheet_id}?kept=yes", 303)
