"""What a page sends again, because no answer came back, is kept once."""

from datetime import timedelta

from sqlalchemy import delete
from sqlalchemy.orm import Session

from fairline.core.errors import FairLineError
from fairline.store.clock import now
from fairline.store.models import SentRow

REMEMBERED = timedelta(days=60)  # longer than a page waits for a signal


class AlreadySentError(FairLineError):
    """The same act came in before: it is kept already."""


def keep_token(session: Session, token: str) -> None:
    """Remember an act by its token, in the change that keeps it.

    Raises AlreadySentError where the token is known. A change that is not kept forgets it.
    """
    if session.get(SentRow, token) is not None:
        raise AlreadySentError("this was kept already")
    session.execute(delete(SentRow).where(SentRow.at < now() - REMEMBERED))
    session.add(SentRow(token=token, at=now()))
