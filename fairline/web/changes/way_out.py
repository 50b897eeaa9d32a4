"""Before an act is done: what is in the pipes, whether it may follow, and the way out in steps.

Pages refuse an act that the table of needs refuses (``core/contents/needs``), before it is done. An
act that was done already, told late or from a phone without signal, is kept and judged instead.
"""

from dataclasses import replace
from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response
from starlette.datastructures import FormData

from fairline.core.call import Verdict
from fairline.core.charge.entry import PumpedDown, ValvesShut, Weighing
from fairline.core.contents.act import Act, Kind
from fairline.core.contents.state import Contents, Finding
from fairline.core.contents.way_out import WayOut, leak, way_out
from fairline.core.entry import Record
from fairline.core.evacuate.records import Bled, PumpEvent
from fairline.core.flare.stage import FlareStageResult, Joint
from fairline.core.line import acts_of_record
from fairline.core.route.circuits import circuits_of
from fairline.core.route.entry import OUTDOOR
from fairline.core.stages import STAGES
from fairline.store import jobs
from fairline.store.document import NotFoundError
from fairline.web.frame.forms import Form, check_done_time, form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page, way_out_view

router = APIRouter(include_in_schema=False)

ACTS: dict[str, tuple[type[Record], dict[str, Any]]] = {  # taps, each with what it says
    "shut": (ValvesShut, {"kind": "valves-shut"}),
    "pumped-down": (PumpedDown, {"kind": "pumped-down"}),
    "bled": (Bled, {"kind": "bled", "gauge_pa": 0.0}),
    "sweep": (PumpEvent, {"kind": "pump-event", "what": "sweep"}),
    "recovered": (Weighing, {"kind": "weighing", "way": "out", "emptied": "yes"}),
}
REFUSED = (Verdict.STOP, Verdict.WAIT)  # what is only unknown is kept, and judged so
FIRST: dict[str, Kind] = {"pressure-test": "nitrogen", "evacuate": "pump"}  # what is done next


def contents_of(judged: JudgedJob) -> Contents:
    """What is in the pipes of a job."""
    return judged.of(FlareStageResult).contents


def done_already(ctx: RequestContext, data: FormData) -> bool:
    """Whether an act is told after it was done: with its time typed, or held without a signal."""
    return bool(str(data.get("_done") or "").strip()) or ctx.late


def refusing(judged: JudgedJob, record: Record, joint: Joint | None = None) -> list[Finding]:
    """What keeps an act from being done now, of the record that it would make."""
    found: list[Finding] = []
    for act in acts_of_record(record):
        place = act.place
        if act.kind == "look":
            zone = act.place.removeprefix("coil.")
            place = f"joint:{joint.key}" if joint else f"head:{zone}"
        if act.kind == "joint":
            line = "gas" if joint is None else joint.key.partition(":")[0]
            place = f"joint:{joint.key if joint else f'{line}:' + '|'.join(act.sides)}"
        found += contents_of(judged).refused(replace(act, place=place))
    return [f for f in found if f.verdict in REFUSED]


def refusing_run(
    judged: JudgedJob,
    kind: Kind,
    ctx: RequestContext,
    ports: tuple[str, ...] = (),
    seen: bool = False,
) -> list[Finding]:
    """What keeps nitrogen or the pump from coming onto some ports now."""
    said = frozenset({"seen"} if seen else ())
    act = Act(kind, kind, "", ctx.now(), ctx.person, ports=ports, said=said)
    found = contents_of(judged).refused(act)
    return [f for f in found if f.verdict in REFUSED]


def refusal(found: list[Finding]) -> str:
    """Why an act is refused, as an error beside its field."""
    first = next((f for f in found if f.verdict is Verdict.STOP), found[0])
    return first.because[0].lower() + first.because[1:].rstrip(".")


