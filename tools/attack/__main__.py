"""Run the whole attack, or a short form (``--short``); 1 where anything failed or was lost."""

import argparse
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from starlette.testclient import TestClient

from fairline.demo.load import load_demo
from fairline.settings import Settings
from fairline.web.app import create_app
from tools.attack import fuzz
from tools.attack.clocks import clocks
from tools.attack.kills import kills
from tools.attack.poison import poison
from tools.attack.tally import Tally
from tools.attack.watchers import watchers
from tools.attack.writers import writers

JOBS = [1, 2, 5, 6, 7, 9]  # one of each kind of system


@contextmanager
def demo() -> Iterator[TestClient]:
    """The demo in this process, answered as a server does: a fault is a 500."""
    with tempfile.TemporaryDirectory() as folder:
        settings = Settings(Path(folder), hosts=("testserver",))
        load_demo(settings)
        app = create_app(settings)
        with TestClient(
            app,
            base_url="http://127.0.0.1:8000",
            raise_server_exceptions=False,
            client=("127.0.0.1", 50_000),
        ) as client:
            yield client


def attacks(short: bool, minutes: float) -> Iterator[Callable[[], Tally]]:
    def forms() -> Tally:
        with demo() as client:
            return fuzz.forms(client, 400 if short else 8000, JOBS[:2] if short else JOBS)

    def api() -> Tally:
        with demo() as client:
            return fuzz.api(client.app, 4 if short else 60)  # type: ignore[arg-type]

    def files() -> Tally:
        with demo() as client:
            return poison(client)

    def killed() -> Tally:
        with tempfile.TemporaryDirectory() as folder:
            return kills(Path(folder), 3 if short else 60)

    def jumping() -> Tally:
        with demo() as client:
            return clocks(client, 10 if short else 200)

    def writing() -> Tally:
        with tempfile.TemporaryDirectory() as folder:
            return writers(Path(folder), 5 if short else 60)

    def watched() -> Tally:
        with tempfile.TemporaryDirectory() as folder:
            return watchers(Path(folder), 40, 10, 10 if short else 60 * minutes)

    yield from (forms, api, files, killed, jumping, writing, watched)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--short", action="store_true", help="a minute or two in place of twenty")
    parser.add_argument("--minutes", type=float, default=10.0, help="of watchers and instruments")
    parser.add_argument("--only", help="one attack by a word of its name: forms, api, files, …")
    arguments = parser.parse_args()
    sound = True
    for attack in attacks(arguments.short, arguments.minutes):
        if arguments.only and arguments.only not in attack.__name__:
            continue
        tally = attack()
        print(tally, flush=True)
        sound = sound and tally.sound
    return 0 if sound else 1


if __name__ == "__main__":
    sys.exit(main())
