"""Jobs judged anew beside all else, where what they are judged by has changed."""

import threading
import time
from contextlib import suppress

from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from fairline.store import board
from fairline.store.document import NotFoundError


class Settling:
    """One thread that judges stale jobs one by one, and leaves half of the time to the pages."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions
        self._lock, self._stop = threading.Lock(), threading.Event()
        self._again = False
        self._thread: threading.Thread | None = None

    @property
    def busy(self) -> bool:
        return self._thread is not None

    def begin(self) -> None:
        """Judge what is stale now; where that is under way, once more after it."""
        with self._lock:
            self._again = True
            if self._thread is None and not self._stop.is_set():
                self._thread = threading.Thread(target=self._work, daemon=True, name="settling")
                self._thread.start()

    def left(self) -> int:
        """How many jobs are still to be judged; 0 where nobody is at it."""
        if not self.busy:
            return 0
        with self._sessions() as session:
            return len(board.stale(session))

    def close(self) -> None:
        self._stop.set()
        if (thread := self._thread) is not None:
            thread.join(timeout=10)

    def _work(self) -> None:
        while self._more():
            with suppress(DBAPIError), self._sessions() as session:
                self._settle_stale(session)

    def _settle_stale(self, session: Session) -> None:
        """One job after another, with as long a rest between them as each took."""
        for job_id in board.stale(session):
            began = time.monotonic()
            with suppress(NotFoundError):  # deleted meanwhile
                board.settle_beside(session, job_id)
            if self._stop.wait(time.monotonic() - began):
                return

    def _more(self) -> bool:
        with self._lock:
            more, self._again = self._again and not self._stop.is_set(), False
            if not more:
                self._thread = None
            return more
