"""A run says how many readings it has, so that what is new is found without a look at all."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.add_column("run", sa.Column("count", sa.Integer, nullable=False, server_default="0"))
    op.execute(
        "UPDATE run SET count = (SELECT COUNT(*) FROM reading WHERE reading.run_id = run.id)"
    )
