"""What the page of Commission shows: the zone at hand, its modes, the matrix of all zones."""

from typing import Any

from fairline.core.call import Check, StageCall, Verdict
from fairline.core.commission import stage as commission
from fairline.core.commission.lamp_codes import check_id, codes_of
from fairline.core.commission.records import MODE_WORDS, MODES, SEEN_WORDS, Running
from fairline.core.commission.start_up import SILENT, special_modes, starts_within
from fairline.core.parts import OUTDOOR
from fairline.web.bench.instruments import shown
from fairline.web.drawing.course import course
from fairline.web.drawing.crossing import crossing
from fairline.web.drawing.head_section import head_section
from fairline.web.frame.forms import Form
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import RequestContext
from fairline.web.frame.stage import Checks, stage_view
from fairline.web.wire.view import power_context

COLUMNS = (("called", "Called"), ("cool", "Cooling"), ("heat", "Heating"), ("drain", "Water"))


@stage_view("commission")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    zones = [h.zone for h in judged.job.survey.now]
    asked = ctx.request.query_params.get("zone", "")
    zone = asked if asked in zones else next(iter(zones), "")
    rules = judged.rules.of(zone)
    several = len(zones) > 1
    worked = judged.of(commission.CommissionStageResult)
    next_mode = next((m for m, done in worked.zones[zone].items() if done.record is None), "")
    checks = _checks(judged, zone if several else "")
    items = worked.items
    starts_s, starts_by = starts_within(judged.rules)
    modes = {
        mode: {
            "record": m.record,
            "result": m.answer.result if m.answer else None,
            "split_k": _split_k(m.record),
            "count": m.count,
            "trend": m.trend,
            "course": course(m.trend, ctx.system) if m.trend else "",
        }
        for mode, m in worked.zones[zone].items()
    }
    last = next((m.record for m in reversed(worked.zones[zone].values()) if m.record), None)
    return {
        "checks": checks,
        "zone": zone,
        "opened": worked.opened,
        "speeds": [a.speed for a in rules.head.airflows] if rules.head else [],
        "zones": zones if several else [],
        "zone_head": rules.head,
        "modes": modes,
        "on_for_s": (on_for_s := _on_for_s(ctx, worked, starts_s)),
        "on_share": min((on_for_s or 0.0) / starts_s, 1.0),
        "starts_s": starts_s,
        "starts_by": "" if starts_by == SILENT else starts_by,
        "special_modes": special_modes(judged.rules),
        "codes": [(seen, check_id(seen)) for seen in worked.codes],
        "code_units": (units := [(OUTDOOR, "Outdoor unit"), *((z, f"Head {z}") for z in zones)]),
        "codes_listed": [
            (unit, words, [c.code for c in codes_of(judged.rules, unit)]) for unit, words in units
        ],
        "code_form": Form({"by": ctx.person}, prefix="code-"),
        "section": head_section(last, ctx.system),
        "record_form": Form({"by": ctx.person, "mode": next_mode, "fan": _last_fan(judged, zone)}),
        "call_form": Form({"by": ctx.person}, prefix="call-"),
        "water_form": Form({"by": ctx.person}, prefix="water-"),
        "whole_form": Form({"by": ctx.person}, prefix="whole-"),
        "mode_words": MODE_WORDS,
        "seen_words": SEEN_WORDS,
        "items": items,
        "unlooked": [n for n in items if getattr(judged.job.commission, n) is None],
        "causes": worked.causes[zone],
        "whole": worked.whole,
        **_calls(worked),
        "matrix": _matrix(judged.stages["commission"], zones) if several else {},
        "columns": COLUMNS,
        "proven": commission.PROVEN,
        **power_context(judged),
        "power_form": Form({"by": ctx.person}, prefix="power-"),
        "shown": shown(ctx, judged, "thermometer"),
    }


def _on_for_s(
    ctx: RequestContext, worked: commission.CommissionStageResult, starts_s: float
) -> float | None:
    """For how long power has been on, s, until twice what the machine may wait by itself."""
    if worked.power_at is None:
        return None
    on = (ctx.now() - worked.power_at).total_seconds()
    return on if 0 <= on < 2 * starts_s else None


def _split_k(record: Running | None) -> float | None:
    """By how much the air was changed, whichever way."""
    if record is None or record.return_c is None or record.supply_c is None:
        return None
    return abs(record.return_c - record.supply_c)


def _calls(worked: commission.CommissionStageResult) -> dict[str, Any]:
    """Which tubes answered which call."""
    answered = {zone: call.ports for zone, call in worked.calls.items()}
    crossed = worked.crossed
    return {
        "calls": worked.calls,
        "ports": worked.ports,
        "crossed": crossed,
        "crossing": crossing(worked.ports, answered, crossed.result.swaps) if crossed else "",
    }


def _matrix(call: StageCall, zones: list[str]) -> dict[str, dict[str, Verdict]]:
    """Heads by checks; a head that was not called alone waits for it."""
    found: dict[str, dict[str, Verdict]] = {}
    called = next((c.call.verdict for c in call.checks if c.id == "called"), Verdict.WAIT)
    for zone in zones:
        own = {c.part: c.call.verdict for c in call.checks if c.zone == zone}
        found[zone] = {name: own.get(name, Verdict.WAIT) for name, _ in COLUMNS}
        found[zone]["called"] = called
    return found


def _last_fan(judged: JudgedJob, zone: str) -> str:
    """The fan speed that was last said of a head: of this one, else of any of the same sheet."""
    rules = judged.rules
    speeds = {a.speed for a in head.airflows} if (head := rules.of(zone).head) else set()
    said = [r for r in judged.counted.recorded(Running) if r.fan in speeds]
    own = [r for r in said if r.zone == zone]
    return (own or said)[-1].fan if said else ""


def _checks(judged: JudgedJob, zone: str) -> dict[str, Check]:
    """The checks of one of several zones by their short names, and those of the whole system."""
    checks = judged.stages["commission"].checks
    shut = next((c for c in checks if c.id == "valves"), None)
    if shut is not None:
        return Checks(dict.fromkeys(MODES, shut))
    return Checks({c.part or c.id: c for c in checks if c.zone in ("", zone)})


def next_zone(judged: JudgedJob, zone: str, stays: bool = True) -> str:
    """The zone that stands next: this one until both modes are measured, then one that waits.

    Where all are measured it is one through which no water ran yet. ``stays``: hands are at this
    zone; after the last call they go to the first that waits.
    """
    worked = judged.of(commission.CommissionStageResult)
    if worked.crossed is not None and (left := [z for z in worked.ports if z not in worked.calls]):
        return left[0]  # all are called before the first is measured
    put_off = judged.job.commission.later_mode
    waits = [
        z
        for z, modes in worked.zones.items()
        if any(m.record is None and mode != put_off for mode, m in modes.items())
    ]
    checks = judged.stages["commission"].checks
    drains = {c.zone: c.call.verdict for c in checks if c.part == "drain"}
    if drains.get(zone) in (Verdict.SHORT, Verdict.STOP):
        return zone  # it is found where it stands first
    waits = waits or [z for z, verdict in drains.items() if verdict is Verdict.WAIT]
    return zone if not zone or (stays and zone in waits) or not waits else waits[0]
