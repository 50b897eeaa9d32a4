"""Where a reading's temperature was read, and pictures of a job."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("reading", sa.Column("probe", sa.String(10)))
    op.create_table(
        "picture",
        sa.Column(
            "job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("name", sa.String(64), primary_key=True),
        sa.Column("content", sa.LargeBinary, nullable=False),
    )
