"""Pressure-test pages: the plan, the hold against the pipe's temperature, finding the leak."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response
from markupsafe import Markup

from fairline.core import kit
from fairline.core.call import Verdict
from fairline.core.pressure_test.hold import DEFAULT_RESOLUTION_PA, DEFAULT_THERMOMETER_K
from fairline.core.pressure_test.records import METHODS, LeakCheck
from fairline.core.pressure_test.rough_in import RoughIn, RoughRead
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.readings import PROBES, HoldRun
from fairline.core.route.circuits import Ports
from fairline.store import jobs
from fairline.store.document import NotFoundError
from fairline.web.bench.instruments import bench_context
from fairline.web.changes.way_out import done_already, refusal, refusing
from fairline.web.drawing import chart
from fairline.web.drawing.hold_chart import hold_chart
from fairline.web.flare import joints_of
from fairline.web.frame.forms import Form, check_done_time, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page, stage_view
from fairline.web.readings.current_run import current_hold, held_s, open_run
from fairline.web.readings.ports import named_ports, port_options

router = APIRouter(include_in_schema=False)
READ_WORDS = {"test": "Test", "left": "Left on it", "again": "Read again"}


@stage_view("pressure-test")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    job, worked = judged.counted, judged.of(PressureTestStageResult)
    plan, run, hold = worked.plan, worked.run, worked.hold
    charts: list[Markup] = []
    if worked.curve and plan and worked.answer:
        hold_s = plan.hold_s
        charts = judged.drawn(
            "nitrogen",
            ctx.system,
            lambda: [
                hold_chart(worked.curve, frame, ctx.system, hold_s, worked.searching)
                for frame in (chart.WIDE, chart.NARROW)
            ],
        )
    return {
        "blank_resolution_pa": worked.told_resolution_pa or DEFAULT_RESOLUTION_PA,
        "blank_thermometer_k": DEFAULT_THERMOMETER_K,
        "plan": plan,
        "run": run,
        "open_run": open_run(judged, "hold"),
        "goes_on": current_hold(judged, ctx.now()),
        "result": worked.answer.result if worked.answer else None,
        "held_s": held_s(run),
        "left_s": max(0.0, plan.hold_s - (held_s(run) or 0.0)) if plan else 0.0,
        "charts": charts,
        "began": hold.began if hold else None,
        "since": hold.since if hold else None,
        "logs": job.holds,
        "earlier": worked.earlier,
        "steps": worked.steps,
        "rates": worked.rates.result if worked.rates else None,
        "rates_call": worked.rates.call if worked.rates else None,
        "volume": worked.volume,
        "searching": worked.searching,
        "asked": kit.may_be_evacuated(judged.rules),
        "looked": sum(s.call.verdict is Verdict.HOLDS for s in worked.suspects),
        "suspects": worked.suspects,
        "history": [c for c in job.leak_checks if hold is None or c.at < hold.since],
        "methods": METHODS,
        "probes": [("", "not stated"), *PROBES.items()],
        "probe_words": PROBES,
        "probe_at_hand": _probe_at_hand(run),
        "meanwhile": worked.meanwhile,
        "school": (worked.rules or judged.rules).school("pressure"),
        "check_form_of": None,
        "circuits": port_options(judged),
        "begin_form": Form({}),
        "ports_form": Form({"by": ctx.person}, prefix="ports-"),
        "unsaid": worked.run if worked.covered.unsaid else None,
        "bare": worked.covered.bare,
        "open_to": worked.ports.get(run.uid, ()) if run is not None else (),
        **bench_context(ctx, judged),
        "rough": worked.rough,
        "rough_lines": [(s.id, s.tag.replace("tee", "T")) for s in judged.pipes.stretches],
        "rough_form": Form({"by": ctx.person}, prefix="rough-"),
        "read_form": Form({}, prefix="read-"),
        "read_words": READ_WORDS,
    }


def _probe_at_hand(run: HoldRun | None) -> str:
    """Where the probe was at the last reading: it is most likely still there."""
    return (run.last.probe or "") if run and run.last else ""


@router.post("/jobs/{job_id}/pressure-test/checks")
def record_check(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """A look at one joint while it is under pressure."""
    fields = form_fields(data)
    judged = ctx.judged(job_id)
    stage = "charge" if kit.stays_sealed(judged.rules) else "pressure-test"
    record, form = read(
        LeakCheck, fields, ctx.system, extra={"kind": "leak-check", "at": ctx.done(data)}
    )
    check_done_time(form, data)
    found = joints_of(judged)
    joint = next((j for j in found if record is not None and j.place == record.joint), None)
    late = done_already(ctx, data)
    refused = refusing(judged, record, joint) if record is not None and not late else []
    if refused:
        form.errors["found"] = refusal(refused)
        record = None
    if record is None:
        of: dict[str, Any] = {
            "check_form": form,
            "check_form_of": fields.get("joint"),
            "refused": refused,
        }
        return stage_page(ctx, judged, stage, status=422, **of)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/{stage}#at-search", record.by)


@router.post("/jobs/{job_id}/pressure-test/rough-in")
def rough_in(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """How a line was left in the wall."""
    return _rough(job_id, data, ctx, RoughIn, "rough")


@router.post("/jobs/{job_id}/pressure-test/rough-reads")
def rough_read(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Nitrogen read on a line in the wall."""
    return _rough(job_id, data, ctx, RoughRead, "read")


def _rough(
    job_id: int, data: Any, ctx: RequestContext, model: type[RoughIn] | type[RoughRead], name: str
) -> Response:
    judged = ctx.judged(job_id)
    extra = {"kind": model.model_fields["kind"].default, "at": ctx.done(data)}
    record, form = read(model, form_fields(data), ctx.system, extra=extra)
    check_done_time(form, data)
    lines = {s.id for s in judged.pipes.stretches}
    if record is not None and record.run not in lines:
        form.errors["run"] = "the job has no such line"
    if record is None or form.errors:
        form.prefix = f"{name}-"
        return stage_page(ctx, judged, "pressure-test", status=422, **{f"{name}_form": form})
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/pressure-test#at-rough-{record.run}", record.by)


@router.post("/jobs/{job_id}/pressure-test/ports")
def say_ports(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """On which ports the nitrogen of a hold was."""
    judged = ctx.judged(job_id)
    ports, missing = named_ports(judged, data)
    run = next((r for r in judged.job.holds if r.uid == str(data.get("run") or "")), None)
    if run is None:
        raise NotFoundError("this job has no such hold")
    extra = {"kind": "ports", "at": ctx.now(), "run": run.uid, "open": ports}
    given = {"by": form_fields(data).get("by", "")}
    record, form = read(Ports, given, ctx.system, extra=extra)
    form.prefix = "ports-"
    if record is None or missing:
        if missing:
            form.errors["open"] = "tick the ports that the nitrogen was on"
        return stage_page(ctx, judged, "pressure-test", status=422, ports_form=form)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/pressure-test", record.by)
