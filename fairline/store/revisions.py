"""The migrations that this program knows, and the newest of them."""

from pathlib import Path

MIGRATIONS = Path(__file__).parent / "migrations"
HEAD = "0021"  # a test holds this against the folder


def migrations() -> list[str]:
    """Every migration this program knows, in order."""
    return sorted(path.name[:4] for path in (MIGRATIONS / "versions").glob("[0-9]*.py"))
