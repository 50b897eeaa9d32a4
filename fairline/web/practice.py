"""Practice pages: the house's schools, own limits and local code entries; how a job differs."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import ValidationError

from fairline.core.limit_list import LIMITS
from fairline.core.line import STAGES
from fairline.core.practice import CodeEntry, Departure, Practice
from fairline.core.problem import sentence
from fairline.core.quantities import parse, typed
from fairline.core.schools import TOPICS
from fairline.store import house, jobs
from fairline.store.document import now
from fairline.web.forms import CHANGED_MEANWHILE, Form, overtaken, posted, read
from fairline.web.pages import job_context, page
from fairline.web.visit import AForm, AVisit, JobId, Judged, Visit

router = APIRouter(include_in_schema=False)

STAGE_WORDS = {**STAGES, "wire": "Wire"}


def _shown(practice: Practice, visit: Visit) -> dict[str, Any]:
    """The practice as form fields: the topics, ``house.NAME``, ``code.NAME``, ``source.NAME``."""
    values: dict[str, Any] = {topic: practice.school(topic).name for topic in TOPICS}
    for name, d in LIMITS.items():
        own, entry = practice.house.get(name), practice.code.get(name)
        values[f"house.{name}"] = "" if own is None else _typed(own, d.kind, visit)
        values[f"code.{name}"] = "" if entry is None else _typed(entry.value, d.kind, visit)
        values[f"source.{name}"] = entry.source if entry else ""
    return values


def _typed(value: float, kind: str, visit: Visit) -> str:
    return typed(value, kind, visit.system) if kind else f"{value:g}"


def _practice_page(visit: Visit, form: Form, status: int = 200) -> HTMLResponse:
    return page(
        "practice/practice.html",
        visit,
        status=status,
        form=form,
        version=house.version(visit.session, "practice"),
        topics=TOPICS,
        stage_words=STAGE_WORDS,
        limits=LIMITS,
    )


@router.get("/practice")
def open_practice(visit: AVisit) -> HTMLResponse:
    practice, _ = house.practice(visit.session)
    return _practice_page(visit, Form(_shown(practice, visit)))


@router.post("/practice")
def save_practice(data: AForm, visit: AVisit) -> Response:
    fields = posted(data)
    before, _ = house.practice(visit.session)
    shown = _shown(before, visit)
    errors: dict[str, str] = {}
    own: dict[str, float] = {}
    code: dict[str, CodeEntry] = {}
    for name, d in LIMITS.items():
        for part in ("house", "code"):
            key = f"{part}.{name}"
            text = str(fields.get(key, "")).strip()
            if not text:
                continue
            try:
                if text == shown[key]:
                    value = before.house[name] if part == "house" else before.code[name].value
                else:
                    typed_value = parse(text, d.kind, visit.system) if d.kind else _number(text)
                    value = d.check(typed_value)
            except ValueError as error:
                errors[key] = str(error)
                continue
            if part == "house":
                own[name] = value
            else:
                source = str(fields.get(f"source.{name}", "")).strip()
                if not source:
                    errors[f"source.{name}"] = "name the code and its paragraph"
                else:
                    code[name] = CodeEntry(value=value, source=source[:200])
    schools = {topic: str(fields.get(topic, before.school(topic).name)) for topic in TOPICS}
    chosen = {t: s for t, s in schools.items() if s != TOPICS[t].default}
    practice = None
    try:
        practice = Practice(schools=chosen, house=own, code=code)
    except ValidationError as error:
        for e in error.errors():
            wrong = [t for t in chosen if chosen[t] not in [s.name for s in TOPICS[t].schools]]
            errors |= {t: sentence(e) for t in wrong} or {str(e["loc"][0]): sentence(e)}
    if errors or practice is None:
        return _practice_page(visit, Form(fields, errors), 422)
    with visit.change() as session:
        if overtaken(data, house.version(session, "practice")):
            return _practice_page(visit, Form(fields, {"": CHANGED_MEANWHILE}), 409)
        house.set_practice(session, practice)
    return RedirectResponse("/practice", 303)


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError as error:
        raise ValueError("type a number") from error


@router.get("/jobs/{job_id}/practice")
def open_job_practice(job_id: JobId, visit: AVisit) -> HTMLResponse:
    return _job_page(visit, visit.judged(job_id), Form({"by": visit.person}))


def _job_page(visit: Visit, judged: Judged, form: Form, status: int = 200) -> HTMLResponse:
    return page(
        "practice/job.html",
        visit,
        status=status,
        form=form,
        version=house.version(visit.session, "practice"),
        topics=TOPICS,
        stage_words=STAGE_WORDS,
        practice=judged.rules.practice,
        departures=judged.rules.departures,
        history=judged.job.departures,
        **job_context(judged, judged.at),
    )


@router.post("/jobs/{job_id}/practice")
def depart(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """This job follows another school than the house, with its reason; appended for good."""
    record, form = read(Departure, posted(data), visit.system, extra={"at": now()})
    if record is None:
        return _job_page(visit, visit.judged(job_id), form, 422)
    with visit.change() as session:
        jobs.append_record(session, job_id, record)
    return visit.onward(f"/jobs/{job_id}/practice", record.by)
