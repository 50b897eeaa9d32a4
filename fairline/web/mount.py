"""Mount pages: a wall or ceiling for each head, the outdoor unit's yard, the setting-out cards."""

from collections.abc import Iterable
from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse

from fairline.core import ceiling, setting_out, wall, yard
from fairline.core.calc.ceiling_position import FAR_WALL
from fairline.core.calc.head_position import Place, moved
from fairline.core.calc.outdoor_position import OFF_THE_WALL
from fairline.core.call import Check, Verdict, worst
from fairline.core.mount import MountEntry, weight_caution
from fairline.core.practice import Rules
from fairline.core.sheet import Head
from fairline.core.yard_checks import wet_m
from fairline.web.drawing.ceiling import ceiling as draw_ceiling
from fairline.web.drawing.wall import wall as draw_wall
from fairline.web.drawing.yard import yard as draw_yard
from fairline.web.pages import page
from fairline.web.stage import Checks, stage_view
from fairline.web.visit import AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)

OUTDOOR = "outdoor"


def parts_of(judged: Judged) -> list[tuple[str, str]]:
    """The places of a job: its key in the entry, and what it is called."""
    found = []
    for head in judged.job.survey.now:
        sheet = judged.job.equipment.head(head.zone)
        kind = "ceilings" if sheet is not None and not sheet.on_wall else "walls"
        found.append((f"{kind}.{head.zone}", f"{head.zone} {head.room}".strip()))
    return [*found, (OUTDOOR, "Outdoor unit")]


def own_checks(part: str, checks: tuple[Check, ...]) -> list[Check]:
    """The checks that belong to one place: a zone's begin with its letter."""
    zone = part.partition(".")[2]
    if zone:
        return [c for c in checks if c.id.startswith(f"{zone}_")]
    return [c for c in checks if c.id[1:2] != "_" and c.id != "survey"]


@stage_view("mount")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    parts = parts_of(judged)
    asked = visit.request.query_params.get("part", "-")
    part = next((key for key, _ in parts if asked in (key, key.partition(".")[2])), parts[0][0])
    checks = judged.stages["mount"].checks
    mine = own_checks(part, checks)
    kind, _, zone = part.partition(".")
    context: dict[str, Any] = {
        "part": part,
        "parts": [(key, words, _state(own_checks(key, checks))) for key, words in parts],
        "zone": zone,
        "checks": Checks((c.id.removeprefix(f"{zone}_"), c) for c in mine),
        "weight": weight_caution(judged.rules),
        "head": judged.job.equipment.head(zone) if zone else judged.rules.outdoor,
        "nearest": None,
        "other_outlets": [],
        "thing_kinds": _options(wall.WAYS),
        "ceiling_kinds": _options(("light", "duct", "sprinkler", "beam", "wire")),
        "yard_kinds": _options(yard.WAYS),
    }
    entry = judged.job.mount
    head = judged.job.equipment.head(zone) if zone else None
    if kind == "walls" and head is not None:
        context |= _wall(visit, judged, entry, zone, head)
    elif kind == "ceilings" and head is not None:
        context |= _ceiling(visit, judged, entry, zone, head)
    elif kind == OUTDOOR and judged.rules.outdoor is not None:
        context |= _yard(visit, judged)
    return context


def _options(kinds: Iterable[str]) -> list[tuple[str, str]]:
    return [(kind, kind.replace("-", " ")) for kind in kinds]


def _state(checks: list[Check]) -> Verdict:
    return worst(c.call.verdict for c in checks) if checks else Verdict.WAIT


def _own(judged: Judged, head: Head) -> Rules:
    return judged.rules.model_copy(update={"head": head})


def _offer(
    part: str, place: Place | None, axis: tuple[str, str] = ("up", "down")
) -> dict[str, str] | None:
    """The nearest place that holds, in words and as the order that puts the piece there."""
    if place is None or abs(place.right_m) + abs(place.up_m) < 1e-4:
        return None
    put = f"{part}.x_m={place.x_m:.4f} m;{part}.y_m={place.y_m:.4f} m"
    return {"words": moved(place, *axis), "put": put}


def _wall(
    visit: Visit, judged: Judged, entry: MountEntry, zone: str, head: Head
) -> dict[str, Any]:  # fmt: skip
    place, rules = entry.wall(zone), _own(judged, head)
    asked, answer = wall.request(place, head, rules), wall.position(place, head, rules)
    result = answer.result if answer else None
    return {
        "place": place,
        "drawings": draw_wall(zone, place, head, asked, result, visit.system),
        "nearest": _offer(f"walls.{zone}", result.nearest if result else None),
        "blocked": answer is not None
        and answer.call.verdict is not Verdict.HOLDS
        and answer.result.nearest is None,
        "other_outlets": wall.other_outlets(place, head, rules) if answer else [],
        "outlet": wall.outlet(place, head),
        "outlet_options": [(o.name, o.name) for o in head.outlets],
        "wants_pitch": head.plate_pitch or rules.school("plate_pitch").name,
    }


def _ceiling(
    visit: Visit, judged: Judged, entry: MountEntry, zone: str, head: Head
) -> dict[str, Any]:
    place, rules = entry.ceiling(zone), _own(judged, head)
    asked, answer = ceiling.request(place, head, rules), ceiling.position(place, head, rules)
    result = answer.result if answer else None
    holds = answer is None or answer.call.verdict is not Verdict.SHORT
    return {
        "place": place,
        "drawings": draw_ceiling(zone, place, asked, result, visit.system),
        "nearest": None
        if holds or not result
        else _offer(f"ceilings.{zone}", result.nearest, FAR_WALL),
    }


def _yard(visit: Visit, judged: Judged) -> dict[str, Any]:
    place, unit = judged.job.mount.outdoor, judged.rules.outdoor
    assert unit is not None
    asked, answer = (
        yard.request(place, unit, judged.rules, 0.0, wet_m(judged.job.survey)),
        yard.position(place, unit, judged.rules, wet_m(judged.job.survey)),
    )
    result = answer.result if answer else None
    holds = answer is None or answer.call.verdict is Verdict.HOLDS
    return {
        "place": place,
        "survey": judged.job.survey,
        "drawings": draw_yard(place, judged.job.survey, unit, asked, result, visit.system),
        "nearest": None if holds or not result else _offer(OUTDOOR, result.nearest, OFF_THE_WALL),
        "support_school": judged.rules.school("support"),
    }


def cards_of(judged: Judged) -> list[setting_out.Card]:
    """The setting-out cards of every place that has one."""
    found: list[setting_out.Card | None] = []
    for head in judged.job.survey.now:
        sheet = judged.job.equipment.head(head.zone)
        if sheet is None:
            continue
        rules = _own(judged, sheet)
        if sheet.on_wall:
            place = judged.job.mount.wall(head.zone)
            found.append(setting_out.wall_card(head.zone, place, sheet, rules))
        else:
            plan = judged.job.mount.ceiling(head.zone)
            found.append(setting_out.ceiling_card(head.zone, plan, sheet, rules))
    if judged.rules.outdoor is not None:
        found.append(setting_out.yard_card(judged.job.mount.outdoor, judged.rules.outdoor))
    return [c for c in found if c is not None]


@router.get("/jobs/{job_id}/setting-out")
def setting_out_page(job_id: JobId, visit: AVisit) -> HTMLResponse:
    judged = visit.judged(job_id)
    return page("mount/cards.html", visit, j=judged, job=judged.job, cards=cards_of(judged))
