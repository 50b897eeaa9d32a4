"""Bids kept beside jobs, and the company's prices: in no job file."""

from sqlalchemy.orm import Session

from fairline.core.plan.bid import Bid
from fairline.store.document import dump
from fairline.store.models import BidRow


def of_job(session: Session, job_id: int) -> tuple[Bid, int]:
    """What a job is offered for, and how often that was changed; 0 while nothing is."""
    row = session.get(BidRow, job_id)
    return (Bid.model_validate(row.document), row.version) if row else (Bid(), 0)


def keep(session: Session, job_id: int, bid: Bid) -> None:
    row = session.get(BidRow, job_id)
    if row is None:
        session.add(BidRow(job_id=job_id, document=dump(bid), version=1))
    else:
        row.document, row.version = dump(bid), row.version + 1
    session.flush()
