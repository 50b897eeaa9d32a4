"""A job read whole; and read again after a change, when what has not changed stays as it was read.

Entries have a version, records and readings only append: what is new is found by that.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Any, cast

from sqlalchemy import select
from sqlalchemy.orm import Session

from fairline.core.entry import Entry, Record
from fairline.core.equipment import Equipment
from fairline.core.job import AnyRecords, Job, JobHead
from fairline.core.parts import Subject, SubjectSince
from fairline.core.practice import Practice
from fairline.core.readings import Run, RunKind, run
from fairline.core.stages import STAGES
from fairline.store import kept_readings
from fairline.store.models import (
    EntryRow,
    JobPracticeRow,
    JobRow,
    RecordRow,
    RunRow,
    SubjectRow,
    SubjectSinceRow,
)


@dataclass(frozen=True)
class Stored:
    """A job with what only the store knows of it.

    ``documents``: head and equipment as they lie; ``last_record`` and ``last_since``: the numbers
    of the newest record and of the newest subject.
    """

    id: int
    revision: int
    versions: dict[str, int]
    job: Job
    documents: dict[str, Any] = field(default_factory=dict)
    last_record: int = 0
    last_since: int = 0
    subject: str = ""


def load(session: Session, row: JobRow, known: Stored | None = None) -> Stored:
    """The job of a row; of ``known``, the same job earlier, what has not changed is not read."""
    session.refresh(row)
    if known is not None and row.subject and not known.subject:
        known = None  # its records were given the sides of their joints meanwhile
    documents = {"head": row.head, "equipment": row.equipment}
    entries, versions = _entries(session, row.id, known)
    new, last_record = _records(session, row.id, known.last_record if known else 0)
    before = {r.uid: r for r in known.job.runs} if known else {}
    read = runs(session, row.id, before)
    subjects, since, last_since = _subjects(session, row.id, known)
    whole: dict[str, Any] = {
        "uid": row.uid,
        "created_at": row.created_at,
        "head": _same(known, documents, "head") or JobHead.model_validate(row.head),
        "equipment": _same(known, documents, "equipment")
        or Equipment.model_validate(row.equipment),
        "records": (*(known.job.records if known else ()), *new),
        "runs": read,
        "subjects": subjects,
        "since": since,
        "practices": _practices(session, row.id, known, {r.practice for r in (*new, *read)}),
        **entries,
    }
    return Stored(
        id=row.id,
        revision=row.revision,
        versions=versions,
        job=Job.model_construct(**whole),
        documents=documents,
        last_record=last_record,
        last_since=last_since,
        subject=row.subject,
    )


def _same(known: Stored | None, documents: dict[str, Any], name: str) -> Any:
    """A part as it was read before, where its document lies there unchanged; else None."""
    if known is None or known.documents.get(name) != documents[name]:
        return None
    return getattr(known.job, name)


def _entries(
    session: Session, job_id: int, known: Stored | None
) -> tuple[dict[str, Entry], dict[str, int]]:
    """The entry of every stage, by the job's field, and their versions."""
    found = session.execute(
        select(EntryRow.stage, EntryRow.version).where(EntryRow.job_id == job_id)
    )
    versions: dict[str, int] = {row.stage: row.version for row in found}
    before = known.versions if known else {}
    changed = [s for s, v in versions.items() if before.get(s) != v]
    fresh: dict[str, Any] = {}
    if changed:
        query = select(EntryRow.stage, EntryRow.version, EntryRow.document)
        lie = session.execute(query.where(EntryRow.job_id == job_id, EntryRow.stage.in_(changed)))
        for row in lie:  # the version is the document's own, whoever saves in between
            fresh[row.stage], versions[row.stage] = row.document, row.version
    entries: dict[str, Entry] = {}
    for name, stage in STAGES.items():
        if name in fresh:
            entries[stage.field] = stage.entry.model_validate(fresh[name])
        elif name in versions and known is not None:
            entries[stage.field] = getattr(known.job, stage.field)
        else:
            entries[stage.field] = stage.entry()
    return entries, versions


def _records(session: Session, job_id: int, after: int) -> tuple[tuple[Record, ...], int]:
    """The records that came after one, and the number of the newest."""
    query = select(RecordRow.id, RecordRow.document).order_by(RecordRow.id)
    found = session.execute(query.where(RecordRow.job_id == job_id, RecordRow.id > after)).all()
    records = AnyRecords.validate_python([document for _, document in found])
    return tuple(records), found[-1][0] if found else after


def _subjects(
    session: Session, job_id: int, known: Stored | None
) -> tuple[dict[str, Subject], tuple[SubjectSince, ...], int]:
    """The subjects of a job, since when it had which, and the number of the newest."""
    after = known.last_since if known else 0
    rows = session.scalars(
        select(SubjectSinceRow)
        .where(SubjectSinceRow.job_id == job_id, SubjectSinceRow.id > after)
        .order_by(SubjectSinceRow.id)
    ).all()
    before = known.job if known else None
    if before is not None and not rows:
        return dict(before.subjects), before.since, after
    new = tuple(
        SubjectSince(at=row.at, subject=row.subject, by=row.by, what=row.what) for row in rows
    )
    kept = session.scalars(select(SubjectRow).where(SubjectRow.job_id == job_id))
    subjects = {row.digest: Subject.model_validate(row.document) for row in kept}
    since = (*(before.since if before else ()), *new)
    return subjects, tuple(sorted(since, key=lambda s: s.at)), rows[-1].id if rows else after


def proved(session: Session, job_id: int) -> dict[str, Any]:
    """What is kept of a job's parts and practices, as a job file has it."""
    subjects, since, _ = _subjects(session, job_id, None)
    return {
        "subjects": {name: kept.model_dump(mode="json") for name, kept in subjects.items()},
        "since": [one.model_dump(mode="json") for one in since],
        "practices": {
            name: kept.model_dump(mode="json")
            for name, kept in _practices(session, job_id, None, set()).items()
        },
    }


def _practices(
    session: Session, job_id: int, known: Stored | None, named: set[str]
) -> dict[str, Practice]:
    """The house practices under which something was done; read where a new one is named."""
    before = known.job.practices if known else None
    if before is not None and named <= before.keys() | {""}:
        return before
    rows = session.scalars(select(JobPracticeRow).where(JobPracticeRow.job_id == job_id))
    return {
        row.digest: Practice.model_validate(row.document, context={"kept": True}) for row in rows
    }


def runs(
    session: Session, job_id: int, known: Mapping[str, Run] = MappingProxyType({})
) -> tuple[Run, ...]:
    """The runs in order of time; of one that is known only the readings since are read."""
    order = (RunRow.started_at, RunRow.id)
    rows = session.scalars(select(RunRow).where(RunRow.job_id == job_id).order_by(*order))
    found: list[Run] = []
    for row in rows:
        kind, before = cast(RunKind, row.kind), known.get(row.uid)
        readings = kept_readings.load(session, row, kind, before.readings if before else None)
        about = {
            "uid": row.uid,
            "started_at": row.started_at,
            "started_by": row.started_by,
            "ended_at": row.ended_at,
            "subject": row.subject,
            "practice": row.practice,
        }
        same = before is not None and before.readings is readings
        if before is not None and same and before.ended_at == row.ended_at:
            found.append(before)
        else:
            found.append(run(kind, readings, **about))
    return tuple(found)
