"""Signing in and out, one's own sessions and tokens, and who may sign in."""

import io
from typing import Annotated, Any, cast, get_args
from urllib.parse import urlsplit

from fastapi import APIRouter, Path, Query
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from markupsafe import Markup

from fairline.core.people import ONE_JOB, ROLES, Role, may
from fairline.core.physics.constants import YEAR_S
from fairline.store import jobs, passkeys, people
from fairline.store.clock import now
from fairline.store.document import NotFoundError
from fairline.store.people import INVITATION, PeopleError, Person
from fairline.web.frame.forms import Form, form_fields
from fairline.web.frame.gate import COOKIE, OVER_TLS
from fairline.web.frame.merging import whole_number
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, PostedForm, RequestContext

router = APIRouter(include_in_schema=False)
BARE: dict[str, Any] = {"xmldecl": False, "svgns": False}
Secret = Annotated[str, Path(max_length=200)]


def own_path(back: str) -> str:
    """A path of this server, from what an address says; the board for anything else."""
    told = urlsplit(back)
    if not told.path.startswith("/"):
        return "/"
    return "/" + told.path.lstrip("/\\") + (f"?{told.query}" if told.query else "")


@router.get("/sign-in")
def sign_in_page(ctx: Context, back: Annotated[str, Query(max_length=300)] = "/") -> HTMLResponse:
    return _sign_in_page(ctx, Form({"back": own_path(back)}))


def _sign_in_page(ctx: RequestContext, form: Form, status: int = 200) -> HTMLResponse:
    nobody = not people.anybody(ctx.session)
    return page("people/sign_in.html", ctx, status, form=form, nobody=nobody)


@router.post("/sign-in")
def sign_in(data: PostedForm, ctx: Context) -> Response:
    """A session for who has the right name and password; wrong tries are kept count of."""
    name, password = str(data.get("name") or ""), str(data.get("password") or "")
    back = own_path(str(data.get("back") or "/"))
    try:
        found = people.sign_in(ctx.session, name, password, _where(ctx))
    except PeopleError as error:
        form = Form({"name": name[:100], "back": back}, {"password": str(error)})
        return _sign_in_page(ctx, form, 422)
    with ctx.change(settles=False):
        secret = session_of(ctx, found)
    return signed_in(ctx, RedirectResponse(home(found, back), 303), secret)


def home(person: Person, back: str = "/") -> str:
    """Where somebody goes after signing in: back, or to the only job that they see."""
    return f"/jobs/{person.job_id}" if person.role in ONE_JOB else back


def _where(ctx: RequestContext) -> str:
    return ctx.request.client.host if ctx.request.client else ""


def session_of(ctx: RequestContext, person: Person) -> str:
    return people.make_key(ctx.session, "session", person_id=person.id, words=device(ctx))


def device(ctx: RequestContext) -> str:
    """On what a page is looked at, as its browser says."""
    agent = ctx.request.headers.get("user-agent", "")
    if "Mobi" in agent:
        return "A phone"
    return "A tablet" if "Android" in agent or "iPad" in agent else "A computer"


def signed_in(ctx: RequestContext, response: Response, secret: str) -> Response:
    """An answer that carries the cookie of a session."""
    over_tls = ctx.request.url.scheme == "https"
    response.set_cookie(
        OVER_TLS if over_tls else COOKIE,
        secret,
        max_age=round(YEAR_S),
        httponly=True,
        samesite="lax",
        secure=over_tls,
    )
    return response


@router.post("/sign-out")
def sign_out(ctx: Context) -> Response:
    """The session ends here and in the database: the cookie opens nothing any more."""
    if ctx.admitted.key is not None:
        with ctx.change(settles=False) as session:
            people.revoke(session, ctx.admitted.key.id)
    response = RedirectResponse("/sign-in", 303)
    response.delete_cookie(COOKIE)
    response.delete_cookie(OVER_TLS, secure=True, httponly=True, samesite="lax")
    response.headers["Clear-Site-Data"] = '"cache"'  # what another one recorded and waits stays
    return response


