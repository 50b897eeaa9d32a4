"""What a program of before left, as it is found: ids, outlets, practice, parts."""

import json
from datetime import UTC, datetime, timedelta

from sqlalchemy import MetaData, insert, update

from fairline.core import line
from fairline.core.counted import counted_job
from fairline.core.flare.records import JointRecord
from fairline.core.job import JobHead
from fairline.core.line import judge
from fairline.core.practice import Practice
from fairline.core.strike import Strike
from fairline.demo.systems import gallery
from fairline.store import entries, jobs, subjects
from fairline.store.database import Database, migrate, open_database
from fairline.store.edits import Editing
from fairline.store.models import EditRow, EntryRow, JobRow, RecordRow
from tests.job_site import Site

NAMED = ("uid", "subject", "practice", "sides", "did")


def before_0012(path, job):
    """A database as revision 0011 left it, with a job in it; its number."""
    old = Database(f"sqlite:///{path}")
    migrate(old.engine, "0011")
    tables = MetaData()
    tables.reflect(old.engine)
    whole = json.loads(job.model_dump_json(exclude_defaults=True))
    at = datetime(2026, 7, 1)
    with old.engine.begin() as connection:
        connection.execute(
            insert(tables.tables["job"]).values(
                id=1,
                uid=job.uid,
                head=whole["head"],
                equipment=whole["equipment"],
                created_at=at,
                revision=1,
            )
        )
        for stage in ("survey", "mount", "route", "evacuate"):
            values = {"job_id": 1, "stage": stage, "document": whole[stage]}
            told = {"version": 1, "editor": "", "turn": 0, "by": "", "at": at}
            connection.execute(insert(tables.tables["entry"]).values(**values, **told))
        for record in job.records:
            document = record.model_dump(mode="json", exclude=set(NAMED))
            row = {"job_id": 1, "kind": record.kind, "document": document}
            connection.execute(insert(tables.tables["record"]).values(**row))
    old.close()


def test_an_old_database_is_kept_as_it_is_found(tmp_path):
    site = Site(gallery(), tokens=False)
    site.make()
    runs = {e: r.model_copy(update={"outlet": ""}) for e, r in site.job.route.runs.items()}
    turned = {e: runs[e] for e in ("C", "A", "B")}  # by the order they stood in C had port A
    route = site.job.route.model_copy(update={"runs": turned, "ports": {}})
    twin = site.job.joints[0]
    job = site.job.model_copy(
        update={"route": route, "records": (*site.job.records, twin), "runs": ()}
    )
    path = tmp_path / "old.db"
    before_0012(path, job)
    database = open_database(f"sqlite:///{path}")
    with database.session() as session:
        kept = jobs.load(session, 1).job
        assert {e: r.outlet for e, r in kept.route.runs.items()} == {"C": "A", "A": "B", "B": "C"}
        assert len({r.uid for r in kept.records}) == len(kept.records)
        assert kept.practices == {"": Practice()} and not kept.subjects
        before = judge(kept, Practice())
        entry = kept.route.model_copy(update={"notes": "seen"})
        entries.save_over(session, 1, "route", entry, Editing())
        session.commit()
        after = jobs.load(session, 1).job
    assert [s.found for s in after.subjects.values()] == [True]
    assert all(len(joint.sides) == 2 for joint in after.joints)
    assert {n: c.call for n, c in judge(after, Practice()).items()} == {
        n: c.call for n, c in before.items()
    }
    strike = Strike(of="joint", of_at=twin.at, reason="twice", by="I", at=twin.at)
    out = after.model_copy(update={"records": (*after.records, strike)})
    one = strike.model_copy(update={"of_uid": after.joints[0].uid})
    single = after.model_copy(update={"records": (*after.records, one)})
    made = len(after.joints)
    assert (
        len(counted_job(out).joints) == made - 2
    )  # of before: by its moment, as it was meant then
    assert len(counted_job(single).joints) == made - 1
    with database.session() as session:  # what was given before a migration counts as given
        assert jobs.create(session, JobHead(name="next")) == 2
    database.close()


