"""Jobs in the database: load one whole, save an entry, append a record or a reading."""

import uuid
from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any, TypeVar, cast

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from fairline.core.copied import copied
from fairline.core.entry import Entry, Record
from fairline.core.errors import FairLineError
from fairline.core.hand_over.records import AFTER_SEAL, HandedOver, Reopened
from fairline.core.job import Job, JobHead, numbered
from fairline.core.readings import COLUMNS_BY_KIND, AnyReading, AnyReadings, RunKind, kinds_beside
from fairline.core.route.written import outlets_as_found
from fairline.core.stages import ENTRIES
from fairline.store import kept_readings, loaded, seals, subjects
from fairline.store.clock import now
from fairline.store.document import NotFoundError, dump
from fairline.store.loaded import Stored
from fairline.store.models import EntryRow, JobNumberRow, JobRow, ReadingRow, RecordRow, RunRow

TOUCHED = "jobs touched"
SHOWN = "subject shown"  # by the page that an act came from
LATE = timedelta(minutes=1)  # an act that is older was recorded afterwards
AnyEntry = TypeVar("AnyEntry", bound=Entry)


class ExistsError(FairLineError):
    """A job with this uid is already here. ``job_id`` names it."""

    def __init__(self, job_id: int) -> None:
        super().__init__("this job is already here")
        self.job_id = job_id


class OtherJobError(FairLineError):
    """An act names a job by a number that is another job's now."""


class HandedOverError(FairLineError):
    """The job was handed over: it changes no more until it is opened again."""

    def __init__(self, job_id: int) -> None:
        super().__init__("This job was handed over, and stands as it is. Open it again first.")
        self.job_id = job_id


def field_name(stage: str) -> str:
    """``pressure-test`` as the job's field name."""
    return stage.replace("-", "_")


def job_row(session: Session, job_id: int) -> JobRow:
    row = session.get(JobRow, job_id)
    if row is None:
        raise NotFoundError(f"there is no job {job_id}")
    return row


def check_uid(session: Session, job_id: int, uid: str) -> None:
    """Raises OtherJobError where the job of this number is not the one that is meant.

    A number is another's where the folder was replaced by a backup; NotFoundError where it is gone.
    """
    if job_row(session, job_id).uid != uid:
        raise OtherJobError(f"job {job_id} is another than the one that this was meant for")


def ids(session: Session) -> list[int]:
    """Jobs, the newest first."""
    return list(session.scalars(select(JobRow.id).order_by(JobRow.id.desc())))


def revision_of(session: Session, job_id: int) -> int:
    found = session.scalar(select(JobRow.revision).where(JobRow.id == job_id))
    if found is None:
        raise NotFoundError(f"there is no job {job_id}")
    return found


def check_open(session: Session, job_id: int) -> None:
    """Raises HandedOverError for a job that stands as it is."""
    if session.scalar(select(JobRow.handed_over).where(JobRow.id == job_id)):
        raise HandedOverError(job_id)


def touch(session: Session, job_id: int, added: bool = False) -> None:
    """Count a change of the job, so that whoever judged it judges again.

    Raises HandedOverError for a job that stands as it is; ``added``: but for what is added to it.
    """
    if not added:
        check_open(session, job_id)
    session.execute(
        update(JobRow)
        .where(JobRow.id == job_id)
        .values(revision=JobRow.revision + 1, stale=True)
        .execution_options(synchronize_session=False)
    )
    session.info.setdefault(TOUCHED, set()).add(job_id)


def touched(session: Session) -> list[int]:
    """The jobs that this session's change has touched so far; asked once."""
    found: set[int] = session.info.pop(TOUCHED, set())
    return sorted(found)


def _number(session: Session) -> int:
    """A job's number that was never given before, not even to one that was deleted."""
    row = JobNumberRow()
    session.add(row)
    session.flush()
    session.delete(row)
    return row.id


def create(session: Session, head: JobHead) -> int:
    row = JobRow(
        id=_number(session),
        uid=str(uuid.uuid4()),
        head=dump(head),
        equipment={},
        created_at=now(),
    )
    session.add(row)
    session.flush()
    touch(session, row.id)
    return row.id


def load(session: Session, job_id: int, known: Stored | None = None) -> Stored:
    """The whole job, readings and all; of ``known``, an earlier one, what has not changed stays."""
    return loaded.load(session, job_row(session, job_id), known)


