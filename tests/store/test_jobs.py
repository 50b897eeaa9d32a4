"""Jobs kept whole: round trips, readings stored once, conflicts, migrations."""

from datetime import UTC, datetime
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text

from fairline.core.job import Job, JobHead
from fairline.core.mount.stage import MountEntry
from fairline.core.readings import HoldReading, VacuumReading, VacuumReadings
from fairline.demo.systems import demo_jobs
from fairline.store import database as store_database
from fairline.store import entries, jobs
from fairline.store.edits import Editing
from fairline.store.kept_readings import TakenError
from fairline.store.models import Base
from fairline.store.revisions import HEAD
from tests.databases import SERVER


def plain(job):
    """A job without what is kept of a file of before as it is found: parts, sides, outlets."""
    found = job.model_dump(mode="json", exclude={"uid", "subjects", "since", "practices"})
    for record in found["records"]:
        record.pop("sides", None)
    for run in found["route"]["runs"].values():
        run.pop("outlet")
    return found


@pytest.mark.parametrize("job", demo_jobs(), ids=lambda j: j.head.name)
def test_a_job_comes_back_whole(database, job):
    with database.session() as session:
        job = Job.model_validate_json(job.model_dump_json())
        job_id = jobs.import_job(session, job)
        session.commit()
        kept = jobs.load(session, job_id).job
        again = jobs.load(session, jobs.import_job(session, kept, as_copy=True)).job
    assert plain(kept) == plain(job)
    assert again.model_dump_json(exclude={"uid"}) == kept.model_dump_json(exclude={"uid"})


def test_importing_twice_is_told_and_a_copy_gets_its_own_name(database):
    job = Job.model_validate_json(demo_jobs()[0].model_dump_json())
    with database.session() as session:
        first = jobs.import_job(session, job)
        with pytest.raises(jobs.ExistsError) as held:
            jobs.import_job(session, job)
        assert held.value.job_id == first
        copy = jobs.load(session, jobs.import_job(session, job, as_copy=True)).job
    assert copy.uid != job.uid
    assert plain(copy) == plain(job)


def begun(session):
    job_id = jobs.create(session, JobHead(name="x"))
    return job_id, jobs.begin_run(session, job_id, "decay", "Ida")


@pytest.mark.parametrize(
    ("first", "then", "open_"),
    [
        ("pull", "decay", False),  # the valve is shut: the pull is over
        ("decay", "pull", False),
        ("hold", "hold", False),
        ("hold", "pull", True),  # nitrogen and vacuum are two logs
        ("pull", "hold", True),
    ],
)
def test_a_run_ends_the_one_before_it_of_its_own_stage(database, first, then, open_):
    with database.session() as session:
        job_id = jobs.create(session, JobHead(name="x"))
        uid = jobs.begin_run(session, job_id, first, "Ida")
        jobs.begin_run(session, job_id, then, "Ida")
        runs = {run.uid: run for run in jobs.load(session, job_id).job.runs}
    assert (runs[uid].ended_at is None) is open_


@pytest.mark.parametrize(("began_h", "goes_on"), [(8, False), (10, True), (9, True)])
def test_a_log_brought_in_late_goes_on_only_where_none_is_newer(database, began_h, goes_on):
    with database.session() as session:
        job_id = jobs.create(session, JobHead(name="x"))
        day = datetime(2026, 11, 2, tzinfo=UTC)
        first = jobs.begin_run(session, job_id, "hold", "Ida", day.replace(hour=9))
        late = jobs.begin_run(session, job_id, "hold", "", day.replace(hour=began_h), late=True)
        runs = {run.uid: run for run in jobs.load(session, job_id).job.runs}
    assert (runs[late].ended_at is None) is goes_on
    assert (runs[first].ended_at is None) is not goes_on


