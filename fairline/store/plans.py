"""Plans of jobs' days, kept beside the jobs: the company's own, in no job file."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime, tzinfo

from sqlalchemy import ColumnElement, false, or_, select
from sqlalchemy.orm import Session

from fairline.core.found_by import folded
from fairline.core.plan.job_plan import DayPlan, JobPlan
from fairline.core.plan.took import TookOnJob
from fairline.store.document import dump
from fairline.store.models import JobRow, PlanRow

LEARNED_FROM = 300  # finished jobs, the newest


@dataclass(frozen=True)
class Kept:
    """What is kept of a job's plan; version 0 where nothing is."""

    job_id: int
    terms: JobPlan = field(default_factory=JobPlan)
    plan: DayPlan | None = None
    took: TookOnJob | None = None
    version: int = 0
    name: str = ""
    site: str = ""


def _kept(row: PlanRow, head: dict[str, str] | None = None) -> Kept:
    about = head or {}
    return Kept(
        job_id=row.job_id,
        terms=JobPlan.model_validate(row.terms),
        plan=DayPlan.model_validate(row.plan) if row.plan else None,
        took=TookOnJob.model_validate(row.took) if row.took else None,
        version=row.version,
        name=str(about.get("name") or ""),
        site=str(about.get("site") or ""),
    )


def of_job(session: Session, job_id: int) -> Kept:
    row = session.get(PlanRow, job_id)
    return _kept(row) if row else Kept(job_id)


def keep(
    session: Session, job_id: int, terms: JobPlan, plan: DayPlan | None, zone: tzinfo | None = None
) -> None:
    """Keep what a plan goes by and the plan itself, in place of what was kept.

    ``zone``: in which its days are days; this machine's own by default.
    """
    row = _row(session, job_id)
    row.terms = dump(terms)
    row.plan = plan.model_dump(mode="json") if plan else None
    row.ready_at = plan.ready if plan else None
    slots = plan.slots if plan else ()
    row.people = lines(name for slot in slots for name in (*slot.people, slot.trade) if name)
    row.days = lines(slot.start.astimezone(zone).date().isoformat() for slot in slots)
    row.version += 1
    session.flush()


def lines(words: Iterable[str]) -> str:
    """Words, each once on a line of its own, folded, so that a whole one is found in them."""
    found = dict.fromkeys(folded(word) for word in words)
    return "\n" + "".join(f"{word}\n" for word in found) if found else ""


def with_anyone(names: Iterable[str]) -> ColumnElement[bool]:
    """The jobs whose plan has one of these people in it."""
    return _jobs(
        or_(false(), *(PlanRow.people.contains(lines([name]), autoescape=True) for name in names))
    )


def on_day(day: str) -> ColumnElement[bool]:
    """The jobs whose plan has work on a day, ``2026-12-07``."""
    return _jobs(PlanRow.days.contains(lines([day]), autoescape=True))


def _jobs(condition: ColumnElement[bool]) -> ColumnElement[bool]:
    return JobRow.id.in_(select(PlanRow.job_id).where(condition))


def of_jobs(session: Session, ids: Sequence[int]) -> dict[int, Kept]:
    """The plans of some jobs, by their numbers."""
    if not ids:
        return {}
    rows = session.scalars(select(PlanRow).where(PlanRow.job_id.in_(ids)))
    return {row.job_id: _kept(row) for row in rows}


def keep_took(session: Session, job_id: int, took: TookOnJob | None) -> None:
    """Keep what the tasks of a finished job took; the house learns from it."""
    row = _row(session, job_id)
    row.took = dump(took) if took else None
    session.flush()


def _row(session: Session, job_id: int) -> PlanRow:
    row = session.get(PlanRow, job_id)
    if row is None:
        row = PlanRow(job_id=job_id, terms={}, version=0)
        session.add(row)
    return row


def open_plans(session: Session, since: datetime) -> list[Kept]:
    """The plans of jobs that are neither put away nor handed over and are not ready before then."""
    found = session.execute(
        select(PlanRow, JobRow.head)
        .join(JobRow, JobRow.id == PlanRow.job_id)
        .where(JobRow.put_away.is_(False), JobRow.handed_over.is_(False), PlanRow.ready_at >= since)
        .order_by(PlanRow.ready_at, PlanRow.job_id)
        .limit(200)
    )
    return [_kept(row, head if isinstance(head, dict) else None) for row, head in found]


def learned_from(session: Session) -> list[TookOnJob]:
    """What the tasks of the house's own finished jobs took, the newest jobs."""
    rows = session.scalars(
        select(PlanRow.took)
        .where(PlanRow.took.is_not(None))
        .order_by(PlanRow.job_id.desc())
        .limit(LEARNED_FROM)
    )
    return [TookOnJob.model_validate(took) for took in rows if took]
