"""Readings of a run from a page: typed one at a time, or read from a CSV file."""

from datetime import datetime, timedelta
from typing import Annotated, Any

from fastapi import APIRouter
from fastapi.responses import RedirectResponse, Response
from pydantic import BeforeValidator
from sqlalchemy.orm import Session
from starlette.datastructures import FormData

from fairline.core.contents.act import Kind
from fairline.core.entry import DurationS, Entry, GaugePa, NeedlePa, TemperatureC, VacuumPa, blank
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.quantities import duration
from fairline.core.readings import MODEL_BY_KIND, AnyReading, Probe, RunKind, kinds_beside
from fairline.core.route.circuits import Ports
from fairline.core.stages import STAGE_OF_RUN
from fairline.store import house, jobs, readings_csv
from fairline.store.document import NotFoundError
from fairline.store.log_header import CsvError
from fairline.web.changes.way_out import refusal, refusing_run
from fairline.web.evacuate import current_group, isolation_of, known_ports, pump_refused, query
from fairline.web.frame.forms import Form, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import moment
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page
from fairline.web.readings.current_run import current_hold, not_asked, open_run
from fairline.web.readings.ports import named_ports

router = APIRouter(include_in_schema=False)

BY_HAND = "by hand"
SLACK_S = 60.0  # by which a typed time may run ahead of the clock: people round minutes


def not_yet(began: datetime, after_s: float, now: datetime) -> str:
    """Why a reading of a moment that has not come is not kept; blank where it has."""
    ahead_s = after_s - (now - began).total_seconds()
    if ahead_s <= SLACK_S:
        return ""
    then = moment(began + timedelta(seconds=after_s))
    return (
        f"{duration(after_s)} after {moment(began)} is {then}, in {duration(ahead_s)}: not kept. "
        "Read it then, or mend the time"
    )


OF_THE_RUN = ("ports", "pump_off")  # posted with a first reading, and said of the run it begins


class TypedReading(Entry):
    """A reading as a person types it; a blank time means now."""

    after_s: DurationS = None
    gauge_pa: GaugePa = None
    pipe_c: TemperatureC = None
    pa: VacuumPa = None
    needle_pa: NeedlePa = None
    liquid_pa: NeedlePa = None
    probe: Annotated[Probe | None, BeforeValidator(blank)] = None


def typed_readings(
    ctx: RequestContext, kind: RunKind, started_at: datetime, fields: dict[str, Any]
) -> tuple[list[AnyReading], Form]:
    """Typed readings as they are stored (their numbers come later), or errors beside the fields.

    It is one, or two where the needles of both sides were read.
    """
    typed = {name: value for name, value in fields.items() if name not in OF_THE_RUN}
    entry, form = read(TypedReading, typed, ctx.system)
    if entry is None:
        return [], form
    # By hand nobody reads a clock finer than a second.
    gone = float(max(0, int((ctx.now() - started_at).total_seconds())))
    after = gone if entry.after_s is None else entry.after_s
    if told := not_yet(started_at, after, ctx.now()):
        return [], Form(fields, {"after_s": told})
    own: list[dict[str, Any]]
    if kind == "hold":
        own = [{"gauge_pa": entry.gauge_pa, "pipe_c": entry.pipe_c, "probe": entry.probe}]
    elif entry.liquid_pa is not None and entry.needle_pa is not None:
        own = [
            {"gauge_pa": entry.needle_pa, "side": "gas"},
            {"gauge_pa": entry.liquid_pa, "side": "liquid"},
        ]
    else:
        own = [{"pa": entry.pa, "gauge_pa": entry.needle_pa}]
    found: list[AnyReading] = []
    for one in own:
        if missing := _missing(kind, one):
            return [], Form(fields, {missing: "this reading is needed"})
        values = one | {"instrument": BY_HAND, "seq": 0, "t_s": after}
        reading, checked = read(MODEL_BY_KIND[kind], values, ctx.system)
        if reading is None:
            return [], Form(fields, checked.errors)
        found.append(reading)
    return found, form


def numbered(readings: list[AnyReading], first: int) -> list[AnyReading]:
    """Typed readings under the numbers that are free."""
    return [r.model_copy(update={"seq": first + n}) for n, r in enumerate(readings)]


def _missing(kind: RunKind, values: dict[str, Any]) -> str:
    """The reading that a run of this kind cannot do without; blank where all are there."""
    if kind == "hold":
        return next((n for n in ("gauge_pa", "pipe_c") if values[n] is None), "")
    return "" if any(values.get(name) is not None for name in ("pa", "gauge_pa")) else "pa"


