"""A file that somebody brings, held against its seals: job ZIP, job JSON, or a backup."""

import hashlib
import tempfile
from dataclasses import replace
from pathlib import Path

from pydantic import ValidationError
from sqlalchemy import select

from fairline.core.chain import Finding
from fairline.core.errors import FairLineError
from fairline.core.problem import from_validation
from fairline.store import archive, backup, job_file, jobs, seals
from fairline.store.database import open_database
from fairline.store.models import SealRow
from fairline.store.seals import Verified

SQLITE = b"SQLite format 3\x00"
UNSEALED = "No seal is in it: it was not handed over, or by a program that sealed nothing."
NEWER = "A newer one wrote them, or somebody did: look at it with that one."
FILE = "the file itself"


class UnreadableError(FairLineError, ValueError):
    """Why a file cannot be looked at: a sentence for a person."""


def verify_file(content: bytes) -> Verified:
    """A job's ZIP or JSON file, held against the chain in it and the seals of its job.

    Every changed byte is told: where it is of the job, by its place there, else as of the file.
    Raises UnreadableError for what is no job, or too damaged to be read.
    """
    try:
        if content.startswith(archive.SIGNATURE):
            return _zip(content)
        return _json(content)
    except ValidationError as error:
        told = from_validation(error)["detail"]
        raise UnreadableError(f"it is no job as Fair Line writes it: {told}") from None
    except (job_file.JobFileError, archive.ArchiveError) as error:
        raise UnreadableError(str(error)) from None


def _zip(content: bytes) -> Verified:
    document, pictures = archive.read(content)
    read = job_file.read(document)
    shown = {name: hashlib.sha256(picture).hexdigest() for name, picture in pictures.items()}
    found = _judged(read, document, shown)
    if archive.whole(content) is False and found.intact:
        found = replace(found, wrong=(Finding(FILE, "changed"),))
    return found


def _json(content: bytes) -> Verified:
    return _judged(job_file.read(content), content, None)


def _judged(read: job_file.JobFile, document: bytes, shown: dict[str, str] | None) -> Verified:
    job = read.job
    notes: tuple[str, ...] = () if job.seals else (UNSEALED,)
    if shown is None and job.pictures:
        notes += ("Its pictures are not in this file: they were not looked at.",)
    found = seals.verified(job, shown, notes=notes)
    if read.left_out:
        told = f"Fields that this program does not know: {', '.join(read.left_out)}. {NEWER}"
        return replace(found, held=False, notes=(*found.notes, told))
    if job.chain is None and job.seals:
        return replace(found, wrong=(*found.wrong, Finding("the chain of this file", "missing")))
    if job.chain is not None and found.intact and "".join(job_file.write(job)).encode() != document:
        return replace(found, wrong=(Finding(FILE, "changed"),))
    return found


def verify_backup(file: Path) -> list[Verified]:
    """The jobs of a backup that were handed over, each held against its seals.

    Raises backup.BackupError for a file that is not sound.
    """
    backup.verify(file)
    with tempfile.TemporaryDirectory() as room:
        copy = Path(room) / "copy.db"
        backup.copy(file, copy)
        database = open_database(f"sqlite:///{copy}")
        try:
            with database.session() as session:
                ids = session.scalars(select(SealRow.job_id).distinct().order_by(SealRow.job_id))
                return [seals.verify(session, n, jobs.load(session, n).job) for n in ids.all()]
        finally:
            database.close()
