"""How an instrument reports to a job: JSON over HTTP, numbered, kept until it was answered.

The protocol stands in docs/data.md: a reading is single by its instrument and number, so that what
was sent and not answered is sent again without harm.
"""

import json
import re
import urllib.error
import urllib.request
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from http.client import HTTPException
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


class _NoWayOn(urllib.request.HTTPRedirectHandler):
    """A job answers where it is asked: whoever sends on to another place is not the job."""

    def redirect_request(self, *_: Any) -> None:
        return None


ASK = urllib.request.build_opener(_NoWayOn)


class NotTheJobError(FairLineError, OSError):
    """Something answers at the job's address that is not the job: a hot spot's page, say."""

    def __init__(self, seen: str) -> None:
        super().__init__(
            f"what answers is not the job ({seen}): is this network's own page in between?"
        )


@dataclass
class Reporter:
    """Sends readings to a job's runs; ``waiting`` are those that no answer has come for.

    ``tell`` hears of each new reason why readings wait, and a blank when they go out again.
    """

    base: str
    job: int
    uid: str = ""  # of the job, asked for once: its number may be another's later
    waiting: deque[tuple[str, dict[str, Any]]] = field(default_factory=deque)
    tell: Callable[[str], None] = lambda _: None
    token: str = ""  # what lets it in, where people sign in
    _told: str = ""

    @classmethod
    def at(cls, address: str, token: str = "") -> "Reporter":
        """Of a job's address, as a browser shows it."""
        try:
            parts = urlsplit(address)
            host, port = parts.hostname, parts.port
        except ValueError:
            host, port = None, None
        if not host or not re.fullmatch(r"[\w.:-]+", host):
            raise JobAddressError(f"{address[:80]} is no job; give http://HOST:PORT/jobs/N")
        way = parts.path.strip("/").split("/")
        if parts.scheme not in ("http", "https") or len(way) < 2 or way[0] != "jobs":
            raise JobAddressError(f"{address[:80]} is no job; give http://HOST:PORT/jobs/N")
        if not re.fullmatch(r"[1-9][0-9]{0,9}", way[1]):
            raise JobAddressError(f"{address[:80]} names no job by its number")
        at = f"[{host}]" if ":" in host else host
        base = f"{parts.scheme}://{at}" + (f":{port}" if port else "")
        return cls(base, int(way[1]), token=token)

    def runs(self, instrument: str) -> list[RunLine]:
        """The runs of the job, in order. Raises OSError without an answer."""
        found = self._get(f"runs?instrument={quote(instrument)}")
        try:
            return [RunLine(**line) for line in found]
        except TypeError:
            raise NotTheJobError("no list of runs") from None

    def next_spot(self, instrument: str) -> int:
        """The first number that is free for what it shows outside a run."""
        found = self._get(f"instruments/next?instrument={quote(instrument)}")
        if not isinstance(found, dict) or not isinstance(found.get("next_seq"), int):
            raise NotTheJobError("no number")
        return int(found["next_seq"])

    def introduce(self, told: dict[str, Any]) -> None:
        """Say who it is and in which steps it shows. Raises OSError without an answer."""
        answer = self._post("instruments", told | {"simulated": True})
        if answer != {"name": told["name"]}:
            raise NotTheJobError("it does not say the name back")

    def rig(self, ports: str = "") -> dict[str, Any]:
        """Volume, pump, hoses and temperature of the job, or of some ports, as far as known."""
        found = self._get(f"rig?ports={quote(ports)}")
        if not isinstance(found, dict):
            raise NotTheJobError("nothing of a rig")
        return found

    def take(self, run: str, reading: dict[str, Any]) -> None:
        """Keep a reading until the job has it; of no run: what it shows at a moment."""
        self.waiting.append((run, reading))

    def send(self) -> bool:
        """Send what waits, the oldest first; False where no answer came and it waits on.

        Only the job's own answer, that it has as many as were sent, lets them go. Raises
        RefusedError where the job will never take it.
        """
        while self.waiting:
            run = self.waiting[0][0]
            together: list[dict[str, Any]] = []
            for of, reading in self.waiting:
                if of != run or len(together) == MOST_AT_ONCE:
                    break
                together.append(reading)
            where = f"runs/{run}/readings" if run else "instruments/readings"
            try:
                self._all_taken(self._post(where, together), len(together))
            except OSError as error:
                self._say(str(error))
                return False
            self._say("")
            for _ in together:
                self.waiting.popleft()
        return True

    def _all_taken(self, answer: Any, sent: int) -> None:
        counts = [answer.get(n) for n in ("stored", "known")] if isinstance(answer, dict) else []
        numbers = [n for n in counts if type(n) is int and n >= 0]
        if len(numbers) != 2 or sum(numbers) != sent:
            raise NotTheJobError("it does not say that it has the readings")

    def _say(self, why: str) -> None:
        if why != self._told:
            self._told = why
            self.tell(why)

    def _get(self, what: str) -> Any:
        return self._ask(self._named(what))

    def _post(self, where: str, told: Any) -> Any:
        body = json.dumps(told).encode()
        return self._ask(
            urllib.request.Request(
                self._named(where), body, {"content-type": "application/json"}, method="POST"
            )
        )

    def _named(self, what: str) -> str:
        """The address of something of this job, the job named by its uid."""
        at = f"{self.base}/api/jobs/{self.job}/"
        if not self.uid:
            found = self._ask(f"{at}named")
            uid = found.get("uid") if isinstance(found, dict) else None
            if not isinstance(uid, str) or found.get("id") != self.job:
                raise NotTheJobError("it does not name the job")
            self.uid = uid
        return f"{at}{what}{'&' if '?' in what else '?'}job={quote(self.uid)}"

    def _ask(self, request: str | urllib.request.Request) -> Any:
        """What the job answers. Raises OSError where it does not, RefusedError where it says no."""
        if isinstance(request, str):
            request = urllib.request.Request(request)
        if self.token:
            request.add_unredirected_header("Authorization", f"Bearer {self.token}")
        try:
            with ASK.open(request, timeout=ANSWER_WITHIN_S) as answer:
                return _content(answer, "application/json")
        except urllib.error.HTTPError as error:
            if error.code >= 500:
                raise OSError(f"it answers {error.code}") from error
            said = _content(error, "application/problem+json")
            raise RefusedError(str(said)[:300]) from error
        except HTTPException as error:  # an address that cannot be, an answer broken off
            raise OSError(f"no answer that can be read: {type(error).__name__}") from error


def _content(answer: Any, wanted: str) -> Any:
    """The JSON of an answer. Raises NotTheJobError for anything else."""
    kind = answer.headers.get_content_type()
    if answer.status // 100 == 3 or kind != wanted:
        raise NotTheJobError(f"{answer.status}, {kind}")
    try:
        return json.loads(answer.read())
    except ValueError:
        raise NotTheJobError("no JSON that can be read") from None