@router.get("/join/{secret}")
def join_page(secret: Secret, ctx: Context) -> HTMLResponse:
    """Where an invitation leads: the person chooses a password."""
    return _join_page(ctx, secret, Form({}))


def _join_page(ctx: RequestContext, secret: str, form: Form, status: int = 200) -> HTMLResponse:
    key = people.opened_with(ctx.session, "invitation", secret)
    whom = people.person(ctx.session, key.person_id) if key and key.person_id else None
    code = status if whom else 404
    return page("people/join.html", ctx, code, form=form, whom=whom, secret=secret)


@router.post("/join/{secret}")
def join(secret: Secret, data: PostedForm, ctx: Context) -> Response:
    """The password set, the invitation used up, and signed in."""
    password, again = str(data.get("password") or ""), str(data.get("again") or "")
    if password != again:
        return _join_page(ctx, secret, Form({}, {"again": "not the same as above"}), 422)
    told, opened = "", ""
    with ctx.change(settles=False) as session:
        key = people.opened_with(session, "invitation", secret)
        if key is None or key.person_id is None:
            raise NotFoundError("this invitation is over")
        try:
            people.set_password(session, key.person_id, password)
            people.forget_passkeys(session, key.person_id)
            whom = people.person(session, key.person_id)
            opened = session_of(ctx, whom)
        except PeopleError as error:
            told = str(error)
    if told:
        return _join_page(ctx, secret, Form({}, {"password": told}), 422)
    return signed_in(ctx, RedirectResponse(home(whom), 303), opened)


@router.get("/me")
def own_page(ctx: Context) -> HTMLResponse:
    return _own_page(ctx, Form({}))


def _own_page(ctx: RequestContext, form: Form, status: int = 200, shown: str = "") -> HTMLResponse:
    who = ctx.admitted.person
    own = {"person_id": who.id} if who else {}
    return page(
        "people/me.html",
        ctx,
        status,
        form=form,
        who=who,
        roles=ROLES,
        sessions=people.keys(ctx.session, "session", **own) if who else [],
        tokens=people.keys(ctx.session, "token", **own) if who else [],
        passkeys=passkeys.of(ctx.session, who.id) if who else [],
        this=ctx.admitted.key.id if ctx.admitted.key else 0,
        shown=shown,
    )


@router.post("/me/password")
def change_password(data: PostedForm, ctx: Context) -> Response:
    """Another password; the one of before is asked for, and every other session ends."""
    who = ctx.admitted.person
    if who is None:
        return RedirectResponse("/me", 303)
    before, password = str(data.get("before") or ""), str(data.get("password") or "")
    errors, secret = dict[str, str](), ""
    try:
        people.sign_in(ctx.session, who.name, before, _where(ctx))
    except PeopleError as error:
        errors["before"] = str(error)
    if not errors:
        with ctx.change(settles=False) as session:
            try:
                people.set_password(session, who.id, password)
                secret = session_of(ctx, who)
            except PeopleError as error:
                errors["password"] = str(error)
    if errors:
        return _own_page(ctx, Form({}, errors), 422)
    return signed_in(ctx, RedirectResponse("/me", 303), secret)


@router.post("/me/sessions/{key_id}/end")
def end_key(key_id: int, ctx: Context) -> Response:
    """One of one's own sessions or tokens ends."""
    who = ctx.admitted.person
    with ctx.change(settles=False) as session:
        own = {
            k.id
            for kind in ("session", "token")
            for k in people.keys(session, cast(Any, kind), person_id=who.id if who else -1)
        }
        if key_id not in own:
            raise NotFoundError("there is no such session")
        people.revoke(session, key_id)
    return RedirectResponse("/me", 303)


