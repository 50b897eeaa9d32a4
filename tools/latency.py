"""How soon a reading that an instrument sends stands on the pages that watch the pull."""

import statistics
import sys
import threading
import time
import urllib.request
from dataclasses import dataclass, field
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from tools.attack.server import PATIENCE_S, Server

WITHIN_MS = 250.0  # what a person takes for at once
WARM = 5  # readings before it is measured
EVERY_S = 0.7  # between two readings: no multiple of how often the server looks


@dataclass
class Pages:
    """Open pages on one job's stream, and when each was first shown each value."""

    server: Server
    job: int
    count: int
    seen: dict[tuple[int, str], float] = field(default_factory=dict)
    ready: int = 0

    def open(self) -> None:
        for n in range(self.count):
            threading.Thread(target=self._watch, args=(n,), daemon=True).start()
        until = time.monotonic() + PATIENCE_S
        while self.ready < self.count and time.monotonic() < until:
            time.sleep(0.02)

    def _watch(self, n: int) -> None:
        url = f"{self.server.url}/jobs/{self.job}/evacuate/live"
        begun = False
        with urllib.request.urlopen(url, timeout=120) as stream:
            for line in stream:
                if line.startswith(b"event:") and not begun:
                    begun = True
                    self.ready += 1
                if b"<strong>" in line:
                    for part in line.decode().split("<strong>")[1:]:
                        self.seen.setdefault((n, part.split("<")[0]), time.monotonic())


def latency_ms(folder: Path, watching: int = 10, readings: int = 30) -> list[float]:
    """From sending a reading until each page was sent it, in ms: every page and reading."""
    server = Server(folder)
    server.start()
    status, made = server.ask("/api/jobs/2/runs/pull", {})
    assert status == 201
    pages = Pages(server, 2, watching)
    pages.open()
    sent: dict[str, float] = {}
    for n in range(-WARM, readings):
        shown = f"{900 - n}"
        pa = (900 - n) * 101_325 / 760_000
        one = {"instrument": "g", "seq": n + WARM, "t_s": n + WARM * 1.0, "pa": pa}
        if n >= 0:
            sent[shown] = time.monotonic()
        server.ask(f"/api/jobs/2/runs/{made['run']}/readings", [one])
        time.sleep(EVERY_S)
    server.stop()
    found = []
    for shown, at in sent.items():
        found += [
            1000 * (pages.seen[n, shown] - at) if (n, shown) in pages.seen else float("inf")
            for n in range(watching)
        ]
    return found


def told(folder: Path) -> str:
    """The line of ``make bench``."""
    found = sorted(latency_ms(folder))
    late = sum(ms > WITHIN_MS for ms in found)
    return (
        f"a reading to ten pages: median {statistics.median(found):.0f} ms, "
        f"19 in 20 within {found[int(0.95 * len(found))]:.0f} ms, slowest {found[-1]:.0f} ms; "
        f"{late} of {len(found)} after {WITHIN_MS:.0f} ms"
    )


if __name__ == "__main__":
    import tempfile

    with tempfile.TemporaryDirectory() as data:
        print(told(Path(data)))
