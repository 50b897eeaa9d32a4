"""How an instrument reports to a job: JSON over HTTP, numbered, kept until it was answered.

The protocol stands in docs/data.md: a reading is single by its instrument and number, so that what
was sent and not answered is sent again without harm.
"""

import json
import urllib.error
import urllib.request
from collections import deque
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import quote, urlsplit

from fairline.core.errors import FairLineError

MOST_AT_ONCE = 500  # readings of one request
ANSWER_WITHIN_S = 10.0


class JobAddressError(FairLineError):
    """What was given is not the address of a job: ``http://127.0.0.1:8000/jobs/3``."""


class RefusedError(FairLineError):
    """The job does not take these readings: it is gone, handed over, or they are not valid."""


@dataclass(frozen=True)
class RunLine:
    """A run of a job, in short; ``next_seq`` is the number that is free for this instrument."""

    uid: str
    kind: str
    readings: int
    last_s: float | None = None
    last_pa: float | None = None
    next_seq: int = 0
    ports: tuple[str, ...] = ()


@dataclass
class Reporter:
    """Sends readings to a job's runs; ``waiting`` are those that no answer has come for."""

    base: str
    job: int
    waiting: deque[tuple[str, dict[str, Any]]] = field(default_factory=deque)

    @classmethod
    def at(cls, address: str) -> "Reporter":
        """Of a job's address, as a browser shows it."""
        parts = urlsplit(address)
        way = parts.path.strip("/").split("/")
        if parts.scheme not in ("http", "https") or len(way) < 2 or way[0] != "jobs":
            raise JobAddressError(f"{address[:80]} is no job; give http://HOST:PORT/jobs/N")
        if not way[1].isdecimal():
            raise JobAddressError(f"{address[:80]} names no job by its number")
        return cls(f"{parts.scheme}://{parts.netloc}", int(way[1]))

    def runs(self, instrument: str) -> list[RunLine]:
        """The runs of the job, in order. Raises OSError without an answer."""
        return [RunLine(**line) for line in self._get(f"runs?instrument={quote(instrument)}")]

    def next_spot(self, instrument: str) -> int:
        """The first number that is free for what it shows outside a run."""
        found = self._get(f"instruments/next?instrument={quote(instrument)}")
        return int(found["next_seq"])

    def introduce(self, told: dict[str, Any]) -> None:
        """Say who it is and in which steps it shows. Raises OSError without an answer."""
        if not self._post("instruments", told | {"simulated": True}):
            raise OSError("no answer")

    def rig(self, ports: str = "") -> dict[str, Any]:
        """Volume, pump, hoses and temperature of the job, or of some ports, as far as known."""
        found: dict[str, Any] = self._get(f"rig?ports={quote(ports)}")
        return found

    def _get(self, what: str) -> Any:
        url = f"{self.base}/api/jobs/{self.job}/{what}"
        with urllib.request.urlopen(url, timeout=ANSWER_WITHIN_S) as answer:
            return json.load(answer)

    def take(self, run: str, reading: dict[str, Any]) -> None:
        """Keep a reading until the job has it; of no run: what it shows at a moment."""
        self.waiting.append((run, reading))

    def send(self) -> bool:
        """Send what waits, the oldest first; False where no answer came and it waits on.

        Raises RefusedError where the job will never take it.
        """
        while self.waiting:
            run = self.waiting[0][0]
            together: list[dict[str, Any]] = []
            for of, reading in self.waiting:
                if of != run or len(together) == MOST_AT_ONCE:
                    break
                together.append(reading)
            where = f"runs/{run}/readings" if run else "instruments/readings"
            if not self._post(where, together):
                return False
            for _ in together:
                self.waiting.popleft()
        return True

    def _post(self, where: str, told: Any) -> bool:
        url = f"{self.base}/api/jobs/{self.job}/{where}"
        body = json.dumps(told).encode()
        request = urllib.request.Request(
            url, body, {"content-type": "application/json"}, method="POST"
        )
        try:
            with urllib.request.urlopen(request, timeout=ANSWER_WITHIN_S):
                return True
        except urllib.error.HTTPError as error:
            if error.code >= 500:
                return False
            raise RefusedError(error.read().decode(errors="replace")[:300]) from error
        except OSError:
            return False
