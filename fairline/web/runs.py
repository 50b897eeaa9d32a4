"""Readings of a run from a page: typed one at a time, or read from a CSV file."""

from datetime import datetime, timedelta
from typing import Annotated, Any

from fastapi import APIRouter
from fastapi.responses import RedirectResponse, Response
from pydantic import BeforeValidator
from sqlalchemy.orm import Session
from starlette.datastructures import FormData

from fairline.core import evacuate, kit
from fairline.core.entry import DurationS, Entry, GaugePa, NeedlePa, TemperatureC, VacuumPa, blank
from fairline.core.readings import Probe, Reading, Run, RunKind
from fairline.store import jobs, readings_csv
from fairline.store.document import NotFoundError, now
from fairline.web.forms import Form, posted, read
from fairline.web.stage import stage_page
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)

BY_HAND = "by hand"
STAGE_OF: dict[str, str] = {"hold": "pressure-test", "pull": "evacuate", "decay": "evacuate"}


class TypedReading(Entry):
    """A reading as a person types it; a blank time means now."""

    after_s: DurationS = None
    gauge_pa: GaugePa = None
    pipe_c: TemperatureC = None
    pa: VacuumPa = None
    needle_pa: NeedlePa = None
    probe: Annotated[Probe | None, BeforeValidator(blank)] = None


def open_run(judged: Judged, *kinds: RunKind) -> Run | None:
    """The newest run of these kinds, while it is not closed."""
    runs = [r for r in judged.job.runs if r.kind in kinds]
    return runs[-1] if runs and runs[-1].ended_at is None else None


def held_s(run: Run | None) -> float | None:
    """How long a run's readings reach, from its first."""
    if run is None or not run.readings:
        return None
    return run.readings[-1].t_s - run.readings[0].t_s


def typed_reading(
    visit: Visit, kind: RunKind, started_at: datetime, fields: dict[str, Any]
) -> tuple[Reading | None, Form]:
    """A typed reading as it is stored (its number comes later), or the errors beside the fields."""
    entry, form = read(TypedReading, fields, visit.system)
    if entry is None:
        return None, form
    after = entry.after_s
    if after is None:
        after = max(0.0, (now() - started_at).total_seconds())
    values = {
        "instrument": BY_HAND,
        "seq": 0,
        "t_s": after,
        "gauge_pa": entry.gauge_pa if kind == "hold" else entry.needle_pa,
        "pipe_c": entry.pipe_c,
        "pa": entry.pa,
        "probe": entry.probe,
    }
    reading, checked = read(Reading, values, visit.system)
    if reading is None:
        return None, Form(fields, checked.errors)
    if wrong := reading.fits(kind):
        return None, Form(fields, {wrong.split()[0]: "this reading is needed"})
    return reading, form


def not_asked(visit: Visit, judged: Judged, stage: str) -> Response | None:
    """The page that keeps nitrogen and pump off a charged kit, or None where they are asked."""
    if kit.asked(judged.rules):
        return None
    told = "a charged kit: neither nitrogen nor pump is connected"
    return stage_page(visit, judged, stage, record_form=Form({}, {"": told}), status=422)


def pump_refused(visit: Visit, judged: Judged) -> Response | None:
    """The page that keeps the pump off, or None where it may run."""
    if not evacuate.shut(judged.stages["pressure-test"], judged.job.pump_overrides):
        return None
    form = Form({"by": visit.person}, {"reason": "the pressure test does not hold yet: "
                                       "bring it to hold, or say why and who answers for it"},
                prefix="pump-")  # fmt: skip
    return stage_page(visit, judged, "evacuate", pump_form=form, status=422)


