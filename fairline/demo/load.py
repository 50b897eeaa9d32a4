"""Loads the demo company into an empty database."""

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
            # Only here: at a second start nothing of it is made.
            from fairline.demo.sheets import SHELF
            from fairline.demo.systems import VAN, demo_jobs

            house.set_company(session, house.Company(name="Ninefold Ductless", phone="555 0142"))
            house.set_van(session, VAN)
            shelf.take_in(session, SHELF, by="Ida Marsh")
            for job in demo_jobs():
                board.settle(session, jobs.import_job(session, job))
            session.commit()
            return True
    finally:
        database.close()
