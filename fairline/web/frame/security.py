"""What keeps other sites and huge bodies out: host, origin, size, content-security-policy."""

import asyncio
import ipaddress
import time
from collections.abc import Awaitable, Callable
from typing import Any
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse, PlainTextResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from fairline.core.errors import FairLineError
from fairline.core.problem import problem
from fairline.settings import Settings

CONTENT_SECURITY_POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
        "manifest-src 'self'",
        "worker-src 'self'",
        "form-action 'self'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    )
)
SAFE_METHODS = {"GET", "HEAD", "OPTIONS"}


PAUSE_S = 20.0  # the longest that a request's body may pause
BODY_WITHIN_S = 300.0  # and the longest that all of it may take
TOO_SLOW = "The request did not come to its end in time."


class BodyTooSlowError(FairLineError):
    """The request's body does not come to its end."""


class BodyTooLargeError(FairLineError):
    """The request is larger than the server takes."""


def host_name(host: str) -> str:
    """The host without its port: ``127.0.0.1:8000`` as ``127.0.0.1``."""
    if host.startswith("["):
        return host.split("]")[0].lower() + "]"
    return host.rsplit(":", 1)[0].lower() if ":" in host else host.lower()


def reached_at(scope: Scope) -> tuple[str, ...]:
    """The address that a connection came in on: no name that another could have pointed here."""
    host = (scope.get("server") or ("", 0))[0]
    try:
        address = ipaddress.ip_address(host)
    except ValueError:
        return ()
    return (f"[{address}]" if address.version == 6 else str(address),)


def refusal(method: str, headers: Headers, allowed: tuple[str, ...]) -> tuple[int, str] | None:
    """Why a request is refused before anybody looks at it: status and reason, or None.

    A change must come from this very origin. A script's request carries no Origin header and
    is answered; a browser always sends one, or says where it comes from.
    """
    host = headers.get("host", "")
    if host_name(host) not in allowed:
        return 421, "This server does not answer to that host name."
    if method in SAFE_METHODS:
        return None
    origin = headers.get("origin")
    if origin is not None:
        same = urlsplit(origin).netloc.lower() == host.lower()
    elif (site := headers.get("sec-fetch-site")) is not None:
        same = site in ("same-origin", "none")
    elif (referer := headers.get("referer")) is not None:
        same = urlsplit(referer).netloc.lower() == host.lower()
    else:
        same = True
    return None if same else (403, "A change must come from this application's own pages.")


class Guard:
    """ASGI middleware: refuses, limits the body, and adds the headers every answer carries."""

    def __init__(self, app: ASGIApp, settings: Settings) -> None:
        self.app, self.settings = app, settings

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers, headed = Headers(scope=scope), self._headed(scope, send)
        limit = self.settings.max_body_bytes
        api = scope["path"].startswith("/api/")
        refused = refusal(scope["method"], headers, self.settings.allowed_hosts + reached_at(scope))
        length = headers.get("content-length", "0")
        if refused is None and (not length.isdecimal() or int(length) > limit):
            refused = 413, _too_large(limit)
        if refused:
            await _refuse(*refused, api=api)(scope, receive, headed)
            return
        seen, coming = 0, True
        until = time.monotonic() + BODY_WITHIN_S

        async def counted() -> Message:
            nonlocal seen, coming
            if not coming:  # what comes now is that the browser went away: no hurry
                return await receive()
            try:
                async with asyncio.timeout(min(PAUSE_S, until - time.monotonic())):
                    message = await receive()
            except TimeoutError:
                raise BodyTooSlowError from None
            seen += len(message.get("body", b""))
            coming = bool(message.get("more_body", False))
            if seen > limit:
                raise BodyTooLargeError
            return message

        try:
            await self.app(scope, counted, headed)
        except BodyTooLargeError:
            await _refuse(413, _too_large(limit), api=api)(
                scope, receive, self._headed(scope, send)
            )
        except BodyTooSlowError:
            await _refuse(408, TOO_SLOW, api=api)(scope, receive, headed)

    def _headed(self, scope: Scope, send: Send) -> Callable[[Any], Awaitable[None]]:
        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers["Content-Security-Policy"] = CONTENT_SECURITY_POLICY
                headers["X-Content-Type-Options"] = "nosniff"
                headers["Referrer-Policy"] = "same-origin"
                headers["Cross-Origin-Opener-Policy"] = "same-origin"
                headers.setdefault("Cache-Control", "no-store")
                if scope.get("scheme") == "https":
                    headers["Strict-Transport-Security"] = "max-age=31536000"
            await send(message)

        return with_headers


def _too_large(limit: int) -> str:
    return f"The request is larger than {limit // (1024 * 1024)} MB, the most this server takes."


def _refuse(status: int, reason: str, api: bool) -> Response:
    if api:
        return JSONResponse(problem(status, reason), status, media_type="application/problem+json")
    return PlainTextResponse(reason, status)
