"""A company's day on one server: people who work and look, instruments that read, for an hour.

``python tools/soak.py --minutes 60``: two processes of the server on SQLite, or on the database
that FAIRLINE_DATABASE_URL names. It ends with 1 where something acknowledged is not there, an
answer was refused, the memory grew, or pages took over twice what they take when nobody is there.
"""

import argparse
import http.client
import json
import os
import signal
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from fairline.demo.load import load_demo
from fairline.settings import Settings
from fairline.store import people
from fairline.store.database import open_database

PASSWORD = "a long enough sentence"
JOBS = range(2, 9)
PAGES = ("evacuate", "route", "flare", "wire", "record", "survey")
LOOKS_EVERY_S, READS_EVERY_S = 15.0, 1.0  # a person's page, an instrument's reading
GROWN = 1.25  # times the memory after the first tenth that it may have at the end
SLOWER = 2.0  # times a page's idle time


@dataclass
class Found:
    """What was seen, by all threads."""

    pages_s: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)
    notes: dict[int, str] = field(default_factory=dict)  # kept last of a job's notes
    readings: dict[tuple[int, int], float] = field(default_factory=dict)
    lock: threading.Lock = field(default_factory=threading.Lock)


class NoRedirect(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *_: Any) -> None:
        return None


OPENER = urllib.request.build_opener(NoRedirect)


def asked(url: str, body: bytes | None = None, **headers: str) -> tuple[int, bytes, Any]:
    """Status, body and headers; 0 where no answer came."""
    request = urllib.request.Request(
        url, body, {k.replace("_", "-"): v for k, v in headers.items()}
    )
    try:
        with OPENER.open(request, timeout=60) as answer:
            return answer.status, answer.read(), answer.headers
    except urllib.error.HTTPError as error:
        return error.code, error.read(), error.headers
    except (OSError, http.client.HTTPException):
        return 0, b"", {}


def signed_in(base: str, name: str) -> str:
    """The cookie of a session."""
    form = urllib.parse.urlencode({"name": name, "password": PASSWORD}).encode()
    status, _, headers = asked(f"{base}/sign-in", form)
    assert status == 303, (name, status)
    return str(headers["set-cookie"]).partition(";")[0]


def person(n: int, base: str, found: Found, until: float) -> None:
    """Looks at pages, and writes the notes of one job that is his own, each time other words."""
    cookie, own, turn = signed_in(base, f"Person {n}"), n - 13, 0
    while time.monotonic() < until:
        turn += 1
        path = f"/jobs/{JOBS[(n + turn) % len(JOBS)]}/{PAGES[turn % len(PAGES)]}"
        begin = time.perf_counter()
        status, _, _ = asked(base + path, Cookie=cookie)
        with found.lock:
            found.pages_s.append(time.perf_counter() - begin)
            if status != 200:
                found.wrong.append(f"{path}: {status}")
        if own in JOBS:
            words = f"turn {turn}"
            form = urllib.parse.urlencode({"notes": words}).encode()
            status, _, _ = asked(f"{base}/jobs/{own}/route?part=system", form, Cookie=cookie)
            with found.lock:
                if status in (200, 303):
                    found.notes[own] = words
                else:
                    found.wrong.append(f"notes of {own}: {status}")
        time.sleep(max(0.0, min(LOOKS_EVERY_S, until - time.monotonic())))


def instrument(n: int, base: str, token: str, run: str, found: Found, until: float) -> None:
    """A reading each second into one run."""
    seq = 0
    while time.monotonic() < until:
        value = 50_000.0 / (1 + seq) + n
        one = [{"instrument": f"gauge {n}", "seq": seq, "t_s": float(seq), "pa": value}]
        headers = {"Authorization": f"Bearer {token}", "Content_Type": "application/json"}
        status, _, _ = asked(
            f"{base}/api/jobs/2/runs/{run}/readings", json.dumps(one).encode(), **headers
        )
        with found.lock:
            if status == 200:
                found.readings[n, seq] = value
            else:
                found.wrong.append(f"gauge {n}: {status}")
        seq += 1
        time.sleep(READS_EVERY_S)


def memory_mb(pid: int) -> float:
    """Of a process and its children."""
    listed = subprocess.run(["ps", "-eo", "pid,ppid,rss"], capture_output=True, text=True)
    rows = [[int(x) for x in line.split()] for line in listed.stdout.splitlines()[1:]]
    return sum(rss for own, parent, rss in rows if pid in (own, parent)) / 1000