@router.post("/jobs/{job_id}/evacuate/override")
def override_pump(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """The pump may run though the pressure test does not hold: by name and reason, for good."""
    record, form = read(
        evacuate.PumpOverride, posted(data), visit.system, extra={"kind": "pump", "at": now()}
    )
    if record is None:
        form.prefix = "pump-"
        return stage_page(visit, visit.judged(job_id), "evacuate", pump_form=form, status=422)
    with visit.change() as session:
        jobs.append_record(session, job_id, record)
    return visit.onward(f"/jobs/{job_id}/evacuate", record.by)


@router.post("/jobs/{job_id}/runs/{kind}/begin")
def begin(job_id: JobId, kind: RunKind, data: AForm, visit: AVisit) -> Response:
    """Begin a run; a pull only where the pressure test holds, or somebody answers for it.

    ``pump_off`` of a decay: the valve is shut and the pump was seen off.
    """
    judged = visit.judged(job_id)
    if refused := not_asked(visit, judged, STAGE_OF[kind]):
        return refused
    if kind == "pull" and (refused := pump_refused(visit, judged)):
        return refused
    with visit.change() as session:
        uid = jobs.begin_run(session, job_id, kind, visit.person)
        if kind == "decay" and data.get("pump_off"):
            jobs.append_record(session, job_id, _isolation(uid, visit))
    visit.request.app.state.bench.follow(job_id)
    return RedirectResponse(f"/jobs/{job_id}/{STAGE_OF[kind]}", 303)


def _isolation(uid: str, visit: Visit) -> evacuate.Isolation:
    return evacuate.Isolation(run=uid, by=visit.person or "not named", at=now())


@router.post("/jobs/{job_id}/evacuate/isolated")
def isolated(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """Say of a decay that the valve was shut and the pump seen off."""
    judged = visit.judged(job_id)
    uid = str(data.get("run") or "")[:200]
    if not any(r.uid == uid and r.kind == "decay" for r in judged.job.runs):
        raise NotFoundError("there is no such decay")
    by = str(data.get("by") or "").strip()[:200] or visit.person or "not named"
    record = evacuate.Isolation(run=uid, by=by, at=now())
    with visit.change() as session:
        jobs.append_record(session, job_id, record)
    return visit.onward(f"/jobs/{job_id}/evacuate", by if by != "not named" else "")


@router.post("/jobs/{job_id}/runs/{kind}/reading")
def add_reading(job_id: JobId, kind: RunKind, data: AForm, visit: AVisit) -> Response:
    """A typed reading into the open run; the first one begins a run."""
    judged = visit.judged(job_id)
    stage = STAGE_OF[kind]
    run = open_run(judged, kind)
    if refused := not_asked(visit, judged, stage):
        return refused
    if run is None and kind == "pull" and (refused := pump_refused(visit, judged)):
        return refused
    vacuum = evacuate.vacua(judged.job.runs)
    if run is None and kind == "pull" and vacuum and vacuum[-1].kind == "decay":
        told = "a decay stands here: open the valve and begin a pull first, or it would be lost"
        form = Form(posted(data), {"needle_pa" if data.get("needle_pa") else "pa": told})
        return stage_page(visit, judged, stage, record_form=form, status=422)
    with visit.change() as session:
        # Looked for again within the change: of many at once only the first begins a run.
        standing = jobs.open_run(session, job_id, (kind,) if kind == "hold" else ("pull", "decay"))
        mine = standing is not None and _kind_of(session, job_id, standing[0]) == kind
        started_at = standing[1] if standing is not None and mine else now()
        reading, form = typed_reading(visit, kind, started_at, posted(data))
        if reading is not None:
            uid = (
                standing[0]
                if standing is not None and mine
                else jobs.begin_run(session, job_id, kind, visit.person)
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
    stage = STAGE_OF[kind]
    try:
        readings, began = readings_csv.read_log(content, kind)
        # A log without the day's time is taken to have ended just now.
        began = began or now() - timedelta(seconds=readings[-1].t_s)
        if refused := not_asked(visit, judged, stage):
            return refused
        with visit.change() as session:
            uid = jobs.begin_run(session, job_id, kind, visit.person, began)
            jobs.append_readings(session, job_id, uid, readings)
            if kind == "decay" and data.get("pump_off"):
                jobs.append_record(session, job_id, _isolation(uid, visit))
    except readings_csv.CsvError as error:
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
