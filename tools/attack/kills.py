"""The server killed at random moments: what it acknowledged must be there afterwards.

Meanwhile gauges send, notes are saved, job files are taken in, backups are made by a process of
their own, and a second server is begun on the same folder. After each kill the database is checked.
"""

import json
import random
import sqlite3
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

from fairline.core.job import Job
from fairline.demo.jobs import bindery
from tools.attack.server import Server
from tools.attack.tally import Tally

JOB = 2
NOTED = 5  # the job that notes are saved on


class Worked:
    """What was done to one server, and what of it was acknowledged."""

    def __init__(self, server: Server, tally: Tally) -> None:
        self.server, self.tally = server, tally
        self.lock, self.done = threading.Lock(), threading.Event()
        self.readings: dict[tuple[str, int], float] = {}
        self.note = 0
        self.imported: set[str] = set()
        self.backups = 0
        status, made = server.ask(f"/api/jobs/{JOB}/runs/pull", {})
        assert status == 201, status
        self.run = made["run"]

    def until_done(self, work: Callable[[int], bool]) -> None:
        """The same piece of work again until it is answered, then the next."""
        n = 0
        while not self.done.is_set():
            if work(n):
                n += 1
            else:
                time.sleep(0.02)  # it is down

    def _counted(self, what: str, status: int) -> bool:
        with self.lock:
            if status:
                self.tally.answered(what, status)
        return status == 200 or status == 201

    def reading(self, name: str, seq: int) -> bool:
        value = 60_000.0 / (1 + seq)
        one = {"instrument": name, "seq": seq, "t_s": seq * 1.0, "pa": value}
        url = f"/api/jobs/{JOB}/runs/{self.run}/readings"
        if kept := self._counted(f"{name} {seq}", self.server.ask(url, [one], timeout=10)[0]):
            self.readings[name, seq] = value
        return kept

    def save(self, n: int) -> bool:
        fields = {"notes": str(n + 1), "_editor": "attack", "_turn": str(n + 1)}
        data = urllib.parse.urlencode(fields).encode()
        try:
            url = f"{self.server.url}/jobs/{NOTED}/charge"
            with urllib.request.urlopen(url, data, timeout=10) as answer:
                status = int(answer.status)
        except urllib.error.HTTPError as error:
            status = error.code
        except OSError:
            status = 0
        if kept := self._counted(f"note {n + 1}", status):
            self.note = n + 1
        return kept

    def take_in(self, n: int) -> bool:
        uid = f"taken-in-{n:06}"
        job = json.loads(Job.model_dump_json(bindery().model_copy(update={"uid": uid})))
        status, _ = self.server.ask("/api/jobs", job, timeout=10)
        if kept := status == 409 or self._counted(f"import {n}", status):  # it came in, unanswered
            self.imported.add(uid)
        return kept

    def back_up(self, n: int) -> bool:
        """A backup by another process, which holds what was acknowledged before it."""
        file, before = self.server.folder / f"attack-{n}.bak", set(self.imported)
        command = [sys.executable, "-m", "fairline.cli", "backup", str(file)]
        made = subprocess.run(
            [*command, "--data", str(self.server.folder)], capture_output=True, text=True
        )
        if made.returncode:
            self.tally.failures.append(f"backup: {made.stderr[:200]}")
            return True
        with closing(sqlite3.connect(file)) as opened:
            there = {uid for (uid,) in opened.execute("SELECT uid FROM job")}
        self.tally.lost += [f"{uid} in backup {n}" for uid in before - there]
        file.unlink()
        self.backups += 1
        return True

    def begin_another(self, n: int) -> bool:
        """A second server on the folder: it is refused while the first one lives."""
        command = [sys.executable, "-m", "fairline.cli", "demo", "--port", "0"]
        begun = subprocess.run(
            [*command, "--data", str(self.server.folder)],
            capture_output=True,
            text=True,
            timeout=60,
        )
        if begun.returncode == 0 or "Traceback" in begun.stderr:
            self.tally.failures.append(f"a second server: {begun.stderr[:200]}")
        self.done.wait(1.0)
        return True

    def there(self) -> None:
        """What was acknowledged and is not there is told as lost."""
        _, job = self.server.ask(f"/api/jobs/{JOB}")
        run = next(r for r in job["runs"] if r["uid"] == self.run)
        kept = {(r["instrument"], r["seq"]): r["pa"] for r in run["readings"]}
        lost = self.tally.lost
        lost += [f"{key}" for key, value in self.readings.items() if kept.get(key) != value]
        _, noted = self.server.ask(f"/api/jobs/{NOTED}")
        if int(noted["charge"].get("notes") or 0) < self.note:
            lost.append(f"note {self.note}")
        with closing(sqlite3.connect(self.server.folder / "fairline.db")) as opened:
            uids = {uid for (uid,) in opened.execute("SELECT uid FROM job")}
        lost += [uid for uid in self.imported if uid not in uids]
        for path in (f"/api/jobs/{JOB}/calls", "/api/jobs"):
            status, _ = self.server.ask(path)
            self.tally.answered(path, status or 500)


def _is_sound(folder: Path) -> str:
    """What is wrong with the database while no server holds it; blank for nothing."""
    with closing(sqlite3.connect(folder / "fairline.db")) as opened:
        (found,) = opened.execute("PRAGMA integrity_check").fetchone()
        broken = opened.execute("PRAGMA foreign_key_check").fetchall()
    return "" if found == "ok" and not broken else f"{found} {broken[:3]}"


def kills(folder: Path, count: int, seed: int = 1) -> Tally:
    """Kill the server at random moments while all this goes on."""
    tally, chance = Tally("kills in the middle of work"), random.Random(seed)
    server = Server(folder)
    server.start()
    worked = Worked(server, tally)
    work: list[Callable[[int], bool]] = [
        lambda n: worked.reading("gauge 1", n),
        lambda n: worked.reading("gauge 2", n),
        *(worked.save, worked.take_in, worked.back_up),
    ]
    threads = [threading.Thread(target=worked.until_done, args=(one,)) for one in work]
    for thread in threads:
        thread.start()
    for n in range(count):
        time.sleep(chance.uniform(0.1, 1.5))
        if n % 10 == 0:
            worked.begin_another(n)
        server.kill()
        if wrong := _is_sound(folder):
            tally.lost.append(f"after kill {n}: {wrong}")
        server.start()
    worked.done.set()
    for thread in threads:
        thread.join()
    worked.there()
    server.stop()
    tally.seen = (
        f"{count} kills, {len(worked.readings)} readings, {worked.note} saves, "
        f"{len(worked.imported)} imports acknowledged, {worked.backups} backups made"
    )
    return tally