def joint(at):
    return JointRecord(place="A.gas.end", look="good", applied_nm=37.0, by="Ida", at=at)


def test_records_and_runs_name_the_parts_of_their_day(database):
    with database.session() as session:
        job = gallery().model_copy(update={"records": (), "runs": ()})
        job_id = jobs.import_job(session, job)
        row = session.get(JobRow, job_id)
        assert row.subject == ""  # nothing was done yet: nobody asks what it was
        day = datetime.now(UTC)
        jobs.append_record(session, job_id, joint(day))
        first = row.subject
        parts = line.parts_of(jobs.load(session, job_id).job, Practice())
        assert not subjects.keep(session, job_id, parts, day)  # the same: kept once
        wider = parts | {"tube:A": ("tubeA", "6.35x12.7", "", "outdoor.A", "")}
        later = day + timedelta(hours=1)
        assert subjects.keep(session, job_id, wider, later, "Ida", "the tube of run A")
        jobs.append_record(session, job_id, joint(later + timedelta(minutes=1)))
        jobs.append_record(session, job_id, joint(day - timedelta(hours=2)))  # recorded late
        run = jobs.begin_run(session, job_id, "hold", "Ida", day, late=True)
        now = jobs.begin_run(session, job_id, "hold", "Ida")
        loaded = jobs.load(session, job_id).job
        assert [r.subject for r in loaded.joints] == [first, row.subject, first]
        by_uid = {r.uid: r.subject for r in loaded.runs}
        assert by_uid[run] == first and by_uid[now] == row.subject
        assert set(loaded.subjects) == {first, row.subject} and len(loaded.since) == 2
        assert loaded.since[-1].by == "Ida" and loaded.since[-1].what == "the tube of run A"
        assert {r.practice for r in loaded.joints} == {loaded.runs[0].practice}
        stored = jobs.load(session, job_id)
        again = jobs.load(session, job_id, stored)
        assert again.job.subjects == stored.job.subjects


def test_an_old_job_that_was_edited_after_a_proof_is_what_it_was_then(database):
    with database.session() as session:
        job = Site(gallery(), tokens=False).finish(released=False).job
        plain = {"subject": "", "practice": ""}
        blank = job.model_copy(
            update={
                "records": tuple(r.model_copy(update=plain | {}) for r in job.records),
                "runs": tuple(r.model_copy(update=plain) for r in job.runs),
                "survey": type(job.survey)(),
                "route": type(job.route)(),
                "since": (),
                "subjects": {},
            }
        )
        head = blank.model_copy(update={"records": (), "runs": ()})
        job_id = jobs.import_job(session, head)
        for stage in ("survey", "route"):
            entries.save_over(session, job_id, stage, getattr(job, stage), Editing())
        row = session.get(JobRow, job_id)
        for record in blank.records:  # as a program of before kept them
            document = record.model_dump(mode="json", exclude=set(NAMED) - {"uid"})
            session.add(RecordRow(job_id=job_id, kind=record.kind, document=document))
        session.execute(update(EditRow).values(at=job.created_at))
        runs = job.route.runs | {"C": job.route.run("C").model_copy(update={"outlet": "D"})}
        moved = job.route.model_copy(update={"runs": runs})
        version = session.get(EntryRow, (job_id, "route")).version
        row.subject = "not asked"  # a program of before keeps nothing here
        entries.save_entry(session, job_id, "route", moved, Editing(version=version, editor="h.p"))
        row.subject = ""
        session.flush()
        subjects.keep_first(session, row)
        kept = jobs.load(session, job_id).job
    before, now = kept.since[-2:]
    assert before.at == job.created_at < now.at and before.subject != now.subject
    assert not any(s.found for s in kept.subjects.values())
    made = next(r for r in kept.joints if r.place == "C.gas.start")
    assert made.sides[0].endswith(".C")  # not the port that it is on now
    stages = judge(kept, Practice())
    assert stages["flare"].call.verdict == "wait"
    assert "drawn wrong" in stages["flare"].call.do_next
