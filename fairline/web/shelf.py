"""The shelf: equipment sheets, shown with what governs where a sheet is silent."""

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from fairline.core.practice import LIMITS, Rules
from fairline.core.sheet import Head, Outdoor, Sheet
from fairline.store import house
from fairline.web.forms import Form, flat, posted, read
from fairline.web.pages import page
from fairline.web.sheet_fields import GROUPS
from fairline.web.visit import AForm, AVisit, JobId, Visit

router = APIRouter(include_in_schema=False)

BLANK = {"outdoor.refrigerant": "R-32", "head.kind": "high-wall"}


@router.get("/shelf")
def shelf(visit: AVisit) -> HTMLResponse:
    return page("shelf/shelf.html", visit, shelf=house.shelf(visit.session))


def _sheet_page(
    visit: Visit,
    form: Form,
    sheet: Sheet | None,
    sheet_id: int | None,
    status: int = 200,
    saved: bool = False,
) -> HTMLResponse:
    practice, _ = house.practice(visit.session)
    rules = Rules(sheet=sheet, practice=practice)
    governed = {d.on_sheet: (d, rules.limit(name)) for name, d in LIMITS.items() if d.on_sheet}
    return page(
        "shelf/sheet.html",
        visit,
        status=status,
        form=form,
        sheet=sheet,
        sheet_id=sheet_id,
        groups=GROUPS,
        governed=governed,
        saved=saved,
        models={"outdoor": Outdoor, "head": Head},
    )


@router.get("/shelf/new")
def new_sheet(visit: AVisit) -> HTMLResponse:
    return _sheet_page(visit, Form(BLANK), None, None)


@router.get("/shelf/{sheet_id}")
def open_sheet(sheet_id: JobId, visit: AVisit) -> HTMLResponse:
    shelved = house.shelved(visit.session, sheet_id)
    return _sheet_page(visit, Form(flat(shelved.sheet, visit.system)), shelved.sheet, sheet_id)


@router.post("/shelf/new")
def add_sheet(data: AForm, visit: AVisit) -> Response:
    return _save(visit, data, None)


@router.post("/shelf/{sheet_id}")
def save_sheet(sheet_id: JobId, data: AForm, visit: AVisit) -> Response:
    return _save(visit, data, sheet_id)


def _save(visit: Visit, data: AForm, sheet_id: int | None) -> Response:
    before = house.shelved(visit.session, sheet_id).sheet if sheet_id else None
    sheet, form = read(Sheet, posted(data), visit.system, before)
    if sheet is None:
        return _sheet_page(visit, form, before, sheet_id, status=422)
    with visit.change() as session:
        sheet_id = house.put_on_shelf(session, sheet, sheet_id)
    return RedirectResponse(f"/shelf/{sheet_id}", 303)
