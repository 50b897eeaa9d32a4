"""A whole job as one ZIP file: ``job.json``, ``pictures/NAME.jpg`` and ``logs/UID.csv``.

Its comment is the SHA-256 of all before it, so that any changed byte shows.

The logs stand in ``job.json`` too; as CSV they are for whoever reads them elsewhere.
"""

import hashlib
import io
import zipfile

from sqlalchemy.orm import Session

from fairline.core.errors import FairLineError
from fairline.core.job import Job
from fairline.store import job_file, pictures, readings_csv, seals
from fairline.store.trouble import BROKEN_ZIP

MOST_BYTES = 96 * 1024 * 1024  # unpacked
MOST_FILES = 1000
SIGNATURE = b"PK\x03\x04"
DIGITS = 64  # of the digest in its comment


class ArchiveError(FairLineError, ValueError):
    """What is wrong in a ZIP file."""


def write(session: Session, job_id: int, job: Job) -> bytes:
    """The job with its pictures and logs."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        with packed.open("job.json", "w") as file:
            for piece in job_file.write(seals.with_chain(session, job_id, job)):
                file.write(piece.encode())
        for name in sorted(pictures.names(session, job_id)):
            content = pictures.content_of(session, job_id, name)
            packed.writestr(f"pictures/{name}.jpg", content or b"", zipfile.ZIP_STORED)
        for run in job.runs:
            packed.writestr(f"logs/{run.kind}-{run.uid}.csv", readings_csv.write(run))
        packed.comment = b"0" * DIGITS
    content = out.getvalue()[:-DIGITS]
    return content + hashlib.sha256(content).hexdigest().encode()


def whole(content: bytes) -> bool | None:
    """Whether every byte is as it was written; None of a ZIP file that carries no digest."""
    before, said = content[:-DIGITS], content[-DIGITS:]
    if before[-2:] != DIGITS.to_bytes(2, "little"):
        return None
    return hashlib.sha256(before).hexdigest().encode() == said


def read(content: bytes) -> tuple[bytes, dict[str, bytes]]:
    """``job.json`` and the pictures of a ZIP file by their names; raises ArchiveError."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            files = packed.infolist()
            if len(files) > MOST_FILES or sum(f.file_size for f in files) > MOST_BYTES:
                raise ArchiveError("there is more in it than a job has")
            if "job.json" not in packed.namelist():
                raise ArchiveError("there is no job.json in it")
            shown = {
                f.filename.removeprefix("pictures/").removesuffix(".jpg"): packed.read(f)
                for f in files
                if f.filename.startswith("pictures/") and not f.is_dir()
            }
            return packed.read("job.json"), shown
    except ArchiveError:
        raise
    except (*BROKEN_ZIP, ValueError):  # a place before the file's beginning
        raise ArchiveError("this ZIP file is damaged") from None
