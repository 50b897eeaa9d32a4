"""One request: who asks, in which units, and the job with every stage judged."""

import hashlib
import json
import re
import secrets
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime, timedelta
from functools import cached_property
from typing import Annotated, Any
from urllib.parse import quote, unquote, urlsplit

from fastapi import Depends, Path, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session
from starlette.datastructures import FormData

from fairline.core.brief import brief
from fairline.core.flare.stage import FlareStageResult
from fairline.core.people import NAMES_OTHERS
from fairline.core.physics.constants import YEAR_S
from fairline.core.practice import Rules
from fairline.core.proofs import changed_parts, difference_words
from fairline.core.sheet import Head, Outdoor
from fairline.core.survey.proposal import Proposal, Wanted, propose
from fairline.core.units import System
from fairline.store import board, clock, edits, house, job_file, jobs, seals, sent, shelf, subjects
from fairline.store.clock import now
from fairline.store.dialect import writing
from fairline.store.edits import Editing
from fairline.store.models import JobRow
from fairline.web.frame.gate import Admitted
from fairline.web.frame.judged_job import CACHED_JOBS, Held, JudgedCache, JudgedJob
from fairline.web.frame.moments import moment_typed, use_zone

# the shelf's revision, the heads, the length of line, and what was proposed for them
Proposed = tuple[tuple[int, int], list[Wanted], float | None, Rules, list[Proposal]]


class ShelfCache:
    """Outdoor units and heads of the shelf, and what was proposed: good for one revision of it."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[tuple[int, int], list[Any]]] = {}
        self._proposed: OrderedDict[int, Proposed] = OrderedDict()

    def proposals(
        self,
        ctx: "RequestContext",
        job_id: int,
        heads: list[Wanted],
        length_m: float | None,
        rules: Rules,
    ) -> list[Proposal]:
        """What carries these heads; worked out again where heads or shelf have changed."""
        at = ctx.shelf_at
        held = self._proposed.get(job_id)
        if held is None or held[:4] != (at, heads, length_m, rules):
            found = propose(heads, self.get(ctx, "outdoor"), length_m, rules)
            held = (at, heads, length_m, rules, found)
            self._proposed[job_id] = held
            while len(self._proposed) > CACHED_JOBS:
                self._proposed.popitem(last=False)
        return held[4]

    def get(self, ctx: "RequestContext", kind: str) -> list[Any]:
        at = ctx.shelf_at
        held = self._kept.get(kind)
        if held is None or held[0] != at:
            held = (at, [s.sheet for s in shelf.sheets(ctx.session, kind)])
            self._kept[kind] = held
        return held[1]


class RequestContext:
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
    def admitted(self) -> Admitted:
        """Who was let in (``gate``); nobody in particular before anybody was ever made."""
        return getattr(self.request.state, "admitted", Admitted())

    @property
    def person(self) -> str:
        """The current person: who is signed in, or whom this browser remembers."""
        if self.admitted.person is not None:
            return self.admitted.person.name
        return unquote(self.request.cookies.get("fairline_person", ""))[:100]

    @property
    def cautions_read(self) -> list[str]:
        """The marks of the cautions that were read in this browser; the script folds them."""
        return self.request.cookies.get("fairline_read", "").split("_")[:200]

    def _token(self) -> str:
        """Under what this act was sent, by a page's script or its form; blank where by neither."""
        told = self.request.headers.get("x-fairline-once", "")
        if re.fullmatch(r"[0-9a-f]{24}", told):
            return told
        return str(getattr(self.request.state, "once", ""))

    def now(self) -> datetime:
        """When the act was done: an act that waited for a signal says how long ago, in s."""
        told = self.request.headers.get("x-fairline-ago", "")
        ago_s = int(told) if re.fullmatch(r"\d{1,6}", told) else 0
        return now() - timedelta(seconds=ago_s)

    @property
    def late(self) -> bool:
        """Whether the act waited for a signal: it was done before it is told."""
        ago = self.request.headers.get("x-fairline-ago", "")
        return re.fullmatch(r"[1-9]\d{0,5}", ago) is not None

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
        with writing(self.session):
            yield from self._changing(settles)

    def _changing(self, settles: bool) -> Iterator[Session]:
        edits.begin_bunch(self.session)
        self.session.info[jobs.SHOWN] = self.request.headers.get("x-fairline-subject", "")[:24]
        self._within = {}
        try:
            if token := self._token():
                sent.keep_token(self.session, token)
            yield self.session
            self.session.flush()
            for job_id in jobs.touched(self.session) if settles else ():
                self.settle(job_id)
            clock.keep(self.session)
            self.session.commit()
            self._shelf_at = None
            cache: JudgedCache = self.request.app.state.judged
            cache.keep(self._within)
            self.request.app.state.live.notify()
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
        board.keep(self.session, job_id, brief(judged.job, judged.worked))

    def _keep_parts(self, judged: JudgedJob) -> bool:
        """Keep the machines and tubes of a job where they are others than before."""
        proofs = judged.of(FlareStageResult).proofs
        before = judged.job.subjects.get(proofs.since[-1].subject) if proofs.since else None
        what = ""
        if before is not None:
            what = "; ".join(
                difference_words(d) for d in changed_parts(before.parts, proofs.now)[:3]
            )
        return subjects.keep(
            self.session, judged.id, proofs.now, self.now(), self.person, what[:200]
        )

    def judged(self, job_id: int) -> JudgedJob:
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


