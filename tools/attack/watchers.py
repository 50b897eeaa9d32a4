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
SLOWEST_S = 2.0  # of an ordinary page beside forty that watch, from the moment they are opened


def page_ms(server: Server, rounds: int) -> list[float]:
    """The times of ordinary pages, in milliseconds."""
    times = []
    for _ in range(rounds):
        for path in PAGES:
            begin = time.perf_counter()
            urllib.request.urlopen(f"{server.url}{path}", timeout=60).read()
            times.append(1000 * (time.perf_counter() - begin))
    return times


class Crowd:
    """Watchers and gauges on one server, until it is over."""

    def __init__(self, server: Server, watching: int, instruments: int, tally: Tally) -> None:
        self.server, self.tally = server, tally
        self.done, self.lock = threading.Event(), threading.Lock()
        self.kept: dict[tuple[int, str, int], float] = {}
        self.events = [0] * watching
        self.runs = self._begun(instruments)
        self.watching = [
            threading.Thread(target=self.watch, args=(n,), daemon=True) for n in range(watching)
        ]
        self.reading = [threading.Thread(target=self.gauge, args=(n,)) for n in self.runs]

    def _begun(self, instruments: int) -> dict[int, tuple[int, str]]:
        """The run that each gauge reads into: the newest of its job."""
        runs: dict[int, tuple[int, str]] = {}
        for n in range(1, instruments + 1):
            job = 1 + n % 4
            status, made = self.server.ask(f"/api/jobs/{job}/runs/pull", {})
            runs[n] = (job, made["run"]) if status == 201 else runs[n - 1]
        newest = dict(runs.values())
        return {n: (job, newest[job]) for n, (job, _) in runs.items()}

    def open(self, n: int) -> None:
        """The page that a watcher looks at."""
        status, _ = self.server.read(f"/jobs/{1 + n % 4}/evacuate")
        with self.lock:
            self.tally.answered(f"page of watcher {n}", status or 500)

    def watch(self, n: int) -> None:
        url = f"{self.server.url}/jobs/{1 + n % 4}/evacuate/live"
        try:
            with urllib.request.urlopen(url, timeout=30) as stream:
                while not self.done.is_set():
                    if stream.readline().startswith(b"event:"):
                        self.events[n] += 1
        except OSError as error:
            if not self.done.is_set():
                with self.lock:
                    self.tally.failures.append(f"watcher {n}: {error}")

    def gauge(self, n: int) -> None:
        job, run = self.runs[n]
        seq = 0
        while not self.done.is_set():
            begin, value = time.monotonic(), 50_000.0 / (1 + seq) + n
            one = {"instrument": f"gauge {n}", "seq": seq, "t_s": seq * 1.0, "pa": value}
            status, _ = self.server.ask(f"/api/jobs/{job}/runs/{run}/readings", [one])
            with self.lock:
                self.tally.answered(f"gauge {n}", status or 500)
                if status == 200:
                    self.kept[job, f"gauge {n}", seq] = value
            seq += 1
            self.done.wait(max(0.0, INSTRUMENTS_EVERY_S - (time.monotonic() - begin)))

    def begin(self) -> None:
        """The watchers first, all at once with their pages; then the gauges."""
        opened = [threading.Thread(target=self.open, args=(n,)) for n in range(len(self.events))]
        for thread in (*opened, *self.watching):
            thread.start()
        patience = time.monotonic() + PATIENCE_S
        while not all(self.events) and time.monotonic() < patience:
            time.sleep(0.05)
        for thread in self.reading:
            thread.start()

    def end(self) -> None:
        """Everybody leaves; what was acknowledged and is not there is told as lost."""
        self.done.set()
        for thread in self.reading:
            thread.join()
        there = {}
        for job in {job for job, _ in self.runs.values()}:
            _, whole = self.server.ask(f"/api/jobs/{job}", timeout=120)
            for run in whole["runs"]:
                there |= {(job, r["instrument"], r["seq"]): r.get("pa") for r in run["readings"]}
        self.tally.lost += [f"{k}" for k, value in self.kept.items() if there.get(k) != value]
        blind = [n for n, seen in enumerate(self.events) if not seen]
        self.tally.lost += [f"watcher {n} saw nothing" for n in blind]


def watchers(
    folder: Path, watching: int, instruments: int, seconds: float, timed: bool = True
) -> Tally:
    """``watching`` live pages, ``instruments`` gauges at one reading a second, ``seconds`` long.

    Ordinary pages are opened from the moment at which the watchers come; ``timed``: one that takes
    longer than ``SLOWEST_S`` is a failure.
    """
    tally = Tally(f"{watching} watchers, {instruments} gauges, {seconds:.0f} s")
    server = Server(folder)
    server.start()
    page_ms(server, 3)
    idle = statistics.median(page_ms(server, 12))
    crowd = Crowd(server, watching, instruments, tally)
    busy: list[float] = []
    opening = threading.Thread(target=crowd.begin)
    opening.start()
    while opening.is_alive():
        busy += page_ms(server, 1)
    at_first, until = max(busy, default=0.0), time.monotonic() + seconds
    while time.monotonic() < until:
        busy += page_ms(server, 1)
        time.sleep(0.5)
    crowd.end()
    if timed and max(busy) > 1000 * SLOWEST_S:
        tally.failures.append(f"an ordinary page took {max(busy) / 1000:.1f} s")
    ratio, shown = statistics.median(busy) / idle, sum(crowd.events)
    tally.seen = (
        f"page {idle:.0f} ms idle, {ratio:.2f} × under it, {at_first:.0f} ms at most while they "
        f"came, {max(busy):.0f} ms in all; {shown} events shown"
    )
    server.stop()
    return tally
