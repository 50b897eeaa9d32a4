"""Wire pages: each circuit, the cable end at hand, settings, power; and the cards for the lids."""

from datetime import timedelta
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from fairline.core.call import Check, Verdict
from fairline.core.charge.power import WHY
from fairline.core.charge.stage import ChargeWorked
from fairline.core.entry import Record
from fairline.core.wire.dead import Dead
from fairline.core.wire.entry import COMMON_ORDER, GROUND_COLOURS, Colour
from fairline.core.wire.interconnect import EndWorked
from fairline.core.wire.landed import Lies
from fairline.core.wire.looks import CONDUIT_WORDS, EXPOSED, REST
from fairline.core.wire.records import (
    Landing,
    PowerOn,
    ProvedDead,
    SwitchedOff,
    WireEnd,
)
from fairline.core.wire.settings import used_ports
from fairline.core.wire.stage import WireWorked
from fairline.core.wire.supply import SupplyWorked
from fairline.core.wire.wiring import LOW_V
from fairline.store import jobs
from fairline.store.document import NotFoundError
from fairline.web.drawing.ampere_scale import ampere_scale
from fairline.web.drawing.wiring import lying_at, wiring_map
from fairline.web.flare import job_pictures
from fairline.web.forms import Form, posted, read
from fairline.web.merging import PARTED
from fairline.web.pages import page
from fairline.web.stage import Checks, stage_page, stage_view, state_of
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit
from fairline.web.wire_cards import cards

router = APIRouter(include_in_schema=False)
PARTED.add("wire")

CABLES, SETTINGS, POWER = "cables", "settings", "power"
COLOURS: tuple[Colour, ...] = (*COMMON_ORDER, "grey", "yellow")


def wired(judged: Judged) -> WireWorked:
    return judged.of(WireWorked)


def _parts(judged: Judged) -> list[tuple[str, str, Verdict]]:
    """The parts of the page, each with the worst of its checks."""
    worked, checks = wired(judged), judged.stages["wire"].checks

    def state(*starts: str) -> Verdict:
        return state_of([c for c in checks if c.part.startswith(starts)])

    found = []
    for one in worked.supplies:
        title = "Supply" if len(worked.supplies) == 1 else f"Supply, {one.title}"
        found.append((f"supply-{one.unit}", title, state(f"supply-{one.unit}")))
    found.append((CABLES, "Landings", state("cable")))
    if any(c.part == SETTINGS for c in checks):
        found.append((SETTINGS, "Settings", state(SETTINGS)))
    power = judged.of(ChargeWorked).power.call.verdict
    found.append((POWER, "Power on", power))
    return found


def _asked(visit: Visit, judged: Judged, parts: list[tuple[str, str, Verdict]]) -> str:
    """The part that is asked for; else the one on which the deciding check is mended."""
    asked = visit.request.query_params.get("part", "") or _decides(judged)
    tab = CABLES if asked.startswith("cable-") else asked
    return tab if tab in [key for key, _, _ in parts] else parts[0][0]


def _decides(judged: Judged) -> str:
    call = judged.stages["wire"]
    found = next((c for c in call.checks if c.call.verdict is call.call.verdict), None)
    return found.part if found is not None else ""


@stage_view("wire")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    worked, parts = wired(judged), _parts(judged)
    part, checks = _asked(visit, judged, parts), judged.stages["wire"].checks
    supply = next((s for s in worked.supplies if f"supply-{s.unit}" == part), None)
    return {
        "worked": worked,
        "parts": parts,
        "part": part,
        "checks": Checks((c.id, c) for c in checks),
        "faults": [c for c in checks if c.part.startswith("cable") and _is_fault(c)],
        **(_supply(supply, judged, visit) if supply is not None else {}),
        **(_at_hand(visit, judged) if part == CABLES else {}),
        **(_settings(judged) if part == SETTINGS else {}),
        **power_context(judged),
        "power_form": Form({"by": visit.person}, prefix="power-"),
        "dead_form": Form({"by": visit.person}, prefix="dead-"),
    }


def _is_fault(check: Check) -> bool:
    return check.call.verdict in (Verdict.STOP, Verdict.SHORT, Verdict.WATCH, Verdict.UNKNOWN)


