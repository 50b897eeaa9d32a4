"""The ledger of refrigerant over all jobs: cylinders, what they gave and took, the year's sums."""

import csv
import io

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from markupsafe import Markup

from fairline.core.charge.ledger import Cylinder, cylinders, gwp_source, needs, years
from fairline.store import house, refrigerant
from fairline.store.text_file import without_formula
from fairline.web.drawing.svg import tag
from fairline.web.frame.forms import Form, flat, form_fields, read
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, PostedForm, RequestContext

router = APIRouter(include_in_schema=False)


def _page(
    ctx: RequestContext, training: bool = False, form: Form | None = None, status: int = 200
) -> HTMLResponse:
    moves, book = refrigerant.moves(ctx.session, training), house.cylinder_book(ctx.session)
    lines = cylinders(moves, book, ctx.now().date())
    return page(
        "cylinders/page.html",
        ctx,
        status=status,
        training=training,
        cylinders=lines,
        needs=[] if training else needs(refrigerant.wanted(ctx.session), lines),
        years=years(moves),
        source=gwp_source(),
        book_form=form or Form({}, prefix="book-"),
    )


@router.get("/cylinders")
def ledger(ctx: Context, training: bool = False, name: str = "") -> HTMLResponse:
    """Every cylinder with what it gave and took; ``name``: the one whose book is open."""
    book = house.cylinder_book(ctx.session)
    known = book.get(name) or (Cylinder(name=name[:200]) if name.strip() else None)
    form = Form(flat(known, ctx.system), prefix="book-") if known is not None else None
    return _page(ctx, training, form)


@router.get("/cylinders/names")
def names(ctx: Context) -> HTMLResponse:
    """The names in the company's book, as options of a field."""
    book = house.cylinder_book(ctx.session)
    return HTMLResponse(Markup("").join(tag("option", value=c.name) for c in book.cylinders))


@router.post("/cylinders")
def keep_cylinder(data: PostedForm, ctx: Context) -> Response:
    """A cylinder in the company's book, new or changed; ``gone``: it is taken out of it."""
    fields = form_fields(data)
    gone = bool(fields.pop("gone", ""))
    one, form = read(Cylinder, fields, ctx.system)
    if one is None:
        form.prefix = "book-"
        return _page(ctx, form=form, status=422)
    with ctx.change(settles=False) as session:
        book = house.cylinder_book(session)
        house.set_cylinder_book(session, book.without(one.name) if gone else book.with_one(one))
    return RedirectResponse("/cylinders", 303)


@router.get("/cylinders.csv")
def ledger_csv(ctx: Context, training: bool = False) -> Response:
    """Every weighing as a row, in SI."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    names = ("at", "cylinder", "refrigerant", "way", "before_kg", "after_kg", "tare_kg")
    table.writerow((*names, "owner", "test_due", "job", "by"))
    book = house.cylinder_book(ctx.session)
    for m in sorted(refrigerant.moves(ctx.session, training), key=lambda move: move.at):
        known = book.get(m.cylinder)
        tare = m.tare_kg if m.tare_kg is not None else known.tare_kg if known else None
        row = (m.at.isoformat(), m.cylinder, m.refrigerant, m.way, m.before_kg, m.after_kg)
        of = (known.owner, known.test_due) if known is not None else ("", "")
        whole = (*row, "" if tare is None else tare, *of, m.job, m.by)
        table.writerow([without_formula(v) if isinstance(v, str) else v for v in whole])
    headers = {"Content-Disposition": 'attachment; filename="refrigerant.csv"'}
    return Response(out.getvalue(), media_type="text/csv; charset=utf-8", headers=headers)
