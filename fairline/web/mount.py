"""Mount pages: a wall or ceiling for each head, the outdoor unit's yard, the setting-out cards."""

from collections.abc import Iterable, Sequence
from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse
from markupsafe import Markup

from fairline.core.alike import model_for
from fairline.core.calc.ceiling_position import FAR_WALL
from fairline.core.calc.head_position import moved
from fairline.core.calc.outdoor_position import OFF_THE_WALL
from fairline.core.call import Verdict
from fairline.core.mount import wall, yard
from fairline.core.mount.stage import (
    AnyPlaced,
    MountStageResult,
    known_ceiling,
    known_wall,
    weight_caution,
)
from fairline.core.mount.yard import YARD
from fairline.core.physics.constants import INCH_M
from fairline.core.procedures.procedure import with_figures
from fairline.core.procedures.progress import Progress
from fairline.core.quantities import show
from fairline.core.sheet import Head, Outdoor
from fairline.core.units import System
from fairline.web.drawing.ceiling import ceiling as draw_ceiling
from fairline.web.drawing.hole import hole
from fairline.web.drawing.setting_out import marks_drawn
from fairline.web.drawing.throw import throw
from fairline.web.drawing.wall import wall as draw_wall
from fairline.web.drawing.yard import yard as draw_yard
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, JobId, RequestContext
from fairline.web.frame.stage import Checks, stage_view, state_of

router = APIRouter(include_in_schema=False)

Step = tuple[str, str, str, str]  # its words, what a reader says, the field, the value to put there


def parts_of(judged: JudgedJob) -> list[tuple[str, str]]:
    """The places of a job: its key in the entry, and what it is called."""
    found = []
    for head in judged.job.survey.now:
        sheet = judged.job.equipment.head(head.zone)
        kind = "ceilings" if sheet is not None and not sheet.on_wall else "walls"
        found.append((f"{kind}.{head.zone}", f"{head.zone} {head.room}".strip()))
    return [*found, (YARD, "Outdoor unit")]


@stage_view("mount")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    parts = parts_of(judged)
    asked = ctx.request.query_params.get("part", "-")
    part = next((key for key, _ in parts if asked in (key, key.partition(".")[2])), parts[0][0])
    checks = judged.stages["mount"].checks
    worked = judged.of(MountStageResult)
    at = worked.places.get(part)
    _, _, zone = part.partition(".")
    context: dict[str, Any] = {
        "part": part,
        "parts": [
            (key, words, state_of([c for c in checks if c.part == key])) for key, words in parts
        ],
        "zone": zone,
        "like": model_for(judged.job.mount, part.partition(".")[0], zone) if zone else "",
        "checks": Checks((c.id.removeprefix(f"{zone}_"), c) for c in checks if c.part == part),
        "weight": weight_caution(judged.rules),
        "head": judged.job.equipment.head(zone) if zone else judged.rules.outdoor,
        "nearest": None,
        "other_outlets": [],
        "thing_kinds": _options(wall.WAYS),
        "ceiling_kinds": _options(("light", "duct", "sprinkler", "beam", "wire")),
        "yard_kinds": _options(yard.WAYS),
        "list_drawings": _drawn_lists(worked.procedures),
        "hang_listed": any(
            p.asked.procedure.name == "hang" and p.asked.zone == zone for p in worked.procedures
        ),
    }
    head = judged.job.equipment.head(zone) if zone else None
    if at is not None and part == YARD and judged.rules.outdoor is not None:
        context |= _yard(ctx, judged, at, judged.rules.outdoor)
    elif at is not None and head is not None and head.on_wall:
        context |= _wall(ctx, judged, at, head)
    elif at is not None and head is not None:
        context |= _ceiling(ctx, judged, at)
    return context


def _drawn_lists(lists: Sequence[Progress]) -> dict[str, Markup]:
    """What is drawn beside a list of steps, by its id."""
    found = {}
    for one in lists:
        if one.asked.procedure.drawing == "hole" and one.left:
            tilt = with_figures("[{tilt}]", one.asked.figures)
            found[one.asked.id] = hole(one.asked.procedure.name, tilt)
    return found


def _options(kinds: Iterable[str]) -> list[tuple[str, str]]:
    return [(kind, kind.replace("-", " ")) for kind in kinds]


