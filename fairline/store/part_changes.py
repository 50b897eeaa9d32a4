"""What a change was, and a machine exchanged: tokens, what was looked at, the record of it."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from fairline.core import line
from fairline.core.equipment import Equipment
from fairline.core.mount.stage import MountEntry
from fairline.core.part_answers import (
    changed,
    ends_by_part,
    exchanged,
    looked_at_again,
    moved_joints,
)
from fairline.core.parts import OUTDOOR, UNIT, Mark, PartChange, kind_of
from fairline.core.proofs import Difference, changed_parts
from fairline.core.survey.stage import SurveyEntry
from fairline.core.wire.entry import WireEntry
from fairline.store import edits, entries, equipment, house, jobs
from fairline.store.edits import EQUIPMENT, Editing
from fairline.store.models import EditRow


def answer(
    session: Session,
    job_id: int,
    how: Literal["corrected", "changed"],
    asked: Sequence[Difference],
    said: PartChange,
    joints: tuple[Sequence[str], Sequence[str]],
    edit: Editing,
) -> None:
    """Say of some parts that they were drawn wrong, or changed on site.

    ``said`` has the reason, who says it and when; ``joints`` the keys of those that were made, and
    of those that there are now. A change is taken back with the edit that it is about.
    """
    held = _equipment(session, job_id)
    moved: dict[str, str] = {}
    if how == "corrected":
        moved = moved_joints(asked, held, *joints)
    else:
        _with_the_edit(session, job_id, edit)
        equipment.set_equipment(session, job_id, changed(held, asked, jobs.token), edit)
        machines = [d for d in asked if d.now and d.then and kind_of(d.part) != "tube"]
        typed = [_name(d.part) for d in machines if d.then and d.now and d.then[2:3] != d.now[2:3]]
        _look_again(session, job_id, [_name(d.part) for d in machines], edit, typed)
    ends = ends_by_part(asked, _parts(session, job_id).get)
    record = said.model_copy(update={"how": how, "parts": ends, "moved": moved})
    jobs.append_record(session, job_id, record)


def exchange(
    session: Session, job_id: int, part: str, reason: str, by: str, at: datetime, edit: Editing
) -> None:
    """Another machine or tube at a place; what was seen of the one before is kept with the act."""
    before = _parts(session, job_id)
    place = _name(part)
    what: Literal["machine", "tube"] = "tube" if kind_of(part) == "tube" else "machine"
    survey = jobs.entry_of(session, job_id, "survey", SurveyEntry)
    serial = survey.box(place).serial if what == "machine" else ""
    held = exchanged(_equipment(session, job_id), place, what, jobs.token)
    equipment.set_equipment(session, job_id, held, edit)
    if what == "machine":
        _look_again(session, job_id, [place], edit)
    after = _parts(session, job_id)
    asked = [Difference(part, before.get(part), after.get(part), True)]
    record = PartChange(
        how="exchanged",
        parts=ends_by_part(asked, after.get),
        reason=reason,
        serial=serial,
        by=by,
        at=at,
    )
    jobs.append_record(session, job_id, record)


def take_newer(session: Session, job_id: int, by: str, at: datetime, edit: Editing) -> None:
    """Plan with the sheets as the shelf has them now: the same machines, described anew."""
    before = _parts(session, job_id)
    equipment.take_newer(session, job_id, edit)
    after = _parts(session, job_id)
    found = changed_parts(before, after)
    if found:
        said = PartChange(
            how="corrected", reason="newer version of the sheet", by=by or "not named", at=at
        )
        ends = ends_by_part(found, after.get)
        jobs.append_record(session, job_id, said.model_copy(update={"parts": ends}))


def _equipment(session: Session, job_id: int) -> Equipment:
    return Equipment.model_validate(jobs.job_row(session, job_id).equipment)


def _parts(session: Session, job_id: int) -> dict[str, Mark]:
    practice, _ = house.practice(session)
    return line.parts_of(jobs.load(session, job_id).job, practice)


def _name(part: str) -> str:
    return OUTDOOR if part == UNIT else part.removeprefix("head:").removeprefix("tube:")


def _look_again(
    session: Session,
    job_id: int,
    places: Sequence[str],
    edit: Editing,
    serials: Sequence[str] = (),
) -> None:
    """What was looked at of machines that went is open again."""
    survey = jobs.entry_of(session, job_id, "survey", SurveyEntry)
    mount = jobs.entry_of(session, job_id, "mount", MountEntry)
    wire = jobs.entry_of(session, job_id, "wire", WireEntry)
    before = (survey, mount, wire)
    after = looked_at_again(*before, places, serials)
    for stage, was, now in zip(("survey", "mount", "wire"), before, after, strict=True):
        if now != was:
            entries.save_over(session, job_id, stage, now, replace(edit, takes_back=False))


def _with_the_edit(session: Session, job_id: int, edit: Editing) -> None:
    """The change under way is taken back together with this browser's newest edit of the plan."""
    hand = edits.hand_of(edit.editor)
    newest = session.scalars(
        select(EditRow)
        .where(
            EditRow.job_id == job_id,
            EditRow.editor.startswith(f"{hand}.", autoescape=True),
            EditRow.stage.in_(("survey", "route", EQUIPMENT)),
            EditRow.takes_back.is_(False),
            EditRow.taken_by == "",
        )
        .order_by(EditRow.id.desc())
        .limit(1)
    ).first()
    if hand and newest is not None:
        session.info[edits.BUNCH] = newest.bunch
