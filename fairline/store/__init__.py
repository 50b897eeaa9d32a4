"""Keeping jobs: SQLAlchemy models, sessions, migrations, import and export."""
