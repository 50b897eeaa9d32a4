"""A shelf of every kind of equipment, with its versions; a job holds copies of several sheets.

What was one sheet of an outdoor unit with its head becomes a sheet each.
"""

import json

import sqlalchemy as sa
from alembic import op

from fairline.core import first_form

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    connection = op.get_bind()
    old = connection.execute(sa.text("SELECT document, version, updated_at FROM sheet")).all()
    op.drop_table("sheet")
    op.create_table(
        "sheet",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String(20), nullable=False, index=True),
        sa.Column("key", sa.String(410), nullable=False, unique=True),
        sa.Column("name", sa.String(410), nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("updated_at", sa.DateTime, nullable=False),
    )
    sheet = sa.ForeignKey("sheet.id", ondelete="CASCADE")
    op.create_table(
        "sheet_version",
        sa.Column("sheet_id", sa.Integer, sheet, primary_key=True),
        sa.Column("version", sa.Integer, primary_key=True),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )
    kept: set[str] = set()
    for document, number, at in old:
        for part in first_form.sheets(json.loads(document)):
            name = f"{part['maker']} {part['model']}"
            key = " ".join(name.casefold().split())
            if key in kept:
                continue
            kept.add(key)
            row = {"i": len(kept), "kind": part["kind"], "key": key, "name": name, "v": number}
            row |= {"d": json.dumps(part), "at": at}
            connection.execute(
                sa.text(
                    "INSERT INTO sheet (id, kind, key, name, document, version, updated_at) "
                    "VALUES (:i, :kind, :key, :name, :d, :v, :at)"
                ),
                row,
            )
            connection.execute(
                sa.text(
                    'INSERT INTO sheet_version (sheet_id, version, document, "by", at) '
                    "VALUES (:i, :v, :d, '', :at)"
                ),
                row,
            )
    _jobs(connection)


def _jobs(connection: sa.Connection) -> None:
    """Each job's sheet, and what was entered with it in the first form."""
    # Columns are added and dropped in place: a table made anew would cascade to what hangs on it.
    op.add_column(
        "job", sa.Column("equipment", sa.JSON, nullable=False, server_default=sa.text("'{}'"))
    )
    rows = connection.execute(sa.text("SELECT id, sheet, created_at FROM job")).all()
    for job_id, sheet, created_at in rows:
        held = {"format_version": 1, "sheet": json.loads(sheet) if sheet else None}
        entries = connection.execute(
            sa.text("SELECT stage, document FROM entry WHERE job_id = :id"), {"id": job_id}
        ).all()
        held |= {stage: json.loads(document) for stage, document in entries}
        new = first_form.upgraded(held)
        connection.execute(
            sa.text("UPDATE job SET equipment = :e WHERE id = :id"),
            {"e": json.dumps(new.get("equipment", {})), "id": job_id},
        )
        if "survey" in new and "survey" not in held:
            connection.execute(
                sa.text(
                    'INSERT INTO entry (job_id, stage, document, version, editor, turn, "by", at) '
                    "VALUES (:id, 'survey', '{}', 1, '', 0, '', :at)"
                ),
                {"id": job_id, "at": created_at},
            )
        for stage in ("survey", "mount"):
            if stage in new:
                connection.execute(
                    sa.text("UPDATE entry SET document = :d WHERE job_id = :id AND stage = :s"),
                    {"d": json.dumps(new[stage]), "id": job_id, "s": stage},
                )
    op.drop_column("job", "sheet")
