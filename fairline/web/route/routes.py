"""Route pages: the system drawing, a page for each run, the drains, the materials list."""

import csv
import io
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, HTTPException
from fastapi.responses import HTMLResponse, Response
from starlette.datastructures import FormData

from fairline.core.alike import model_for
from fairline.core.calc.materials import GROUPS, Line
from fairline.core.call import worst
from fairline.core.flare.parts import valves_made
from fairline.core.flare.stage import FlareStageResult
from fairline.core.head_removal import letters_named, next_letter
from fairline.core.physics.constants import FOOT_M
from fairline.core.quantities import parse, preferring, show
from fairline.core.route import drain
from fairline.core.route import stage as route
from fairline.core.route.drain import DRAINS
from fairline.core.route.edit import EditError, edited
from fairline.core.route.entry import CABLE_WAYS, KEPT, OUTDOOR, SETTINGS, STEP, LineRun, RouteEntry
from fairline.core.route.piping import Stretch, bend_radius_m, kind_of
from fairline.core.route.spoken import SpokenError, spoken_legs
from fairline.core.route.stage import SYSTEM
from fairline.core.route.traps import who_wants
from fairline.core.sheet.head import FORMS
from fairline.core.survey.stage import SurveyEntry, WantedHead
from fairline.core.units import System
from fairline.core.wire.stage import WireStageResult
from fairline.store import entries, jobs
from fairline.store.text_file import without_formula
from fairline.web.drawing.cover_section import cover_section
from fairline.web.drawing.drain_profile import drain_profile
from fairline.web.drawing.run import run_drawings
from fairline.web.drawing.schematic import schematic
from fairline.web.frame.forms import form_fields
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.merging import stage_edit
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.part_names import part_names
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import Checks, stage_url, stage_view

router = APIRouter(include_in_schema=False)


@stage_edit("route")
def edits(entry: RouteEntry, data: FormData, judged: JudgedJob, system: System) -> RouteEntry:
    """The orders of the page: changes of the tree, and a run said in one sentence."""
    for order in data.getlist("_edit"):
        if not order or not isinstance(order, str):
            continue
        if order.startswith("pick:"):  # what was chosen from the list beside the button
            order = str(data.get(f"_pick.{order[5:]}") or "")
            if not order:
                raise EditError("choose from the list first", "")
        if order.startswith("say:"):
            entry = _said(entry, order[4:], str(data.get("_say") or ""), judged, system)
        else:
            before_m = _before_m(order, data, system)
            valves = valves_made(judged.of(FlareStageResult).proofs)
            survey, equipment = judged.job.survey, judged.job.equipment
            entry = edited(entry, order[:80], survey, equipment, before_m, valves)
    return entry


def _before_m(order: str, data: FormData, system: System) -> float | None:
    """What was typed of a built run's length before the tee that is ordered; None for nothing."""
    name, _, end = order.partition(":")
    typed = str(data.get(f"_before.{end}") or "").strip() if name == "tee" else ""
    try:
        return parse(typed, "length", system) if typed else None
    except ValueError as error:
        raise EditError(str(error), f"_before.{end}") from None


def _said(entry: RouteEntry, end: str, text: str, judged: JudgedJob, system: System) -> RouteEntry:
    """The legs of a run, or of its own part after a shared path, as they were said."""
    wall = judged.job.mount.wall(end).thickness_m if len(end) == 1 else None
    try:
        legs = spoken_legs(text, system, entry.wall_m or wall)
    except SpokenError as error:
        raise EditError(str(error), "_say") from None
    run = entry.run(end).model_copy(update={"legs": legs})
    return entry.model_copy(update={"runs": entry.runs | {end: run}})


@stage_view("route")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    """One part of the stage: the system, a run (``runs.A``), or the drains."""
    entry, routed = judged.job.route, judged.of(route.RouteStageResult)
    pipes = routed.pipes
    only = [f"runs.{s.id}" for s in pipes.stretches]
    part = ctx.request.query_params.get("part", only[0] if len(only) == 1 else SYSTEM)
    end = part.partition(".")[2]
    if part != DRAINS and end not in entry.runs:
        part, end = SYSTEM, ""
    checks = Checks((c.id, c) for c in judged.stages["route"].checks)
    context: dict[str, Any] = {
        "part": part,
        "end": end,
        "parts": _parts(judged),
        "checks": checks,
        "directions": tuple(STEP),
        "settings": (("", "as it goes"), *SETTINGS.items()),
        "kept_in": (("", "kept as all"), *KEPT.items()),
        "cable_ways": (("", "as Wire says"), *CABLE_WAYS.items()),
        "entry": entry,
    }
    if end:
        return context | _run(ctx, judged, end)
    if part == DRAINS:
        return context | _drains(ctx, judged)
    kept = {port.key for port in routed.spare if port.kept}
    return context | {
        "drawings": judged.drawn(
            SYSTEM,
            ctx.system,
            lambda: schematic(
                pipes,
                kept,
                part_names(judged),
                stage_url(judged.id, "route"),
                ctx.system,
                _inside(judged, ctx.system),
            ),
        ),
        "total_m": pipes.total_m,
        "joint_count": len(routed.joints),
        "left": (left := route.tightest(routed.left)),
        "tightest": min(left, key=lambda one: one.left / max(one.limit.value, 0.01), default=None),
        "covers": [
            cover_section(cover, ctx.system)
            for cover in {c.bundle.kinds: c for c in routed.covers}.values()
        ],
        "loose": list(pipes.unfed)
        + [e for e, r in entry.runs.items() if not r.fed_from and e not in pipes.unfed],
        "things": [{"s": s, "words": route.run_words(s)} for s in pipes.stretches],
        "outlets": _outlets(judged),
        "spare": routed.spare,
        "box_names": _sheet_names(ctx, "branch-box"),
        "tee_names": _sheet_names(ctx, "tee"),
        "forms": [(k, v) for k, v in FORMS.items()],
    }


