"""The figures kept in view, each against a yardstick of the same machine and minute.

``python tools/figures.py`` measures this checkout; ``--against COMMIT`` that one too, in turns with
this, so that both had the same machine. It uses only what both have: the application, its pages and
its files. Of the turns the quickest is told: whatever else the machine does only adds.
"""

import argparse
import json
import resource
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

HERE = Path(__file__).resolve().parent.parent
DAY_S = 86_400
LONG = 250_000  # readings: the most that a file may have
STAGES = (
    "survey",
    "mount",
    "route",
    "flare",
    "pressure-test",
    "evacuate",
    "charge",
    "commission",
    "hand-over",
)
ROUNDS = 3  # how often the two are measured in turn


def took(work: Callable[[], object]) -> float:
    begin = time.perf_counter()
    work()
    return time.perf_counter() - begin


def median(work: Callable[[], object], rounds: int = 7) -> float:
    return statistics.median(took(work) for _ in range(rounds))


def bare_page() -> float:
    """A page of FastAPI and Jinja with forty rows from a list: what a page costs at least."""
    from fastapi import FastAPI
    from fastapi.responses import HTMLResponse
    from jinja2 import Environment
    from starlette.testclient import TestClient

    rows = "{% for r in rows %}<tr><td>{{ r.a }}</td><td>{{ r.b }}</td></tr>{% endfor %}"
    template = Environment(autoescape=True).from_string(f"<html><table>{rows}</table></html>")
    app = FastAPI()

    @app.get("/")
    def page() -> HTMLResponse:
        return HTMLResponse(template.render(rows=[{"a": n, "b": n * n} for n in range(40)]))

    with TestClient(app, client=("127.0.0.1", 50_000)) as client:
        client.get("/")
        return median(lambda: client.get("/"), 41)


def raw_insert(rows: int = DAY_S) -> float:
    """A day's readings into SQLite by the driver alone."""
    with tempfile.TemporaryDirectory() as folder:
        opened = sqlite3.connect(Path(folder) / "raw.db")
        opened.execute("PRAGMA journal_mode=WAL")
        opened.execute(
            "CREATE TABLE reading (run INTEGER, instrument TEXT, seq INTEGER, t_s REAL, "
            "gauge_pa REAL, pipe_c REAL, pa REAL, probe TEXT, simulated INTEGER, "
            "PRIMARY KEY (run, instrument, seq))"
        )
        values = [(1, "g", n, float(n), None, None, 30.0 + n / rows, None, 0) for n in range(rows)]

        def insert() -> None:
            with opened:
                opened.execute("DELETE FROM reading")
            with opened:
                opened.executemany("INSERT INTO reading VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)", values)

        return min(took(insert) for _ in range(3))


def one_fit(rows: int = DAY_S) -> float:
    """One least-squares fit of all points of a day's decay, by SciPy."""
    from scipy.optimize import curve_fit

    t = np.arange(rows, dtype=float)
    p = 27 + 20 * (1 - np.exp(-t / 9000)) + np.random.default_rng(1).normal(0, 0.05, rows)
    start = (27.0, 15.0, 5000.0)
    return median(
        lambda: curve_fit(lambda t, a, b, c: a + b * (1 - np.exp(-t / c)), t, p, start), 3
    )


def decay_log() -> bytes:
    import math
    import random

    chance = random.Random(1)
    lines = (
        f"{t},{27 + 20 * (1 - math.exp(-t / 9000)) + chance.gauss(0, 0.05):.3f}"
        for t in range(DAY_S)
    )
    return ("t_s,pa\n" + "\n".join(lines) + "\n").encode()


def of_application() -> dict[str, float]:
    """What the application that is imported here takes, in seconds."""
    from starlette.testclient import TestClient

    from fairline.demo.load import load_demo
    from fairline.settings import Settings
    from fairline.web.app import create_app

    found: dict[str, float] = {}
    with tempfile.TemporaryDirectory() as data:
        settings = Settings(Path(data))
        load_demo(settings)
        with TestClient(
            create_app(settings), base_url="http://127.0.0.1:8000", client=("127.0.0.1", 50_000)
        ) as client:
            client.get("/jobs/4/evacuate")  # what any page loads is not the file's
            found |= _long_file(client)
            paths = ["/", "/shelf", "/cylinders"]
            paths += [f"/jobs/{job}/{stage}" for job in range(1, 10) for stage in STAGES]
            for path in paths:
                client.get(path)
            times = {path: median(lambda path=path: client.get(path), 5) for path in paths}  # type: ignore[misc]
            found["page, median"] = statistics.median(times.values())
            found["page, slowest"] = max(times.values())
            found |= _after_a_reading(client)
            content = decay_log()
            file = {"file": ("log.csv", content)}

            def bring() -> None:
                answer = client.post("/jobs/4/runs/decay/file", files=file, follow_redirects=False)
                assert answer.status_code == 303, answer.text

            found["day's log imported"] = took(bring)
            client.app.state.judged.forget([4])  # as after a restart: read and judged anew
            found["its page, first"] = took(lambda: client.get("/jobs/4/evacuate"))
            found["its page, again"] = median(lambda: client.get("/jobs/4/evacuate"), 5)
    found["second start"] = _second_start()
    return found


