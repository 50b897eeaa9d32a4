"""What a page sent again after the signal was lost is kept once: by its token."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "sent",
        sa.Column("token", sa.String(40), primary_key=True),
        sa.Column("at", sa.DateTime, nullable=False, index=True),
    )
