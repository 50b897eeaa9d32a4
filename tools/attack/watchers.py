"""Many open pages and many instruments: nothing lost, and the pages stay quick."""

import statistics
import threading
import time
import urllib.request
from pathlib import Path

from tools.attack.server import PATIENCE_S, Server
from tools.attack.tally import Tally

PAGES = ("/jobs/1/evacuate", "/jobs/2/route", "/jobs/3/flare", "/")
INSTRUMENTS_EVERY_S = 1.0  # how often a gauge sends


def page_ms(server: Server, rounds: int) -> float:
    """The median time of a page, in milliseconds."""
    times = []
    for _ in range(rounds):
        for path in PAGES:
            begin = time.perf_counter()
            urllib.request.urlopen(f"{server.url}{path}", timeout=60).read()
            times.append(1000 * (time.perf_counter() - begin))
    return statistics.median(times)


def watchers(folder: Path, watching: int, instruments: int, seconds: float) -> Tally:
    """``watching`` live pages, ``instruments`` gauges at one reading a second, ``seconds`` long."""
    tally = Tally(f"{watching} watchers, {instruments} gauges, {seconds:.0f} s")
    server = Server(folder)
    server.start()
    page_ms(server, 3)
    idle = page_ms(server, 12)
    done, lock = threading.Event(), threading.Lock()
    kept: dict[tuple[int, str, int], float] = {}
    events = [0] * watching
    runs = {}
    for job in range(1, instruments + 1):
        status, made = server.ask(f"/api/jobs/{1 + job % 4}/runs/pull", {})
        runs[job] = (1 + job % 4, made["run"]) if status == 201 else runs[job - 1]
    # the newest run of a job is the one that its gauges go on
    newest = dict(runs.values())
    runs = {n: (job, newest[job]) for n, (job, _) in runs.items()}

    def watch(n: int) -> None:
        url = f"{server.url}/jobs/{1 + n % 4}/evacuate/live"
        try:
            with urllib.request.urlopen(url, timeout=30) as stream:
                while not done.is_set():
                    if stream.readline().startswith(b"event:"):
                        events[n] += 1
        except OSError as error:
            if not done.is_set():
                with lock:
                    tally.failures.append(f"watcher {n}: {error}")

    def gauge(n: int) -> None:
        job, run = runs[n]
        seq = 0
        while not done.is_set():
            begin, value = time.monotonic(), 50_000.0 / (1 + seq) + n
            one = {"instrument": f"gauge {n}", "seq": seq, "t_s": seq * 1.0, "pa": value}
            status, _ = server.ask(f"/api/jobs/{job}/runs/{run}/readings", [one])
            with lock:
                tally.answered(f"gauge {n}", status or 500)
                if status == 200:
                    kept[job, f"gauge {n}", seq] = value
            seq += 1
            done.wait(max(0.0, INSTRUMENTS_EVERY_S - (time.monotonic() - begin)))

    threads = [threading.Thread(target=watch, args=(n,), daemon=True) for n in range(watching)]
    threads += [threading.Thread(target=gauge, args=(n,)) for n in runs]
    for thread in threads[:watching]:
        thread.start()
    patience = time.monotonic() + PATIENCE_S
    while not all(events) and time.monotonic() < patience:
        time.sleep(0.05)
    for thread in threads[watching:]:
        thread.start()
    busy, until = [], time.monotonic() + seconds
    while time.monotonic() < until:
        busy.append(page_ms(server, 1))
        time.sleep(0.5)
    done.set()
    for thread in threads[watching:]:
        thread.join()
    there = {}
    for job in {job for job, _ in runs.values()}:
        _, whole = server.ask(f"/api/jobs/{job}", timeout=120)
        for run in whole["runs"]:
            there |= {(job, r["instrument"], r["seq"]): r.get("pa") for r in run["readings"]}
    tally.lost += [f"{key}" for key, value in kept.items() if there.get(key) != value]
    tally.lost += [f"watcher {n} saw nothing" for n, seen in enumerate(events) if not seen]
    ratio = statistics.median(busy) / idle
    tally.seen = f"page {idle:.0f} ms idle, {ratio:.2f} × under it; {sum(events)} events shown"
    server.stop()
    return tally
