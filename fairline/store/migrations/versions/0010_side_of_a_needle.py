"""Of a needle that was read: on which side of the manifold it sits."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.add_column("reading", sa.Column("side", sa.String(10), nullable=True))
