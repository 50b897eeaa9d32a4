"""Plans and bids beside jobs, when the first clock of a job ends, a search that needs no scan."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"


SEARCH = (  # the words of every job by three letters, kept with each change of them
    "CREATE VIRTUAL TABLE job_search USING fts5(found_by, tokenize='trigram')",
    "CREATE TRIGGER job_search_new AFTER INSERT ON job BEGIN "
    "INSERT INTO job_search(rowid, found_by) VALUES (new.id, new.found_by); END",
    "CREATE TRIGGER job_search_gone AFTER DELETE ON job BEGIN "
    "DELETE FROM job_search WHERE rowid = old.id; END",
    "CREATE TRIGGER job_search_changed AFTER UPDATE OF found_by ON job "
    "WHEN new.found_by IS NOT old.found_by BEGIN "
    "UPDATE job_search SET found_by = new.found_by WHERE rowid = old.id; END",
    "INSERT INTO job_search(rowid, found_by) SELECT id, found_by FROM job",
)


def _of_job() -> sa.Column[int]:
    return sa.Column(
        "job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), primary_key=True
    )


def upgrade() -> None:
    op.create_table(
        "job_plan",
        _of_job(),
        sa.Column("terms", sa.JSON, nullable=False),
        sa.Column("plan", sa.JSON),
        sa.Column("took", sa.JSON),
        sa.Column("ready_at", sa.DateTime),
        sa.Column("people", sa.Text, nullable=False, server_default=""),
        sa.Column("days", sa.Text, nullable=False, server_default=""),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
    )
    op.create_index("ix_job_plan_ready_at", "job_plan", ["ready_at"])
    op.create_table(
        "job_bid",
        _of_job(),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
    )
    op.add_column("job", sa.Column("clock_at", sa.DateTime))
    op.create_index("job_clock", "job", ["put_away", "clock_at"])
    op.drop_index("job_board", "job")
    op.create_index(
        "job_board",
        "job",
        ["put_away", "urgency", sa.text("id DESC"), "stands_at", "last_on", "due_on"],
    )
    for statement in SEARCH if op.get_bind().dialect.name == "sqlite" else ():
        op.execute(statement)
    op.execute("UPDATE job SET stale = true")
