"""The words of jobs by three letters in PostgreSQL too (SQLite has them since 0018)."""

from alembic import op
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    connection = op.get_bind()
    if connection.dialect.name != "postgresql":
        return
    try:
        with connection.begin_nested():  # whoever may not add an extension searches without it
            connection.execute(text("CREATE EXTENSION IF NOT EXISTS pg_trgm"))
    except DBAPIError:
        return
    op.execute("CREATE INDEX job_search ON job USING gin (found_by gin_trgm_ops)")
