"""What belongs to the whole house: its practice, the company's name, the tube on the van."""

from typing import TypeVar
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import field_validator
from sqlalchemy import update
from sqlalchemy.orm import Session

from fairline.core.charge.ledger import CylinderBook
from fairline.core.entry import Entry, Text
from fairline.core.evacuate.house_times import PullTime, PullTimes
from fairline.core.plan.bid import PriceBook
from fairline.core.plan.crew import CrewBook
from fairline.core.plan.times import HouseTimes
from fairline.core.practice import Practice
from fairline.core.route.cutting import VanStock
from fairline.store.document import dump
from fairline.store.models import JobRow, SettingRow

Kept = TypeVar("Kept", bound=Entry)


def zone_named(name: str) -> ZoneInfo | None:
    """A time zone by its name, such as ``America/Chicago``; None where it is not known here."""
    try:
        return ZoneInfo(name) if name else None
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return None


class Company(Entry):
    """Whose jobs they are; ``zone`` is the time zone that moments are shown in."""

    name: Text = ""
    phone: Text = ""
    zone: Text = ""

    @field_validator("zone")
    @classmethod
    def _known(cls, value: str) -> str:
        if value and zone_named(value) is None:
            raise ValueError("no such time zone is known here; type it like America/Chicago")
        return value


def practice(session: Session) -> tuple[Practice, int]:
    """The house practice and its version; 0 while the defaults stand."""
    row = session.get(SettingRow, "practice")
    return (
        (Practice.model_validate(row.document, context={"kept": True}), row.version)
        if row
        else (Practice(), 0)
    )


def company(session: Session) -> Company:
    return _kept(session, "company", Company)


def version(session: Session, key: str) -> int:
    """How often a document of the house was changed; 0 while the defaults stand."""
    row = session.get(SettingRow, key)
    return row.version if row else 0


def van(session: Session) -> VanStock:
    """The tube on the van."""
    return _kept(session, "van", VanStock)


def set_van(session: Session, value: VanStock) -> None:
    _set(session, "van", value)


def cylinder_book(session: Session) -> CylinderBook:
    """The company's cylinders."""
    return _kept(session, "cylinders", CylinderBook)


def set_cylinder_book(session: Session, value: CylinderBook) -> None:
    _set(session, "cylinders", value)


def pull_times(session: Session) -> PullTimes:
    """How long the house's own jobs took under the pump."""
    return _kept(session, "pull-times", PullTimes)


def add_pull_time(session: Session, one: PullTime) -> None:
    _set(session, "pull-times", pull_times(session).with_job(one))


def task_times(session: Session) -> HouseTimes:
    """How long each kind of task takes in this house."""
    return _kept(session, "task-times", HouseTimes)


def set_task_times(session: Session, value: HouseTimes) -> None:
    _set(session, "task-times", value)


def crew_book(session: Session) -> CrewBook:
    """The company's people and the hours they work."""
    return _kept(session, "crew", CrewBook)


def set_crew_book(session: Session, value: CrewBook) -> None:
    _set(session, "crew", value)


def price_book(session: Session) -> PriceBook:
    """The company's prices."""
    return _kept(session, "prices", PriceBook)


def set_price_book(session: Session, value: PriceBook) -> None:
    _set(session, "prices", value)


def _kept(session: Session, key: str, model: type[Kept]) -> Kept:
    """A document of the house; its defaults while nothing is kept."""
    row = session.get(SettingRow, key)
    return model.model_validate(row.document) if row else model()


def _set(session: Session, key: str, document: Entry) -> None:
    row = session.get(SettingRow, key)
    if row is None:
        session.add(SettingRow(key=key, document=dump(document)))
    else:
        row.document, row.version = dump(document), row.version + 1


def set_practice(session: Session, value: Practice) -> None:
    """Set the house practice; every job is judged by it from now on."""
    _set(session, "practice", value)
    session.execute(update(JobRow).values(stale=True))


def set_company(session: Session, value: Company) -> None:
    _set(session, "company", value)
