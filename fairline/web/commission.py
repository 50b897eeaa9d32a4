"""Commission pages: the zone measured in both modes."""

from typing import Any
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core import commission
from fairline.store import jobs
from fairline.store.document import now
from fairline.web.forms import posted, read
from fairline.web.stage import stage_page, stage_view
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)


@stage_view("commission")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    zones = [h.zone for h in judged.job.survey.now]
    asked = visit.request.query_params.get("zone", "")
    zone = asked if asked in zones else next(iter(zones), "")
    rules = judged.rules.of(zone)
    records = commission.of_zone(judged.job.runnings, zone, zone == next(iter(zones), ""))
    several = len(zones) > 1
    modes = {}
    for mode in commission.MODES:
        record = commission.latest(records, mode)
        answer = commission.answer(record, rules) if record else None
        modes[mode] = {
            "record": record,
            "result": answer.result if answer else None,
            "count": sum(r.mode == mode for r in records),
        }
    return {
        "checks": {
            c.id.removeprefix(f"{zone}_" if several else ""): c
            for c in judged.stages["commission"].checks
            if not several or c.id.startswith(f"{zone}_")
        },
        "zone": zone,
        "zones": zones if several else [],
        "zone_head": rules.head,
        "modes": modes,
        "mode_words": commission.MODE_WORDS,
    }


@router.post("/jobs/{job_id}/commission/readings")
def measured(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    fields = posted(data)
    record, form = read(
        commission.Running, fields, visit.system, extra={"kind": "running", "at": now()}
    )
    if record is None:
        if whole := form.whole:
            side, _, told = whole.partition(": ")
            wrong = {"return": "return_c", "supply": "supply_c"}.get(side, "airflow_m3_s")
            form.errors.setdefault(wrong, told or whole)
        return stage_page(visit, visit.judged(job_id), "commission", record_form=form, status=422)
    with visit.change() as session:
        jobs.append_record(session, job_id, record)
    shown = f"?zone={quote(record.zone)}" if record.zone else ""
    return visit.onward(f"/jobs/{job_id}/commission{shown}", record.by)
