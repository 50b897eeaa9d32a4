"""Readings that no instrument read are marked."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column(
        "reading", sa.Column("simulated", sa.Boolean, nullable=False, server_default=sa.false())
    )
    op.execute("UPDATE reading SET simulated = true WHERE instrument LIKE 'simulated %'")