def power_context(judged: Judged) -> dict[str, Any]:
    """What every page that has the power gate shows of it."""
    charged = judged.of(ChargeWorked)
    return {
        "power": charged.power,
        "lacks": charged.lacks,
        "powered": charged.powered,
        "why_power": WHY,
    }


def _supply(one: SupplyWorked, judged: Judged, visit: Visit) -> dict[str, Any]:
    low = one.rating.volts is not None and one.rating.volts < LOW_V
    unsaid = [name for name in REST if getattr(one.entry, name) is None]
    good = {name: "used" if name == "neutral" and low else REST[name][1] for name in unsaid}
    q = f"supplies.{one.unit}"
    rules = judged.rules
    return {
        "supply": one,
        "q": q,
        "key": f"{one.unit}_",
        "low": low,
        "amperes": judged.drawn(
            f"amperes {one.unit}", visit.system, lambda: [m] if (m := ampere_scale(one)) else []
        ),
        "rest": REST,
        "rest_unsaid": [_rest_words(name, low) for name in unsaid],
        "rest_put": ";".join(f"{q}.{name}={value}" for name, value in good.items()),
        "conduits": [("", "not said"), *CONDUIT_WORDS.items()],
        "exposed": [(name, words) for name, words in EXPOSED.items()],
        "licensed": (limit := rules.limit("licence_asked")) is not None and limit.value >= 0.5,
        "pictures": [
            p
            for p in job_pictures(visit, judged)
            if p[0].of == "nameplate" and p[0].place == one.unit
        ],
    }


def _rest_words(name: str, low: bool) -> str:
    return "the neutral landed on N" if name == "neutral" and low else REST[name][2]


def _at_hand(visit: Visit, judged: Judged, at: str = "") -> dict[str, Any]:
    """The cable end at hand: the one asked for, else the next that is not done."""
    worked, params = wired(judged), visit.request.query_params
    asked, cable = at or params.get("end", ""), params.get("part", "").removeprefix("cable-")
    left = [e for e in worked.ends if e.call.verdict is not Verdict.HOLDS]
    named = [e for e in worked.ends if e.id == asked]
    of_cable = [e for e in [*left, *worked.ends] if e.cable.id == cable]
    end = next(iter([*named, *of_cable, *left, *worked.ends]), None)
    dead = worked.dead_at(end.block.id) if end is not None else None
    key = f"wiring {end.id if end else ''}"
    return {
        "ends": worked.ends,
        "ends_left": len(left),
        "end": end,
        "dead": dead,
        "dead_ready_s": _ready_s(visit, judged, dead) if dead else None,
        "screws": screws(end, worked) if end is not None else [],
        "elsewhere": _elsewhere(end, worked) if end is not None else "",
        "terminal": params.get("terminal", ""),
        "pair_drawn": judged.drawn(
            key,
            visit.system,
            lambda: [m] if end and (m := wiring_map(worked, end.cable.id, 30.0)) else [],
        ),
        "map_drawn": judged.drawn(
            "wiring map", visit.system, lambda: [m] if (m := wiring_map(worked)) else []
        ),
        "colours": [("", "nothing"), *((c, c) for c in (*COLOURS, *GROUND_COLOURS))],
        "blocks": [(b.id, b.title) for b in worked.wiring.blocks.values()],
        "colour_fields": _colour_fields(judged),
        "finish": worked.lies.finish(end.cable.id, end.side) if end is not None else None,
        "asks_plug": end is not None and worked.wiring.asks_plug(end.cable, end.side),
        "apart": judged.rules.school("cable"),
        "landings": [
            r
            for r in judged.counted.recorded(Landing)
            if end is not None and (r.cable, r.side) == (end.cable.id, end.side)
        ][-12:],
    }


def _elsewhere(end: EndWorked, worked: WireWorked) -> str:
    """The block on which an end lies, where it is not its own."""
    at = worked.lies.block_of(end.cable.id, end.side)
    found = worked.wiring.blocks.get(at)
    return found.title if found is not None and at != end.block.id else ""


def _ready_s(visit: Visit, judged: Judged, dead: Dead) -> float | None:
    """How long stored charge still runs down; None where it is off no longer, or not yet."""
    if dead.ready_at is None or dead.proof is not None:
        return None
    return max(0.0, (dead.ready_at - visit.now()).total_seconds())