def test_a_reading_posted_twice_is_stored_once(database):
    with database.session() as session:
        job_id, run = begun(session)
        batch = [VacuumReading(instrument="g", seq=i, t_s=i, pa=30.0 + i) for i in range(5)]
        assert jobs.append_readings(session, job_id, run, batch) == 5
        assert jobs.append_readings(session, job_id, run, batch[2:]) == 0
        for other in (
            {"t_s": 99.0, "pa": 34.0},
            {"t_s": 4.0, "pa": 34.1},
            {"t_s": 4.0, "pa": 34.0, "simulated": True},
        ):
            changed = VacuumReading(instrument="g", seq=4, **other)
            with pytest.raises(TakenError, match="number 4 of g"):
                jobs.append_readings(session, job_id, run, [changed])
        assert (
            jobs.append_readings(
                session,
                job_id,
                run,
                [VacuumReading(instrument="g", seq=5, t_s=5.0, pa=36.0), batch[0]],
            )
            == 1
        )
        readings = jobs.load(session, job_id).job.runs[0].readings
    assert [r.pa for r in readings] == [30, 31, 32, 33, 34, 36]


def test_a_reading_of_another_kind_is_refused_and_nothing_is_kept(database):
    with database.session() as session:
        job_id, run = begun(session)
        good = VacuumReading(instrument="g", seq=0, t_s=0.0, pa=30.0)
        wrong = HoldReading(instrument="g", seq=1, t_s=1.0, gauge_pa=2e6, pipe_c=20.0)
        with pytest.raises(ValueError, match=r"readings\.1"):
            jobs.append_readings(session, job_id, run, [good, wrong])
        assert jobs.load(session, job_id).job.runs[0].readings == VacuumReadings({}, 0)


def test_two_editors_of_one_stage_do_not_overwrite_each_other(database):
    def save(entry, version, editor, by, turn=0):
        edit = Editing(version=version, editor=editor, by=by, turn=turn)
        return entries.save_entry(session, job_id, "mount", entry, edit)

    with database.session() as session:
        job_id = jobs.create(session, JobHead(name="x"))
        assert save(MountEntry(notes="0.3"), 0, "a", "Ida", 1) == 1
        assert save(MountEntry(notes="0.4"), 0, "a", "Ida", 3) == 2
        assert save(MountEntry(notes="0.35"), 0, "a", "Ida", 2) == 2  # overtaken on its way
        with pytest.raises(entries.ConflictError, match="Ida"):
            save(MountEntry(notes="0.9"), 1, "b", "Tomas")
        assert jobs.load(session, job_id).job.mount.notes == "0.4"
        assert save(MountEntry(notes="0.9"), 2, "b", "Tomas") == 3


def test_a_jobs_number_is_never_given_twice(database):
    with database.session() as session:
        first = jobs.create(session, JobHead(name="x"))
        jobs.remove(session, first)
        session.commit()
    with database.session() as session:
        second = jobs.create(session, JobHead(name="y"))
        third = jobs.import_job(session, demo_jobs()[0])
        assert first < second < third


def test_the_migrations_make_the_tables_the_models_name(database):
    scripts = Path(store_database.__file__).parent / "migrations" / "versions"
    assert max(p.name[:4] for p in scripts.glob("0*.py")) == HEAD
    assert store_database.revision(database.engine) == HEAD
    with database.engine.connect() as connection:
        # Moments are kept by a type of our own over the same column type.
        # The index of words is each database's own; of one that goes down SQLite tells nothing.
        own = ("job_search", "job_board") if connection.dialect.name == "sqlite" else "job_search"
        opts = {
            "compare_type": False,
            "include_name": lambda name, *_: not str(name).startswith(own),
        }
        context = MigrationContext.configure(connection, opts=opts)
        assert compare_metadata(context, Base.metadata) == []


@pytest.mark.skipif(bool(SERVER), reason="of SQLite")
def test_a_page_of_the_board_is_read_from_its_index_alone(database):
    with database.engine.connect() as connection:
        page = "SELECT id FROM job WHERE put_away = 0 ORDER BY urgency, id DESC LIMIT 15"
        plan = [row[-1] for row in connection.execute(text(f"EXPLAIN QUERY PLAN {page}"))]
        assert plan == ["SEARCH job USING COVERING INDEX job_board (put_away=?)"]
        assert connection.execute(text("PRAGMA journal_mode")).scalar() == "wal"
        assert connection.execute(text("PRAGMA foreign_keys")).scalar() == 1
