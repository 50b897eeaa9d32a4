"""The shelf of equipment sheets: each by its name, every version of it kept."""

from collections.abc import Sequence
from typing import Annotated, Any

from pydantic import Field
from sqlalchemy import ColumnElement, func, insert, select
from sqlalchemy.orm import Session

from fairline.core.entry import Entry, kind_of
from fairline.core.equipment import Equipment
from fairline.core.errors import FairLineError
from fairline.core.quantities import both
from fairline.core.sheet import ANY_SHEET, AnySheet, Outdoor, Sheet
from fairline.store.clock import now
from fairline.store.document import NotFoundError, dump
from fairline.store.models import SheetRow, SheetVersionRow

CHUNK = 500


class NameTakenError(FairLineError):
    """Another sheet of this name is on the shelf. ``sheet_id`` names it."""

    def __init__(self, name: str, sheet_id: int) -> None:
        super().__init__(f"{name} is on the shelf already")
        self.sheet_id = sheet_id


class Shelved(Entry):
    """A sheet on the shelf with its number and version."""

    id: Annotated[int, Field(ge=1)]
    version: int
    sheet: AnySheet


class Imported(Entry):
    """How an import went, in numbers of sheets."""

    new: int = 0
    changed: int = 0
    unchanged: int = 0


class Newer(Entry):
    """A sheet of a job that the shelf holds in a newer version, and what differs."""

    what: str
    name: str
    planned: int
    version: int
    differences: tuple[str, ...]


def key_of(name: str) -> str:
    return " ".join(name.casefold().split())


def _shelved(row: SheetRow) -> Shelved:
    return Shelved(id=row.id, version=row.version, sheet=ANY_SHEET.validate_python(row.document))


def revision(session: Session) -> tuple[int, int]:
    """Changes whenever a sheet is added or changed: their number and the sum of versions."""
    found = session.execute(select(func.count(), func.sum(SheetRow.version))).one()
    return int(found[0]), int(found[1] or 0)


def count(session: Session, kind: str = "", like: str = "") -> int:
    query = select(func.count()).select_from(SheetRow)
    return session.scalar(query.where(*_asked(kind, like))) or 0


def counts(session: Session) -> dict[str, int]:
    """How many sheets there are of each kind that has one."""
    found = session.execute(select(SheetRow.kind, func.count()).group_by(SheetRow.kind))
    return {row[0]: row[1] for row in found}


def _asked(kind: str, like: str) -> list[ColumnElement[bool]]:
    """What holds of sheets of one kind whose name has these words; of either where given."""
    of_kind = [SheetRow.kind == kind] if kind else []
    words = key_of(like).split()
    return [*of_kind, *(SheetRow.key.contains(word, autoescape=True) for word in words)]


def sheets(
    session: Session, kind: str = "", like: str = "", limit: int | None = None, offset: int = 0
) -> list[Shelved]:
    """Sheets in order of their names, of one kind and with words of a name where asked."""
    query = select(SheetRow).where(*_asked(kind, like)).order_by(SheetRow.key).offset(offset)
    return [_shelved(r) for r in session.scalars(query.limit(limit) if limit else query)]


def outdoors(session: Session) -> list[Outdoor]:
    return [s.sheet for s in sheets(session, "outdoor") if isinstance(s.sheet, Outdoor)]


def shelved(session: Session, sheet_id: int) -> Shelved:
    row = session.get(SheetRow, sheet_id)
    if row is None:
        raise NotFoundError(f"there is no sheet {sheet_id}")
    return _shelved(row)


def by_name(session: Session, name: str) -> Shelved | None:
    if not name.strip():
        return None
    row = session.scalar(select(SheetRow).where(SheetRow.key == key_of(name)))
    return _shelved(row) if row else None


def versions(session: Session, sheet_id: int) -> list[tuple[int, str, object]]:
    """Every version of a sheet with who kept it and when, the newest first."""
    rows = session.scalars(
        select(SheetVersionRow)
        .where(SheetVersionRow.sheet_id == sheet_id)
        .order_by(SheetVersionRow.version.desc())
    )
    return [(r.version, r.by, r.at) for r in rows]


def version_of(session: Session, sheet_id: int, version: int) -> Shelved:
    row = session.get(SheetVersionRow, (sheet_id, version))
    if row is None:
        raise NotFoundError(f"sheet {sheet_id} has no version {version}")
    return Shelved(id=sheet_id, version=version, sheet=ANY_SHEET.validate_python(row.document))


