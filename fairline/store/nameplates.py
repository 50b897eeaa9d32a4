"""Pictures of nameplates, kept with the sheets that were typed from them."""

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from fairline.store.clock import now
from fairline.store.models import NameplateRow
from fairline.store.pictures import name_of


def keep(session: Session, sheet_id: int, content: bytes, by: str) -> str:
    """Keep a cleaned picture with a sheet; its name. The same one twice is kept once."""
    name = name_of(content)
    if session.get(NameplateRow, (sheet_id, name)) is None:
        row = NameplateRow(sheet_id=sheet_id, name=name, content=content, by=by, at=now())
        session.add(row)
    return name


def of(session: Session, sheet_id: int) -> list[tuple[str, str, datetime]]:
    """The nameplates of a sheet: the picture's name, who took it, when; the newest first."""
    found = session.execute(
        select(NameplateRow.name, NameplateRow.by, NameplateRow.at)
        .where(NameplateRow.sheet_id == sheet_id)
        .order_by(NameplateRow.at.desc())
    )
    return [(name, by, at) for name, by, at in found]


def content_of(session: Session, sheet_id: int, name: str) -> bytes | None:
    """A picture's JPEG, or None where it is not kept here."""
    row = session.get(NameplateRow, (sheet_id, name))
    return row.content if row else None
