"""Hand-over pages: the record to print, its PDF, the label, the job as a file."""

import re
from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from fairline.core import commission, flare, line
from fairline.core.calc.nitrogen import atmosphere_pa
from fairline.core.call import Check
from fairline.core.hand_over import TASKS, called_otherwise
from fairline.core.job import Job
from fairline.core.label import unit_label
from fairline.core.leak_search import METHODS
from fairline.core.schools import TOPICS
from fairline.core.strike import Strike
from fairline.core.unboxing import OUTDOOR
from fairline.store import archive, jobs, pictures
from fairline.web.flare import job_pictures, joints_of
from fairline.web.pages import job_context, moment, page
from fairline.web.pictures import words_of
from fairline.web.stage import stage_view
from fairline.web.visit import AVisit, JobId, Judged, Visit, whole_job

router = APIRouter(include_in_schema=False)


@stage_view("hand-over")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    return {
        "tasks": TASKS,
        "label": unit_label(judged.counted, judged.rules, judged.pipes),
    }


def record_context(visit: Visit, judged: Judged) -> dict[str, Any]:
    """All that the record holds, for the page and for the PDF."""
    job, rules = judged.counted, judged.rules
    air_pa = atmosphere_pa(line.altitude_m(job))
    answers = [
        (r, commission.answer(r, rules.of(r.zone) if r.zone else rules, air_pa))
        for r in job.runnings
    ]
    return {
        **job_context(judged, "hand-over"),
        "units": units(judged),
        "places": placed(judged),
        "topics": TOPICS,
        "label": unit_label(judged.counted, judged.rules, judged.pipes),
        "joints": joints_of(judged),
        "looked": flare.looked,
        "pictures": job_pictures(visit, judged),
        "shows": words_of(judged),
        "picture": lambda name: pictures.content_of(visit.session, judged.id, name),
        "checks": job.leak_checks,
        "strikes": [(s, struck_words(judged.job, s)) for s in judged.job.strikes],
        "methods": METHODS,
        "runnings": [(r, a.result if a else None) for r, a in answers],
        "mode_words": commission.MODE_WORDS,
        "tasks": TASKS,
        "handed": handed_words(judged),
    }


def handed_words(judged: Judged) -> list[str]:
    """When the job was handed over and opened again, and what is judged otherwise since."""
    job, found = judged.job, []
    if day := job.handed_over:
        found.append(f"Handed over {moment(day.at)} by {day.by}.")
        for name, then in called_otherwise(day, judged.stages).items():
            found.append(
                f"That day {line.STAGES[name]} was called {then.verdict}; judged now it is "
                f"{judged.stages[name].call.verdict}."
            )
    for again in job.reopenings:
        found.append(f"Opened again {moment(again.at)} by {again.by}: {again.reason}")
    if job.hand_over.received_by:
        found.append(f"Received by {job.hand_over.received_by}.")
    return found


def struck_words(job: Job, strike: Strike) -> str:
    """What was struck out, in a few words."""
    if strike.of == "reading":
        run = next((r for r in job.runs if r.uid == strike.run), None)
        kind = {"hold": "the nitrogen hold", "pull": "the pull", "decay": "the decay"}
        name = kind[run.kind] if run else "a run"
        return f"reading {(strike.seq or 0) + 1} of {name}, {strike.instrument}"
    return STRUCK[strike.of]


STRUCK = {
    "joint": "the making of a joint", "weighing": "a weighing", "release": "the opening of the "
    "valves", "running": "a measurement of the running zone", "leak-check": "a look for leaks",
    "pump": "the pump's override", "isolation": "that the pump was seen off",
}  # fmt: skip


def units(judged: Judged) -> list[str]:
    """Every unit of the job with its sheet, version and serial number, a line each."""
    equipment, survey = judged.job.equipment, judged.job.survey
    found = []
    if equipment.outdoor:
        sheet, serial = equipment.outdoor.sheet, survey.box(OUTDOOR).serial
        found.append(
            f"{sheet.name} · {sheet.refrigerant}{' · serial ' + serial if serial else ''} · sheet "
            f"version {equipment.outdoor.version}"
        )
    for head in equipment.heads:
        serial = survey.box(head.zone).serial
        found.append(
            f"{head.zone}: {head.sheet.name}{' · serial ' + serial if serial else ''} · sheet "
            f"version {head.version}"
        )
    for fitting in equipment.fittings:
        what = "kit of run " + fitting.at if fitting.kind == "kit" else _of_tree(fitting.at)
        found.append(f"{what}: {fitting.sheet.name} · sheet version {fitting.version}")
    return found


def _of_tree(at: str) -> str:
    return at.replace("box", "box ").replace("tee", "tee ")


def placed(judged: Judged) -> list[Check]:
    """What was decided where, with its limit: every check of Mount that carries one."""
    return [c for c in judged.stages["mount"].checks if c.limit is not None]


def file_name(name: str, job_id: int, ending: str) -> str:
    plain = re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower() or "job"
    return f"{plain[:40]}-{job_id}.{ending}"


@router.get("/jobs/{job_id}/record")
def record(job_id: JobId, visit: AVisit) -> HTMLResponse:
    judged = visit.judged(job_id)
    return page("hand_over/record.html", visit, **record_context(visit, judged))


@router.get("/jobs/{job_id}/label")
def label_page(job_id: JobId, visit: AVisit) -> HTMLResponse:
    judged = visit.judged(job_id)
    return page("hand_over/label.html", visit, **record_context(visit, judged))


@router.get("/jobs/{job_id}/record.pdf")
def record_pdf(job_id: JobId, visit: AVisit) -> Response:
    from fairline.web.record_pdf import write_record

    judged = visit.judged(job_id)
    content = write_record(record_context(visit, judged), visit.system)
    disposition = f'inline; filename="{file_name(judged.job.head.name, judged.id, "pdf")}"'
    return Response(
        content, media_type="application/pdf", headers={"Content-Disposition": disposition}
    )


@router.get("/jobs/{job_id}/job.json")
def job_file(job_id: JobId, visit: AVisit) -> Response:
    """The whole job as one file, to be imported again without loss."""
    content = whole_job(visit, job_id)
    named = str(jobs.job_row(visit.session, job_id).head.get("name", ""))
    disposition = f'attachment; filename="{file_name(named, job_id, "fairline.json")}"'
    return Response(
        content,
        media_type="application/json",
        headers={"Content-Disposition": disposition},
    )


@router.get("/jobs/{job_id}/job.zip")
def job_archive(job_id: JobId, visit: AVisit) -> Response:
    """The whole job with its pictures, and its logs as CSV, to be imported again without loss."""
    judged = visit.judged(job_id)
    disposition = (
        f'attachment; filename="{file_name(judged.job.head.name, judged.id, "fairline.zip")}"'
    )
    return Response(
        archive.write(visit.session, job_id, judged.job),
        media_type="application/zip",
        headers={"Content-Disposition": disposition},
    )
