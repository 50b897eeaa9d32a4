"""Readings of a run from a page: typed one at a time, or read from a CSV file."""

from datetime import datetime, timedelta
from typing import Annotated, Any

from fastapi import APIRouter
from fastapi.responses import RedirectResponse, Response
from pydantic import BeforeValidator
from sqlalchemy.orm import Session
from starlette.datastructures import FormData

from fairline.core.entry import DurationS, Entry, GaugePa, NeedlePa, TemperatureC, VacuumPa, blank
from fairline.core.readings import MODELS, AnyReading, Probe, RunKind
from fairline.core.stages import STAGE_OF_RUN
from fairline.store import jobs, readings_csv
from fairline.store.document import NotFoundError
from fairline.store.log_header import CsvError
from fairline.web.evacuate import isolation_of, pump_refused
from fairline.web.forms import Form, posted, read
from fairline.web.run_at_hand import not_asked, open_run
from fairline.web.stage import stage_page
from fairline.web.visit import AForm, AVisit, JobId, Visit

router = APIRouter(include_in_schema=False)

BY_HAND = "by hand"


class TypedReading(Entry):
    """A reading as a person types it; a blank time means now."""

    after_s: DurationS = None
    gauge_pa: GaugePa = None
    pipe_c: TemperatureC = None
    pa: VacuumPa = None
    needle_pa: NeedlePa = None
    probe: Annotated[Probe | None, BeforeValidator(blank)] = None


def typed_reading(
    visit: Visit, kind: RunKind, started_at: datetime, fields: dict[str, Any]
) -> tuple[AnyReading | None, Form]:
    """A typed reading as it is stored (its number comes later), or the errors beside the fields."""
    entry, form = read(TypedReading, fields, visit.system)
    if entry is None:
        return None, form
    after = entry.after_s
    if after is None:
        after = max(0.0, (visit.now() - started_at).total_seconds())
    own = (
        {"gauge_pa": entry.gauge_pa, "pipe_c": entry.pipe_c, "probe": entry.probe}
        if kind == "hold"
        else {"pa": entry.pa, "gauge_pa": entry.needle_pa}
    )
    if missing := _missing(kind, own):
        return None, Form(fields, {missing: "this reading is needed"})
    values = own | {"instrument": BY_HAND, "seq": 0, "t_s": after}
    reading, checked = read(MODELS[kind], values, visit.system)
    if reading is None:
        return None, Form(fields, checked.errors)
    return reading, form


def _missing(kind: RunKind, values: dict[str, Any]) -> str:
    """The reading that a run of this kind cannot do without; blank where all are there."""
    if kind == "hold":
        return next((n for n in ("gauge_pa", "pipe_c") if values[n] is None), "")
    return "" if any(v is not None for v in values.values()) else "pa"


@router.post("/jobs/{job_id}/runs/{kind}/begin")
def begin(job_id: JobId, kind: RunKind, data: AForm, visit: AVisit) -> Response:
    """Begin a run; a pull only where the pressure test holds, or somebody answers for it.

    ``pump_off`` of a decay: the valve is shut and the pump was seen off.
    """
    judged = visit.judged(job_id)
    if refused := not_asked(visit, judged, STAGE_OF_RUN[kind]):
        return refused
    if kind == "pull" and (refused := pump_refused(visit, judged)):
        return refused
    with visit.change() as session:
        uid = jobs.begin_run(session, job_id, kind, visit.person, visit.now())
        if kind == "decay" and data.get("pump_off"):
            jobs.append_record(session, job_id, isolation_of(uid, visit))
    return RedirectResponse(f"/jobs/{job_id}/{STAGE_OF_RUN[kind]}", 303)


@router.post("/jobs/{job_id}/runs/{kind}/reading")
def add_reading(job_id: JobId, kind: RunKind, data: AForm, visit: AVisit) -> Response:
    """A typed reading into the open run; the first one begins a run."""
    judged = visit.judged(job_id)
    stage = STAGE_OF_RUN[kind]
    run = open_run(judged, kind)
    if refused := not_asked(visit, judged, stage):
        return refused
    if run is None and kind == "pull" and (refused := pump_refused(visit, judged)):
        return refused
    vacuum = judged.job.vacua
    if run is None and kind == "pull" and vacuum and vacuum[-1].kind == "decay":
        told = "a decay stands here: open the valve and begin a pull first, or it would be lost"
        form = Form(posted(data), {"needle_pa" if data.get("needle_pa") else "pa": told})
        return stage_page(visit, judged, stage, record_form=form, status=422)
    with visit.change() as session:
        # Looked for again within the change: of many at once only the first begins a run.
        standing = jobs.open_run(session, job_id, (kind,) if kind == "hold" else ("pull", "decay"))
        mine = standing is not None and _kind_of(session, job_id, standing[0]) == kind
        started_at = standing[1] if standing is not None and mine else visit.now()
        reading, form = typed_reading(visit, kind, started_at, posted(data))
        if reading is not None:
            uid = (
                standing[0]
                if standing is not None and mine
                else jobs.begin_run(session, job_id, kind, visit.person, started_at)
            )
            seq = jobs.next_seq(session, job_id, uid, BY_HAND)
            jobs.append_readings(session, job_id, uid, [reading.model_copy(update={"seq": seq})])
    if reading is None:
        return stage_page(visit, judged, stage, record_form=form, status=422)
    return RedirectResponse(f"/jobs/{job_id}/{stage}", 303)


def _kind_of(session: Session, job_id: int, uid: str) -> str:
    return jobs.run_row(session, job_id, uid).kind


@router.post("/jobs/{job_id}/runs/{kind}/file")
def add_file(job_id: JobId, kind: RunKind, data: AForm, visit: AVisit) -> Response:
    """A CSV file as a new run: all of it, or nothing with line and column."""
    content = _content(data)
    judged = visit.judged(job_id)
    stage = STAGE_OF_RUN[kind]
    try:
        readings, began = readings_csv.read_log(content, kind)
        # A log without the day's time is taken to have ended just now.
        began = began or visit.now() - timedelta(seconds=float(readings.t_s[-1]))
        if refused := not_asked(visit, judged, stage):
            return refused
        with visit.change() as session:
            uid = jobs.begin_run(session, job_id, kind, visit.person, began)
            jobs.append_readings(session, job_id, uid, readings)
            if kind == "decay" and data.get("pump_off"):
                jobs.append_record(session, job_id, isolation_of(uid, visit))
    except CsvError as error:
        return stage_page(
            visit, judged, stage, record_form=Form({}, {"file": str(error)}), status=422
        )
    return RedirectResponse(f"/jobs/{job_id}/{stage}", 303)


def _content(data: FormData) -> bytes:
    file = data.get("file")
    return b"" if file is None or isinstance(file, str) else file.file.read()


@router.get("/jobs/{job_id}/runs/{uid}.csv")
def download(job_id: JobId, uid: str, visit: AVisit) -> Response:
    run = next((r for r in visit.judged(job_id).job.runs if r.uid == uid), None)
    if run is None:
        raise NotFoundError(f"there is no run {uid}")
    name = f"job-{job_id}-{run.kind}-{uid}.csv"
    return Response(
        readings_csv.write(run),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
