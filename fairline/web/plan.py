"""The plan of the day: what is left of a job, in the shortest order, for so many people."""

from datetime import date, datetime, timedelta
from typing import Annotated, Any
from urllib.parse import urlencode

from fastapi import APIRouter, Depends, Query
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import ValidationError

from fairline.core.plan.day import DayPlan, PlanError, Slot, Terms, delay_words, people, planned
from fairline.core.plan.tasks import PlanTask, tasks
from fairline.core.plan.times import HouseTimes, task_times
from fairline.core.quantities import parse, typed
from fairline.store import house
from fairline.web.drawing.day_bars import day_bars
from fairline.web.frame.calendar import CalendarEntry, calendar_file
from fairline.web.frame.forms import Form, form_fields
from fairline.web.frame.moments import here
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext

router = APIRouter(include_in_schema=False)
CREW, OPENS, CLOSES = 2, "08:00", "16:30"
Asked = Annotated[str, Query(max_length=40)]


def _terms(values: dict[str, str], now: datetime) -> tuple[Terms | None, Form]:
    """What a plan goes by, as typed; None with what is wrong beside each field."""
    errors: dict[str, str] = {}

    def moment(name: str) -> datetime | None:
        try:
            return datetime.fromisoformat(values[name]) if values[name] else None
        except ValueError:
            errors[name] = "type a day and an hour like 2026-12-02T08:00"
            return None

    start, slot = moment("start"), moment("slot")
    try:
        rain = date.fromisoformat(values["rain"]) if values["rain"] else None
    except ValueError:
        rain, errors["rain"] = None, "type a day like 2026-12-02"
    if not values["crew"].isdecimal() or not 1 <= int(values["crew"]) <= 20:
        errors["crew"] = "between 1 and 20 people"
    for name in ("opens", "closes"):
        try:
            datetime.strptime(values[name], "%H:%M")
        except ValueError:
            errors[name] = "type an hour like 08:00"
    if not errors and values["opens"] >= values["closes"]:
        errors["closes"] = "the day ends before it begins"
    if slot is not None and slot < now.replace(tzinfo=None) - timedelta(days=1):
        errors["slot"] = "that day is over"
    form = Form(values, errors)
    if errors:
        return None, form
    return (
        Terms(
            start=start or now.replace(tzinfo=None, second=0, microsecond=0),
            crew=int(values["crew"]),
            opens=values["opens"],
            closes=values["closes"],
            slot=slot,
            rain=rain,
        ),
        form,
    )


def _asked(
    start: Asked = "",
    crew: Asked = str(CREW),
    opens: Asked = OPENS,
    closes: Asked = CLOSES,
    slot: Asked = "",
    rain: Asked = "",
) -> dict[str, str]:
    """The terms of a plan as they stand in the address."""
    return {
        "start": start,
        "crew": crew,
        "opens": opens,
        "closes": closes,
        "slot": slot,
        "rain": rain,
    }


TermsAsked = Annotated[dict[str, str], Depends(_asked)]


@router.get("/jobs/{job_id}/plan")
def plan_page(job_id: JobId, ctx: Context, asked: TermsAsked) -> HTMLResponse:
    """The plan of what is left; its terms stand in the address, so that it can be sent on."""
    return _page(ctx, job_id, asked, _times_form(ctx))


def _page(
    ctx: RequestContext, job_id: int, asked: dict[str, str], times_form: Form
) -> HTMLResponse:
    judged, now = ctx.judged(job_id), here(ctx.now())
    terms, form = _terms(asked, now)
    every = tasks(judged.job, judged.worked, house.task_times(ctx.session))
    shown: dict[str, Any] = {"plan": None, "error": ""}
    if terms is not None:
        try:
            shown |= _shown(every, terms)
        except PlanError as error:
            shown["error"] = str(error)
    return page(
        "plan/page.html",
        ctx,
        422 if form.errors or times_form.errors or shown["error"] else 200,
        **job_context(judged, judged.at),
        **shown,
        form=form,
        terms_query=urlencode(form.values),
        every=every,
        over=[t for t in every if t.done],
        times=task_times(),
        times_form=times_form,
    )