@router.post("/jobs/{job_id}/runs/{kind}/begin")
def begin(job_id: JobId, kind: RunKind, data: PostedForm, ctx: Context) -> Response:
    """Begin a run; a pull only where the pressure test holds, or somebody answers for it.

    ``pump_off`` of a decay: the valve is shut and the pump was seen off.
    """
    judged = ctx.judged(job_id)
    if refused := not_asked(ctx, judged, STAGE_OF_RUN[kind]):
        return refused
    pumped = open_run(judged, "pull") is not None
    if kind == "pull" or (kind == "decay" and not pumped):
        if refused := pump_refused(ctx, judged):
            return refused
    ports = ports_of(judged, kind, data)
    if ports == ():
        wanted = Form({}, {"ports": "tick the ports that are open to the rig"})
        return stage_page(ctx, judged, STAGE_OF_RUN[kind], begin_form=wanted, status=422)
    if page := out_of_order(ctx, judged, kind, ports, bool(data.get("pump_off"))):
        return page
    with ctx.change() as session:
        start_run(session, ctx, judged, kind, ports, seen=bool(data.get("pump_off")))
    shown = query(ports) if ports else ""
    return RedirectResponse(f"/jobs/{job_id}/{STAGE_OF_RUN[kind]}{shown}", 303)


ACT_OF: dict[RunKind, Kind] = {"hold": "nitrogen", "pull": "pump", "decay": "decay"}


def out_of_order(
    ctx: RequestContext,
    judged: JudgedJob,
    kind: RunKind,
    ports: tuple[str, ...] | None,
    seen: bool = False,
) -> Response | None:
    """The page that keeps a run from being begun, by what is in the pipes; None where it may be.

    A log that is read from a file was taken already: it is kept, and judged by its moment.
    """
    found = [] if ctx.late else refusing_run(judged, ACT_OF[kind], ctx, ports or (), seen)
    if not found:
        return None
    stage = STAGE_OF_RUN[kind]
    form = Form({"by": ctx.person}, {"": refusal(found)})
    return stage_page(ctx, judged, stage, record_form=form, status=422, refused=found)


def ports_of(judged: JudgedJob, kind: RunKind, data: FormData) -> tuple[str, ...] | None:
    """The ports that a run was begun on; empty where nobody said, None where nothing is asked."""
    if not judged.of(EvacuateStageResult).circuits:
        return None
    if kind == "hold":
        ports, missing = named_ports(judged, data)
        return ports if ports or missing else None
    return known_ports(judged, [str(value) for value in data.getlist("ports")])


def start_run(
    session: Session,
    ctx: RequestContext,
    judged: JudgedJob,
    kind: RunKind,
    ports: tuple[str, ...] | None,
    at: datetime | None = None,
    seen: bool = False,
) -> str:
    """Begin a run: with the ports that are open to the rig, and that the pump was seen off."""
    whole = judged.of(EvacuateStageResult)
    beside = [
        group.run.uid
        for group in whole.groups
        if kind != "hold"
        if ports and group.run is not None and not set(group.ports) & set(ports)
    ]
    late = at is not None
    uid = jobs.begin_run(session, judged.id, kind, ctx.person, at or ctx.now(), beside, late)
    by = ctx.person or "not named"
    if ports:
        said = Ports(run=uid, open=ports, by=by, at=ctx.now())
        jobs.append_record(session, judged.id, said)
    if kind == "decay" and seen:
        jobs.append_record(session, judged.id, isolation_of(uid, ctx))
    return uid


@router.post("/jobs/{job_id}/runs/{kind}/reading")
def add_reading(job_id: JobId, kind: RunKind, data: PostedForm, ctx: Context) -> Response:
    """A typed reading into the open run; the first one begins a run."""
    judged = ctx.judged(job_id)
    stage = STAGE_OF_RUN[kind]
    run = current_hold(judged, ctx.now()) if kind == "hold" else open_run(judged, kind)
    if refused := _refused(ctx, judged, kind, begins=run is None):
        return refused
    if kind != "hold" and judged.of(EvacuateStageResult).circuits:
        return _into_group(ctx, judged, kind, data)
    ports = ports_of(judged, kind, data) if run is None else None
    if run is None and (page := _cannot_start(ctx, judged, kind, data, ports)):
        return page
    with ctx.change() as session:
        # Looked for again within the change: of many at once only the first begins a run.
        found = jobs.open_run(session, job_id, kinds_beside(kind))
        if found is None and run is not None:  # closed, and read on
            found = run.uid, run.started_at
        mine = found if found and _kind_of(session, job_id, found[0]) == kind else None
        started_at = mine[1] if mine else ctx.now()
        readings, form = typed_readings(ctx, kind, started_at, form_fields(data))
        if readings:
            uid = mine[0] if mine else jobs.begin_run(session, job_id, kind, ctx.person, started_at)
            if found is None and ports:
                said = Ports(run=uid, open=ports, by=ctx.person or "not named", at=ctx.now())
                jobs.append_record(session, job_id, said)
            seq = jobs.next_seq(session, job_id, uid, BY_HAND)
            jobs.append_readings(session, job_id, uid, numbered(readings, seq))
    if not readings:
        return stage_page(ctx, judged, stage, record_form=form, status=422)
    return RedirectResponse(f"/jobs/{job_id}/{stage}", 303)


def _refused(
    ctx: RequestContext, judged: JudgedJob, kind: RunKind, begins: bool
) -> Response | None:
    """The page that keeps any reading out: not asked of this job, or the pump's gate is shut."""
    refused = not_asked(ctx, judged, STAGE_OF_RUN[kind])
    if refused is None and begins and kind == "pull":
        refused = pump_refused(ctx, judged)
    return refused


