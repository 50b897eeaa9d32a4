"""A long log once more in one row, as arrays; made of its readings as they are written."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.create_table(
        "pack",
        sa.Column(
            "run_id", sa.Integer, sa.ForeignKey("run.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("content", sa.LargeBinary, nullable=False),
    )
