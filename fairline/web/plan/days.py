"""Several jobs and the company's people over two weeks; the day of one person, to print."""

from dataclasses import replace
from datetime import date, datetime, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Query
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from fairline.core.plan.day import PlanError, by_person, clashes, delay_words, planned, stays
from fairline.core.plan.job_plan import Slot
from fairline.store import board, house, jobs, plans
from fairline.store.clock import now as clock_now
from fairline.web.drawing.day_bars import by_jobs, job_tubes
from fairline.web.frame.calendar import CalendarEntry, calendar_file
from fairline.web.frame.forms import Form, form_fields
from fairline.web.frame.merging import whole_number
from fairline.web.frame.moments import here, wall_field
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, PostedForm, RequestContext
from fairline.web.plan.planning import plan_terms, tasks_of
from fairline.web.plan.routes import entries_of
from fairline.web.plan.terms_form import Reader

router = APIRouter(include_in_schema=False)
SHOWN_DAYS = 14
OFFERED = 50  # jobs to choose from at once
MOST = 12  # jobs that are planned at once
LIMIT_S = 0.4  # how long a shorter plan is looked for, for each of several jobs
Stay = tuple[datetime, datetime, str, str]


@router.get("/days")
def days(
    ctx: Context,
    start: Annotated[str, Query(alias="from", max_length=10)] = "",
    words: Annotated[str, Query(alias="q", max_length=100)] = "",
) -> HTMLResponse:
    """Where everybody is over two weeks, from the plans that are kept."""
    return _page(ctx, start=start, words=words)


def _page(
    ctx: RequestContext,
    form: Form | None = None,
    error: str = "",
    start: str = "",
    words: str = "",
) -> HTMLResponse:
    today = here(ctx.now()).date()
    first = _monday(start, today)
    since = datetime.combine(first, datetime.min.time(), here(ctx.now()).tzinfo)
    kept = plans.open_plans(ctx.session, min(since, ctx.now()))
    book = house.crew_book(ctx.session)
    named = {str(k.job_id): k.name for k in kept}
    of_named = {str(k.job_id): (k.plan, k.terms.travel_s) for k in kept if k.plan and k.terms.names}
    found = clashes(of_named)  # people without a name may be anybody
    order = [k.job_id for k in kept]
    chosen = [whole_number(n) for n in (form.values.get("job", []) if form else ())]
    offered, more = _offered(ctx, words, list(dict.fromkeys([*order, *chosen])))
    marks = {id: _mark(n) for n, id in enumerate(order)}
    context = {
        "first": first,
        "last": first + timedelta(days=SHOWN_DAYS - 1),
        "before": (first - timedelta(days=SHOWN_DAYS)).isoformat(),
        "after": (first + timedelta(days=SHOWN_DAYS)).isoformat(),
        "drawn": by_jobs(
            _stays(kept, [p.name for p in book.people], marks),
            first,
            SHOWN_DAYS,
            (book.opens, book.closes),
            here,
        ),
        "tubes": job_tubes(
            {f"{marks[k.job_id]} {k.name}": k.plan for k in kept if k.plan},
            first,
            SHOWN_DAYS,
            (book.opens, book.closes),
            here,
        ),
        "kept": kept,
        "marks": marks,
        "ready": {k.job_id: here(k.plan.ready) for k in kept if k.plan},
        "trades": [(k, here(s.start), s) for k in kept if k.plan for s in k.plan.slots if s.trade],
        "clash": [(name, here(at), named[one], named[other]) for name, at, one, other in found],
        "rows": offered,
        "more": more,
        "words": words,
        "book": book,
        "form": form or Form({"start": wall_field(_next_start(ctx, book.opens))}),
        "error": error,
        "today": today,
    }
    return page("plan/days.html", ctx, 422 if error or (form and form.errors) else 200, **context)


