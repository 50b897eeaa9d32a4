"""People who may sign in, what lets them in, and wrong tries."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"


def upgrade() -> None:
    op.create_table(
        "person",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(100), nullable=False),
        sa.Column("key", sa.String(200), nullable=False, unique=True),
        sa.Column("role", sa.String(20), nullable=False),
        sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE")),
        sa.Column("password", sa.String(300), nullable=False),
        sa.Column("ended", sa.Boolean, nullable=False, server_default=sa.false()),
        sa.Column("made_at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "access_key",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("digest", sa.String(64), nullable=False, unique=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("person_id", sa.Integer, sa.ForeignKey("person.id", ondelete="CASCADE")),
        sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE")),
        sa.Column("words", sa.String(200), nullable=False, server_default=""),
        sa.Column("made_at", sa.DateTime, nullable=False),
        sa.Column("seen_at", sa.DateTime, nullable=False),
        sa.Column("until", sa.DateTime),
    )
    op.create_index("ix_access_key_person_id", "access_key", ["person_id"])
    op.create_index("ix_access_key_job_id", "access_key", ["job_id"])
    op.create_table(
        "attempt",
        sa.Column("key", sa.String(200), primary_key=True),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )
    op.create_index("ix_attempt_at", "attempt", ["at"])
