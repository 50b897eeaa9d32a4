"""Passkeys of people: what a phone signs with, in place of a password (Web Authentication, W3C).

A challenge is kept as a digest for five minutes and is good once.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import webauthn
from sqlalchemy import delete, select
from sqlalchemy.orm import Session
from webauthn.helpers import bytes_to_base64url, parse_client_data_json
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from fairline.store import people
from fairline.store.clock import now
from fairline.store.models import KeyRow, PasskeyRow
from fairline.store.people import PeopleError, Person

ANSWERED_WITHIN = timedelta(minutes=5)
REFUSED = "this passkey is not known here: sign in with the password"


@dataclass(frozen=True)
class Site:
    """Where the pages are: the name that a passkey is good for, and the whole origin."""

    name: str
    origin: str


@dataclass(frozen=True)
class Passkey:
    id: int
    words: str
    made_at: datetime
    seen_at: datetime


def of(session: Session, person_id: int) -> list[Passkey]:
    rows = session.scalars(
        select(PasskeyRow).where(PasskeyRow.person_id == person_id).order_by(PasskeyRow.id)
    )
    return [Passkey(r.id, r.words, r.made_at, r.seen_at) for r in rows]


def _challenge(session: Session) -> bytes:
    old = delete(KeyRow).where(KeyRow.kind == "challenge", KeyRow.until < now())
    session.execute(old)  # those that nobody answered
    secret = people.make_key(session, "challenge", until=now() + ANSWERED_WITHIN)
    return webauthn.base64url_to_bytes(secret)


def _used_up(session: Session, answer: dict[str, Any]) -> bytes:
    """The challenge that an answer is to; PeopleError where it was not given, or is over."""
    try:
        told = str(answer["response"]["clientDataJSON"])
        challenge: bytes = parse_client_data_json(webauthn.base64url_to_bytes(told)).challenge
    except (KeyError, TypeError, ValueError, WebAuthnException):
        raise PeopleError("this is no answer of a passkey") from None
    key = people.opened_with(session, "challenge", bytes_to_base64url(challenge))
    if key is None:
        raise PeopleError("that took too long: try again")
    people.revoke(session, key.id)
    return challenge


def asks_new(session: Session, person: Person, site: Site) -> str:
    """What the browser is asked to make a passkey from, as JSON."""
    known = session.scalars(
        select(PasskeyRow.credential).where(PasskeyRow.person_id == person.id)
    ).all()
    options = webauthn.generate_registration_options(
        rp_id=site.name,
        rp_name="Fair Line",
        user_id=f"fairline-{person.id}".encode(),
        user_name=person.name,
        challenge=_challenge(session),
        exclude_credentials=[
            PublicKeyCredentialDescriptor(id=webauthn.base64url_to_bytes(one)) for one in known
        ],
        authenticator_selection=AuthenticatorSelectionCriteria(
            resident_key=ResidentKeyRequirement.REQUIRED,
            user_verification=UserVerificationRequirement.REQUIRED,
        ),
    )
    return webauthn.options_to_json(options)


def keep(session: Session, person: Person, answer: dict[str, Any], site: Site, words: str) -> None:
    """Keep what a browser made. Raises PeopleError."""
    challenge = _used_up(session, answer)
    try:
        made = webauthn.verify_registration_response(
            credential=answer,
            expected_challenge=challenge,
            expected_rp_id=site.name,
            expected_origin=site.origin,
            require_user_verification=True,
        )
    except Exception as error:  # whatever trips over what a stranger sent
        raise PeopleError("this passkey cannot be kept: make it anew") from error
    named = bytes_to_base64url(made.credential_id)
    if session.scalar(select(PasskeyRow.id).where(PasskeyRow.credential == named)) is not None:
        raise PeopleError("this passkey is kept already")
    row = PasskeyRow(
        person_id=person.id,
        credential=named,
        public_key=made.credential_public_key,
        count=made.sign_count,
        words=words[:200],
        made_at=now(),
        seen_at=now(),
    )
    session.add(row)
    session.flush()


def asks_known(session: Session, site: Site) -> str:
    """What the browser is asked to sign in with, as JSON: whichever passkey it has for the site."""
    options = webauthn.generate_authentication_options(
        rp_id=site.name,
        challenge=_challenge(session),
        user_verification=UserVerificationRequirement.REQUIRED,
    )
    return webauthn.options_to_json(options)


def signed_in(session: Session, answer: dict[str, Any], site: Site) -> Person:
    """Who signs in with a passkey. Raises PeopleError."""
    challenge = _used_up(session, answer)
    named = str(answer.get("id") or "")[:1400]
    row = session.scalar(select(PasskeyRow).where(PasskeyRow.credential == named))
    if row is None:
        raise PeopleError(REFUSED)
    try:
        seen = webauthn.verify_authentication_response(
            credential=answer,
            expected_challenge=challenge,
            expected_rp_id=site.name,
            expected_origin=site.origin,
            credential_public_key=row.public_key,
            credential_current_sign_count=row.count,
            require_user_verification=True,
        )
    except Exception as error:  # whatever trips over what a stranger sent
        raise PeopleError(REFUSED) from error
    who = people.person(session, row.person_id)
    if who.ended:
        raise PeopleError(REFUSED)
    row.count, row.seen_at = seen.new_sign_count, now()
    return who


def end(session: Session, person_id: int, passkey_id: int) -> None:
    """One passkey of somebody opens nothing any more."""
    session.execute(
        delete(PasskeyRow).where(PasskeyRow.id == passkey_id, PasskeyRow.person_id == person_id)
    )
