"""Jobs in the database: load one whole, save an entry, append a record or a reading."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, TypeVar, cast

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from fairline.core.copied import copied
from fairline.core.entry import Entry
from fairline.core.hand_over import HandedOver, Reopened
from fairline.core.job import ENTRIES, Job, JobHead
from fairline.core.readings import Reading, Run, RunKind, stored_reading
from fairline.store.document import NotFoundError, dump, now
from fairline.store.models import EntryRow, JobRow, ReadingRow, RecordRow, RunRow
from fairline.store.sqlite import insert_or_ignore

TOUCHED = "jobs touched"
AnyEntry = TypeVar("AnyEntry", bound=Entry)


class ExistsError(Exception):
    """A job with this uid is already here. ``job_id`` names it."""

    def __init__(self, job_id: int) -> None:
        super().__init__("this job is already here")
        self.job_id = job_id


class HandedOverError(Exception):
    """The job was handed over: it changes no more until it is opened again."""

    def __init__(self, job_id: int) -> None:
        super().__init__("This job was handed over, and stands as it is. Open it again first.")
        self.job_id = job_id


class TakenError(Exception):
    """A sequence number that is kept already with another value: nothing of it is stored."""

    def __init__(self, index: int, instrument: str, seq: int) -> None:
        super().__init__(
            f"readings.{index}: number {seq} of {instrument} is kept already with another value"
        )


@dataclass(frozen=True)
class Stored:
    """A job with what only the store knows of it."""

    id: int
    revision: int
    versions: dict[str, int]
    job: Job


def field_name(stage: str) -> str:
    """``pressure-test`` as the job's field name."""
    return stage.replace("-", "_")


def job_row(session: Session, job_id: int) -> JobRow:
    row = session.get(JobRow, job_id)
    if row is None:
        raise NotFoundError(f"there is no job {job_id}")
    return row


def ids(session: Session) -> list[int]:
    """Jobs, the newest first."""
    return list(session.scalars(select(JobRow.id).order_by(JobRow.id.desc())))


def revision_of(session: Session, job_id: int) -> int:
    found = session.scalar(select(JobRow.revision).where(JobRow.id == job_id))
    if found is None:
        raise NotFoundError(f"there is no job {job_id}")
    return found


def touch(session: Session, job_id: int) -> None:
    """Count a change of the job, so that whoever judged it judges again.

    Raises HandedOverError for a job that stands as it is.
    """
    if session.scalar(select(JobRow.handed_over).where(JobRow.id == job_id)):
        raise HandedOverError(job_id)
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


def create(session: Session, head: JobHead) -> int:
    row = JobRow(
        uid=str(uuid.uuid4()),
        head=dump(head),
        equipment={},
        created_at=now(),
    )
    session.add(row)
    session.flush()
    touch(session, row.id)
    return row.id


def load(session: Session, job_id: int) -> Stored:
    """The whole job, readings and all."""
    row = job_row(session, job_id)
    session.refresh(row)
    entries = list(session.scalars(select(EntryRow).where(EntryRow.job_id == job_id)))
    records = session.scalars(
        select(RecordRow).where(RecordRow.job_id == job_id).order_by(RecordRow.id)
    )
    runs = session.scalars(select(RunRow).where(RunRow.job_id == job_id).order_by(RunRow.id))
    whole: dict[str, Any] = {
        "uid": row.uid,
        "created_at": row.created_at,
        "head": row.head,
        "equipment": row.equipment,
        "records": [r.document for r in records],
        "runs": [_run(session, run) for run in runs],
    }
    for entry in entries:
        whole[field_name(entry.stage)] = entry.document
    versions = {e.stage: e.version for e in entries}
    return Stored(
        id=row.id, revision=row.revision, versions=versions, job=Job.model_validate(whole)
    )


def _run(session: Session, row: RunRow) -> Run:
    columns = (
        ReadingRow.instrument,
        ReadingRow.seq,
        ReadingRow.t_s,
        ReadingRow.gauge_pa,
        ReadingRow.pipe_c,
        ReadingRow.pa,
        ReadingRow.probe,
        ReadingRow.simulated,
    )
    found = session.execute(
        select(*columns).where(ReadingRow.run_id == row.id).order_by(ReadingRow.t_s, ReadingRow.seq)
    )
    readings = tuple(stored_reading(*row) for row in found)
    return Run.model_construct(
        uid=row.uid,
        kind=cast(RunKind, row.kind),
        started_at=row.started_at,
        started_by=row.started_by,
        ended_at=row.ended_at,
        readings=readings,
    )


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