@router.post("/me/tokens")
def make_token(data: PostedForm, ctx: Context) -> HTMLResponse:
    """A token for the API, shown this once; with a job it is an instrument's, for that job's runs.

    Both are listed with the person who made them, and are ended there.
    """
    fields, who = form_fields(data), ctx.admitted.person
    words = str(fields.get("words", "")).strip()
    errors = {} if words else {"words": "say what it is for"}
    job = str(fields.get("job", "")).strip()
    if job and not _is_job(ctx, whole_number(job)):
        errors["job"] = "there is no such job: its number stands in its address"
    elif job and who is not None and not _may_read_into(who, int(job)):
        errors["job"] = "an instrument reads into jobs that you work on yourself"
    if who is None or errors:
        return _own_page(ctx, Form(dict(fields), errors), 422)
    with ctx.change(settles=False) as session:
        secret = people.make_key(
            session, "token", person_id=who.id, job_id=int(job) if job else None, words=words
        )
    return _own_page(ctx, Form({}), shown=secret)


def _may_read_into(who: Person, job_id: int) -> bool:
    """Whether somebody's instrument may read into a job: nobody lends more than he has."""
    return may(who.role, "work") and who.job_id in (None, job_id)


def _is_job(ctx: RequestContext, job_id: int) -> bool:
    try:
        jobs.job_row(ctx.session, job_id)
    except NotFoundError:
        return False
    return True


@router.get("/people")
def people_page(ctx: Context) -> HTMLResponse:
    return _people_page(ctx, Form({"role": "installer"}))


def _people_page(
    ctx: RequestContext, form: Form, status: int = 200, link: str = ""
) -> HTMLResponse:
    return page(
        "people/people.html",
        ctx,
        status,
        form=form,
        everybody=people.people(ctx.session),
        roles=ROLES,
        link=link,
        code=_code(link) if link else "",
        until_days=INVITATION.days,
    )


def _code(link: str) -> Markup:
    """A link as a code that a phone reads off the screen."""
    import segno

    out = io.BytesIO()
    segno.make(link, error="m").save(out, kind="svg", scale=5, border=3, light="white", **BARE)
    return Markup(out.getvalue().decode())


def _invited(ctx: RequestContext, person_id: int) -> str:
    """A new invitation: the address that it is opened with."""
    secret = people.make_key(
        ctx.session, "invitation", person_id=person_id, until=now() + INVITATION
    )
    return f"{ctx.request.url.scheme}://{ctx.request.headers['host']}/join/{secret}"


@router.post("/people")
def invite(data: PostedForm, ctx: Context) -> HTMLResponse:
    """Somebody new, and the link with which they choose a password."""
    fields = form_fields(data)
    role, job = str(fields.get("role", "")), str(fields.get("job", "")).strip()
    form, link = Form(dict(fields)), ""
    if role not in get_args(Role):
        form.errors["role"] = "choose what they may do"
    if job and not _is_job(ctx, whole_number(job)):
        form.errors["job"] = "there is no such job: its number stands in its address"
    if form.errors:
        return _people_page(ctx, form, 422)
    with ctx.change(settles=False) as session:
        try:
            made = people.add(
                session,
                str(fields.get("name", "")),
                cast(Role, role),
                job_id=int(job) if job else None,
            )
            link = _invited(ctx, made.id)
        except PeopleError as error:
            form.errors["job" if "which job" in str(error) else "name"] = str(error)
    if form.errors:
        return _people_page(ctx, form, 422)
    return _people_page(ctx, Form({"role": "installer"}), link=link)


@router.post("/people/{person_id}")
def change_person(person_id: int, data: PostedForm, ctx: Context) -> HTMLResponse:
    """Another role, a new link to choose a password, or no more signing in."""
    fields = form_fields(data)
    what, form, link = str(fields.get("what", "")), Form({"role": "installer"}), ""
    with ctx.change(settles=False) as session:
        whom = people.person(session, person_id)
        try:
            if what == "link":
                people.end_sessions(session, person_id)
                link = _invited(ctx, person_id)
            elif what in ("end", "again"):
                people.end(session, person_id, what == "end")
            elif what in get_args(Role):
                people.set_role(session, person_id, cast(Role, what), whom.job_id)
        except PeopleError as error:
            form.errors["name"] = str(error)
    return _people_page(ctx, form, 422 if form.errors else 200, link)