def _colour_fields(judged: Judged) -> list[tuple[str, str, list[tuple[str, str]]]]:
    """A field for the colour of each terminal and of the ground: its name, words, options."""
    plan, entry = wired(judged).wiring, judged.job.wire
    cables = [c for c in plan.cables.values() if c.kind != "supply"]
    counts = [len(plan.blocks[c.end].terminals) for c in cables]
    found = []
    for n in range(1, min(4, max(counts, default=0)) + 1):
        options = [("", f"as usual: {entry.colour(n)}"), *((c, c) for c in COLOURS)]
        found.append((f"colour_{n}", f"Terminal {n}", options))
    grounds = [("", "as usual: green"), *((c, c) for c in GROUND_COLOURS)]
    return [*found, ("colour_ground", "Ground", grounds)]


def screws(end: EndWorked, worked: WireWorked) -> list[dict[str, Any]]:
    """Every screw of the block at hand: what belongs under it, and what lies there."""
    plan, found = worked.wiring, []
    for name in end.block.places:
        lies: Lies | None = lying_at(worked, end.cable.id, end.side, end.block.id, name)
        others = [
            plan.cables[cable].title if cable in plan.cables else cable
            for cable, side, _ in worked.lies.on(end.block.id, name)
            if (cable, side) != (end.cable.id, end.side) and end.cable.kind != "pair"
        ]
        wanted = plan.colour_at(end.cable, end.side, name)
        found.append(
            {
                "name": name,
                "wanted": wanted,
                "lies": lies,
                "others": others,
                "right": lies is not None and lies.colour == wanted,
            }
        )
    return found


def _settings(judged: Judged) -> dict[str, Any]:
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


def _end_of(judged: Judged, fields: dict[str, Any]) -> EndWorked:
    asked = str(fields.pop("end", ""))
    found = next((e for e in wired(judged).ends if e.id == asked), None)
    if found is None:
        raise NotFoundError(f"this job has no such end of a cable: {asked[:40] or 'none named'}")
    return found


def _keep(visit: Visit, job_id: int, records: list[Record]) -> None:
    with visit.change() as session:
        for record in records:
            jobs.append_record(session, job_id, record)


