"""Speed and memory, as ratios within one run: pages, a long log, the stream, the start.

A ratio compares with a fixed piece of arithmetic timed in the same run, so that machines of
different speed print about the same figures. Milliseconds are printed beside for orientation.
"""

import re
import resource
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import curve_fit
from sqlalchemy import delete, insert, select
from starlette.testclient import TestClient

from fairline.core.calc.cut_plan import CutPlanRequest, cut_plan
from fairline.core.calc.head_position import (
    HeadBody,
    HeadClear,
    HeadPositionRequest,
    PlatePoint,
    WallHole,
    WallItem,
    head_position,
)
from fairline.core.stages import TITLES as STAGES
from fairline.demo.load import load_demo
from fairline.demo.sheets import SHELF
from fairline.settings import Settings
from fairline.store import sheets_file
from fairline.store.models import JobRow
from fairline.web.app import create_app

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from tools import confusion, latency
from tools.attack.watchers import watchers

Floats = NDArray[np.float64]
RUNS = 15
LONG_LOG = 86_400
TOLD: dict[str, float] = {}  # milliseconds of each row that was printed


def yardstick() -> None:
    """The fixed piece of arithmetic: about 10 ms on a machine of 2024."""
    total = 0
    for i in range(250_000):
        total += i * i % 7
    assert total


def median_ms(work: Callable[[], object], runs: int = RUNS) -> float:
    times = []
    for _ in range(runs):
        begin = time.perf_counter()
        work()
        times.append((time.perf_counter() - begin) * 1000)
    return statistics.median(times)


def row(name: str, ms: float, unit_ms: float, note: str = "") -> None:
    TOLD[name] = ms
    print(f"{name:<46} {ms:9.1f} ms  {ms / unit_ms:7.2f} × yardstick  {note}")


def pages(client: TestClient, unit_ms: float) -> None:
    paths = ["/", "/shelf", "/cylinders", *(f"/jobs/{j}/{s}" for j in range(1, 10) for s in STAGES)]
    paths += [f"/jobs/6/mount?part={part}" for part in ("B", "C", "outdoor")]
    for path in paths:
        client.get(path)
    times = {path: median_ms(lambda path=path: client.get(path), 5) for path in paths}
    row("page of the demo, median", statistics.median(times.values()), unit_ms)
    slowest = max(times, key=lambda p: times[p])
    row("page of the demo, slowest", times[slowest], unit_ms, slowest)
    sizes = [len(client.get(p).content) for p in paths]
    print(f"{'page, largest, before compression':<46} {max(sizes) / 1000:9.1f} kB")


def saving(client: TestClient, unit_ms: float) -> None:
    legs = {
        f"runs.A.legs.{i}.{k}": v
        for i in range(6)
        for k, v in (("direction", "up" if i % 2 else "left"), ("length_m", f"{i + 2} ft"))
    }
    count = iter(range(10_000))

    def save() -> None:
        headers = {"hx-request": "true"}
        client.post("/jobs/4/route", data=legs | {"notes": str(next(count))}, headers=headers)

    row("a typed change of the route, saved and drawn", median_ms(save), unit_ms)


def trunk_of_ten(client: TestClient, unit_ms: float) -> None:
    """A leg of a trunk with ten heads changed, saved, judged and drawn; a cut plan of ten runs."""
    for _ in range(4):
        client.post("/jobs/8/route/heads", data={})
    count = iter(range(1, 10_000))

    def edit(part: str) -> None:
        n = next(count)
        data = {
            "runs.A.legs.0.length_m": f"{1.2 + n % 50 / 100} m",
            "_editor": "route",
            "_turn": str(n),
        }
        client.post(f"/jobs/8/route?part={part}", data=data, headers={"hx-request": "true"})

    for part in ("system", "runs.A"):
        row(
            f"a trunk of ten heads, one leg changed, {part}",
            median_ms(lambda part=part: edit(part)),
            unit_ms,
        )
    plan = CutPlanRequest.model_validate(
        {
            "runs": [{"id": str(n), "length_m": 3.1 + 1.07 * n} for n in range(10)],
            "stock": [
                {"id": "roll", "length_m": 15.24},
                *({"id": f"off-cut {n}", "length_m": 2.0 + 1.3 * n, "count": 1} for n in range(6)),
            ],
        }
    )
    row("a cut plan of ten runs, proven", median_ms(lambda: cut_plan(plan), 3), unit_ms)


