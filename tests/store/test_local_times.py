"""Local times of a log: in the job's zone, unfolded by their order, asked where it stays doubtful.

The nights of 2026 are those of the IANA time zone database: summer time ends on 25 October at three
o'clock in Berlin and on 1 November at two in Chicago; it begins on 29 March and on 8 March.
"""

from datetime import UTC, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.store import readings_csv
from fairline.store.local_times import LocalTimeError, moments
from fairline.store.log_header import CsvError

BERLIN, CHICAGO = ZoneInfo("Europe/Berlin"), ZoneInfo("America/Chicago")


def at(day, *times):
    return [datetime.fromisoformat(f"{day}T{t}") for t in times]


def minutes(found):
    return [(b - a).total_seconds() / 60 for a, b in pairwise(found)]


@pytest.mark.parametrize(
    ("zone", "times", "apart"),
    [
        (BERLIN, at("2026-06-01", "08:00", "08:10"), [10]),
        (CHICAGO, at("2026-11-01", "00:50", "01:50", "01:10", "02:10"), [60, 20, 60]),
        (BERLIN, at("2026-10-25", "01:50", "02:50", "02:05", "03:05"), [60, 15, 60]),
        (BERLIN, at("2026-10-25", "02:50", "02:05"), [15]),
        (BERLIN, at("2026-10-25", "01:50", "02:10", "02:50"), [20, 40]),  # its first pass
        (BERLIN, at("2026-03-29", "01:58", "03:04"), [6]),  # a rise of six minutes, not of 66
        (BERLIN, at("2026-10-25", "03:00", "03:05"), [5]),
    ],
)
def test_minutes_between_readings_are_those_that_passed(zone, times, apart):
    assert minutes(moments(times, zone)) == apart


@pytest.mark.parametrize(
    ("times", "row", "told"),
    [
        (at("2026-10-25", "02:10", "02:20"), 0, "stands twice"),
        (at("2026-10-25", "01:50", "02:10", "03:10"), 1, "stands twice"),
        (at("2026-10-25", "02:10", "02:05", "02:20", "02:10"), 0, "stands twice"),
        (at("2026-10-25", "01:30", "02:40", "02:50"), 1, "stands twice"),  # an hour apart
        (at("2026-03-29", "01:50", "02:10"), 1, "there was no 02:10"),
    ],
)
def test_what_stays_doubtful_or_never_was_is_asked_by_its_row(times, row, told):
    with pytest.raises(LocalTimeError, match=told) as caught:
        moments(times, BERLIN)
    assert caught.value.at == row


@given(
    st.one_of(
        st.datetimes(datetime(2026, 1, 1), datetime(2026, 12, 31)),
        st.datetimes(datetime(2026, 10, 24, 20), datetime(2026, 10, 25, 4)),
        st.datetimes(datetime(2026, 11, 1, 2), datetime(2026, 11, 1, 10)),
    ),
    st.integers(1, 90),
    st.integers(2, 60),
    st.sampled_from([BERLIN, CHICAGO]),
)
def test_a_log_in_local_time_is_read_as_it_happened_or_asked(start, step_min, count, zone):
    start = start.replace(tzinfo=UTC, microsecond=0)
    happened = [start + timedelta(minutes=step_min * n) for n in range(count)]
    local = [t.astimezone(zone).replace(tzinfo=None) for t in happened]
    try:
        found = moments(local, zone)
    except LocalTimeError:
        return
    assert minutes(found) == minutes(happened)
    assert found == happened


def test_a_file_is_read_in_the_zone_that_is_named_and_errors_have_their_line():
    def log(*times):
        rows = "".join(f"{t},30\n" for t in times)
        return f"time,pa\n{rows}".encode()

    local = log("2026-06-01T08:00", "2026-06-01T08:10")
    assert readings_csv.read_log(local, "decay", zone=CHICAGO)[1] == datetime(
        2026, 6, 1, 13, tzinfo=UTC
    )
    given_ = log("2026-06-01T08:00+02:00", "2026-06-01T08:10+02:00")
    assert readings_csv.read_log(given_, "decay", zone=CHICAGO)[1] == datetime(
        2026, 6, 1, 6, tzinfo=UTC
    )
    with pytest.raises(CsvError, match="stands twice") as caught:
        readings_csv.read_log(log("2026-10-25T02:10", "2026-10-25T02:20"), "decay", zone=BERLIN)
    assert (caught.value.line, caught.value.column) == (2, 1)
