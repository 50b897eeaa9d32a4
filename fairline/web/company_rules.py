"""Company rules: schools, limits of its own, local code entries; how a job differs from them."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import ValidationError

from fairline.core.hand_over.picture import THINGS
from fairline.core.limit_list import LIMITS
from fairline.core.practice import Departure, Practice
from fairline.core.problem import sentence
from fairline.core.quantities import typed
from fairline.core.schools import TOPICS
from fairline.core.stages import TITLES as STAGES
from fairline.store import house, jobs
from fairline.web.frame.forms import CHANGED_MEANWHILE, Form, flat, form_fields, overtaken, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext

router = APIRouter(include_in_schema=False)


def _shown(practice: Practice, ctx: RequestContext) -> dict[str, Any]:
    """The practice as form fields: the topics, ``house.NAME``, ``code.NAME``, ``source.NAME``."""
    values: dict[str, Any] = {topic: practice.school(topic).name for topic in TOPICS}
    for name, d in LIMITS.items():
        own, entry = practice.house.get(name), practice.code.get(name)
        values[f"house.{name}"] = "" if own is None else _typed(own, d.kind, ctx)
        values[f"code.{name}"] = "" if entry is None else _typed(entry.value, d.kind, ctx)
        values[f"source.{name}"] = entry.source if entry else ""
    values["closing"] = "\n".join(practice.closing)
    values |= {f"pictures.{name}": "true" for name in practice.pictures}
    return values


def _typed(value: float, kind: str, ctx: RequestContext) -> str:
    return typed(value, kind, ctx.system) if kind else f"{value:g}"


def _practice_page(
    ctx: RequestContext, form: Form, status: int = 200, company: Form | None = None
) -> HTMLResponse:
    return page(
        "company_rules/company.html",
        ctx,
        status=status,
        form=form,
        company_form=company or Form(flat(ctx.company, ctx.system), prefix="company-"),
        version=house.version(ctx.session, "practice"),
        topics=TOPICS,
        stage_words=STAGES,
        limits=LIMITS,
        things={k: v for k, v in THINGS.items() if k != "place"},
        own_limits=sum(
            any(form.value(f"{of}.{name}") for of in ("house", "code")) for name in LIMITS
        ),
        settling=ctx.request.app.state.settling.left(),
    )


@router.get("/rules")
def open_practice(ctx: Context) -> HTMLResponse:
    practice, _ = house.practice(ctx.session)
    return _practice_page(ctx, Form(_shown(practice, ctx)))


@router.post("/company")
def save_company(data: PostedForm, ctx: Context) -> Response:
    """Whose jobs they are: name and telephone for label and record, the time zone of moments."""
    told, form = read(house.Company, form_fields(data), ctx.system)
    if told is None:
        form.prefix = "company-"
        practice, _ = house.practice(ctx.session)
        return _practice_page(ctx, Form(_shown(practice, ctx)), 422, form)
    with ctx.change(settles=False) as session:
        house.set_company(session, told)
    return RedirectResponse("/rules", 303)


@router.post("/rules")
def save_practice(data: PostedForm, ctx: Context) -> Response:
    fields = form_fields(data)
    before, _ = house.practice(ctx.session)
    typed_in, errors = _typed_in(fields, before, ctx)
    practice, wrong = practice_of(typed_in)
    if errors or wrong or practice is None:
        return _practice_page(ctx, Form(fields, errors | wrong), 422)
    with ctx.change() as session:
        if overtaken(data, house.version(session, "practice")):
            return _practice_page(ctx, Form(fields, {"": CHANGED_MEANWHILE}), 409)
        house.set_practice(session, practice)
    ctx.request.app.state.settling.begin()
    return RedirectResponse("/rules", 303)


def _typed_in(
    fields: dict[str, Any], before: Practice, ctx: RequestContext
) -> tuple[dict[str, Any], dict[str, str]]:
    """The practice's document as it was typed, limits in SI; errors by field for no number.

    A field that still shows what the page showed keeps the value behind it.
    """
    shown, kept = _shown(before, ctx), before.model_dump()
    found: dict[str, dict[str, Any]] = {"house": {}, "code": {}}
    errors: dict[str, str] = {}
    for key, text in ((k, str(v).strip()) for k, v in fields.items()):
        part, _, name = key.partition(".")
        if part not in found or name not in LIMITS or not text:
            continue
        try:
            same = text == shown[key]
            value: Any = kept[part][name] if same else LIMITS[name].typed(text, ctx.system)
        except ValueError as error:
            errors[key] = str(error)
            continue
        if part == "code":
            value = value["value"] if same else value
            source = str(fields.get(f"source.{name}", "")).strip()[:200]
            value = {"value": value, "source": source}
        found[part][name] = value
    schools = {topic: str(fields.get(topic, before.school(topic).name)) for topic in TOPICS}
    chosen = {t: s for t, s in schools.items() if s != TOPICS[t].default}
    lines = [line.strip()[:200] for line in str(fields.get("closing", "")).splitlines()]
    own: dict[str, Any] = {
        "closing": [line for line in dict.fromkeys(lines) if line][:20],
        "pictures": [name for name in THINGS if fields.get(f"pictures.{name}")],
    }
    return {"schools": chosen, **found, **own}, errors


def practice_of(document: dict[str, Any]) -> tuple[Practice | None, dict[str, str]]:
    """The practice of a document, or what its model says of each field: every one by itself."""
    errors = {}
    for part, values in document.items():
        if not isinstance(values, dict):
            continue
        for name, value in values.items():
            try:
                Practice.model_validate({part: {name: value}})
            except ValidationError as error:
                first = error.errors()[0]
                source = first["loc"][-1] == "source"
                key = f"source.{name}" if source else f"{part}.{name}"
                told = "name the code and its paragraph" if source else sentence(first)
                errors[name if part == "schools" else key] = told
    return (None if errors else Practice.model_validate(document)), errors


@router.get("/jobs/{job_id}/rules")
def open_job_practice(job_id: JobId, ctx: Context) -> HTMLResponse:
    return _job_page(ctx, ctx.judged(job_id), Form({"by": ctx.person}))


def _job_page(
    ctx: RequestContext, judged: JudgedJob, form: Form, status: int = 200
) -> HTMLResponse:
    return page(
        "company_rules/job.html",
        ctx,
        status=status,
        form=form,
        version=house.version(ctx.session, "practice"),
        topics=TOPICS,
        stage_words=STAGES,
        practice=judged.rules.practice,
        departures=judged.rules.departures,
        history=judged.job.departures,
        **job_context(judged, judged.at),
    )


@router.post("/jobs/{job_id}/rules")
def depart(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """This job follows another school than the company, with its reason; append-only."""
    record, form = read(Departure, form_fields(data), ctx.system, extra={"at": ctx.now()})
    if record is None:
        return _job_page(ctx, ctx.judged(job_id), form, 422)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/rules", record.by)


@router.get("/practice")
@router.get("/jobs/{job_id}/practice")
def as_it_was_called(job_id: int | None = None) -> RedirectResponse:
    """The address of before, which may be marked in a browser."""
    return RedirectResponse("/rules" if job_id is None else f"/jobs/{job_id}/rules", 308)
