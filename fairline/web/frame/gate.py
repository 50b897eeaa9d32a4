"""Who is let in: a session of a person, a token, or nobody; and what each route asks of them.

``rights.csv`` has every route with the right that it asks for (``core/people``): ``open`` to all,
``any`` person, or one of the rights. Until the first person is made nobody signs in, and no other
machine is answered.
"""

import csv
import ipaddress
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import cast
from urllib.parse import quote, urlsplit

from fastapi import Request
from fastapi.responses import JSONResponse, RedirectResponse, Response
from sqlalchemy.orm import Session

from fairline.core.errors import FairLineError
from fairline.core.people import ONE_JOB, Right, may
from fairline.core.problem import problem
from fairline.store import clock, people
from fairline.store.dialect import writing
from fairline.store.document import NotFoundError
from fairline.store.people import Key, Person

COOKIE = "fairline_session"
OVER_TLS = f"__Host-{COOKIE}"  # a browser takes such a name from this very host and over TLS only
THROUGH_ANOTHER = ("x-forwarded-for", "x-real-ip", "forwarded", "via")
NOT_YET = (
    "Nobody can sign in yet, so only the computer that Fair Line runs on is answered. There, type: "
    "fairline people add NAME --role owner"
)
LACKS = {
    "work": "A guest reads, and changes nothing.",
    "answer": "That is for somebody who answers for it: a lead, or the owner.",
    "house": "That is the company's: a lead, or the owner, changes it.",
    "people": "Only an owner lets people in.",
}


@dataclass(frozen=True)
class Asks:
    """What a route asks for; ``instrument``: a token of an instrument opens it too."""

    right: str
    instrument: bool


@cache
def rights() -> Mapping[tuple[str, str], Asks]:
    """Every route by its method and path."""
    with (Path(__file__).parent / "rights.csv").open(newline="") as file:
        return {
            (row["method"], row["path"]): Asks(row["right"], row["instrument"] == "yes")
            for row in csv.DictReader(file)
        }


class NotSignedInError(FairLineError):
    """Nobody is signed in."""


class NotAllowedError(FairLineError):
    """Somebody is, and may not do this: a sentence."""


@dataclass(frozen=True)
class Admitted:
    """Who asks: nobody while nobody was ever made; a person; an instrument by its token."""

    person: Person | None = None
    key: Key | None = None
    anybody: bool = False


def from_here(request: Request) -> bool:
    """Whether a request comes from the computer that the server runs on, and through no proxy."""
    host = request.client.host if request.client else ""
    if any(name in request.headers for name in THROUGH_ANOTHER):
        return False
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def admitted(request: Request) -> Admitted:
    """Who asks, kept for the request. Raises NotSignedInError, NotAllowedError, NotFoundError."""
    route = request.scope.get("route")
    method = "GET" if request.method == "HEAD" else request.method
    asks = rights().get((method, getattr(route, "path", "")), Asks("people", False))
    with request.app.state.database.session() as session:
        found = _who(request, session)
        request.state.admitted = found
        if found.anybody:
            _same_person(request, found)
            _check(request, asks, found)
        elif not from_here(request) and asks.right != "open":
            raise NotAllowedError(NOT_YET)
    return found


def still_admitted(request: Request) -> bool:
    """Whether whoever was let in with this request would be let in now."""
    try:
        admitted(request)
    except (NotSignedInError, NotAllowedError, NotFoundError):
        return False
    return True


def _who(request: Request, session: Session) -> Admitted:
    if not people.anybody(session):
        return Admitted()
    kind, _, bearer = request.headers.get("authorization", "").partition(" ")
    if kind.casefold() == "bearer":
        key = people.opened_with(session, "token", bearer.strip())
    else:
        key = people.opened_with(session, "session", _secret(request))
    if key is None:
        return Admitted(anybody=True)
    person = people.person(session, key.person_id) if key.person_id is not None else None
    if person is not None and person.ended:
        return Admitted(anybody=True)
    if key.kind == "token" and key.job_id is not None:
        if person is None or not may(person.role, "work"):
            return Admitted(anybody=True)
        person = None  # an instrument's: it opens no more than that
    if clock.now() - key.seen_at >= people.SEEN_EVERY:
        with writing(session):
            people.seen(session, key)
            session.commit()
    return Admitted(person, key, anybody=True)


def _secret(request: Request) -> str:
    return request.cookies.get(OVER_TLS) or request.cookies.get(COOKIE, "")


def _same_person(request: Request, found: Admitted) -> None:
    """What a page of one person sends is not taken for another's who signed in since.

    Raises NotSignedInError. ``0``: from before anybody could sign in.
    """
    shown = request.headers.get("x-fairline-person", "0")
    if found.person is not None and shown not in ("0", str(found.person.id)):
        raise NotSignedInError("somebody else is signed in")


def _check(request: Request, asks: Asks, found: Admitted) -> None:
    if asks.right == "open":
        return
    job = request.path_params.get("job_id")
    if found.person is None:
        if found.key is None:
            raise NotSignedInError("sign in first")
        if not asks.instrument or str(found.key.job_id) != str(job):
            raise NotFoundError("there is no such thing for this token")
        return
    if found.person.role in ONE_JOB and asks.right != "any":
        if str(found.person.job_id) != str(job):
            raise NotFoundError("there is no such job")
    if asks.right != "any" and not may(found.person.role, cast(Right, asks.right)):
        raise NotAllowedError(LACKS.get(asks.right, "You may not do that."))


def to_sign_in(request: Request) -> Response:
    """On to signing in, and back afterwards; an API's request and a part of a page are told."""
    if request.url.path.startswith("/api/"):
        body = problem(401, "Sign in first", "a session, or a token as Authorization: Bearer")
        headers = {"WWW-Authenticate": "Bearer"}
        return JSONResponse(body, 401, headers, media_type="application/problem+json")
    shown = urlsplit(request.headers.get("hx-current-url", ""))
    back = request.url.path if request.method in ("GET", "HEAD") else "/"
    if request.headers.get("hx-request"):  # back to its page
        back = f"{shown.path or '/'}{'?' if shown.query else ''}{shown.query}"
    address = f"/sign-in?back={quote(back)}" if back != "/" else "/sign-in"
    if request.headers.get("hx-request"):
        return Response(status_code=401, headers={"HX-Redirect": address})
    if "x-fairline-once" in request.headers:  # of an act that waited: it waits on
        return Response(status_code=401)
    return RedirectResponse(address, 303)
