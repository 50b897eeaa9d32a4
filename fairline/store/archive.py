"""A whole job as one ZIP file: ``job.json``, ``pictures/NAME.jpg`` and ``logs/UID.csv``.

The logs stand in ``job.json`` too; as CSV they are for whoever reads them elsewhere.
"""

import io
import zipfile

from sqlalchemy.orm import Session

from fairline.core.errors import FairLineError
from fairline.core.job import Job
from fairline.store import job_file, pictures, readings_csv
from fairline.store.trouble import BROKEN_ZIP

MOST_BYTES = 96 * 1024 * 1024  # unpacked
MOST_FILES = 1000
SIGNATURE = b"PK\x03\x04"


class ArchiveError(FairLineError, ValueError):
    """What is wrong in a ZIP file."""


def write(session: Session, job_id: int, job: Job) -> bytes:
    """The job with its pictures and logs."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        with packed.open("job.json", "w") as file:
            for piece in job_file.write(job):
                file.write(piece.encode())
        for name in sorted(pictures.names(session, job_id)):
            content = pictures.content_of(session, job_id, name)
            packed.writestr(f"pictures/{name}.jpg", content or b"", zipfile.ZIP_STORED)
        for run in job.runs:
            packed.writestr(f"logs/{run.kind}-{run.uid}.csv", readings_csv.write(run))
    return out.getvalue()


def read(content: bytes) -> tuple[bytes, list[bytes]]:
    """``job.json`` and the pictures of a ZIP file; raises ArchiveError."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            files = packed.infolist()
            if len(files) > MOST_FILES or sum(f.file_size for f in files) > MOST_BYTES:
                raise ArchiveError("there is more in it than a job has")
            if "job.json" not in packed.namelist():
                raise ArchiveError("there is no job.json in it")
            shown = [
                packed.read(f)
                for f in files
                if f.filename.startswith("pictures/") and not f.is_dir()
            ]
            return packed.read("job.json"), shown
    except ArchiveError:
        raise
    except (*BROKEN_ZIP, ValueError):  # a place before the file's beginning
        raise ArchiveError("this ZIP file is damaged") from None
