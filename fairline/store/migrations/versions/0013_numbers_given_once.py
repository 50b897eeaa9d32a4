"""A job's number is given once: an old page of a job that was deleted never writes into another."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.create_table(
        "job_number", sa.Column("id", sa.Integer, primary_key=True), sqlite_autoincrement=True
    )
    # What was given before, as far as it is still known, counts as given.
    op.execute("INSERT INTO job_number (id) SELECT max(id) FROM job WHERE true HAVING max(id) > 0")
    op.execute("DELETE FROM job_number")