def _inside(judged: JudgedJob, system: System) -> dict[str, str]:
    """What is in the tubes of each run, once anything was let in."""
    contents = judged.of(FlareStageResult).contents
    if not any(part.since for part in contents.parts().values()):
        return {}
    return {
        s.id: preferring(contents.of(f"tube:{s.id}").words, system) for s in judged.pipes.stretches
    }


def _parts(judged: JudgedJob) -> list[tuple[str, str, Any]]:
    stages = judged.stages["route"]
    state = {c.id: c.call.verdict for c in stages.checks}
    found: list[tuple[str, str, Any]] = [(SYSTEM, "System", state.get("tree", "wait"))]
    for end in (s.id for s in judged.pipes.stretches):
        words = end if kind_of(end) == "head" else end.replace("tee", "T").replace("box", "Box ")
        found.append((f"runs.{end}", words, state.get(f"run_{end}", "wait")))
    drains = [c.call.verdict for c in stages.checks if c.part == DRAINS]
    if drains:
        found.append((DRAINS, "Drains", worst(drains)))
    return found


def _outlets(judged: JudgedJob) -> list[tuple[str, str]]:
    """Every outlet a run can be moved to, as an order's words, and how it is called."""
    pipes, found = judged.pipes, []
    for at, names in pipes.outlets.items():
        for name in names:
            there = pipes.used.get(f"{at}-{name}")
            what = "outdoor unit" if at == OUTDOOR else at.replace("box", "box ")
            found.append(
                (f"{at}:{name}", f"{what}, port {name}" + (f" (now {there})" if there else ""))
            )
    for stretch in pipes.stretches:
        if stretch.kind == "tee":
            for name in ("off", "on"):
                there = pipes.used.get(f"{stretch.id}-{name}")
                found.append(
                    (
                        f"{stretch.id}:{name}",
                        f"tee {stretch.id[3:]}, {name}" + (f" (now {there})" if there else ""),
                    )
                )
    return found


def _sheet_names(ctx: RequestContext, kind: str) -> list[tuple[str, str]]:
    return [("", "none chosen")] + [(s.name, s.name) for s in ctx.sheets(kind)]


def _run(ctx: RequestContext, judged: JudgedJob, end: str) -> dict[str, Any]:
    entry, routed = judged.job.route, judged.of(route.RouteStageResult)
    pipes = routed.pipes
    stretch = pipes.get(end)
    radius_m, radius_from = bend_radius_m(entry, stretch.tube.gas_mm if stretch else None)
    beside = [
        (e, e) for e, r in entry.runs.items() if e != end and r.fed_from == entry.run(end).fed_from
    ]
    wanted, who = who_wants(judged.rules)
    return {
        "stretch": stretch,
        "run": stretch.result if stretch else None,
        "words": route.run_words(stretch) if stretch else f"Run {end}",
        "drawings": judged.drawn(
            f"runs.{end}",
            ctx.system,
            lambda: run_drawings(stretch, pipes, entry.levels, routed.traps, ctx.system),
        )
        if stretch
        else [],
        "left": routed.left_of(end),
        "radius_m": radius_m,
        "radius_from": radius_from,
        "beside": [("", "its own way"), *beside],
        "kit_names": _kits(ctx, stretch),
        "way": [pipes.get(e) for e in pipes.path(end)],
        "traps_wanted": wanted,
        "traps_by": who,
        "tight": _tight(stretch),
        "kit": judged.job.equipment.fitting(end) if stretch and stretch.kit else None,
    }


def _kits(ctx: RequestContext, stretch: Stretch | None) -> list[tuple[str, str]]:
    """The shelf's kits, and which of them reach: the shortest that does comes first."""
    way_m = None
    if stretch is not None and stretch.result is not None:
        way_m = stretch.result.cut_length_m - stretch.coil_m
    found = []
    for kit in sorted(ctx.sheets("kit"), key=lambda k: (k.length_m or 0.0, k.name)):
        long_m = kit.length_m or 0.0
        short = way_m is not None and long_m < way_m - 1e-6
        said = f"{kit.name}, {show(long_m, 'length', ctx.system).text}"
        found.append((short, kit.name, f"{said}{': too short' if short else ''}"))
    return [
        ("", "none: cut from stock"),
        *((name, words) for _, name, words in sorted(found, key=lambda x: x[0])),
    ]


