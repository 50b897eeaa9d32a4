"""A job's plan made anew and kept: its tasks, whom other jobs keep, what it changes, in words."""

from collections.abc import Iterable
from datetime import datetime, timedelta

from fairline.core.plan.day import (
    Terms,
    delay_words,
    kept_elsewhere,
    planned,
    terms_of,
)
from fairline.core.plan.job_plan import DayPlan, JobPlan, with_own
from fairline.core.plan.tasks import PlanTask, tasks
from fairline.core.plan.times import HouseTimes
from fairline.core.plan.took import learned
from fairline.store import house, plans
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import here
from fairline.web.frame.request_context import RequestContext


def times_of(ctx: RequestContext, judged: JudgedJob) -> HouseTimes:
    """How long things take here on a job of this size: set, learned, or usual."""
    own, heads = house.task_times(ctx.session), max(1, len(judged.job.survey.now))
    return learned(plans.learned_from(ctx.session), heads, own)


def tasks_of(ctx: RequestContext, judged: JudgedJob, terms: JobPlan) -> list[PlanTask]:
    """The tasks of a job with the house's own; those that are over marked so."""
    return with_own(tasks(judged.job, judged.worked, times_of(ctx, judged)), terms)


def plan_terms(
    ctx: RequestContext, job_id: int, terms: JobPlan, others: Iterable[plans.Kept] | None = None
) -> Terms:
    """What the job's plan goes by now, the people that other jobs keep left out.

    ``others``: the plans of those jobs; by default all that are kept. Raises PlanError.
    """
    now = here(ctx.now()).replace(second=0, microsecond=0)
    if others is None:
        others = plans.open_plans(ctx.session, now)
    kept = [(o.plan, o.terms.travel_s) for o in others if o.plan and o.job_id != job_id]
    elsewhere = kept_elsewhere(kept, terms.travel_s, now)
    start = terms.start or _last_start(ctx, job_id, now)
    asked = terms.model_copy(update={"start": start})
    return terms_of(asked, house.crew_book(ctx.session), now, elsewhere)


def _last_start(ctx: RequestContext, job_id: int, now: datetime) -> datetime | None:
    """The beginning of the plan that is kept, where it lies ahead."""
    before = plans.of_job(ctx.session, job_id).plan
    first = min((s.start for s in before.slots), default=None) if before else None
    return here(first) if first is not None and first > now else None


def plan_again(
    ctx: RequestContext, judged: JudgedJob, kept: plans.Kept, terms: JobPlan, why: str
) -> DayPlan | None:
    """The plan by new terms, with what it changes in a sentence; None where nothing is left.

    Raises PlanError.
    """
    goes_by = plan_terms(ctx, judged.id, terms)
    found = planned(tasks_of(ctx, judged, terms), goes_by, ctx.now())
    if found is None:
        return None
    said = ""
    if kept.plan is not None:
        said = delay_words(found, kept.plan, why)
    elif terms.rain:
        dry = planned(
            tasks_of(ctx, judged, terms),
            plan_terms(ctx, judged.id, terms.model_copy(update={"rain": ()})),
            ctx.now(),
        )
        said = delay_words(found, dry, "Rain") if dry is not None else ""
    return found.model_copy(update={"said": said})


def behind(plan: DayPlan, over: Iterable[str], now: datetime) -> str:
    """What should be over by now and is not, in a sentence; blank where all is as planned."""
    done = set(over)
    late = [
        s
        for s in plan.slots
        if s.task not in done and not s.waits and now - s.end > timedelta(minutes=5)
    ]
    if not late:
        return ""
    first = late[0]
    besides = f", and {len(late) - 1} more" if len(late) > 1 else ""
    return f"{first.words} should be over since {here(first.end):%a %H:%M}{besides}."


def unplanned(plan: DayPlan, tasks_now: Iterable[PlanTask]) -> list[str]:
    """The tasks that have come to the job since it was planned."""
    known = {s.task for s in plan.slots}
    left = [t for t in tasks_now if not t.done]
    return [t.words for t in left if t.id not in known]
