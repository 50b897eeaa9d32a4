"""The day of a job's next visit, so that the board finds those that are due."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.add_column("job", sa.Column("due_on", sa.String(10)))
    op.create_index("job_due", "job", ["put_away", "due_on"])
