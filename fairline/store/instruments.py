"""What instruments ask of a job and send to it: its runs in short, what they show at a tap."""

from collections.abc import Sequence
from typing import get_args

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from fairline.core.call import Frozen
from fairline.core.errors import FairLineError
from fairline.core.instrument import WHAT, InstrumentOn, Introduction, Spot, SpotReading, What
from fairline.core.readings import RunKind
from fairline.store import jobs
from fairline.store.clock import now
from fairline.store.jobs import job_row
from fairline.store.kept_readings import TakenError
from fairline.store.models import ReadingRow, RecordRow, RunRow, SpotRow

NEWEST = 4  # runs of which the latest reading is told
SHOWN = tuple(SpotReading.model_fields)


class OtherKindError(FairLineError):
    """An instrument of another kind has this name on the job."""

    def __init__(self, name: str, kind: What) -> None:
        super().__init__(f"{name} is a {WHAT[kind]} on this job: give this one another name")


class RunLine(Frozen):
    """A run in short: its name, its kind, how many readings it has.

    ``last_s`` and ``last_pa`` are of its latest reading, ``next_seq`` the first number that is free
    for the instrument that asked. ``ports``: of several circuits those that were open to the rig.
    """

    uid: str
    kind: RunKind
    readings: int
    last_s: float | None = None
    last_pa: float | None = None
    next_seq: int = 0
    ports: tuple[str, ...] = ()


def run_lines(session: Session, job_id: int, instrument: str = "") -> list[RunLine]:
    """The runs of a job in order, without their readings: what an instrument follows."""
    job_row(session, job_id)
    numbers = (
        select(ReadingRow.run_id, func.max(ReadingRow.seq).label("seq"))
        .where(ReadingRow.instrument == instrument)
        .group_by(ReadingRow.run_id)
        .subquery()
    )
    rows = session.execute(
        select(RunRow.id, RunRow.uid, RunRow.kind, RunRow.count, numbers.c.seq)
        .outerjoin(numbers, numbers.c.run_id == RunRow.id)
        .where(RunRow.job_id == job_id)
        .order_by(RunRow.id)
    ).all()
    said = session.scalars(
        select(RecordRow.document).where(RecordRow.job_id == job_id, RecordRow.kind == "ports")
    )
    ports = {p["run"]: tuple(p["open"]) for p in said}
    # Only of the newest runs anybody asks where they stand.
    last = _last(session, [run_id for run_id, *_ in rows[-NEWEST:]])
    return [
        RunLine(
            uid=uid,
            kind=kind,
            readings=count,
            last_s=last.get(run_id, (None, None))[0],
            last_pa=last.get(run_id, (None, None))[1],
            next_seq=0 if seq is None else seq + 1,
            ports=ports.get(uid, ()),
        )
        for run_id, uid, kind, count, seq in rows
    ]


def _last(session: Session, run_ids: Sequence[int]) -> dict[int, tuple[float, float | None]]:
    """Time and absolute pressure of the latest reading of each run."""
    turn = func.row_number().over(
        partition_by=ReadingRow.run_id, order_by=(ReadingRow.t_s.desc(), ReadingRow.seq.desc())
    )
    read = (
        select(ReadingRow.run_id, ReadingRow.t_s, ReadingRow.pa, turn.label("turn"))
        .where(ReadingRow.run_id.in_(run_ids))
        .subquery()
    )
    rows = session.execute(select(read.c.run_id, read.c.t_s, read.c.pa).where(read.c.turn == 1))
    return {run_id: (t_s, pa) for run_id, t_s, pa in rows}


def introduce(session: Session, job_id: int, told: Introduction) -> None:
    """Keep who an instrument says it is; one that says the same again is known.

    Raises OtherKindError for the name of an instrument of another kind.
    """
    documents = session.scalars(
        select(RecordRow.document)
        .where(RecordRow.job_id == job_id, RecordRow.kind == "instrument")
        .order_by(RecordRow.id.desc())
    )
    before = next((d for d in documents if d["name"] == told.name), None)
    said = told.model_dump(mode="json")
    if before is not None and before["what"] != told.what:
        raise OtherKindError(told.name, before["what"])
    if before is None or any(before.get(name) != value for name, value in said.items()):
        jobs.append_record(session, job_id, InstrumentOn(by=told.name, at=now(), **dict(told)))


def keep_spots(session: Session, job_id: int, readings: Sequence[SpotReading]) -> int:
    """Keep what instruments showed; how many were new. One sent twice is kept once.

    Raises TakenError for a number that is kept with another value, HandedOverError for anything
    new of a job that stands as it is.
    """
    job_row(session, job_id)
    new = 0
    for n, reading in enumerate(readings):
        kept = session.get(SpotRow, (job_id, reading.instrument, reading.seq))
        if kept is None:
            session.add(SpotRow(job_id=job_id, **reading.model_dump()))
            new += 1
        elif _shown(kept) != reading:
            raise TakenError(n, reading.instrument, reading.seq)
    if new:
        jobs.check_open(session, job_id)
    session.flush()
    return new


def _shown(row: SpotRow) -> SpotReading:
    return SpotReading.model_validate({n: getattr(row, n) for n in SHOWN})


def newest_spots(session: Session, job_id: int, *what: Spot) -> list[SpotReading]:
    """The latest that each instrument of these kinds showed, the newest first."""
    last = (
        select(SpotRow.instrument, func.max(SpotRow.seq).label("seq"))
        .where(SpotRow.job_id == job_id, SpotRow.what.in_(what or get_args(Spot)))
        .group_by(SpotRow.instrument)
        .subquery()
    )
    rows = session.scalars(
        select(SpotRow)
        .join(last, (SpotRow.instrument == last.c.instrument) & (SpotRow.seq == last.c.seq))
        .where(SpotRow.job_id == job_id)
        .order_by(SpotRow.at.desc())
    )
    return [_shown(row) for row in rows]


def next_spot(session: Session, job_id: int, instrument: str) -> int:
    """The first number that is free for an instrument."""
    last = session.scalar(
        select(func.max(SpotRow.seq)).where(
            SpotRow.job_id == job_id, SpotRow.instrument == instrument
        )
    )
    return 0 if last is None else last + 1
