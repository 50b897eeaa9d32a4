"""The time that acts are kept under: it goes on evenly, and never back.

The computer's own clock may be set while somebody works: back, and what is done next would come
before what was done; forward, and a hold would be an hour longer out of nothing. So this clock
begins at the computer's and then counts by itself. A step of the computer's clock by more than
``SMALL`` is seen and told, and not followed until the program is started again.
"""

import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from threading import Lock

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from fairline.store.models import ClockRow

SMALL = timedelta(seconds=5)  # a step that is followed: a clock that is kept right by a network


def _wall() -> datetime:
    return datetime.now(UTC)


def _steady() -> float:
    """Seconds that nobody sets; where the system has it, with those that it slept."""
    boot = getattr(time, "CLOCK_BOOTTIME", None)
    return time.monotonic() if boot is None else time.clock_gettime(boot)


class Clock:
    """Moments in order: ``wall`` is the computer's clock, ``steady`` counts seconds evenly.

    ``not_before``: the last moment that was kept here; where the computer's clock is behind it,
    moments go on from there.
    """

    def __init__(
        self,
        wall: Callable[[], datetime] = _wall,
        steady: Callable[[], float] = _steady,
        not_before: datetime | None = None,
    ) -> None:
        self._wall, self._steady = wall, steady
        self._lock = Lock()
        self._from, self._at_s = wall(), steady()
        self._seen: datetime | None = None
        if not_before is not None and self._from < not_before - SMALL:
            self._from = not_before
        self._last = self._from

    def now(self) -> datetime:
        """The moment, UTC; never before one that was given already."""
        with self._lock:
            at_s, wall = self._steady(), self._wall()
            counted = self._from + timedelta(seconds=at_s - self._at_s)
            if abs(wall - counted) <= SMALL:
                counted, self._seen = wall, None
                self._from, self._at_s = wall, at_s
            elif self._seen is None:
                self._seen = counted
            self._last = max(self._last, counted)
            return self._last

    def beginning(self, not_before: datetime) -> "Clock":
        """The same computer's, that goes on from a moment where the computer is behind it."""
        return Clock(self._wall, self._steady, not_before)

    def step(self) -> tuple[timedelta, datetime] | None:
        """By how much the computer's clock was set, later is more, and when that was seen."""
        now = self.now()
        with self._lock:
            return None if self._seen is None else (self._wall() - now, self._seen)


class _Ours:
    clock = Clock()


def now() -> datetime:
    """The moment that an act of now is kept under."""
    return _Ours.clock.now()


def step() -> tuple[timedelta, datetime] | None:
    return _Ours.clock.step()


def use(clock: Clock) -> None:
    """From here on moments come from this clock."""
    _Ours.clock = clock


def keep(session: Session) -> None:
    """Keep until when something was done here, for the next start."""
    session.execute(update(ClockRow).values(last=now()))


def begin(session: Session) -> None:
    """Begin where the last start ended, should the computer's clock be behind that."""
    last = session.scalar(select(ClockRow.last))
    if last is not None and now() < last - SMALL:
        use(_Ours.clock.beginning(last))


def follow_computer(session: Session) -> datetime | None:
    """Forget until when something was done here; returns what was forgotten."""
    last = session.scalar(select(ClockRow.last))
    session.execute(update(ClockRow).values(last=None))
    return last