def put(session: Session, sheet: Sheet, sheet_id: int | None = None, by: str = "") -> int:
    """Add a sheet, or keep the one with this number as its next version; its number.

    Raises NameTakenError where another sheet has its name. What has not changed gets no new
    version.
    """
    held = session.scalar(select(SheetRow).where(SheetRow.key == key_of(sheet.name)))
    if held is not None and held.id != sheet_id:
        raise NameTakenError(sheet.name, held.id)
    document = document_of(sheet)
    if sheet_id is None:
        row = SheetRow(
            kind=document["kind"],
            key=key_of(sheet.name),
            name=sheet.name,
            document=document,
            version=1,
            updated_at=now(),
        )
        session.add(row)
        session.flush()
    else:
        found = session.get(SheetRow, sheet_id)
        if found is None:
            raise NotFoundError(f"there is no sheet {sheet_id}")
        row = found
        if row.document == document:
            return row.id
        row.kind, row.key, row.name = document["kind"], key_of(sheet.name), sheet.name
        row.document, row.version, row.updated_at = document, row.version + 1, now()
    session.add(
        SheetVersionRow(
            sheet_id=row.id, version=row.version, document=document, by=by, at=row.updated_at
        )
    )
    session.flush()
    return row.id


def document_of(sheet: Sheet) -> dict[str, Any]:
    """What is kept of a sheet; its kind tells the sheets apart when they are read back."""
    return {"kind": getattr(sheet, "kind", "")} | dump(sheet)


def take_in(session: Session, incoming: Sequence[Sheet], by: str = "import") -> Imported:
    """Put many sheets on the shelf: new ones are added, changed ones become a next version."""
    rows = {r.key: r for r in session.scalars(select(SheetRow))}
    new: list[tuple[str, Sheet]] = []
    changed = unchanged = 0
    history = []
    at = now()
    for sheet in incoming:
        key, document = key_of(sheet.name), document_of(sheet)
        row = rows.get(key)
        if row is None:
            new.append((key, sheet))
        elif row.document == document:
            unchanged += 1
        else:
            row.kind, row.name, row.document = str(document["kind"]), sheet.name, document
            row.version, row.updated_at = row.version + 1, at
            history.append((row.id, row.version, document))
            changed += 1
    session.flush()
    for start in range(0, len(new), CHUNK):
        part = new[start : start + CHUNK]
        session.execute(
            insert(SheetRow),
            [
                {
                    "kind": getattr(s, "kind", ""),
                    "key": key,
                    "name": s.name,
                    "document": document_of(s),
                    "version": 1,
                    "updated_at": at,
                }
                for key, s in part
            ],
        )
    if new:
        ids = {row.key: row.id for row in session.execute(select(SheetRow.key, SheetRow.id))}
        history += [(ids[key], 1, document_of(s)) for key, s in new]
    for start in range(0, len(history), CHUNK):
        session.execute(
            insert(SheetVersionRow),
            [
                {"sheet_id": i, "version": v, "document": d, "by": by, "at": at}
                for i, v, d in history[start : start + CHUNK]
            ],
        )
    return Imported(new=len(new), changed=changed, unchanged=unchanged)


def newer(session: Session, equipment: Equipment) -> list[Newer]:
    """Which of a job's copies the shelf holds in a newer version."""
    found = []
    planned: list[tuple[str, int, Sheet]] = [
        (f"head {h.zone}", h.version, h.sheet) for h in equipment.heads
    ]
    planned += [(f"at {f.at}", f.version, f.sheet) for f in equipment.fittings]
    if equipment.outdoor:
        planned.insert(0, ("outdoor unit", equipment.outdoor.version, equipment.outdoor.sheet))
    for what, version, sheet in planned:
        held = by_name(session, sheet.name)
        if held is not None and held.version > version and held.sheet != sheet:
            found.append(
                Newer(
                    what=what,
                    name=sheet.name,
                    planned=version,
                    version=held.version,
                    differences=differences(sheet, held.sheet),
                )
            )
    return found


def differences(old: Sheet, new: Sheet) -> tuple[str, ...]:
    """Field by field what has changed, in words."""
    if type(old) is not type(new):
        return ("another kind of sheet",)
    found = []
    for name in type(new).model_fields:
        was, now_ = getattr(old, name), getattr(new, name)
        if was == now_:
            continue
        kind = kind_of(type(new), name)

        def said(value: object, kind: str | None = kind) -> str:
            if value in (None, "", ()):
                return "silent"
            if kind and isinstance(value, int | float):
                return both(value, kind)
            return "changed" if isinstance(value, tuple | dict) else str(value)

        label = name.rsplit("_", 1)[0] if kind else name
        before, after = said(was), said(now_)
        words = "changed" if before == after == "changed" else f"{before} → {after}"
        found.append(f"{label.replace('_', ' ')}: {words}")
    return tuple(found)