def _cannot_start(
    ctx: RequestContext,
    judged: JudgedJob,
    kind: RunKind,
    data: FormData,
    ports: tuple[str, ...] | None,
) -> Response | None:
    """The page that keeps a first reading from beginning a run; None where it may."""
    stage = STAGE_OF_RUN[kind]
    if ports == ():
        wanted = Form({}, {"ports": "tick the ports that are under nitrogen"})
        return stage_page(ctx, judged, stage, begin_form=wanted, status=422)
    if words := _other_run(judged, kind):
        form = Form(form_fields(data), {"needle_pa" if data.get("needle_pa") else "pa": words})
        return stage_page(ctx, judged, stage, record_form=form, status=422)
    readings, form = typed_readings(ctx, kind, ctx.now(), form_fields(data))
    if not readings:
        return stage_page(ctx, judged, stage, record_form=form, status=422)
    return out_of_order(ctx, judged, kind, ports)


def _other_run(judged: JudgedJob, kind: RunKind) -> str:
    """Why a reading can begin no run of its kind: another one stands there; blank where none."""
    vacuum = judged.job.vacua
    if kind == "decay" and open_run(judged, "pull", "decay") is not None:
        return "the pump runs by now: record it again, and it counts in the pull"
    if kind == "pull" and vacuum and vacuum[-1].kind == "decay":
        return (
            "the valve was shut meanwhile: record it again, and it counts in the decay"
            if vacuum[-1].ended_at is None
            else "a decay stands here: open the valve and begin a pull first, or it would be lost"
        )
    return ""


def _into_group(ctx: RequestContext, judged: JudgedJob, kind: RunKind, data: FormData) -> Response:
    """A typed reading into the open run of the ports at hand: of several nobody guesses which."""
    group = current_group(ctx, judged)
    fields = form_fields(data)
    if group.run is None or group.run.kind != kind or group.run.ended_at is not None:
        words = "begin a run first, and say which ports are open"
        form = Form(fields, {"needle_pa" if fields.get("needle_pa") else "pa": words})
        return stage_page(ctx, judged, "evacuate", record_form=form, status=422)
    with ctx.change() as session:
        readings, form = typed_readings(ctx, kind, group.run.started_at, fields)
        if readings:
            seq = jobs.next_seq(session, judged.id, group.run.uid, BY_HAND)
            jobs.append_readings(session, judged.id, group.run.uid, numbered(readings, seq))
    if not readings:
        return stage_page(ctx, judged, "evacuate", record_form=form, status=422)
    return RedirectResponse(f"/jobs/{judged.id}/evacuate{query(group.ports)}", 303)


def _kind_of(session: Session, job_id: int, uid: str) -> str:
    return jobs.run_row(session, job_id, uid).kind


@router.post("/jobs/{job_id}/runs/{kind}/file")
def add_file(job_id: JobId, kind: RunKind, data: PostedForm, ctx: Context) -> Response:
    """A CSV file as a new run: all of it, or nothing with line and column."""
    content = _content(data)
    judged = ctx.judged(job_id)
    stage = STAGE_OF_RUN[kind]
    try:
        zone = house.zone_named(ctx.zone)
        readings, began = readings_csv.read_log(content, kind, zone=zone)
        # A log without the day's time is taken to have ended just now.
        last_s = float(readings.t_s[-1])
        began = began or ctx.now() - timedelta(seconds=last_s)
        ahead_s = (began + timedelta(seconds=last_s) - ctx.now()).total_seconds()
        if ahead_s > SLACK_S:
            raise CsvError(
                f"the log ends at {moment(began + timedelta(seconds=last_s))}, in "
                f"{duration(ahead_s)}: mend its clock, or its time zone"
            )
        if refused := not_asked(ctx, judged, stage):
            return refused
        ports = ports_of(judged, kind, data)
        if ports == ():
            raise CsvError("tick the ports that were open to the rig")
        seen = bool(data.get("pump_off"))
        with ctx.change() as session:
            uid = start_run(session, ctx, judged, kind, ports, began, seen)
            jobs.append_readings(session, job_id, uid, readings)
    except CsvError as error:
        return stage_page(
            ctx, judged, stage, record_form=Form({}, {"file": str(error)}), status=422
        )
    return RedirectResponse(f"/jobs/{job_id}/{stage}{query(ports or ())}", 303)


def _content(data: FormData) -> bytes:
    file = data.get("file")
    return b"" if file is None or isinstance(file, str) else file.file.read()


@router.get("/jobs/{job_id}/runs/{uid}.csv")
def download(job_id: JobId, uid: str, ctx: Context) -> Response:
    run = next((r for r in ctx.judged(job_id).job.runs if r.uid == uid), None)
    if run is None:
        raise NotFoundError(f"there is no run {uid}")
    name = f"job-{job_id}-{run.kind}-{uid}.csv"
    return Response(
        readings_csv.write(run),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