def append_record(session: Session, job_id: int, record: Entry) -> None:
    """Append a decision or measurement. Records are never changed."""
    row = job_row(session, job_id)
    kind = str(getattr(record, "kind", ""))
    # The kind tells the records apart when they are read back, so defaults stay in.
    session.add(RecordRow(job_id=job_id, kind=kind, document=record.model_dump(mode="json")))
    if isinstance(record, Reopened):
        row.handed_over = False
        session.flush()
    touch(session, job_id)
    if isinstance(record, HandedOver):
        row.handed_over = True


def begin_run(
    session: Session, job_id: int, kind: RunKind, by: str, at: datetime | None = None
) -> str:
    """Begin a run; the one that was open of the same stage is ended."""
    job_row(session, job_id)
    together = ("hold",) if kind == "hold" else ("pull", "decay")
    session.execute(
        update(RunRow)
        .where(RunRow.job_id == job_id, RunRow.kind.in_(together), RunRow.ended_at.is_(None))
        .values(ended_at=at or now())
    )
    uid = uuid.uuid4().hex[:12]
    session.add(RunRow(uid=uid, job_id=job_id, kind=kind, started_at=at or now(), started_by=by))
    touch(session, job_id)
    return uid


def run_row(session: Session, job_id: int, uid: str) -> RunRow:
    row = session.scalar(select(RunRow).where(RunRow.job_id == job_id, RunRow.uid == uid))
    if row is None:
        raise NotFoundError(f"there is no run {uid}")
    return row


def append_readings(session: Session, job_id: int, run_uid: str, readings: list[Reading]) -> int:
    """Append readings to a run; how many were new. One posted twice is stored once.

    Raises ValueError naming the reading that does not belong in a run of this kind.
    """
    run = run_row(session, job_id, run_uid)
    for i, reading in enumerate(readings):
        if wrong := reading.fits(cast(RunKind, run.kind)):
            raise ValueError(f"readings.{i}: {wrong}")
    rows = [{"run_id": run.id, **reading.__dict__} for reading in readings]
    new = insert_or_ignore(session, ReadingRow.__table__, rows)
    if new < len(rows):
        _same_as_kept(session, run.id, readings)
    if new:
        touch(session, job_id)
    return new


def _same_as_kept(session: Session, run_id: int, readings: list[Reading]) -> None:
    """Known is only what is identical: another value under a number that is taken is told."""
    columns = [c for c in ReadingRow.__table__.columns if c.name != "run_id"]
    names = {r.instrument for r in readings}
    numbers = [r.seq for r in readings]
    found = session.execute(
        select(*columns).where(
            ReadingRow.run_id == run_id,
            ReadingRow.instrument.in_(names),
            ReadingRow.seq.between(min(numbers), max(numbers)),
        )
    )
    kept = {(row.instrument, row.seq): row._mapping for row in found}
    for i, reading in enumerate(readings):
        held = kept[(reading.instrument, reading.seq)]
        if any(held[c.name] != getattr(reading, c.name) for c in columns):
            raise TakenError(i, reading.instrument, reading.seq)


def open_run(session: Session, job_id: int, kinds: Sequence[str]) -> tuple[str, datetime] | None:
    """The newest run of these kinds and when it began, while it is not closed."""
    row = session.scalar(
        select(RunRow)
        .where(RunRow.job_id == job_id, RunRow.kind.in_(kinds))
        .order_by(RunRow.id.desc())
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
    if held is not None and not as_copy:
        raise ExistsError(held)
    row = JobRow(
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
        for r in job.records
    )
    for run in job.runs:
        stored = RunRow(
            uid=run.uid,
            job_id=row.id,
            kind=run.kind,
            started_at=run.started_at,
            started_by=run.started_by,
            ended_at=run.ended_at,
        )
        session.add(stored)
        session.flush()
        rows = [{"run_id": stored.id, **reading.__dict__} for reading in run.readings]
        insert_or_ignore(session, ReadingRow.__table__, rows)
    touch(session, row.id)
    row.handed_over = job.handed_over is not None
    return row.id


def copy(session: Session, job: Job, name: str) -> int:
    """A new job planned as this one is."""
    made = Job.model_validate({"uid": str(uuid.uuid4()), "created_at": now(), **copied(job, name)})
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
        "runs": [
            _run(session, run).model_dump(mode="json")
            for run in session.scalars(select(RunRow).where(RunRow.job_id == job_id))
        ],
    }
    for entry in session.scalars(select(EntryRow).where(EntryRow.job_id == job_id)):
        found[field_name(entry.stage)] = entry.document
    return found


def remove(session: Session, job_id: int) -> None:
    job_row(session, job_id)
    session.execute(delete(JobRow).where(JobRow.id == job_id))
