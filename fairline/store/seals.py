"""Seals kept beside jobs, the chain of a file, and whether what lies here is as it was sealed."""

import hashlib
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from fairline.core.chain import Finding, chain, differences, lasting, with_names
from fairline.core.job import Job
from fairline.core.seal import Seal
from fairline.store.document import dump
from fairline.store.models import PictureRow, SealRow


def of_job(session: Session, job_id: int) -> tuple[Seal, ...]:
    """The seals of a job, the first first."""
    rows = session.scalars(select(SealRow).where(SealRow.job_id == job_id).order_by(SealRow.id))
    return tuple(Seal.model_validate(row.document) for row in rows)


def keep(session: Session, job_id: int, seals: tuple[Seal, ...]) -> None:
    """Keep seals with a job: the one of today, or those of a file."""
    session.add_all(SealRow(job_id=job_id, document=dump(seal)) for seal in seals)
    session.flush()


def shown(session: Session, job_id: int) -> dict[str, str]:
    """The pictures that are kept with a job: by name, the SHA-256 of what is on each."""
    rows = session.execute(
        select(PictureRow.name, PictureRow.content)
        .where(PictureRow.job_id == job_id)
        .order_by(PictureRow.name)
    )
    return {name: hashlib.sha256(content).hexdigest() for name, content in rows}


def seal(session: Session, job_id: int, job: Job, by: str, at: datetime) -> Seal:
    """Seal a job as it is now: its chain goes on from the last seal's."""
    before = of_job(session, job_id)
    job = job.model_copy(update={"seals": before})
    made = chain(job, shown(session, job_id), before[-1].links if before else ())
    one = Seal(links=made.links, last=made.last, by=by, at=at)
    keep(session, job_id, (one,))
    return one


def with_chain(session: Session, job_id: int, job: Job) -> Job:
    """A job as its file has it: with its seals, and the chain of all that is in the file."""
    sealed = of_job(session, job_id)
    job = job.model_copy(update={"seals": sealed, "chain": None})
    before = sealed[-1].links if sealed else ()
    return job.model_copy(update={"chain": chain(job, shown(session, job_id), before)})


@dataclass(frozen=True)
class Verified:
    """What a look at a job found. ``wrong``: not as its seal or its file's chain has it.

    ``added``: what came after the last seal, which is allowed; of a job that was opened again since
    also what was changed on it. ``last`` is the digest of the last seal, else of the file; blank
    where there is neither. ``held``: there was something to hold it against, and all was read.
    """

    name: str
    last: str = ""
    sealed: Seal | None = None
    wrong: tuple[Finding, ...] = ()
    added: tuple[Finding, ...] = ()
    notes: tuple[str, ...] = field(default=())
    held: bool = True

    @property
    def intact(self) -> bool:
        return self.held and not self.wrong


def verified(job: Job, shown_: dict[str, str] | None, **more: Any) -> Verified:
    """A job held against its last seal and, of a file, against the chain in it.

    ``shown_``: its pictures, None where they are not at hand.
    """
    wrong: list[Finding] = []
    added: list[Finding] = []
    last = job.seals[-1] if job.seals else None
    for n, one in enumerate(job.seals):
        then = job.model_copy(update={"seals": job.seals[:n]})
        opened = one is not last or job.handed_over is None
        for found in differences(one, then, shown_):
            allowed = found.how == "added" or (opened and not lasting(found.what, one))
            if not allowed:
                wrong.append(found)
            elif one is last:
                added.append(found)
    if job.chain is not None:
        wrong += differences(job.chain, job, shown_)
    for name, digest in (shown_ or {}).items():
        if name != digest:
            wrong.append(Finding(f"picture {name[:12]}", "changed"))
    return Verified(
        name=job.head.name,
        last=last.last if last else job.chain.last if job.chain else "",
        sealed=last,
        wrong=with_names(wrong, job),
        added=with_names(added, job),
        held=bool(job.seals) or job.chain is not None,
        **more,
    )


def verify(session: Session, job_id: int, job: Job) -> Verified:
    """A job as it lies here, held against its seals."""
    sealed = job.model_copy(update={"seals": of_job(session, job_id), "chain": None})
    return verified(sealed, shown(session, job_id))
