"""Sheets in and out: the shelf as JSON and CSV, and a file of sheets onto the shelf."""

from typing import Any

from fastapi import APIRouter, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from fairline.core.problem import problem
from fairline.core.sheet import KIND_WORDS, KINDS
from fairline.store import sheets_file, shelf
from fairline.web.frame.pages import page
from fairline.web.frame.problems import Body, refused
from fairline.web.frame.request_context import Context, PostedForm, RequestContext

router = APIRouter(include_in_schema=False)
api_router = APIRouter(prefix="/api")


def _file(content: str, kind: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(content, media_type=kind, headers=headers)


@router.get("/shelf/sheets.json")
def as_json(ctx: Context) -> Response:
    sheets = [s.sheet for s in shelf.sheets(ctx.session)]
    return _file(sheets_file.to_json(sheets), "application/json", "sheets.json")


@router.get("/shelf/sheets.csv")
def as_csv(ctx: Context) -> Response:
    sheets = [s.sheet for s in shelf.sheets(ctx.session)]
    return _file(sheets_file.to_csv(sheets), "text/csv; charset=utf-8", "sheets.csv")


@api_router.get("/sheets/schema")
def schema() -> dict[str, Any]:
    """The JSON Schema of a file of sheets; its field names are the columns of the CSV."""
    return sheets_file.SheetsFile.model_json_schema()


@api_router.get("/sheets")
def list_sheets(ctx: Context) -> Response:
    """The whole shelf as a file of sheets."""
    sheets = [s.sheet for s in shelf.sheets(ctx.session)]
    return Response(sheets_file.to_json(sheets), media_type="application/json")


@api_router.post("/sheets")
def take_sheets(body: Body, ctx: Context) -> Response:
    """A file of sheets, JSON or CSV, onto the shelf: all of it, or nothing."""
    try:
        sheets = sheets_file.read(body)
    except sheets_file.SheetsFileError as error:
        told = problem(422, "The sheets are not valid", str(error))
        told["errors"] = [
            {"field": f"{e.row}.{e.field}".strip("."), "reason": e.what} for e in error.errors
        ]
        return refused(told)
    with ctx.change() as session:
        taken = shelf.take_in(session, sheets)
    return Response(taken.model_dump_json(), media_type="application/json")


@router.post("/shelf/import")
def import_sheets(data: PostedForm, ctx: Context) -> Response:
    file = data.get("file")
    content = b"" if file is None or isinstance(file, str) else file.file.read()
    try:
        sheets = sheets_file.read(content)
    except sheets_file.SheetsFileError as error:
        return _refused(ctx, error)
    with ctx.change() as session:
        taken = shelf.take_in(session, sheets, by=ctx.person or "import")
    words = f"{taken.new} new, {taken.changed} changed, {taken.unchanged} as they were"
    return RedirectResponse(f"/shelf?taken={words.replace(' ', '+')}", 303)


def _refused(ctx: RequestContext, error: sheets_file.SheetsFileError) -> HTMLResponse:
    return page(
        "shelf/shelf.html",
        ctx,
        status=422,
        shelf=shelf.sheets(ctx.session, limit=12),
        kind="",
        q="",
        at=1,
        count=shelf.count(ctx.session),
        last=1,
        kinds=KIND_WORDS,
        counts=dict.fromkeys(KINDS, 0) | shelf.counts(ctx.session),
        taken="",
        errors=error.errors,
        error_total=error.total,
    )
