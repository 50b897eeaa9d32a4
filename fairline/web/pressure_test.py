"""Pressure-test page: the plan, the hold's clock, readings against what temperature explains."""

from typing import Any

from fairline.core import pressure_test
from fairline.web.drawing import chart
from fairline.web.drawing.hold_chart import hold_chart
from fairline.web.runs import held_s, open_run
from fairline.web.stage import stage_view
from fairline.web.visit import Judged, Visit


@stage_view("pressure-test")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    job, rules = judged.job, judged.rules
    plan = pressure_test.plan(rules)
    run = pressure_test.latest(job.runs)
    worked = pressure_test.answer(run, job.pressure_test, rules)
    points = pressure_test.curve(run, job.pressure_test) if run else []
    charts = []
    if points and plan and worked:
        leaking = "leak" in worked.findings
        charts = [
            hold_chart(points, frame, visit.system, plan.hold_s, leaking)
            for frame in (chart.WIDE, chart.NARROW)
        ]
    return {
        "plan": plan,
        "run": run,
        "open_run": open_run(judged, "hold"),
        "result": worked.result if worked else None,
        "held_s": held_s(run),
        "charts": charts,
        "holds": [r for r in job.runs if r.kind == "hold"],
    }
