"""Passkeys by an authenticator in software: CTAP2's structures, signed with an ECDSA key."""

import hashlib
import json
from datetime import timedelta

import pytest
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec
from webauthn.helpers import bytes_to_base64url, encode_cbor

from fairline.store import passkeys, people
from fairline.store.passkeys import Site

HERE = Site("office.example", "https://office.example:8443")
PRESENT, VERIFIED, ATTESTED = 0x01, 0x04, 0x40
CREDENTIAL = b"a credential of one phone"


class Phone:
    """One that makes a passkey and signs with it."""

    def __init__(self, site=HERE, flags=PRESENT | VERIFIED):
        self.site, self.flags, self.count = site, flags, 0
        self.key = ec.generate_private_key(ec.SECP256R1())

    def _said(self, kind, asked):
        challenge = json.loads(asked)["challenge"]
        said = {"type": kind, "challenge": challenge, "origin": self.site.origin}
        return json.dumps(said).encode()

    def _data(self, flags, more=b""):
        self.count += 1
        name = hashlib.sha256(self.site.name.encode()).digest()
        return name + bytes([flags]) + self.count.to_bytes(4, "big") + more

    def makes(self, asked):
        at = self.key.public_key().public_numbers()
        x, y = (n.to_bytes(32, "big") for n in (at.x, at.y))
        public = encode_cbor({1: 2, 3: -7, -1: 1, -2: x, -3: y})
        more = bytes(16) + len(CREDENTIAL).to_bytes(2, "big") + CREDENTIAL + public
        made = {"fmt": "none", "attStmt": {}, "authData": self._data(self.flags | ATTESTED, more)}
        return self._answer(
            clientDataJSON=self._said("webauthn.create", asked), attestationObject=encode_cbor(made)
        )

    def signs(self, asked):
        said, data = self._said("webauthn.get", asked), self._data(self.flags)
        signed = data + hashlib.sha256(said).digest()
        signature = self.key.sign(signed, ec.ECDSA(hashes.SHA256()))
        return self._answer(clientDataJSON=said, authenticatorData=data, signature=signature)

    def _answer(self, **response):
        named = bytes_to_base64url(CREDENTIAL)
        told = {name: bytes_to_base64url(content) for name, content in response.items()}
        return {"id": named, "rawId": named, "type": "public-key", "response": told}


@pytest.fixture
def session(database):
    with database.session() as opened:
        yield opened


@pytest.fixture
def ida(session):
    return people.add(session, "Ida", "owner", "correct horse staple")


def kept(session, who, phone):
    asked = passkeys.asks_new(session, who, HERE)
    passkeys.keep(session, who, phone.makes(asked), HERE, "a phone")


def test_who_made_a_passkey_signs_in_with_it_until_it_is_ended(session, ida):
    phone = Phone()
    kept(session, ida, phone)
    for _ in range(2):
        asked = passkeys.asks_known(session, HERE)
        assert passkeys.signed_in(session, phone.signs(asked), HERE) == ida
    (one,) = passkeys.of(session, ida.id)
    passkeys.end(session, ida.id + 1, one.id)  # of somebody else: nothing
    assert passkeys.of(session, ida.id)
    passkeys.end(session, ida.id, one.id)
    with pytest.raises(people.PeopleError, match="not known here"):
        asked = passkeys.asks_known(session, HERE)
        passkeys.signed_in(session, phone.signs(asked), HERE)


@pytest.mark.parametrize("late_s", [-1, 1])
def test_an_answer_is_good_once_and_for_five_minutes(session, ida, monkeypatch, late_s):
    phone = Phone()
    kept(session, ida, phone)
    answer = phone.signs(passkeys.asks_known(session, HERE))
    later = people.now() + passkeys.ANSWERED_WITHIN + timedelta(seconds=late_s)
    monkeypatch.setattr(people, "now", lambda: later)
    if late_s < 0:
        assert passkeys.signed_in(session, answer, HERE) == ida
    with pytest.raises(people.PeopleError, match="took too long"):
        passkeys.signed_in(session, answer, HERE)


@pytest.mark.parametrize(
    "phone",
    [
        Phone(Site("office.example", "https://elsewhere.example")),
        Phone(Site("elsewhere.example", HERE.origin)),
        Phone(flags=PRESENT),  # nobody showed a finger or a face
    ],
    ids=["another origin", "another site", "not verified"],
)
def test_what_is_of_another_site_or_of_nobody_is_refused(session, ida, phone):
    with pytest.raises(people.PeopleError, match="cannot be kept"):
        kept(session, ida, phone)
    right = Phone()
    right.key = phone.key
    kept(session, ida, right)
    phone.count = 7
    with pytest.raises(people.PeopleError, match="not known here"):
        passkeys.signed_in(session, phone.signs(passkeys.asks_known(session, HERE)), HERE)


def test_another_key_a_copy_and_one_who_ended_are_refused(session, ida):
    phone, other = Phone(), Phone()
    kept(session, ida, phone)

    def signed_in(by):
        return passkeys.signed_in(session, by.signs(passkeys.asks_known(session, HERE)), HERE)

    with pytest.raises(people.PeopleError):
        signed_in(other)  # another key under the same name
    assert signed_in(phone) == ida
    phone.count -= 1  # a copy of it, which signed less often than it
    with pytest.raises(people.PeopleError):
        signed_in(phone)
    people.add(session, "Bo", "owner", "correct horse staple")
    people.end(session, ida.id)
    phone.count += 5
    with pytest.raises(people.PeopleError):
        signed_in(phone)


@pytest.mark.parametrize("answer", [{}, {"response": 3}, {"response": {"clientDataJSON": "%%"}}])
def test_nonsense_is_refused_in_a_sentence(session, answer):
    with pytest.raises(people.PeopleError, match="no answer of a passkey"):
        passkeys.signed_in(session, answer, HERE)


def test_whoever_is_let_in_anew_has_none(session, ida):
    kept(session, ida, Phone())
    people.forget_passkeys(session, ida.id)
    assert passkeys.of(session, ida.id) == []
