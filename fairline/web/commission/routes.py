"""What Commission's pages post: calls, measurements, water, a look at the whole system."""

import re
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core.charge.stage import ChargeStageResult
from fairline.core.commission.calls import answering
from fairline.core.commission.lamp_codes import CodeSeen
from fairline.core.commission.power_drawn import slipped
from fairline.core.commission.records import SEEN_WORDS, Called, Running, WaterTest, WholeSystem
from fairline.core.commission.stage import CommissionStageResult
from fairline.core.entry import Record
from fairline.core.parts import OUTDOOR
from fairline.core.quantities import parse
from fairline.store import jobs
from fairline.web.bench.instruments import simulated, taken
from fairline.web.commission import view
from fairline.web.frame.forms import Form, check_done_time, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page

router = APIRouter(include_in_schema=False)

AIR = {  # what a thermometer at the head can be asked for
    "return_c": "temperature",
    "return_rh": "fraction",
    "supply_c": "temperature",
    "supply_rh": "fraction",
}
SHOWS = view.view


def not_running(judged: JudgedJob) -> str:
    """What keeps anything from being measured; blank where the system may run."""
    if not judged.of(ChargeStageResult).openings:
        return "the valves are not recorded open: finish Charge first"
    if not judged.of(CommissionStageResult).powered:
        return "power is not on: record the first start above"
    return ""


def _watts_asked(form: Form, fields: dict[str, Any], current_a: float | None) -> None:
    """Watts that were typed as amperes are offered as watts."""
    typed = re.match(r"\s*(\d+(?:\.\d+)?)\s*$", str(fields.get("current_a") or ""))
    if asked := slipped(current_a if current_a is not None else float(typed[1]) if typed else None):
        form.errors["current_a"] = asked


def _kept(ctx: RequestContext, job_id: int, record: Record, zone: str, at: str = "") -> Response:
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    zone = view.next_zone(ctx.judged(job_id), zone, stays=not isinstance(record, Called))
    shown = f"?zone={quote(zone)}" if zone else ""
    return ctx.onward(f"/jobs/{job_id}/commission{shown}{at}", record.by)


