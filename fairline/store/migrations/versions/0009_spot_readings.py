"""What scale, thermometer and wrench show: each reading once, by instrument and number."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "spot",
        sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE")),
        sa.Column("instrument", sa.String(200)),
        sa.Column("seq", sa.Integer),
        sa.Column("what", sa.String(20), nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("mass_kg", sa.Float),
        sa.Column("air_c", sa.Float),
        sa.Column("humidity", sa.Float),
        sa.Column("torque_nm", sa.Float),
        sa.Column("simulated", sa.Boolean, nullable=False, server_default=sa.false()),
        sa.PrimaryKeyConstraint("job_id", "instrument", "seq"),
    )
