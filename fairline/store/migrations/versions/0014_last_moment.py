"""The last moment that something was done here: a clock that was set back is seen at the start."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.create_table(
        "clock",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("last", sa.DateTime, nullable=True),
    )
    op.execute("INSERT INTO clock (id) VALUES (1)")