def long_log(client: TestClient, unit_ms: float) -> None:
    lines = "\n".join(f"{t},{300 - t / 40_000:.2f},{20 - t / 20_000:.3f}" for t in range(LONG_LOG))
    content = f"t_s,gauge_psi,pipe_c\n{lines}\n".encode()
    begin = time.perf_counter()
    answer = client.post("/jobs/4/runs/hold/file", files={"file": ("log.csv", content)})
    assert answer.status_code == 200
    row("a day at 1 Hz, imported and shown", (time.perf_counter() - begin) * 1000, unit_ms)
    shown = client.get("/jobs/4/pressure-test")
    print(f"{'its page':<46} {len(shown.content) / 1000:9.1f} kB")


def large_decay(client: TestClient, unit_ms: float, readings: int = 200_000) -> None:
    """A decay of 200 000 readings, imported, judged and drawn; against one SciPy fit of them."""
    chance = np.random.default_rng(1)
    t = np.arange(readings, dtype=float)
    pa = 27 + 12 * (1 - np.exp(-t / 9000)) + chance.normal(0, 0.05, readings)
    lines = "\n".join(f"{int(s)},{p:.3f}" for s, p in zip(t, pa, strict=True))
    file = {"file": ("decay.csv", f"t_s,pa\n{lines}\n".encode())}
    begin = time.perf_counter()
    answer = client.post("/jobs/4/runs/decay/file", files=file, follow_redirects=False)
    assert answer.status_code == 303
    row(f"{readings} readings of a decay, imported", 1000 * (time.perf_counter() - begin), unit_ms)

    def law(s: Floats, a: float, b: float, c: float) -> Floats:
        return np.asarray(a + b * (1 - np.exp(-s / c)))

    fit_ms = median_ms(lambda: curve_fit(law, t, pa, (27.0, 10.0, 5000.0)), 3)
    client.app.state.judged.forget([4])  # type: ignore[attr-defined]
    first_ms = median_ms(lambda: client.get("/jobs/4/evacuate"), 1)
    again_ms = median_ms(lambda: client.get("/jobs/4/evacuate"), 5)
    shown = client.get("/jobs/4/evacuate").text
    drawn = sum(len(svg) for svg in re.findall(r"<svg.*?</svg>", shown, re.S) if "chart-" in svg)
    row("its page, first", first_ms, unit_ms, f"{first_ms / fit_ms:.1f} × one SciPy fit of all")
    row("its page, again", again_ms, unit_ms, f"{again_ms / fit_ms:.2f} × one SciPy fit of all")
    print(f"{'drawn, wide and narrow together':<46} {drawn / 1000:9.1f} kB")


LOOKED_FOR = {
    "/": "its first page",
    "/?page=300": "a page far on",
    "/?q=foundry": "a word",
    "/?q=kestrel+gas": "two words that all have",
    "/?q=zzzz": "a word that none has",
    "/?state=person": "what needs a person",
    "/?stage=wire": "those that stand at Wire",
    "/?today=true": "today's",
}


def board(client: TestClient, unit_ms: float) -> None:
    """The board's first page with few jobs and with ten thousand."""
    few = {path: median_ms(lambda path=path: client.get(path)) for path in LOOKED_FOR}
    for path, words in LOOKED_FOR.items():
        row(f"board of nine jobs, {words}", few[path], unit_ms)
    with client.app.state.database.session() as session:  # type: ignore[attr-defined]
        kept = session.scalars(select(JobRow)).all()
        session.execute(
            insert(JobRow),
            [
                {
                    "id": 100_000 + n,
                    "uid": f"copy-{n:06}-of-a-job",
                    "head": one.head,
                    "equipment": {},
                    "stale": False,
                    "created_at": one.created_at,
                    "brief": one.brief,
                    "urgency": one.urgency,
                    "found_by": one.found_by,
                    "stands_at": one.stands_at,
                    "last_on": one.last_on,
                }
                for n in range(10_000)
                for one in (kept[n % len(kept)],)
            ],
        )
        session.commit()
    for path, words in LOOKED_FOR.items():
        many = median_ms(lambda path=path: client.get(path))
        row(f"board of 10 000 jobs, {words}", many, unit_ms, f"{many / few[path]:.1f} × nine")
    with client.app.state.database.session() as session:  # type: ignore[attr-defined]
        session.execute(delete(JobRow).where(JobRow.uid.like("copy-%")))
        session.commit()