def _long_job() -> bytes:
    """A job file with a pull of ``LONG`` readings, packed."""
    import io
    import zipfile

    from fairline.core.readings import VacuumReadings, VacuumRun
    from fairline.demo.jobs import bindery
    from fairline.store import job_file

    t = np.arange(LONG, dtype=float)
    columns = {"instrument": ["g"] * LONG, "seq": np.arange(LONG), "t_s": t, "pa": 9e3 / (1 + t)}
    run = VacuumRun(
        uid="long",
        kind="pull",
        started_at=datetime(2026, 11, 2, tzinfo=UTC),
        readings=VacuumReadings(columns, LONG),
    )
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as packed:
        job = bindery().model_copy(update={"runs": (run,)})
        packed.writestr("job.json", "".join(job_file.write(job)))
    return file.getvalue()


def _long_file(client: object) -> dict[str, float]:
    """A job of 250 000 readings brought in: in seconds, and what it took of memory at most."""
    made = subprocess.run(
        [sys.executable, str(Path(__file__).resolve()), "--long-job"],
        capture_output=True,
        check=True,
    )
    file, before = {"file": ("job.zip", made.stdout)}, _most_memory_mb()

    def bring() -> None:
        answer = client.post("/jobs/import", data={"as_copy": "true"}, files=file)  # type: ignore[attr-defined]
        assert answer.status_code == 200, answer.text

    took_s = took(bring)
    return {"250 000 readings": took_s, "its memory, MB": _most_memory_mb() - before}


def _most_memory_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000


def _after_a_reading(client: object) -> dict[str, float]:
    """A reading posted into an open pull, and the page opened after it."""
    run = client.post("/api/jobs/2/runs/pull").json()["run"]  # type: ignore[attr-defined]
    posts, pages = [], []
    for n in range(15):
        body = [{"instrument": "g", "seq": n, "t_s": float(n), "pa": 300.0 - n}]
        url = f"/api/jobs/2/runs/{run}/readings"
        posts.append(took(lambda url=url, body=body: client.post(url, json=body)))  # type: ignore
        pages.append(took(lambda: client.get("/jobs/2/evacuate")))  # type: ignore[attr-defined]
    return {"reading posted": statistics.median(posts), "page after it": statistics.median(pages)}


def _second_start() -> float:
    import fairline

    root = Path(fairline.__file__).resolve().parent.parent
    with tempfile.TemporaryDirectory() as data:
        times = []
        for _ in range(4):
            begin = time.perf_counter()
            command = [
                sys.executable,
                "-c",
                "from fairline.cli import main; main()",
                "demo",
                "--port",
                "8797",
                "--data",
                data,
            ]
            process = subprocess.Popen(command, stdout=subprocess.DEVNULL, cwd=root)
            try:
                while True:
                    try:
                        urllib.request.urlopen("http://127.0.0.1:8797/").read()
                        break
                    except OSError:
                        time.sleep(0.01)
                times.append(time.perf_counter() - begin)
            finally:
                process.terminate()
                process.wait()
        return statistics.median(times[1:])


def measured(root: Path) -> dict[str, float]:
    """The figures of the checkout at ``root``, from a process of its own."""
    command = [sys.executable, str(Path(__file__).resolve()), "--here"]
    env = {"PYTHONPATH": str(root), "PATH": "/usr/bin:/bin"}
    answer = subprocess.run(command, cwd=root, env=env, capture_output=True, text=True, check=True)
    found: dict[str, float] = json.loads(answer.stdout.splitlines()[-1])
    return found


def yardsticks() -> dict[str, float]:
    return {
        "bare page": bare_page(),
        "raw insert": raw_insert(),
        "raw 250 000": raw_insert(LONG),
        "one fit": one_fit(),
    }


YARDSTICKS = {
    "page, median": "bare page",
    "page, slowest": "bare page",
    "page after it": "bare page",
    "reading posted": "bare page",
    "day's log imported": "raw insert",
    "250 000 readings": "raw 250 000",
    "its page, first": "one fit",
    "its page, again": "one fit",
}


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--against", help="a commit that is measured in turns with this checkout")
    parser.add_argument("--here", action="store_true", help=argparse.SUPPRESS)
    parser.add_argument("--long-job", action="store_true", help=argparse.SUPPRESS)
    asked = parser.parse_args()
    if asked.long_job:
        sys.stdout.buffer.write(_long_job())
        return
    if asked.here:
        print(json.dumps(of_application()))
        return
    with tempfile.TemporaryDirectory() as folder:
        roots = {"this checkout": HERE}
        if asked.against:
            other = Path(folder) / "other"
            git = ["git", "-C", str(HERE), "worktree"]
            subprocess.run([*git, "add", "--detach", "-q", str(other), asked.against], check=True)
            roots = {asked.against: other} | roots
        try:
            told, yard = [], []
            for _ in range(ROUNDS):
                yard.append(yardsticks())
                told += [(name, measured(root)) for name, root in roots.items()]
        finally:
            if asked.against:
                subprocess.run([*git, "remove", "--force", str(other)], check=True)
    sticks = {name: min(found[name] for found in yard) for name in yard[0]}
    print("   ".join(f"{name} {1000 * s:.1f} ms" for name, s in sticks.items()))
    for name in told[0][1]:
        line = f"{name:<22}"
        for root in roots:
            s = min(found[name] for of, found in told if of == root)
            stick = YARDSTICKS.get(name)
            ratio = f"{s / sticks[stick]:8.2f} × {stick}" if stick else ""
            figure = f"{s:9.1f}   " if name.endswith("MB") else f"{1000 * s:9.1f} ms"
            line += f"  {root[:14]:>14} {figure} {ratio:<22}"
        print(line)


if __name__ == "__main__":
    main()
