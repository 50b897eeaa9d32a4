"""Survey pages: the site, the sheet, the rooms, the boxes."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from fairline.store import house, jobs
from fairline.web.visit import AVisit, Judged, Visit

router = APIRouter(include_in_schema=False)


def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    checks = {c.id: c for c in judged.stages["survey"].checks}
    return {"checks": checks, "shelf": house.shelf(visit.session)}


@router.post("/jobs/{job_id}/survey/sheet")
async def choose_sheet(job_id: int, request: Request, visit: AVisit) -> Response:
    """Take a sheet from the shelf; the job keeps its own copy."""
    chosen = str((await request.form()).get("sheet_id") or "")
    with visit.change() as session:
        sheet = house.shelved(session, int(chosen)).sheet if chosen.isdigit() else None
        jobs.set_sheet(session, job_id, sheet)
    return RedirectResponse(f"/jobs/{job_id}/survey", 303)
