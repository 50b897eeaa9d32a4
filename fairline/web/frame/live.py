"""Live parts of pages: one look at the database serves every page that watches a job.

A stream holds no connection to the database. While anybody watches a job, one task looks at its
revision, and where it moved makes the live part anew, once for each way of showing it; every
watcher gets the newest, and a heartbeat where nothing moves.
"""

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator, Callable, Sequence
from dataclasses import dataclass, field

from fastapi import Request
from starlette.concurrency import run_in_threadpool
from starlette.responses import StreamingResponse
from starlette.types import Receive, Scope, Send

from fairline.core.errors import FairLineError
from fairline.store.board import CannotJudgeError
from fairline.store.document import NotFoundError

LOOK_EVERY_S = 0.2  # how soon what nobody told of is on its way to the page
REST = 2.0  # how many times what a live part took is left before the next, for each watched job
LONGEST_REST_S = 1.0
HEARTBEAT_S = 10.0
ASK_EVERY_S = 5.0  # whether who watches may still look
MOST_WATCHERS = 200  # of one server
FULL = "Too many pages are watching. This one shows the job as it was when it was opened."
HEARTBEAT = ": still here\n\n"

Revision = Callable[[int], int | None]  # of a job; None where it is gone
Fragment = Callable[[Request, int], str]  # the live part of a job's page, as this request asks
Welcome = Callable[[Request], bool]  # whether who asked may still look


class FullError(FairLineError):
    """No more pages can watch now."""


def event(name: str, content: str) -> str:
    """One server-sent event; every line of its content is a data line."""
    lines = "\n".join(f"data: {line}" for line in content.splitlines() if line.strip())
    return f"event: {name}\n{lines}\n\n"


@dataclass
class Watcher:
    """One open page: how it is shown, and the newest event it has not sent yet."""

    request: Request
    job_id: int
    way: str
    waiting: asyncio.Event = field(default_factory=asyncio.Event)
    newest: str | None = None
    gone: bool = False
    asked_at: float = field(default_factory=time.monotonic)  # whether it may still look

    def tell(self, told: str) -> None:
        self.newest = told
        self.waiting.set()


@dataclass
class Made:
    """The live part of one revision of a job, by the way it is shown."""

    by_way: dict[str, str] = field(default_factory=dict)
    one_at_a_time: asyncio.Lock = field(default_factory=asyncio.Lock)


class Live:
    """All live streams of one server."""

    def __init__(self, revision: Revision, fragment: Fragment, welcome: Welcome) -> None:
        self._revision, self._fragment, self._welcome = revision, fragment, welcome
        self._watchers: dict[int, list[Watcher]] = {}
        self._tasks: dict[int, asyncio.Task[None]] = {}
        self._told: dict[int, asyncio.Event] = {}
        self._made: dict[int, Made] = {}
        self._loop: asyncio.AbstractEventLoop | None = None
        self.looks = 0  # at the database, for the tests and the bench

    @property
    def count(self) -> int:
        return sum(len(found) for found in self._watchers.values())

    def join(self, request: Request, job_id: int, way: str) -> Watcher:
        """A place among those that watch a job. Raises FullError where no more can."""
        if self.count >= MOST_WATCHERS:
            raise FullError(FULL)
        watcher = Watcher(request, job_id, way)
        self._watchers.setdefault(job_id, []).append(watcher)
        return watcher

    async def events(self, watcher: Watcher) -> AsyncIterator[str]:
        """The events of one page, until it leaves or the job is gone."""
        job_id = watcher.job_id
        self._loop = asyncio.get_running_loop()
        if job_id not in self._tasks or self._tasks[job_id].done():
            self._tasks[job_id] = asyncio.create_task(self._look(job_id))
        else:
            await self._tell(job_id, [watcher])
        while not watcher.gone:
            try:
                await asyncio.wait_for(watcher.waiting.wait(), HEARTBEAT_S)
            except TimeoutError:
                yield HEARTBEAT
                continue
            watcher.waiting.clear()
            newest, watcher.newest = watcher.newest, None
            if newest is not None:
                yield newest

    def notify(self) -> None:
        """Something was kept: look now. From any thread."""
        for event_ in list(self._told.values()):
            if self._loop is not None and not self._loop.is_closed():
                self._loop.call_soon_threadsafe(event_.set)

    def leave(self, watcher: Watcher) -> None:
        job_id = watcher.job_id
        left = [w for w in self._watchers.get(job_id, []) if w is not watcher]
        if left:
            self._watchers[job_id] = left
            return
        self._watchers.pop(job_id, None)
        self._told.pop(job_id, None)
        self._made.pop(job_id, None)
        if task := self._tasks.pop(job_id, None):
            task.cancel()

    async def _look(self, job_id: int) -> None:
        """Look at a job until nobody watches it, and tell its watchers what moved."""
        seen, kept = -1, self._told.setdefault(job_id, asyncio.Event())
        while self._watchers.get(job_id):
            self.looks += 1
            kept.clear()  # what is kept from here on is looked at in the next turn
            await self._send_away(job_id)
            revision = await run_in_threadpool(self._revision, job_id)
            if revision is None:
                for watcher in self._watchers.get(job_id, []):
                    watcher.gone = True
                    watcher.waiting.set()
                return
            took = 0.0
            if revision != seen:
                seen, begun = revision, time.perf_counter()
                self._made[job_id] = Made()
                await self._tell(job_id, list(self._watchers.get(job_id, [])))
                took = time.perf_counter() - begun
            # All live parts together leave most of the time to the pages that people open.
            await asyncio.sleep(min(REST * took * len(self._tasks), LONGEST_REST_S))
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(kept.wait(), LOOK_EVERY_S)

    async def _send_away(self, job_id: int) -> None:
        """Whoever may not look any more: the session has ended since, or the person has."""
        now = time.monotonic()
        for watcher in [
            w for w in self._watchers.get(job_id, []) if w.asked_at + ASK_EVERY_S < now
        ]:
            watcher.asked_at = now
            if not await run_in_threadpool(self._welcome, watcher.request):
                watcher.gone = True
                watcher.waiting.set()

    async def _tell(self, job_id: int, watchers: Sequence[Watcher]) -> None:
        """Tell them what was made of this revision; what nobody made yet is made once."""
        made = self._made.setdefault(job_id, Made())
        async with made.one_at_a_time:
            for watcher in watchers:
                if watcher.way not in made.by_way:
                    try:
                        shown = await run_in_threadpool(self._fragment, watcher.request, job_id)
                    except (NotFoundError, CannotJudgeError):
                        return  # the page itself says why when it is opened again
                    made.by_way[watcher.way] = event("live", shown)
                watcher.tell(made.by_way[watcher.way])

    def close(self) -> None:
        """End every stream: the server goes down."""
        for watchers in self._watchers.values():
            for watcher in watchers:
                watcher.gone = True
                watcher.waiting.set()


class Watching(StreamingResponse):
    """The events of one watcher, who leaves when the answer ends, however it ends."""

    def __init__(self, streams: Live, watcher: Watcher) -> None:
        self.streams, self.watcher = streams, watcher
        headers = {"Cache-Control": "no-store"}
        super().__init__(streams.events(watcher), media_type="text/event-stream", headers=headers)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        try:
            await super().__call__(scope, receive, send)
        finally:
            self.streams.leave(self.watcher)
