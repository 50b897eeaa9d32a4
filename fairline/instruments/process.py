"""An instrument at work on a job: it follows the newest run of its kinds, reads, and catches up.

The same stands behind a process of its own, which speaks over HTTP (``reporter``), and behind the
bench, which hands its readings to the store.
"""

import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Protocol

TICK_S = 0.2  # of the wall clock
LONGEST_S = 4 * 3600.0  # of simulated time: a run ends by itself


class ARun(Protocol):
    """A run as an instrument sees it."""

    @property
    def uid(self) -> str: ...
    @property
    def kind(self) -> str: ...
    @property
    def last_s(self) -> float | None: ...
    @property
    def last_pa(self) -> float | None: ...
    @property
    def next_seq(self) -> int: ...
    @property
    def ports(self) -> Sequence[str]: ...


class Line(Protocol):
    """How an instrument reaches a job. Each raises OSError where no answer comes."""

    def runs(self, instrument: str) -> Sequence[ARun]:
        """The runs of the job, in order."""

    def next_spot(self, instrument: str) -> int:
        """The first number that is free for what it shows outside a run."""

    def introduce(self, told: dict[str, Any]) -> None:
        """Say who it is."""

    def take(self, run: str, reading: dict[str, Any]) -> None:
        """Keep a reading until the job has it; of no run: what it shows at a moment."""

    def send(self) -> bool:
        """Send what waits; False where no answer came."""


class Instrument(Protocol):
    """What an instrument does in a while: the reading that fell due, without number and time."""

    what: str
    resolution: float
    kinds: tuple[str, ...]  # of runs that it reads into; none: it is read at a moment

    @property
    def every_s(self) -> float:
        """How long until the next reading."""

    def begin(self, kind: str, last_pa: float | None) -> None:
        """A run has begun; ``last_pa`` is what was read on it before."""

    def after(self, seconds: float, kind: str) -> dict[str, Any] | None:
        """What it shows after a while; None where it shows nothing."""


@dataclass
class Process:
    """An instrument at work on a job.

    ``speed``: seconds of the simulated system in one of the wall clock. ``ports``: of a system of
    several circuits, those it sits on; it follows the runs that these were open in.
    """

    line: Line
    instrument: Instrument
    name: str
    speed: float = 1.0
    longest_s: float = LONGEST_S
    simulated_s: float = 0.0
    ports: Sequence[str] = ()
    now: Callable[[], datetime] = lambda: datetime.now(UTC)

    def __post_init__(self) -> None:
        self._run, self._kind = "", ""
        self._seq: int | None = None
        self._due_s = self._at_s = 0.0
        self._known = False

    @property
    def over(self) -> bool:
        return self.simulated_s >= self.longest_s

    def work(self, stop: threading.Event) -> None:
        """Until it is stopped, or the longest time is over and the job has all that was read."""
        last = time.monotonic()
        while not stop.is_set() and not self.over:
            now = time.monotonic()
            self.tick(now - last)
            last = now
            stop.wait(TICK_S)
        while not self.line.send() and not stop.wait(TICK_S):
            pass

    def tick(self, seconds: float) -> None:
        """Let a while of the wall clock pass. Without an answer the instrument reads on."""
        if not self._follow():
            return
        self._due_s += seconds * self.speed
        while self._due_s >= (every := self.instrument.every_s) and not self.over:
            self._due_s -= every
            self._at_s += every
            self.simulated_s += every
            self._read(every)
        self.line.send()

    def _read(self, every: float) -> None:
        seen = self.instrument.after(every, self._kind)
        number, self._seq = self._seq or 0, (self._seq or 0) + 1
        if seen is None:
            return  # it dropped out; the number that is missing says so
        about = {"instrument": self.name, "seq": number, "simulated": True}
        if self._run:
            about["t_s"] = self._at_s
        else:
            about |= {"what": self.instrument.what, "at": self.now().isoformat()}
        self.line.take(self._run, about | seen)

    def _follow(self) -> bool:
        """Whether there is something to read into: the newest run of its kinds, or the job itself.

        Without an answer it stays with what it knows.
        """
        try:
            self._introduce()
            if not self.instrument.kinds:
                if self._seq is None:
                    self._seq = self.line.next_spot(self.name)
                return True
            runs = self.line.runs(self.name)
        except OSError:
            return bool(self._run) or (not self.instrument.kinds and self._seq is not None)
        mine = [run for run in runs if run.kind in self.instrument.kinds and self._here(run)]
        if mine and mine[-1].uid != self._run:
            self._begin(mine)
        return bool(self._run)

    def _here(self, run: ARun) -> bool:
        return not self.ports or bool(set(self.ports) & set(run.ports))

    def _begin(self, mine: Sequence[ARun]) -> None:
        newest = mine[-1]
        read = [run.last_pa for run in mine if run.last_pa is not None]
        self._run, self._kind = newest.uid, newest.kind
        # One that is put on again goes on where its numbers and the run's time ended.
        self._seq, self._due_s = newest.next_seq, 0.0
        self._at_s = newest.last_s or 0.0
        self.instrument.begin(newest.kind, read[-1] if read else None)

    def _introduce(self) -> None:
        if not self._known:
            told = {"name": self.name, "what": self.instrument.what}
            self.line.introduce(told | {"resolution": self.instrument.resolution})
            self._known = True