def _shown(every: list[PlanTask], terms: Terms) -> dict[str, Any]:
    """The plan with its drawing, by person, by day; what rain costs, in a sentence."""
    found = planned(every, terms)
    if found is None:
        return {"plan": None}
    said = ""
    if terms.rain is not None:
        dry = planned(every, Terms(**{**terms.__dict__, "rain": None}))
        said = delay_words(found, dry, "Rain that day") if dry is not None else ""
    return {
        "plan": found,
        "drawn": day_bars(found.slots, terms.opens, terms.closes),
        "people": people(found, terms.crew),
        "days": _by_day(found),
        "delay": said,
        "waits_filled": _filled(found),
    }


def _by_day(plan: DayPlan) -> dict[date, list[Slot]]:
    found: dict[date, list[Slot]] = {}
    for slot in plan.slots:
        found.setdefault(slot.start.date(), []).append(slot)
    return found


def _filled(plan: DayPlan) -> dict[str, list[str]]:
    """What is done while nobody is needed, by the wait's words."""
    found = {}
    for wait in (s for s in plan.slots if s.task.waits):
        beside = [
            s.task.words
            for s in plan.slots
            if not s.task.waits and s.start < wait.end and s.end > wait.start
        ]
        found[wait.task.words] = beside
    return found


def _times_form(ctx: RequestContext) -> Form:
    own = house.task_times(ctx.session)
    values = {n: typed(own.each_s(n), "duration", ctx.system) for n in task_times()}
    return Form(values, prefix="time-")


@router.post("/jobs/{job_id}/plan/times")
def save_times(job_id: JobId, data: PostedForm, ctx: Context, asked: TermsAsked) -> Response:
    """How long each kind of task takes in this house; blank goes back to what is usual."""
    found, fields, errors = dict[str, float](), form_fields(data), dict[str, str]()
    for name, usual in task_times().items():
        said = str(fields.get(name, "")).strip()
        try:
            seconds = parse(said, "duration", ctx.system) if said else usual.each_s
            if abs(seconds - usual.each_s) > 1e-6:
                found |= HouseTimes(times={name: seconds}).times
        except ValidationError:
            errors[name] = "between nothing and a month"
        except ValueError as error:
            errors[name] = str(error)
    if errors:
        return _page(ctx, job_id, asked, Form(fields, errors, "time-"))
    with ctx.change(settles=False) as session:
        house.set_task_times(session, HouseTimes(times=found))
    return RedirectResponse(f"/jobs/{job_id}/plan?{urlencode(asked)}", 303)


@router.get("/jobs/{job_id}/plan.ics")
def plan_dates(job_id: JobId, ctx: Context, asked: TermsAsked) -> Response:
    """The plan as calendar entries, a task each."""
    judged = ctx.judged(job_id)
    terms, _ = _terms(asked, here(ctx.now()))
    every = tasks(judged.job, judged.worked, house.task_times(ctx.session))
    try:
        found = planned(every, terms) if terms is not None else None
    except PlanError:  # the page says why
        return RedirectResponse(f"/jobs/{job_id}/plan?{urlencode(asked)}", 303)
    if terms is None:
        return RedirectResponse(f"/jobs/{job_id}/plan?{urlencode(asked)}", 303)
    head = judged.job.head
    entries = [
        CalendarEntry(
            uid=f"{judged.job.uid}-{slot.task.id}",
            made_at=ctx.now(),
            summary=f"{head.name}: {slot.task.words}",
            starts=slot.start,
            ends=slot.end,
            place=head.site,
        )
        for slot in (found.slots if found else ())
    ]
    return Response(calendar_file(entries), media_type="text/calendar")
