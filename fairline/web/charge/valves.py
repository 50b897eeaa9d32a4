"""The valves: opened as listed, or step by step; the look at every joint afterwards."""

from typing import Any, cast

from fastapi import APIRouter
from fastapi.responses import Response
from starlette.datastructures import FormData

from fairline.core import kit
from fairline.core.call import Verdict
from fairline.core.charge.entry import Release, ValveOrder, left_undone
from fairline.core.charge.override import THINGS, not_passed
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.charge.valve_order import ORDERS, ValveSteps, too_early
from fairline.core.contents.state import Finding
from fairline.core.flare.stage import FlareStageResult
from fairline.core.pressure_test.leak_search import Suspect
from fairline.core.pressure_test.records import LeakCheck
from fairline.store import jobs
from fairline.web.changes.way_out import done_already, refusal, refusing
from fairline.web.frame.forms import Form, check_done_time, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page
from fairline.web.readings.ports import named_ports

router = APIRouter(include_in_schema=False)


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
    return _stopped(ctx, judged, record, data, form, "override_by")


def _stopped(
    ctx: RequestContext,
    judged: JudgedJob,
    record: Release | ValveSteps,
    data: FormData,
    form: Form,
    field: str,
) -> list[Finding]:
    """What stops an opening that is not done already, told beside a field."""
    if done_already(ctx, data):
        return []
    refused = [f for f in refusing(judged, record) if f.verdict is Verdict.STOP]
    if refused:
        form.errors[field] = refusal(refused)
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


def _step_refused(
    ctx: RequestContext, judged: JudgedJob, record: ValveSteps, data: FormData, form: Form
) -> list[Finding]:
    """What keeps a shut valve shut: gates that are closed, findings that stop it."""
    if left := not_passed(judged.of(ChargeStageResult).before_release, False, ()):
        form.errors["by"] = left[1]
    return _stopped(ctx, judged, record, data, form, "by")


@router.post("/jobs/{job_id}/charge/valve-steps")
def valve_step(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """One step at one circuit's valves: ``step`` is its name, with ``:not`` where it went wrong.

    A step that comes too early is told with what it risks, and recorded where it was done so.
    """
    fields, judged = form_fields(data), ctx.judged(job_id)
    worked = judged.of(ChargeStageResult)
    step, _, wrong = str(fields.get("step") or "").partition(":")
    progress = worked.progress.get(str(fields.get("circuit") or ""))
    progress = progress or next(iter(worked.progress.values()))
    order = cast(ValveOrder, fields.get("order"))
    progress = progress.by(order) if order in ORDERS else progress
    extra: dict[str, Any] = {
        "kind": "valve-steps",
        "at": ctx.done(data),
        "order": progress.order,
        "ports": (progress.circuit,) if progress.circuit else (),
        "steps": (step,) if step else (),
        "went_wrong": bool(wrong),
    }
    record, form = read(ValveSteps, {"by": fields.get("by", "")}, ctx.system, extra=extra)
    form.prefix = "steps-"
    check_done_time(form, data)
    refused: list[Finding] = []
    if record is not None and progress.opened is None and record.opens:
        refused = _step_refused(ctx, judged, record, data, form)
    early = too_early(progress, record.steps) if record is not None else []
    if early and not fields.get("in_this_order"):
        form.errors["step"] = "this comes later in the order"
    if record is None or form.errors:
        told: dict[str, Any] = {
            "steps_form": form,
            "early": (progress.circuit, step),
            "early_risk": early,
        }
        return stage_page(ctx, judged, "charge", status=422, refused=refused, **told)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/charge#at-release", record.by)


@router.post("/jobs/{job_id}/charge/looked")
def looked(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Every joint that is still open looked at under refrigerant, each as long, none leaking."""
    fields, judged = form_fields(data), ctx.judged(job_id)
    left = [s for s in judged.of(ChargeStageResult).suspects if s.call.verdict is not Verdict.HOLDS]
    given = {k: v for k, v in fields.items() if k in ("by", "method", "watched_s")}
    records = []
    form = Form(given)
    for suspect in left:
        extra = {"kind": "leak-check", "at": ctx.done(data), "joint": suspect.id, "found": "clean"}
        record, form = read(LeakCheck, given, ctx.system, extra=extra)
        check_done_time(form, data)
        if record is None or form.errors:
            break
        records.append(record)
    refused = _blind(ctx, judged, data, left, records)
    if refused:
        form.errors["by"] = refusal(refused)
    if form.errors or len(records) < len(left):
        form.prefix = "look-"
        return stage_page(ctx, judged, "charge", status=422, look_form=form, refused=refused)
    with ctx.change() as session:
        for record in records:
            jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/charge#at-looked", form.values.get("by", ""))


def _blind(
    ctx: RequestContext,
    judged: JudgedJob,
    data: FormData,
    left: list[Suspect],
    records: list[LeakCheck],
) -> list[Finding]:
    """What keeps a look from showing anything: nothing is in the lines that could be found."""
    if done_already(ctx, data):
        return []
    joints = {j.place: j for j in judged.of(FlareStageResult).joints}
    found: list[Finding] = []
    for suspect, record in zip(left, records, strict=False):
        found += refusing(judged, record, joints.get(suspect.id))
    return found