def head_version(session: Session, job_id: int) -> int:
    return job_row(session, job_id).head_version


def set_head(session: Session, job_id: int, head: JobHead) -> None:
    row = job_row(session, job_id)
    row.head, row.head_version = dump(head), row.head_version + 1
    session.flush()
    touch(session, job_id)


def entry_of(session: Session, job_id: int, stage: str, model: type[AnyEntry]) -> AnyEntry:
    """What is entered on a stage; its blank form where nothing is."""
    row = session.get(EntryRow, (job_id, stage))
    return model.model_validate(row.document if row else {})


def append_record(session: Session, job_id: int, record: Record, subject: str | None = None) -> str:
    """Append a decision or measurement; its id. Records are never changed.

    It names the parts that the job has now, or ``subject``: those it had when the act was done.
    """
    row = job_row(session, job_id)
    subjects.keep_first(session, row)
    named = _subject(session, row, record.at) if subject is None else subject
    own = {"uid": uuid.uuid4().hex[:12], "subject": named}
    own["practice"] = subjects.keep_practice(session, job_id)
    record = record.model_copy(update=own)
    kind = record.kind
    # The kind tells the records apart when they are read back, so defaults stay in.
    session.add(RecordRow(job_id=job_id, kind=kind, document=record.model_dump(mode="json")))
    if isinstance(record, Reopened):
        row.handed_over = False
        session.flush()
    touch(session, job_id, added=kind in AFTER_SEAL)
    if isinstance(record, HandedOver):
        row.handed_over = True
    return own["uid"]


def _subject(session: Session, row: JobRow, at: datetime) -> str:
    """The parts that an act is of: as its page showed them, or as they were when it was done."""
    shown = str(session.info.get(SHOWN) or "")
    if subjects.known(session, row.id, shown):
        return shown
    late = now() - at > LATE
    return subjects.subject_at(session, row, at) if late else row.subject


def begin_run(
    session: Session,
    job_id: int,
    kind: RunKind,
    by: str,
    at: datetime | None = None,
    beside: Sequence[str] = (),
    late: bool = False,
) -> str:
    """Begin a run; the one that was open of the same stage is ended.

    ``beside``: runs of other ports, which go on. ``late``: it was begun at ``at``, and is of the
    parts that the job had then; one that is older than another ends nothing.
    """
    row = job_row(session, job_id)
    subjects.keep_first(session, row)
    began = at or now()
    subject = subjects.subject_at(session, row, began) if late else _subject(session, row, now())
    practice = subjects.keep_practice(session, job_id)
    together = kinds_beside(kind)
    session.execute(
        update(RunRow)
        .where(
            RunRow.job_id == job_id,
            RunRow.kind.in_(together),
            RunRow.ended_at.is_(None),
            RunRow.uid.not_in(beside),
            RunRow.started_at <= began,
        )
        .values(ended_at=began)
    )
    newer = session.scalar(
        select(RunRow.id).where(
            RunRow.job_id == job_id, RunRow.kind.in_(together), RunRow.started_at > began
        )
    )
    uid = uuid.uuid4().hex[:12]
    named = {"subject": subject, "practice": practice}
    ended = began if newer is not None else None  # an older log goes on no more
    session.add(
        RunRow(
            uid=uid,
            job_id=job_id,
            kind=kind,
            started_at=began,
            started_by=by,
            ended_at=ended,
            **named,
        )
    )
    touch(session, job_id)
    return uid


def run_row(session: Session, job_id: int, uid: str) -> RunRow:
    row = session.scalar(select(RunRow).where(RunRow.job_id == job_id, RunRow.uid == uid))
    if row is None:
        raise NotFoundError(f"there is no run {uid}")
    return row


def run_kind(session: Session, job_id: int, run_uid: str) -> RunKind:
    """What kind a run is, and so how its readings look."""
    return cast(RunKind, run_row(session, job_id, run_uid).kind)


def append_readings(
    session: Session, job_id: int, run_uid: str, readings: Sequence[AnyReading] | AnyReadings
) -> int:
    """Append readings to a run; how many were new. One posted twice is stored once.

    Raises TypeError for readings of another kind of run, TakenError for a number that is taken.
    """
    row = run_row(session, job_id, run_uid)
    columns = COLUMNS_BY_KIND[cast(RunKind, row.kind)]
    found = readings if isinstance(readings, columns) else columns.of(readings)
    new = kept_readings.append(session, row, found)
    if new:
        touch(session, job_id)
    return new


