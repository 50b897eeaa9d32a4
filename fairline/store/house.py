"""What belongs to the whole house: its practice, the company's name, the tube on the van."""

from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import field_validator
from sqlalchemy import update
from sqlalchemy.orm import Session

from fairline.core.charge.ledger import CylinderBook
from fairline.core.entry import Entry, Text
from fairline.core.evacuate.house_times import PullTime, PullTimes
from fairline.core.plan.times import HouseTimes
from fairline.core.practice import Practice
from fairline.core.route.cutting import VanStock
from fairline.store.document import dump
from fairline.store.models import JobRow, SettingRow


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
    row = session.get(SettingRow, "company")
    return Company.model_validate(row.document) if row else Company()


def version(session: Session, key: str) -> int:
    """How often a document of the house was changed; 0 while the defaults stand."""
    row = session.get(SettingRow, key)
    return row.version if row else 0


def van(session: Session) -> VanStock:
    """The tube on the van."""
    row = session.get(SettingRow, "van")
    return VanStock.model_validate(row.document) if row else VanStock()


def set_van(session: Session, value: VanStock) -> None:
    _set(session, "van", value)


def cylinder_book(session: Session) -> CylinderBook:
    """The company's cylinders."""
    row = session.get(SettingRow, "cylinders")
    return CylinderBook.model_validate(row.document) if row else CylinderBook()


def set_cylinder_book(session: Session, value: CylinderBook) -> None:
    _set(session, "cylinders", value)


def pull_times(session: Session) -> PullTimes:
    """How long the house's own jobs took under the pump."""
    row = session.get(SettingRow, "pull-times")
    return PullTimes.model_validate(row.document) if row else PullTimes()


def add_pull_time(session: Session, one: PullTime) -> None:
    _set(session, "pull-times", pull_times(session).with_job(one))


def task_times(session: Session) -> HouseTimes:
    """How long each kind of task takes in this house."""
    row = session.get(SettingRow, "task-times")
    return HouseTimes.model_validate(row.document) if row else HouseTimes()


def set_task_times(session: Session, value: HouseTimes) -> None:
    _set(session, "task-times", value)


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
