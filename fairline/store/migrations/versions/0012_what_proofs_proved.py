"""What a proof proved: subjects, since when which, the practice of a day, an id for each record."""

import json

import sqlalchemy as sa
from alembic import op

from fairline.core.equipment import Equipment
from fairline.core.route.entry import RouteEntry
from fairline.core.route.written import outlets_as_found

revision = "0012"
down_revision = "0011"

NAME = sa.String(24)


def upgrade() -> None:
    job = sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"))
    op.create_table(
        "subject",
        job,
        sa.Column("digest", NAME, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.PrimaryKeyConstraint("job_id", "digest"),
    )
    op.create_table(
        "subject_since",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("subject", NAME, nullable=False),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("what", sa.String(200), nullable=False),
    )
    op.create_index("ix_subject_since_job_id", "subject_since", ["job_id"])
    op.create_table(
        "job_practice",
        sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE")),
        sa.Column("digest", NAME, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.PrimaryKeyConstraint("job_id", "digest"),
    )
    op.add_column("job", sa.Column("subject", NAME, nullable=False, server_default=""))
    for name in ("subject", "practice"):
        op.add_column("run", sa.Column(name, NAME, nullable=False, server_default=""))
    _ids()
    _practice()
    _outlets()


def _ids() -> None:
    """Every record gets an id of its own, by which it is struck out."""
    connection = op.get_bind()
    table = sa.table("record", sa.column("id", sa.Integer), sa.column("document", sa.JSON))
    for row in connection.execute(sa.select(table.c.id, table.c.document)).all():
        document = dict(row.document) | {"uid": f"r{row.id}"}
        connection.execute(table.update().where(table.c.id == row.id).values(document=document))


def _practice() -> None:
    """What was done till now keeps the house practice that it was found under."""
    connection = op.get_bind()
    kept = connection.execute(
        sa.text("SELECT document FROM setting WHERE key = 'practice'")
    ).scalar()
    document = json.loads(kept) if isinstance(kept, str) else kept or {}
    table = sa.table(
        "job_practice",
        sa.column("job_id", sa.Integer),
        sa.column("digest", NAME),
        sa.column("document", sa.JSON),
    )
    for (job_id,) in connection.execute(sa.text("SELECT id FROM job")).all():
        connection.execute(table.insert().values(job_id=job_id, digest="", document=document))


def _outlets() -> None:
    """Where joints were made, the outlets that runs had are written into the plan."""
    connection = op.get_bind()
    entry = sa.table(
        "entry",
        sa.column("job_id", sa.Integer),
        sa.column("stage", sa.String),
        sa.column("document", sa.JSON),
    )
    query = sa.text(
        "SELECT id FROM job WHERE id IN (SELECT job_id FROM record WHERE kind = 'joint')"
    )
    job = sa.table("job", sa.column("id", sa.Integer), sa.column("equipment", sa.JSON))
    for (job_id,) in connection.execute(query).all():
        where = sa.and_(entry.c.job_id == job_id, entry.c.stage == "route")
        kept = connection.execute(sa.select(entry.c.document).where(where)).scalar()
        planned = connection.execute(sa.select(job.c.equipment).where(job.c.id == job_id)).scalar()
        try:
            route = RouteEntry.model_validate(kept or {})
            found = outlets_as_found(route, Equipment.model_validate(planned or {}))
        except ValueError:
            continue  # it cannot be read any more: it goes out as it lies
        if found != route:
            document = found.model_dump(mode="json", exclude_defaults=True)
            connection.execute(entry.update().where(where).values(document=document))
