"""Every edit of an entry in steps, to be merged and taken back; jobs put away or handed over."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "edit",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("stage", sa.String(20), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("bunch", sa.String(32), nullable=False),
        sa.Column("editor", sa.String(40), nullable=False, server_default=""),
        sa.Column("turn", sa.Integer, nullable=False, server_default="0"),
        sa.Column("by", sa.String(200), nullable=False, server_default=""),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("steps", sa.JSON, nullable=False),
        sa.Column("takes_back", sa.Boolean, nullable=False, server_default=sa.false()),
        sa.Column("taken_by", sa.String(32), nullable=False, server_default=""),
    )
    op.create_index("edit_of_stage", "edit", ["job_id", "stage", "version"])
    op.create_index("edit_bunch", "edit", ["bunch"])
    for name in ("put_away", "handed_over"):
        column = sa.Column(name, sa.Boolean, nullable=False, server_default=sa.false())
        op.add_column("job", column)
    op.drop_index("job_board", "job")
    op.create_index("job_board", "job", ["put_away", "urgency", "id"])