@router.post("/jobs/{job_id}/commission/readings")
def measured(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    fields = {k: v for k, v in form_fields(data).items() if k != "seen"}
    seen = tuple(str(v) for v in data.getlist("seen") if v in SEEN_WORDS)
    extra = {
        "kind": "running",
        "at": ctx.done(data),
        "seen": seen,
        "simulated": simulated(ctx, fields, AIR),
    }
    record, form = read(Running, fields, ctx.system, extra=extra)
    form.values["seen"] = ",".join(seen)
    check_done_time(form, data)
    judged = ctx.judged(job_id)
    zones = [h.zone for h in judged.job.survey.now]
    if record is not None:
        if asked := not_running(judged):
            form.errors["mode"] = asked
        elif len(zones) > 1 and record.zone not in zones:
            form.errors["mode"] = f"say which zone ran: one of {', '.join(zones)}"
    _watts_asked(form, fields, record.current_a if record is not None else None)
    if record is None or form.errors:
        if whole := form.whole:
            side, _, told = whole.partition(": ")
            wrong = {"return": "return_c", "supply": "supply_c"}.get(side, "airflow_m3_s")
            form.errors.setdefault(wrong, told or whole)
        return stage_page(ctx, judged, "commission", record_form=form, status=422)
    return _kept(ctx, job_id, record, record.zone)


def _tubes(
    fields: dict[str, Any], known: set[str], ctx: RequestContext
) -> tuple[dict[str, float], dict[str, str]]:
    """What the clamp thermometers showed, °C by port; what is no temperature, by its field."""
    found: dict[str, float] = {}
    errors: dict[str, str] = {}
    for port in known:
        text = str(fields.get(f"t.{port}") or "").strip()
        if text:
            try:
                found[port] = parse(text, "temperature", ctx.system)
            except ValueError as error:
                errors[f"t.{port}"] = str(error)
    return found, errors


@router.post("/jobs/{job_id}/commission/calls")
def called(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """One head called alone, and the ports whose tubes answered; ``none``: nothing did."""
    judged, fields = ctx.judged(job_id), form_fields(data)
    known = set(judged.of(CommissionStageResult).ports.values())
    ports = tuple(dict.fromkeys(str(v) for v in data.getlist("port") if v in known))
    tubes, errors = _tubes(fields, known, ctx)
    if len(tubes) == len(known) and not ports:
        ports = answering(tubes, fields.get("warm") == "yes")
    extra = {"kind": "called", "at": ctx.done(data), "ports": ports}
    given = {"zone": fields.get("zone", ""), "by": fields.get("by", "")}
    record, form = read(Called, given, ctx.system, extra=extra)
    form.prefix = "call-"
    check_done_time(form, data)
    form.values |= {k: v for k, v in fields.items() if k.startswith("t.")}
    form.errors |= errors
    if tubes and len(tubes) < len(known):
        form.errors["by"] = "a thermometer on every port: all of them are needed"
    if record is not None and (asked := not_running(judged)):
        form.errors["by"] = asked
    if record is not None and record.zone not in judged.of(CommissionStageResult).ports:
        form.errors["by"] = "say which zone was called"
    if record is None or form.errors:
        return stage_page(ctx, judged, "commission", call_form=form, status=422)
    return _kept(ctx, job_id, record, record.zone)


@router.post("/jobs/{job_id}/commission/water")
def water(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Water through a head, and what stood three minutes after the stop."""
    judged, fields = ctx.judged(job_id), form_fields(data)
    runs, _, after = str(fields.pop("water", "")).partition(":")
    given = {k: v for k, v in fields.items() if k in ("zone", "by", "pump")}
    extra = {"kind": "water-test", "at": ctx.done(data), "runs": runs, "after_stop": after}
    record, form = read(WaterTest, given, ctx.system, extra=extra)
    form.prefix = "water-"
    check_done_time(form, data)
    zones = [h.zone for h in judged.job.survey.now]
    if record is not None and len(zones) > 1 and record.zone not in zones:
        form.errors["by"] = "say which head it was"
    if record is None or form.errors:
        return stage_page(ctx, judged, "commission", water_form=form, status=422)
    return _kept(ctx, job_id, record, record.zone)


@router.post("/jobs/{job_id}/commission/whole")
def whole(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """All zones on: what it draws and what was seen."""
    judged = ctx.judged(job_id)
    extra = {"kind": "whole-system", "at": ctx.done(data)}
    record, form = read(WholeSystem, form_fields(data), ctx.system, extra=extra)
    form.prefix = "whole-"
    check_done_time(form, data)
    if record is not None and (asked := not_running(judged)):
        form.errors["mode"] = asked
    _watts_asked(form, form_fields(data), record.current_a if record is not None else None)
    if record is None or form.errors:
        return stage_page(ctx, judged, "commission", whole_form=form, status=422)
    return _kept(ctx, job_id, record, "", "#at-whole")


@router.post("/jobs/{job_id}/commission/codes")
def code_seen(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """A code that a unit's lamps or display show, or that it is gone."""
    judged, fields = ctx.judged(job_id), form_fields(data)
    given = {k: v for k, v in fields.items() if k in ("unit", "by", "code")}
    if pressed := str(fields.get("gone") or fields.get("listed") or ""):
        given["unit"], _, given["code"] = pressed.partition(":")
    extra = {"kind": "code-seen", "at": ctx.done(data), "gone": bool(fields.get("gone"))}
    record, form = read(CodeSeen, given, ctx.system, extra=extra)
    form.prefix = "code-"
    check_done_time(form, data)
    units = (OUTDOOR, *(h.zone for h in judged.job.survey.now))
    if record is not None and record.unit not in units:
        form.errors["unit"] = "say which unit shows it"
    if record is None or form.errors:
        return stage_page(ctx, judged, "commission", code_form=form, status=422)
    return _kept(ctx, job_id, record, str(fields.get("zone") or ""), "#at-codes")


@router.post("/jobs/{job_id}/commission/thermometer")
def from_thermometer(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """What the thermometer shows stands in the form, as return or as supply air."""
    judged = ctx.judged(job_id)
    form: Form = taken(ctx, judged, _one_each(form_fields(data)), "thermometer")
    return stage_page(ctx, judged, "commission", record_form=form)


def _one_each(fields: dict[str, Any]) -> dict[str, Any]:
    return {k: v for k, v in fields.items() if k != "seen"}