def _offered(ctx: RequestContext, words: str, order: list[int]) -> tuple[list[board.Row], bool]:
    """Jobs to choose from, planned and chosen ones first; whether there are more than are told."""
    found, count = board.page(ctx.session, size=OFFERED, asked=board.Asked(words=words))
    others = sorted((r for r in found if r.id not in order), key=lambda r: -r.id)
    every = [*board.rows(ctx.session, order), *others]
    open_ = [r for r in every if not r.brief.handed_over and not r.brief.failed]
    return open_, count > OFFERED


def _mark(number: int) -> str:
    """A, B … Z, A2: what a job is called in the drawing."""
    return chr(ord("A") + number % 26) + (str(number // 26 + 1) if number > 25 else "")


def _monday(typed: str, today: date) -> date:
    """The first day that is shown: as asked, or the Monday of this week."""
    try:
        return date.fromisoformat(typed)
    except ValueError:
        return today - timedelta(days=today.weekday())


def _next_start(ctx: RequestContext, opens: str) -> datetime:
    """Tomorrow when the day begins."""
    tomorrow = here(ctx.now()) + timedelta(days=1)
    hour, minute = (int(part) for part in opens.split(":"))
    return tomorrow.replace(hour=hour, minute=minute, second=0, microsecond=0)


def _stays(
    kept: list[plans.Kept], names: list[str], marks: dict[int, str]
) -> dict[str, list[Stay]]:
    """Where each person is, by the mark of the job."""
    found: dict[str, list[Stay]] = {name: [] for name in names}
    for one in kept:
        for name, own in by_person(one.plan).items() if one.plan else ():
            for start, end in stays(own):
                found.setdefault(name, []).append((start, end, one.name, marks[one.job_id]))
    return found


@router.post("/days")
def plan_jobs(data: PostedForm, ctx: Context) -> Response:
    """The chosen jobs planned one after another in their order, nobody in two places."""
    fields = form_fields(data)
    reader = Reader(fields, ctx.now(), ctx.system)
    start = reader.moment("start")
    chosen = _chosen(ctx, fields, reader)
    form = Form(dict(fields), reader.errors)
    if reader.errors:
        return _page(ctx, form)
    ids = {job_id for job_id, _ in chosen}
    others = [k for k in plans.open_plans(ctx.session, ctx.now()) if k.job_id not in ids]
    made: list[plans.Kept] = []
    for job_id, crew in chosen:
        try:
            one = _planned(ctx, job_id, crew, start, [*others, *made])
        except PlanError as error:
            name = ctx.judged(job_id).job.head.name
            return _page(ctx, form, f"{name}: {error}")
        made.append(one)
    with ctx.change(settles=False) as session:
        for one in made:
            plans.keep(session, one.job_id, one.terms, one.plan, here(ctx.now()).tzinfo)
    return RedirectResponse("/days", 303)


def _planned(
    ctx: RequestContext, job_id: int, crew: str, start: datetime | None, others: list[plans.Kept]
) -> plans.Kept:
    """One of several jobs planned, those of ``others`` as they are. Raises PlanError."""
    judged, kept, book = (
        ctx.judged(job_id),
        plans.of_job(ctx.session, job_id),
        house.crew_book(ctx.session),
    )
    people = book.crews.get(crew, ()) if crew else ()
    names = tuple(p.name for p in people) or kept.terms.names or tuple(p.name for p in book.people)
    asked = {"start": start or kept.terms.start, "names": names}
    terms = kept.terms.model_copy(update=asked)
    goes_by = replace(plan_terms(ctx, job_id, terms, others), limit_s=LIMIT_S)
    plan = planned(tasks_of(ctx, judged, terms), goes_by, ctx.now())
    if plan is not None and kept.plan is not None:
        said = delay_words(plan, kept.plan, "Planned with others")
        plan = plan.model_copy(update={"said": said})
    return replace(kept, terms=terms, plan=plan, name=judged.job.head.name)


def _chosen(ctx: RequestContext, fields: dict[str, Any], reader: Reader) -> list[tuple[int, str]]:
    """The jobs by their order, each with the crew that is asked for."""
    found: list[tuple[int, int, str]] = []
    for said in fields.get("job", []):
        job_id = whole_number(said)
        jobs.job_row(ctx.session, job_id)  # raises where there is none
        place = str(fields.get(f"order-{job_id}", "")).strip()
        if place and not 0 < whole_number(place) <= 999:
            reader.errors[f"order-{job_id}"] = "a number such as 1"
            continue
        found.append((int(place) if place else 1000, job_id, str(fields.get(f"crew-{job_id}", ""))))
    if not found and not reader.errors:
        reader.errors["job"] = "choose at least one job"
    if len(found) > MOST:
        reader.errors["job"] = f"at most {MOST} jobs at once"
    return [(job_id, crew) for _, job_id, crew in sorted(found)]


@router.get("/days/sheet")
def day_sheet(
    ctx: Context,
    person: Annotated[str, Query(max_length=200)] = "",
    on: Annotated[str, Query(max_length=10)] = "",
) -> HTMLResponse:
    """One person's day over all jobs, or everybody's, to print."""
    today = here(ctx.now()).date()
    try:
        day = date.fromisoformat(on) if on else today
    except ValueError:
        day = today
    since = datetime.combine(day, datetime.min.time(), here(ctx.now()).tzinfo)
    kept = plans.open_plans(ctx.session, min(since, ctx.now()))
    sheets: dict[str, list[tuple[plans.Kept, Slot, datetime, datetime]]] = {}
    for one in kept:
        for slot in one.plan.slots if one.plan else ():
            if here(slot.start).date() != day:
                continue
            for name in slot.people or ((slot.trade,) if slot.trade else ()):
                if not person or name == person:
                    sheets.setdefault(name, []).append(
                        (one, slot, here(slot.start), here(slot.end))
                    )
    for own in sheets.values():
        own.sort(key=lambda row: row[2])
    loaded = dict.fromkeys(one.job_id for own in sheets.values() for one, *_ in own)
    return page(
        "plan/sheet.html",
        ctx,
        sheets=sheets,
        day=day,
        whose=person,
        waits=_waits(kept, day),
        van="&".join(f"job={job_id}" for job_id in loaded),
    )


def _waits(kept: list[plans.Kept], day: date) -> list[tuple[str, Slot, datetime]]:
    """The waits that end on a day, each with its job."""
    return sorted(
        (
            (k.name, s, here(s.end))
            for k in kept
            if k.plan
            for s in k.plan.slots
            if s.waits and s.end > s.start and here(s.end).date() == day
        ),
        key=lambda row: row[2],
    )


@router.get("/dates.ics")
def dates(ctx: Context, person: Annotated[str, Query(max_length=200)] = "") -> Response:
    """All that has a date: visits, clocks that end, the days of the plans (of one person)."""
    found: list[CalendarEntry] = []
    for row in board.visits_ahead(ctx.session):
        found.append(
            CalendarEntry(
                uid=f"{row.brief.uid}-visit",
                made_at=ctx.now(),
                summary=f"{row.brief.name}: {row.brief.due}",
                starts=date.fromisoformat(row.brief.due_on),
                place=row.brief.site,
            )
        )
    for row, clock in board.running(ctx.session):
        found.append(
            CalendarEntry(
                uid=f"{row.brief.uid}-{clock.kind}",
                made_at=ctx.now(),
                summary=f"{row.brief.name}: {clock.act}",
                starts=clock.ends_at,
                ends=clock.ends_at + timedelta(minutes=15),
                place=row.brief.site,
                words=clock.words,
            )
        )
    for one in plans.open_plans(ctx.session, clock_now()):
        found += entries_of(f"plan-{one.job_id}", one.name, one.site, one, person)
    return Response(calendar_file(found), media_type="text/calendar")
