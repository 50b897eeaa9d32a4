"""Evacuate pages: the live gauge, the pull, the decay and its shape."""

from collections.abc import Callable, Sequence
from datetime import timedelta
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.responses import PlainTextResponse, Response
from markupsafe import Markup
from sqlalchemy.orm import Session, sessionmaker
from starlette.concurrency import run_in_threadpool

from fairline.core import kit
from fairline.core.calc.vacuum_decay import TRIPLE_PA, VacuumDecayResult
from fairline.core.call import Limit, StageCall
from fairline.core.check import capitalized
from fairline.core.entry import Record
from fairline.core.evacuate import circuit_group as evacuate
from fairline.core.evacuate.circuits import ports_in_words
from fairline.core.evacuate.drying import open_time_words
from fairline.core.evacuate.entry import DEFAULT_AMBIENT_C
from fairline.core.evacuate.expected_course import IN_PRACTICE
from fairline.core.evacuate.house_times import own_times
from fairline.core.evacuate.needle import by_needle, prescribed, wanted
from fairline.core.evacuate.pulling import BLED_PA
from fairline.core.evacuate.records import (
    WHAT,
    Accepted,
    Bled,
    Exposure,
    Isolation,
    PumpEvent,
    PumpOverride,
)
from fairline.core.evacuate.rig import GAUGE_WORDS, expected
from fairline.core.physics.constants import MINUTE_S
from fairline.core.proofs import Difference
from fairline.core.quantities import both, duration, parse
from fairline.core.route.circuits import Ports
from fairline.store import house, jobs
from fairline.store.document import NotFoundError
from fairline.web.bench.instruments import bench_context
from fairline.web.changes.way_out import refusal, refusing
from fairline.web.drawing import chart
from fairline.web.drawing.decay_chart import decay_chart
from fairline.web.drawing.rig import rig_drawing
from fairline.web.frame.forms import Form, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.live import FullError, Live, Watching
from fairline.web.frame.pages import job_context, render
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page, stage_view
from fairline.web.readings.current_run import held_s

router = APIRouter(include_in_schema=False)

ACTS: dict[str, tuple[type[Record], str]] = {  # each with the name of its form
    "bled": (Bled, "bled"),
    "pump-event": (PumpEvent, "event"),
    "accepted": (Accepted, "accept"),
    "exposure": (Exposure, "expose"),
    "ports": (Ports, "ports"),
}


def _charts(
    ctx: RequestContext,
    judged: JudgedJob,
    worked: evacuate.EvacuateStageResult,
    target: Limit | None,
) -> list[Markup]:
    """The pull or decay that is open or was last, on a wide paper and a narrow one."""
    run = worked.run
    if run is None or not run.readings:
        return []
    isolated = run.kind == "decay"
    limit_pa = worked.rule.max_pa if isolated or target is None else target.value
    hold_s = worked.rule.hold_s if isolated else None
    result = worked.answer.result if worked.answer and isolated else None
    marked = [((e.at - run.started_at).total_seconds(), WHAT[e.what]) for e in worked.events]
    return judged.drawn(
        f"vacuum {worked.ports}",
        ctx.system,
        lambda: [
            decay_chart(run, frame, ctx.system, limit_pa, hold_s, result, worked.expected, marked)
            for frame in (chart.WIDE, chart.NARROW)
        ],
    )


def _in_practice(ctx: RequestContext, judged: JudgedJob) -> str:
    """What such pulls take in practice: as people say, and on the house's own finished jobs."""
    times = house.pull_times(ctx.session).jobs
    return f"{IN_PRACTICE} {own_times(times, len(judged.job.survey.now))}".strip()


