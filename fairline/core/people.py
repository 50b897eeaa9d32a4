"""Who works here, and what each may do: roles and rights, without accounts or sessions."""

import re
from typing import Literal

Role = Literal["owner", "lead", "installer", "electrician", "guest"]
Right = Literal["read", "work", "answer", "house", "people"]

ROLES: dict[Role, str] = {
    "owner": "Owner",
    "lead": "Lead",
    "installer": "Installer",
    "electrician": "Electrician of another firm, one job",
    "guest": "Guest, reads only",
}
# read: look at it; work: enter, record, plan; answer: what somebody answers for (override, hand
# over, open again, delete, share); house: company rules, prices; people: who may sign in.
RIGHTS: dict[Role, frozenset[Right]] = {
    "owner": frozenset({"read", "work", "answer", "house", "people"}),
    "lead": frozenset({"read", "work", "answer", "house"}),
    "installer": frozenset({"read", "work"}),
    "electrician": frozenset({"read", "work"}),
    "guest": frozenset({"read"}),
}
ONE_JOB = ("electrician",)  # roles that are let onto one job only
NAMES_OTHERS = ("owner", "lead")  # roles that may say that somebody else did an act

LEAST_LETTERS, MOST_LETTERS = 12, 128  # OWASP ASVS 4.0.3, 2.1.1 and 2.1.2 (from memory)
COMMON = (
    *("password", "passwort", "1234567890", "123456789", "12345678", "123456", "0987654321"),
    *("qwertyuiop", "qwertzuiop", "qwerty", "asdfghjkl", "zxcvbnm", "1q2w3e4r", "abcdefghijkl"),
    *("iloveyou", "letmein", "welcome", "changeme", "secret", "master", "admin", "login", "hello"),
    *("football", "baseball", "sunshine", "princess", "monkey", "dragon", "superman", "abc"),
    *("fairline", "installer", "minisplit", "ductless", "company"),
)
UNCOMMON = 4  # letters beside those words, years and other short numbers


def may(role: Role, right: Right) -> bool:
    """Whether a role has a right.

    >>> may("installer", "work"), may("installer", "answer"), may("guest", "work")
    (True, False, False)
    """
    return right in RIGHTS[role]


def password_refused(password: str, name: str) -> str:
    """Why a password is not taken; blank where it is.

    >>> password_refused("short", "Ida"), password_refused("correct horse staple", "Ida")
    ('at least 12 letters; three or four words that do not belong together are easy to keep', '')
    """
    if len(password) < LEAST_LETTERS:
        return (
            f"at least {LEAST_LETTERS} letters; three or four words that do not belong together "
            "are easy to keep"
        )
    if len(password) > MOST_LETTERS:
        return f"at most {MOST_LETTERS} letters"
    bare = "".join(c for c in password.casefold() if c.isalnum())
    own = "".join(c for c in name.casefold() if c.isalnum())
    rest = bare
    for common in COMMON:
        rest = rest.replace(common, "")
    rest = re.sub(r"(?<!\d)\d{1,4}(?!\d)", "", rest)
    if len(set(bare)) < 4 or len(rest) < UNCOMMON:
        return "this one is guessed at once: take another"
    if own and (bare.replace(own, "") or "x") != bare and len(bare) - len(own) < 6:
        return "not the name: take another"
    return ""


FREE_TRIES = 5  # wrong passwords before one has to wait
FIRST_WAIT_S, LONGEST_WAIT_S = 30.0, 900.0


def wait_s(wrong: int) -> float:
    """How long nobody may try again after so many wrong passwords in a row, s.

    >>> [wait_s(n) for n in (4, 5, 6, 7, 20)]
    [0.0, 30.0, 60.0, 120.0, 900.0]
    """
    if wrong < FREE_TRIES:
        return 0.0
    return min(FIRST_WAIT_S * 2.0 ** min(wrong - FREE_TRIES, 10), LONGEST_WAIT_S)
