"""Survey pages: the site, the sheet, the rooms, the boxes."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import RedirectResponse, Response

from fairline.store import house, jobs
from fairline.web.stage import stage_view
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)


@stage_view("survey")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    checks = {c.id: c for c in judged.stages["survey"].checks}
    return {"checks": checks, "shelf": house.shelf(visit.session)}


@router.post("/jobs/{job_id}/survey/sheet")
def choose_sheet(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """Take a sheet from the shelf; the job keeps its own copy."""
    chosen = str(data.get("sheet_id") or "")
    with visit.change() as session:
        sheet = house.chosen(session, chosen)
        jobs.set_sheet(session, job_id, sheet)
    return RedirectResponse(f"/jobs/{job_id}/survey", 303)
