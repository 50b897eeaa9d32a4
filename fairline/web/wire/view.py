"""What the wire pages show: each circuit, the cable end at hand, settings, the power gate."""

from typing import Any

from fairline.core.alike import model_for
from fairline.core.call import Check, StageCall, Verdict, deciding_check
from fairline.core.charge.power import WHY
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.wire.entry import COMMON_ORDER, GROUND_COLOURS, Colour
from fairline.core.wire.interconnect import EndResult
from fairline.core.wire.records import Landing
from fairline.core.wire.screws import screws
from fairline.core.wire.settings import used_ports
from fairline.core.wire.stage import WireStageResult
from fairline.core.wire.supply import SupplyResult
from fairline.core.wire.supply_way import CONDUIT_WORDS, EXPOSED, MET, WAY_WORDS
from fairline.core.wire.visual_checks import REST, asked_of
from fairline.web.drawing.ampere_scale import ampere_scale
from fairline.web.drawing.supply_way import supply_way
from fairline.web.drawing.unit_board import unit_board
from fairline.web.drawing.wiring import wiring_map
from fairline.web.flare import job_pictures
from fairline.web.frame.forms import Form
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import RequestContext
from fairline.web.frame.stage import Checks, stage_view, state_of

CABLES, SETTINGS, POWER = "cables", "settings", "power"
COLOURS: tuple[Colour, ...] = (*COMMON_ORDER, "grey", "yellow")

IN_CONDUIT = (
    ("wires", "single wires"),
    ("outdoor-cable", "outdoor-rated cable"),
    ("sheathed", "indoor sheathed cable"),
)
OF_CABLE = (
    "_kind",
    "_way",
    "_gauge",
    "_sunlight",
    "_burial",
)  # checks that stand at the field of the cable


def wire_result(judged: JudgedJob) -> WireStageResult:
    return judged.of(WireStageResult)


def _parts(judged: JudgedJob) -> list[tuple[str, str, Verdict]]:
    """The parts of the page, each with the worst of its checks."""
    worked, checks = wire_result(judged), judged.stages["wire"].checks

    def state(*starts: str) -> Verdict:
        return state_of([c for c in checks if c.part.startswith(starts)])

    found = []
    for one in worked.supplies:
        title = "Supply" if len(worked.supplies) == 1 else f"Supply, {one.title}"
        found.append((f"supply-{one.unit}", title, state(f"supply-{one.unit}")))
    found.append((CABLES, "Landings", state("cable")))
    if any(c.part == SETTINGS for c in checks):
        found.append((SETTINGS, "Settings", state(SETTINGS)))
    power = judged.of(ChargeStageResult).power.call.verdict
    found.append((POWER, "Power on", power))
    return found


def _asked(ctx: RequestContext, judged: JudgedJob, parts: list[tuple[str, str, Verdict]]) -> str:
    """The part that is asked for; else the one on which the deciding check is mended."""
    asked = ctx.request.query_params.get("part", "") or _decides(judged)
    tab = CABLES if asked.startswith(("cable-", "unit-")) else asked
    return tab if tab in [key for key, _, _ in parts] else parts[0][0]


def _decides(judged: JudgedJob) -> str:
    found = deciding_check(judged.stages["wire"])
    return found.part if found is not None else ""


@stage_view("wire")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    worked, parts = wire_result(judged), _parts(judged)
    part, checks = _asked(ctx, judged, parts), judged.stages["wire"].checks
    supply = next((s for s in worked.supplies if f"supply-{s.unit}" == part), None)
    return {
        "worked": worked,
        "boards": {
            h.zone: unit_board(h.sheet.board) for h in judged.job.equipment.heads if h.sheet.board
        },
        "parts": parts,
        "part": part,
        "checks": Checks((c.id, c) for c in checks),
        "faults": [c for c in checks if c.part.startswith("cable") and _is_fault(c)],
        **(_supply(supply, judged, ctx) if supply is not None else {}),
        **(current_end(ctx, judged) if part == CABLES else {}),
        **(_settings(judged) if part == SETTINGS else {}),
        **power_context(judged),
        **(_of_power(judged) if part == POWER else {}),
        "power_form": Form({"by": ctx.person}, prefix="power-"),
        "dead_form": Form({"by": ctx.person}, prefix="dead-"),
    }


