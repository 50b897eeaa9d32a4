"""Flare pages: the joint at hand, the ledger of all of them, the wrench and its card."""

import re
from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response
from markupsafe import Markup
from sqlalchemy.orm import Session
from starlette.datastructures import FormData

from fairline.core import kit
from fairline.core.calc.flare_torque import flare_od_mm, standard_torque_nm
from fairline.core.call import Verdict
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.contents.state import Finding
from fairline.core.entry import Entry, TorqueNm
from fairline.core.flare import stage as flare
from fairline.core.flare.records import (
    FIRST_NAMES,
    LOOKS,
    SEAMS,
    JointRecord,
    WrenchEntry,
    core_change,
)
from fairline.core.hand_over.picture import Picture
from fairline.core.parts import CORE, OUTDOOR
from fairline.core.physics.tubing import size_label, tubes
from fairline.core.quantities import both, parse, scale, show, typed
from fairline.core.route.piping import Piping
from fairline.core.route.stage import RouteStageResult
from fairline.core.route.written import written_down
from fairline.core.sheet.part import torque_nm
from fairline.core.units import System
from fairline.instruments.torque_wrench import TorqueWrench
from fairline.store import entries, jobs, pictures
from fairline.store.document import NotFoundError
from fairline.store.edits import Editing
from fairline.web.bench.instruments import MARK, shown, simulated, taken
from fairline.web.changes.way_out import done_already, refusal, refusing
from fairline.web.drawing.flare_gauge import flare_gauge
from fairline.web.drawing.flare_section import flare_section
from fairline.web.frame.forms import Form, check_done_time, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_context, stage_page, stage_view

router = APIRouter(include_in_schema=False)

ORDER = "fairline_order"  # whether this browser last recorded what was done before the proofs
DIDS = (("made", "Made"), ("tightened", "Tightened, not opened"), ("opened", "Opened"))
WORDS = {"hold": "the nitrogen hold", "decay": "the decay", "pull": ""}


def joints_of(judged: JudgedJob) -> list[flare.Joint]:
    """Every joint of a job as it stands."""
    return judged.of(flare.FlareStageResult).joints


def job_pictures(ctx: RequestContext, judged: JudgedJob) -> list[tuple[Picture, bool]]:
    """Every picture of a job, with whether what it shows is still kept here."""
    here = pictures.names(ctx.session, judged.id) if judged.job.pictures else set()
    return [(p, p.name in here) for p in judged.job.pictures]


@stage_view("flare")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    found = joints_of(judged)
    wrench = judged.job.flare
    return {
        "joints": found,
        **current_joint(found, ctx.request.query_params.get("joint", ""), wrench, ctx.system),
        "done": sum(j.call.verdict is Verdict.HOLDS for j in found),
        "looks": LOOKS,
        "seams": SEAMS,
        "conflicts": _conflicts(found, ctx.system),
        "open_joint": None,
        "flares": {r.place: r.flare for r in judged.counted.joints},
        "pictures": job_pictures(ctx, judged),
        "picture_error": "",
        "share": wrench.share(),
        "unit": wrench.reads or ("lbf·ft" if ctx.system == "us" else "N·m"),
        "sealant": judged.rules.school("sealant"),
        "charged": kit.stays_sealed(judged.rules),
        "shown_now": shown(ctx, judged, "wrench"),
        "proved_since": next(iter(proofs_at(judged)), None),
        "order": _order(ctx, judged.id),
        "leaked": {c.joint for c in judged.counted.leak_checks if c.found == "leak"},
        "dids": DIDS,
        "rains": any(
            p.raining for p in judged.of(flare.FlareStageResult).contents.parts().values()
        ),
        "core_ports": [
            ("", "not stated"),
            *((p, p) for p in core_ports(judged.of(RouteStageResult).pipes)),
        ],
        "cores": [r for r in judged.counted.joints if r.sides and r.sides[1] == CORE],
        "core_form": Form({"by": ctx.person}, prefix="core-"),
    }


def core_ports(pipes: Piping) -> list[str]:
    """The ports of the outdoor unit with a service valve to get at: those that a run is on."""
    return [at.partition("-")[2] for at in pipes.used if at.startswith(f"{OUTDOOR}-")]


def _order(ctx: RequestContext, job_id: int) -> str:
    """The answer that this browser gave last on this job: one for several."""
    of, _, order = ctx.request.cookies.get(ORDER, "").partition(".")
    return order if of == str(job_id) and order in ("before", "after") else ""


def current_joint(
    found: list[flare.Joint], place: str, wrench: WrenchEntry, system: System
) -> dict[str, Any]:
    """The joint that is asked for, else the next that does not hold, with its drawings."""
    shown = [j for j in found if j.place == place] or _next(found)[:1] or found[:1]
    return drawn(shown, found, wrench, system)


