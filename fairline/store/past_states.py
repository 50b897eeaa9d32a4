"""A job of before as it was at each time: worked out from its edits where they are whole."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from fairline.core import line
from fairline.core.entry import Entry
from fairline.core.equipment import Equipment
from fairline.core.job import Job
from fairline.core.parts import Mark, is_entered
from fairline.core.practice import Practice
from fairline.core.route.entry import RouteEntry
from fairline.core.survey.stage import SurveyEntry
from fairline.store import edits
from fairline.store.edits import EQUIPMENT
from fairline.store.models import EditRow, EntryRow, JobRow

MOST_STATES = 60  # that are worked out of one job
PLANNED: dict[str, type[Entry]] = {"survey": SurveyEntry, "route": RouteEntry, EQUIPMENT: Equipment}


@dataclass(frozen=True)
class PastState:
    """A job from a moment on: its machines and tubes, and what each joint joined, by its place."""

    at: datetime
    parts: dict[str, Mark]
    sides: dict[str, tuple[str, str]]
    by: str = ""


def past_states(session: Session, row: JobRow, job: Job, practice: Practice) -> list[PastState]:
    """The states of a job, the first of them first; only as it is now where edits are missing.

    Raises whatever the rules raise of a job that cannot be judged.
    """
    now = _worked(job, practice, row.created_at)
    try:
        before = [_worked(one, practice, at, by) for at, one, by in _history(session, row, job)]
    except ValidationError:  # an entry that is none any more
        return [now]
    found: list[PastState] = []
    for state in reversed(before):
        if not found or state.parts != found[-1].parts:
            found.append(state)
    return found or [now]


def at_time(known: Sequence[PastState], at: datetime) -> PastState:
    """The state that a job was in at a moment; the first for what is older."""
    return next((state for state in reversed(known) if state.at <= at), known[0])


def _worked(job: Job, practice: Practice, at: datetime, by: str = "") -> PastState:
    routed, worked = line.up_to_flare(job, practice)
    parts = {name: mark for name, mark in worked.proofs.now.items() if is_entered(name)}
    return PastState(at, parts, {spec.id: spec.sides for spec in routed.joints}, by)


def _history(session: Session, row: JobRow, job: Job) -> Iterator[tuple[datetime, Job, str]]:
    """The job after each edit of what is planned, the newest first, and as it was before all.

    Nothing where an edit of survey or route is not kept, or there are too many.
    """
    query = select(EditRow).where(EditRow.job_id == row.id, EditRow.stage.in_(PLANNED))
    found = list(session.scalars(query.order_by(EditRow.id.desc())))
    if len(found) > MOST_STATES or not found or not _whole(session, row.id, found):
        return
    documents: dict[str, Any] = {EQUIPMENT: row.equipment}
    for stage in ("survey", "route"):
        entry = session.get(EntryRow, (row.id, stage))
        documents[stage] = entry.document if entry else {}
    for edit in found:
        yield edit.at, _as_it_was(job, documents), edit.by
        documents[edit.stage] = edits.back(documents[edit.stage], edit)
    yield row.created_at, _as_it_was(job, documents), ""


def _whole(session: Session, job_id: int, found: Sequence[EditRow]) -> bool:
    """Whether every version of survey and route has its edit."""
    for stage in ("survey", "route"):
        entry = session.get(EntryRow, (job_id, stage))
        versions = {edit.version for edit in found if edit.stage == stage}
        if versions != set(range(1, (entry.version if entry else 0) + 1)):
            return False
    return True


def _as_it_was(job: Job, documents: dict[str, Any]) -> Job:
    update = {name: model.model_validate(documents[name]) for name, model in PLANNED.items()}
    return job.model_copy(update=update)
