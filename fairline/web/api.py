"""The API: the calculation door, readings from instruments, jobs as JSON."""

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Query, Response
from fastapi.responses import JSONResponse, StreamingResponse
from pydantic import Field, TypeAdapter, ValidationError

from fairline.core import kit
from fairline.core.brief import Brief
from fairline.core.calc.door import CALCULATIONS
from fairline.core.call import Frozen, Verdict
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.evacuate.records import Isolation
from fairline.core.hand_over.picture import Thing
from fairline.core.instrument import Introduction, SpotReading
from fairline.core.problem import from_validation, problem
from fairline.core.readings import LIST_BY_KIND, RunKind
from fairline.store import board, job_file, jobs
from fairline.store.clock import now
from fairline.store.instruments import (
    OtherKindError,
    RunLine,
    introduce,
    keep_spots,
    newest_spots,
    next_spot,
    run_lines,
)
from fairline.store.kept_readings import TakenError
from fairline.store.pictures import PictureError
from fairline.web.bench.rig_line import RigLine, rig_line
from fairline.web.board.routes import board_page
from fairline.web.evacuate import known_ports
from fairline.web.flare import job_pictures
from fairline.web.frame.problems import Body, refused
from fairline.web.frame.request_context import Context, JobId, whole_job
from fairline.web.pictures import show_picture, take
from fairline.web.runs import not_yet, start_run

router = APIRouter(prefix="/api")

SPOTS = TypeAdapter(Annotated[list[SpotReading], Field(min_length=1, max_length=1000)])


@router.get("/calc")
def list_calculations() -> list[dict[str, Any]]:
    """The names of the computations with their JSON Schemas."""
    return [c.describe() for c in CALCULATIONS.values()]


@router.post("/calc/{name}")
def calculate(name: str, body: Body) -> Response:
    """Answer one computation."""
    if name not in CALCULATIONS:
        known = ", ".join(CALCULATIONS)
        return refused(problem(404, "There is no such computation", f"{name}; known: {known}"))
    try:
        answer = CALCULATIONS[name].run(body)
    except ValidationError as error:
        return refused(from_validation(error))
    return Response(answer.model_dump_json(), media_type="application/json")


class JobLine(Frozen):
    """A job in the list: where it stands, and the verdict of each stage."""

    id: int
    uid: str
    name: str
    at: str
    verdicts: dict[str, Verdict]
    failed: str | None = None


class Made(Frozen):
    """A job that was taken in; ``left_out`` names what of its file is not known here."""

    id: int
    left_out: list[str] | None = None


class JobNamed(Frozen):
    """A job's number and its uid, which no other job ever has."""

    id: int
    uid: str


class RunMade(Frozen):
    run: str


class Stored(Frozen):
    """How many of the readings were new, and how many were there already."""

    stored: int
    known: int


class PictureLine(Frozen):
    """A picture of a job; ``kept``: whether what it shows is still here."""

    of: Thing
    place: str
    name: str
    by: str
    at: datetime
    kept: bool


class NextNumber(Frozen):
    """The first number that is free."""

    next_seq: int


class InstrumentMade(Frozen):
    """The name that an instrument is known by on the job."""

    name: str


@router.get("/jobs", response_model=list[JobLine], response_model_exclude_none=True)
def list_jobs(
    ctx: Context, page: Annotated[int, Query(ge=1, le=100_000)] = 1, away: bool = False
) -> list[JobLine]:
    """A page of fifteen jobs with where they stand, what needs a person first.

    ``away``: the jobs that were put away, in their place.
    """
    return [_brief(row.id, row.brief) for row in board_page(ctx, page, board.Asked(away=away))[0]]


def _brief(job_id: int, brief: Brief) -> JobLine:
    return JobLine(
        id=job_id,
        uid=brief.uid,
        name=brief.name,
        at=brief.at,
        verdicts={name: s.call.verdict for name, s in brief.stages.items()},
        failed=brief.failed or None,
    )


@router.get("/jobs/{job_id}")
def get_job(job_id: JobId, ctx: Context) -> Response:
    """The whole job, as the job file has it."""
    return StreamingResponse(whole_job(ctx, job_id), media_type="application/json")


@router.get("/jobs/{job_id}/named")
def get_named(job_id: JobId, ctx: Context) -> JobNamed:
    """The uid of a job, by which whoever writes to it names it: ``?job=UID`` on every request."""
    return JobNamed(id=job_id, uid=jobs.job_row(ctx.session, job_id).uid)


@router.get("/jobs/{job_id}/calls")
def get_calls(job_id: JobId, ctx: Context) -> Response:
    """The call of every stage."""
    stages = ctx.judged(job_id).stages
    content = {name: stage.model_dump(mode="json") for name, stage in stages.items()}
    return JSONResponse(content)


@router.post("/jobs")
def post_job(body: Body, ctx: Context) -> Response:
    """Import a job file; refused where the job is here already.

    Fields that this program does not know, of a newer one, are left out and named.
    """
    try:
        found = job_file.read(body)
    except ValidationError as error:
        return refused(from_validation(error))
    except job_file.JobFileError as error:
        return refused(problem(422, "Not a job file", str(error)))
    try:
        with ctx.change() as session:
            job_id = jobs.import_job(session, found.job)
    except jobs.ExistsError as held:
        return refused(problem(409, "This job is here already", f"as job {held.job_id}"))
    left = {"left_out": list(found.left_out)} if found.left_out else {}
    return JSONResponse({"id": job_id} | left, 201)


