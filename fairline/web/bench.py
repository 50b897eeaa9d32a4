"""The bench: simulated micron gauges, each on a job, writing readings as a real one would."""

import threading
import time
from dataclasses import dataclass, field

from sqlalchemy.orm import Session, sessionmaker

from fairline.core.readings import Reading
from fairline.instruments.vacuum import MicronGauge, Scenario, system
from fairline.store import jobs
from fairline.store.sqlite import begin_write

READING_EVERY_S = 1.0  # of the simulated time
WRITE_EVERY_S = 0.2  # of the wall clock: how often readings reach the job
SPEEDS = (1, 10, 60)
INSTRUMENT = "simulated micron gauge"


@dataclass
class GaugeOnJob:
    """One gauge at work: it follows the job's newest pull or decay and reads into it."""

    sessions: sessionmaker[Session]
    job_id: int
    scenario: Scenario
    speed: int
    ambient_c: float
    stop: threading.Event = field(default_factory=threading.Event)
    follow: threading.Event = field(default_factory=threading.Event)

    def run(self) -> None:
        vacuum = system(self.scenario, self.ambient_c)
        gauge = MicronGauge(vacuum, seed=self.job_id)
        run_uid, kind, seq, clock = "", "", 0, 0.0
        self.follow.set()
        last = time.monotonic()
        while not self.stop.is_set():
            if self.follow.is_set():
                self.follow.clear()
                found = self._newest()
                if found and found[0] != run_uid:
                    if found[1] == "decay" and kind == "pull":
                        vacuum.isolate()
                    elif found[2] is not None and not kind:
                        # The gauge goes on a system that is under vacuum already.
                        vacuum.air_pa, vacuum.vapour_pa = found[2], 0.0
                    run_uid, kind, clock = found[0], found[1], 0.0
                    seq = 0
            now = time.monotonic()
            passed, last = (now - last) * self.speed, now
            readings = []
            if run_uid:
                steps = int((clock % READING_EVERY_S + passed) / READING_EVERY_S)
                rest = clock % READING_EVERY_S + passed - steps * READING_EVERY_S
                base = clock - clock % READING_EVERY_S
                for i in range(steps):
                    vacuum.advance(READING_EVERY_S, pumping=kind == "pull")
                    readings.append(
                        Reading(
                            instrument=INSTRUMENT,
                            seq=seq,
                            pa=gauge.read_pa(),
                            t_s=base + (i + 1) * READING_EVERY_S,
                        )
                    )
                    seq += 1
                clock = base + steps * READING_EVERY_S + rest
            if readings and not self._write(run_uid, readings):
                return
            self.stop.wait(WRITE_EVERY_S)

    def _newest(self) -> tuple[str, str, float | None] | None:
        """Newest run's uid and kind, and the last pressure read on the job."""
        with self.sessions() as session:
            job = jobs.load(session, self.job_id).job
        vacuum = [r for r in job.runs if r.kind != "hold"]
        if not vacuum:
            return None
        read = [r.last.pa for r in vacuum if r.last]
        return vacuum[-1].uid, vacuum[-1].kind, read[-1] if read else None

    def _write(self, run_uid: str, readings: list[Reading]) -> bool:
        try:
            with self.sessions() as session:
                begin_write(session)
                jobs.append_readings(session, self.job_id, run_uid, readings)
                session.commit()
        except jobs.NotFoundError:
            return False
        return True


class Bench:
    """All simulated gauges of one server."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self.sessions = sessions
        self._gauges: dict[int, tuple[GaugeOnJob, threading.Thread]] = {}
        self._lock = threading.Lock()

    def connect(self, job_id: int, scenario: Scenario, speed: int, ambient_c: float) -> None:
        self.disconnect(job_id)
        gauge = GaugeOnJob(self.sessions, job_id, scenario, speed, ambient_c)
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
