"""Loads the demo company into an empty database."""

from sqlalchemy.orm import Session

from fairline.core import line
from fairline.core.flare.records import JointRecord
from fairline.core.job import Job
from fairline.core.parts import Subject, SubjectSince, digest, is_entered
from fairline.core.practice import Practice
from fairline.settings import Settings
from fairline.store import board, house, jobs, shelf
from fairline.store.database import open_database


def load_demo(settings: Settings) -> bool:
    """Put the demo's sheets and jobs in; False where there are jobs already."""
    database = open_database(settings.database_url)
    try:
        with database.session() as session:
            if jobs.ids(session):
                return False
            from fairline.demo.systems import VAN

            house.set_company(session, house.Company(name="Ninefold Ductless", phone="555 0142"))
            house.set_van(session, VAN)
            put_in(session, with_jobs=True)
            session.commit()
            return True
    finally:
        database.close()


def put_in(session: Session, with_jobs: bool) -> None:
    """The invented sheets, and where asked the invented jobs at Kestrel Yard."""
    # Only here: at a second start nothing of it is made.
    from fairline.demo.sheets import SHELF

    shelf.take_in(session, SHELF, by="Ida Marsh, invented")
    if with_jobs:
        from fairline.demo.systems import demo_jobs

        for job in demo_jobs():
            board.settle(session, jobs.import_job(session, named(job)))


def named(job: Job) -> Job:
    """A job whose records and runs name the parts that they are of, as pages keep them."""
    routed, flared = line.up_to_flare(job, Practice())
    parts = {name: mark for name, mark in flared.proofs.now.items() if is_entered(name)}
    subject, sides = digest(parts), {j.id: j.sides for j in routed.joints}
    records = [record.model_copy(update={"subject": subject}) for record in job.records]
    records = [
        r.model_copy(update={"sides": sides[r.place]}) if isinstance(r, JointRecord) else r
        for r in records
    ]
    return job.model_copy(
        update={
            "records": tuple(records),
            "runs": tuple(run.model_copy(update={"subject": subject}) for run in job.runs),
            "subjects": {subject: Subject(parts=parts)},
            "since": (SubjectSince(at=job.created_at, subject=subject),),
            "practices": {"": Practice()},
        }
    )
