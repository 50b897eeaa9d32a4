"""The server killed in the middle of a pull: what it acknowledged must be there afterwards."""

import random
import threading
import time
from pathlib import Path

from tools.attack.server import Server
from tools.attack.tally import Tally

JOB = 2


def kills(folder: Path, count: int, seed: int = 1) -> Tally:
    """Kill the server at random moments while two gauges send and notes are typed."""
    tally, chance = Tally("kills in a live pull"), random.Random(seed)
    server = Server(folder)
    server.start()
    status, made = server.ask(f"/api/jobs/{JOB}/runs/pull", {})
    assert status == 201, status
    url = f"/api/jobs/{JOB}/runs/{made['run']}/readings"
    kept: dict[tuple[str, int], float] = {}
    lock, done = threading.Lock(), threading.Event()

    def gauge(name: str) -> None:
        seq = 0
        while not done.is_set():
            value = 60_000.0 / (1 + seq)
            one = {"instrument": name, "seq": seq, "t_s": seq * 1.0, "pa": value}
            answered, _ = server.ask(url, [one], timeout=5)
            if answered == 200:
                with lock:
                    kept[name, seq] = value
                    tally.tried += 1
                seq += 1
            elif answered >= 500:
                with lock:
                    tally.failures.append(f"{name} {seq}: {answered}")
                seq += 1
            else:
                time.sleep(0.02)  # it is down: the same reading again

    threads = [threading.Thread(target=gauge, args=(f"gauge {n}",)) for n in range(2)]
    for thread in threads:
        thread.start()
    for _ in range(count):
        time.sleep(chance.uniform(0.05, 0.6))
        server.kill()
        server.start()
    done.set()
    for thread in threads:
        thread.join()
    _, job = server.ask(f"/api/jobs/{JOB}")
    run = next(r for r in job["runs"] if r["uid"] == made["run"])
    there = {(r["instrument"], r["seq"]): r["pa"] for r in run["readings"]}
    tally.lost += [f"{key}" for key, value in kept.items() if there.get(key) != value]
    for path in (f"/api/jobs/{JOB}/calls", "/api/jobs"):
        status, _ = server.ask(path)
        tally.answered(path, status or 500)
    server.stop()
    tally.seen = f"{count} kills, {len(kept)} readings acknowledged"
    return tally
