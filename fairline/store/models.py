"""The tables. Entries change under a version; records and readings only ever append."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import (
    JSON,
    DateTime,
    Float,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    String,
    Text,
    TypeDecorator,
    UniqueConstraint,
    false,
    text,
    true,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Utc(TypeDecorator[datetime]):
    """A moment, kept as UTC without a zone and given back with it."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Any) -> datetime | None:
        return value.astimezone(UTC).replace(tzinfo=None) if value else None

    def process_result_value(self, value: datetime | None, dialect: Any) -> datetime | None:
        return value.replace(tzinfo=UTC) if value else None


class Base(DeclarativeBase):
    type_annotation_map = {datetime: Utc, dict[str, Any]: JSON}


class SheetRow(Base):
    """An equipment sheet on the shelf in its newest version; ``key`` is its name, caseless."""

    __tablename__ = "sheet"

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(20), index=True)
    key: Mapped[str] = mapped_column(String(410), unique=True)
    name: Mapped[str] = mapped_column(String(410))
    document: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1)
    updated_at: Mapped[datetime]


class SheetVersionRow(Base):
    """A sheet as it stood in one version: appended, never changed."""

    __tablename__ = "sheet_version"

    sheet_id: Mapped[int] = mapped_column(
        ForeignKey("sheet.id", ondelete="CASCADE"), primary_key=True
    )
    version: Mapped[int] = mapped_column(primary_key=True)
    document: Mapped[dict[str, Any]]
    by: Mapped[str] = mapped_column(String(200), default="")
    at: Mapped[datetime]


class NameplateRow(Base):
    """A picture of a unit's nameplate, kept with its sheet."""

    __tablename__ = "nameplate"

    sheet_id: Mapped[int] = mapped_column(
        ForeignKey("sheet.id", ondelete="CASCADE"), primary_key=True
    )
    name: Mapped[str] = mapped_column(String(64), primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)
    by: Mapped[str] = mapped_column(String(200), default="")
    at: Mapped[datetime]


class SentRow(Base):
    """An act of a page, by the token it was sent under (``store/sent``)."""

    __tablename__ = "sent"

    token: Mapped[str] = mapped_column(String(40), primary_key=True)
    at: Mapped[datetime] = mapped_column(index=True)


class SettingRow(Base):
    """A document of the whole house, like its practice, under a key."""

    __tablename__ = "setting"

    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    document: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1)


class JobNumberRow(Base):
    """Gives each number of a job once: it stays empty, SQLite keeps the last that was given."""

    __tablename__ = "job_number"
    __table_args__ = {"sqlite_autoincrement": True}

    id: Mapped[int] = mapped_column(primary_key=True)


class ClockRow(Base):
    """The last moment that something was done here: the only row."""

    __tablename__ = "clock"

    id: Mapped[int] = mapped_column(primary_key=True)
    last: Mapped[datetime | None]


class JobRow(Base):
    """A job: its head and its own copies of sheets. ``revision`` counts every change.

    ``subject`` names the machines and tubes it has now (``store/subjects``); blank while nobody
    asked. ``brief`` is what the board shows of it (``store/board``), ordered by ``urgency``;
    ``stale`` while a change is not in it yet. ``put_away``: kept, but not on the board.
    ``handed_over``: it changes no more until it is opened again by name and reason. ``due_on``: the
    day of its next visit, ``2027-05-31``; None where none is planned. ``clock_at``: when the first
    of its clocks ends (``core/clocks``). ``found_by``: its words, folded (``core/found_by``);
    ``stands_at``: its stage; ``last_on``: the day of the last act.
    """

    __tablename__ = "job"
    __table_args__ = (
        Index(  # a page of the board, and all that it is narrowed by, without a row being read
            "job_board",
            "put_away",
            "urgency",
            text("id DESC"),
            "stands_at",
            "last_on",
            "due_on",
        ),
        Index("job_due", "put_away", "due_on"),
        Index("job_clock", "put_away", "clock_at"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(64), unique=True)
    head: Mapped[dict[str, Any]]
    equipment: Mapped[dict[str, Any]]
    created_at: Mapped[datetime]
    revision: Mapped[int] = mapped_column(default=1)
    head_version: Mapped[int] = mapped_column(default=1, server_default="1")
    brief: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    urgency: Mapped[int] = mapped_column(default=0, server_default="0")
    stale: Mapped[bool] = mapped_column(default=True, server_default=true())
    put_away: Mapped[bool] = mapped_column(default=False, server_default=false())
    handed_over: Mapped[bool] = mapped_column(default=False, server_default=false())
    subject: Mapped[str] = mapped_column(String(24), default="", server_default="")
    due_on: Mapped[str | None] = mapped_column(String(10))
    clock_at: Mapped[datetime | None]
    found_by: Mapped[str] = mapped_column(Text, default="", server_default="")
    stands_at: Mapped[str] = mapped_column(String(20), default="", server_default="")
    last_on: Mapped[str] = mapped_column(String(10), default="", server_default="")


class PlanRow(Base):
    """The plan of a job's days: what it goes by, the plan itself, what its tasks took.

    It is the company's own, and in no job file. ``took`` is kept once the job is handed over, and
    the house learns from it; None for a training job. ``ready_at``: when the plan ends;
    ``people`` and ``days`` are those in it, a line each, for the filters of the board.
    """

    __tablename__ = "job_plan"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    terms: Mapped[dict[str, Any]]
    plan: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    took: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    ready_at: Mapped[datetime | None] = mapped_column(index=True)
    people: Mapped[str] = mapped_column(Text, default="", server_default="")
    days: Mapped[str] = mapped_column(Text, default="", server_default="")
    version: Mapped[int] = mapped_column(default=1)


class BidRow(Base):
    """What a job was offered for: the company's own, and in no job file."""

    __tablename__ = "job_bid"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    document: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1)


