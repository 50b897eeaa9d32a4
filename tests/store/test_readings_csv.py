"""Readings as CSV: what is read, what is refused and where."""

import csv
import io
from datetime import UTC, datetime

import pytest

from fairline.core.readings import HoldRun, VacuumReading, VacuumRun
from fairline.store.log_header import CsvError
from fairline.store.readings_csv import read, write

PSI = 6894.757293168


@pytest.mark.parametrize(
    "content",
    [
        b"t_s,gauge_psi,pipe_f\n0,300,68\n1800,299.5,67.1\n",
        "\ufefft_s;gauge_psi;pipe_f\r\n0;300;68\r\n1800;299,5;67,1\r\n".encode(),
        "t_min\tgauge_bar\tpipe_c\tnote\n0\t20,684272\t20\tx\n30\t20,649798\t19,5\ty\n".encode(
            "utf-16"
        ),
        b"TIME|Gauge_PSI|Pipe_F\n2026-03-05T17:00|300|68\n2026-03-05T17:30|299.5|67.1\n\n",
    ],
)
def test_delimiters_decimal_commas_and_byte_order_marks(content):
    first, last = read(content, "hold")
    assert (first.t_s, last.t_s) == (0, 1800)
    assert last.gauge_pa == pytest.approx(299.5 * PSI)
    assert last.pipe_c == pytest.approx(19.5)


@pytest.mark.parametrize(
    ("content", "line", "column"),
    [
        (b"", None, None),
        (b"   \n\n", None, None),
        (b"t_s,pa\n", None, None),
        (b"pa\n3\n", 1, None),
        (b"t_s,gauge_pa\n0,3\n", 2, 2),
        (b"t_s,pipe_c\n0,3\n", 1, None),
        (b"Elapsed,Pressure [psi]\n0,3\n", 1, None),
        (b"Time (s),Vacuum\n0,3\n", 1, None),
        (b"t_s,pa,pa\n0,3,4\n", 1, None),
        (b"t_s,pa\n0,30\n5,thirty\n", 3, 2),
        (b"t_s,pa\n0,nan\n", 2, 2),
        (b"t_s,pa\n0,30\n-5,30\n", 3, 1),
        (b"t_s,pa\n0,-3\n", 2, 2),
        (b"t_s,pa\n0,30,9\n", 2, None),
        (b"time,pa\nyesterday,30\n", 2, 1),
        (b"t_s,pa\n0,\xff\xfe\n", 2, None),
        (b"t_s,pa\n0,\x00\n", None, None),
    ],
)
def test_what_is_wrong_is_told_with_line_and_column(content, line, column):
    with pytest.raises(CsvError) as caught:
        read(content, "decay")
    assert (caught.value.line, caught.value.column) == (line, column)


def test_what_is_written_is_read_again_and_no_cell_is_a_formula():
    readings = tuple(
        VacuumReading(instrument="=HYPERLINK(1)", seq=i, t_s=i * 7.25, pa=30.1 + i / 3)
        for i in range(3)
    )
    run = VacuumRun(
        uid="r", kind="decay", started_at=datetime(2026, 3, 1, tzinfo=UTC), readings=readings
    )
    text = write(run)
    rows = list(csv.reader(io.StringIO(text)))
    assert all(row[0].startswith("'=") for row in rows[1:])
    again = read(text.encode(), "decay")
    assert again == run.readings


@pytest.mark.parametrize(
    ("header", "row", "kind", "t_s", "first"),
    [
        ("Time (s),Microns", "60,500", "decay", 60.0, 66.661184),
        ("minutes;Vacuum [µmHg]", "1;500", "decay", 60.0, 66.661184),
        ("Elapsed (min),Vacuum Pa", "1,66.7", "decay", 60.0, 66.7),
        ("hours,gauge inHg", "1,-29", "decay", 3600.0, -29 * 3386.389),
        ("Seconds,Pressure [psi],Pipe temp (°F)", "5,300,68", "hold", 5.0, 300 * PSI),
        ("t_s,Pressure (bar),Pipe C,Ambient C", "5,20,20,9", "hold", 5.0, 2e6),
    ],
)
def test_headers_as_loggers_write_them(header, row, kind, t_s, first):
    (reading,) = read(f"{header}\n{row}\n".encode(), kind)
    assert reading.t_s == t_s
    absolute = getattr(reading, "pa", None)
    shown = absolute if absolute is not None else reading.gauge_pa
    assert shown == pytest.approx(first)
    assert getattr(reading, "pipe_c", None) == (pytest.approx(20.0) if kind == "hold" else None)


def test_what_is_simulated_is_marked_in_the_file_and_read_back():
    readings = tuple(
        VacuumReading(seq=i, t_s=float(i), pa=30.0, simulated=i == 1) for i in range(2)
    )
    begun = datetime(2026, 3, 1, tzinfo=UTC)
    text = write(VacuumRun(uid="r", kind="decay", started_at=begun, readings=readings))
    assert list(read(text.encode(), "decay")) == list(readings)
    assert VacuumReading(seq=0, t_s=0, pa=1.0, instrument="simulated micron gauge").simulated


def test_the_place_of_the_probe_goes_out_and_comes_back():
    content = b"t_s,gauge_psi,pipe_c,probe\n0,300,20,Shaded\n60,300,20,\n"
    readings = read(content, "hold")
    assert [r.probe for r in readings] == ["shaded", None]
    begun = datetime(2026, 3, 1, tzinfo=UTC)
    text = write(HoldRun(uid="r", kind="hold", started_at=begun, readings=tuple(readings)))
    assert read(text.encode(), "hold") == readings
    with pytest.raises(CsvError) as caught:
        read(content.replace(b"Shaded", b"pocket"), "hold")
    assert (caught.value.line, caught.value.column) == (2, 4)


def test_the_side_of_a_needle_goes_out_and_comes_back():
    content = b"t_s,gauge_pa,side\n0,-101000,Gas\n0,-100500,liquid\n60,-101000,\n"
    readings = read(content, "pull")
    assert [r.side for r in readings] == ["gas", "liquid", None]
    begun = datetime(2026, 3, 1, tzinfo=UTC)
    text = write(VacuumRun(uid="r", kind="pull", started_at=begun, readings=tuple(readings)))
    assert "gauge_pa,side" in text and read(text.encode(), "pull") == readings
