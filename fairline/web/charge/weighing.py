"""Weighings: recorded, read from a scale, and the weight at which to stop."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from fairline.core import kit
from fairline.core.charge.entry import Standing, Weighing
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.charge.weigh_steps import marks
from fairline.core.charge.weighed import moved_so_far, stop_mark
from fairline.store import house, jobs
from fairline.web.bench.instruments import shown, simulated, taken
from fairline.web.changes.way_out import done_already, refusal, refusing
from fairline.web.drawing.cylinder import cylinder
from fairline.web.frame.forms import check_done_time, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page

router = APIRouter(include_in_schema=False)


def _as_in_the_book(ctx: RequestContext, fields: dict[str, Any]) -> dict[str, Any]:
    """A weighing's fields with tare and refrigerant of its cylinder, where nobody typed them."""
    known = house.cylinder_book(ctx.session).get(str(fields.get("cylinder") or " "))
    if known is None:
        return fields
    tare = "" if known.tare_kg is None else f"{known.tare_kg:.3f} kg"
    said = {"tare_kg": tare, "refrigerant": known.refrigerant}
    return fields | {name: value for name, value in said.items() if value and not fields.get(name)}


@router.post("/jobs/{job_id}/charge/weighings")
def weigh(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    fields = _as_in_the_book(ctx, form_fields(data))
    extra = {
        "kind": "weighing",
        "at": ctx.done(data),
        "running": "running" in fields,
        "simulated": simulated(ctx, fields, dict.fromkeys(("before_kg", "after_kg"), "cylinder")),
    }
    record, form = read(Weighing, fields, ctx.system, extra=extra)
    check_done_time(form, data)
    judged = ctx.judged(job_id)
    closed = judged.of(ChargeStageResult).blocked
    if record is not None and kit.stays_sealed(judged.rules):
        form.errors["before_kg"] = "nothing is weighed into a charged kit"
        record = None
    elif record is not None and closed and not judged.of(ChargeStageResult).openings:
        form.errors["before_kg"] = (
            "the gates are not passed: bring them to hold, or record the opening of the valves "
            "by override first"
        )
        record = None
    elif record is not None and record.running and not judged.of(ChargeStageResult).powered:
        form.errors["before_kg"] = (
            "power is not on: record the first start below, or weigh it in with the system off"
        )
        record = None
    refused = []
    if record is not None and not done_already(ctx, data):
        refused = refusing(judged, record)
    if refused:
        form.errors["before_kg"] = refusal(refused)
        record = None
    if record is None:
        if form.whole:
            side, _, told = form.whole.partition("hose: ")
            where = "after_kg" if "after than before" in form.whole else "before_kg"
            form.errors.setdefault("hose_kg" if not side else where, told or form.whole)
        return stage_page(ctx, judged, "charge", record_form=form, status=422, refused=refused)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/charge", record.by)


@router.post("/jobs/{job_id}/charge/stop")
def stop_at(job_id: JobId, data: PostedForm, ctx: Context) -> HTMLResponse:
    """The weight at which to stop, by what is typed of the cylinder so far; nothing is kept."""
    judged = ctx.judged(job_id)
    fields = _as_in_the_book(ctx, form_fields(data))
    typed = {k: v for k, v in fields.items() if k in Standing.model_fields}
    standing, _ = read(Standing, typed, ctx.system)
    worked, unit = judged.of(ChargeStageResult), judged.rules.outdoor
    added = worked.answer.result.added_kg if worked.answer else None
    if standing is None or standing.before_kg is None or added is None or unit is None:
        return page("charge/stop.html", ctx, answer=None)
    left = added - worked.weighed_kg
    answer = stop_mark(left, standing, unit.refrigerant)
    now, simulated_now = _on_the_scale(ctx, judged, standing)
    so_far = None if now is None else moved_so_far(left, standing, unit.refrigerant, now)
    drawn: dict[str, Any] = {"marks": [], "drawn": ""}
    if (stop := answer.result.stop_at_kg) is not None:
        before, shows = standing.before_kg, standing.before_kg if now is None else now
        metered = standing.way == "in" and "running" in data
        drawn["marks"] = marks(before, stop) if metered else []
        drawn["drawn"] = cylinder(before, shows, stop, ctx.system)
    told: dict[str, Any] = {
        "answer": answer,
        "so_far": so_far,
        "now_kg": now,
        "simulated": simulated_now,
    }
    return page("charge/stop.html", ctx, **told, **drawn)


def _on_the_scale(
    ctx: RequestContext, judged: JudgedJob, standing: Standing
) -> tuple[float | None, bool]:
    """What the cylinder weighs now, kg, as typed, else as the scale shows; whether it is simulated.

    None where nobody knows.
    """
    if standing.after_kg is not None:
        return standing.after_kg, False
    live = next((s for s in shown(ctx, judged, "scale")["now"]), None)
    if live is None:
        return None, False
    return live.spot.values().get("mass_kg"), live.spot.simulated


@router.post("/jobs/{job_id}/charge/scale")
def from_scale(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """What the scale shows stands in the form, before or after."""
    judged = ctx.judged(job_id)
    form = taken(ctx, judged, form_fields(data), "scale")
    return stage_page(ctx, judged, "charge", record_form=form)