def whole_job(ctx: RequestContext, job_id: int) -> Iterator[str]:
    """A job as its file has it; one that cannot be judged or read any more goes out as it lies."""
    try:
        job = ctx.judged(job_id).job
        return job_file.write(seals.with_chain(ctx.session, job_id, job))
    except board.CannotJudgeError:
        return iter([json.dumps(jobs.document(ctx.session, job_id), indent=1)])


def remember(response: Response, name: str, value: str) -> None:
    """Keep something of this browser's person for a year."""
    response.set_cookie(
        f"fairline_{name}", value, max_age=round(YEAR_S), httponly=True, samesite="lax"
    )


def remember_person(response: Response, person: str) -> None:
    remember(response, "person", quote(person.strip()[:100]))


def request_context(request: Request) -> Iterator[RequestContext]:
    """The context of a request. Raises OtherJobError where it names its job by another's uid."""
    session: Session = request.app.state.database.session()
    try:
        found = RequestContext(request, session)
        _ = found.company  # looked up here, in a thread of its own
        if uid := request.query_params.get("job"):
            if (job_id := request.path_params.get("job_id", "")).isdecimal():
                jobs.check_uid(session, int(job_id), uid)
        yield found
    finally:
        session.close()


async def posted_form(request: Request) -> FormData:
    form = _signed(request, await request.form(max_fields=2000, max_files=1))
    if token := form.get("_once"):
        request.state.once = await _sent_as(str(token), form)
    return form


def _signed(request: Request, form: FormData) -> FormData:
    """The form with who did it: whoever is signed in, but where that one may name another."""
    admitted: Admitted = getattr(request.state, "admitted", Admitted())
    who = admitted.person
    if who is None:
        return form
    named = who.role in NAMES_OTHERS

    def by(name: str, value: Any) -> Any:
        if not isinstance(value, str) or not (name == "by" or name.endswith("_by")):
            return value
        return value if named and value.strip() else who.name

    return FormData([(name, by(name, value)) for name, value in form.multi_items()])


async def _sent_as(token: str, form: FormData) -> str:
    """What an act of a form is known by: the form as it was shown, and what was filled in.

    Pressed twice it is the same; filled in otherwise, it is another act.
    """
    found = hashlib.sha256(token[:60].encode())
    for name, value in form.multi_items():
        content = value.encode() if isinstance(value, str) else await value.read()
        found.update(f"\0{name}\0{len(content)}\0".encode() + content)
        if not isinstance(value, str):
            await value.seek(0)
    return found.hexdigest()[:24]


def posted_file(data: FormData, name: str = "file") -> bytes:
    """The content of a posted file; empty where none was chosen."""
    file = data.get(name)
    return b"" if file is None or isinstance(file, str) else file.file.read()


def page_before(request: Request) -> str:
    """The page of this server that a request came from; the board where none is told."""
    back = urlsplit(request.headers.get("referer", "/"))
    # A path of this server only: one that begins with two strokes names another host.
    path = "/" + back.path.lstrip("/\\")
    job = re.match(r"/jobs/\d+(?=/[a-z-]+/)", path)  # where an act was posted is no page
    return job.group() if job else path + (f"?{back.query}" if back.query else "")


JobId = Annotated[int, Path(ge=1, le=2**31)]


async def in_its_zone(found: Annotated[RequestContext, Depends(request_context)]) -> RequestContext:
    """The context, and its zone for every moment that is told in answering it.

    Not in a thread of its own: what is set there is not seen by the others.
    """
    use_zone(found.zone)
    return found


Context = Annotated[RequestContext, Depends(in_its_zone)]
PostedForm = Annotated[FormData, Depends(posted_form)]