@router.post("/jobs/{job_id}/wire/landings")
def land(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """A conductor as it lies: by a tap on its screw (``tap``), or as it was found there."""
    fields, judged = posted(data), visit.judged(job_id)
    end = _end_of(judged, fields)
    if tapped := str(fields.pop("tap", "")):
        wanted = wired(judged).wiring.colour_at(end.cable, end.side, tapped)
        fields |= {"terminal": tapped, "colour": wanted or "", "pulled": "true"}
    where = str(fields.pop("at", "")) or end.block.id
    fields.pop("all", None)
    given = {k: v for k, v in fields.items() if k in ("terminal", "colour", "pulled", "by")}
    extra = {
        "kind": "landing",
        "at": visit.now(),
        "cable": end.cable.id,
        "side": end.side,
        "block": where,
    }
    record, form = read(Landing, given, visit.system, extra=extra)
    block = wired(judged).wiring.blocks.get(where)
    if record is not None and (block is None or record.terminal not in block.places):
        form.errors["terminal"] = "there is no such screw"
        record = None
    if record is None:
        return _again(visit, judged, end, form)
    _keep(visit, job_id, [record])
    return visit.onward(_at(job_id, end), record.by)


def _again(visit: Visit, judged: Judged, end: EndWorked, form: Form) -> HTMLResponse:
    return stage_page(
        visit,
        judged,
        "wire",
        status=422,
        record_form=form,
        part=CABLES,
        **_at_hand(visit, judged, end.id),
    )


def _at(job_id: int, end: EndWorked) -> str:
    return f"/jobs/{job_id}/wire?part=cables&end={quote(end.id)}"


@router.post("/jobs/{job_id}/wire/finish")
def finish(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """An end of a cable finished: all of it in order (``all``), or as it is said.

    With all in order, every conductor lies where it belongs, whatever was said before.
    """
    fields, judged = posted(data), visit.judged(job_id)
    end, worked = _end_of(judged, fields), wired(judged)
    whole = bool(fields.pop("all", ""))
    names = ("letter", "tip", "slack", "strain", "cover", "plug", "shield", "by")
    given = {k: v for k, v in fields.items() if k in names}
    if whole:
        given |= _in_order(end, worked)
    extra = {
        "kind": "wire-end",
        "at": visit.now(),
        "cable": end.cable.id,
        "side": end.side,
    }
    record, form = read(WireEnd, given, visit.system, extra=extra)
    if record is None:
        return _again(visit, judged, end, form)
    rest = _rest(end, worked, record) if whole else []
    _keep(visit, job_id, [*rest, record])
    after = wired(visit.judged(job_id)).ends
    mine = next(e for e in after if e.id == end.id)
    left = [e for e in after if e.call.verdict is not Verdict.HOLDS]
    following = [e for e in left if after.index(e) > after.index(mine)]
    shown = mine if mine in left else next(iter([*following, *left, mine]))
    return visit.onward(_at(job_id, shown), record.by)


def _in_order(end: EndWorked, worked: WireWorked) -> dict[str, str]:
    """How an end is finished where all of it is as it should be."""
    plan = worked.wiring
    said = {"letter": end.cable.letter, "tip": "taken"}
    said |= {"slack": "yes", "strain": "yes", "cover": "yes"}
    if plan.asks_plug(end.cable, end.side):
        said["plug"] = "out"
    if end.cable.kind == "pair" and plan.shield is not None:
        said["shield"] = "grounded" if plan.grounds_shield(end.block.unit) else "taped"
    return said


def _rest(end: EndWorked, worked: WireWorked, record: WireEnd) -> list[Record]:
    """Landings of what does not lie under its screw yet, a microsecond apart."""
    found: list[Record] = []
    for screw in screws(end, worked):
        if screw["right"] and screw["lies"].pulled:
            continue
        found.append(
            Landing(
                cable=end.cable.id,
                side=end.side,
                block=end.block.id,
                terminal=screw["name"],
                colour=screw["wanted"],
                pulled=True,
                by=record.by,
                at=record.at + timedelta(microseconds=len(found) + 1),
            )
        )
    return found


@router.post("/jobs/{job_id}/wire/dead")
def prove(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """Off and locked, proved dead, not fed yet, or live: ``act`` says which."""
    fields, judged = posted(data), visit.judged(job_id)
    act, unit = str(fields.get("act") or ""), str(fields.get("unit") or "")
    if unit not in wired(judged).dead:
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
    record, form = read(model, given, visit.system, extra={"at": visit.now()})
    form.prefix = "dead-"
    if record is None:
        return stage_page(
            visit,
            judged,
            "wire",
            status=422,
            dead_form=form,
            part=CABLES,
            **_at_hand(visit, judged),
        )
    _keep(visit, job_id, [record])
    back = str(fields.get("end") or "")
    known = {e.id for e in wired(judged).ends}
    shown = f"&end={quote(back)}" if back in known else ""
    return visit.onward(f"/jobs/{job_id}/wire?part=cables{shown}", record.by)


@router.post("/jobs/{job_id}/wire/power")
def power_on(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """Power comes on: where nothing lacks, or by name and reason."""
    fields, judged = posted(data), visit.judged(job_id)
    asked = str(fields.pop("_from", "") or data.get("_from") or "")
    back = asked if asked in ("wire", "charge", "commission") else "wire"
    given = {
        k: v for k, v in fields.items() if k in ("why", "override_by", "override_reason", "by")
    }
    record, form = read(PowerOn, given, visit.system, extra={"kind": "power-on", "at": visit.now()})
    lacks = judged.of(ChargeWorked).lacks
    if record is not None and lacks and not record.overridden:
        form.errors["override_by"] = f"{lacks[0]} A name and a reason are needed to go on."
        record = None
    if record is None:
        form.prefix = "power-"
        if form.whole:
            form.errors.setdefault("override_by", form.whole)
        more: dict[str, Any] = {"part": POWER} if back == "wire" else {}
        return stage_page(visit, judged, back, status=422, power_form=form, **more)
    _keep(visit, job_id, [record])
    shown = f"/jobs/{job_id}/wire?part=power" if back == "wire" else f"/jobs/{job_id}/{back}"
    return visit.onward(shown, record.by)


@router.get("/jobs/{job_id}/wire-cards")
def wire_cards(job_id: JobId, visit: AVisit) -> HTMLResponse:
    """A card for each unit's lid, and the addresses or ports of a trunk or box."""
    judged = visit.judged(job_id)
    return page("wire/cards.html", visit, j=judged, job=judged.job, cards=cards(judged))
