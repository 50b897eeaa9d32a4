"""An application on an empty database, and one with the demo company in it."""

import pytest
from hypothesis import settings

from fairline.demo.load import load_demo
from fairline.settings import Settings
from fairline.store.database import open_database
from fairline.web.app import create_app
from tests.client import TestClient
from tests.databases import copied, url_of

# The same examples every time, and no clock on them: a check is never red by chance.
settings.register_profile("fairline", deadline=None, derandomize=True)
settings.load_profile("fairline")

BASE = "http://127.0.0.1:8000"


@pytest.fixture
def database(tmp_path):
    opened = open_database(url_of(tmp_path))
    yield opened
    opened.close()


@pytest.fixture
def client(tmp_path):
    with TestClient(create_app(Settings(tmp_path)), base_url=BASE) as made:
        yield made


@pytest.fixture(scope="session")
def demo_data(tmp_path_factory):
    """The demo company's data, loaded once; each test works on a copy of its own."""
    folder = tmp_path_factory.mktemp("demo")
    load_demo(Settings(folder))
    return folder


@pytest.fixture
def demo(tmp_path, demo_data):
    copied(demo_data, tmp_path)
    with TestClient(create_app(Settings(tmp_path)), base_url=BASE) as made:
        yield made