class PersonRow(Base):
    """Somebody who may sign in (``store/people``); ``key`` is the name, folded."""

    __tablename__ = "person"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(100))
    key: Mapped[str] = mapped_column(String(200), unique=True)
    role: Mapped[str] = mapped_column(String(20))
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    password: Mapped[str] = mapped_column(String(300), default="")
    ended: Mapped[bool] = mapped_column(default=False, server_default=false())
    made_at: Mapped[datetime]


class KeyRow(Base):
    """What lets somebody in: a session, an invitation, a token, a shared link, by its digest."""

    __tablename__ = "access_key"

    id: Mapped[int] = mapped_column(primary_key=True)
    digest: Mapped[str] = mapped_column(String(64), unique=True)
    kind: Mapped[str] = mapped_column(String(20))
    person_id: Mapped[int | None] = mapped_column(
        ForeignKey("person.id", ondelete="CASCADE"), index=True
    )
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    words: Mapped[str] = mapped_column(String(200), default="", server_default="")
    made_at: Mapped[datetime]
    seen_at: Mapped[datetime]
    until: Mapped[datetime | None]


class PasskeyRow(Base):
    """A passkey of somebody: its public key, and how often it signed, as it says itself."""

    __tablename__ = "passkey"

    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    credential: Mapped[str] = mapped_column(String(1400), unique=True)
    public_key: Mapped[bytes] = mapped_column(LargeBinary)
    count: Mapped[int]
    words: Mapped[str] = mapped_column(String(200), default="", server_default="")
    made_at: Mapped[datetime]
    seen_at: Mapped[datetime]


class AttemptRow(Base):
    """Wrong passwords in a row, for a name or an address."""

    __tablename__ = "attempt"

    key: Mapped[str] = mapped_column(String(200), primary_key=True)
    count: Mapped[int]
    at: Mapped[datetime] = mapped_column(index=True)


class SubjectRow(Base):
    """The machines and tubes of a job at one time, kept once by their digest (``core/proofs``)."""

    __tablename__ = "subject"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    digest: Mapped[str] = mapped_column(String(24), primary_key=True)
    document: Mapped[dict[str, Any]]


class SubjectSinceRow(Base):
    """From when on a job had which subject, and by whose edit: appended, never changed."""

    __tablename__ = "subject_since"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    at: Mapped[datetime]
    subject: Mapped[str] = mapped_column(String(24))
    by: Mapped[str] = mapped_column(String(200), default="")
    what: Mapped[str] = mapped_column(String(200), default="")


class JobPracticeRow(Base):
    """A house practice under which something was done on a job, kept once by its digest.

    A blank digest is the practice under which a job of before was found.
    """

    __tablename__ = "job_practice"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    digest: Mapped[str] = mapped_column(String(24), primary_key=True)
    document: Mapped[dict[str, Any]]


