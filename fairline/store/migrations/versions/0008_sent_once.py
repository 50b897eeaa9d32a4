"""What a page sends again is kept once, by its token; nameplates are kept with their sheets."""

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
    op.create_table(
        "nameplate",
        sa.Column("sheet_id", sa.Integer, sa.ForeignKey("sheet.id", ondelete="CASCADE")),
        sa.Column("name", sa.String(64)),
        sa.Column("content", sa.LargeBinary, nullable=False),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.PrimaryKeyConstraint("sheet_id", "name"),
    )