@stage_view("evacuate")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    rules, worked = judged.rules, current_group(ctx, judged)
    run, rule = worked.run, worked.rule
    result = worked.answer.result if worked.answer else None
    target = rules.limit("pull_to")
    isolated = run is not None and run.kind == "decay"
    needle = by_needle(run) if run and run.readings else wanted(rules)
    charts = [] if needle else _charts(ctx, judged, worked, target)
    return {
        "blank_ambient_c": DEFAULT_AMBIENT_C,
        "blank_resolution_pa": worked.told_resolution_pa or evacuate.DEFAULT_RESOLUTION_PA,
        "run": run,
        "open_run": run if run is not None and run.ended_at is None else None,
        "isolated": isolated,
        "result": result,
        "rule": rule,
        "target": target,
        "held_s": held_s(run),
        "rate_pa_s": worked.rate_pa_s,
        "charts": charts,
        **bench_context(ctx, judged, worked.ports),
        **ports_context(judged, worked),
        "vacuum_runs": worked.vacua,
        "needle": needle,
        "needle_hold": rules.limit("needle_hold"),
        "needle_pull": rules.limit("needle_pull"),
        "prescribed": prescribed(rules),
        "needle_steps": worked.needle_steps,
        "seen": worked.isolation is not None,
        "isolation": worked.isolation,
        "asked": kit.may_be_evacuated(rules),
        "shut": worked.shut,
        "pump_form": Form({"by": ctx.person}, prefix="pump-"),
        **{
            f"{name}_form": Form({"by": ctx.person}, prefix=f"{name}-") for _, name in ACTS.values()
        },
        "rig": worked.rig,
        "rig_drawn": judged.drawn(
            f"rig {worked.ports}",
            ctx.system,
            lambda: [rig_drawing(judged.job.evacuate.rig, worked.rig, ctx.system)],
        ),
        "expected": expected(worked.rig),
        "in_practice": "" if worked.decay else _in_practice(ctx, judged),
        "oil": worked.oil,
        "gauge_words": [(name, capitalized(words)) for name, words in GAUGE_WORDS.items()],
        "stands_pa": worked.stands_pa,
        "off": worked.off,
        "gauge_off_s": worked.gauge_off_s,
        "sure": certainty_words(result) if isolated else "",
        "close_ballast": worked.close_ballast,
        "accepted": worked.accepted,
        "attempts": worked.attempts,
        "what": WHAT,
        "stood": open_time_words(worked.stood),
        "stands_open": [s for s in worked.stood if s.since is not None],
        "drying": worked.drying,
        "exposures": judged.counted.recorded(Exposure),
        "run_names": [("all", "all runs"), *((e, e) for e in judged.job.route.runs)],
        "events": worked.events,
        "voided": _voided(judged),
        "bleds": judged.counted.recorded(Bled),
    }


def _voided(judged: JudgedJob) -> list[Difference]:
    """What is another one since the decays that counted, each part once."""
    found: dict[str, Difference] = {}
    for voided in judged.of(evacuate.EvacuateStageResult).voided:
        found |= {d.part: d for d in voided.by if d.answered}
    return list(found.values())


def current_group(ctx: RequestContext, judged: JudgedJob) -> evacuate.EvacuateStageResult:
    """The ports that the page is about: those asked for, else those of the newest run."""
    worked = judged.of(evacuate.EvacuateStageResult)
    asked = ctx.request.query_params.get("ports", "")
    return worked.of_ports(tuple(sorted(asked.split(",")))) or worked


def query(ports: Sequence[str]) -> str:
    """What keeps a page at its ports; blank where the system is one volume."""
    return f"?ports={quote(','.join(ports))}" if ports else ""


