"""The plan of a job's days: what is left of it, in the shortest order, for its people."""

from datetime import date
from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import ValidationError

from fairline.core.plan.crew import SKILLS
from fairline.core.plan.day import PlanError, by_person
from fairline.core.plan.job_plan import OWN, DayPlan, JobPlan, Moved, OwnTask, Slot
from fairline.core.plan.tasks import PlanTask
from fairline.core.plan.times import LONGEST_S, HouseTimes, task_times
from fairline.core.problem import from_validation
from fairline.core.quantities import duration, parse, typed
from fairline.store import house, plans
from fairline.web.drawing.day_bars import by_people, by_task
from fairline.web.frame.calendar import CalendarEntry, calendar_file
from fairline.web.frame.forms import Form, form_fields, overtaken
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import here, wall_field
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.plan import terms_form
from fairline.web.plan.planning import behind, plan_again, tasks_of, times_of, unplanned

router = APIRouter(include_in_schema=False)
MOVED_MEANWHILE = "somebody planned this job meanwhile: look at the plan as it is now, then again"


@router.get("/jobs/{job_id}/plan")
def plan_page(job_id: JobId, ctx: Context, task: str = "") -> HTMLResponse:
    """The plan that is kept for the job, what is over marked in it; ``task``: the one to move."""
    return _page(ctx, ctx.judged(job_id), task=task[:80])


def _page(
    ctx: RequestContext,
    judged: JudgedJob,
    forms: dict[str, Form] | None = None,
    error: str = "",
    task: str = "",
    status: int = 422,
) -> HTMLResponse:
    kept = plans.of_job(ctx.session, judged.id)
    every = tasks_of(ctx, judged, kept.terms)
    given, over = forms or {}, {t.id for t in every if t.done}
    shown: dict[str, Any] = {"drawn": "", "people": {}, "days": {}, "late": "", "new": []}
    if kept.plan is not None:
        shown = _drawn(ctx, kept.plan, over) | {
            "late": behind(kept.plan, over, ctx.now()),
            "new": unplanned(kept.plan, every),
        }
    own = house.task_times(ctx.session)
    times = times_of(ctx, judged)
    context = {
        "kept": kept,
        "plan": kept.plan,
        "form": given.get("terms") or terms_form.shown(kept.terms, ctx.system),
        "move_form": given.get("move") or _move_form(ctx, kept, every, task),
        "own_form": given.get("own") or Form({"by": "crew"}, prefix="own-"),
        "times_form": given.get("times") or _times_form(ctx, own),
        "took_form": given.get("took") or _took_form(ctx, kept),
        "trades": terms_form.trades_of(kept.terms),
        "crew_book": house.crew_book(ctx.session),
        "skills": SKILLS,
        "every": every,
        "left": [t for t in every if not t.done],
        "over": over,
        "task_options": [("", "–"), *((t.id, t.words) for t in every if not t.done)],
        "took_labels": _took_labels(kept, every),
        "local": here,
        "span": duration,
        "times": task_times(),
        "house_times": times,
        "error": error,
        "ready": here(kept.plan.ready) if kept.plan else None,
        **shown,
    }
    code = status if error or forms else 200
    return page("plan/page.html", ctx, code, **job_context(judged, judged.at), **context)


def _drawn(ctx: RequestContext, plan: DayPlan, over: set[str]) -> dict[str, Any]:
    """The plan as drawings by task and by person, and by day; what is over marked."""
    book = house.crew_book(ctx.session)
    days: dict[date, list[Slot]] = {}
    for slot in plan.slots:
        days.setdefault(here(slot.start).date(), []).append(slot)
    return {
        "drawn": by_task(plan, over, book.opens, book.closes, here),
        "drawn_people": by_people(plan, over, book.opens, book.closes, here),
        "people": by_person(plan),
        "days": days,
        "filled": _filled(plan),
    }


def _filled(plan: DayPlan) -> dict[str, list[str]]:
    """What is done while nobody is needed, by the wait's words."""
    return {
        wait.words: [
            s.words for s in plan.slots if not s.waits and s.start < wait.end and s.end > wait.start
        ]
        for wait in plan.slots
        if wait.waits
    }


def _move_form(ctx: RequestContext, kept: plans.Kept, every: list[PlanTask], task: str) -> Form:
    """The task to move, as it was moved last."""
    chosen = next((t for t in every if t.id == task and not t.done), None)
    if chosen is None:
        return Form({}, prefix="move-")
    moved = kept.terms.moved.get(task, Moved())
    long = typed(chosen.duration_s, "duration", ctx.system)
    values = {"task": task, "earliest": wall_field(moved.earliest), "who": moved.who}
    return Form(values | {"long": long}, prefix="move-")


