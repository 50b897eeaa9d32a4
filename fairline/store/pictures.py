"""Pictures of a job: upright, small enough to send, without what a camera writes into them."""

import hashlib
import io
from threading import Lock

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from fairline.core.errors import FairLineError
from fairline.store.dialect import insert_or_ignore
from fairline.store.jobs import touch
from fairline.store.models import PictureRow

MOST_PIXELS = 25_000_000  # opened at once; a JPEG is opened smaller, at any size
LONGEST_SIDE = 1600  # px: enough to see a scratch on a seat
QUALITY = 82
FORMATS = ("JPEG", "PNG", "WEBP")
ONE_AT_A_TIME = Lock()  # so that the memory of several never adds up


class PictureError(FairLineError, ValueError):
    """Why a file is not taken as a picture."""


def cleaned(content: bytes) -> bytes:
    """A camera's file as JPEG, turned upright, at most 1600 px long, without place or device.

    Raises PictureError for what is no JPEG, PNG or WebP, or is too large to open.
    """
    from PIL import Image, ImageOps

    if not content:
        raise PictureError("choose a picture: this file is empty")
    try:
        with ONE_AT_A_TIME, Image.open(io.BytesIO(content), formats=FORMATS) as opened:
            opened.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
            if opened.width * opened.height > MOST_PIXELS:
                raise PictureError(
                    "this picture has more than 25 million pixels: bring it as JPEG, or smaller"
                )
            upright = ImageOps.exif_transpose(opened).convert("RGB")
            upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
            out = io.BytesIO()
            # A new image has none of the old one's notes; what is drawn is all that goes over.
            plain = Image.new("RGB", upright.size)
            plain.paste(upright)
            plain.save(out, "JPEG", quality=QUALITY, optimize=True)
    except PictureError:
        raise
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise PictureError("this is not a picture as JPEG, PNG or WebP") from None
    return out.getvalue()


def is_jpeg(content: bytes) -> bool:
    """Whether these bytes are a picture as ``cleaned`` makes them."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(content), formats=("JPEG",)) as opened:
            return max(opened.size) <= LONGEST_SIDE and not opened.getexif()
    except (OSError, ValueError, SyntaxError):
        return False


def name_of(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


def keep(session: Session, job_id: int, content: bytes) -> str:
    """Keep a cleaned picture with a job; its name. The same one twice is kept once."""
    name = name_of(content)
    columns = ("job_id", "name", "content")
    insert_or_ignore(session, PictureRow.__table__, columns, [(job_id, name, content)])
    return name


def content_of(session: Session, job_id: int, name: str) -> bytes | None:
    """A picture's JPEG, or None where it is not (or no longer) kept here."""
    row = session.get(PictureRow, (job_id, name))
    return row.content if row else None


def names(session: Session, job_id: int) -> set[str]:
    """Names of the pictures kept with a job."""
    return set(session.scalars(select(PictureRow.name).where(PictureRow.job_id == job_id)))


def take_out(session: Session, job_id: int, name: str) -> None:
    """Remove what a picture shows; that one was taken stays on record."""
    session.execute(delete(PictureRow).where(PictureRow.job_id == job_id, PictureRow.name == name))
    touch(session, job_id)
