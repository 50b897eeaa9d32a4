"""A job's own copies of the sheets it is planned with, each in the version it was taken in."""

from typing import Any

from sqlalchemy.orm import Session

from fairline.core.equipment import Equipment, PlannedFitting, PlannedHead, PlannedOutdoor
from fairline.core.route.entry import RouteEntry
from fairline.core.sheet import BranchBox, Head, Kit, Outdoor, Sheet, Tee
from fairline.core.survey.stage import SurveyEntry
from fairline.core.tokens import Plan, with_tokens
from fairline.store import edits, shelf, subjects
from fairline.store.document import dump
from fairline.store.edits import EQUIPMENT, Editing
from fairline.store.jobs import entry_of, job_row, token, touch


def set_equipment(
    session: Session, job_id: int, equipment: Equipment, edit: Editing | None = None
) -> None:
    """The job keeps its own copies of the sheets it is planned with."""
    row, document = job_row(session, job_id), dump(equipment)
    if row.equipment != document:
        subjects.keep_first(session, row)
        if edit is not None:
            edits.log(session, job_id, EQUIPMENT, 0, (row.equipment, document), edit)
        row.equipment = document
        touch(session, job_id)


def _fittings(session: Session, held: Equipment, route: RouteEntry) -> list[PlannedFitting]:
    """Copies of the boxes, tees and kits that the route names, by the run's end."""
    found = []
    for end, run in route.runs.items():
        name = run.kit if len(end) == 1 else run.sheet
        kept = next((f for f in held.fittings if f.at == end and f.sheet.name == name), None)
        if kept is None and name and (shelved := shelf.by_name(session, name)):
            if isinstance(shelved.sheet, BranchBox | Tee | Kit):
                kind = shelved.sheet.kind
                kept = PlannedFitting(
                    at=end, kind=kind, version=shelved.version, sheet=shelved.sheet
                )
        if kept is not None:
            found.append(kept)
    return found


def plan_of(session: Session, job_id: int) -> Plan:
    """The machines and runs that are planned."""
    survey = entry_of(session, job_id, "survey", SurveyEntry)
    return Plan(survey, entry_of(session, job_id, "route", RouteEntry))


def plan_equipment(session: Session, job_id: int, edit: Editing, before: Plan) -> None:
    """Copies of what survey and route name; one that is there already stays in its version.

    What came in since ``before`` gets a token of its own.
    """
    entry = entry_of(session, job_id, "survey", SurveyEntry)
    route = entry_of(session, job_id, "route", RouteEntry)
    held = Equipment.model_validate(job_row(session, job_id).equipment)
    outdoor = held.outdoor if held.outdoor and held.outdoor.sheet.name == entry.outdoor else None
    if outdoor is None and (found := shelf.by_name(session, entry.outdoor)):
        if isinstance(found.sheet, Outdoor):
            outdoor = PlannedOutdoor(version=found.version, sheet=found.sheet)
    heads = []
    for head in entry.heads:
        kept = next((h for h in held.heads if h.zone == head.zone), None)
        if kept is None or kept.sheet.name != head.sheet:
            kept = None
            if (found := shelf.by_name(session, head.sheet)) and isinstance(found.sheet, Head):
                kept = PlannedHead(zone=head.zone, version=found.version, sheet=found.sheet)
        if kept is not None:
            heads.append(kept)
    fittings = _fittings(session, held, route)
    sheets = {"outdoor": outdoor, "heads": tuple(heads), "fittings": tuple(fittings)}
    equipment = held.model_copy(update=sheets)
    equipment = with_tokens(equipment, before, Plan(entry, route), token)
    set_equipment(session, job_id, equipment, edit)


def fill_in(session: Session, job_id: int, before: Sheet, sheet: Sheet) -> None:
    """Every copy of one sheet in a job becomes this one.

    It is the shelf's newest version where it says the same; else it stays in its own.
    """
    held = Equipment.model_validate(job_row(session, job_id).equipment)
    name, shelved = before.name, shelf.by_name(session, before.name)
    same = shelved is not None and shelved.sheet == sheet
    update: dict[str, Any] = {"sheet": sheet}
    if shelved is not None and same:
        update["version"] = shelved.version
    sheets = {
        "outdoor": held.outdoor.model_copy(update=update)
        if held.outdoor and held.outdoor.sheet.name == name
        else held.outdoor,
        "heads": tuple(
            h.model_copy(update=update) if h.sheet.name == name else h for h in held.heads
        ),
        "fittings": tuple(
            f.model_copy(update=update) if f.sheet.name == name else f for f in held.fittings
        ),
    }
    set_equipment(session, job_id, held.model_copy(update=sheets))


def take_newer(session: Session, job_id: int, edit: Editing | None = None) -> None:
    """Every copy of a sheet in the version the shelf has now."""
    held = Equipment.model_validate(job_row(session, job_id).equipment)
    outdoor = held.outdoor
    if outdoor and (found := shelf.by_name(session, outdoor.sheet.name)):
        if isinstance(found.sheet, Outdoor):
            outdoor = PlannedOutdoor(version=found.version, sheet=found.sheet)
    heads = []
    for head in held.heads:
        found = shelf.by_name(session, head.sheet.name)
        if found and isinstance(found.sheet, Head):
            head = PlannedHead(zone=head.zone, version=found.version, sheet=found.sheet)
        heads.append(head)
    fittings = []
    for fitting in held.fittings:
        found = shelf.by_name(session, fitting.sheet.name)
        if found and isinstance(found.sheet, BranchBox | Tee | Kit):
            update = {"version": found.version, "kind": found.sheet.kind, "sheet": found.sheet}
            fitting = fitting.model_copy(update=update)
        fittings.append(fitting)
    sheets = {"outdoor": outdoor, "heads": tuple(heads), "fittings": tuple(fittings)}
    set_equipment(session, job_id, held.model_copy(update=sheets), edit)
