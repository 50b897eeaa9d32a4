"""Every weighing of refrigerant that counts, over all jobs that are no training."""

from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from fairline.core.brief import Brief
from fairline.core.charge.entry import Weighing
from fairline.core.charge.ledger import Move
from fairline.core.counted import counts
from fairline.core.strike import Strike
from fairline.store.models import JobRow, RecordRow

KINDS = ("weighing", "strike")


def wanted(session: Session) -> list[tuple[int, str, str, float]]:
    """Id, name, refrigerant and kg of each open job that waits for its charge, the oldest first."""
    rows = session.execute(
        select(JobRow.id, JobRow.brief)
        .where(JobRow.put_away.is_(False), JobRow.handed_over.is_(False))
        .order_by(JobRow.id)
    )
    briefs = [(id, Brief.model_validate(kept)) for id, kept in rows if kept]
    return [
        (id, b.name, b.refrigerant, b.to_charge_kg)
        for id, b in briefs
        if b.to_charge_kg is not None and not b.practice
    ]


def moves(session: Session, training: bool = False) -> list[Move]:
    """The weighings of all jobs, those put away too; ``training``: of training jobs instead."""
    rows = session.execute(
        select(JobRow.id, JobRow.head, JobRow.equipment, RecordRow.document)
        .join(RecordRow, RecordRow.job_id == JobRow.id)
        .where(RecordRow.kind.in_(KINDS))
        .order_by(JobRow.id, RecordRow.id)
    ).all()
    by_job: dict[int, list[tuple[dict[str, object], dict[str, object], dict[str, object]]]] = {}
    for job_id, head, equipment, document in rows:
        if bool(head.get("practice")) == training:
            by_job.setdefault(job_id, []).append((head, equipment, document))
    return [move for job_id, own in by_job.items() for move in _of_job(job_id, own)]


def _of_job(
    job_id: int, rows: list[tuple[dict[str, object], dict[str, object], dict[str, object]]]
) -> Iterator[Move]:
    head, equipment, _ = rows[0]
    documents = [document for _, _, document in rows]
    strikes = [Strike.model_validate(d) for d in documents if d["kind"] == "strike"]
    outdoor = equipment.get("outdoor") or {}
    sheet = outdoor.get("sheet", {}) if isinstance(outdoor, dict) else {}
    own = str(sheet.get("refrigerant", ""))
    for document in documents:
        if document["kind"] != "weighing":
            continue
        weighing = Weighing.model_validate(document)
        if not counts(weighing, strikes, bool(head.get("practice"))):
            continue
        yield Move(
            at=weighing.at,
            cylinder=weighing.cylinder,
            refrigerant=weighing.refrigerant.strip() or own,
            way=weighing.way,
            before_kg=weighing.before_kg or 0.0,
            after_kg=weighing.after_kg or 0.0,
            job_id=job_id,
            job=str(head.get("name", "")),
            by=weighing.by,
            tare_kg=weighing.tare_kg,
        )
