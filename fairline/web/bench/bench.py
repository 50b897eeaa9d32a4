"""The bench: simulated instruments, each on a job, that read as a real one would.

They are the same as run as processes of their own (``instruments/process``); here a thread works
each, and its readings go to the store.
"""

import threading
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from fairline.core.errors import FairLineError
from fairline.core.instrument import WHAT, Introduction, SpotReading, What
from fairline.core.readings import MODEL_BY_KIND
from fairline.core.route.circuits import Open
from fairline.instruments.process import Instrument, Process
from fairline.store import clock, jobs
from fairline.store.dialect import writing
from fairline.store.document import NotFoundError
from fairline.store.instruments import (
    OtherKindError,
    RunLine,
    introduce,
    keep_spots,
    next_spot,
    run_lines,
)
from fairline.store.kept_readings import TakenError
from fairline.store.trouble import trouble

SPEEDS: dict[What, tuple[int, ...]] = {
    "micron": (1, 10, 60),
    "manometer": (60, 600, 3600),
    "scale": (1, 10),
    "thermometer": (1, 10, 60),
    "wrench": (1,),
}
# The job takes nothing from it any more.
GONE = (NotFoundError, jobs.OtherJobError, jobs.HandedOverError, TakenError, OtherKindError)


class OffTheJobError(FairLineError):
    """The job does not take its readings any more: it is gone, or handed over."""


@dataclass
class InHouse:
    """The way of an instrument to a job of this server: straight to the store."""

    sessions: sessionmaker[Session]
    job_id: int
    uid: str  # of the job
    told: Callable[[], None] = lambda: None  # that something was kept
    waiting: deque[tuple[str, dict[str, Any]]] = field(default_factory=deque)

    def runs(self, instrument: str) -> Sequence[RunLine]:
        with self.sessions() as session:
            found: list[RunLine] = self._or_off(lambda: run_lines(session, self.job_id, instrument))
        return found

    def next_spot(self, instrument: str) -> int:
        with self.sessions() as session:
            return next_spot(session, self.job_id, instrument)

    def introduce(self, told: dict[str, Any]) -> None:
        said = Introduction.model_validate(told | {"simulated": True})
        if not self._write(lambda session: introduce(session, self.job_id, said)):
            raise OSError("the store cannot be written")

    def take(self, run: str, reading: dict[str, Any]) -> None:
        self.waiting.append((run, reading))

    def send(self) -> bool:
        if not self.waiting:
            return True
        together = list(self.waiting)

        def keep(session: Session) -> None:
            for run in dict.fromkeys(run for run, _ in together):
                read = [reading for of, reading in together if of == run]
                if not run:
                    spots = [SpotReading.model_validate(r) for r in read]
                    keep_spots(session, self.job_id, spots)
                    continue
                model = MODEL_BY_KIND[jobs.run_kind(session, self.job_id, run)]
                found: Any = [model.model_validate(r) for r in read]
                jobs.append_readings(session, self.job_id, run, found)

        if not self._write(keep):
            return False  # the disk is full, say: the same readings again
        for _ in together:
            self.waiting.popleft()
        return True

    def _write(self, change: Any) -> bool:
        try:
            with self.sessions() as session, writing(session):
                self._or_off(lambda: jobs.check_uid(session, self.job_id, self.uid))
                self._or_off(lambda: change(session))
                clock.keep(session)
                session.commit()
            self.told()
        except DBAPIError as error:
            if trouble(error) is None:
                raise OffTheJobError(str(error)) from error
            return False
        return True

    def _or_off(self, ask: Any) -> Any:
        try:
            return ask()
        except GONE as error:
            raise OffTheJobError(str(error)) from error


@dataclass
class Placed:
    """An instrument at work on a job; ``scenario`` is what the system behind it has."""

    process: Process
    scenario: str
    stop: threading.Event = field(default_factory=threading.Event)
    thread: threading.Thread = field(init=False)

    def __post_init__(self) -> None:
        self.thread = threading.Thread(target=self._work, daemon=True, name=self.process.name)

    @property
    def speed(self) -> int:
        return int(self.process.speed)

    def _work(self) -> None:
        try:
            self.process.work(self.stop)
        except OffTheJobError:
            return

    def off(self) -> None:
        self.stop.set()
        self.thread.join(timeout=5)


class Bench:
    """All simulated instruments of one server."""

    def __init__(
        self, sessions: sessionmaker[Session], told: Callable[[], None] = lambda: None
    ) -> None:
        self.sessions, self.told = sessions, told
        self._placed: dict[tuple[int, What, Open], Placed] = {}
        self._lock = threading.Lock()

    def put(
        self, job_id: int, instrument: Instrument, scenario: str, speed: float, ports: Open = ()
    ) -> None:
        """Put an instrument on a job, or on some of its ports; one of its kind there comes off."""
        what: Any = instrument.what
        self.off(job_id, what, ports)
        name = " ".join(("simulated", WHAT[what], *ports))
        with self.sessions() as session:
            way = InHouse(self.sessions, job_id, jobs.job_row(session, job_id).uid, self.told)
        process = Process(way, instrument, name, speed, ports=ports, now=clock.now)
        placed = Placed(process, scenario)
        with self._lock:
            self._placed[job_id, what, ports] = placed
        placed.thread.start()

    def off(self, job_id: int, what: What, ports: Open = ()) -> None:
        with self._lock:
            placed = self._placed.pop((job_id, what, ports), None)
        if placed:
            placed.off()

    def on(self, job_id: int, what: What, ports: Open = ()) -> Placed | None:
        """What of this kind is on a job, or on these ports, and at work."""
        with self._lock:
            placed = self._placed.get((job_id, what, ports if what == "micron" else ()))
        return placed if placed and placed.thread.is_alive() else None

    def close(self) -> None:
        for job_id, what, ports in list(self._placed):
            self.off(job_id, what, ports)
