"""A seal: the digests of everything a job holds, chained, so that a change shows and says where."""

import hashlib
from collections.abc import Iterable
from typing import Annotated

from pydantic import Field

from fairline.core.entry import Entry, Moment, Text

HEX = r"^[0-9a-f]+$"
FIRST = "0" * 64


class Link(Entry):
    """One thing of a job: which, and the SHA-256 of its content, the first 32 hex digits."""

    what: Annotated[str, Field(min_length=1, max_length=120)]
    digest: Annotated[str, Field(min_length=32, max_length=32, pattern=HEX)]


class Chain(Entry):
    """Links in order; ``last`` is the digest that each of them and their order went into."""

    links: Annotated[tuple[Link, ...], Field(max_length=100_000)] = ()
    last: Annotated[str, Field(max_length=64)] = ""


class Seal(Chain):
    """The chain of a job as it was handed over, by whom and when."""

    by: Text
    at: Moment


def digest(content: bytes) -> str:
    """SHA-256 (FIPS 180-4) of some bytes, its first 32 hex digits.

    >>> digest(b"abc")
    'ba7816bf8f01cfea414140de5dae2223'
    """
    return hashlib.sha256(content).hexdigest()[:32]


def last_of(links: Iterable[Link]) -> str:
    """The last digest of a chain: each SHA-256 of the one before, the name and the content.

    >>> last_of(())
    '0000000000000000000000000000000000000000000000000000000000000000'
    """
    last = FIRST
    for link in links:
        last = hashlib.sha256(f"{last}\n{link.what}\n{link.digest}".encode()).hexdigest()
    return last


def spoken(last: str) -> str:
    """A last digest as it is printed and read out: its first 32 digits, in fours.

    >>> spoken("ba7816bf8f01cfea414140de5dae2223b00361a3")
    'ba78 16bf 8f01 cfea 4141 40de 5dae 2223'
    """
    return " ".join(last[i : i + 4] for i in range(0, 32, 4))
