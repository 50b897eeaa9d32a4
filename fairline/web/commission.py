"""Commission pages: the zone measured in both modes."""

from typing import Any
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core.call import Check
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.commission import stage as commission
from fairline.core.commission.records import MODE_WORDS, MODES, Running
from fairline.store import jobs
from fairline.web.bench.instruments import shown, simulated, taken
from fairline.web.frame.forms import Form, check_done_time, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page, stage_view
from fairline.web.wire.view import power_context

router = APIRouter(include_in_schema=False)

AIR = {  # what a thermometer at the head can be asked for
    "return_c": "temperature",
    "return_rh": "fraction",
    "supply_c": "temperature",
    "supply_rh": "fraction",
}


@stage_view("commission")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    zones = [h.zone for h in judged.job.survey.now]
    asked = ctx.request.query_params.get("zone", "")
    zone = asked if asked in zones else next(iter(zones), "")
    rules = judged.rules.of(zone)
    several = len(zones) > 1
    worked = judged.of(commission.CommissionStageResult)
    next_mode = next((m for m, done in worked.zones[zone].items() if done.record is None), "")
    modes = {
        mode: {
            "record": m.record,
            "result": m.answer.result if m.answer else None,
            "count": m.count,
        }
        for mode, m in worked.zones[zone].items()
    }
    return {
        "checks": _checks(judged, zone if several else ""),
        "zone": zone,
        "opened": worked.opened,
        "speeds": [a.speed for a in rules.head.airflows] if rules.head else [],
        "zones": zones if several else [],
        "zone_head": rules.head,
        "modes": modes,
        "record_form": Form({"by": ctx.person, "mode": next_mode, "fan": _last_fan(judged, zone)}),
        "mode_words": MODE_WORDS,
        **power_context(judged),
        "power_form": Form({"by": ctx.person}, prefix="power-"),
        "shown": shown(ctx, judged, "thermometer"),
    }


def _last_fan(judged: JudgedJob, zone: str) -> str:
    """The fan speed that was last said of a head: of this one, else of any of the same sheet."""
    rules = judged.rules
    speeds = {a.speed for a in head.airflows} if (head := rules.of(zone).head) else set()
    said = [r for r in judged.counted.recorded(Running) if r.fan in speeds]
    own = [r for r in said if r.zone == zone]
    return (own or said)[-1].fan if said else ""


def _checks(judged: JudgedJob, zone: str) -> dict[str, Check]:
    """The checks of one of several zones by their short names; while nothing may run, that one."""
    checks = judged.stages["commission"].checks
    shut = next((c for c in checks if c.id == "valves"), None)
    if shut is not None:
        return dict.fromkeys(MODES, shut)
    return {c.part or c.id: c for c in checks if c.zone == zone}


def _next_zone(judged: JudgedJob, zone: str) -> str:
    """The zone that stands next: this one until both modes are measured, then one that waits."""
    zones = judged.of(commission.CommissionStageResult).zones
    waits = [z for z, modes in zones.items() if any(m.record is None for m in modes.values())]
    return zone if not zone or zone in waits or not waits else waits[0]


@router.post("/jobs/{job_id}/commission/readings")
def measured(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    fields = form_fields(data)
    extra = {"kind": "running", "at": ctx.done(data), "simulated": simulated(ctx, fields, AIR)}
    record, form = read(Running, fields, ctx.system, extra=extra)
    check_done_time(form, data)
    judged = ctx.judged(job_id)
    zones = [h.zone for h in judged.job.survey.now]
    if record is not None and not judged.of(ChargeStageResult).openings:
        form.errors["mode"] = "the valves are not recorded open: finish Charge first"
        record = None
    elif record is not None and not judged.of(commission.CommissionStageResult).powered:
        form.errors["mode"] = "power is not on: record the first start above"
        record = None
    elif record is not None and len(zones) > 1 and record.zone not in zones:
        form.errors["mode"] = f"say which zone ran: one of {', '.join(zones)}"
        record = None
    if record is None:
        if whole := form.whole:
            side, _, told = whole.partition(": ")
            wrong = {"return": "return_c", "supply": "supply_c"}.get(side, "airflow_m3_s")
            form.errors.setdefault(wrong, told or whole)
        return stage_page(ctx, judged, "commission", record_form=form, status=422)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    zone = _next_zone(ctx.judged(job_id), record.zone)
    shown = f"?zone={quote(zone)}" if zone else ""
    return ctx.onward(f"/jobs/{job_id}/commission{shown}", record.by)


@router.post("/jobs/{job_id}/commission/thermometer")
def from_thermometer(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """What the thermometer shows stands in the form, as return or as supply air."""
    judged = ctx.judged(job_id)
    form = taken(ctx, judged, form_fields(data), "thermometer")
    return stage_page(ctx, judged, "commission", record_form=form)
