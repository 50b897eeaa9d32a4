"""The application: middlewares, routers, errors."""

import gzip
import re
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from functools import partial
from importlib import import_module
from pathlib import Path
from typing import Any

from fastapi import Depends, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, PlainTextResponse, RedirectResponse, Response
from sqlalchemy.exc import DBAPIError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.requests import ClientDisconnect
from starlette.staticfiles import StaticFiles

from fairline.core.problem import problem, sentence
from fairline.core.stages import IN_ORDER
from fairline.settings import Settings
from fairline.store import clock
from fairline.store.board import CannotJudgeError
from fairline.store.database import open_database
from fairline.store.document import NotFoundError
from fairline.store.jobs import HandedOverError, OtherJobError
from fairline.store.people import anybody
from fairline.store.sent import AlreadySentError
from fairline.store.trouble import trouble
from fairline.web import (
    api,
    bench_page,
    company_rules,
    cylinders,
    evacuate,
    handbook,
    load,
    offline,
    pictures,
    procedures,
    runs,
)
from fairline.web.bench.bench import Bench
from fairline.web.board import job_life
from fairline.web.board import routes as board
from fairline.web.changes import routes as changes
from fairline.web.changes import strikes, way_out
from fairline.web.description import description
from fairline.web.frame import stage
from fairline.web.frame.gate import (
    NotAllowedError,
    NotSignedInError,
    admitted,
    still_admitted,
    to_sign_in,
)
from fairline.web.frame.judged_job import JudgedCache
from fairline.web.frame.live import Live
from fairline.web.frame.pages import ASSETS, page
from fairline.web.frame.request_context import RequestContext, ShelfCache, page_before
from fairline.web.frame.security import BodyTooLargeError, Guard
from fairline.web.frame.settling import Settling
from fairline.web.people import health, passkeys, sharing
from fairline.web.people import routes as people
from fairline.web.plan import bid, crew, days
from fairline.web.plan import routes as plan
from fairline.web.route import cut_plan
from fairline.web.shelf import routes as shelf
from fairline.web.shelf import sheets

STATIC = Path(__file__).parent / "static"
PACKED = (".css", ".js", ".svg")  # fonts are packed already
STAGE_PAGES = tuple(import_module(f"fairline.web.{one.field}") for one in IN_ORDER)
ROUTERS = (
    stage,  # first: it is asked for most
    *(api, board, handbook, job_life, sheets, shelf, company_rules, cylinders),
    *(bench_page, changes, cut_plan, load, pictures, procedures, runs, strikes, way_out),
    *(bid, crew, days, plan),
    *(health, offline, passkeys, people, sharing),
    *STAGE_PAGES,
)


class KeptStatic(StaticFiles):
    """Static files are addressed by version, so browsers may keep them.

    The version stands after the address, or before the path: what a script imports by its own
    place has it then too.
    """

    def __init__(self, **how: Any) -> None:
        super().__init__(**how)
        self._once: dict[str, bytes] = {}

    async def get_response(self, path: str, scope: Any) -> Response:
        own = path.removeprefix(f"{ASSETS}/")
        response = await super().get_response(own, scope)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        if response.status_code == 200 and own.endswith(PACKED):
            return await self._packed(own, response, scope)
        return response

    async def _packed(self, own: str, plain: Response, scope: Any) -> Response:
        """A script or style as small as it gets, packed once: what is sent the first time."""
        if "gzip" not in Headers(scope=scope).get("accept-encoding", ""):
            return plain
        if own not in self._once:
            full, _ = await run_in_threadpool(self.lookup_path, own)
            content = await run_in_threadpool(Path(full).read_bytes)
            if own.startswith("scripts/"):
                content = _without_comments(content)
            self._once[own] = await run_in_threadpool(gzip.compress, content, 9)
        headers = {
            name: plain.headers[name]
            for name in ("cache-control", "etag", "last-modified", "content-type")
            if name in plain.headers
        }
        packed = headers | {"content-encoding": "gzip", "vary": "Accept-Encoding"}
        return Response(self._once[own], headers=packed)


def _without_comments(script: bytes) -> bytes:
    """One of our scripts as it is sent: without the lines that are comments only."""
    only = re.compile(rb"^[ ]*(//.*|/\*\*.*\*/)\n", re.M)
    return only.sub(b"", script)


