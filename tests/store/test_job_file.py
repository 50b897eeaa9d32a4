"""A job file and its long logs: by column as one by one, written piece by piece."""

import json
import tracemalloc
from datetime import UTC, datetime

import numpy as np
import pytest
from pydantic import ValidationError

from fairline.core.job import Job
from fairline.core.readings import VacuumReadings, VacuumRun
from fairline.demo.jobs import bindery
from fairline.demo.systems import demo_jobs
from fairline.store import job_file

LONG = 50_000


def long_job(count=LONG):
    t = np.arange(count) * 1.0
    columns = {"instrument": ["g"] * count, "seq": np.arange(count), "t_s": t, "pa": 9e3 / (1 + t)}
    run = VacuumRun(
        uid="long",
        kind="pull",
        started_at=datetime(2026, 11, 2, tzinfo=UTC),
        readings=VacuumReadings(columns, count),
    )
    return bindery().model_copy(update={"runs": (run,)})


def written(job):
    return "".join(job_file.write(job)).encode()


@pytest.mark.parametrize("job", demo_jobs(), ids=lambda j: j.head.name)
def test_a_file_by_column_is_the_job_that_it_is_one_by_one(job):
    content = written(job)
    assert json.loads(content) == job.model_dump(mode="json")
    by_column = job_file._by_column(content, told=False)
    one_by_one = Job.model_validate_json(content)
    assert by_column == one_by_one
    assert job_file._by_column(job.model_dump_json().encode(), told=False) == one_by_one


def test_a_long_log_costs_little_more_than_its_numbers():
    """One by one, as models, a reading takes over 1 kB."""
    content = written(long_job())
    tracemalloc.start()
    job_file.read(content)
    read = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert read / LONG < 400
    job = long_job()
    tracemalloc.start()
    for piece in job_file.write(job):
        assert len(piece) < 1_000_000
    assert tracemalloc.get_traced_memory()[1] / LONG < 100
    tracemalloc.stop()


def changed(content, **fields):
    """The file with something else in its reading of number 7."""
    document = json.loads(content)
    document["runs"][0]["readings"][7] |= fields
    return json.dumps(document).encode()


WRONG = [
    {"pa": "much"},
    {"pa": -1.0},
    {"seq": 1.5},
    {"seq": 10**20},
    {"t_s": None},
    {"pipe_c": 20.0},
    {"gauge_pa": -90_000.0},  # and absolute too
    {"side": "gas"},
    {"humidity": 1.0},
]


@pytest.mark.parametrize("fields", WRONG, ids=str)
def test_what_is_wrong_in_a_reading_is_told_in_a_short_log_and_a_long(fields):
    short = changed(written(long_job(100)), **fields)
    try:
        left = job_file.read(short).left_out
        assert left == ("runs.0.readings.7.humidity",) or fields == {"pipe_c": 20.0}
    except ValidationError as error:
        assert error.errors()[0]["loc"][3:5] == ("readings", 7) or "readings" in str(error)
    with pytest.raises(job_file.JobFileError, match=r"runs\.0"):
        job_file.read(changed(written(long_job(job_file.MOST_ONE_BY_ONE + 1)), **fields))


@pytest.mark.parametrize("content", [b"", b"[]", b"{", b'{"runs": 1}', b'{"runs": [1]}', b"\xff"])
def test_what_is_no_job_file_is_refused(content):
    with pytest.raises((job_file.JobFileError, ValidationError)):
        job_file.read(content)


def test_a_file_in_utf_16_is_read_too():
    text = bindery().model_dump_json()
    assert job_file.read(text.encode("utf-16")).job == job_file.read(text.encode()).job


def test_a_log_whose_one_reading_is_both_absolute_and_by_needle_is_refused():
    """Also where each number by itself lies within what others have."""
    columns = {
        "seq": range(5),
        "t_s": np.arange(5.0),
        "instrument": ["g"] * 5,
        "pa": [100.0, np.nan, 50.0, 80.0, 100.0],
        "gauge_pa": [np.nan, -9e4, np.nan, -9e4, np.nan],
    }
    with pytest.raises(ValidationError, match="absolute"):
        VacuumReadings.read(columns, 5)
