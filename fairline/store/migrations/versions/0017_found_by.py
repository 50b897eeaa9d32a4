"""What a job is found by, the stage it stands at, and when something was done on it last."""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    op.add_column("job", sa.Column("found_by", sa.Text, nullable=False, server_default=""))
    op.add_column("job", sa.Column("stands_at", sa.String(20), nullable=False, server_default=""))
    op.add_column("job", sa.Column("last_on", sa.String(10), nullable=False, server_default=""))
    op.execute("UPDATE job SET stale = true")