def prepared(folder: Path) -> str:
    """The demo's jobs, twenty people, and a token; what the token is."""
    settings = Settings(folder)
    load_demo(settings)
    database = open_database(settings.database_url)
    with database.session() as session:
        owner = people.add(session, "Person 0", "owner", PASSWORD)
        for n in range(1, 20):
            people.add(session, f"Person {n}", "installer", PASSWORD)
        token = people.make_key(session, "token", person_id=owner.id, words="soak")
        session.commit()
    database.close()
    return token


def started(folder: Path, workers: int) -> tuple[subprocess.Popen[bytes], str]:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = int(probe.getsockname()[1])
    command = [sys.executable, "-m", "fairline.cli", "serve", "--port", str(port)]
    command += ["--data", str(folder), "--workers", str(workers)]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    base = f"http://127.0.0.1:{port}"
    while asked(f"{base}/health")[0] != 200:
        time.sleep(0.1)
    return process, base


def looked_around(base: str, cookie: str) -> list[float]:
    """Seconds of forty pages, one after the other: each process has read and judged each job."""
    took = []
    for turn in range(40):
        begin = time.perf_counter()
        asked(f"{base}/jobs/{JOBS[turn % len(JOBS)]}/{PAGES[turn % len(PAGES)]}", Cookie=cookie)
        took.append(time.perf_counter() - begin)
    return took


def ended(process: subprocess.Popen[bytes]) -> None:
    process.send_signal(signal.SIGTERM)
    process.wait(30)


def soaked(folder: Path, minutes: float, workers: int) -> bool:
    token = prepared(folder)
    process, base = started(folder, workers)
    try:
        cookie, found = signed_in(base, "Person 0"), Found()
        idle = looked_around(base, cookie)
        headers = {"Authorization": f"Bearer {token}", "Content_Type": "application/json"}
        run = json.loads(asked(f"{base}/api/jobs/2/runs/pull", b"{}", **headers)[1])["run"]
        until = time.monotonic() + 60 * minutes
        threads = [
            threading.Thread(target=person, args=(n, base, found, until)) for n in range(20)
        ] + [
            threading.Thread(target=instrument, args=(n, base, token, run, found, until))
            for n in range(10)
        ]
        for thread in threads:
            thread.start()
        time.sleep(6 * minutes)
        first = memory_mb(process.pid)
        time.sleep(24 * minutes)
        half = memory_mb(process.pid)
        for thread in threads:
            thread.join()
        last = memory_mb(process.pid)
        lost = _lost(base, cookie, run, found)
    finally:
        ended(process)
    process, base = started(folder, workers)  # what the same data take without the hour
    looked_around(base, cookie)
    anew = memory_mb(process.pid)
    ended(process)
    middle, quiet = statistics.median(found.pages_s), statistics.median(idle[20:])
    where = os.environ.get("FAIRLINE_DATABASE_URL", "sqlite").partition(":")[0]
    print(
        f"{minutes:g} min, {workers} processes, {where}: "
        f"{len(found.pages_s)} pages, {len(found.readings)} readings, {len(found.wrong)} refused, "
        f"{len(lost)} lost; page {1000 * quiet:.0f} ms alone, {1000 * middle:.0f} ms among them "
        f"({middle / quiet:.2f} ×); memory {first:.0f}, {half:.0f}, at the end {last:.0f} MB, "
        f"after a new start on the same data {anew:.0f} MB"
    )
    for words in (found.wrong + lost)[:10]:
        print(f"  {words}")
    return not found.wrong and not lost and last <= GROWN * first and middle <= SLOWER * quiet


def _lost(base: str, cookie: str, run: str, found: Found) -> list[str]:
    """What was acknowledged and is not there."""
    whole = json.loads(asked(f"{base}/api/jobs/2", Cookie=cookie)[1])
    there = next(r for r in whole["runs"] if r["uid"] == run)["readings"]
    kept = {(int(r["instrument"].split()[1]), r["seq"]): r["pa"] for r in there}
    lost = [f"reading {k}" for k, value in found.readings.items() if kept.get(k) != value]
    for job, words in found.notes.items():
        said = json.loads(asked(f"{base}/api/jobs/{job}", Cookie=cookie)[1])["route"]["notes"]
        if said != words:
            lost.append(f"notes of {job}: {said!r} in place of {words!r}")
    return lost


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=60.0)
    parser.add_argument("--workers", type=int, default=2)
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        return int(not soaked(Path(folder), given.minutes, given.workers))


if __name__ == "__main__":
    sys.exit(main())
