"""Passkeys: made on one's own page, signed in with, and ended there."""

import json
from typing import Any
from urllib.parse import urlsplit

from fastapi import APIRouter
from fastapi.responses import JSONResponse, RedirectResponse, Response

from fairline.core.problem import problem
from fairline.store import passkeys
from fairline.store.passkeys import Site
from fairline.store.people import PeopleError
from fairline.web.frame.problems import Body, refused
from fairline.web.frame.request_context import Context, RequestContext
from fairline.web.people.routes import device, home, own_path, session_of, signed_in

router = APIRouter(include_in_schema=False)


def _site(ctx: RequestContext) -> Site:
    """This server by the name that the browser knows it by: a passkey is good for no other."""
    at = urlsplit(str(ctx.request.url))
    return Site(at.hostname or "", f"{at.scheme}://{at.netloc}")


def _sent(body: bytes) -> dict[str, Any]:
    try:
        found = json.loads(body or b"{}")
    except ValueError:
        found = None
    return found if isinstance(found, dict) else {}


def _no(error: PeopleError) -> Response:
    words = str(error)
    return refused(problem(422, "Not done", words[:1].upper() + words[1:] + "."))


def _json(text: str) -> Response:
    return Response(text, media_type="application/json")


@router.post("/me/passkeys/begin")
def asks_new(ctx: Context) -> Response:
    who = ctx.admitted.person
    if who is None:
        return _no(PeopleError("sign in first"))
    with ctx.change(settles=False) as session:
        return _json(passkeys.asks_new(session, who, _site(ctx)))


@router.post("/me/passkeys")
def keep(body: Body, ctx: Context) -> Response:
    who, answer = ctx.admitted.person, _sent(body).get("credential")
    try:
        if who is None or not isinstance(answer, dict):
            raise PeopleError("sign in first")
        with ctx.change(settles=False) as session:
            passkeys.keep(session, who, answer, _site(ctx), device(ctx))
    except PeopleError as error:
        return _no(error)
    return JSONResponse({"to": "/me"})


@router.post("/me/passkeys/{passkey_id}/end")
def end(passkey_id: int, ctx: Context) -> Response:
    who = ctx.admitted.person
    with ctx.change(settles=False) as session:
        passkeys.end(session, who.id if who else -1, passkey_id)
    return RedirectResponse("/me", 303)


@router.post("/sign-in/passkey/begin")
def asks_known(ctx: Context) -> Response:
    with ctx.change(settles=False) as session:
        return _json(passkeys.asks_known(session, _site(ctx)))


@router.post("/sign-in/passkey")
def sign_in(body: Body, ctx: Context) -> Response:
    """A session for whoever has the passkey; where to go on, as JSON, with its cookie."""
    sent = _sent(body)
    answer = sent.get("credential")
    try:
        with ctx.change(settles=False) as session:
            who = passkeys.signed_in(
                session, answer if isinstance(answer, dict) else {}, _site(ctx)
            )
            secret = session_of(ctx, who)
    except PeopleError as error:
        return _no(error)
    to = home(who, own_path(str(sent.get("back") or "/")))
    return signed_in(ctx, JSONResponse({"to": to}), secret)