def drawn(
    shown: list[flare.Joint], found: list[flare.Joint], wrench: WrenchEntry, system: System
) -> dict[str, Any]:
    """Joints as their cards show them: with their drawings and what to set on the wrench.

    ``found``: all joints, of which one may have been made with the wrench set as it is.
    """
    return {
        "set_for": {j.place: _set_before(j, found, system) if wrench.clicks else "" for j in shown},
        "shown": shown,
        "gauges": {j.place: flare_gauge(j, system) for j in shown},
        "sections": {j.place: _section(j) for j in shown},
        "settings": {j.place: _setting(j, wrench, system) for j in shown},
    }


def _next(found: list[flare.Joint]) -> list[flare.Joint]:
    """The joints that do not hold yet, in order."""
    return [j for j in found if j.call.verdict is not Verdict.HOLDS]


def _set_before(joint: flare.Joint, found: list[flare.Joint], system: System) -> str:
    """What a clicking wrench was set to for the last nut of this size; blank before the first."""
    made = [j.record for j in found if j.record is not None and j.od_mm == joint.od_mm]
    read = [r for r in made if r.wrench_nm is not None]
    if not read:
        return ""
    last = max(read, key=lambda record: record.at)
    return typed(last.wrench_nm or 0.0, "torque", system)


def _section(joint: flare.Joint) -> Markup | None:
    result = joint.answer.result if joint.answer else None
    if result is None or result.flare_od_mm is None or joint.od_mm is None:
        return None
    return flare_section(joint.od_mm, result.flare_od_mm, joint.label)


def _setting(
    joint: flare.Joint, wrench: WrenchEntry, system: System
) -> tuple[str, str, str] | None:
    """What to set on the wrench: number, unit, and the other unit."""
    result = joint.answer.result if joint.answer else None
    aim = (result.set_wrench_nm or result.aim_nm) if result else None
    if aim is None:
        return None
    if wrench.reads:
        factor = scale(UNITS[wrench.reads], "newton*meter")[0]
        return f"{aim / factor:.1f}", wrench.reads, both(aim, "torque")
    said = show(aim, "torque", system)
    return said.number, said.unit, said.other or ""


def _conflicts(found: list[flare.Joint], system: System) -> list[tuple[str, str, str]]:
    """Sizes whose sheet torque differs from the standard's, each once, with both."""
    told: dict[str, tuple[str, str, str]] = {}
    for joint in found:
        answer = joint.answer
        if answer is None or "sheet_differs_from_standard" not in answer.findings:
            continue
        standard = standard_torque_nm(joint.od_mm or 0.0)
        if standard is not None and answer.result.target_nm is not None and joint.size:
            told[joint.size] = (
                joint.size,
                _range(answer.result.target_nm, system),
                _range(standard, system),
            )
    return list(told.values())


def _range(ends: Sequence[float], system: System) -> str:
    low, high = (show(nm, "torque", system) for nm in ends)
    return f"{low.number} to {high.text}"


UNITS = {
    "lbf·ft": "foot*force_pound",
    "lbf·in": "inch*force_pound",
    "N·m": "newton*meter",
}


def _typed(text: str, wrench: WrenchEntry) -> str:
    """A torque as it was typed; a bare number is in the wrench's own unit."""
    bare = re.fullmatch(r"\s*[\d.,/ ]+\s*", text) is not None
    return f"{text} {wrench.reads}" if bare and wrench.reads else text


@router.get("/jobs/{job_id}/flare/ahead")
def next_joint_ahead(job_id: JobId, ctx: Context) -> HTMLResponse:
    """The cards of all joints that are left: a page without signal opens the next from them."""
    judged = ctx.judged(job_id)
    left = _next(joints_of(judged))
    cards = drawn(left, joints_of(judged), judged.job.flare, ctx.system)
    context = stage_context(ctx, judged, "flare", None, cards)
    return page("flare/ahead.html", ctx, **context)


