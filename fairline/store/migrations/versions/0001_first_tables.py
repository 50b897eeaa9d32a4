"""The first tables: shelf, settings, jobs, entries, records, runs and readings."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "sheet",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(600), nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("updated_at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "setting",
        sa.Column("key", sa.String(40), primary_key=True),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
    )
    op.create_table(
        "job",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("uid", sa.String(64), nullable=False, unique=True),
        sa.Column("head", sa.JSON, nullable=False),
        sa.Column("sheet", sa.JSON),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
    )
    job = sa.ForeignKey("job.id", ondelete="CASCADE")
    op.create_table(
        "entry",
        sa.Column("job_id", sa.Integer, job, primary_key=True),
        sa.Column("stage", sa.String(20), primary_key=True),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("editor", sa.String(40), nullable=False),
        sa.Column("turn", sa.Integer, nullable=False),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "record",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "job_id",
            sa.Integer,
            sa.ForeignKey("job.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
    )
    op.create_table(
        "run",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("uid", sa.String(64), nullable=False),
        sa.Column(
            "job_id",
            sa.Integer,
            sa.ForeignKey("job.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("started_at", sa.DateTime, nullable=False),
        sa.Column("started_by", sa.String(200), nullable=False),
        sa.Column("ended_at", sa.DateTime),
        sa.UniqueConstraint("job_id", "uid"),
    )
    op.create_table(
        "reading",
        sa.Column(
            "run_id", sa.Integer, sa.ForeignKey("run.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("instrument", sa.String(200), primary_key=True),
        sa.Column("seq", sa.Integer, primary_key=True),
        sa.Column("t_s", sa.Float, nullable=False),
        sa.Column("gauge_pa", sa.Float),
        sa.Column("pipe_c", sa.Float),
        sa.Column("pa", sa.Float),
    )


def downgrade() -> None:
    for name in ("reading", "run", "record", "entry", "job", "setting", "sheet"):
        op.drop_table(name)
