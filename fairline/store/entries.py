"""Saving what is entered: under a version, beside what others saved, and taken back again."""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy.orm import Session

from fairline.core.change import Step, in_words, merge
from fairline.core.entry import Entry
from fairline.core.equipment import Equipment
from fairline.core.errors import FairLineError
from fairline.core.head_removal import boxes_without, mount_without, route_without, wire_without
from fairline.core.mount.stage import MountEntry
from fairline.core.route.entry import RouteEntry
from fairline.core.stages import ENTRIES
from fairline.core.survey.stage import SurveyEntry
from fairline.core.wire.entry import WireEntry
from fairline.store import edits, subjects
from fairline.store.clock import now
from fairline.store.document import dump
from fairline.store.edits import EQUIPMENT, Editing, Undo
from fairline.store.equipment import plan_equipment, plan_of, set_equipment
from fairline.store.jobs import entry_of, job_row, touch
from fairline.store.models import EditRow, EntryRow


class ConflictError(FairLineError):
    """Somebody else saved in between. ``by`` and ``at`` say who and when."""

    def __init__(self, by: str, at: datetime) -> None:
        super().__init__(f"{by or 'Somebody'} saved this at {at:%H:%M}")
        self.by, self.at = by, at


def save_entry(session: Session, job_id: int, stage: str, entry: Entry, edit: Editing) -> int:
    """Save a stage's entry; its new version. Raises ConflictError where another editor saved.

    A save that an editor's own later one has overtaken on its way is left out.
    """
    subjects.keep_first(session, job_row(session, job_id))
    row = session.get(EntryRow, (job_id, stage))
    before = row.document if row else {}
    planned = plan_of(session, job_id)
    gone: set[str] = set()
    if isinstance(entry, SurveyEntry):
        gone = {h["zone"] for h in before.get("heads", ())} - {h.zone for h in entry.heads}
        entry = boxes_without(entry, gone)
    if row is None:
        row = EntryRow(job_id=job_id, stage=stage, document={}, version=0)
        session.add(row)
    else:
        if row.version != edit.version and row.editor != edit.editor:
            raise ConflictError(row.by, row.at)
        if row.editor == edit.editor and edit.turn < row.turn:
            return row.version
        if row.document == dump(entry):
            return row.version
    row.document, row.version = dump(entry), row.version + 1
    row.editor, row.turn, row.by, row.at = edit.editor, edit.turn, edit.by, now()
    session.flush()
    edits.log(session, job_id, stage, row.version, (before, row.document), edit)
    if gone:
        _plan_without(session, job_id, gone, edit)
    if isinstance(entry, SurveyEntry | RouteEntry):
        plan_equipment(session, job_id, edit, planned)
    touch(session, job_id)
    return row.version


def _plan_without(session: Session, job_id: int, gone: set[str], edit: Editing) -> None:
    """What was planned for heads that were taken out goes with them, however they went."""
    route = entry_of(session, job_id, "route", RouteEntry)
    mount = entry_of(session, job_id, "mount", MountEntry)
    wire = entry_of(session, job_id, "wire", WireEntry)
    left: list[tuple[str, Entry, Entry]] = [
        ("route", route, route_without(route, gone)),
        ("mount", mount, mount_without(mount, gone)),
        ("wire", wire, wire_without(wire, gone)),
    ]
    for stage, before, after in left:
        if after != before:
            save_over(session, job_id, stage, after, edit)


@dataclass(frozen=True)
class Opened:
    """An entry as an opened page knows it; who else saved since, and when."""

    entry: Entry
    by: str
    at: datetime


def opened(
    session: Session, job_id: int, stage: str, model: type[Entry], edit: Editing
) -> Opened | None:
    """The entry as the editor's page knows it, without what others saved since it was opened.

    None where nobody else did, or where a later save of the page itself has come in already.
    Raises ConflictError where the page is older than what is remembered of its stage.
    """
    row = session.get(EntryRow, (job_id, stage))
    if row is None or row.version == edit.version:
        return None
    if row.editor == edit.editor and not edits.by_others(session, job_id, stage, edit):
        return None
    between = edits.since(session, job_id, stage, edit.version)
    others = [e for e in between if e.editor != edit.editor]
    if edits.overtaken(session, job_id, stage, edit):
        return None
    if len({e.version for e in between}) != row.version - edit.version:
        raise ConflictError(row.by, row.at)
    document: Any = row.document
    for other in others:
        document = edits.back(document, other)
    last = others[0] if others else row
    try:
        return Opened(model.model_validate(document), last.by, last.at)
    except ValidationError:
        raise ConflictError(row.by, row.at) from None


def take_back(
    session: Session, job_id: int, undo: Undo, edit: Editing, again: bool = False
) -> tuple[str, str]:
    """Take edits back, on every stage they were on: in words what was, and what was left.

    Left as it is stays what another has changed since; it is no part of what was taken back.
    ``again``: what is taken back is itself a taking back. Raises ConflictError where what is left
    could not be an entry.
    """
    edits.begin_bunch(session)
    done: list[Step] = []
    left: list[Step] = []
    for one in edits.of_bunches(session, job_id, undo.bunches):
        kept = _without(session, job_id, one, replace(edit, takes_back=not again))
        left += kept
        places = {step.path for step in kept}
        if one.stage != EQUIPMENT:  # sheets that came with it are not what was done
            done += [step for step in edits.steps_of(one) if step.path not in places]
    edits.take_over(session, job_id, undo.bunches)
    if again:
        edits.settled(session)
    touch(session, job_id)
    places = {step.path for step in left}
    said = in_words([step for step in done if step.path not in places])
    return said or ("" if left else undo.words), in_words(left)


def _without(session: Session, job_id: int, one: EditRow, edit: Editing) -> list[Step]:
    """Put a stage to what it is without one of its edits; the steps that were left."""
    if one.stage == EQUIPMENT:
        held = job_row(session, job_id).equipment
        document, _ = merge(held, _steps_back(one), held)
        set_equipment(session, job_id, Equipment.model_validate(document), edit)
        return []
    row = session.get_one(EntryRow, (job_id, one.stage))
    after: Any = row.document
    for later in edits.since(session, job_id, one.stage, one.version):
        after = edits.back(after, later)
    document, kept = merge(row.document, _steps_back(one), after)
    try:
        entry = ENTRIES[one.stage].model_validate(document)
    except ValidationError:
        raise ConflictError(row.by, row.at) from None
    save_entry(session, job_id, one.stage, entry, replace(edit, version=row.version))
    return kept


def _steps_back(one: EditRow) -> list[Step]:
    return [step.back for step in reversed(edits.steps_of(one))]


def save_over(session: Session, job_id: int, stage: str, entry: Entry, edit: Editing) -> int:
    """Save an entry that was read in this very change: nobody's change lies between."""
    row = session.get(EntryRow, (job_id, stage))
    return save_entry(
        session, job_id, stage, entry, replace(edit, version=row.version if row else 0)
    )
