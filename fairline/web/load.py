"""The van loaded for several jobs: materials summed, each tool once, refrigerant by its kind."""

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import HTMLResponse

from fairline.core.calc.materials import GROUPS
from fairline.core.plan.load import to_load, tools_to_load
from fairline.core.route.stage import RouteStageResult
from fairline.store import board
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context
from fairline.web.route.routes import lines_of

router = APIRouter(include_in_schema=False)
MOST = 20  # jobs that are loaded at once


@router.get("/load")
def load(
    ctx: Context, job: Annotated[list[int] | None, Query(max_length=MOST)] = None
) -> HTMLResponse:
    """What the chosen jobs want; the jobs on the board to choose from, those of today first."""
    rows = [r for r in board.page(ctx.session, size=60)[0] if not r.brief.handed_over]
    known = {row.id: row for row in rows if not row.brief.failed}
    chosen = [n for n in dict.fromkeys(job or []) if n in known]
    judged = [ctx.judged(n) for n in chosen]
    things = to_load([(j.job.head.name, lines_of(j)) for j in judged])
    tools = tools_to_load(
        [(j.job.head.name, [t.words for t in j.of(RouteStageResult).tools]) for j in judged]
    )
    grams: dict[str, float] = {}
    for n in chosen:
        brief = known[n].brief
        if brief.to_charge_kg:
            grams[brief.refrigerant] = grams.get(brief.refrigerant, 0.0) + brief.to_charge_kg
    return page(
        "plan/load.html",
        ctx,
        rows=list(known.values()),
        chosen=chosen,
        groups=[
            (words, of)
            for group, words in GROUPS.items()
            if (of := [x for x in things if x.group == group])
        ],
        tools=tools,
        grams=grams,
    )