def _offer(at: AnyPlaced, axis: tuple[str, str] = ("up", "down")) -> dict[str, str] | None:
    """The nearest place that holds: in words, as the order that puts the piece there, and the
    sentence that asks for it."""
    place, part = at.result.nearest if at.result else None, at.part
    if place is None or abs(place.right_m) + abs(place.up_m) < 1e-4:
        return None
    put = f"{part}.x_m={place.x_m:.4f} m;{part}.y_m={place.y_m:.4f} m"
    does = at.answer.call.do_next if at.answer else None
    return {"words": moved(place, *axis), "put": put, "does": does or ""}


def _steps(
    part: str, x_m: float | None, y_m: float | None, system: System, plan: bool = False
) -> list[Step]:
    """Orders that move a piece by a little, each way; on a ``plan`` y runs down from the wall."""
    if x_m is None or y_m is None:
        return []
    by_m = INCH_M / 2 if system == "us" else 0.01
    said = show(by_m, "small", system).text
    ways = [("◂", "left", -1, 0), ("▸", "right", 1, 0), ("▴", "up", 0, 1), ("▾", "down", 0, -1)]
    if plan:
        ways[2:] = [("▴", "towards the wall", 0, -1), ("▾", "off the wall", 0, 1)]
    return [
        (
            f"{sign} {said}",
            f"{said} {way}",
            f"{part}.x_m" if right else f"{part}.y_m",
            f"{(x_m + right * by_m) if right else (y_m + up * by_m):.4f} m",
        )
        for sign, way, right, up in ways
    ]


def _wall(ctx: RequestContext, judged: JudgedJob, at: AnyPlaced, head: Head) -> dict[str, Any]:
    place = known_wall(judged.job.mount, judged.job.survey, at.zone)
    return {
        "place": place,
        "steps": _steps(at.part, place.x_m, place.y_m, ctx.system),
        "drawings": judged.drawn(
            at.part,
            ctx.system,
            lambda: draw_wall(at.zone, place, head, at.asked, at.result, ctx.system),
        ),
        "thrown": throw(place.in_front, place.y_m, thrown_m, at.reach, ctx.system)
        if at.reach is not None
        and place.y_m is not None
        and (thrown_m := judged.rules.of(at.zone).value("throw"))
        else "",
        "nearest": _offer(at),
        "blocked": at.answer is not None
        and at.answer.call.verdict is not Verdict.HOLDS
        and at.answer.result.nearest is None,
        "other_outlets": at.other_outlets,
        "outlet": wall.outlet(place, head),
        "outlet_options": [(o.name, o.name) for o in head.outlets],
        "wants_pitch": head.plate_pitch or judged.rules.school("plate_pitch").name,
    }


def _ceiling(ctx: RequestContext, judged: JudgedJob, at: AnyPlaced) -> dict[str, Any]:
    place = known_ceiling(judged.job.mount, judged.job.survey, at.zone)
    holds = at.answer is None or at.answer.call.verdict is not Verdict.SHORT
    return {
        "place": place,
        "steps": _steps(at.part, place.x_m, place.y_m, ctx.system, plan=True),
        "drawings": judged.drawn(
            at.part,
            ctx.system,
            lambda: draw_ceiling(at.zone, place, at.asked, at.result, ctx.system),
        ),
        "nearest": None if holds or not at.result else _offer(at, FAR_WALL),
    }


def _yard(ctx: RequestContext, judged: JudgedJob, at: AnyPlaced, unit: Outdoor) -> dict[str, Any]:
    place, survey = judged.job.mount.outdoor, judged.job.survey
    holds = at.answer is None or at.answer.call.verdict is Verdict.HOLDS
    return {
        "place": place,
        "steps": _steps(at.part, place.x_m, place.y_m, ctx.system, plan=True),
        "survey": survey,
        "drawings": judged.drawn(
            at.part,
            ctx.system,
            lambda: draw_yard(place, survey, unit, at.asked, at.result, ctx.system),
        ),
        "nearest": None if holds or not at.result else _offer(at, OFF_THE_WALL),
        "support_school": judged.rules.school("support"),
    }


@router.get("/jobs/{job_id}/setting-out")
def setting_out_page(job_id: JobId, ctx: Context) -> HTMLResponse:
    judged = ctx.judged(job_id)
    cards = [(card, marks_drawn(card)) for card in judged.of(MountStageResult).cards]
    return page("mount/cards.html", ctx, j=judged, job=judged.job, cards=cards)
