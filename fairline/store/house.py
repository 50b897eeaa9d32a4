"""What belongs to the whole house: the shelf of sheets, the practice, the company's name."""

from typing import Annotated

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from fairline.core.entry import Entry, Text
from fairline.core.practice import Practice
from fairline.core.sheet import Sheet
from fairline.store.jobs import NotFoundError, dump, now
from fairline.store.models import SettingRow, SheetRow


class Company(Entry):
    name: Text = ""
    phone: Text = ""


class Shelved(Entry):
    """A sheet on the shelf with its number and version."""

    id: Annotated[int, Field(ge=1)]
    version: int
    sheet: Sheet


def practice(session: Session) -> tuple[Practice, int]:
    """The house practice and its version; 0 while the defaults stand."""
    row = session.get(SettingRow, "practice")
    return (Practice.model_validate(row.document), row.version) if row else (Practice(), 0)


def company(session: Session) -> Company:
    row = session.get(SettingRow, "company")
    return Company.model_validate(row.document) if row else Company()


def _set(session: Session, key: str, document: Entry) -> None:
    row = session.get(SettingRow, key)
    if row is None:
        session.add(SettingRow(key=key, document=dump(document)))
    else:
        row.document, row.version = dump(document), row.version + 1


def set_practice(session: Session, value: Practice) -> None:
    _set(session, "practice", value)


def set_company(session: Session, value: Company) -> None:
    _set(session, "company", value)


def shelf(session: Session) -> list[Shelved]:
    rows = session.scalars(select(SheetRow).order_by(SheetRow.name))
    return [
        Shelved(id=r.id, version=r.version, sheet=Sheet.model_validate(r.document)) for r in rows
    ]


def shelved(session: Session, sheet_id: int) -> Shelved:
    row = session.get(SheetRow, sheet_id)
    if row is None:
        raise NotFoundError(f"there is no sheet {sheet_id}")
    return Shelved(id=row.id, version=row.version, sheet=Sheet.model_validate(row.document))


def chosen(session: Session, number: str) -> Sheet | None:
    """The sheet a person picked by its number on the shelf; None for no choice."""
    if not number.isdecimal() or len(number) > 9:
        return None
    return shelved(session, int(number)).sheet


def put_on_shelf(session: Session, sheet: Sheet, sheet_id: int | None = None) -> int:
    """Add a sheet, or replace the one with this number as its next version."""
    if sheet_id is None:
        row = SheetRow(name=sheet.name, document=dump(sheet), version=1, updated_at=now())
        session.add(row)
    else:
        found = session.get(SheetRow, sheet_id)
        if found is None:
            raise NotFoundError(f"there is no sheet {sheet_id}")
        row = found
        row.name, row.document, row.updated_at = sheet.name, dump(sheet), now()
        row.version += 1
    session.flush()
    return row.id
