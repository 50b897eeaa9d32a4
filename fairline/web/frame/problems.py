"""What the API refuses, as problem JSON (RFC 9457), and the body that it was sent."""

from typing import Annotated, Any

from fastapi import Depends, Request, Response
from fastapi.responses import JSONResponse

PROBLEM = "application/problem+json"


async def raw_body(request: Request) -> bytes:
    return await request.body()


Body = Annotated[bytes, Depends(raw_body)]


def refused(body: dict[str, Any]) -> Response:
    return JSONResponse(body, body["status"], media_type=PROBLEM)
