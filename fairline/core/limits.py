"""Which limit governs: the sheet, then local code, then house practice, then common practice."""

from collections.abc import Sequence

from fairline.core.call import Authority, Displaced, Frozen, Limit

AUTHORITY_WORDS = {
    Authority.SHEET: "sheet",
    Authority.CODE: "local code",
    Authority.HOUSE: "company",
    Authority.COMMON: "common practice",
}
WHO_SAYS = AUTHORITY_WORDS | {Authority.SHEET: "the sheet", Authority.HOUSE: "the company"}
RANK = (Authority.SHEET, Authority.CODE, Authority.HOUSE, Authority.COMMON)


class Candidate(Frozen):
    """What one authority says about a limit; ``value`` is None where it is silent."""

    authority: Authority
    value: float | None
    source: str


def governing(
    limit: str, unit: str, candidates: Sequence[Candidate], kind: str = ""
) -> Limit | None:
    """The limit that governs, with what it displaced; None where nobody says anything.

    The first authority in rank order that names a value governs. Others that name a
    different value stay visible as ``displaced``.
    """
    speaking = sorted(
        (c for c in candidates if c.value is not None), key=lambda c: RANK.index(c.authority)
    )
    if not speaking:
        return None
    first = speaking[0]
    assert first.value is not None
    return Limit(
        limit=limit,
        value=first.value,
        unit=unit,
        authority=first.authority,
        source=first.source,
        displaced=tuple(
            Displaced(value=c.value, unit=unit, authority=c.authority, source=c.source)
            for c in speaking[1:]
            if c.value is not None and c.value != first.value
        ),
        **({"kind": kind} if kind else {}),
    )


def sheet(value: float | None, source: str = "equipment sheet") -> Candidate:
    return Candidate(authority=Authority.SHEET, value=value, source=source)


def code(value: float | None, source: str) -> Candidate:
    return Candidate(authority=Authority.CODE, value=value, source=source)


def house(value: float | None, source: str = "own limit") -> Candidate:
    return Candidate(authority=Authority.HOUSE, value=value, source=source)


def common(value: float | None, source: str = "no published source") -> Candidate:
    return Candidate(authority=Authority.COMMON, value=value, source=source)
