"""What the lists of steps post: one step, all that is left, or that it is passed over."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response
from starlette.datastructures import FormData

from fairline.core.procedures.progress import Progress
from fairline.core.procedures.records import ProcedureSteps
from fairline.core.stages import STAGES
from fairline.store import jobs
from fairline.store.document import NotFoundError
from fairline.web.frame.forms import Form, check_done_time, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page

router = APIRouter(include_in_schema=False)

NOT = ":not"  # a step that did not go as it should


def _named(judged: JudgedJob, stage: str, ids: Sequence[str]) -> list[Progress]:
    """The lists of a stage by their ids."""
    if stage not in STAGES:
        raise NotFoundError("a job has no such stage")
    known = {p.asked.id: p for p in judged.worked.done[stage].worked.procedures}
    return [known[id] for id in ids if id in known]


@dataclass(frozen=True)
class _Asked:
    """What was pressed: the lists it is of, one step or none, gone wrong, or passed over."""

    lists: list[Progress]
    step: str
    wrong: bool
    passed: bool


def _pressed(judged: JudgedJob, stage: str, fields: Mapping[str, Any]) -> _Asked:
    """What a form says; raises NotFoundError for a list or a step that the job does not have."""
    said = str(fields.get("step") or "")
    wrong = said.endswith(NOT)
    one, _, name = said.removesuffix(NOT).partition("|")
    passed = str(fields.get("pass") or "")
    lists = _named(judged, stage, str(fields.get("all") or passed or one).split(","))
    known = {s.name: s for p in lists for s in p.asked.steps}
    if not lists or (one and name not in known) or (wrong and not known[name].unless):
        raise NotFoundError("this job has no such list, or no such step in it")
    return _Asked(lists, name, wrong, bool(passed))


def _record(
    ctx: RequestContext, progress: Progress, asked: _Asked, data: FormData
) -> tuple[ProcedureSteps | None, Form]:
    """The record of one list, or its form with what is wrong."""
    fields, of = form_fields(data), progress.asked
    steps = (asked.step,) if asked.step else tuple(s.name for s in progress.left)
    extra = {
        "kind": "procedure-steps",
        "at": ctx.done(data),
        "procedure": of.procedure.name,
        "place": of.at.place,
        "token": of.at.token,
        "steps": () if asked.passed else steps,
        "went_wrong": asked.wrong,
        "passed_because": fields.get("why", "") if asked.passed else "",
    }
    record, form = read(ProcedureSteps, {"by": fields.get("by", "")}, ctx.system, extra=extra)
    form.prefix = "list-"
    form.values["why"] = fields.get("why", "")
    check_done_time(form, data)
    if whole := form.errors.pop("", ""):
        form.errors["why" if asked.passed else "by"] = whole.partition(": ")[2] or whole
    if asked.passed and not progress.passable:
        form.errors["why"] = "a step of it keeps somebody from harm: it is not passed over"
    return (None if form.errors else record), form


@router.post("/jobs/{job_id}/procedures")
def record_steps(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """``step`` is one step of one list; ``all`` what is left of some; ``pass`` leaves it out."""
    judged, fields = ctx.judged(job_id), form_fields(data)
    stage = str(fields.get("stage") or "")
    asked = _pressed(judged, stage, fields)
    records: list[ProcedureSteps] = []
    for progress in asked.lists:
        record, form = _record(ctx, progress, asked, data)
        if record is None:
            told: dict[str, Any] = {"list_form": form, "list_open": progress.asked.id}
            return stage_page(ctx, judged, stage, status=422, **told)
        records.append(record)
    with ctx.change() as session:
        for kept in records:
            jobs.append_record(session, job_id, kept)
    last = asked.lists[-1].asked
    shown = f"?part={last.at.part}" if last.at.part else ""
    return ctx.onward(f"/jobs/{job_id}/{stage}{shown}#at-{last.id}", records[-1].by)