def create_app(settings: Settings) -> FastAPI:
    """An application on its own database. No interactive page: it would fetch from elsewhere."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        app.state.settling.begin()
        yield
        app.state.settling.close()
        app.state.live.close()
        app.state.bench.close()
        app.state.database.close()

    app = FastAPI(
        title="Fair Line",
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        lifespan=lifespan,
        dependencies=[Depends(admitted)],
    )
    app.add_api_route("/openapi.json", _description, include_in_schema=False)
    app.openapi = partial(description, app)  # type: ignore[method-assign]
    app.state.settings = settings
    app.state.database = open_database(settings.database_url)
    with app.state.database.session() as session:
        clock.begin(session)
    app.state.nobody = partial(_nobody, app)
    app.state.judged = JudgedCache()
    app.state.settling = Settling(app.state.database.session)
    app.state.shelf = ShelfCache()
    revision = evacuate.revision_now(app.state.database.session)
    app.state.live = Live(revision, evacuate.live_part, still_admitted)
    app.state.bench = Bench(app.state.database.session, app.state.live.notify)
    app.mount("/static", KeptStatic(directory=STATIC), name="static")
    for module in ROUTERS:
        app.include_router(module.router)
    app.include_router(sheets.api_router)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=6)
    app.add_middleware(Guard, settings=settings)
    for error, handler in HANDLERS.items():
        app.add_exception_handler(error, handler)
    return app


def _nobody(app: FastAPI) -> bool:
    """Whether nobody was ever made who could sign in."""
    with app.state.database.session() as session:
        return not anybody(session)


def _description(request: Request) -> JSONResponse:
    """What the API is, as OpenAPI."""
    return JSONResponse(request.app.openapi())


def _told(request: Request, status: int, title: str, detail: str = "") -> Response:
    """An error as a page, or as problem JSON under /api."""
    if request.url.path.startswith("/api/"):
        body = problem(status, title, detail)
        return JSONResponse(body, status, media_type="application/problem+json")
    session = request.app.state.database.session()
    try:
        about = {"title": title, "detail": detail, "status_code": status}
        return page("error.html", RequestContext(request, session), status, **about)
    finally:
        session.close()


def _not_found(request: Request, error: Exception) -> Response:
    return _told(request, 404, "Not here", str(error))


def _other_job(request: Request, error: Exception) -> Response:
    return _told(request, 409, "Another job", f"{str(error).capitalize()}. Nothing was kept.")


def _machine(request: Request, error: Exception) -> Response:
    found = trouble(error) if isinstance(error, DBAPIError) else None
    if found is None:
        raise error
    return _told(request, found.status, "Not kept", found.words)


def _already_sent(request: Request, error: Exception) -> Response:
    """The page that shows what is kept by now."""
    if request.headers.get("x-fairline-once"):  # by a script
        refresh = {"HX-Refresh": "true"} if request.headers.get("hx-request") else {}
        return Response(status_code=204, headers=refresh)
    return RedirectResponse(page_before(request), 303)


def _handed_over(request: Request, error: Exception) -> Response:
    assert isinstance(error, HandedOverError)
    answer = _told(request, 409, "Handed over", str(error))
    if request.headers.get("hx-request"):  # a part of a page cannot say it: its page does
        answer = Response(status_code=204)
        answer.headers["HX-Redirect"] = f"/jobs/{error.job_id}/hand-over"
    return answer


def _cannot_judge(request: Request, error: Exception) -> Response:
    assert isinstance(error, CannotJudgeError)
    if request.method == "GET":
        told = f"{error.reason} Take it out as a file: /jobs/{error.job_id}/job.json"
        return _told(request, 409, "This job cannot be judged", told)
    told = f"The job could not be judged with it: {error.reason}"
    return _told(request, 422, "This cannot be kept", told)


def _http_error(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    title = {404: "Not here", 405: "Not done this way"}.get(error.status_code, "Refused")
    return _told(request, error.status_code, title, str(error.detail))


def _invalid(request: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    where = ".".join(str(p) for p in first["loc"][1:])
    return _told(request, 422, "The request is not valid", f"{where}: {sentence(first)}")


def _too_large(request: Request, error: Exception) -> Response:
    return PlainTextResponse("The request is too large.", 413)


def _went_away(request: Request, error: Exception) -> Response:
    return PlainTextResponse("The browser went away before all of it came.", 400)


def _not_signed_in(request: Request, error: Exception) -> Response:
    return to_sign_in(request)


def _not_allowed(request: Request, error: Exception) -> Response:
    return _told(request, 403, "Not yours to do", str(error))


HANDLERS: dict[type[Exception], Callable[[Request, Exception], Response]] = {
    NotSignedInError: _not_signed_in,
    NotAllowedError: _not_allowed,
    NotFoundError: _not_found,
    DBAPIError: _machine,
    HandedOverError: _handed_over,
    OtherJobError: _other_job,
    AlreadySentError: _already_sent,
    CannotJudgeError: _cannot_judge,
    HTTPException: _http_error,
    RequestValidationError: _invalid,
    BodyTooLargeError: _too_large,
    ClientDisconnect: _went_away,
}
