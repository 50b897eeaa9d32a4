"""The application: middlewares, routers, errors."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import partial
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, PlainTextResponse, Response
from sqlalchemy.exc import DBAPIError
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles

from fairline.core.problem import problem, sentence
from fairline.settings import Settings
from fairline.store.board import CannotJudgeError
from fairline.store.database import open_database
from fairline.store.document import NotFoundError
from fairline.store.jobs import HandedOverError
from fairline.store.trouble import trouble
from fairline.web import (
    api,
    board,
    charge,
    commission,
    cut_plan,
    evacuate,
    flare,
    hand_over,
    job_life,
    mount,
    pictures,
    practice,
    pressure_test,
    route,
    runs,
    sheets,
    shelf,
    stage,
    strikes,
    survey,
)
from fairline.web.bench import Bench
from fairline.web.description import description
from fairline.web.live import Live
from fairline.web.pages import page
from fairline.web.security import BodyTooLargeError, Guard
from fairline.web.visit import JudgedCache, ShelfCache, Visit

STATIC = Path(__file__).parent / "static"
ROUTERS = (
    *(api, board, job_life, sheets, shelf, practice),
    *(survey, mount, route, cut_plan, flare, pictures, runs, strikes),
    *(pressure_test, evacuate, charge, commission, hand_over),
    stage,
)


class KeptStatic(StaticFiles):
    """Static files are addressed by version, so browsers may keep them."""

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        response = super().file_response(*args, **kwargs)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def create_app(settings: Settings) -> FastAPI:
    """An application on its own database. No interactive page: it would fetch from elsewhere."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        yield
        app.state.live.close()
        app.state.bench.close()
        app.state.database.close()

    app = FastAPI(
        title="Fair Line",
        docs_url=None,
        redoc_url=None,
        openapi_url="/openapi.json",
        lifespan=lifespan,
    )
    app.openapi = partial(description, app)  # type: ignore[method-assign]
    app.state.settings = settings
    app.state.database = open_database(settings.database_url)
    app.state.judged = JudgedCache()
    app.state.shelf = ShelfCache()
    app.state.bench = Bench(app.state.database.session)
    app.state.live = Live(evacuate.revision_now(app.state.database.session), evacuate.live_part)
    app.mount("/static", KeptStatic(directory=STATIC), name="static")
    for module in ROUTERS:
        app.include_router(module.router)
    app.include_router(sheets.api_router)
    app.add_middleware(GZipMiddleware, minimum_size=1000)
    app.add_middleware(Guard, settings=settings)
    _handle_errors(app)
    return app


def _handle_errors(app: FastAPI) -> None:
    def told(request: Request, status: int, title: str, detail: str = "") -> Response:
        if request.url.path.startswith("/api/"):
            return JSONResponse(
                problem(status, title, detail), status, media_type="application/problem+json"
            )
        session = app.state.database.session()
        try:
            return page(
                "error.html",
                Visit(request, session),
                status,
                title=title,
                detail=detail,
                status_code=status,
            )
        finally:
            session.close()

    @app.exception_handler(NotFoundError)
    def not_found(request: Request, error: NotFoundError) -> Response:
        return told(request, 404, "Not here", str(error))

    @app.exception_handler(DBAPIError)
    def machine(request: Request, error: DBAPIError) -> Response:
        found = trouble(error)
        if found is None:
            raise error
        return told(request, found.status, "Not kept", found.words)

    @app.exception_handler(HandedOverError)
    def handed_over(request: Request, error: HandedOverError) -> Response:
        answer = told(request, 409, "Handed over", str(error))
        if request.headers.get("hx-request"):  # a part of a page cannot say it: its page does
            answer = Response(status_code=204)
            answer.headers["HX-Redirect"] = f"/jobs/{error.job_id}/hand-over"
        return answer

    @app.exception_handler(CannotJudgeError)
    def cannot_judge(request: Request, error: CannotJudgeError) -> Response:
        if request.method == "GET":
            told_ = f"{error.reason} Take it out as a file: /jobs/{error.job_id}/job.json"
            return told(request, 409, "This job cannot be judged", told_)
        return told(request, 422, "This cannot be kept", f"The job could not be judged with it: "
                    f"{error.reason}")  # fmt: skip

    @app.exception_handler(HTTPException)
    def http_error(request: Request, error: HTTPException) -> Response:
        title = {404: "Not here", 405: "Not done this way"}.get(error.status_code, "Refused")
        return told(request, error.status_code, title, str(error.detail))

    @app.exception_handler(RequestValidationError)
    def invalid(request: Request, error: RequestValidationError) -> Response:
        first = error.errors()[0]
        where = ".".join(str(p) for p in first["loc"][1:])
        return told(request, 422, "The request is not valid", f"{where}: {sentence(first)}")

    @app.exception_handler(BodyTooLargeError)
    def too_large(request: Request, error: BodyTooLargeError) -> Response:
        return PlainTextResponse("The request is too large.", 413)
