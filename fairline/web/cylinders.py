"""The ledger of refrigerant over all jobs: cylinders, what they gave and took, the year's sums."""

import csv
import io

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from fairline.core.charge.ledger import cylinders, gwp_source, years
from fairline.store import refrigerant
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context

router = APIRouter(include_in_schema=False)


@router.get("/cylinders")
def ledger(ctx: Context, training: bool = False) -> HTMLResponse:
    """Every cylinder with what it gave and took; of training jobs where that is asked."""
    moves = refrigerant.moves(ctx.session, training)
    return page(
        "cylinders/page.html",
        ctx,
        training=training,
        cylinders=cylinders(moves),
        years=years(moves),
        source=gwp_source(),
    )


@router.get("/cylinders.csv")
def ledger_csv(ctx: Context, training: bool = False) -> Response:
    """Every weighing as a row, in SI."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(
        ("at", "cylinder", "refrigerant", "way", "before_kg", "after_kg", "tare_kg", "job", "by")
    )
    for m in sorted(refrigerant.moves(ctx.session, training), key=lambda move: move.at):
        tare = "" if m.tare_kg is None else m.tare_kg
        row = (m.at.isoformat(), m.cylinder, m.refrigerant, m.way, m.before_kg, m.after_kg, tare)
        table.writerow((*row, m.job, m.by))
    headers = {"Content-Disposition": 'attachment; filename="refrigerant.csv"'}
    return Response(out.getvalue(), media_type="text/csv; charset=utf-8", headers=headers)
