"""What of a job counts: not what was struck out, and nothing simulated but where one practises."""

from collections.abc import Iterable

import numpy as np

from fairline.core.entry import Record
from fairline.core.job import Job
from fairline.core.readings import Reading, Run
from fairline.core.strike import READING, Strike


def counted_job(job: Job) -> Job:
    """The job as it is judged: records and readings that count, the rest left out."""
    strikes = job.strikes
    records = tuple(r for r in job.records if counts(r, strikes, job.head.practice))
    runs = tuple(_run(run, strikes, job.head.practice) for run in job.runs)
    if len(records) == len(job.records) and all(
        a is b for a, b in zip(runs, job.runs, strict=True)
    ):
        return job
    return job.model_copy(update={"records": records, "runs": runs})


def counts(record: Record, strikes: Iterable[Strike], practice: bool) -> bool:
    """Whether a record counts: neither struck out, nor simulated on a job that is no practice."""
    if getattr(record, "simulated", False) and not practice:
        return False
    return strike_of(record, strikes) is None


def strike_of(record: Record, strikes: Iterable[Strike]) -> Strike | None:
    """The strike that took a record out; None where it stands."""
    if not record.struck:
        return None
    return next((s for s in strikes if s.of == record.kind and _names(s, record)), None)


def _names(strike: Strike, record: Record) -> bool:
    """Whether a strike is of this very record."""
    if strike.of_uid:
        return strike.of_uid == record.uid
    return strike.of_at == record.at


def strike_of_reading(run: Run, reading: Reading, strikes: Iterable[Strike]) -> Strike | None:
    """The strike that took a reading out; None where it stands."""
    named = (run.uid, reading.instrument, reading.seq)
    return next(
        (s for s in strikes if s.of == READING and (s.run, s.instrument, s.seq) == named), None
    )


def _run(run: Run, strikes: tuple[Strike, ...], practice: bool) -> Run:
    readings = run.readings
    out = [(s.instrument, s.seq) for s in strikes if s.of == READING and s.run == run.uid]
    kept = np.ones(len(readings), dtype=bool) if practice else ~readings.simulated
    for instrument, seq in out:
        kept &= (readings.column("seq") != seq) | (readings.column("instrument") != instrument)
    return run if kept.all() else run.model_copy(update={"readings": readings.only(kept)})
