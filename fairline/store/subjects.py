"""The parts that records and runs of a job name, kept once, and since when the job has had which.

A job has a subject from its first record or run on. Each change of its machines or tubes adds one
(``keep``); what nobody kept, in a job of before, is the job as it was found (``keep_first``).
"""

import hashlib
import json
from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from fairline.core.flare.records import FIRST_NAMES
from fairline.core.job import Job
from fairline.core.parts import Parts, Subject, digest, is_entered
from fairline.store import house, loaded
from fairline.store.document import dump
from fairline.store.models import (
    JobPracticeRow,
    JobRow,
    RecordRow,
    RunRow,
    SubjectRow,
    SubjectSinceRow,
)
from fairline.store.past_states import PastState, at_time, past_states


def keep_first(session: Session, row: JobRow) -> None:
    """Keep the parts of a job that has none kept yet, as it is before the change under way.

    Of a job of before, as it was at each time where its edits tell that; else as it is found. A
    job that cannot be judged keeps none: then its proofs are compared with what it is now.
    """
    if row.subject:
        return
    practice, _ = house.practice(session)
    found = _recorded(session, row.id)
    try:
        job = loaded.load(session, row).job
        known = past_states(session, row, job, practice)
    except Exception:  # whatever the rules trip over is told where the job is judged
        return
    if found:
        _write_sides(session, row.id, known)
        if session.get(JobPracticeRow, (row.id, "")) is None:
            session.add(JobPracticeRow(job_id=row.id, digest="", document=dump(practice)))
    for state in known if found else known[-1:]:
        at = state.at if found and len(known) > 1 else row.created_at
        _write(session, row, state.parts, at, state.by, found=found and len(known) == 1)


def _write_sides(session: Session, job_id: int, known: Sequence[PastState]) -> None:
    """What joints of before joined, as it was then: their records named a place alone."""
    rows = session.scalars(
        select(RecordRow).where(RecordRow.job_id == job_id, RecordRow.kind == "joint")
    )
    for joint in rows:
        named = str(joint.document.get("place"))
        place = FIRST_NAMES.get(named, named)
        made = datetime.fromisoformat(str(joint.document["at"]))
        sides = at_time(known, made).sides.get(place) or known[-1].sides.get(place)
        if not joint.document.get("sides") and sides:
            joint.document = joint.document | {"sides": list(sides)}


def keep(
    session: Session, job_id: int, now: Parts, at: datetime, by: str = "", what: str = ""
) -> bool:
    """Keep the machines and tubes of a job where they are others than before; whether they are.

    Of a job on which nothing was done yet nobody asks what it was.
    """
    row = session.get_one(JobRow, job_id)
    parts = {name: mark for name, mark in now.items() if is_entered(name)}
    if not row.subject or digest(parts) == row.subject:
        return False
    _write(session, row, parts, at, by, what)
    return True


def _write(
    session: Session,
    row: JobRow,
    parts: Parts,
    at: datetime,
    by: str = "",
    what: str = "",
    found: bool = False,
) -> None:
    kept = Subject(parts=dict(parts), found=found)
    named = digest(kept.parts)
    if session.get(SubjectRow, (row.id, named)) is None:
        session.add(SubjectRow(job_id=row.id, digest=named, document=dump(kept)))
    session.add(SubjectSinceRow(job_id=row.id, at=at, subject=named, by=by, what=what[:200]))
    row.subject = named
    session.flush()


def _recorded(session: Session, job_id: int) -> bool:
    """Whether anything was recorded or read on a job."""
    for table in (RecordRow, RunRow):
        if session.scalar(select(table.id).where(table.job_id == job_id).limit(1)):
            return True
    return False


def subject_at(session: Session, row: JobRow, at: datetime) -> str:
    """The subject that a job had at a moment: of an act that is recorded late."""
    found = session.scalar(
        select(SubjectSinceRow.subject)
        .where(SubjectSinceRow.job_id == row.id, SubjectSinceRow.at <= at)
        .order_by(SubjectSinceRow.at.desc(), SubjectSinceRow.id.desc())
        .limit(1)
    )
    return found or row.subject


def known(session: Session, job_id: int, named: str) -> bool:
    """Whether a job has had this subject."""
    return bool(named) and session.get(SubjectRow, (job_id, named)) is not None


def keep_practice(session: Session, job_id: int) -> str:
    """The digest of the house practice of this day, kept with the job."""
    practice, _ = house.practice(session)
    document = dump(practice)
    said = json.dumps(document, sort_keys=True)
    named = hashlib.sha256(said.encode()).hexdigest()[:16]
    if session.get(JobPracticeRow, (job_id, named)) is None:
        session.add(JobPracticeRow(job_id=job_id, digest=named, document=document))
    return named


def take_in(session: Session, row: JobRow, job: Job) -> None:
    """Keep what a job file says of its parts; of a file of before, the job as it is found."""
    for named, kept in job.subjects.items():
        session.add(SubjectRow(job_id=row.id, digest=named, document=dump(kept)))
    for since in job.since:
        session.add(SubjectSinceRow(job_id=row.id, **since.model_dump()))
    for named, practice in job.practices.items():
        session.add(JobPracticeRow(job_id=row.id, digest=named, document=dump(practice)))
    session.flush()
    if job.since:
        row.subject = job.since[-1].subject
    if job.records or job.runs:
        keep_first(session, row)
