"""People who may sign in, their sessions, invitations, tokens and shared links.

Of everything that lets somebody in only a digest is kept: who reads the database cannot use it.
"""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal, cast

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from fairline.core.errors import FairLineError
from fairline.core.found_by import folded
from fairline.core.people import ONE_JOB, Role, password_refused, wait_s
from fairline.store.clock import now
from fairline.store.dialect import writing
from fairline.store.document import NotFoundError
from fairline.store.models import AttemptRow, KeyRow, PasskeyRow, PersonRow

SESSION = timedelta(days=30)  # without a sign of life
INVITATION = timedelta(days=7)
SEEN_EVERY = timedelta(minutes=10)
FORGOTTEN = timedelta(hours=24)  # wrong tries
KeyKind = Literal["session", "invitation", "token", "share", "challenge"]


class PeopleError(FairLineError, ValueError):
    """Why somebody cannot be let in, made or changed: a sentence."""


@dataclass(frozen=True)
class Person:
    """Somebody who may sign in; ``job_id``: the only job that he is let onto."""

    id: int
    name: str
    role: Role
    job_id: int | None
    ended: bool
    has_password: bool


@dataclass(frozen=True)
class Key:
    """A session, an invitation, a token or a shared link, without what it is opened with."""

    id: int
    kind: KeyKind
    person_id: int | None
    job_id: int | None
    words: str
    made_at: datetime
    seen_at: datetime
    until: datetime | None


def _person(row: PersonRow) -> Person:
    return Person(row.id, row.name, cast(Role, row.role), row.job_id, row.ended, bool(row.password))


def _key(row: KeyRow) -> Key:
    return Key(
        row.id,
        cast(KeyKind, row.kind),
        row.person_id,
        row.job_id,
        row.words,
        row.made_at,
        row.seen_at,
        row.until,
    )


def anybody(session: Session) -> bool:
    """Whether a person was ever made: from then on everybody signs in."""
    return session.scalar(select(PersonRow.id).limit(1)) is not None


def people(session: Session) -> list[Person]:
    return [_person(r) for r in session.scalars(select(PersonRow).order_by(PersonRow.name))]


def _row(session: Session, person_id: int) -> PersonRow:
    row = session.get(PersonRow, person_id)
    if row is None:
        raise NotFoundError("there is no such person")
    return row


def person(session: Session, person_id: int) -> Person:
    return _person(_row(session, person_id))


def named(session: Session, name: str) -> Person | None:
    row = session.scalar(select(PersonRow).where(PersonRow.key == folded(name)))
    return _person(row) if row else None


def add(
    session: Session, name: str, role: Role, password: str = "", job_id: int | None = None
) -> Person:
    """Somebody new. Raises PeopleError: a name that is there, a first one who is no owner."""
    name = " ".join(name.split())
    if not name or len(name) > 100:
        raise PeopleError("a name of at most 100 letters is needed")
    if named(session, name) is not None:
        raise PeopleError(f"{name} is there already: take another name, or reset that one")
    if not anybody(session) and role != "owner":
        raise PeopleError("the first person is an owner: somebody must be able to let others in")
    if role in ONE_JOB and job_id is None:
        raise PeopleError("say which job: an electrician of another firm is let onto one")
    row = PersonRow(
        name=name,
        key=folded(name),
        role=role,
        job_id=job_id if role in ONE_JOB else None,
        password=_hashed(password, name) if password else "",
        made_at=now(),
    )
    session.add(row)
    session.flush()
    return _person(row)


def set_password(session: Session, person_id: int, password: str) -> None:
    """A new password; every session of before ends. Raises PeopleError."""
    row = _row(session, person_id)
    row.password = _hashed(password, row.name)
    end_sessions(session, person_id)


def forget_passkeys(session: Session, person_id: int) -> None:
    """Whoever is let in anew may have lost the phone: what lies on it opens nothing any more."""
    session.execute(delete(PasskeyRow).where(PasskeyRow.person_id == person_id))


def set_role(session: Session, person_id: int, role: Role, job_id: int | None = None) -> None:
    """Another role. Raises PeopleError for the last owner."""
    row = _row(session, person_id)
    _not_the_last_owner(session, row, role != "owner")
    if role in ONE_JOB and job_id is None:
        raise PeopleError("say which job: an electrician of another firm is let onto one")
    row.role, row.job_id = role, job_id if role in ONE_JOB else None


def end(session: Session, person_id: int, ended: bool = True) -> None:
    """Nobody signs in under that name any more, or again. Raises PeopleError."""
    row = _row(session, person_id)
    _not_the_last_owner(session, row, ended)
    row.ended = ended
    session.execute(delete(KeyRow).where(KeyRow.person_id == person_id))


def _not_the_last_owner(session: Session, row: PersonRow, gone: bool) -> None:
    owners = select(func.count()).where(
        PersonRow.role == "owner", PersonRow.ended.is_(False), PersonRow.id != row.id
    )
    if gone and row.role == "owner" and not row.ended and not session.scalar(owners):
        raise PeopleError("the last owner stays: make another one first")


