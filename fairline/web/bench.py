"""The bench: simulated gauges, each on a job, writing readings as a real one would."""

import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass, field

from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from fairline.core.physics.vacuum_flow import Rig
from fairline.core.readings import AnyReading, HoldReading, VacuumReading
from fairline.instruments import nitrogen
from fairline.instruments.vacuum import MicronGauge, Scenario, system
from fairline.store import jobs
from fairline.store.document import NotFoundError
from fairline.store.sqlite import begin_write
from fairline.store.trouble import trouble

MOST_READINGS = 14_400  # four hours of one run
READING_EVERY_S = 1.0  # of the simulated time
RETRY_EVERY_S = 1.0  # of the wall clock, while the database cannot be written
WRITE_EVERY_S = 0.2  # of the wall clock: how often readings reach the job
SPEEDS = (1, 10, 60)
INSTRUMENT = "simulated micron gauge"
NITROGEN_INSTRUMENT = "simulated digital gauge"
NITROGEN_EVERY_S = 60.0  # of the simulated time
NITROGEN_SPEEDS = (60, 600, 3600)


@dataclass
class GaugeOnJob:
    """One gauge at work: it follows the job's newest pull or decay and reads into it."""

    sessions: sessionmaker[Session]
    job_id: int
    scenario: Scenario
    speed: int
    ambient_c: float
    volume_m3: float | None = None
    rig: Rig | None = None
    stop: threading.Event = field(default_factory=threading.Event)
    follow: threading.Event = field(default_factory=threading.Event)
    run_uid: str = ""
    kind: str = ""
    seq: int = 0
    due_s: float = 0.0  # simulated time that has passed since the last reading

    def __post_init__(self) -> None:
        self.vacuum = system(self.scenario, self.ambient_c, self.volume_m3, self.rig)
        self.gauge = MicronGauge(self.vacuum, seed=self.job_id)

    def run(self) -> None:
        self._follow_newest()
        last = time.monotonic()
        while not self.stop.is_set():
            if self.follow.is_set():
                self.follow.clear()
                self._follow_newest()
            now = time.monotonic()
            readings = self._advance((now - last) * self.speed)
            last = now
            if readings and not self._write(self.run_uid, readings):
                return
            if self.seq >= MOST_READINGS:
                return  # a simulated run ends by itself
            self.stop.wait(WRITE_EVERY_S)

    def _follow_newest(self) -> None:
        """Read into the job's newest run from now on; a decay begins with the valve closing."""
        newest = self._newest()
        if newest is None or newest[0] == self.run_uid:
            return
        uid, kind, last_pa = newest
        if kind == "decay" and self.kind == "pull":
            self.vacuum.isolate()
        elif not self.kind and last_pa is not None:
            # The gauge goes on a system that is under vacuum already.
            self.vacuum.air_pa, self.vacuum.vapour_pa = last_pa, 0.0
        # A gauge that is put on again goes on where its numbers ended.
        with self.sessions() as session:
            number = jobs.next_seq(session, self.job_id, uid, INSTRUMENT)
        self.run_uid, self.kind, self.seq, self.due_s = uid, kind, number, 0.0

    def _advance(self, seconds: float) -> list[VacuumReading]:
        """Let simulated time pass; the readings that fell due in it."""
        if not self.run_uid:
            return []
        self.due_s += seconds
        readings = []
        while self.due_s >= READING_EVERY_S:
            self.due_s -= READING_EVERY_S
            self.vacuum.advance(READING_EVERY_S, pumping=self.kind == "pull")
            at_s = (self.seq + 1) * READING_EVERY_S
            readings.append(
                VacuumReading(
                    instrument=INSTRUMENT,
                    seq=self.seq,
                    pa=self.gauge.read_pa(),
                    t_s=at_s,
                    simulated=True,
                )
            )
            self.seq += 1
        return readings

    def _newest(self) -> tuple[str, str, float | None] | None:
        """Newest run's uid and kind, and the last pressure read on the job."""
        with self.sessions() as session:
            job = jobs.load(session, self.job_id).job
        vacuum = job.vacua
        if not vacuum:
            return None
        read = [r.last.pa for r in vacuum if r.last]
        return vacuum[-1].uid, vacuum[-1].kind, read[-1] if read else None

    def _write(self, run_uid: str, readings: Sequence[AnyReading]) -> bool:
        return append(self.sessions, self.job_id, run_uid, readings, self.stop)


