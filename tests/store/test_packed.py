"""A packed log is the log: whole, in order, kept up to date, and never believed when damaged."""

import pytest
from sqlalchemy import select, update

from fairline.core.job import JobHead
from fairline.core.readings import VacuumReading
from fairline.store import jobs, kept_readings, packed
from fairline.store.models import PackRow, ReadingRow

MANY = 20


@pytest.fixture(autouse=True)
def _soon(monkeypatch):
    monkeypatch.setattr(packed, "PACK_FROM", MANY)


def read(n, who="g", **other):
    return VacuumReading(instrument=who, seq=n, t_s=float(n), **(other or {"pa": 30.0 + n}))


def put(database, batches):
    """A decay of these batches, each committed by itself; the job."""
    with database.session() as session:
        job_id = jobs.create(session, JobHead(name="x"))
        run = jobs.begin_run(session, job_id, "decay", "Ida")
        session.commit()
    for batch in batches:
        with database.session() as session:
            jobs.append_readings(session, job_id, run, batch)
            session.commit()
    return job_id


def loaded(database, job_id):
    with database.session() as session:
        return jobs.load(session, job_id).job.runs[0].readings


def packs(database):
    with database.session() as session:
        return list(session.scalars(select(PackRow.count)))


MIXED = [read(n, "gh"[n % 2], gauge_pa=-90_000.0, side="gas") for n in range(MANY)]


@pytest.mark.parametrize(
    ("batches", "kept"),
    [
        ([[read(n) for n in range(MANY - 1)]], []),
        ([[read(n) for n in range(MANY)]], [MANY]),
        ([[read(n) for n in range(MANY)], [read(MANY)]], [MANY]),  # that one is read beside it
        ([[read(n)] for n in range(2 * MANY)], [2 * MANY]),
        ([MIXED, [read(n, "late") for n in range(5)]], [MANY]),  # they stand among those packed
        ([[read(n) for n in range(5, MANY + 5)], [read(n) for n in range(5)]], [MANY]),
    ],
)
def test_what_is_packed_comes_back_as_its_rows(database, monkeypatch, batches, kept):
    job_id = put(database, batches)
    assert packs(database) == kept
    whole = loaded(database, job_id)
    monkeypatch.setattr(packed, "PACK_FROM", 10**9)
    assert whole == loaded(database, job_id)
    assert len(whole) == sum(len(b) for b in batches)


def test_a_pack_is_read_instead_of_its_rows(database, monkeypatch):
    job_id = put(database, [MIXED])
    monkeypatch.setattr(kept_readings, "plain_rows", lambda *_: pytest.fail("rows were read"))
    assert list(loaded(database, job_id)) == MIXED


@pytest.mark.parametrize("harm", [b"", b"PK\x03\x04 and no more", None])
def test_a_pack_that_is_damaged_or_lacks_some_is_as_if_there_were_none(database, harm):
    job_id = put(database, [MIXED])
    with database.session() as session:
        if harm is None:
            session.execute(update(PackRow).values(count=MANY - 1))
        else:
            session.execute(update(PackRow).values(content=harm))
        session.commit()
    assert list(loaded(database, job_id)) == MIXED


def test_what_is_flipped_in_a_pack_is_not_believed(database):
    job_id = put(database, [MIXED])
    with database.session() as session:
        whole = session.scalar(select(PackRow.content))
    for at in range(0, len(whole), max(1, len(whole) // 150)):
        content = bytearray(whole)
        content[at] ^= 0x55
        with database.session() as session:
            session.execute(update(PackRow).values(content=bytes(content)))
            session.commit()
        assert list(loaded(database, job_id)) == MIXED, at


def test_a_job_that_goes_takes_its_packs_along(database):
    job_id = put(database, [MIXED])
    with database.session() as session:
        jobs.remove(session, job_id)
        session.commit()
        assert not session.scalars(select(ReadingRow.seq)).all()
    assert packs(database) == []
