"""What the board shows of each job, kept with the change that makes it true.

A change of a job marks its brief as stale (``jobs.touch``); ``settle`` judges the job and keeps
the new brief in the same transaction. Readings of an instrument come many times a second: they
leave the brief stale, and whoever looks at the board next settles it, beside the writers. A change
of house practice makes all of them stale.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError
from sqlalchemy import ColumnElement, func, or_, select, update
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from fairline.core import line
from fairline.core.brief import UNJUDGED, URGENCY, Brief, brief
from fairline.core.call import Verdict
from fairline.core.clocks import Clock
from fairline.core.errors import FairLineError
from fairline.core.found_by import PERSON, folded
from fairline.core.problem import from_validation
from fairline.store import house, jobs, plans
from fairline.store.dialect import jobs_with, writing
from fairline.store.document import NotFoundError
from fairline.store.models import JobRow

PAGE = 15
COUNTED = 500  # of those that are looked for: more are told as so many or more
STATES = {  # by the urgency of a brief
    "person": tuple(range(UNJUDGED, URGENCY.index(Verdict.WAIT))),
    "waits": (URGENCY.index(Verdict.WAIT),),
    "holds": (URGENCY.index(Verdict.WATCH), URGENCY.index(Verdict.HOLDS)),
    "over": (len(URGENCY),),
}


class CannotJudgeError(FairLineError):
    """A job that cannot be judged as it would be kept; ``reason`` is a sentence for a person."""

    def __init__(self, job_id: int, reason: str) -> None:
        super().__init__(reason)
        self.job_id, self.reason = job_id, reason


@dataclass(frozen=True)
class Row:
    """One job on the board."""

    id: int
    brief: Brief


def judged_brief(session: Session, job_id: int) -> Brief:
    """The one way a brief is made. Raises CannotJudgeError."""
    practice, _ = house.practice(session)
    try:
        job = jobs.load(session, job_id).job
        return brief(job, line.work(job, practice))
    except NotFoundError:
        raise
    except Exception as error:  # whatever the rules trip over, the rest of the board stands
        raise CannotJudgeError(job_id, words(error)) from error


def words(error: Exception) -> str:
    """What a job could not be judged for, in a sentence."""
    if isinstance(error, ValidationError):
        return str(from_validation(error)["detail"])[:300]
    return f"{type(error).__name__}: {error}"[:300]


def keep(session: Session, job_id: int, made: Brief) -> None:
    session.execute(
        update(JobRow)
        .where(JobRow.id == job_id)
        .values(
            brief=made.model_dump(mode="json"),
            urgency=made.urgency,
            due_on=made.due_on or None,
            found_by=made.found_by,
            stands_at=made.at[:20],
            last_on=made.last_on,
            clock_at=made.clocks[0].ends_at if made.clocks else None,
            stale=False,
        )
    )


def settle(session: Session, job_id: int) -> None:
    """Judge a job and keep its brief; what cannot be judged raises CannotJudgeError."""
    keep(session, job_id, judged_brief(session, job_id))


def stored_brief(session: Session, job_id: int) -> Brief:
    """The brief of a job that is stored already: where it cannot be judged, the brief says so."""
    try:
        return judged_brief(session, job_id)
    except CannotJudgeError as error:
        row = jobs.job_row(session, job_id)
        head = row.head if isinstance(row.head, dict) else {}
        named = str(head.get("name") or f"job {job_id}")[:200]
        return Brief(uid=row.uid, name=named, failed=error.reason, found_by=folded(named))


def settle_stored(session: Session, job_id: int) -> None:
    """Settle a job that is stored already, within a change."""
    keep(session, job_id, stored_brief(session, job_id))


def settle_beside(
    session: Session, job_id: int, make: Callable[[Session, int], Brief] | None = None
) -> Brief:
    """Judge a stored job (``make``) without keeping others from writing; then keep what was found.

    It is kept where job and house practice are still those that were judged. What cannot be kept
    now (a full disk, another's long write) is only returned: the brief stays stale.
    """
    seen = _stands(session, job_id)
    made = (make or stored_brief)(session, job_id)
    try:
        with writing(session):
            if _stands(session, job_id) == seen:
                keep(session, job_id, made)
            session.commit()
    except DBAPIError:
        session.rollback()
    return made


def _stands(session: Session, job_id: int) -> tuple[int | None, int]:
    """How often a job was changed, and the version of the house practice."""
    revision = session.scalar(select(JobRow.revision).where(JobRow.id == job_id))
    return revision, house.practice(session)[1]


def renew(session: Session) -> int:
    """Make every brief anew; how many jobs there are."""
    found = jobs.ids(session)
    for job_id in found:
        settle_stored(session, job_id)
    return len(found)


def stale(session: Session, ids: list[int] | None = None) -> list[int]:
    """Of these jobs, or of all, those whose brief a change is not in yet; the newest first."""
    found = select(JobRow.id).where(JobRow.stale).order_by(JobRow.id.desc())
    return list(session.scalars(found if ids is None else found.where(JobRow.id.in_(ids))))


@dataclass(frozen=True)
class Asked:
    """What is looked for on the board: words that a job is found by; a state; what is put away.

    ``stage``: the one it stands at; ``day``: something was done, or a visit is due on it;
    ``person``: who did something on it, or is in its plan; ``crew``: people in its plan.
    """

    words: str = ""
    state: str = ""
    away: bool = False
    stage: str = ""
    day: str = ""
    person: str = ""
    crew: tuple[str, ...] = ()

    @property
    def narrowed(self) -> bool:
        """Whether it is less than all that is on the board, or all that is put away."""
        return self != Asked(away=self.away)

    def conditions(self, session: Session) -> list[ColumnElement[bool]]:
        found: list[ColumnElement[bool]] = [JobRow.put_away.is_(self.away)]
        found += jobs_with(session, folded(self.words).split()[:8])
        if self.stage:
            found.append(JobRow.stands_at == self.stage)
        if self.day:
            done_or_due = JobRow.last_on == self.day, JobRow.due_on == self.day
            found.append(or_(*done_or_due, plans.on_day(self.day)))
        if self.person:
            done = jobs_with(session, [folded(f"{PERSON}{self.person}")])
            found.append(or_(*done, plans.with_anyone([self.person])))
        if self.crew:
            found.append(plans.with_anyone(self.crew))
        if self.state in STATES:
            found.append(JobRow.urgency.in_(STATES[self.state]))
        return found


EVERY = Asked()


def page(
    session: Session, number: int = 1, size: int = PAGE, asked: Asked = EVERY
) -> tuple[list[Row], int]:
    """One page of the board, what needs a person first, and how many jobs are like that."""
    first = (number - 1) * size
    in_order = (
        select(JobRow.id)
        .where(*asked.conditions(session))
        .order_by(JobRow.urgency, JobRow.id.desc())
    )
    if asked.narrowed and first + size <= COUNTED:  # the page and the count at once
        every = list(session.scalars(in_order.limit(COUNTED)))
        ids, many = every[first : first + size], len(every)
    else:
        ids, many = list(session.scalars(in_order.offset(first).limit(size))), count(session, asked)
    return rows(session, ids), many


def rows(session: Session, ids: Sequence[int]) -> list[Row]:
    """The rows of these jobs in this order; a job that is not there has none."""
    asked = select(JobRow.id, JobRow.brief, JobRow.uid).where(JobRow.id.in_(ids))
    found = {id: (kept, uid) for id, kept, uid in session.execute(asked)}
    return [_row(id, *found[id]) for id in ids if id in found]


def _row(id: int, kept: Any, uid: str) -> Row:
    return Row(id, Brief.model_validate(kept) if kept else Brief(uid=uid, name=f"job {id}"))


def due(session: Session, until: str, most: int = 20) -> list[Row]:
    """The jobs whose next visit is by that day (``2027-05-31``), the longest due first."""
    found = session.execute(
        select(JobRow.id, JobRow.brief)
        .where(JobRow.put_away.is_(False), JobRow.due_on <= until)
        .order_by(JobRow.due_on, JobRow.id)
        .limit(most)
    )
    return [Row(id, Brief.model_validate(kept)) for id, kept in found if kept]


def visits_ahead(session: Session, most: int = 500) -> list[Row]:
    """The jobs with a visit planned, the first due first."""
    return due(session, "9999-12-31", most)


def running(session: Session, most: int = 20) -> list[tuple[Row, Clock]]:
    """The clocks that run on open jobs, over all pages, the first to end first."""
    found = session.execute(
        select(JobRow.id, JobRow.brief)
        .where(JobRow.put_away.is_(False), JobRow.clock_at.is_not(None))
        .order_by(JobRow.clock_at, JobRow.id)
        .limit(most)
    )
    rows = [Row(id, Brief.model_validate(kept)) for id, kept in found if kept]
    every = [(row, clock) for row in rows for clock in row.brief.clocks]
    return sorted(every, key=lambda one: one[1].ends_at)[:most]


def count(session: Session, asked: Asked) -> int:
    """How many jobs are on the board, or put away; like what is looked for: ``COUNTED`` at most."""
    if not asked.narrowed:
        all_ = select(func.count()).select_from(JobRow).where(*asked.conditions(session))
        return session.scalar(all_) or 0
    some = select(JobRow.id).where(*asked.conditions(session)).limit(COUNTED).subquery()
    return session.scalar(select(func.count()).select_from(some)) or 0