def ports_context(judged: JudgedJob, worked: evacuate.EvacuateStageResult) -> dict[str, Any]:
    """Each group of ports that stands for itself: its name, its call, how to get there."""
    whole = judged.of(evacuate.EvacuateStageResult)
    found = whole.circuits
    every = tuple(sorted(c.id for c in found))
    keys = dict.fromkeys((*whole.counts, worked.ports, every)) if found else {}
    groups = [(key, whole.of_ports(key)) for key in keys if key]
    return {
        "circuits": found,
        "ports": worked.ports,
        "query": query(worked.ports) if found else "",
        "groups": [
            (ports_in_words(found, key), query(key), group.call.call.verdict, key == worked.ports)
            for key, group in groups
            if group is not None
        ],
        "begin_form": Form({}),
        "group_call": worked.call if worked is not whole else _own_call(whole),
        "unsaid": whole.run if found and not whole.ports else None,
    }


def _own_call(whole: evacuate.EvacuateStageResult) -> StageCall:
    """The call of the ports at hand, where the stage's is that of all."""
    group = whole.of_ports(whole.ports) if whole.circuits else None
    return (group or whole).call


TELLING = 20.0  # times what was read: where a course leads beyond it nobody can say


def certainty_words(result: VacuumDecayResult | None) -> str:
    """How sure a shape is and when the course passes the limit, in words."""
    if result is None or result.certainty is None:
        return ""
    found = result.shape.replace("_", " ")
    below = result.plateau_pa is not None and result.plateau_pa < TRIPLE_PA
    if result.shape == "moisture" and below:  # what it is, is left open
        found = "slows and levels off"
    elif result.shape != "undecided":
        found += f", {min(9, int(result.certainty * 10))} in 10 sure"
    if result.limit_in_s is not None and result.limit_in_s <= TELLING * max(
        result.held_s, MINUTE_S
    ):
        found += (
            f"; the course passes the limit {duration(result.limit_in_s)} after closing"
            if result.limit_in_s >= 1
            else "; over the limit from closing on"
        )
    return f"{capitalized(found)}."


def pump_refused(ctx: RequestContext, judged: JudgedJob) -> Response | None:
    """The page that keeps the pump off, or None where it may run."""
    stands = judged.of(evacuate.EvacuateStageResult).stands_pa
    if stands is not None:
        told = (
            f"nitrogen stands at {both(stands, 'gauge')}: bleed it, read nought, and say so first"
        )
        form = Form({"by": ctx.person}, {"gauge_pa": told}, prefix="bled-")
        return stage_page(ctx, judged, "evacuate", bled_form=form, status=422)
    if not judged.of(evacuate.EvacuateStageResult).shut:
        return None
    form = Form(
        {"by": ctx.person},
        {
            "reason": "the pressure test does not hold yet: "
            "bring it to hold, or say why and who answers for it"
        },
        prefix="pump-",
    )
    return stage_page(ctx, judged, "evacuate", pump_form=form, status=422)


def isolation_of(uid: str, ctx: RequestContext) -> Isolation:
    """That the valve was shut and the pump seen off, for a run."""
    return Isolation(run=uid, by=ctx.person or "not named", at=ctx.now())