@router.post("/jobs/{job_id}/flare/joints")
def record_joint(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Append one making of a joint. The torque typed is the wrench's; the nut's is worked out."""
    judged = ctx.judged(job_id)
    all_joints = joints_of(judged)
    fields, extra = _making(form_fields(data), judged, ctx)
    place = str(fields["place"])
    mine = next((j for j in all_joints if j.place == place), None)
    if mine is not None:
        extra["sides"] = mine.key.partition(":")[2].split("|")
        fields["did"] = "capped" if mine.cap else fields.get("did") or "made"
    extra["at"] = ctx.done(data)
    record, form = read(JointRecord, fields, ctx.system, extra=extra)
    check_done_time(form, data)
    if record is not None and mine is None:
        form.errors[""] = f"this job has no such joint: {record.place[:40]}"
        record = None
    record = _in_order(judged, record, data, form)
    refused = _refused(ctx, judged, record, mine, data)
    if record is None or refused:
        if refused:
            form.errors["place"] = refusal(refused)
        return stage_page(
            ctx,
            judged,
            "flare",
            record_form=_pointed(form),
            status=422,
            open_joint=place,
            refused=refused,
            **current_joint(all_joints, place, judged.job.flare, ctx.system),
        )
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
        _write_down(session, judged, record.place)
    shown = _shown_next(all_joints, _next(joints_of(ctx.judged(job_id))), record.place)
    answer = ctx.onward(f"/jobs/{job_id}/flare?joint={quote(shown)}", record.by)
    if order := str(data.get("_order") or ""):
        answer.set_cookie(ORDER, f"{job_id}.{order[:8]}", max_age=3600, samesite="lax")
    return answer


def _making(
    fields: dict[str, Any], judged: JudgedJob, ctx: RequestContext
) -> tuple[dict[str, Any], dict[str, Any]]:
    """The posted fields of a making as the record has them, and what is worked out from them."""
    extra: dict[str, Any] = {"kind": "joint", "roof": bool(fields.pop("roof", ""))}
    # The action of the moment says what was seen; a fault that was chosen stands before it.
    even = fields.pop("even", "")
    fields["look"] = fields.get("look") or ("good" if even else "")
    asked = str(fields.get("place"))
    fields["place"] = FIRST_NAMES.get(asked, asked)
    if fields.get("how", "measured") != "measured":  # a torque typed before does not count
        fields["wrench_nm"] = ""
    elif told := str(fields.get("wrench_nm") or ""):
        extra |= _torques(told, judged.job.flare, ctx, fields)
    return {k: v for k, v in fields.items() if k not in (MARK, "set_nm", "sides")}, extra


def _torques(
    told: str, wrench: WrenchEntry, ctx: RequestContext, fields: dict[str, Any]
) -> dict[str, Any]:
    """What the wrench read and what the nut had; nothing where the model refuses what is typed."""
    try:
        read_nm = parse(_typed(told, wrench), "torque", ctx.system)
        # What a simulated wrench read is marked so, unless somebody typed over it.
        sham = simulated(ctx, dict(fields), {"wrench_nm": "torque"})
        return {"applied_nm": read_nm / wrench.share(), "wrench_nm": read_nm, "simulated": sham}
    except ValueError:
        return {}


def _refused(
    ctx: RequestContext,
    judged: JudgedJob,
    record: JointRecord | None,
    mine: flare.Joint | None,
    data: FormData,
) -> list[Finding]:
    """What of the way out stands before a joint is opened; nothing where it was done before."""
    if record is None or data.get("_order") == "before" or done_already(ctx, data):
        return []
    return refusing(judged, record, mine)


def _shown_next(all_joints: list[flare.Joint], left: list[flare.Joint], place: str) -> str:
    """The joint to show after one was recorded: itself while it is left, else the next of them."""
    if not left or place in [j.place for j in left]:
        return place
    known = [j.place for j in all_joints]
    later = (j.place for j in left if known.index(j.place) > known.index(place))
    return str(next(later, left[0].place))


def proofs_at(judged: JudgedJob) -> list[tuple[str, datetime]]:
    """What was proved on the system already: in words, and when it began, the first of it first."""
    found = [(WORDS[r.kind], r.started_at) for r in judged.counted.runs if r.readings]
    found += [("the valves were opened", r.at) for r in judged.of(ChargeStageResult).openings]
    return sorted((x for x in found if x[0]), key=lambda x: x[1])


def _in_order(
    judged: JudgedJob, record: JointRecord | None, data: FormData, form: Form
) -> JointRecord | None:
    """A making before or after what was proved: asked where a proof stands, and no time is typed.

    What was done before it is given a moment just before the first proof.
    """
    order = str(data.get("_order") or "")
    form.values["_order"] = order
    proved = proofs_at(judged)
    typed = str(data.get("_done") or "").strip()
    if record is None or not proved or typed or not data.get("_asks_order"):
        return record
    if order == "before":
        return record.model_copy(update={"at": proved[0][1] - timedelta(seconds=1)})
    if order == "after":
        return record
    form.errors["_order"] = f"say whether this was done before {proved[0][0]}, or after it"
    return None


def _write_down(session: Session, judged: JudgedJob, place: str) -> None:
    """What the joint shows is written into the plan: its outlet, its valve, its port kept."""
    routed, entry = judged.of(RouteStageResult), judged.job.route
    spec = next((s for s in routed.joints if s.id == place), None)
    written = written_down(entry, routed, spec) if spec is not None else entry
    if written != entry:
        entries.save_over(session, judged.id, "route", written, Editing())


@router.post("/jobs/{job_id}/flare/cores")
def record_core(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Append the change of a valve core: in the open it is a joint made anew, through the tool not.

    Either way the port and its cap are looked at for a leak.
    """
    fields = form_fields(data)
    judged = ctx.judged(job_id)
    port, how = str(fields.get("port") or ""), str(fields.get("core_by") or "")
    told = core_change(judged.job.equipment.machine(OUTDOOR), port, how == "open")
    extra = told | {"at": ctx.done(data), "kind": "joint"}
    said = {"by": fields.get("by") or ""}
    record, form = read(JointRecord, said, ctx.system, extra=extra)
    form.prefix, form.values = "core-", form.values | fields
    form.errors = {name: told for name, told in form.errors.items() if name == "by"}
    check_done_time(form, data)
    if port not in core_ports(judged.of(RouteStageResult).pipes):
        form.errors["port"] = "say at which port"
    if how not in ("tool", "open"):
        form.errors["core_by"] = "say whether it went through the core tool"
    if "seen" not in fields:
        form.errors["seen"] = "look at the port and its cap for a leak first"
    late = done_already(ctx, data)
    refused = refusing(judged, record) if record is not None and not late else []
    if refused:
        form.errors["core_by"] = refusal(refused)
    if record is None or form.errors:
        more: dict[str, Any] = {"core_form": form, "refused": refused}
        return stage_page(ctx, judged, "flare", status=422, **more)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/flare", record.by)


@router.post("/jobs/{job_id}/flare/wrench")
def from_wrench(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """What a wrench read stands in the joint's form: one that reports, or the one to practise with.

    The one to practise with clicks near what somebody set it to; it does not know the joint.
    """
    fields = form_fields(data)
    judged = ctx.judged(job_id)
    joint = next((j for j in joints_of(judged) if j.place == fields.get("place")), None)
    if joint is None:
        raise NotFoundError("there is no such joint to put a wrench on")
    if "take" in fields:
        form = taken(ctx, judged, fields | {"how": "measured"}, "wrench")
    elif not judged.job.head.practice:
        raise NotFoundError("a simulated wrench is for training jobs only")
    else:
        form = _clicked(ctx, fields, job_id * 1000 + joint.makings + len(joint.place))
    return stage_page(
        ctx,
        judged,
        "flare",
        record_form=form,
        open_joint=joint.place,
        status=422 if form.errors else 200,
        **current_joint([joint], joint.place, judged.job.flare, ctx.system),
    )


def _clicked(ctx: RequestContext, fields: dict[str, Any], seed: int) -> Form:
    """The form with a click of the wrench to practise with, as it was set."""
    sizes, checked = read(WrenchSet, {"set_nm": fields.get("set_nm") or ""}, ctx.system)
    if sizes is None or not sizes.set_nm or sizes.set_nm <= 0:
        told = checked.errors.get("set_nm") or "set the wrench first: type what it is set to"
        return Form(fields, {"set_nm": told})
    read_nm = f"{TorqueWrench(sizes.set_nm, seed=seed).click():.2f} N·m"
    kept = {k: v for k, v in fields.items() if k != "_u.wrench_nm"}
    return Form(kept | {"wrench_nm": read_nm, MARK: f"wrench_nm={read_nm}", "how": "measured"})


class WrenchSet(Entry):
    """What the wrench to practise with is set to, N·m."""

    set_nm: TorqueNm = None


@router.get("/jobs/{job_id}/torque-card")
def torque_card(job_id: JobId, ctx: Context) -> HTMLResponse:
    """Every tube size with its torque and what to set: for the lid of the tool box."""
    judged = ctx.judged(job_id)
    wrench, outdoor = judged.job.flare, judged.rules.outdoor
    rows = []
    for tube in tubes():
        own = torque_nm(outdoor.torques, tube.od_mm) if outdoor else None
        window = own or standard_torque_nm(tube.od_mm)
        if window is None:
            continue
        aim = sum(window) / 2 * wrench.share()
        unit = wrench.reads or ("lbf·ft" if ctx.system == "us" else "N·m")
        rows.append(
            {
                "size": size_label(tube.od_mm),
                "flare": flare_od_mm(tube.od_mm),
                "window": _range(window, ctx.system),
                "setting": f"{aim / scale(UNITS[unit], 'newton*meter')[0]:.1f} {unit}",
                "says": outdoor.source("torques") if own and outdoor else "EN 378-2, from memory",
            }
        )
    return page("flare/card.html", ctx, j=judged, job=judged.job, rows=rows, wrench=wrench)


def _pointed(form: Form) -> Form:
    """A joint without a torque is told so at the torque."""
    if form.whole:
        form.errors.setdefault("wrench_nm", form.whole)
    if "look" in form.errors:
        form.errors["look"] = (
            "say how it looks, or press the button that says it is even and bright"
        )
    return form
