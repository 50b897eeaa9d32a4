"""Charge pages: the added charge, the weighings, the release of the valves."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response
from starlette.datastructures import FormData

from fairline.core import kit
from fairline.core.call import Verdict
from fairline.core.charge.entry import Release, Standing, Weighing, left_undone
from fairline.core.charge.override import THINGS, not_passed
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.charge.weighed import stop_mark
from fairline.core.contents.state import Finding
from fairline.core.counted import strike_of
from fairline.core.pressure_test.records import METHODS
from fairline.core.route.circuits import circuits_of
from fairline.store import jobs
from fairline.web.bench.instruments import shown, simulated, taken
from fairline.web.changes.way_out import done_already, refusal, refusing
from fairline.web.drawing.cylinder import cylinder
from fairline.web.frame.forms import Form, check_done_time, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page, stage_view
from fairline.web.readings.ports import named_ports
from fairline.web.wire.view import power_context

router = APIRouter(include_in_schema=False)


@stage_view("charge")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    job, rules = judged.counted, judged.rules
    worked = judged.of(ChargeStageResult)
    return {
        "checks": {c.id: c for c in judged.stages["charge"].checks},
        "length_m": judged.pipes.total_m,
        "built": judged.pipes.built,
        "result": worked.answer.result if worked.answer else None,
        "weighed_kg": worked.weighed_kg,
        "short_line": worked.short_line,
        "blocked": worked.blocked,
        "before_release": worked.before_release,
        "sealed": kit.stays_sealed(rules),
        "released": bool(job.releases),
        "valves": worked.valves,
        "weighed": kit.stays_sealed(rules) or _stands(judged, "weighed"),
        "suspects": worked.suspects,
        "methods": METHODS,
        "check_form_of": None,
        "check_form": Form({}),
        "doubted": worked.doubted,
        "struck": {
            r.uid: strike_of(r, judged.job.strikes)
            for r in (*judged.job.weighings, *judged.job.releases)
        },
        "circuits": circuits_of(judged.pipes, rules),
        "valve_order": rules.school("valve_order"),
        "release_form": Form({"by": ctx.person}, prefix="release-"),
        "things": THINGS,
        "moved": [r for r in judged.counted.records if r.kind in ("valves-shut", "pumped-down")],
        "while_running": rules.school("charge_into").name == "running",
        **power_context(judged),
        "power_form": Form({"by": ctx.person}, prefix="power-"),
        "shown": shown(ctx, judged, "scale"),
    }


def _stands(judged: JudgedJob, check: str) -> bool:
    found = [c.call.verdict for c in judged.stages["charge"].checks if c.id == check]
    return found in ([Verdict.HOLDS], [Verdict.WATCH])


@router.post("/jobs/{job_id}/charge/weighings")
def weigh(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    fields = form_fields(data)
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
    elif record is not None and closed and not judged.counted.releases:
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
            weighed = "after than before" in form.whole
            form.errors.setdefault("after_kg" if weighed else "before_kg", form.whole)
        return stage_page(ctx, judged, "charge", record_form=form, status=422, refused=refused)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/charge", record.by)


@router.post("/jobs/{job_id}/charge/stop")
def stop_at(job_id: JobId, data: PostedForm, ctx: Context) -> HTMLResponse:
    """The weight at which to stop, by what is typed of the cylinder so far; nothing is kept."""
    judged = ctx.judged(job_id)
    typed = {k: v for k, v in form_fields(data).items() if k in Standing.model_fields}
    standing, _ = read(Standing, typed, ctx.system)
    worked, unit = judged.of(ChargeStageResult), judged.rules.outdoor
    added = worked.answer.result.added_kg if worked.answer else None
    if standing is None or standing.before_kg is None or added is None or unit is None:
        return page("charge/stop.html", ctx, answer=None)
    answer = stop_mark(added - worked.weighed_kg, standing, unit.refrigerant)
    stop, now = answer.result.stop_at_kg, standing.after_kg or standing.before_kg
    drawn = cylinder(standing.before_kg, now, stop, ctx.system) if stop is not None else ""
    return page("charge/stop.html", ctx, answer=answer, drawn=drawn)


@router.post("/jobs/{job_id}/charge/scale")
def from_scale(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """What the scale shows stands in the form, before or after."""
    judged = ctx.judged(job_id)
    form = taken(ctx, judged, form_fields(data), "scale")
    return stage_page(ctx, judged, "charge", record_form=form)


def _release_refused(
    ctx: RequestContext,
    judged: JudgedJob,
    record: Release | None,
    data: FormData,
    form: Form,
) -> list[Finding]:
    """What keeps the valves shut, told beside the form's fields; findings that stop it."""
    if record is None:
        return []
    lacks = judged.of(ChargeStageResult).before_release
    if record.overridden:  # it names what it leaves undone too
        lacks = [*lacks, *left_undone(record, kit.stays_sealed(judged.rules))]
    asked = "the gates are not passed: a name and a reason are needed"
    if left := not_passed(lacks, record.overridden, record.named, asked):
        form.errors[left[0]] = left[1]
    if done_already(ctx, data):
        return []
    refused = [f for f in refusing(judged, record) if f.verdict is Verdict.STOP]
    if refused:
        form.errors["override_by"] = refusal(refused)
    return refused


@router.post("/jobs/{job_id}/charge/release")
def release(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Record the opening of the valves: after both gates, or by a named override with a reason."""
    fields = {k: v for k, v in form_fields(data).items() if k not in ("ports", "passed")}
    judged = ctx.judged(job_id)
    both = bool(fields.pop("both", ""))  # the action of the moment says both
    named = tuple(str(v) for v in data.getlist("passed") if v in THINGS)
    extra: dict[str, Any] = {
        "kind": "release",
        "at": ctx.done(data),
        "full_open": both or "full_open" in fields,
        "caps_on": both or "caps_on" in fields,
    }
    ports, missing = named_ports(judged, data)
    if fields.get("override_by"):
        extra["passed"] = named
    record, form = read(Release, fields, ctx.system, extra=extra | {"ports": ports})
    check_done_time(form, data)
    form.values["passed"] = ",".join(named)
    if record is not None and missing:
        form.errors["ports"] = "tick the ports whose valves were opened"
    refused = _release_refused(ctx, judged, record, data, form)
    if record is not None and not (record.full_open or record.caps_on):
        form.errors["full_open"] = "tick what was done: nothing is recorded from empty boxes"
    if record is None or form.errors:
        form.prefix = "release-"
        return stage_page(ctx, judged, "charge", release_form=form, status=422, refused=refused)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/charge", record.by)
