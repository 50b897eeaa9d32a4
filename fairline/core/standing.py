"""What of a job counts: not what was struck out, and nothing simulated but where one practises."""

from collections.abc import Iterable
from typing import Any

from fairline.core.job import AnyRecord, Job
from fairline.core.readings import Reading, Run
from fairline.core.strike import Strike


def standing(job: Job) -> Job:
    """The job as it is judged: records and readings that count, the rest left out."""
    strikes = job.strikes
    records = tuple(r for r in job.records if counts(r, strikes, job.head.practice))
    runs = tuple(_run(run, strikes, job.head.practice) for run in job.runs)
    if len(records) == len(job.records) and all(
        a is b for a, b in zip(runs, job.runs, strict=True)
    ):
        return job
    return job.model_copy(update={"records": records, "runs": runs})


def counts(record: AnyRecord, strikes: Iterable[Strike], practice: bool) -> bool:
    """Whether a record counts: neither struck out, nor simulated on a job that is no practice."""
    if getattr(record, "simulated", False) and not practice:
        return False
    return struck(record, strikes) is None


def struck(record: Any, strikes: Iterable[Strike]) -> Strike | None:
    """The strike that took a record out; None where it stands."""
    at, kind = getattr(record, "at", None), getattr(record, "kind", "")
    return next((s for s in strikes if s.of == kind and s.of_at == at), None)


def reading_struck(run: Run, reading: Reading, strikes: Iterable[Strike]) -> Strike | None:
    """The strike that took a reading out; None where it stands."""
    return next(
        (
            s
            for s in strikes
            if s.of == "reading"
            and (s.run, s.instrument, s.seq) == (run.uid, reading.instrument, reading.seq)
        ),
        None,
    )


def _run(run: Run, strikes: tuple[Strike, ...], practice: bool) -> Run:
    out = {(s.instrument, s.seq) for s in strikes if s.of == "reading" and s.run == run.uid}
    simulated = not practice and any(r.simulated for r in run.readings)
    if not out and not simulated:
        return run
    kept = tuple(
        r
        for r in run.readings
        if (r.instrument, r.seq) not in out and (practice or not r.simulated)
    )
    return run.model_copy(update={"readings": kept})
