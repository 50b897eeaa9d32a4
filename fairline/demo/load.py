"""Loads the demo company into an empty database."""

from sqlalchemy.orm import Session

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
            board.settle(session, jobs.import_job(session, job))
