"""The board is looked at, all jobs judged anew, and people save: nobody is locked out or lost."""

import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from dataclasses import dataclass, field
from pathlib import Path

from tools.attack.server import Server
from tools.attack.tally import Tally

SAVING = (1, 2, 5, 6)  # jobs that somebody types into
SLOWEST_S = 5.0  # of one save: longer, and the page says that it is not kept


@dataclass
class Office:
    """Who saves, who looks at the board, who changes the house rules, on one server."""

    server: Server
    tally: Tally
    notes: dict[int, int] = field(default_factory=dict)  # the last that was acknowledged, by job
    slowest_s: float = 0.0
    lock: threading.Lock = field(default_factory=threading.Lock)
    done: threading.Event = field(default_factory=threading.Event)

    def post(self, path: str, fields: dict[str, str]) -> int:
        data = urllib.parse.urlencode(fields).encode()
        try:
            with urllib.request.urlopen(f"{self.server.url}{path}", data, timeout=60) as answer:
                return int(answer.status)
        except urllib.error.HTTPError as error:
            return error.code

    def save(self, job: int) -> None:
        turn = 0
        while not self.done.is_set():
            turn += 1
            begin = time.perf_counter()
            fields = {"notes": str(turn), "_editor": f"attack{job}", "_turn": str(turn)}
            status = self.post(f"/jobs/{job}/charge", fields)
            self._saved(job, turn, status, time.perf_counter() - begin)
            self.done.wait(0.1)

    def _saved(self, job: int, turn: int, status: int, took_s: float) -> None:
        with self.lock:
            self.tally.answered(f"save {turn} of job {job}", status)
            self.slowest_s = max(self.slowest_s, took_s)
            if status == 200:
                self.notes[job] = turn

    def look(self) -> None:
        while not self.done.is_set():
            status, _ = self.server.ask("/api/jobs", timeout=60)
            with self.lock:
                self.tally.answered("the board", status or 500)

    def rule(self) -> None:
        minutes = 60
        while not self.done.is_set():
            minutes = minutes + 1 if minutes < 90 else 61
            status = self.post("/rules", {"house.hold_min": f"{minutes} min"})
            with self.lock:
                self.tally.answered("the house rules", status)
                if status != 200:
                    self.tally.failures.append(f"the house rules are not taken: {status}")
            self.done.wait(0.5)

    def lost(self) -> None:
        for job, turn in self.notes.items():
            _, whole = self.server.ask(f"/api/jobs/{job}")
            if whole["charge"]["notes"] != str(turn):
                found = whole["charge"]["notes"]
                self.tally.lost.append(f"job {job}: note {turn}, there is {found}")


def writers(folder: Path, seconds: float, timed: bool = True) -> Tally:
    """Saves on some jobs while house rules change and the board is opened over and over.

    ``timed``: a save that takes longer than ``SLOWEST_S`` is a failure.
    """
    server, tally = Server(folder), Tally("the board beside writers")
    server.start()
    office = Office(server, tally)
    threads = [threading.Thread(target=office.save, args=(job,)) for job in SAVING]
    at_work = (office.look, office.look, office.rule)
    threads += [threading.Thread(target=work) for work in at_work]
    for thread in threads:
        thread.start()
    office.done.wait(seconds)
    office.done.set()
    for thread in threads:
        thread.join()
    if timed and office.slowest_s > SLOWEST_S:
        tally.failures.append(f"a save took {office.slowest_s:.1f} s")
    office.lost()
    server.stop()
    tally.seen = f"{sum(office.notes.values())} saves, slowest {office.slowest_s:.1f} s"
    return tally
