"""The bench of a practice job: every simulated instrument on it, and what is wrong behind each."""

from typing import Any
from urllib.parse import urlsplit

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response
from starlette.datastructures import FormData

from fairline.core.entry import ChargeKg, CylinderKg, Entry, TorqueNm
from fairline.core.instrument import Spot, What
from fairline.core.readings import RunKind
from fairline.core.stages import STAGE_OF_RUN
from fairline.instruments import catalogue
from fairline.instruments.catalogue import Choice, ChoiceError
from fairline.store.document import NotFoundError
from fairline.store.instruments import newest_spots
from fairline.web.bench import bench
from fairline.web.bench.instruments import bench_context, shown
from fairline.web.bench.rig_line import rig_line
from fairline.web.evacuate import current_group, pump_refused
from fairline.web.frame.forms import Form, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.readings.current_run import not_asked, open_run
from fairline.web.runs import out_of_order, start_run

router = APIRouter(include_in_schema=False)
RUN_OF: dict[str, RunKind] = {"manometer": "hold", "micron": "pull"}  # what a gauge begins


class Sizes(Entry):
    """What is typed for an instrument: the cylinder, what leaves it, what a wrench is set to."""

    start_kg: CylinderKg = None
    to_go_kg: ChargeKg = None
    set_nm: TorqueNm = None


@router.get("/jobs/{job_id}/bench")
def open_bench(job_id: JobId, ctx: Context) -> HTMLResponse:
    """What is on, what can be put on, and how to run one as a process of its own."""
    return _bench(ctx, ctx.judged(job_id))


def _bench(ctx: RequestContext, judged: JudgedJob, status: int = 200, **more: Any) -> HTMLResponse:
    at = f"--job {ctx.request.base_url}jobs/{judged.id}"
    context = bench_context(ctx, judged) | {
        "runs": judged.job.runs,
        "spots": newest_spots(ctx.session, judged.id),
        "commands": [
            f"fairline instrument micron {at} --scenario wet --speed 60",
            f"fairline instrument micron {at} --leak 0.0003 --water 4 --speed 60",
            f"fairline instrument manometer {at} --scenario cooling --speed 600",
            f"fairline instrument scale {at} --start 10 --take 0.4",
            f"fairline instrument thermometer {at} --scenario supply",
            f"fairline instrument wrench {at} --set 16",
        ],
    }
    return page("bench/page.html", ctx, status, j=judged, job=judged.job, **context | more)


@router.post("/jobs/{job_id}/bench/{what}")
def put_on(job_id: JobId, what: What, data: PostedForm, ctx: Context) -> Response:
    """Put a simulated instrument on the job; a gauge for runs begins one where none is open."""
    judged = ctx.judged(job_id)
    if not judged.job.head.practice:
        raise NotFoundError("a simulated instrument is for training jobs only")
    fields = form_fields(data)
    group = current_group(ctx, judged)
    ports = group.ports if what == "micron" else ()
    if what in RUN_OF and (refused := _run_refused(ctx, judged, what, ports)):
        return refused
    choice, form = _choice(what, fields, ctx)
    if ctx.request.app.state.settings.workers > 1:  # the others would not know of it
        form.errors["scenario"] = "simulated instruments work on a server of one process"
    if choice is None or form.errors:
        return _bench(ctx, judged, 422, bench_form=form)
    try:
        instrument = catalogue.made(choice, rig_line(judged, group).model_dump(), job_id)
    except ChoiceError as error:
        form.errors["scenario"] = str(error)
        return _bench(ctx, judged, 422, bench_form=form)
    open_ = group.run is not None and group.run.ended_at is None
    if what == "manometer" or (what == "micron" and not open_):
        with ctx.change() as session:
            start_run(session, ctx, judged, RUN_OF[what], ports or None)
    scenario = choice.scenario or next(iter(catalogue.SCENARIOS[what]))
    speed = int(str(fields.get("speed") or bench.SPEEDS[what][0]))
    ctx.request.app.state.bench.put(job_id, instrument, scenario, speed, ports)
    return ctx.onward(_back(data, job_id))


def _run_refused(
    ctx: RequestContext, judged: JudgedJob, what: What, ports: tuple[str, ...]
) -> Response | None:
    """The page that says why a gauge cannot begin a run now."""
    kind = RUN_OF[what]
    refused = not_asked(ctx, judged, STAGE_OF_RUN[kind])
    if refused is None and what == "micron":
        refused = pump_refused(ctx, judged)
    if refused is None and (what == "manometer" or open_run(judged, "pull", "decay") is None):
        refused = out_of_order(ctx, judged, kind, ports)
    return refused


def _choice(what: What, fields: dict[str, str], ctx: RequestContext) -> tuple[Choice | None, Form]:
    """What was chosen of an instrument, or what is wrong with it, beside the fields."""
    typed = {name: fields.get(name) for name in Sizes.model_fields if fields.get(name)}
    sizes, form = read(Sizes, typed, ctx.system)
    if str(fields.get("speed") or bench.SPEEDS[what][0]) not in map(str, bench.SPEEDS[what]):
        form.errors["speed"] = "choose one of these"
    if sizes is None or form.errors:
        return None, form
    try:
        choice = Choice(
            what,
            str(fields.get("scenario") or ""),
            catalogue.LEAKS.get(str(fields.get("leak")), 0.0),
            catalogue.WATERS.get(str(fields.get("water")), 0.0),
            **sizes.model_dump(exclude_none=True),
        )
    except ChoiceError as error:
        form.errors["scenario"] = str(error)
        return None, form
    return choice, form


@router.post("/jobs/{job_id}/bench/{what}/off")
def take_off(job_id: JobId, what: What, data: PostedForm, ctx: Context) -> Response:
    """Take a simulated instrument off the job."""
    ports = current_group(ctx, ctx.judged(job_id)).ports if what == "micron" else ()
    ctx.request.app.state.bench.off(job_id, what, ports)
    return ctx.onward(_back(data, job_id))


@router.get("/jobs/{job_id}/shown/{what}")
def show(job_id: JobId, what: Spot, ctx: Context) -> HTMLResponse:
    """What instruments of a kind show now: a part of a form that is asked for again and again."""
    judged = ctx.judged(job_id)
    return page("shown.html", ctx, j=judged, shown=shown(ctx, judged, what))


def _back(data: FormData, job_id: int) -> str:
    """The page of this job that the form stood on; the bench where it does not say."""
    asked = urlsplit(str(data.get("_back") or ""))
    if not asked.path.startswith(f"/jobs/{job_id}/"):
        return f"/jobs/{job_id}/bench"
    return asked.path + (f"?{asked.query}" if asked.query else "")