def context(
    ctx: RequestContext,
    judged: JudgedJob,
    stage: str,
    joint: Joint | None,
    refused: list[Finding],
) -> dict[str, Any]:
    """The way out that a stage's page shows: of what was just refused, of a leak, of what is next.

    ``joint``: the joint at hand, while it wants hands.
    """
    contents = contents_of(judged)
    found: WayOut | None = way_out(contents, refused)
    if found is None and stage in ("flare", "pressure-test", "evacuate", "charge"):
        found = leak(contents)
    call = judged.stages[stage].call
    if found is None and call.verdict is not Verdict.HOLDS:
        found = way_out(contents, _next(ctx, judged, stage, joint))
    return {
        "way_out": found,
        "way_form": Form({"by": ctx.person}, prefix="way-"),
        "in_the_pipes": in_the_pipes(judged),
    }


def _next(ctx: RequestContext, judged: JudgedJob, stage: str, joint: Joint | None) -> list[Finding]:
    """What keeps the next act of a stage from being done; of what can hurt somebody."""
    if stage == "flare" and joint is not None and joint.call.verdict is not Verdict.HOLDS:
        act = Act("joint", "joint", "", ctx.now(), place=f"joint:{joint.key}")
        found: list[Finding] = contents_of(judged).refused(act)
    elif stage in FIRST:
        found = refusing_run(judged, FIRST[stage], ctx)
    else:
        return []
    own = "bled" if stage == "evacuate" else ""  # that page asks for it itself
    return [f for f in found if f.verdict is Verdict.STOP and not (own and f.state == "pressed")]


def in_the_pipes(judged: JudgedJob) -> list[tuple[str, str, Any]]:
    """What each circuit holds: what it is called, in words, and since when; nothing where all is
    air and nothing was done."""
    contents = contents_of(judged)
    tags = {c.id: c.tag for c in circuits_of(judged.pipes, judged.rules)}
    parts = contents.parts()
    if not any(part.since for part in parts.values()):
        return []
    grouped: dict[str, tuple[list[str], Any]] = {}
    for circuit, part in parts.items():
        grouped.setdefault(part.words, ([], part.since))[0].append(tags.get(circuit, circuit))
    several = len(grouped) > 1
    return [
        (", ".join(names) if several else "", words, since)
        for words, (names, since) in grouped.items()
    ]


@way_out_view
def _view(
    ctx: RequestContext, judged: JudgedJob, stage: str, more: dict[str, Any]
) -> dict[str, Any]:
    at_hand = (more.get("shown") or ()) if stage == "flare" else ()
    return context(ctx, judged, stage, next(iter(at_hand), None), more.get("refused", []))


def _named(judged: JudgedJob, ticked: set[str]) -> tuple[str, ...]:
    """The circuits that a step names, spare ports among them; none where there is but one."""
    circuits = contents_of(judged).circuits
    spare = {p for p in ticked if p.startswith(f"{OUTDOOR}.")}
    several = set(circuits) if len(circuits) > 1 else set()
    return tuple(sorted((several & ticked) | spare))


@router.post("/jobs/{job_id}/way-out")
def take_step(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """One step of a way out: valves shut, recovered, pumped down, bled, the vacuum broken."""
    fields, judged = form_fields(data), ctx.judged(job_id)
    act = str(fields.get("act") or "")
    if act not in ACTS:
        raise NotFoundError(f"say what was done: {', '.join(ACTS)}")
    model, said = ACTS[act]
    ports = _named(judged, {str(v) for v in data.getlist("ports")})
    given = {k: v for k, v in fields.items() if k in ("by", "before_kg", "after_kg", "cylinder")}
    extra = {**said, "at": ctx.done(data)} | ({"ports": ports} if ports else {})
    record, form = read(model, given, ctx.system, extra=extra)
    form.prefix = "way-"
    check_done_time(form, data)
    back = str(data.get("_back") or "").partition("?")
    stage = back[0].rpartition("/")[2]
    stage = stage if stage in STAGES else "charge"
    if form.whole:
        form.errors.setdefault("after_kg", form.whole)
    found = refusing(judged, record) if record is not None else []
    if found and not done_already(ctx, data):
        form.errors["by"] = refusal(found)
    if record is None or form.errors:
        return stage_page(ctx, judged, stage, status=422, way_form=form, way_act=act, refused=found)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    shown = f"?{back[2]}" if back[2].startswith(("joint=", "ports=", "part=")) else ""
    return ctx.onward(f"/jobs/{job_id}/{stage}{shown}", record.by)
