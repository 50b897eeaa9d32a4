"""What a job holds as links of a chain, and what of it is not as it was when they were made."""

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Literal

import msgspec
from pydantic import BaseModel

from fairline.core.job import Job
from fairline.core.proofs import COVERS
from fairline.core.readings import Run
from fairline.core.seal import Chain, Link, digest, last_of
from fairline.core.stages import IN_ORDER, TITLES

AT_ONCE = 100  # readings of one link: a shifted one is told to within as many
How = Literal["changed", "missing", "added", "order", "broken"]
Pictures = Mapping[str, str]  # name → SHA-256 of what is on it, hex


@dataclass(frozen=True)
class Finding:
    """One thing that is not as it was: ``what`` as its link names it, and how it differs.

    ``named`` is what people call it, where the job still has it.
    """

    what: str
    how: How
    named: str = ""

    @property
    def words(self) -> str:
        said = {
            "changed": "was changed",
            "missing": "is missing",
            "added": "was added",
            "order": "stands in another place",
            "broken": "does not fit the digests before it",
        }
        name = self.named or self.what
        return f"{name[:1].upper()}{name[1:]} {said[self.how]}."


def canonical(value: Any) -> bytes:
    """A model or document as bytes that say the same in every version: sorted, no defaults."""
    if isinstance(value, BaseModel):
        value = value.model_dump(mode="json", exclude_defaults=True)
    return json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=False).encode()


def links(job: Job, pictures: Pictures | None = None) -> list[Link]:
    """Everything of a job as links: what is planned and entered, runs, pictures, then records.

    ``pictures``: those at hand; None where none can be looked at, as in a file without them.
    """
    return [Link(what=what, digest=digest(content)) for what, content in _parts(job, pictures)]


def _parts(job: Job, pictures: Pictures | None) -> Iterator[tuple[str, bytes]]:
    yield "the job's number and day", canonical([job.uid, job.created_at.isoformat()])
    yield "the job's head", canonical(job.head)
    yield "the equipment", canonical(job.equipment)
    for stage in IN_ORDER:
        entry = getattr(job, stage.field)
        yield f"what is entered on {TITLES[stage.name]}", canonical(entry)
    for run in job.runs:
        yield from _of_run(run)
    for name in sorted(pictures or {}):
        yield f"picture {name[:12]}", (pictures or {})[name].encode()
    for since in job.since:
        yield f"parts since {since.at.isoformat()}, {since.subject}", canonical(since)
    for key in sorted(job.subjects):
        yield f"parts {key}", canonical(job.subjects[key])
    for key in sorted(job.practices):
        yield f"house rules {key or 'of before'}", canonical(job.practices[key])
    for n, seal in enumerate(job.seals, 1):
        yield f"seal {n}", canonical([seal.by, seal.at.isoformat(), seal.last])
    for record in job.records:
        yield f"record {record.uid}, {record.kind}", canonical(record)


def _of_run(run: Run) -> Iterator[tuple[str, bytes]]:
    named = f"{run.kind} {run.uid}"
    head = run.model_dump(mode="json", exclude_defaults=True, exclude={"readings"})
    yield f"{named}, its beginning and end", canonical(head | {"count": len(run.readings)})
    names = run.readings.names()
    for first in range(0, len(run.readings), AT_ONCE):
        rows = run.readings[first : first + AT_ONCE].rows()
        content = msgspec.json.encode([dict(zip(names, row, strict=True)) for row in rows])
        yield f"{named}, readings {first + 1} to {first + AT_ONCE}", content


def chain(job: Job, pictures: Pictures | None = None, before: Sequence[Link] = ()) -> Chain:
    """The chain of a job; what an earlier one named keeps its place, what is new comes after."""
    now = {link.what: link for link in links(job, pictures)}
    kept = [now[link.what] for link in before if link.what in now]
    known = {link.what for link in kept}
    found = (*kept, *(link for what, link in now.items() if what not in known))
    return Chain(links=found, last=last_of(found))


def differences(kept: Chain, job: Job, pictures: Pictures | None = None) -> list[Finding]:
    """What of a job is not as a chain has it, the job's things in order, then what is missing.

    What was added since is told too; after a seal an addition is allowed, and the caller says so.
    Without ``pictures`` those are left out.
    """
    now = {link.what: link.digest for link in links(job, pictures)}
    then = {link.what: link.digest for link in kept.links}
    if pictures is None:
        then = {what: d for what, d in then.items() if not what.startswith("picture ")}
    found: list[Finding] = []
    if last_of(kept.links) != kept.last:
        found.append(Finding("the chain itself", "broken"))
    for what, one in now.items():
        if what not in then:
            found.append(Finding(what, "added"))
        elif then[what] != one:
            found.append(Finding(what, "changed"))
    found += [Finding(what, "missing") for what in then if what not in now]
    found += _moved([w for w in now if w in then], [w for w in then if w in now])
    return found


def with_names(found: Iterable[Finding], job: Job) -> tuple[Finding, ...]:
    """Findings once each, in order, each with the name that people know it by."""
    names = {
        f"record {r.uid}, {r.kind}": f"the record of {_plain(r.kind)}{_made(r.by, r.at)}"
        for r in job.records
    }
    runs = {f"{r.kind} {r.uid}": f"{r.kind}{_made(r.started_by, r.started_at)}" for r in job.runs}

    def name(what: str) -> str:
        run, comma, part = what.partition(", ")
        return f"{runs[run]}{comma}{part}" if run in runs else names.get(what, "")

    return tuple(replace(one, named=name(one.what)) for one in dict.fromkeys(found))


def _plain(kind: str) -> str:
    return COVERS[kind].words if kind in COVERS else kind.replace("-", " ")


def _made(by: str, at: datetime) -> str:
    return f" ({by + ', ' if by else ''}{at:%Y-%m-%d %H:%M} UTC)"


def lasting(what: str, then: Chain) -> bool:
    """Whether what a link names never changes, though the job was opened again since.

    Records, parts, house rules and earlier seals are only appended to; of a run all readings but
    the last hundred, to which more may have come.
    """
    if what.startswith(("record ", "parts ", "house rules ", "seal ", "the chain itself")):
        return True
    run, found, _ = what.partition(", readings ")
    own = [link.what for link in then.links if link.what.startswith(f"{run}, readings ")]
    return bool(found) and what in own[:-1]


def _moved(now: list[str], then: list[str]) -> list[Finding]:
    """Records that stand in another order than they were made in."""
    mine = [w for w in now if w.startswith("record ")]
    theirs = [w for w in then if w.startswith("record ")]
    return [Finding(a, "order") for a, b in zip(mine, theirs, strict=True) if a != b][:1]
