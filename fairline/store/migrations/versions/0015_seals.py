"""Seals: the digests of a job on the day that it was handed over."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.create_table(
        "seal",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("document", sa.JSON, nullable=False),
    )
    op.create_index("ix_seal_job_id", "seal", ["job_id"])
