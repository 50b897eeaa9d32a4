"""What the page of Charge shows."""

from typing import Any

from markupsafe import Markup

from fairline.core import kit
from fairline.core.call import Verdict
from fairline.core.charge.override import THINGS
from fairline.core.charge.stage import ChargeStageResult, order_of
from fairline.core.charge.valve_order import STEPS, ValveProgress
from fairline.core.charge.weigh_steps import way_of
from fairline.core.counted import strike_of
from fairline.core.physics.tubing import size_label
from fairline.core.pressure_test.records import METHODS
from fairline.core.route.circuits import circuits_of
from fairline.core.schools import TOPICS
from fairline.core.units import System
from fairline.web.bench.instruments import shown
from fairline.web.changes.way_out import contents_of
from fairline.web.drawing.schematic import schematic
from fairline.web.drawing.valves import valve_pair
from fairline.web.frame.forms import Form
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.part_names import grams_by_run, part_names
from fairline.web.frame.request_context import RequestContext
from fairline.web.frame.stage import Checks, stage_url, stage_view
from fairline.web.wire.view import power_context


@stage_view("charge")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    rules, worked = judged.rules, judged.of(ChargeStageResult)
    sealed = kit.stays_sealed(rules)
    runs = judged.pipes.stretches
    records = (*judged.job.weighings, *judged.job.releases, *judged.job.valve_steps)
    return {
        "checks": Checks({c.id: c for c in judged.stages["charge"].checks}),
        "length_m": judged.pipes.total_m,
        "built": judged.pipes.built,
        "result": worked.answer.result if worked.answer else None,
        "ours_kg": worked.ours_kg,
        "weighed_kg": worked.weighed_kg,
        "short_line": worked.short_line,
        "blocked": worked.blocked,
        "before_release": worked.before_release,
        "sealed": sealed,
        "released": bool(worked.openings),
        "valves": worked.valves,
        "weighed": sealed or _stands(judged, "weighed"),
        "suspects": worked.suspects,
        "methods": METHODS,
        "check_form_of": None,
        "check_form": Form({}),
        "look_form": Form({"by": ctx.person, "watched_s": "2 min"}, prefix="look-"),
        "doubted": worked.doubted,
        "struck": {r.uid: strike_of(r, judged.job.strikes) for r in records},
        "circuits": circuits_of(judged.pipes, rules),
        "release_form": Form({"by": ctx.person}, prefix="release-"),
        "things": THINGS,
        "moved": [r for r in judged.counted.records if r.kind in ("valves-shut", "pumped-down")],
        "while_running": rules.school("charge_into").name == "running",
        **_valves(ctx, judged, worked),
        **power_context(judged),
        "power_form": Form({"by": ctx.person}, prefix="power-"),
        "shown": shown(ctx, judged, "scale"),
        "weigh_how": way_of(_left_kg(worked), rules, contents_of(judged)),
        "tubes": {_share_id(judged, s.id): size_label(s.tube.liquid_mm or 0.0) for s in runs},
        "as_built": {_share_id(judged, s.id) for s in runs if s.built_m is not None},
        "worksheet": judged.drawn("worksheet", ctx.system, lambda: _worksheet(judged, ctx.system)),
    }


def _left_kg(worked: ChargeStageResult) -> float:
    """What is still to go in, kg; negative: to come out."""
    added = worked.answer.result.added_kg if worked.answer else None
    return (added or 0.0) - worked.weighed_kg


def _share_id(judged: JudgedJob, run: str) -> str:
    """What a run is called in the breakdown."""
    return "line" if len(judged.pipes.stretches) == 1 else run


def _stands(judged: JudgedJob, check: str) -> bool:
    found = [c.call.verdict for c in judged.stages["charge"].checks if c.id == check]
    return found in ([Verdict.HOLDS], [Verdict.WATCH])


def _valves(ctx: RequestContext, judged: JudgedJob, worked: ChargeStageResult) -> dict[str, Any]:
    """Every circuit's valves: how far they are, drawn, and the one at hand."""
    order, who = order_of(judged.job.charge, judged.rules)
    tags = {c.id: c.tag for c in circuits_of(judged.pipes, judged.rules)}
    sets = list(worked.progress.values())
    at_hand = next((p for p in sets if p.under_way), None) or next(
        (p for p in sets if p.opened is None), None
    )
    school = next((s for s in TOPICS["valve_order"].schools if s.name == order), None)
    return {
        "valve_order": order,
        "order_school": school,
        "order_who": who,
        "valve_orders": TOPICS["valve_order"].schools,
        "valve_sets": [(p, tags.get(p.circuit, ""), valve_pair(p), _state(p)) for p in sets],
        "valves_at_hand": at_hand.circuit if at_hand is not None else None,
        "valve_words": STEPS,
        "steps_form": Form({"by": ctx.person}, prefix="steps-"),
        "early": None,
        "early_risk": [],
    }


def _state(progress: ValveProgress) -> Verdict | str:
    """How one circuit's valves stand, as a fitting."""
    release = progress.release
    if progress.wrong:
        return Verdict.STOP
    if release is None or progress.under_way:
        return Verdict.WAIT if progress.done else "todo"
    return Verdict.HOLDS if release.full_open and release.caps_on else Verdict.WATCH


def _worksheet(judged: JudgedJob, system: System) -> list[Markup]:
    """The tree with the grams that each run asks for."""
    grams = grams_by_run(judged, system)
    if not grams or len(judged.pipes.stretches) < 2:
        return []
    kept: set[str] = set()
    route = stage_url(judged.id, "route")
    return schematic(judged.pipes, kept, part_names(judged), route, system, grams)
