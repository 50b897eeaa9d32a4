"""The bench of a practice job: every simulated instrument on it, and what is wrong behind each."""

from fastapi import APIRouter
from fastapi.responses import HTMLResponse

from fairline.instruments import nitrogen, vacuum
from fairline.web import bench
from fairline.web.pages import page
from fairline.web.visit import AVisit, JobId

router = APIRouter(include_in_schema=False)


@router.get("/jobs/{job_id}/bench")
def open_bench(job_id: JobId, visit: AVisit) -> HTMLResponse:
    """What is on, what can be put on, and how to run one as a process of its own."""
    judged = visit.judged(job_id)
    on = visit.request.app.state.bench
    address = f"{visit.request.base_url}jobs/{job_id}"
    return page(
        "bench/page.html",
        visit,
        j=judged,
        job=judged.job,
        micron_gauge=on.on(job_id),
        micron_scenarios=vacuum.SCENARIOS,
        micron_speeds=bench.SPEEDS,
        nitrogen_gauge=on.filled(job_id),
        nitrogen_scenarios=nitrogen.SCENARIOS,
        nitrogen_speeds=bench.NITROGEN_SPEEDS,
        runs=judged.job.runs,
        commands=[
            f"fairline instrument micron --job {address} --scenario wet --speed 60",
            f"fairline instrument manometer --job {address} --scenario cooling --speed 600",
        ],
    )