@router.get("/jobs/{job_id}/runs")
def list_runs(job_id: JobId, ctx: Context, instrument: str = "") -> list[RunLine]:
    """The runs of a job in order, without their readings: what an instrument follows.

    ``instrument``: whose next number is asked for. Of older runs the latest reading is not told.
    """
    return run_lines(ctx.session, job_id, instrument)


@router.post("/jobs/{job_id}/instruments")
def post_instrument(job_id: JobId, body: Body, ctx: Context) -> Response:
    """An instrument says who it is: its name, what it is, the steps it shows in (SI)."""
    try:
        told = Introduction.model_validate_json(body)
    except ValidationError as error:
        return refused(from_validation(error))
    try:
        with ctx.change() as session:
            introduce(session, job_id, told)
    except OtherKindError as error:
        return refused(problem(409, "This name is taken", str(error)))
    return JSONResponse({"name": told.name}, 201)


@router.get("/jobs/{job_id}/instruments")
def list_spots(job_id: JobId, ctx: Context) -> list[SpotReading]:
    """The latest that each scale, thermometer and wrench showed, the newest first."""
    jobs.job_row(ctx.session, job_id)
    return newest_spots(ctx.session, job_id)


@router.get("/jobs/{job_id}/instruments/next")
def get_next_spot(job_id: JobId, instrument: str, ctx: Context) -> NextNumber:
    """The first number that is free for what an instrument shows outside a run."""
    return NextNumber(next_seq=next_spot(ctx.session, job_id, instrument))


@router.post("/jobs/{job_id}/instruments/readings")
def post_spots(job_id: JobId, body: Body, ctx: Context) -> Response:
    """What a scale, a thermometer or a wrench shows, a list. One sent again is kept once."""
    try:
        readings = SPOTS.validate_json(body)
    except ValidationError as error:
        return refused(from_validation(error))
    try:
        with ctx.change(settles=False) as session:
            new = keep_spots(session, job_id, readings)
    except TakenError as error:
        return refused(problem(409, "This number is taken", str(error)))
    return JSONResponse({"stored": new, "known": len(readings) - new})


@router.get("/jobs/{job_id}/rig")
def get_rig(job_id: JobId, ctx: Context, ports: str = "") -> RigLine:
    """Volume, pump, hoses and coldest tube of a job, SI; null or empty where nobody said.

    ``ports``: of a system of several circuits, those that are meant, ``A,B``.
    """
    judged = ctx.judged(job_id)
    group = judged.of(EvacuateStageResult).of_ports(tuple(sorted(ports.split(","))))
    return rig_line(judged, group)


@router.post("/jobs/{job_id}/runs/{kind}")
def post_run(
    job_id: JobId, kind: RunKind, ctx: Context, isolated_by: str = "", ports: str = ""
) -> Response:
    """Begin a run: ``hold``, ``pull`` or ``decay``.

    ``isolated_by``, of a decay: who saw the valve shut and the pump off. ``ports``, of a system of
    several circuits: those that are open to the rig, ``A,B``. Refused on a charged kit; what else
    speaks against it is told by the call, since an instrument says what is, not what should be.
    """
    judged = ctx.judged(job_id)
    if not kit.may_be_evacuated(judged.rules):
        told = "neither nitrogen nor pump is connected to it"
        return refused(problem(409, "A charged kit", told))
    open_ = known_ports(judged, ports)
    with ctx.change() as session:
        uid = start_run(session, ctx, judged, kind, open_ if kind != "hold" else None)
        if kind == "decay" and isolated_by.strip():
            seen = Isolation(run=uid, by=isolated_by.strip()[:200], at=now())
            jobs.append_record(session, job_id, seen)
    return JSONResponse({"run": uid}, 201)


@router.post("/jobs/{job_id}/runs/{uid}/readings")
def post_readings(job_id: JobId, uid: str, body: Body, ctx: Context) -> Response:
    """Append readings, a list. One that is there already (instrument, seq) is stored once."""
    kind = jobs.run_kind(ctx.session, job_id, uid)
    try:
        readings = LIST_BY_KIND[kind].validate_json(body, strict=True)
    except ValidationError as error:
        return refused(from_validation(error))
    began = jobs.run_row(ctx.session, job_id, uid).started_at
    last_s = max((r.t_s for r in readings if not r.simulated), default=0.0)
    if told := not_yet(began, last_s, ctx.now()):
        return refused(problem(422, "Readings of a moment that has not come", told))
    try:
        with ctx.change(settles=False) as session:
            new = jobs.append_readings(session, job_id, uid, readings)
    except TakenError as error:
        return refused(problem(409, "This number is taken", str(error)))
    return JSONResponse({"stored": new, "known": len(readings) - new})


@router.get("/jobs/{job_id}/pictures")
def list_pictures(job_id: JobId, ctx: Context) -> list[PictureLine]:
    """The pictures of a job and what they show; each is at ``…/pictures/NAME.jpg``."""
    found = job_pictures(ctx, ctx.judged(job_id))
    return [
        PictureLine(of=p.of, place=p.place, name=p.name, by=p.by, at=p.at, kept=here)
        for p, here in found
    ]


@router.post("/jobs/{job_id}/pictures")
def post_picture(job_id: JobId, of: Thing, place: str, body: Body, ctx: Context) -> Response:
    """Keep a picture of a thing of the job; the body is the JPEG, PNG or WebP itself."""
    try:
        name = take(ctx, ctx.judged(job_id), of, place, body)
    except PictureError as error:
        return refused(problem(422, "Not a picture", str(error)))
    return JSONResponse({"name": name}, 201)


@router.get("/jobs/{job_id}/pictures/{name}.jpg")
def get_picture(job_id: JobId, name: str, ctx: Context) -> Response:
    """A picture as JPEG."""
    return show_picture(job_id, name, ctx)