@router.post("/jobs/{job_id}/evacuate/override")
def override_pump(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """The pump may run though the pressure test does not hold: by name and reason, for good."""
    record, form = read(
        PumpOverride, form_fields(data), ctx.system, extra={"kind": "pump", "at": ctx.now()}
    )
    if record is None:
        form.prefix = "pump-"
        return stage_page(ctx, ctx.judged(job_id), "evacuate", pump_form=form, status=422)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/evacuate", record.by)


@router.post("/jobs/{job_id}/evacuate/acts")
def act(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Nitrogen bled, something done at the pump, a hold accepted as it is: ``act`` says which."""
    fields, judged = form_fields(data), ctx.judged(job_id)
    kind = str(fields.pop("act", ""))
    if kind not in ACTS:
        raise NotFoundError(f"say what was done: {', '.join(ACTS)}")
    (model, name), worked = ACTS[kind], current_group(ctx, judged)
    extra: dict[str, Any] = {"kind": kind, "at": ctx.now()}
    if kind in ("pump-event", "bled") and worked.ports:
        extra["ports"] = worked.ports
    if kind == "ports":
        extra["open"] = known_ports(judged, fields.pop("ports", []))
    if kind == "accepted":
        if worked.decay is None:
            raise NotFoundError("there is no decay to accept")
        extra["run"] = worked.decay.uid
    ago = str(fields.pop("ago", "")).strip()
    try:
        extra["at"] -= timedelta(seconds=parse(ago, "duration", ctx.system) if ago else 0.0)
    except ValueError as error:
        given = Form(fields | {"ago": ago}, {"ago": str(error)}, prefix="expose-")
        return stage_page(ctx, judged, "evacuate", status=422, expose_form=given)
    record, form = read(model, fields, ctx.system, extra=extra)
    if isinstance(record, Bled) and (record.gauge_pa or 0.0) > BLED_PA:
        form.errors["gauge_pa"] = "it still stands: bleed it until the gauge reads nought"
        record = None
    late = bool(ago) or ctx.late
    refused = refusing(judged, record) if record is not None and not late else []
    if refused:
        form.errors["by"] = refusal(refused)
        record = None
    if record is None:
        form.prefix = f"{name}-"
        more: dict[str, Any] = {f"{name}_form": form, "refused": refused}
        return stage_page(ctx, judged, "evacuate", status=422, **more)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    shown = record.open if isinstance(record, Ports) else worked.ports
    return ctx.onward(f"/jobs/{job_id}/evacuate{query(shown)}", record.by)


def known_ports(judged: JudgedJob, said: Any) -> tuple[str, ...]:
    """Those of the ports that were said which this system has, in order."""
    of = judged.of(evacuate.EvacuateStageResult).circuits
    names = said if isinstance(said, list | tuple) else str(said or "").split(",")
    return tuple(c.id for c in sorted(of, key=lambda c: c.id) if c.id in names)


@router.post("/jobs/{job_id}/evacuate/isolated")
def isolated(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Say of a decay that the valve was shut and the pump seen off."""
    judged = ctx.judged(job_id)
    uid = str(data.get("run") or "")[:200]
    if not any(r.uid == uid and r.kind == "decay" for r in judged.job.runs):
        raise NotFoundError("there is no such decay")
    by = str(data.get("by") or "").strip()[:200] or ctx.person or "not named"
    record = Isolation(run=uid, by=by, at=ctx.now())
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    shown = query(current_group(ctx, judged).ports)
    return ctx.onward(f"/jobs/{job_id}/evacuate{shown}", by if by != "not named" else "")


def live_part(request: Request, job_id: int) -> str:
    """The live part of the page as this request is shown it, from a session of its own."""
    with request.app.state.database.session() as session:
        fresh = RequestContext(request, session)
        judged = fresh.judged(job_id)
        return render(
            "evacuate/live.html", fresh, **job_context(judged, "evacuate"), **view(fresh, judged)
        )


def revision_now(sessions: sessionmaker[Session]) -> Callable[[int], int | None]:
    """How often a job has changed; None where it is gone."""

    def now(job_id: int) -> int | None:
        with sessions() as session:
            try:
                return jobs.revision_of(session, job_id)
            except NotFoundError:
                return None

    return now


@router.get("/jobs/{job_id}/evacuate/live")
async def live(job_id: JobId, request: Request) -> Response:
    """Server-sent events: the page's live part, made anew whenever a reading came in.

    It takes no session for as long as it lasts: an open page costs no connection.
    """
    streams: Live = request.app.state.live
    if await run_in_threadpool(revision_now(request.app.state.database.session), job_id) is None:
        raise NotFoundError(f"there is no job {job_id}")
    shown = [request.cookies.get(f"fairline_{name}", "") for name in ("units", "zone")]
    way = " ".join((*shown, request.query_params.get("ports", "")))
    try:
        watcher = streams.join(request, job_id, way)
    except FullError as full:
        return PlainTextResponse(str(full), 503)
    return Watching(streams, watcher)
