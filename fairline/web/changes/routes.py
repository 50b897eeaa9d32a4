"""What changed under a proof: drawn wrong, or changed on site; exchanged; shut off before."""

import re
from typing import Any, Literal

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.evacuate.void import ShutOff
from fairline.core.flare.stage import FlareStageResult
from fairline.core.parts import Ends, PartChange
from fairline.core.route.stage import RouteStageResult
from fairline.core.stages import STAGES
from fairline.store import jobs, part_changes
from fairline.store.document import NotFoundError
from fairline.web.changes.way_out import done_already, refusal, refusing
from fairline.web.frame.change_context import asked_of, exchangeable
from fairline.web.frame.forms import form_fields, read
from fairline.web.frame.request_context import Context, JobId, PostedForm
from fairline.web.frame.stage import stage_page

router = APIRouter(include_in_schema=False)


def _back(data: Any, job_id: int) -> tuple[str, str]:
    """The page that an answer was given on, and its stage."""
    asked = str(data.get("_back") or "")
    found = re.fullmatch(rf"/jobs/{job_id}/([a-z-]+)(\?part=[\w.]+)?", asked)
    if found is None or found[1] not in STAGES:
        return f"/jobs/{job_id}/flare", "flare"
    return asked, found[1]


@router.post("/jobs/{job_id}/changes/answer")
def answer(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Say of the parts that are ticked, or of all, whether they were drawn wrong or changed."""
    fields = {k: v for k, v in form_fields(data).items() if k in ("how", "reason", "by")}
    back, stage = _back(data, job_id)
    judged = ctx.judged(job_id)
    extra = {"kind": "part-change", "at": ctx.now()}
    said, form = read(PartChange, fields, ctx.system, extra=extra)
    form.prefix = "change-"
    if said is not None and said.how == "exchanged":
        raise NotFoundError("say whether it was drawn wrong or changed on site")
    ticked = {str(v) for v in data.getlist("part")}
    found = [q.difference for q in asked_of(judged)]
    asked = [d for d in found if not ticked or d.part in ticked]
    if said is not None and not asked:
        return ctx.onward(back, said.by)  # somebody said it meanwhile
    if said is None:
        return stage_page(ctx, judged, stage, status=422, change_form=form)
    made = [act.key for act in judged.of(FlareStageResult).proofs.acts]
    now = [spec.key for spec in judged.of(RouteStageResult).joints]
    with ctx.change() as session:
        how: Literal["corrected", "changed"]
        how = "corrected" if said.how == "corrected" else "changed"
        part_changes.answer(session, job_id, how, asked, said, (made, now), ctx.edit)
    return ctx.onward(back, said.by)


@router.post("/jobs/{job_id}/changes/exchange")
def exchange(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Another machine or tube stands there now, also one of the same model."""
    fields = form_fields(data)
    judged, part = ctx.judged(job_id), str(fields.get("part") or "")
    back, stage = _back(data, job_id)
    if part not in exchangeable(judged):
        raise NotFoundError("this job has no such machine or tube to exchange")
    given = {k: v for k, v in fields.items() if k in ("reason", "by")} | {"how": "exchanged"}
    extra = {"kind": "part-change", "at": ctx.now()}
    said, form = read(PartChange, given, ctx.system, extra=extra)
    refused = []
    if said is not None and not done_already(ctx, data):
        ends = {part: Ends(then=judged.of(FlareStageResult).proofs.now[part])}
        refused = refusing(judged, said.model_copy(update={"parts": ends}))
    if refused:
        form.errors["reason"] = refusal(refused)
    if said is None or refused:
        form.prefix = "exchange-"
        more: dict[str, Any] = {"exchange_form": form, "exchange_of": part, "refused": refused}
        return stage_page(ctx, judged, stage, status=422, **more)
    with ctx.change() as session:
        edit = ctx.edit
        part_changes.exchange(session, job_id, part, said.reason, said.by, said.at, edit)
    return ctx.onward(back, said.by)


@router.post("/jobs/{job_id}/changes/shut-off")
def shut_off(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Of ports pulled together: whether the others were shut off before one was opened."""
    fields = form_fields(data)
    judged = ctx.judged(job_id)
    given = {k: v for k, v in fields.items() if k in ("opened", "shut", "by")}
    worked = judged.of(EvacuateStageResult)
    opened = str(fields.get("opened") or "")
    groups = [group for group in worked.groups if group.decay and opened in group.ports]
    runs = [group.decay.uid for group in groups if group.decay is not None]
    if not runs:
        raise NotFoundError("this job has no such port that was pulled with others")
    extra = {"kind": "shut-off", "at": ctx.now(), "run": runs[0]}
    said, form = read(ShutOff, given, ctx.system, extra=extra)
    form.prefix = "shut-"
    if said is None:
        return stage_page(ctx, judged, "evacuate", status=422, shut_form=form)
    with ctx.change() as session:
        for uid in dict.fromkeys(runs):
            jobs.append_record(session, job_id, said.model_copy(update={"run": uid}))
    return ctx.onward(f"/jobs/{job_id}/evacuate", said.by)
