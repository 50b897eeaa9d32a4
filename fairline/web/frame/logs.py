"""A line of JSON for each request: what was asked by the route's name, never what was sent."""

import json
import sys
import time
from collections.abc import Awaitable, Callable
from typing import Any, TextIO

from starlette.types import ASGIApp, Message, Receive, Scope, Send


def logged(app: ASGIApp, out: TextIO | None = None) -> Callable[[Any, Any, Any], Awaitable[None]]:
    """The application with its requests written down: moment, method, route, status, ms, who.

    The route stands by its pattern, so that no secret of an address is written; neither is a
    query, a header or a body.
    """

    async def with_log(scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await app(scope, receive, send)
            return
        began, status = time.monotonic(), 500

        async def noted(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
            await send(message)

        try:
            await app(scope, receive, noted)
        finally:
            print(json.dumps(_line(scope, status, began)), file=out or sys.stderr, flush=True)

    return with_log


def _line(scope: Scope, status: int, began: float) -> dict[str, Any]:
    route = getattr(scope.get("route"), "path", None) or ""
    found: dict[str, Any] = {
        "at": time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime()),
        "method": scope["method"],
        "route": route,
        "status": status,
        "ms": round((time.monotonic() - began) * 1000, 1),
        "from": (scope.get("client") or ("", 0))[0],
    }
    admitted = scope.get("state", {}).get("admitted")
    if admitted is not None and admitted.person is not None:
        found["person"] = admitted.person.id
    return found