def open_run(session: Session, job_id: int, kinds: Sequence[str]) -> tuple[str, datetime] | None:
    """The newest run of these kinds and when it began, while it is not closed."""
    row = session.scalar(
        select(RunRow)
        .where(RunRow.job_id == job_id, RunRow.kind.in_(kinds))
        .order_by(RunRow.started_at.desc(), RunRow.id.desc())
        .limit(1)
    )
    return (row.uid, row.started_at) if row is not None and row.ended_at is None else None


def next_seq(session: Session, job_id: int, run_uid: str, instrument: str) -> int:
    run = run_row(session, job_id, run_uid)
    last = session.scalar(
        select(ReadingRow.seq)
        .where(ReadingRow.run_id == run.id, ReadingRow.instrument == instrument)
        .order_by(ReadingRow.seq.desc())
    )
    return 0 if last is None else last + 1


def import_job(session: Session, job: Job, as_copy: bool = False) -> int:
    """Store a whole job. Raises ExistsError where its uid is already here, unless as a copy."""
    held = session.scalar(select(JobRow.id).where(JobRow.uid == job.uid))
    if job.joints and not job.since:  # of a program of before
        found = outlets_as_found(job.route, job.equipment)
        job = job.model_copy(update={"route": found})
    if held is not None and not as_copy:
        raise ExistsError(held)
    row = JobRow(
        id=_number(session),
        uid=str(uuid.uuid4()) if held is not None else job.uid,
        head=dump(job.head),
        equipment=dump(job.equipment),
        created_at=job.created_at,
    )
    session.add(row)
    session.flush()
    for stage, model in ENTRIES.items():
        entry = getattr(job, field_name(stage))
        if entry != model():
            session.add(
                EntryRow(
                    job_id=row.id,
                    stage=stage,
                    document=dump(entry),
                    version=1,
                    editor="",
                    turn=0,
                    by="import",
                    at=now(),
                )
            )
    session.add_all(
        RecordRow(job_id=row.id, kind=r.kind, document=r.model_dump(mode="json"))
        for r in numbered(job.records)
    )
    for one in job.runs:
        stored = RunRow(
            uid=one.uid,
            job_id=row.id,
            kind=one.kind,
            started_at=one.started_at,
            started_by=one.started_by,
            ended_at=one.ended_at,
            subject=one.subject,
            practice=one.practice,
        )
        session.add(stored)
        session.flush()
        kept_readings.append(session, stored, one.readings)
    session.flush()
    subjects.take_in(session, row, job)
    seals.keep(session, row.id, job.seals if held is None else ())
    touch(session, row.id)
    row.handed_over = job.handed_over is not None
    return row.id


def token() -> str:
    """What tells a machine or tube from every other one."""
    return uuid.uuid4().hex[:8]


def copy(session: Session, job: Job, name: str) -> int:
    """A new job planned as this one is."""
    plan = copied(job, name, token)
    made = Job.model_validate({"uid": str(uuid.uuid4()), "created_at": now(), **plan})
    return import_job(session, made)


def put_away(session: Session, job_id: int, away: bool = True) -> None:
    """Take a job off the board, or bring it back; nothing of it changes."""
    job_row(session, job_id).put_away = away


def document(session: Session, job_id: int) -> dict[str, Any]:
    """A job as it is stored, not looked at: what is exported where it cannot be read."""
    row = job_row(session, job_id)
    records = session.scalars(
        select(RecordRow).where(RecordRow.job_id == job_id).order_by(RecordRow.id)
    )
    found: dict[str, Any] = {
        "format": Job.model_fields["format"].default,
        "format_version": Job.model_fields["format_version"].default,
        "uid": row.uid,
        "created_at": row.created_at.isoformat(),
        "head": row.head,
        "equipment": row.equipment,
        "records": [r.document for r in records],
        "runs": [one.model_dump(mode="json") for one in loaded.runs(session, job_id)],
        **loaded.proved(session, job_id),
    }
    for entry in session.scalars(select(EntryRow).where(EntryRow.job_id == job_id)):
        found[field_name(entry.stage)] = entry.document
    return found


def remove(session: Session, job_id: int) -> None:
    job_row(session, job_id)
    session.execute(delete(JobRow).where(JobRow.id == job_id))