def _hashed(password: str, name: str) -> str:
    from argon2 import PasswordHasher

    if told := password_refused(password, name):
        raise PeopleError(told)
    return PasswordHasher().hash(password)


def sign_in(session: Session, name: str, password: str, where: str) -> Person:
    """Who this is, by name and password; PeopleError where not, the same for every cause.

    ``where``: the address it comes from. Tries are counted for the name and for the address until
    one is right; after some nobody may try again for a while, longer each time. A try is counted
    before it is looked at, and kept: many at once are not looked at for nothing. To look at it
    takes a tenth of a second, so nothing of the database is held meanwhile.
    """
    keys = [f"name:{folded(name)[:100]}", f"from:{where[:60]}"]
    with writing(session):
        _wait_over(session, keys)
        for key in keys:
            _count_try(session, key)
        session.commit()
    row = session.scalar(select(PersonRow).where(PersonRow.key == folded(name)))
    known, kept = (_person(row), row.password) if row else (None, "")
    session.rollback()
    if not _matches(kept, password) or known is None or known.ended:
        raise PeopleError("name or password is wrong")
    with writing(session):
        session.execute(delete(AttemptRow).where(AttemptRow.key.in_(keys)))
        session.commit()
    return known


def forget_tries(session: Session, name: str) -> None:
    """Whoever waits for wrong passwords of that name waits no more."""
    session.execute(delete(AttemptRow).where(AttemptRow.key == f"name:{folded(name)[:100]}"))


def _wait_over(session: Session, keys: list[str]) -> None:
    for row in session.scalars(select(AttemptRow).where(AttemptRow.key.in_(keys))):
        # An address is shared by all phones behind it: it is given four times as many tries.
        count = row.count // 4 if row.key.startswith("from:") else row.count
        left = wait_s(count) - (now() - row.at).total_seconds()
        if left > 0:
            raise PeopleError(f"too many wrong tries: wait {max(1, round(left))} s, then try again")


def _count_try(session: Session, key: str) -> None:
    row = session.get(AttemptRow, key)
    if row is None or now() - row.at > FORGOTTEN:
        session.merge(AttemptRow(key=key, count=1, at=now()))
    else:
        row.count, row.at = row.count + 1, now()
    session.execute(delete(AttemptRow).where(AttemptRow.at < now() - FORGOTTEN))


def _matches(kept: str, password: str) -> bool:
    """Whether a password is the one; it takes as long where nobody has that name."""
    from argon2 import PasswordHasher
    from argon2.exceptions import InvalidHashError, VerificationError

    hasher = PasswordHasher()
    try:
        return hasher.verify(kept or _nobody(), password[:1000])
    except (VerificationError, InvalidHashError):
        return False


_made: dict[str, str] = {}


def _nobody() -> str:
    """A hash that no password has, made once."""
    from argon2 import PasswordHasher

    if "hash" not in _made:
        _made["hash"] = PasswordHasher().hash(secrets.token_hex(16))
    return _made["hash"]


def digest(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def make_key(
    session: Session,
    kind: KeyKind,
    *,
    person_id: int | None = None,
    job_id: int | None = None,
    words: str = "",
    until: datetime | None = None,
) -> str:
    """A new session, invitation, token or shared link: what it is opened with, shown once."""
    secret = secrets.token_urlsafe(32)
    session.add(
        KeyRow(
            digest=digest(secret),
            kind=kind,
            person_id=person_id,
            job_id=job_id,
            words=words[:200],
            made_at=now(),
            seen_at=now(),
            until=until,
        )
    )
    session.flush()
    return secret


def opened_with(session: Session, kind: KeyKind, secret: str) -> Key | None:
    """What a secret opens; None where it opens nothing, or nothing any more."""
    row = session.scalar(select(KeyRow).where(KeyRow.digest == digest(secret[:200])))
    if row is None or row.kind != kind:
        return None
    if row.until is not None and row.until <= now():
        return None
    if kind == "session" and now() - row.seen_at > SESSION:
        return None
    return _key(row)


def seen(session: Session, key: Key) -> None:
    """Note that a key was used; it is asked for when the last time is ``SEEN_EVERY`` ago."""
    row = session.get(KeyRow, key.id)
    if row is not None:
        row.seen_at = now()


def keys(
    session: Session,
    kind: KeyKind,
    *,
    person_id: int | None = None,
    job_id: int | None = None,
) -> list[Key]:
    """The keys of a kind, the newest first; those that are over are left out."""
    asked = select(KeyRow).where(KeyRow.kind == kind).order_by(KeyRow.id.desc())
    if person_id is not None:
        asked = asked.where(KeyRow.person_id == person_id)
    if job_id is not None:
        asked = asked.where(KeyRow.job_id == job_id)
    return [_key(r) for r in session.scalars(asked) if r.until is None or r.until > now()]


def revoke(session: Session, key_id: int) -> None:
    """It opens nothing from now on."""
    session.execute(delete(KeyRow).where(KeyRow.id == key_id))


def end_sessions(session: Session, person_id: int) -> None:
    session.execute(
        delete(KeyRow).where(
            KeyRow.person_id == person_id, KeyRow.kind.in_(("session", "invitation"))
        )
    )
