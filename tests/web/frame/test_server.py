"""A real server: started, streamed from, killed in the middle of a log."""

import json
import socket
import subprocess
import sys
import time
import urllib.request
from contextlib import contextmanager
from pathlib import Path

import pytest

from fairline.instruments.catalogue import Choice, made
from fairline.instruments.process import Process
from fairline.instruments.reporter import Reporter

FAIRLINE = Path(sys.executable).parent / "fairline"


def free_port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


@contextmanager
def server(data, command="serve"):
    port = free_port()
    process = subprocess.Popen(
        [FAIRLINE, command, "--port", str(port), "--data", data], stdout=subprocess.PIPE, text=True
    )
    try:
        assert f"http://127.0.0.1:{port}/" in process.stdout.readline()
        base = f"http://127.0.0.1:{port}"
        wait_for(lambda: urllib.request.urlopen(f"{base}/api/jobs").status == 200)
        yield base, process
    finally:
        process.kill()
        process.wait()


def wait_for(ready, seconds=30):
    """Try again until it works, or the time is over."""
    end = time.monotonic() + seconds
    while True:
        try:
            if ready():
                return
        except OSError:
            pass
        assert time.monotonic() < end, "it did not come in time"
        time.sleep(0.02)


def post(url, body=None):
    data = json.dumps(body).encode() if body is not None else b""
    with urllib.request.urlopen(urllib.request.Request(url, data, method="POST")) as answer:
        return json.load(answer)


def readings_of(base, job, run):
    runs = json.load(urllib.request.urlopen(f"{base}/api/jobs/{job}"))["runs"]
    return next(r for r in runs if r["uid"] == run)["readings"]


def test_a_server_killed_in_the_middle_of_a_log_loses_at_most_the_reading_in_flight(tmp_path):
    acknowledged = 0
    with server(tmp_path, "demo") as (base, process):
        run = post(f"{base}/api/jobs/2/runs/pull")["run"]
        url = f"{base}/api/jobs/2/runs/{run}/readings"
        for seq in range(60):
            if seq == 40:
                process.kill()
            try:
                post(url, [{"instrument": "g", "seq": seq, "t_s": float(seq), "pa": 500.0 - seq}])
            except OSError:
                break
            acknowledged = seq + 1
    assert acknowledged >= 40
    with server(tmp_path) as (base, _):
        kept = [r["seq"] for r in readings_of(base, 2, run)]
        assert kept[:acknowledged] == list(range(acknowledged))
        assert len(kept) <= acknowledged + 1
        url = f"{base}/api/jobs/2/runs/{run}/readings"
        again = [
            {"instrument": "g", "seq": s, "t_s": float(s), "pa": 500.0 - s}
            for s in range(acknowledged + 1)
        ]
        post(url, again)
        assert [r["seq"] for r in readings_of(base, 2, run)] == list(range(acknowledged + 1))


def test_a_reading_is_streamed_to_the_page(tmp_path):
    with server(tmp_path, "demo") as (base, _):
        run = post(f"{base}/api/jobs/2/runs/pull")["run"]
        with urllib.request.urlopen(f"{base}/jobs/2/evacuate/live", timeout=30) as stream:
            assert stream.headers["content-type"].startswith("text/event-stream")
            assert stream.readline() == b"event: live\n"
            reading = {"instrument": "g", "seq": 0, "t_s": 1.0, "pa": 53.3289}
            post(f"{base}/api/jobs/2/runs/{run}/readings", [reading])
            lines = iter(stream.readline, b"")
            while next(lines) != b"event: live\n":
                pass
            assert any(b"<strong>400</strong>" in line for line in lines)


def test_the_demo_is_loaded_once_and_own_data_starts_empty(tmp_path):
    for _ in range(2):
        with server(tmp_path / "demo", "demo") as (base, _process):
            assert len(json.load(urllib.request.urlopen(f"{base}/api/jobs"))) == 9
    with server(tmp_path / "own") as (base, _process):
        assert json.load(urllib.request.urlopen(f"{base}/api/jobs")) == []


def test_an_instrument_of_its_own_process_reads_on_while_the_server_is_away(tmp_path):
    """It follows the newest run; what was read meanwhile comes in afterwards, each number once."""
    with server(tmp_path, "demo") as (base, process):
        first = post(f"{base}/api/jobs/2/runs/pull")["run"]
        reporter = Reporter.at(f"{base}/jobs/2")
        gauge = made(Choice("micron", "leaking"), reporter.rig(), 1)
        tool = Process(reporter, gauge, "simulated micron", speed=60.0)
        for _ in range(4):
            tool.tick(0.5)
        assert not reporter.waiting
        process.kill()
        process.wait()
        for _ in range(4):
            tool.tick(0.5)
        waiting = [reading["seq"] for _, reading in reporter.waiting]
        assert 100 < len(waiting) <= 120  # two minutes of its own time, less what dropped out
    with server(tmp_path) as (base, _):
        reporter.base = base
        second = post(f"{base}/api/jobs/2/runs/decay")["run"]
        for _ in range(3):
            tool.tick(0.5)
        pulled, decayed = readings_of(base, 2, first), readings_of(base, 2, second)
        seqs = [r["seq"] for r in pulled]
        assert seqs == sorted(set(seqs)) and seqs[-len(waiting) :] == waiting
        assert all(r["t_s"] == r["seq"] + 1 for r in pulled) and len(seqs) > 200
        assert 75 < len(decayed) <= 90
        # Put on again it goes on where its numbers and its time ended.
        again = Process(reporter, made(Choice("micron"), reporter.rig(), 2), "simulated micron")
        again.tick(3.0)
        assert [r["seq"] for r in readings_of(base, 2, second)][-3:] == [90, 91, 92]
        assert all(r["simulated"] for r in pulled + decayed)
        assert pulled[0]["pa"] > 10 * pulled[-1]["pa"] and decayed[-1]["pa"] > decayed[0]["pa"]


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["micron", "--job", "jobs/2"], "is no job"),
        (["micron", "--job", "http://127.0.0.1:9/jobs/x"], "names no job"),
        (["micron", "--job", "http://127.0.0.1:9/jobs/2", "--scenario", "wrong"], "one of sound"),
        (["manometer", "--job", "http://127.0.0.1:9/jobs/2"], "no answer from"),
    ],
)
def test_an_instrument_that_cannot_work_says_why_in_a_sentence(arguments, said):
    done = subprocess.run(
        [FAIRLINE, "instrument", *arguments], capture_output=True, text=True, check=False
    )
    assert done.returncode == 1 and said in done.stderr and "Traceback" not in done.stderr
