"""Where the data lives and who may ask: options, then environment, then defaults."""

import os
from dataclasses import dataclass, field
from pathlib import Path

LOCAL_HOSTS = ("127.0.0.1", "localhost", "[::1]")
MAX_BODY_BYTES = 12 * 1024 * 1024


def default_data_dir() -> Path:
    """The user's data folder, or FAIRLINE_DATA where it is set."""
    if configured := os.environ.get("FAIRLINE_DATA"):
        return Path(configured)
    from platformdirs import user_data_path

    return user_data_path("fairline")


def configured_hosts() -> tuple[str, ...]:
    """Hosts accepted besides this machine: FAIRLINE_HOSTS, separated by commas."""
    names = os.environ.get("FAIRLINE_HOSTS", "").split(",")
    return tuple(n.strip().lower() for n in names if n.strip())


@dataclass(frozen=True)
class Settings:
    """One server's settings. ``database_url`` may point elsewhere than the data folder."""

    data_dir: Path
    hosts: tuple[str, ...] = field(default_factory=configured_hosts)
    max_body_bytes: int = MAX_BODY_BYTES
    workers: int = field(default_factory=lambda: int(os.environ.get("FAIRLINE_WORKERS", "1")))

    @property
    def database_url(self) -> str:
        return os.environ.get("FAIRLINE_DATABASE_URL") or f"sqlite:///{self.data_dir}/fairline.db"

    @property
    def allowed_hosts(self) -> tuple[str, ...]:
        return LOCAL_HOSTS + self.hosts
