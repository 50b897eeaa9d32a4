"""One request: who asks, in which units, and the job with every stage judged."""

import json
import re
import secrets
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from functools import cached_property
from threading import Lock
from typing import Annotated, Any
from urllib.parse import quote, unquote
from weakref import WeakValueDictionary

from fastapi import Depends, Path, Request
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup
from sqlalchemy.orm import Session
from starlette.datastructures import FormData

from fairline.core import line
from fairline.core.brief import brief
from fairline.core.call import StageCall
from fairline.core.flare.stage import FlareWorked
from fairline.core.job import Job
from fairline.core.line import AnyWorked, LineWorked
from fairline.core.physics.constants import YEAR_S
from fairline.core.practice import Rules
from fairline.core.proofs import changed_parts, words
from fairline.core.route.cutting import SizePlan, VanStock, plans
from fairline.core.route.piping import Piping
from fairline.core.route.stage import RouteWorked
from fairline.core.sheet import Head, Outdoor
from fairline.core.survey.proposal import Proposal, Wanted, propose
from fairline.core.units import System
from fairline.store import board, clock, edits, house, jobs, sent, shelf, subjects
from fairline.store.clock import now
from fairline.store.document import NotFoundError
from fairline.store.edits import Editing
from fairline.store.loaded import Stored
from fairline.store.models import JobRow
from fairline.store.sqlite import begin_write
from fairline.web.moments import in_zone, moment_typed

CACHED_JOBS = 64
MOST_SHOWN = 200  # of one revision of a job


@dataclass(frozen=True, eq=False)
class Judged:
    """A stored job with every stage worked out: what page, stream, record and board show of it.

    ``job`` is all of it; ``counted`` what of it counts: nothing struck out, nothing simulated
    but on a practice job.
    """

    stored: Stored
    worked: LineWorked
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
        return self.of(RouteWorked).pipes

    def of(self, kind: type[AnyWorked]) -> AnyWorked:
        """What a stage worked out, by its own kind."""
        return self.worked.of(kind)

    @property
    def at(self) -> str:
        return line.where(self.stages)

    def posts(self, path: str) -> str:
        """Where a form of this job posts to: its number, and its uid, by which it is known."""
        return of_job(f"/jobs/{self.id}{path}", self.job.uid)

    def plans(self, van: VanStock) -> list[SizePlan]:
        """The cut plan from what is on the van, which is the house's: kept while that stays."""

        def work() -> list[SizePlan]:
            routed = self.of(RouteWorked)
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


class _Turn:
    """Whose turn it is to judge a job."""

    def __init__(self) -> None:
        self.lock = Lock()


# a judged job, and the revisions of job and practice that it is good for
Held = tuple[tuple[int, int], Judged]


