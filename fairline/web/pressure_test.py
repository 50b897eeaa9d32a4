"""Pressure-test pages: the plan, the hold against the pipe's temperature, finding the leak."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core import hold_plan, kit, line, pressure_test
from fairline.core.call import Verdict
from fairline.core.leak_search import METHODS, LeakCheck
from fairline.core.readings import PROBES, Run
from fairline.core.volume import volume
from fairline.instruments.nitrogen import SCENARIOS
from fairline.store import jobs
from fairline.store.document import NotFoundError, now
from fairline.web.bench import NITROGEN_SPEEDS, NitrogenOnJob
from fairline.web.drawing import chart
from fairline.web.drawing.hold_chart import hold_chart
from fairline.web.forms import posted, read
from fairline.web.runs import held_s, not_asked, open_run
from fairline.web.stage import stage_page, stage_view
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)


@stage_view("pressure-test")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    job, rules = judged.counted, judged.rules
    plan = hold_plan.plan(rules)
    hold = pressure_test.latest(job.runs, job.pressure_test)
    run = hold.run if hold else None
    worked = pressure_test.answer(run, job.pressure_test, rules)
    held = volume(judged.pipes, rules)
    rates = pressure_test.leaks(run, job.pressure_test, rules, held)
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
        "began": hold.began if hold else None,
        "since": pressure_test.since(hold) if hold else None,
        "logs": [r for r in job.runs if r.kind == "hold"],
        "earlier": [
            (earlier, pressure_test.since(earlier), call)
            for earlier, call in pressure_test.earlier(job.runs, job.pressure_test, rules)
        ],
        "steps": pressure_test.steps_done(job.runs, job.pressure_test, rules),
        "rates": rates.result if rates else None,
        "rates_call": rates.call if rates else None,
        "volume": held,
        "searching": worked is not None and "leak" in worked.findings,
        "asked": kit.asked(rules),
        "looked": sum(s.call.verdict is Verdict.HOLDS for s in line.suspects_of(
            job, rules, judged.pipes)),
        "suspects": line.suspects_of(job, rules, judged.pipes),
        "history": [c for c in job.leak_checks
                    if hold is None or c.at < pressure_test.since(hold)],
        "methods": METHODS,
        "probes": [("", "not said"), *PROBES.items()],
        "probe_words": PROBES,
        "probe_at_hand": _probe_at_hand(run),
        "meanwhile": hold_plan.meanwhile(
            plan, worked.result.held_s if worked else 0.0, len(job.survey.now)
        ) if plan else [],
        "school": rules.school("pressure"),
        "check_form_of": None,
        "gauge": visit.request.app.state.bench.filled(judged.id),
        "scenarios": SCENARIOS,
        "speeds": NITROGEN_SPEEDS,
    }  # fmt: skip


def _probe_at_hand(run: Run | None) -> str:
    """Where the probe was at the last reading: it is most likely still there."""
    return (run.last.probe or "") if run and run.last else ""


@router.post("/jobs/{job_id}/pressure-test/gauge")
def connect(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """Fill to the test's pressure and put the simulated gauge on: a new hold begins."""
    judged = visit.judged(job_id)
    if not judged.job.head.practice:
        raise NotFoundError("a simulated gauge is for practice jobs only")
    plan = hold_plan.plan(judged.rules)
    scenario, speed = str(data.get("scenario")), str(data.get("speed"))
    if refused := not_asked(visit, judged, "pressure-test"):
        return refused
    if plan is None or scenario not in SCENARIOS or speed not in map(str, NITROGEN_SPEEDS):
        return visit.onward(f"/jobs/{job_id}/pressure-test")
    held = volume(judged.pipes, judged.rules)
    with visit.change() as session:
        uid = jobs.begin_run(session, job_id, "hold", visit.person)
    visit.request.app.state.bench.fill(NitrogenOnJob(
        sessions=visit.request.app.state.database.session, job_id=job_id, run_uid=uid,
        scenario=scenario, speed=int(speed), gauge_pa=plan.gauge_pa + 1e4,
        volume_m3=held.total_m3 if held else 0.0015,
    ))  # fmt: skip
    return visit.onward(f"/jobs/{job_id}/pressure-test")


@router.post("/jobs/{job_id}/pressure-test/gauge/off")
def disconnect(job_id: JobId, visit: AVisit) -> Response:
    visit.request.app.state.bench.unfill(job_id)
    return visit.onward(f"/jobs/{job_id}/pressure-test")


@router.post("/jobs/{job_id}/pressure-test/checks")
def record_check(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """A look at one joint while it is under pressure."""
    fields = posted(data)
    judged = visit.judged(job_id)
    stage = "charge" if kit.sealed(judged.rules) else "pressure-test"
    record, form = read(LeakCheck, fields, visit.system, extra={"kind": "leak-check", "at": now()})
    if record is None:
        return stage_page(visit, judged, stage, check_form=form, status=422,
                          check_form_of=fields.get("joint"))  # fmt: skip
    with visit.change() as session:
        jobs.append_record(session, job_id, record)
    return visit.onward(f"/jobs/{job_id}/{stage}#at-search", record.by)
