"""Wire pages: conductors landed, ends finished, proved dead, power on; the cards for the lids."""

from typing import Any
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from fairline.core.call import Verdict
from fairline.core.charge.override import not_passed
from fairline.core.charge.power import lacking_for
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.entry import Record
from fairline.core.quantities import duration
from fairline.core.wire.interconnect import EndResult
from fairline.core.wire.records import ALL, Landing, PowerOn, ProvedDead, SwitchedOff, WireEnd
from fairline.core.wire.screws import missing_landings, required_finish
from fairline.store import jobs
from fairline.store.document import NotFoundError
from fairline.web.frame.forms import Form, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page
from fairline.web.wire.cards import cards
from fairline.web.wire.view import CABLES, POWER, current_end, wire_result

router = APIRouter(include_in_schema=False)
PAIR_UNSAID = "look at the pair first and say its colours below: black and white, blue and white"


def _end_of(judged: JudgedJob, fields: dict[str, Any]) -> EndResult:
    asked = str(fields.pop("end", ""))
    found = next((e for e in wire_result(judged).ends if e.id == asked), None)
    if found is None:
        raise NotFoundError(f"this job has no such end of a cable: {asked[:40] or 'none named'}")
    return found


def _keep(ctx: RequestContext, job_id: int, records: list[Record]) -> None:
    with ctx.change() as session:
        for record in records:
            jobs.append_record(session, job_id, record)


