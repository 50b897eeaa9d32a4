"""What a job is found by: every word of it that a person would type, folded, accents and all."""

import unicodedata
from collections.abc import Iterator

from fairline.core.entry import Record
from fairline.core.job import Job

PLAIN = str.maketrans({"ø": "o", "ł": "l", "đ": "d", "æ": "ae", "œ": "oe", "ı": "i"})
PERSON = "by:"  # stands before the name of whoever did something on the job
MOST = 20_000  # letters that are kept of one job


def folded(text: str) -> str:
    """Letters without accents and without case, one blank between words.

    >>> folded("Café  ÅSA-2, Łódź, Øst")
    'cafe asa-2, lodz, ost'
    """
    parts = unicodedata.normalize("NFKD", text)
    bare = "".join(c for c in parts if not unicodedata.combining(c))
    return " ".join(bare.casefold().translate(PLAIN).split())


def found_by(job: Job) -> str:
    """Names, places, customer, machines with serials, lines, joints, cylinders, people, days."""
    said = dict.fromkeys(folded(words) for words in _words(job) if words)
    return "\n".join(said)[:MOST]


def _words(job: Job) -> Iterator[str]:
    head = job.head
    yield from (head.name, head.site, head.customer, head.company, job.equipment.name)
    for one in (job.equipment.outdoor, *job.equipment.heads, *job.equipment.fittings):
        if one is not None:
            yield one.sheet.name
    for box in job.survey.boxes.values():
        yield box.serial
    for wanted in job.survey.heads:
        yield from (f"zone {wanted.zone}", wanted.room)
    yield from (room.name for room in job.survey.rooms)
    yield job.hand_over.received_by
    yield job.hand_over.registration
    for record in job.records:
        yield from _of_record(record)
    for run in job.runs:
        yield f"{PERSON}{run.started_by}" if run.started_by else ""
        yield run.started_at.date().isoformat()


def _of_record(record: Record) -> Iterator[str]:
    yield f"{PERSON}{record.by}"
    yield record.at.date().isoformat()
    for name in ("place", "cylinder", "serial", "joint", "words"):
        said = getattr(record, name, "")
        if isinstance(said, str):
            yield said.replace("_", " ").replace(".", " ")
