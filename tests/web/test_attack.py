"""The attack (``make attack``) in a short form: nothing answers 500, nothing kept is lost."""

import pytest

from fairline.demo.load import load_demo
from fairline.settings import Settings
from fairline.web.app import create_app
from tests.client import TestClient
from tests.conftest import BASE
from tools.attack import fuzz
from tools.attack.clocks import clocks
from tools.attack.kills import kills
from tools.attack.poison import poison
from tools.attack.watchers import watchers
from tools.attack.writers import writers


@pytest.fixture
def served(tmp_path):
    """The demo as a server answers: a fault is a 500, not an exception."""
    settings = Settings(tmp_path, hosts=("testserver",))
    load_demo(settings)
    app = create_app(settings)
    with TestClient(app, base_url=BASE, raise_server_exceptions=False) as client:
        yield client


def test_every_form_stands_what_nobody_types(served):
    tally = fuzz.forms(served, 120, [2, 6], seed=7)
    assert tally.tried > 150 and tally.sound, str(tally)


def test_the_api_answers_as_it_is_described(served):
    paths = served.get("/openapi.json").json()["paths"]
    there = {r.path for r in served.app.routes if getattr(r, "path", "").startswith("/api/")}
    assert {p.replace("/calc/{name}", "/calc/route") for p in there} <= set(paths)
    tally = fuzz.api(served.app, 2)
    assert tally.tried > 80 and tally.sound, str(tally)


def test_poisoned_files_are_taken_or_refused(served):
    tally = poison(served, many=251_000)
    assert tally.tried > 60 and tally.sound, str(tally)


def test_what_was_acknowledged_is_there_after_a_kill(tmp_path):
    tally = kills(tmp_path, 2)
    assert tally.tried > 5 and tally.sound, str(tally)


def test_a_clock_that_jumps_moves_no_reading(served):
    tally = clocks(served, 12, seed=3)
    assert tally.tried == 12 and tally.sound, str(tally)


def test_the_board_locks_no_writer_out(tmp_path):
    tally = writers(tmp_path, 3, timed=False)
    assert tally.tried > 10 and tally.sound, str(tally)


def test_many_watch_and_nothing_is_lost(tmp_path):
    tally = watchers(tmp_path, 20, 4, 3, timed=False)
    assert tally.tried > 5 and tally.sound, str(tally)