class EntryRow(Base):
    """What is entered on one stage of a job."""

    __tablename__ = "entry"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    stage: Mapped[str] = mapped_column(String(20), primary_key=True)
    document: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1)
    editor: Mapped[str] = mapped_column(String(40), default="")
    turn: Mapped[int] = mapped_column(default=0)
    by: Mapped[str] = mapped_column(String(200), default="")
    at: Mapped[datetime]


class EditRow(Base):
    """One edit of an entry in steps (``core/change``), by the page and the browser it came from.

    All edits of one transaction are one ``bunch`` and are taken back together. ``editor`` is the
    browser's token, a dot, the page's. ``takes_back``: it took others back; ``taken_by``: the bunch
    that took this one back.
    """

    __tablename__ = "edit"
    __table_args__ = (
        Index("edit_of_stage", "job_id", "stage", "version"),
        Index("edit_bunch", "bunch"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    stage: Mapped[str] = mapped_column(String(20))
    version: Mapped[int]
    bunch: Mapped[str] = mapped_column(String(32))
    editor: Mapped[str] = mapped_column(String(40), default="")
    turn: Mapped[int] = mapped_column(default=0)
    by: Mapped[str] = mapped_column(String(200), default="")
    at: Mapped[datetime]
    steps: Mapped[list[Any]] = mapped_column(JSON)
    takes_back: Mapped[bool] = mapped_column(default=False, server_default=false())
    taken_by: Mapped[str] = mapped_column(String(32), default="")


class RecordRow(Base):
    """A decision or a measurement with its maker and time: appended, never changed."""

    __tablename__ = "record"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str] = mapped_column(String(20))
    document: Mapped[dict[str, Any]]


class PictureRow(Base):
    """A picture of a job as JPEG; ``name`` is the SHA-256 of its bytes."""

    __tablename__ = "picture"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    name: Mapped[str] = mapped_column(String(64), primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)


class SealRow(Base):
    """The chain of a job as it was handed over (``core/seal``): appended, never changed."""

    __tablename__ = "seal"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    document: Mapped[dict[str, Any]]


class RunRow(Base):
    """A run of readings; ``count`` is how many it has."""

    __tablename__ = "run"
    __table_args__ = (UniqueConstraint("job_id", "uid"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(64))
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str] = mapped_column(String(10))
    started_at: Mapped[datetime]
    started_by: Mapped[str] = mapped_column(String(200), default="")
    ended_at: Mapped[datetime | None]
    count: Mapped[int] = mapped_column(default=0, server_default="0")
    subject: Mapped[str] = mapped_column(String(24), default="", server_default="")
    practice: Mapped[str] = mapped_column(String(24), default="", server_default="")


class ReadingRow(Base):
    """One reading. Instrument and sequence number make it single within its run."""

    __tablename__ = "reading"

    run_id: Mapped[int] = mapped_column(ForeignKey("run.id", ondelete="CASCADE"), primary_key=True)
    instrument: Mapped[str] = mapped_column(String(200), primary_key=True)
    seq: Mapped[int] = mapped_column(Integer, primary_key=True)
    t_s: Mapped[float] = mapped_column(Float)
    gauge_pa: Mapped[float | None] = mapped_column(Float)
    pipe_c: Mapped[float | None] = mapped_column(Float)
    pa: Mapped[float | None] = mapped_column(Float)
    probe: Mapped[str | None] = mapped_column(String(10))
    side: Mapped[str | None] = mapped_column(String(10))
    simulated: Mapped[bool] = mapped_column(default=False, server_default=false())


class PackRow(Base):
    """The readings of a run once more, ``count`` of them, as arrays."""

    __tablename__ = "pack"

    run_id: Mapped[int] = mapped_column(ForeignKey("run.id", ondelete="CASCADE"), primary_key=True)
    count: Mapped[int]
    content: Mapped[bytes] = mapped_column(LargeBinary)


class SpotRow(Base):
    """What a scale, a thermometer or a wrench showed at a moment, by its instrument and number."""

    __tablename__ = "spot"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    instrument: Mapped[str] = mapped_column(String(200), primary_key=True)
    seq: Mapped[int] = mapped_column(Integer, primary_key=True)
    what: Mapped[str] = mapped_column(String(20))
    at: Mapped[datetime]
    mass_kg: Mapped[float | None] = mapped_column(Float)
    air_c: Mapped[float | None] = mapped_column(Float)
    humidity: Mapped[float | None] = mapped_column(Float)
    torque_nm: Mapped[float | None] = mapped_column(Float)
    simulated: Mapped[bool] = mapped_column(default=False, server_default=false())
