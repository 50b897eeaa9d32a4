"""What the board shows of a job is kept beside it; every brief is made anew after this step."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column("job", sa.Column("brief", sa.JSON))
    op.add_column("job", sa.Column("urgency", sa.Integer, nullable=False, server_default="0"))
    op.add_column("job", sa.Column("stale", sa.Boolean, nullable=False, server_default=sa.true()))
    op.add_column("job", sa.Column("head_version", sa.Integer, nullable=False, server_default="1"))
    op.create_index("job_board", "job", ["urgency", "id"])
