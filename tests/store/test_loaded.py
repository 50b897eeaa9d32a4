"""A job read again after a change is the job read whole, and is judged as that is."""

import random
from datetime import timedelta

import pytest

from fairline.core.line import work
from fairline.core.practice import Practice
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.readings import HoldReading, VacuumReading
from fairline.core.strike import Strike
from fairline.demo.systems import demo_jobs
from fairline.store import entries, jobs
from fairline.store.clock import now
from fairline.store.edits import Editing

KINDS = ("hold", "pull", "decay")


def changed(session, job_id, chance, n):
    """One change as a person or an instrument makes it, of any kind."""
    job = jobs.load(session, job_id).job
    what = chance.choice(
        ("reading", "reading", "earlier", "run", "entry", "head", "look", "strike")
    )
    if what in ("reading", "earlier") and job.runs:
        run = chance.choice(job.runs)
        last = run.readings.t_s[-1] if run.readings else 0.0
        at = last + 60.0 if what == "reading" else last / 2
        common = {"instrument": chance.choice("gh"), "seq": 10_000 + n, "t_s": float(at)}
        read = (
            HoldReading(**common, gauge_pa=2.1e6, pipe_c=20.0)
            if run.kind == "hold"
            else VacuumReading(**common, pa=30.0)
        )
        jobs.append_readings(session, job_id, run.uid, [read])
    elif what == "run":
        jobs.begin_run(session, job_id, chance.choice(KINDS), "Ida")
    elif what == "entry":
        stage = chance.choice(("survey", "route", "charge"))
        entry = getattr(job, stage).model_copy(update={"notes": f"note {n}"})
        entries.save_over(session, job_id, stage, entry, Editing(editor="e", by="Ida"))
    elif what == "head":
        jobs.set_head(session, job_id, job.head.model_copy(update={"site": f"site {n}"}))
    elif what == "look":
        jobs.append_record(
            session,
            job_id,
            LeakCheck(joint="A.gas.end", found="clean", by="I", watched_s=150.0, at=now()),
        )
    elif job.leak_checks:
        last = job.leak_checks[-1]
        jobs.append_record(
            session,
            job_id,
            Strike(
                of="leak-check", of_at=last.at, reason="r", by="I", at=now() + timedelta(seconds=n)
            ),
        )
    session.commit()


@pytest.mark.parametrize("seed", range(6))
def test_read_and_judged_again_is_read_and_judged_whole(database, seed):
    chance = random.Random(seed)
    with database.session() as session:
        job_id = jobs.import_job(session, demo_jobs()[seed])
        session.commit()
        known = jobs.load(session, job_id)
        worked = work(known.job, Practice())
        for n in range(15):
            changed(session, job_id, chance, n)
            known = jobs.load(session, job_id, known)
            worked = work(known.job, Practice(), worked)
            assert known.job == jobs.load(session, job_id).job
            assert worked.calls == work(known.job, Practice()).calls