def _is_fault(check: Check) -> bool:
    wrong = check.call.verdict in (Verdict.STOP, Verdict.SHORT, Verdict.WATCH, Verdict.UNKNOWN)
    return wrong and not check.id.endswith(OF_CABLE)


def power_context(judged: JudgedJob) -> dict[str, Any]:
    """What every page that has the power gate shows of it."""
    charged = judged.of(ChargeStageResult)
    return {
        "power": charged.power,
        "lacks": charged.lacks,
        "powered": charged.powered,
        "why_power": WHY,
    }


def _of_power(judged: JudgedJob) -> dict[str, Any]:
    """The bar of the power gate: what it asks, where Wire itself asks nothing more."""
    if judged.stages["wire"].call.verdict is not Verdict.HOLDS:
        return {}
    return {"bar_call": StageCall(call=judged.of(ChargeStageResult).power.call)}


def _supply(one: SupplyResult, judged: JudgedJob, ctx: RequestContext) -> dict[str, Any]:
    low = one.rating.low
    asked = asked_of(one.unit)
    unsaid = [name for name in asked if getattr(one.entry, name) is None]
    good = {name: "used" if name == "neutral" and low else REST[name][1] for name in unsaid}
    q = f"supplies.{one.unit}"
    if "grounded" in unsaid and one.ground_awg is not None and one.entry.ground_gauge is None:
        good["ground_gauge"] = f"{one.ground_awg} AWG"
    return {
        "supply": one,
        "like": model_for(judged.job.wire, "supplies", one.unit),
        "q": q,
        "key": f"{one.unit}_",
        "low": low,
        "amperes": judged.drawn(
            f"amperes {one.unit}", ctx.system, lambda: [m] if (m := ampere_scale(one)) else []
        ),
        "way_drawn": judged.drawn(
            f"way {one.unit}", ctx.system, lambda: [m] if (m := supply_way(one, ctx.system)) else []
        ),
        "conduits_as": [("", "as all of it"), *CONDUIT_WORDS.items()],
        "in_conduit": (("", "as all of it"), *IN_CONDUIT),
        "met": [("", "not stated"), *MET.items()],
        "laid": [("", "as all of it"), ("conduit", "conduit"), *WAY_WORDS.items()],
        "rest": asked,
        "rest_unsaid": [_rest_words(name, low, one.ground_awg) for name in unsaid],
        "rest_put": ";".join(f"{q}.{name}={value}" for name, value in good.items()),
        "conduits": [("", "not stated"), *CONDUIT_WORDS.items()],
        "exposed": [(name, words) for name, words in EXPOSED.items()],
        "licensed": judged.rules.yes("licence_asked"),
        "pictures": [
            p
            for p in job_pictures(ctx, judged)
            if p[0].of == "nameplate" and p[0].place == one.unit
        ],
    }


def _rest_words(name: str, low: bool, ground_awg: int | None) -> str:
    if name == "grounded" and ground_awg is not None:
        return f"a ground of its own, {ground_awg} AWG"
    return "the neutral landed on N" if name == "neutral" and low else REST[name][2]


def _chosen(worked: WireStageResult, asked: str, part: str) -> EndResult | None:
    """The end that is asked for by name, by its cable or its unit; else the next not done."""
    cable, unit = part.removeprefix("cable-"), part.removeprefix("unit-")
    left = [e for e in worked.ends if e.call.verdict is not Verdict.HOLDS]
    named = [e for e in worked.ends if e.id == asked]
    ends = [*left, *worked.ends]
    of_part = [e for e in ends if e.cable.id == cable] + [e for e in ends if e.block.unit == unit]
    return next(iter([*named, *of_part, *ends]), None)