def placing(client: TestClient, unit_ms: float) -> None:
    """The nearest place on a wall with ten things, and a move of the head saved and drawn."""
    wall = crowded_wall()
    row("nearest place among ten things", median_ms(lambda: head_position(wall)), unit_ms)
    count = iter(range(10_000))

    def move() -> None:
        data = {
            "_part": "walls.A",
            "walls.A.width_m": "4 m",
            "walls.A.ceiling_m": "2.7 m",
            "walls.A.x_m": f"{1.5 + next(count) % 90 / 100} m",
            "walls.A.y_m": "2 m",
            "walls.A.stud_first_m": "0.4 m",
            "walls.A.stud_spacing_m": "16 in",
            "_editor": "bench",
            "_turn": str(next(count)),
        }
        client.post("/jobs/5/mount?part=A", data=data, headers={"hx-request": "true"})

    row("a head moved, judged, saved and drawn", median_ms(move), unit_ms)


def crowded_wall() -> HeadPositionRequest:
    things = [
        WallItem(
            id=str(i),
            way=("flush", "standing", "service")[i % 3],
            x_m=0.3 + 0.45 * i,
            y_m=0.4 + 0.2 * (i * 7 % 10),
            width_m=0.2,
            height_m=0.4,
        )
        for i in range(10)
    ]
    return HeadPositionRequest(
        wall_width_m=5.0,
        ceiling_m=2.7,
        studs_m=[0.2 + 0.4064 * k for k in range(12)],
        items=things,
        head=HeadBody(width_m=0.8, height_m=0.3, x_m=2.4, y_m=1.9),
        clear=HeadClear(left_m=0.1, right_m=0.1, above_m=0.08, low_m=1.0, high_m=2.3),
        hole=WallHole(x_m=0.3, y_m=0.05, diameter_m=0.065, fall_m=0.013, service_margin_m=0.025),
        screws=[PlatePoint(x_m=x, y_m=y) for y in (0.1, 0.24) for x in (-0.3, -0.1, 0.1, 0.3)],
        screw_margin_m=0.025,
        in_studs=2,
    )


def full_shelf(client: TestClient, unit_ms: float) -> None:
    """Five thousand sheets onto the shelf, and the pages that read from it then."""
    many = [
        sheet.model_copy(update={"model": f"{sheet.model}-{n}"})
        for n in range(5000 // len(SHELF) + 1)
        for sheet in SHELF
    ]
    content = sheets_file.to_json(many).encode()
    begin = time.perf_counter()
    answer = client.post("/shelf/import", files={"file": ("sheets.json", content)})
    assert answer.status_code == 200
    row(f"{len(many)} sheets imported", (time.perf_counter() - begin) * 1000, unit_ms)
    for path in ("/shelf", "/jobs/6/survey"):
        client.get(path)
        row(f"{path} on that shelf", median_ms(lambda p=path: client.get(p), 5), unit_ms)


def start(unit_ms: float) -> None:
    fairline = Path(sys.executable).parent / "fairline"
    with tempfile.TemporaryDirectory() as data:
        times = []
        for i in range(4):
            begin = time.perf_counter()
            process = subprocess.Popen(
                [fairline, "demo", "--port", "8797", "--data", data], stdout=subprocess.PIPE
            )
            try:
                while True:
                    try:
                        urllib.request.urlopen("http://127.0.0.1:8797/").read()
                        break
                    except OSError:
                        time.sleep(0.01)
                if i:
                    times.append((time.perf_counter() - begin) * 1000)
            finally:
                process.terminate()
                process.wait()
        row("second start of the demo to its first page", statistics.median(times), unit_ms)


def main() -> None:
    confusion.table()
    unit_ms = median_ms(yardstick)
    print(f"yardstick {unit_ms:.1f} ms")
    with tempfile.TemporaryDirectory() as data:
        settings = Settings(Path(data))
        load_demo(settings)
        with TestClient(
            create_app(settings), base_url="http://127.0.0.1:8000", client=("127.0.0.1", 50_000)
        ) as client:
            pages(client, unit_ms)
            board(client, unit_ms)
            saving(client, unit_ms)
            trunk_of_ten(client, unit_ms)
            before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
            long_log(client, unit_ms)
            large_decay(client, unit_ms)
            grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before
            print(f"{'memory it took at most':<46} {grown / 1000:9.1f} MB")
            placing(client, unit_ms)
            full_shelf(client, unit_ms)
    start(unit_ms)
    with tempfile.TemporaryDirectory() as data:
        print(watchers(Path(data), 50, 10, 30))
    with tempfile.TemporaryDirectory() as data:
        print(latency.told(Path(data)))


if __name__ == "__main__":
    main()