def _tight(stretch: Stretch | None) -> list[int]:
    """The run's own legs that are too short for their bends, by number."""
    if stretch is None or stretch.result is None:
        return []
    return [stretch.legs[n - 1].number for n in stretch.result.tight_legs]


def _drains(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    entry, found = judged.job.route, []
    worked_out = judged.of(route.RouteStageResult).drains
    for head in judged.job.survey.now:
        worked = worked_out[head.zone]
        parts = [p for p in entry.drain(head.zone).parts if p.length_m]
        found.append(
            {
                "zone": head.zone,
                "room": head.room,
                "like": model_for(entry, "drains", head.zone),
                "result": worked.result if worked else None,
                "drawings": drain_profile(head.zone, parts, worked.result, ctx.system)
                if worked
                else [],
            }
        )
    zones = [h.zone for h in judged.job.survey.now]
    return {
        "drains": found,
        "ends_options": [("", "not stated"), *drain.ENDS.items()],
        "zones": [("", "none"), *((z, z) for z in zones)],
        "fall": judged.rules.limit("drain_fall"),
    }


@router.post("/jobs/{job_id}/route/heads")
def add_head(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """Another head for the system: it is wanted in Survey from now on, and connected here."""
    fields = form_fields(data)
    form = fields.get("form") if fields.get("form") in FORMS else "high-wall"
    with ctx.change() as session:  # read and written in one: of many at once each adds its own
        survey = jobs.entry_of(session, job_id, "survey", SurveyEntry)
        zone = next_letter(letters_named(ctx.judged(job_id).job))
        if zone is None:
            raise HTTPException(422, "a system has at most 26 heads")
        head = WantedHead(zone=zone, room=str(fields.get("room") or "")[:200], form=form)
        heads = survey.model_copy(update={"heads": (*survey.heads, head)})
        entry = SurveyEntry.model_validate(heads.model_dump())
        entries.save_over(session, job_id, "survey", entry, ctx.edit)
        judged = ctx.judged(job_id)
        route = judged.job.route
        try:
            valves = valves_made(judged.of(FlareStageResult).proofs)
            equipment = judged.job.equipment
            route = edited(route, "lay-out", judged.job.survey, equipment, None, valves)
        except EditError:  # no outlet is free: the head stands loose, and the page says so
            route = route.model_copy(update={"runs": route.runs | {zone: LineRun()}})
        entries.save_over(session, job_id, "route", route, ctx.edit)
    return ctx.onward(stage_url(job_id, "route"))


def lines_of(judged: JudgedJob) -> list[Line]:
    """The materials list, the wiring's among it, as a van is loaded."""
    lines = [*judged.of(route.RouteStageResult).materials, *judged.of(WireStageResult).materials]
    order = list(GROUPS)
    return sorted(lines, key=lambda x: order.index(x.group))


@router.get("/jobs/{job_id}/materials")
def materials_page(job_id: JobId, ctx: Context) -> HTMLResponse:
    judged = ctx.judged(job_id)
    lines = lines_of(judged)
    groups = [(words, [x for x in lines if x.group == g]) for g, words in GROUPS.items()]
    return page(
        "route/materials.html",
        ctx,
        **job_context(judged, "route"),
        groups=[(words, of) for words, of in groups if of],
        tools=judged.of(route.RouteStageResult).tools,
        origin_words=origin_words,
    )


@router.get("/jobs/{job_id}/materials.csv")
def materials_csv(job_id: JobId, ctx: Context) -> Response:
    """The list as a table; lengths in the person's own units."""
    judged = ctx.judged(job_id)
    out = io.StringIO()
    table = csv.writer(out)
    unit = "ft" if ctx.system == "us" else "m"
    table.writerow(["group", "item", "size", "quantity", "unit", "length_m", "computed_from"])
    for x in lines_of(judged):
        of_length = x.unit == "m"
        shown = x.quantity / FOOT_M if of_length and unit == "ft" else x.quantity
        table.writerow(
            [
                GROUPS[x.group],
                without_formula(x.item),
                x.size,
                f"{shown:.2f}" if of_length else f"{shown:g}",
                unit if of_length else "pieces",
                f"{x.quantity:.3f}" if of_length else "",
                without_formula(origin_words(x, ctx.system)),
            ]
        )
    name = quote(f"materials {judged.job.head.name}.csv")
    headers = {"content-disposition": f"attachment; filename*=UTF-8''{name}"}
    return Response(out.getvalue(), media_type="text/csv; charset=utf-8", headers=headers)


def origin_words(item: Line, system: System) -> str:
    """What a line was computed from: what each run brings to it."""
    shown = (
        (p.run, show(p.quantity, "length", system).text if item.unit == "m" else f"{p.quantity:g}")
        for p in item.parts
    )
    return item.origin or " + ".join(f"{run} {words}" for run, words in shown)
