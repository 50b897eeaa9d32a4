"""The computer's clock is set back and forward in the middle of a hold: nothing grows or turns."""

import random
from datetime import UTC, datetime, timedelta

from starlette.testclient import TestClient

from fairline.store import clock
from tools.attack.tally import Tally

JOB = 4


class Computer:
    """A clock that is set now and then, and seconds that nobody sets."""

    def __init__(self) -> None:
        self.began = datetime.now(UTC)
        self.passed_s, self.set_s = 0.0, 0.0

    def wall(self) -> datetime:
        return self.began + timedelta(seconds=self.passed_s + self.set_s)


def clocks(client: TestClient, count: int, seed: int = 1) -> Tally:
    """Readings typed minutes apart, the clock set before some: each lies where it was read."""
    tally, chance, computer = Tally("a clock that jumps"), random.Random(seed), Computer()
    clock.use(clock.Clock(computer.wall, lambda: computer.passed_s))
    try:
        run = client.post(f"/api/jobs/{JOB}/runs/hold").json()["run"]
        read = []
        for _ in range(count):
            computer.passed_s += chance.randint(30, 900)
            if chance.random() < 0.4:
                computer.set_s += chance.choice((-1, 1)) * chance.choice((3600, 86_400, 31_536_000))
            fields = {"gauge_pa": "300 psi", "pipe_c": "20 C"}
            answer = client.post(f"/jobs/{JOB}/runs/hold/reading", data=fields)
            tally.answered("a reading", answer.status_code)
            read.append(float(int(computer.passed_s)))
        runs = client.get(f"/api/jobs/{JOB}").json()["runs"]
        kept = next(r for r in runs if r["uid"] == run)["readings"]
        found = [r["t_s"] for r in sorted(kept, key=lambda r: r["seq"])]
        tally.lost += [f"{a} is kept as {b}" for a, b in zip(read, found, strict=False) if a != b]
        tally.lost += [f"{len(read) - len(found)} readings"] if len(read) != len(found) else []
        shown = client.get(f"/jobs/{JOB}/pressure-test").text
        if computer.set_s and "clock was set" not in shown:
            tally.failures.append("the page does not say that the clock was set")
    finally:
        clock.use(clock.Clock())
    tally.seen = f"{len(read)} readings in {computer.passed_s / 3600:.1f} h"
    return tally
