"""A job with every stage judged, worked out once for a revision, whoever asks for it."""

from collections import OrderedDict
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from functools import cached_property
from threading import Lock
from typing import Any
from urllib.parse import quote
from weakref import WeakValueDictionary

from markupsafe import Markup
from sqlalchemy.orm import Session

from fairline.core import line
from fairline.core.call import StageCall
from fairline.core.job import Job
from fairline.core.line import AnyResult, LineResult
from fairline.core.practice import Rules
from fairline.core.route.cutting import SizePlan, VanStock, plans
from fairline.core.route.piping import Piping
from fairline.core.route.stage import RouteStageResult
from fairline.core.units import System
from fairline.store import board, house, jobs
from fairline.store.document import NotFoundError
from fairline.store.loaded import Stored

CACHED_JOBS = 64
MOST_SHOWN = 200  # of one revision of a job


def with_uid(address: str, uid: str) -> str:
    """An address that also says of which job it is: the number alone may be another's one day."""
    return f"{address}{'&' if '?' in address else '?'}job={quote(uid)}"


@dataclass(frozen=True, eq=False)
class JudgedJob:
    """A stored job with every stage worked out: what page, stream, record and board show of it.

    ``job`` is all of it; ``counted`` what of it counts: nothing struck out, nothing simulated
    but on a practice job.
    """

    stored: Stored
    worked: LineResult
    _shown: dict[Any, Any] = field(default_factory=dict)

    @property
    def id(self) -> int:
        return self.stored.id

    @property
    def revision(self) -> int:
        return self.stored.revision

    @property
    def versions(self) -> dict[str, int]:
        return self.stored.versions

    @property
    def job(self) -> Job:
        return self.stored.job

    @property
    def counted(self) -> Job:
        return self.worked.counted

    @property
    def rules(self) -> Rules:
        return self.worked.rules

    @cached_property
    def stages(self) -> dict[str, StageCall]:
        """The call of every stage, in the order of work."""
        return self.worked.calls

    @cached_property
    def pipes(self) -> Piping:
        return self.of(RouteStageResult).pipes

    def of(self, kind: type[AnyResult]) -> AnyResult:
        """What a stage worked out, by its own kind."""
        return self.worked.of(kind)

    @property
    def at(self) -> str:
        return line.current_stage(self.stages)

    def posts(self, path: str) -> str:
        """Where a form of this job posts to: its number, and its uid, by which it is known."""
        return with_uid(f"/jobs/{self.id}{path}", self.job.uid)

    def plans(self, van: VanStock) -> list[SizePlan]:
        """The cut plan from what is on the van, which is the house's: kept while that stays."""

        def work() -> list[SizePlan]:
            routed = self.of(RouteStageResult)
            return plans(self.job.route, routed.pipes, routed.traps, van, self.rules)

        found: list[SizePlan] = self.once(("plans", van), work)
        return found

    def drawn(self, what: str, system: System, draw: Callable[[], list[Markup]]) -> list[Markup]:
        """Drawings of this revision in one system of units, made once."""
        found: list[Markup] = self.once(("drawn", what, system), draw)
        return found

    def once(self, key: Any, work: Callable[[], Any]) -> Any:
        """What a page shows of this revision, made when it is first asked for."""
        found = self._shown.get(key)
        if found is None:
            if len(self._shown) > MOST_SHOWN:
                self._shown.clear()
            found = self._shown[key] = work()
        return found


class _JobLock:
    """Whose turn it is to judge a job."""

    def __init__(self) -> None:
        self.lock = Lock()


# a judged job, and the revisions of job and practice that it is good for
Held = tuple[tuple[int, int], JudgedJob]


class JudgedCache:
    """The last judged jobs, each good for one revision of job and practice."""

    def __init__(self) -> None:
        self._kept: OrderedDict[int, Held] = OrderedDict()
        self._lock = Lock()
        self._turns: WeakValueDictionary[int, _JobLock] = WeakValueDictionary()
        self.judgements = 0  # for the tests

    def get(
        self, session: Session, job_id: int, within: dict[int, Held] | None = None
    ) -> JudgedJob:
        """A job judged; ``within`` a change that is not kept yet, it stays there till it is.

        Nobody else may see it before, nor build on it: it may never be kept. Of many that ask for
        the same job at once one judges it, and all others wait for that.
        """
        if within is not None:
            return self._get(session, job_id, within)
        with self._lock:
            turn = self._turns.setdefault(job_id, _JobLock())
        with turn.lock:
            return self._get(session, job_id, None)

    def _get(self, session: Session, job_id: int, within: dict[int, Held] | None) -> JudgedJob:
        practice, practice_version = house.practice(session)
        key = (jobs.revision_of(session, job_id), practice_version)
        with self._lock:
            held = self._kept.get(job_id)
        if within is not None:
            held = within.get(job_id, held)
        if held and held[0] == key:
            return held[1]
        try:
            self.judgements += 1
            before = held[1] if held else None
            stored = jobs.load(session, job_id, before.stored if before else None)
            judged = JudgedJob(
                stored, line.work(stored.job, practice, before.worked if before else None)
            )
        except NotFoundError:
            raise
        except Exception as error:  # whatever the rules trip over is told, and stays one job's
            raise board.CannotJudgeError(job_id, board.words(error)) from error
        found = {job_id: ((judged.revision, practice_version), judged)}
        if within is None:
            self.keep(found)
        else:
            within |= found
        return judged

    def keep(self, found: dict[int, Held]) -> None:
        """What others may see: of what lies in the database for good."""
        with self._lock:
            for job_id, held in found.items():
                self._kept[job_id] = held
                self._kept.move_to_end(job_id)
            while len(self._kept) > CACHED_JOBS:
                self._kept.popitem(last=False)

    def forget(self, ids: Iterable[int]) -> None:
        with self._lock:
            for job_id in ids:
                self._kept.pop(job_id, None)
