"""What takes how long on SQLite and on PostgreSQL, in turns, side by side.

``FSYNC=on sh tools/postgres.sh python tools/databases.py``: both wait for the disk. Of the turns
the quickest is told, and how many times SQLite's it is.
"""

import io
import os
import sys
import tempfile
from contextlib import redirect_stdout
from pathlib import Path

import psycopg
from starlette.testclient import TestClient

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from fairline.demo.load import load_demo
from fairline.settings import Settings
from fairline.web.app import create_app
from tools import bench

SERVER = os.environ["FAIRLINE_TEST_POSTGRES"]
TURNS = 2
MEASURED = (
    bench.pages,
    bench.board,
    bench.saving,
    bench.trunk_of_ten,
    bench.long_log,
    bench.full_shelf,
)


def fresh(name: str) -> str:
    """The address of a new database of that name."""
    with psycopg.connect(SERVER, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name}")
    return SERVER.replace("/postgres?", f"/{name}?")


def measured(url: str | None) -> dict[str, float]:
    """Milliseconds by what was done, on a database; None is SQLite."""
    os.environ.pop("FAIRLINE_DATABASE_URL", None)
    if url is not None:
        os.environ["FAIRLINE_DATABASE_URL"] = url
    bench.TOLD.clear()
    with tempfile.TemporaryDirectory() as data, redirect_stdout(io.StringIO()):
        settings = Settings(Path(data))
        load_demo(settings)
        with TestClient(
            create_app(settings), base_url="http://127.0.0.1:8000", client=("127.0.0.1", 50_000)
        ) as client:
            for work in MEASURED:
                work(client, 1.0)
    return dict(bench.TOLD)


def main() -> None:
    turns = [(measured(None), measured(fresh(f"turn_{turn}"))) for turn in range(TURNS)]
    print(f"{'':<46} {'SQLite':>9} {'PostgreSQL':>13}")
    for name in turns[0][0]:
        file, server = (min(turn[which][name] for turn in turns) for which in (0, 1))
        print(f"{name:<46} {file:9.1f} {server:10.1f} ms  {server / file:6.2f} ×")


if __name__ == "__main__":
    main()