def _of_end(
    end: EndResult | None, judged: JudgedJob, worked: WireStageResult, ctx: RequestContext
) -> dict[str, Any]:
    """What a page shows of the end that is worked on."""
    if end is None:
        nothing = dict.fromkeys(("dead", "dead_ready_s", "finish", "asks_plug", "hot_white"))
        return nothing | {"screws": [], "elsewhere": "", "landings": []}
    dead = worked.dead_at(end.block.id)
    own = (end.cable.id, end.side)
    records = judged.counted.recorded(Landing)
    return {
        "dead": dead,
        "dead_ready_s": dead.ready_in_s(ctx.now()) if dead else None,
        "screws": screws(end, worked.wiring, worked.lies),
        "elsewhere": _elsewhere(end, worked),
        "hot_white": end.cable.white_is_hot,
        "finish": worked.lies.finish(*own),
        "asks_plug": worked.wiring.asks_plug(end.cable, end.side),
        "landings": [r for r in records if (r.cable, r.side) == own][-12:],
    }


def current_end(ctx: RequestContext, judged: JudgedJob, at: str = "") -> dict[str, Any]:
    """The cable end at hand: the one asked for, else the next that is not done."""
    worked, params = wire_result(judged), ctx.request.query_params
    end = _chosen(worked, at or params.get("end", ""), params.get("part", ""))
    key = f"wiring {end.id if end else ''}"
    return {
        "ends": worked.ends,
        "ends_left": sum(e.call.verdict is not Verdict.HOLDS for e in worked.ends),
        "end": end,
        **_of_end(end, judged, worked, ctx),
        "terminal": params.get("terminal", ""),
        "pair_drawn": judged.drawn(
            key,
            ctx.system,
            lambda: [m] if end and (m := wiring_map(worked, end.cable.id, 30.0)) else [],
        ),
        "map_drawn": judged.drawn(
            "wiring map", ctx.system, lambda: [m] if (m := wiring_map(worked)) else []
        ),
        "colours": [("", "nothing"), *((c, c) for c in (*COLOURS, *GROUND_COLOURS))],
        "blocks": [(b.id, b.title) for b in worked.wiring.blocks.values()],
        "colour_fields": _colour_fields(judged),
        "pairs": any(c.kind == "pair" for c in worked.wiring.cables.values()),
        "apart": judged.rules.school("cable"),
    }


def _elsewhere(end: EndResult, worked: WireStageResult) -> str:
    """The block on which an end lies, where it is not its own."""
    at = worked.lies.block_of(end.cable.id, end.side)
    found = worked.wiring.blocks.get(at)
    return found.title if found is not None and at != end.block.id else ""


def _colour_fields(judged: JudgedJob) -> list[tuple[str, str, list[tuple[str, str]]]]:
    """A field for the colour of each terminal and of the ground: its name, words, options."""
    plan, entry = wire_result(judged).wiring, judged.job.wire
    cables = [c for c in plan.cables.values() if c.kind != "supply"]
    counts = [len(plan.blocks[c.end].terminals) for c in cables]
    pairs = bool(cables) and all(c.kind == "pair" for c in cables)
    found = []
    for n in range(1, min(4, max(counts, default=0)) + 1):
        usual = "not looked at" if pairs else f"as usual: {entry.colour(n)}"
        if pairs and entry.pair_colour(n) is not None:
            usual = f"as the pair: {entry.pair_colour(n)}"
        options = [("", usual), *((c, c) for c in COLOURS)]
        found.append((f"colour_{n}", f"Terminal {n}", options))
    grounds = [("", "as usual: green"), *((c, c) for c in GROUND_COLOURS)]
    return [*found, ("colour_ground", "Ground", grounds)]


def _settings(judged: JudgedJob) -> dict[str, Any]:
    pipes = judged.pipes
    boxes = [s.id for s in pipes.stretches if s.kind == "box"]
    numbers = ((z, card.partition("-")) for z, card in pipes.addresses.items())
    return {
        "boxes": {
            box: [(p, pipes.used.get(f"{box}-{p}", "")) for p in pipes.outlets.get(box, ())]
            for box in boxes
        },
        "used": {box: used_ports(box, pipes) for box in boxes},
        "as_on_card": ";".join(
            f"addresses.{z}.circuit={circuit};addresses.{z}.head={head}"
            for z, (circuit, _, head) in numbers
        ),
        "addresses": pipes.addresses,
        "controllers": [("", "none"), *((z, z) for z in pipes.addresses)],
        "entry": judged.job.wire,
    }
