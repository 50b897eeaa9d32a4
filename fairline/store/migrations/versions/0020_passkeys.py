"""Passkeys of people."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"


def upgrade() -> None:
    op.create_table(
        "passkey",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "person_id", sa.Integer, sa.ForeignKey("person.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("credential", sa.String(1400), nullable=False, unique=True),
        sa.Column("public_key", sa.LargeBinary, nullable=False),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("words", sa.String(200), nullable=False, server_default=""),
        sa.Column("made_at", sa.DateTime, nullable=False),
        sa.Column("seen_at", sa.DateTime, nullable=False),
    )
    op.create_index("ix_passkey_person_id", "passkey", ["person_id"])
