"""The van's tube, and the cut plan of a job from it."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from fairline.core.route.cutting import (
    KEEP_M,
    Cutting,
    VanStock,
    cut_from,
    join_checks,
    joins_of,
    pieces_of,
)
from fairline.store import house, jobs
from fairline.web.drawing.cut_bars import cut_bars
from fairline.web.frame.forms import CHANGED_MEANWHILE, Form, flat, form_fields, overtaken, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.rows import rows_changed

router = APIRouter(include_in_schema=False)


def _page(
    ctx: RequestContext, judged: JudgedJob, form: Form | None = None, status: int = 200
) -> Any:
    van = house.van(ctx.session)
    found = judged.plans(van)
    pieces = pieces_of(found, van)
    cutting = judged.job.cutting
    return page(
        "route/cut_plan.html",
        ctx,
        status=status,
        **job_context(judged, "route"),
        plans=[
            (
                p,
                cut_bars(
                    tuple(
                        x
                        for x in pieces
                        if (x.liquid_od_m, x.gas_od_m)
                        == (
                            p.liquid_mm / 1000 if p.liquid_mm else None,
                            p.gas_mm / 1000 if p.gas_mm else None,
                        )
                    ),
                    ctx.system,
                ),
            )
            for p in found
        ],
        joins=join_checks(judged.job.route, judged.pipes, joins_of(pieces), judged.rules),
        join_count=sum(joins_of(pieces).values()),
        bought_m=sum(p.answer.result.bought_m for p in found),
        left_m=sum(p.answer.result.waste_m for p in found),
        kits=[s for s in judged.pipes.stretches if s.kit],
        cutting=cutting,
        cut_bars=cut_bars(cutting.pieces, ctx.system) if cutting else [],
        form=form or Form({"by": ctx.person}),
        keep_m=KEEP_M,
        ready=bool(pieces) and all(p.answer.call.verdict in ("holds", "watch") for p in found),
    )


@router.get("/jobs/{job_id}/cut-plan")
def cut_plan_page(job_id: JobId, ctx: Context) -> HTMLResponse:
    answer: HTMLResponse = _page(ctx, ctx.judged(job_id))
    return answer


@router.post("/jobs/{job_id}/cut-plan")
def take_plan(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """The plan is carried out: pieces off the van, off-cuts back, joins into the joint list."""
    judged = ctx.judged(job_id)
    van = house.van(ctx.session)
    found = judged.plans(van)
    pieces = pieces_of(found, van)
    record, form = read(
        Cutting,
        form_fields(data),
        ctx.system,
        extra={"kind": "cutting", "at": ctx.now(), "pieces": [p.model_dump() for p in pieces]},
    )
    if record is None or not pieces:
        answer: HTMLResponse = _page(ctx, judged, form, 422)
        return answer
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
        house.set_van(session, cut_from(van, found, KEEP_M))
    return ctx.onward(f"/jobs/{job_id}/cut-plan", record.by)


def _van(ctx: RequestContext, form: Form | None = None, status: int = 200) -> HTMLResponse:
    stock = house.van(ctx.session)
    shown = form or Form(flat(stock, ctx.system))
    return page(
        "route/van.html",
        ctx,
        status=status,
        form=shown,
        kept=status == 200,
        version=house.version(ctx.session, "van"),
    )


@router.get("/van")
def van_page(ctx: Context) -> HTMLResponse:
    return _van(ctx)


@router.post("/van")
def keep_van(data: PostedForm, ctx: Context) -> Response:
    """Keep what is on the van: all of it, or nothing."""
    added, removed = str(data.get("_add") or "")[:40], str(data.get("_remove") or "")[:40]
    fields = form_fields(data)
    if added or removed:
        blank = {
            "kind": "roll",
            "name": "",
            "liquid_od_m": "",
            "gas_od_m": "",
            "length_m": "",
            "count": "",
        }
        rows = {n.split(".")[1] for n in fields if n.startswith("lines.")}
        if removed:
            fields = rows_changed(fields, "", removed)
        else:
            fields |= {f"lines.{len(rows)}.{k}": v for k, v in blank.items()}
        return _van(ctx, Form(fields))
    stock, form = read(VanStock, fields, ctx.system, house.van(ctx.session))
    if stock is None:
        return _van(ctx, form, 422)
    with ctx.change() as session:
        if overtaken(data, house.version(session, "van")):
            form.errors[""] = CHANGED_MEANWHILE
            return _van(ctx, form, 409)
        house.set_van(session, stock)
    return ctx.onward("/van")