@router.post("/jobs/{job_id}/plan")
def make_plan(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """The plan by these terms, made and kept."""
    judged, fields = ctx.judged(job_id), form_fields(data)
    kept, book = plans.of_job(ctx.session, job_id), house.crew_book(ctx.session)
    terms, form = terms_form.read_terms(fields, kept.terms, book, ctx.now(), ctx.system)
    if terms is None:
        return _page(ctx, judged, {"terms": form})
    return _kept(ctx, judged, kept, terms, data, _why(kept.terms, terms), {"terms": form})


def _why(before: JobPlan, now: JobPlan) -> str:
    """What is different in the terms, in a few words."""
    if now.rain != before.rain and now.rain:
        return "Rain"
    if now.slots != before.slots:
        return "With that slot"
    if (now.names, now.count) != (before.names, before.count):
        return f"With {len(now.names) or now.count} people"
    return "Planned again"


def _kept(
    ctx: RequestContext,
    judged: JudgedJob,
    kept: plans.Kept,
    terms: JobPlan,
    data: Any,
    why: str,
    forms: dict[str, Form],
) -> Response:
    """The job planned by these terms and kept; else the page with why not."""
    if overtaken(data, kept.version):
        return _page(ctx, judged, forms, MOVED_MEANWHILE, status=409)
    try:
        made = plan_again(ctx, judged, kept, terms, why)
    except PlanError as error:
        return _page(ctx, judged, forms, str(error))
    with ctx.change(settles=False) as session:
        if plans.of_job(session, judged.id).version != kept.version:
            return _page(ctx, judged, forms, MOVED_MEANWHILE, status=409)
        plans.keep(session, judged.id, terms, made, here(ctx.now()).tzinfo)
    return RedirectResponse(f"/jobs/{judged.id}/plan", 303)


@router.post("/jobs/{job_id}/plan/move")
def move(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """One task moved: not before, by whom, how long; then all is planned again."""
    judged, fields = ctx.judged(job_id), form_fields(data)
    kept = plans.of_job(ctx.session, job_id)
    every = {t.id: t for t in tasks_of(ctx, judged, kept.terms) if not t.done}
    id = str(fields.get("task", "")).partition("#")[0]
    form = Form(dict(fields) | {"task": id}, {}, "move-")
    task = every.get(id)
    if task is None:
        form.errors["task"] = "choose a task that is left"
        return _page(ctx, judged, {"move": form})
    moved = _moved(ctx, fields, task, kept.terms.moved.get(id, Moved()), form)
    if moved is None:
        return _page(ctx, judged, {"move": form}, task=id)
    others = {k: v for k, v in kept.terms.moved.items() if k != id}
    if moved != Moved():
        others[id] = moved
    terms = kept.terms.model_copy(update={"moved": others})
    return _kept(ctx, judged, kept, terms, data, f"{task.words} moved", {"move": form})


def _moved(
    ctx: RequestContext, fields: dict[str, Any], task: PlanTask, before: Moved, form: Form
) -> Moved | None:
    """What was said of a task; a field that was not sent stays as it was. None: form.errors."""
    reader = terms_form.Reader(fields, ctx.now(), ctx.system)
    earliest = reader.moment("earliest") if "earliest" in fields else before.earliest
    who = str(fields["who"]).strip()[:200] if "who" in fields else before.who
    long = before.duration_s
    if "long" in fields:
        typed_s = reader.duration("long", LONGEST_S, None)
        same = typed_s is None or abs(typed_s - task.duration_s) < 1.0
        long = before.duration_s if same and reader.said("long") else typed_s
    form.errors |= reader.errors
    return None if form.errors else Moved(earliest=earliest, who=who, duration_s=long)


@router.post("/jobs/{job_id}/plan/own")
def own_task(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """A task of the house's own added, ticked as over, or taken out; then all is planned again."""
    judged, fields = ctx.judged(job_id), form_fields(data)
    kept = plans.of_job(ctx.session, job_id)
    form = Form(dict(fields), {}, "own-")
    if out := str(fields.get("out", "")):
        own = tuple(t for t in kept.terms.own if t.id != out)
        why = "Without that task"
    elif over := str(fields.get("over", "")):
        own = tuple(
            t.model_copy(update={"over": not t.over}) if t.id == over else t for t in kept.terms.own
        )
        why = "With that over"
    else:
        made = _own(ctx, fields, kept.terms, form)
        if made is None:
            return _page(ctx, judged, {"own": form})
        own, why = (*kept.terms.own, made), f"{made.words} added"
    terms = kept.terms.model_copy(update={"own": own})
    return _kept(ctx, judged, kept, terms, data, why, {"own": form})


def _own(ctx: RequestContext, fields: dict[str, Any], terms: JobPlan, form: Form) -> OwnTask | None:
    reader = terms_form.Reader(fields, ctx.now(), ctx.system)
    taken = [int(t.id.removeprefix(OWN)) for t in terms.own if t.id.removeprefix(OWN).isdecimal()]
    asked = {
        "id": f"{OWN}{max(taken, default=0) + 1}",
        "words": str(fields.get("words", "")).strip(),
        "by": fields.get("by") or "crew",
        "trade": str(fields.get("trade", "")).strip(),
        "duration_s": reader.duration("long", LONGEST_S, 3600.0),
        "crew": reader.count("crew", 1),
        "after": tuple(a for a in [str(fields.get("after", ""))] if a),
        "before": tuple(b for b in [str(fields.get("before", ""))] if b),
        "earliest": reader.moment("earliest"),
    }
    form.errors |= reader.errors
    if not asked["words"]:
        form.errors["words"] = "say what it is"
    if form.errors:
        return None
    try:
        return OwnTask.model_validate(asked)
    except ValidationError as error:
        form.errors["words"] = str(from_validation(error)["detail"])
        return None


def _times_form(ctx: RequestContext, own: HouseTimes) -> Form:
    """What the house has set; a blank goes by its own median or what is usual."""
    values = {n: typed(s, "duration", ctx.system) for n, s in own.times.items()}
    return Form(values, prefix="time-")


@router.post("/jobs/{job_id}/plan/times")
def save_times(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """How long each kind of task takes in this house; blank goes back to its own median."""
    found, fields, errors = dict[str, float](), form_fields(data), dict[str, str]()
    for name in task_times():
        said = str(fields.get(name, "")).strip()
        if not said:
            continue
        try:
            seconds = parse(said, "duration", ctx.system)
            found |= HouseTimes(times={name: seconds}).times
        except ValidationError:
            errors[name] = "between nothing and a month"
        except ValueError as error:
            errors[name] = str(error)
    if errors:
        return _page(ctx, ctx.judged(job_id), {"times": Form(fields, errors, "time-")})
    with ctx.change(settles=False) as session:
        house.set_task_times(session, HouseTimes(times=found))
    return RedirectResponse(f"/jobs/{job_id}/plan#times", 303)


def _took_form(ctx: RequestContext, kept: plans.Kept) -> Form:
    own = kept.took.tasks if kept.took else {}
    values = {id: typed(one.seconds, "duration", ctx.system) for id, one in own.items()}
    return Form(values, prefix="took-")


def _took_labels(kept: plans.Kept, every: list[PlanTask]) -> dict[str, str]:
    """What each task that took a known time is called."""
    known = {t.id: t.words for t in every}
    own = kept.took.tasks if kept.took else {}
    return {id: known.get(id, task_times()[one.kind].words) for id, one in own.items()}


@router.post("/jobs/{job_id}/plan/took")
def correct_took(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """What the tasks of a finished job took, corrected; blank: the house learns nothing of it."""
    kept, fields = plans.of_job(ctx.session, job_id), form_fields(data)
    if kept.took is None:
        return RedirectResponse(f"/jobs/{job_id}/plan", 303)
    reader, found = terms_form.Reader(fields, ctx.now(), ctx.system), dict(kept.took.tasks)
    for id, one in kept.took.tasks.items():
        seconds = reader.duration(id, LONGEST_S, None)
        if seconds is None:
            del found[id]
        elif abs(seconds - one.seconds) >= 1.0 and id not in reader.errors:
            found[id] = one.model_copy(update={"seconds": max(seconds, 1.0)})
    if reader.errors:
        form = Form(fields, reader.errors, "took-")
        return _page(ctx, ctx.judged(job_id), {"took": form})
    with ctx.change(settles=False) as session:
        plans.keep_took(session, job_id, kept.took.model_copy(update={"tasks": found}))
    return RedirectResponse(f"/jobs/{job_id}/plan#took", 303)


@router.get("/jobs/{job_id}/plan.ics")
def plan_dates(job_id: JobId, ctx: Context) -> Response:
    """The plan as calendar entries, a task each, with who does it."""
    judged, kept = ctx.judged(job_id), plans.of_job(ctx.session, job_id)
    return Response(
        calendar_file(entries_of(judged.job.uid, judged.job.head.name, judged.job.head.site, kept)),
        media_type="text/calendar",
    )


def entries_of(
    uid: str, name: str, site: str, kept: plans.Kept, person: str = ""
) -> list[CalendarEntry]:
    """A kept plan as calendar entries; of one ``person``, or of all."""
    if kept.plan is None:
        return []
    return [
        CalendarEntry(
            uid=f"{uid}-{slot.id}",
            made_at=kept.plan.made_at,
            summary=f"{name}: {slot.words}",
            starts=slot.start,
            ends=slot.end,
            place=site,
            words=", ".join(slot.people) or slot.trade or "needs nobody",
        )
        for slot in kept.plan.slots
        if not person or person in slot.people
    ]