class JudgedCache:
    """The last judged jobs, each good for one revision of job and practice."""

    def __init__(self) -> None:
        self._kept: OrderedDict[int, Held] = OrderedDict()
        self._lock = Lock()
        self._turns: WeakValueDictionary[int, _Turn] = WeakValueDictionary()
        self.judgements = 0  # for the tests

    def get(self, session: Session, job_id: int, within: dict[int, Held] | None = None) -> Judged:
        """A job judged; ``within`` a change that is not kept yet, it stays there till it is.

        Nobody else may see it before, nor build on it: it may never be kept. Of many that ask for
        the same job at once one judges it, and all others wait for that.
        """
        if within is not None:
            return self._get(session, job_id, within)
        with self._lock:
            turn = self._turns.setdefault(job_id, _Turn())
        with turn.lock:
            return self._get(session, job_id, None)

    def _get(self, session: Session, job_id: int, within: dict[int, Held] | None) -> Judged:
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
            judged = Judged(
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


# the shelf's revision, the heads, the length of line, and what was proposed for them
Proposed = tuple[tuple[int, int], list[Wanted], float | None, Rules, list[Proposal]]


class ShelfCache:
    """Outdoor units and heads of the shelf, and what was proposed: good for one revision of it."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[tuple[int, int], list[Any]]] = {}
        self._proposed: OrderedDict[int, Proposed] = OrderedDict()

    def proposals(
        self,
        visit: "Visit",
        job_id: int,
        heads: list[Wanted],
        length_m: float | None,
        rules: Rules,
    ) -> list[Proposal]:
        """What carries these heads; worked out again where heads or shelf have changed."""
        at = visit.shelf_at
        held = self._proposed.get(job_id)
        if held is None or held[:4] != (at, heads, length_m, rules):
            found = propose(heads, self.get(visit, "outdoor"), length_m, rules)
            held = (at, heads, length_m, rules, found)
            self._proposed[job_id] = held
            while len(self._proposed) > CACHED_JOBS:
                self._proposed.popitem(last=False)
        return held[4]

    def get(self, visit: "Visit", kind: str) -> list[Any]:
        at = visit.shelf_at
        held = self._kept.get(kind)
        if held is None or held[0] != at:
            held = (at, [s.sheet for s in shelf.sheets(visit.session, kind)])
            self._kept[kind] = held
        return held[1]


class Visit:
    """What an endpoint needs of the request; one database session lasts as long as it."""

    def __init__(self, request: Request, session: Session) -> None:
        self.request, self.session = request, session
        known = request.cookies.get("fairline_hand", "")
        self.new_hand = not re.fullmatch(r"[0-9a-f]{16}", known)
        self.hand = secrets.token_hex(8) if self.new_hand else known
        self._shelf_at: tuple[int, int] | None = None
        self._within: dict[int, Held] | None = None  # judged in a change that is under way

    @property
    def shelf_at(self) -> tuple[int, int]:
        """The shelf's revision, looked up once in a request and again after a change."""
        if self._shelf_at is None:
            self._shelf_at = shelf.revision(self.session)
        return self._shelf_at

    @cached_property
    def company(self) -> house.Company:
        """Whose jobs they are, and the time zone that their moments are shown in."""
        return house.company(self.session)

    @property
    def zone(self) -> str:
        """The time zone of what is shown and typed: the company's, else this browser's own."""
        own = unquote(self.request.cookies.get("fairline_zone", ""))[:60]
        return self.company.zone or (own if house.zone_named(own) else "")

    @property
    def system(self) -> System:
        return "si" if self.request.cookies.get("fairline_units") == "si" else "us"

    @property
    def theme(self) -> str:
        theme = self.request.cookies.get("fairline_theme", "")
        return theme if theme in ("light", "dark") else ""

    @property
    def person(self) -> str:
        """The current person: the one seam that accounts would come in through."""
        return unquote(self.request.cookies.get("fairline_person", ""))[:100]

    @property
    def cautions_read(self) -> list[str]:
        """The marks of the cautions that were read in this browser; the script folds them."""
        return self.request.cookies.get("fairline_read", "").split("_")[:200]

    def _token(self) -> str:
        """Under what a page's script sent this act; blank where none did."""
        told = self.request.headers.get("x-fairline-once", "")
        return told if re.fullmatch(r"[0-9a-f]{24}", told) else ""

    def now(self) -> datetime:
        """When the act was done: an act that waited for a signal says how long ago, in s."""
        told = self.request.headers.get("x-fairline-ago", "")
        ago_s = int(told) if re.fullmatch(r"\d{1,6}", told) else 0
        return now() - timedelta(seconds=ago_s)

    @property
    def late(self) -> bool:
        """Whether the act waited for a signal: it was done before it is told."""
        return re.fullmatch(
            r"[1-9]\d{0,5}", self.request.headers.get("x-fairline-ago", "")
        ) is not (None)

    def done(self, data: FormData) -> datetime | str:
        """When an act was done, as it was typed beside it (``_done``); now where nothing was.

        What is not understood comes back as it was typed, for the field's own error.
        """
        typed = str(data.get("_done") or "").strip()
        zone = house.zone_named(self.zone)
        return moment_typed(typed, self.now(), zone) or f"“{typed[:60]}”"

    @property
    def htmx(self) -> bool:
        return self.request.headers.get("hx-request") == "true"

    @contextmanager
    def change(self, settles: bool = True) -> Iterator[Session]:
        """One change, in one transaction: all of it is kept, or nothing.

        Every job it touches is judged in it, and what the board shows kept with it; one that
        cannot be judged so raises CannotJudgeError, and nothing is kept. ``settles`` is False for
        readings of an instrument: they come many times a second.
        """
        self._shelf_at = None
        begin_write(self.session)
        edits.begin_bunch(self.session)
        self.session.info[jobs.SHOWN] = self.request.headers.get("x-fairline-subject", "")[:24]
        self._within = {}
        try:
            if token := self._token():
                sent.once(self.session, token)
            yield self.session
            self.session.flush()
            for job_id in jobs.touched(self.session) if settles else ():
                self.settle(job_id)
            clock.keep(self.session)
            self.session.commit()
            self._shelf_at = None
            cache: JudgedCache = self.request.app.state.judged
            cache.keep(self._within)
            self.request.app.state.live.poke()
        except BaseException:
            self.session.rollback()
            jobs.touched(self.session)  # none is, any more
            raise
        finally:
            self._within = None

    def settle(self, job_id: int) -> None:
        """Judge a job as this change leaves it, and keep its brief; the page reads the same."""
        if self.session.get(JobRow, job_id) is None:
            return  # it was taken out
        judged = self.judged(job_id)
        if self._keep_parts(judged):
            jobs.touch(self.session, job_id)  # it knows since when it has had which parts
            jobs.touched(self.session)
            judged = self.judged(job_id)
        board.keep(self.session, job_id, brief(judged.job, judged.at, judged.stages))

    def _keep_parts(self, judged: Judged) -> bool:
        """Keep the machines and tubes of a job where they are others than before."""
        proofs = judged.of(FlareWorked).proofs
        before = judged.job.subjects.get(proofs.since[-1].subject) if proofs.since else None
        what = ""
        if before is not None:
            what = "; ".join(words(d) for d in changed_parts(before.parts, proofs.now)[:3])
        return subjects.keep(
            self.session, judged.id, proofs.now, self.now(), self.person, what[:200]
        )

    def judged(self, job_id: int) -> Judged:
        cache: JudgedCache = self.request.app.state.judged
        return cache.get(self.session, job_id, self._within)

    def outdoors(self) -> list[Outdoor]:
        cache: ShelfCache = self.request.app.state.shelf
        return cache.get(self, "outdoor")

    def proposals(
        self, job_id: int, heads: list[Wanted], length_m: float | None, rules: Rules
    ) -> list[Proposal]:
        cache: ShelfCache = self.request.app.state.shelf
        return cache.proposals(self, job_id, heads, length_m, rules)

    def heads(self) -> list[Head]:
        cache: ShelfCache = self.request.app.state.shelf
        return cache.get(self, "head")

    def sheets(self, kind: str) -> list[Any]:
        """The shelf's sheets of a kind."""
        cache: ShelfCache = self.request.app.state.shelf
        return cache.get(self, kind)

    def onward(self, url: str, person: str = "") -> RedirectResponse:
        """On to a page after a change; who did it is remembered for the next time."""
        response = RedirectResponse(url, 303)
        if person:
            remember_person(response, person)
        return response

    def new_editor(self) -> str:
        """A token for one opened page, so that a person is never in conflict with herself.

        It begins with the browser's own, by which a person takes back only her own edits.
        """
        return f"{self.hand}.{secrets.token_hex(8)}"

    @property
    def edit(self) -> Editing:
        """An edit that no opened form makes, but an order on a page."""
        return Editing(editor=self.new_editor(), by=self.person)


def whole_job(visit: Visit, job_id: int) -> str:
    """A job as its file has it; one that cannot be judged or read any more goes out as it lies."""
    try:
        return visit.judged(job_id).job.model_dump_json(indent=1)
    except board.CannotJudgeError:
        return json.dumps(jobs.document(visit.session, job_id), indent=1)


def remember(response: Response, name: str, value: str) -> None:
    """Keep something of this browser's person for a year."""
    response.set_cookie(
        f"fairline_{name}", value, max_age=round(YEAR_S), httponly=True, samesite="lax"
    )


def remember_person(response: Response, person: str) -> None:
    remember(response, "person", quote(person.strip()[:100]))


def visit(request: Request) -> Iterator[Visit]:
    """The visit of a request. Raises OtherJobError where it names its job by another's uid."""
    session: Session = request.app.state.database.session()
    try:
        found = Visit(request, session)
        _ = found.company  # looked up here, in a thread of its own
        if uid := request.query_params.get("job"):
            if (job_id := request.path_params.get("job_id", "")).isdecimal():
                jobs.check_uid(session, int(job_id), uid)
        yield found
    finally:
        session.close()


async def posted_form(request: Request) -> FormData:
    return await request.form(max_fields=2000, max_files=1)


def posted_file(data: FormData, name: str = "file") -> bytes:
    """The content of a posted file; empty where none was chosen."""
    file = data.get(name)
    return b"" if file is None or isinstance(file, str) else file.file.read()


def of_job(address: str, uid: str) -> str:
    """An address that also says of which job it is: the number alone may be another's one day."""
    return f"{address}{'&' if '?' in address else '?'}job={quote(uid)}"


JobId = Annotated[int, Path(ge=1, le=2**31)]


async def in_its_zone(found: Annotated[Visit, Depends(visit)]) -> Visit:
    """The visit, and its zone for every moment that is told in answering it.

    Not in a thread of its own: what is set there is not seen by the others.
    """
    in_zone(found.zone)
    return found


AVisit = Annotated[Visit, Depends(in_its_zone)]
AForm = Annotated[FormData, Depends(posted_form)]
Context = dict[str, Any]
