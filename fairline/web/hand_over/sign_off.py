"""Handing over, opening again, and what is added to a job that stands: visits, words, questions."""

from datetime import UTC
from importlib.metadata import version
from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core.entry import Record
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.evacuate.house_times import PullTime, pulled_s
from fairline.core.hand_over.records import (
    Addition,
    AnswerToIt,
    HandedOver,
    Question,
    Reopened,
    Visit,
    VisitDone,
)
from fairline.core.hand_over.stage import HandOverStageResult, day_calls, left_open
from fairline.core.plan.took import TookOnJob, took
from fairline.core.stages import TITLES
from fairline.store import house, jobs, plans, seals
from fairline.store.document import NotFoundError
from fairline.web.frame.forms import Form, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import here
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page
from fairline.web.plan.planning import tasks_of

router = APIRouter(include_in_schema=False)


def _refused(ctx: RequestContext, judged: JudgedJob, form: Form, name: str) -> Response:
    form.prefix = "" if name == "record" else f"{name}-"
    return stage_page(ctx, judged, "hand-over", status=422, **{f"{name}_form": form})


@router.post("/jobs/{job_id}/hand-over/done")
def hand_over(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """From now on the job stands as it is, sealed, with the calls of this day.

    Each stage that is open goes onto a visit, or is handed over so by name and reason.
    """
    judged = ctx.judged(job_id)
    if judged.job.handed_over is not None:
        raise jobs.HandedOverError(job_id)
    fields = form_fields(data)
    on, put = str(fields.pop("visit_on", "") or ""), fields.pop("visit_stages", [])
    open_ = left_open(judged.stages)
    put = [name for name in (put if isinstance(put, list) else [put]) if name in open_]
    extra = {
        "kind": "handed-over",
        "at": ctx.now(),
        "calls": day_calls(judged.stages),
        "to": judged.job.hand_over.received_by,
        "version": version("fairline"),
    }
    record, form = read(HandedOver, fields, ctx.system, extra=extra)
    visit, wrong = _visit_of(ctx, on, put, str(fields.get("by") or ""))
    form.values |= {"visit_on": on} | {f"visit_stages[].{name}": "on" for name in put}
    form.errors |= wrong
    left = [TITLES[name] for name in open_ if name not in put]
    if record is not None and left and not record.reason:
        form.errors["reason"] = f"say why, with this left open: {', '.join(left)}"
    if record is None or form.errors:
        return _refused(ctx, judged, form, "record")
    with ctx.change() as session:
        if visit is not None:
            jobs.append_record(session, job_id, visit)
        job = jobs.load(session, job_id).job
        sealed = seals.seal(session, job_id, job, record.by, record.at)
        record = record.model_copy(update={"seal": sealed.last})
        jobs.append_record(session, job_id, record)
        if (pulled := _pulled(judged)) is not None:
            house.add_pull_time(session, pulled)
        plans.keep_took(session, job_id, _took(ctx, judged))
    return ctx.onward(f"/jobs/{job_id}/hand-over", record.by)


def _took(ctx: RequestContext, judged: JudgedJob) -> TookOnJob | None:
    """What the tasks took, for the house's own times; None for a training job."""
    if judged.job.head.practice:
        return None
    every = tasks_of(ctx, judged, plans.of_job(ctx.session, judged.id).terms)
    zone = here(ctx.now()).tzinfo
    return took(judged.counted, judged.worked, every, zone or UTC)


def _pulled(judged: JudgedJob) -> PullTime | None:
    """How long the job was pulled, for the house's own times; None where that is not known."""
    worked = judged.of(EvacuateStageResult)
    long = pulled_s(judged.counted.vacua, worked.decay)
    if judged.job.head.practice or long is None:
        return None
    return PullTime(job=judged.job.uid, heads=max(1, len(judged.job.survey.now)), pull_s=long)


def _visit_of(
    ctx: RequestContext, on: str, stages: list[str], by: str
) -> tuple[Visit | None, dict[str, str]]:
    """The visit onto which open stages are put; None where none is, with what is wrong."""
    if not stages:
        return None, {}
    given = {"what": "open", "on": on, "stages": stages, "by": by, "kind": "visit"}
    extra = {"at": ctx.now(), "stages": stages}
    visit, form = read(Visit, given, ctx.system, extra=extra)
    told = form.errors.get("on")
    return visit, {"visit_on": f"the day of the visit: {told}"} if told else {}


@router.post("/jobs/{job_id}/hand-over/open")
def open_again(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Open a job again that was handed over, by name and reason."""
    return _kept(job_id, data, ctx, Reopened, "record")


@router.post("/jobs/{job_id}/hand-over/additions")
def add(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Words added to the record; the job may stand as it is."""
    return _kept(job_id, data, ctx, Addition, "addition")


@router.post("/jobs/{job_id}/hand-over/visits")
def plan_visit(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """A visit that is due on a day."""
    return _kept(job_id, data, ctx, Visit, "visit")


@router.post("/jobs/{job_id}/hand-over/visits/{visit}/begin")
def begin_visit(job_id: JobId, visit: str, data: PostedForm, ctx: Context) -> Response:
    """A visit that goes through stages again opens the job for it, by name."""
    judged = ctx.judged(job_id)
    due = next((d for d in judged.of(HandOverStageResult).visits if d.id == visit), None)
    if due is None:
        raise NotFoundError("there is no such visit")
    if judged.job.handed_over is not None:
        extra = {"kind": "reopened", "at": ctx.now(), "reason": f"Visit: {due.words}"[:200]}
        extra["visit"] = visit
        record, form = read(
            Reopened, form_fields(data) | {"reason": extra["reason"]}, ctx.system, extra=extra
        )
        if record is None:
            form.values["visit"] = visit
            return _refused(ctx, judged, form, "begun")
        with ctx.change() as session:
            jobs.append_record(session, job_id, record)
    first = due.stages[0] if due.stages else "hand-over"
    return ctx.onward(f"/jobs/{job_id}/{first}")


@router.post("/jobs/{job_id}/hand-over/visits/{visit}/done")
def visit_done(job_id: JobId, visit: str, data: PostedForm, ctx: Context) -> Response:
    """A visit was made: by whom, and what was found."""
    judged = ctx.judged(job_id)
    if visit not in {d.id for d in judged.of(HandOverStageResult).visits if d.made is None}:
        raise NotFoundError("there is no such visit, or it was made")
    return _kept(job_id, data, ctx, VisitDone, "made", visit=visit)


@router.post("/jobs/{job_id}/hand-over/questions")
def ask(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """A question to the maker."""
    return _kept(job_id, data, ctx, Question, "question")


@router.post("/jobs/{job_id}/hand-over/questions/{question}/answer")
def answer(job_id: JobId, question: str, data: PostedForm, ctx: Context) -> Response:
    """The maker's answer to one of them."""
    judged = ctx.judged(job_id)
    if question not in {q.uid for q in judged.job.recorded(Question)}:
        raise NotFoundError("there is no such question")
    return _kept(job_id, data, ctx, AnswerToIt, "answer", question=question)


def _kept(
    job_id: int, data: Any, ctx: RequestContext, model: type[Record], name: str, **more: Any
) -> Response:
    """One record of a form, or its page again with what is wrong beside the field."""
    fields = form_fields(data)
    extra = {"kind": model.model_fields["kind"].default, "at": ctx.now(), **more}
    record, form = read(model, fields, ctx.system, extra=extra)
    if record is None:
        form.values |= {k: str(v) for k, v in more.items()}
        return _refused(ctx, ctx.judged(job_id), form, name)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/hand-over", record.by)