@dataclass
class NitrogenOnJob:
    """A digital gauge and a pipe probe on a job's open hold."""

    sessions: sessionmaker[Session]
    job_id: int
    run_uid: str
    scenario: nitrogen.Scenario
    speed: int
    gauge_pa: float
    volume_m3: float
    stop: threading.Event = field(default_factory=threading.Event)

    def run(self) -> None:
        plant = nitrogen.system(self.scenario, self.gauge_pa, self.volume_m3)
        gauge = nitrogen.DigitalGauge(plant, seed=self.job_id)
        seq, due, last = 0, NITROGEN_EVERY_S, time.monotonic()
        while not self.stop.is_set():
            now = time.monotonic()
            due += (now - last) * self.speed
            last, readings = now, []
            while due >= NITROGEN_EVERY_S:
                due -= NITROGEN_EVERY_S
                pressure, pipe = gauge.read()
                readings.append(
                    HoldReading(
                        instrument=NITROGEN_INSTRUMENT,
                        seq=seq,
                        t_s=seq * NITROGEN_EVERY_S,
                        gauge_pa=pressure,
                        pipe_c=pipe,
                        simulated=True,
                    )
                )
                plant.advance(NITROGEN_EVERY_S)
                seq += 1
            if readings and not append(
                self.sessions, self.job_id, self.run_uid, readings, self.stop
            ):
                return
            self.stop.wait(WRITE_EVERY_S)


def append(
    sessions: sessionmaker[Session],
    job_id: int,
    run_uid: str,
    readings: Sequence[AnyReading],
    stop: threading.Event,
) -> bool:
    """Write readings as an instrument does, again and again; False where it may not go on."""
    while readings:
        try:
            with sessions() as session:
                begin_write(session)
                jobs.append_readings(session, job_id, run_uid, readings)
                session.commit()
        except (NotFoundError, jobs.HandedOverError):
            return False
        except DBAPIError as error:
            if trouble(error) is None or stop.wait(RETRY_EVERY_S):
                return False
            continue  # the disk is full, say: the same readings again
        break
    return True


class Bench:
    """All simulated gauges of one server."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self.sessions = sessions
        self._gauges: dict[int, tuple[GaugeOnJob, threading.Thread]] = {}
        self._nitrogen: dict[int, tuple[NitrogenOnJob, threading.Thread]] = {}
        self._lock = threading.Lock()

    def fill(self, gauge: NitrogenOnJob) -> None:
        """Put a digital gauge on a hold that has just begun."""
        self.unfill(gauge.job_id)
        thread = threading.Thread(target=gauge.run, daemon=True, name=f"nitrogen-{gauge.job_id}")
        with self._lock:
            self._nitrogen[gauge.job_id] = (gauge, thread)
        thread.start()

    def unfill(self, job_id: int) -> None:
        with self._lock:
            held = self._nitrogen.pop(job_id, None)
        if held:
            held[0].stop.set()
            held[1].join(timeout=5)

    def filled(self, job_id: int) -> NitrogenOnJob | None:
        with self._lock:
            held = self._nitrogen.get(job_id)
        return held[0] if held and held[1].is_alive() else None

    def connect(
        self,
        job_id: int,
        scenario: Scenario,
        speed: int,
        ambient_c: float,
        volume_m3: float | None = None,
        rig: Rig | None = None,
    ) -> None:
        """Put a micron gauge on a job, on its own volume and rig where they are known."""
        self.disconnect(job_id)
        gauge = GaugeOnJob(self.sessions, job_id, scenario, speed, ambient_c, volume_m3, rig)
        thread = threading.Thread(target=gauge.run, daemon=True, name=f"gauge-{job_id}")
        with self._lock:
            self._gauges[job_id] = (gauge, thread)
        thread.start()

    def disconnect(self, job_id: int) -> None:
        with self._lock:
            held = self._gauges.pop(job_id, None)
        if held:
            held[0].stop.set()
            held[1].join(timeout=5)

    def on(self, job_id: int) -> GaugeOnJob | None:
        with self._lock:
            held = self._gauges.get(job_id)
        return held[0] if held and held[1].is_alive() else None

    def follow(self, job_id: int) -> None:
        """Tell a job's gauge that another run has begun."""
        gauge = self.on(job_id)
        if gauge:
            gauge.follow.set()

    def close(self) -> None:
        for job_id in list(self._gauges):
            self.disconnect(job_id)
        for job_id in list(self._nitrogen):
            self.unfill(job_id)
