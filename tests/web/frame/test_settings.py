"""Where the data lives, which hosts are answered, what a browser remembers."""

import re
from pathlib import Path

import pytest

from fairline.cli import main
from fairline.settings import Settings, default_data_dir
from fairline.web.app import create_app
from fairline.web.frame.pages import ASSETS
from tests.client import TestClient
from tests.conftest import BASE
from tests.databases import SERVER
from tests.support import open_up

PAGE_SCRIPT = Path(__file__).parents[3] / "fairline" / "web" / "static" / "scripts" / "page.js"


@pytest.mark.skipif(bool(SERVER), reason="of SQLite")
def test_the_data_folder_by_option_and_environment(monkeypatch, tmp_path):
    monkeypatch.delenv("FAIRLINE_DATA", raising=False)
    assert default_data_dir().name == "fairline"
    monkeypatch.setenv("FAIRLINE_DATA", str(tmp_path / "here"))
    assert default_data_dir() == tmp_path / "here"
    assert Settings(Path("/x")).database_url == "sqlite:////x/fairline.db"
    monkeypatch.setenv("FAIRLINE_DATABASE_URL", "postgresql://office/fairline")
    assert Settings(Path("/x")).database_url == "postgresql://office/fairline"


def test_a_configured_host_is_answered(monkeypatch, tmp_path):
    monkeypatch.setenv("FAIRLINE_HOSTS", "van.test, Office.test")
    with TestClient(create_app(Settings(tmp_path)), base_url="http://van.test") as client:
        assert client.get("/").status_code == 200
        assert client.get("/", headers={"host": "office.test:8000"}).status_code == 200
        assert client.get("/", headers={"host": "other.test"}).status_code == 421


def test_units_theme_and_name_are_remembered(client):
    assert ">ft" in client.get("/").text
    client.post("/preferences", data={"units": "si"}, headers={"referer": f"{BASE}/rules"})
    client.post("/preferences", data={"theme": "dark", "person": "Ida Łuk"})
    page = client.get("/shelf/new").text
    assert 'data-theme="dark"' in page
    assert 'value="si" aria-pressed="true"' in page
    client.post("/preferences", data={"units": "furlongs", "theme": "<b>"})
    assert 'value="si" aria-pressed="true"' in client.get("/").text
    location = client.post(
        "/preferences",
        data={"units": "us"},
        follow_redirects=False,
        headers={"referer": f"{BASE}/shelf?x=1"},
    ).headers["location"]
    assert location == "/shelf?x=1"


def test_who_recorded_is_there_the_next_time(demo):
    open_up(demo, 3)
    demo.post(
        "/jobs/3/flare/joints",
        data={"place": "gas_head", "look": "good", "wrench_nm": "30 N·m", "by": "Ida Łuk"},
    )
    assert demo.get("/jobs/2/flare").text.count('value="Ida Łuk"') >= 1


@pytest.mark.parametrize(
    "path",
    [
        "/static/style.css",
        f"/static/{ASSETS}/scripts/page.js",
        "/static/vendor/htmx.min.js",
        "/static/fonts/archivo-latin.woff2",
    ],
)
def test_assets_are_kept_by_the_browser_and_pages_are_not(client, path):
    answer = client.get(path)
    assert answer.status_code == 200
    assert "immutable" in answer.headers["cache-control"]
    assert client.get("/").headers["cache-control"] == "no-store"


def test_the_first_page_is_within_its_weight(demo):
    """At most 150 kB the first time, 30 kB after (compressed, as sent)."""

    def weight(path):
        with demo.stream("GET", path) as answer:
            return sum(len(piece) for piece in answer.iter_raw())

    page = weight("/jobs/3/evacuate")
    assets = [
        "style.css",
        "scripts/page.js",
        *(f"scripts/{n}.js" for n in re.findall(r'"\./(\w+)\.js"', PAGE_SCRIPT.read_text())),
        "vendor/htmx.min.js",
        "vendor/idiomorph-ext.min.js",
        "vendor/htmx-sse.min.js",
        "vendor/alpine-csp.min.js",
        "fonts/archivo-latin.woff2",
        "fonts/symbols.woff2",
    ]
    assert page <= 30_000
    assert page + sum(weight(f"/static/{a}") for a in assets) <= 150_000


def test_the_command_line_says_what_it_wants(capsys):
    with pytest.raises(SystemExit):
        main([])
    with pytest.raises(SystemExit):
        main(["serve", "--port", "many"])
    assert main(["calc", "--list"]) == 0
    assert "vacuum-decay" in capsys.readouterr().out
    assert main(["calc"]) == 2
    assert "no such computation" in capsys.readouterr().err
