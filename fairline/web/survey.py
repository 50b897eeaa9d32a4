"""Survey pages: the site, the rooms, the heads wanted, what can carry them, the boxes."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup

from fairline.core.sheet import Head
from fairline.core.sheet.head import FORMS
from fairline.core.stages import TITLES
from fairline.core.survey.hazards import HAZARDS
from fairline.core.survey.proposal import Proposal, Wanted
from fairline.core.survey.stage import BOXES, ROOMS, WALK, SurveyEntry, SurveyStageResult
from fairline.core.survey.unboxing import OUTDOOR
from fairline.store import part_changes, shelf
from fairline.web.drawing.carrying import carrying
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import quantity
from fairline.web.frame.request_context import Context, JobId, RequestContext
from fairline.web.frame.stage import Checks, stage_view, state_of, with_message

router = APIRouter(include_in_schema=False)

PARTS = {ROOMS: "Rooms and heads", WALK: "The walk", BOXES: "Out of the box"}
MOST_SHOWN = 12  # proposals; the rest are counted
MOST_HEADS = 60  # heads to choose from for one zone


def _heads(judged: JudgedJob) -> list[Wanted]:
    """The heads that are wanted, each with the length and lift of its way where it is routed."""
    ways = {z.id: z for z in judged.pipes.tree.zones}
    return [
        head.model_copy(update={"line_m": way.length_m, "lift_m": way.lift_m})
        if (way := ways.get(head.zone))
        else head
        for head in judged.of(SurveyStageResult).wanted
    ]


def _carried(judged: JudgedJob, heads: list[Wanted], ctx: RequestContext) -> Markup:
    """The unit as a bar that its heads fill; nothing while a capacity or the most is not known."""
    most, least = (judged.rules.limit(name) for name in ("max_connected", "min_connected"))
    if most is None or not heads or any(not h.cool_w for h in heads):
        return Markup("")
    told = [(h.zone, h.cool_w or 0.0, h.later) for h in heads]
    return carrying(told, most.value, least.value if least is not None else None, ctx.system)


@stage_view("survey")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    entry, equipment = judged.job.survey, judged.job.equipment
    worked = judged.of(SurveyStageResult)
    asked = ctx.request.query_params.get("part", "")
    part = asked if asked in PARTS else ROOMS
    found = judged.stages["survey"].checks
    boxes = _boxes(judged)
    heads = _heads(judged)
    length_m = judged.pipes.total_m
    proposals = ctx.proposals(judged.id, heads, length_m, judged.rules) if heads else []
    carrying = [p for p in proposals if not p.reasons]
    return {
        "checks": Checks((c.id, c) for c in found),
        "part": part,
        "parts": [
            (key, words, state_of([c for c in found if c.part == key]))
            for key, words in PARTS.items()
            if key != BOXES or boxes
        ],
        "heads": heads,
        "carried": _carried(judged, heads, ctx),
        "proposals": carrying[:MOST_SHOWN],
        "dropped": [p for p in proposals if p.reasons][:MOST_SHOWN],
        "dropped_count": len(proposals) - len(carrying),
        "outdoor_names": _outdoor_names(entry, carrying, ctx),
        "head_names": {h.zone: _head_names(ctx, judged, h.zone) for h in entry.heads},
        "options": worked.options,
        "ways": worked.ways,
        "boxes": boxes,
        "forms": list(FORMS.items()),
        "hazards": [(name, words[0]) for name, words in HAZARDS.items()],
        "cautions": [HAZARDS[h] for h in entry.hazards_seen if HAZARDS[h][1]],
        "headless": len({r.name for r in entry.rooms if r.name} - {h.room for h in entry.heads}),
        "room_names": [r.name for r in entry.rooms if r.name],
        "newer": judged.once(("newer", ctx.shelf_at), lambda: shelf.newer(ctx.session, equipment)),
        "shelf_empty": ctx.shelf_at[0] == 0,
    }


def _outdoor_names(entry: SurveyEntry, carrying: list[Proposal], ctx: RequestContext) -> list[str]:
    """Those that carry the heads first, then the rest of the shelf, and what is chosen."""
    first = [p.outdoor.name for p in carrying]
    rest = sorted(o.name for o in ctx.outdoors())
    chosen = [entry.outdoor] if entry.outdoor else []
    return list(dict.fromkeys([*first[:MOST_HEADS], *rest[:MOST_HEADS], *chosen]))


def _head_names(ctx: RequestContext, judged: JudgedJob, zone: str) -> list[tuple[str, str]]:
    """Heads of the form wanted, those of the outdoor unit's maker and refrigerant where known."""
    row = next(h for h in judged.job.survey.heads if h.zone == zone)
    outdoor = judged.rules.outdoor
    found = []
    for head in ctx.heads():
        if head.form != row.form and head.name != row.sheet:
            continue
        fits = outdoor is None or (
            head.maker == outdoor.maker and head.refrigerant in (None, outdoor.refrigerant)
        )
        if fits or head.name == row.sheet:
            found.append(head)
    heads = judged.of(SurveyStageResult).wanted
    load = next((h.load_w for h in heads if h.zone == zone), None)
    found.sort(key=lambda h: _distance(h, load))
    names = [(h.name, _told(h, ctx)) for h in found[:MOST_HEADS]]
    if row.sheet and row.sheet not in dict(names):
        names.append((row.sheet, row.sheet))
    return names


def _distance(head: Head, load_w: float | None) -> tuple[int, float, str]:
    """Heads that meet the load come first, the smallest of them on top."""
    if head.cool_w is None or load_w is None:
        return 1, head.cool_w or 0.0, head.name
    return (0 if head.cool_w >= load_w else 2), abs(head.cool_w - load_w), head.name


def _told(head: Head, ctx: RequestContext) -> str:
    capacity = quantity(head.cool_w, "power", ctx.system) if head.cool_w else "capacity unknown"
    return f"{head.name}, {capacity}"


def _boxes(judged: JudgedJob) -> list[tuple[str, str, tuple[str, ...]]]:
    """Every unit that has a box now: its key, its name, the parts on its list."""
    found = []
    planned = judged.job.equipment.outdoor
    if planned is not None:
        found.append((OUTDOOR, f"Outdoor unit {planned.sheet.model}", planned.sheet.parts_list()))
    for row in judged.job.survey.now:
        head = judged.job.equipment.head(row.zone)
        if head is not None:
            found.append((row.zone, f"Head {row.zone}, {head.model}", head.parts_list()))
    return found


@router.post("/jobs/{job_id}/survey/newer")
def take_newer(job_id: JobId, ctx: Context) -> Response:
    """Plan the job with the sheets as the shelf has them now."""
    before = ctx.judged(job_id).stages
    with ctx.change() as session:
        part_changes.take_newer(session, job_id, ctx.person, ctx.now(), ctx.edit)
    after = ctx.judged(job_id).stages
    changed = [
        f"{TITLES[name]}: {before[name].call.verdict.value}, now {call.call.verdict.value}."
        for name, call in after.items()
        if call.call.verdict is not before[name].call.verdict
    ]
    said = " ".join(changed) or "No call changed."
    return with_message(RedirectResponse(f"/jobs/{job_id}/survey", 303), f"Sheets taken. {said}")