@router.post("/jobs/{job_id}/wire/landings")
def land(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """A conductor as it lies: by a tap on its screw (``tap``), or as it was found there."""
    fields, judged = form_fields(data), ctx.judged(job_id)
    end = _end_of(judged, fields)
    if tapped := str(fields.pop("tap", "")):
        wanted = wire_result(judged).wiring.colour_at(end.cable, end.side, tapped)
        if wanted is None and tapped in end.block.places:
            return _again(ctx, judged, end, Form(fields, {"terminal": PAIR_UNSAID}))
        fields |= {"terminal": tapped, "colour": wanted or "", "pulled": "true"}
    where = str(fields.pop("at", "")) or end.block.id
    given = {k: v for k, v in fields.items() if k in ("terminal", "colour", "pulled", "by")}
    extra = {
        "kind": "landing",
        "at": ctx.now(),
        "cable": end.cable.id,
        "side": end.side,
        "block": where,
    }
    record, form = read(Landing, given, ctx.system, extra=extra)
    block = wire_result(judged).wiring.blocks.get(where)
    if record is not None and (block is None or record.terminal not in block.places):
        form.errors["terminal"] = "there is no such screw"
        record = None
    if record is not None and not ctx.late and (live := _live(judged, where)):
        form.errors["terminal"] = live
        record = None
    if record is None:
        return _again(ctx, judged, end, form)
    _keep(ctx, job_id, [record])
    return ctx.onward(_at(job_id, end), record.by)


def _live(judged: JudgedJob, block: str) -> str:
    """Why no hand goes into a block now; blank where it may."""
    found = wire_result(judged).dead_at(block)
    return found.keeps_hands_out if found is not None else ""


def _again(ctx: RequestContext, judged: JudgedJob, end: EndResult, form: Form) -> HTMLResponse:
    return stage_page(
        ctx,
        judged,
        "wire",
        status=422,
        record_form=form,
        part=CABLES,
        **current_end(ctx, judged, end.id),
    )


def _at(job_id: int, end: EndResult) -> str:
    return f"/jobs/{job_id}/wire?part=cables&end={quote(end.id)}"


@router.post("/jobs/{job_id}/wire/finish")
def finish(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """An end of a cable finished: all of it in order (``all``), or as it is said.

    With all in order, every conductor lies where it belongs, whatever was said before.
    """
    fields, judged = form_fields(data), ctx.judged(job_id)
    end, worked = _end_of(judged, fields), wire_result(judged)
    whole = bool(fields.pop("all", ""))
    if whole and None in end.cable.colours:
        return _again(ctx, judged, end, Form(fields, {"terminal": PAIR_UNSAID}))
    names = ("letter", "tip", "slack", "strain", "cover", "plug", "shield", "by")
    given = {k: v for k, v in fields.items() if k in names}
    if whole:
        given |= required_finish(end, worked.wiring)
    extra = {
        "kind": "wire-end",
        "at": ctx.now(),
        "cable": end.cable.id,
        "side": end.side,
    }
    record, form = read(WireEnd, given, ctx.system, extra=extra)
    if record is not None and not ctx.late and (live := _live(judged, end.block.id)):
        form.errors["by"] = live
        record = None
    if record is None:
        return _again(ctx, judged, end, form)
    rest: list[Record] = []
    if whole:
        rest += missing_landings(end, worked.wiring, worked.lies, record.by, record.at)
    _keep(ctx, job_id, [*rest, record])
    after = wire_result(ctx.judged(job_id)).ends
    mine = next(e for e in after if e.id == end.id)
    left = [e for e in after if e.call.verdict is not Verdict.HOLDS]
    following = [e for e in left if after.index(e) > after.index(mine)]
    shown = mine if mine in left else next(iter([*following, *left, mine]))
    return ctx.onward(_at(job_id, shown), record.by)


@router.post("/jobs/{job_id}/wire/dead")
def prove(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Off and locked, proved dead, not fed yet, or live: ``act`` says which."""
    fields, judged = form_fields(data), ctx.judged(job_id)
    act, unit = str(fields.get("act") or ""), str(fields.get("unit") or "")
    if unit not in wire_result(judged).dead:
        raise NotFoundError("this job has no such unit with a circuit of its own")
    tried = {"tester_before": "yes", "tester_after": "yes"}
    models: dict[str, tuple[type[Record], dict[str, str]]] = {
        "off": (SwitchedOff, {"locked": "yes"}),
        "dead": (ProvedDead, {"how": "locked", "dead": "yes", **tried}),
        "not-fed": (ProvedDead, {"how": "not fed", "dead": "yes"}),
        "live": (ProvedDead, {"how": "locked", "dead": "no", **tried}),
    }
    if act not in models:
        raise NotFoundError("say what was done: off, dead, not-fed or live")
    model, said = models[act]
    given = {"by": fields.get("by", ""), "unit": unit, **said}
    record, form = read(model, given, ctx.system, extra={"at": ctx.now()})
    form.prefix = "dead-"
    left_s = wire_result(judged).dead[unit].ready_in_s(ctx.now()) or 0.0
    if act == "not-fed" and record is not None and judged.job.wire.supply(unit).been == "yes":
        form.errors[""] = "its circuit is connected at the panel: off, lock, prove it dead"
        record = None
    if act == "dead" and record is not None and left_s > 1:
        form.errors[""] = f"stored charge runs down for {duration(left_s)} more: then prove it"
        record = None
    if record is None:
        return stage_page(
            ctx,
            judged,
            "wire",
            status=422,
            dead_form=form,
            part=CABLES,
            **current_end(ctx, judged),
        )
    _keep(ctx, job_id, [record])
    back = str(fields.get("end") or "")
    known = {e.id for e in wire_result(judged).ends}
    shown = f"&end={quote(back)}" if back in known else ""
    return ctx.onward(f"/jobs/{job_id}/wire?part=cables{shown}", record.by)


@router.post("/jobs/{job_id}/wire/power")
def power_on(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Power comes on: where nothing lacks, or by name and reason."""
    fields, judged = form_fields(data), ctx.judged(job_id)
    asked = str(fields.pop("_from", "") or data.get("_from") or "")
    back = asked if asked in ("wire", "charge", "commission") else "wire"
    given = {
        k: v for k, v in fields.items() if k in ("why", "override_by", "override_reason", "by")
    }
    extra: dict[str, Any] = {"kind": "power-on", "at": ctx.now()}
    named = tuple(str(v) for v in data.getlist("passed") if v in ALL)
    if given.get("override_by"):
        extra["passed"] = named
    record, form = read(PowerOn, given, ctx.system, extra=extra)
    form.values["passed"] = ",".join(named)
    if record is not None:
        lacks = lacking_for(record.why, judged.of(ChargeStageResult).lacks)
        if left := not_passed(lacks, record.overridden, record.named):
            form.errors[left[0]] = left[1]
            record = None
    if record is None:
        form.prefix = "power-"
        if form.whole:
            form.errors.setdefault("override_by", form.whole)
        more: dict[str, Any] = {"part": POWER} if back == "wire" else {}
        return stage_page(ctx, judged, back, status=422, power_form=form, **more)
    _keep(ctx, job_id, [record])
    shown = f"/jobs/{job_id}/wire?part=power" if back == "wire" else f"/jobs/{job_id}/{back}"
    return ctx.onward(shown, record.by)


@router.get("/jobs/{job_id}/wire-cards")
def wire_cards(job_id: JobId, ctx: Context) -> HTMLResponse:
    """A card for each unit's lid, and the addresses or ports of a trunk or box."""
    judged = ctx.judged(job_id)
    return page("wire/cards.html", ctx, j=judged, job=judged.job, cards=cards(judged))
