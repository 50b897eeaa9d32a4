"""Who is answered: hosts, origins, sizes; what every answer carries."""

import json
import re
import subprocess
import tomllib
from pathlib import Path

import pytest
from packaging.requirements import Requirement

from fairline.settings import MAX_BODY_BYTES
from tests.conftest import BASE
from tests.node import node_modules

ROOT = Path(__file__).parents[3]
CALC = "/api/calc/flare-torque"


@pytest.mark.parametrize(
    ("host", "status"),
    [
        ("127.0.0.1:8000", 200),
        ("localhost", 200),
        ("[::1]:8000", 200),
        ("evil.test", 421),
        ("127.0.0.1.evil.test", 421),
        ("", 421),
        ("localhost@evil.test", 421),
    ],
)
def test_only_this_machine_is_answered(client, host, status):
    assert client.get("/", headers={"host": host}).status_code == status


@pytest.mark.parametrize(
    ("headers", "allowed"),
    [
        ({}, True),
        ({"origin": BASE}, True),
        ({"sec-fetch-site": "same-origin"}, True),
        ({"origin": "http://evil.test"}, False),
        ({"origin": "null"}, False),
        ({"origin": "http://127.0.0.1:9999"}, False),
        ({"sec-fetch-site": "cross-site"}, False),
        ({"referer": "http://evil.test/x"}, False),
        ({"referer": f"{BASE}/x"}, True),
    ],
)
@pytest.mark.parametrize("url", ["/jobs/new", "/preferences", CALC])
def test_a_change_comes_from_this_origin(client, headers, allowed, url):
    answer = client.post(url, headers=headers, content="{}", follow_redirects=False)
    assert (answer.status_code != 403) == allowed


def test_too_large_a_body_is_refused_with_or_without_its_length(client):
    told = client.post(CALC, content=b"x" * (MAX_BODY_BYTES + 1))
    assert told.status_code == 413
    assert "12 MB" in told.json()["title"]

    def pieces():
        for _ in range(13):
            yield b"x" * 1024 * 1024

    assert client.post(CALC, content=pieces()).status_code == 413
    assert client.post(CALC, content=b"{}", headers={"content-length": "-1"}).status_code == 413


def test_every_answer_carries_the_policy_and_asks_nobody_else(demo):
    for path in (
        "/",
        "/shelf/1",
        "/rules",
        "/jobs/new",
        "/nowhere",
        "/jobs/1/record",
        *(f"/jobs/3/{s}" for s in ("survey", "route", "flare", "evacuate", "charge")),
    ):
        answer = demo.get(path)
        policy = answer.headers["content-security-policy"]
        assert "default-src 'none'" in policy and "unsafe" not in policy
        assert not re.search(r'(?:src|href|action)="(?:https?:)?//', answer.text)
        assert not re.search(r"<script>|<style|\sstyle=|\son[a-z]+=", answer.text)


def test_styles_and_scripts_ask_nobody_else():
    static = ROOT / "fairline" / "web" / "static"
    assert "//" not in re.sub(r"/\*.*?\*/", "", (static / "style.css").read_text(), flags=re.S)
    assert not any("http" in f.read_text() for f in (static / "scripts").glob("*.js"))


@pytest.mark.parametrize(
    "lock", ["requirements.lock", "requirements-dev.lock", "package-lock.json"]
)
def test_locks_have_hashes_and_no_address(lock):
    text = (ROOT / lock).read_text()
    assert "://" not in text
    if lock.endswith(".json"):
        packages = json.loads(text)["packages"]
        assert all("integrity" in p or p.get("inBundle") for name, p in packages.items() if name)
    else:
        named = [line for line in text.splitlines() if re.match(r"\S+==", line)]
        assert named and all(line.endswith("\\") for line in named)


def test_the_lock_holds_what_builds_the_app():
    """The app is built without isolation: a new machine's own build tools may be too old."""
    needed = tomllib.loads((ROOT / "pyproject.toml").read_text())["build-system"]["requires"]
    locked = dict(re.findall(r"^([\w.-]+)==(\S+)", (ROOT / "requirements.lock").read_text(), re.M))
    for line in needed:
        requirement = Requirement(line)
        assert requirement.specifier.contains(locked[requirement.name])


@pytest.fixture(scope="module")
def node_tools():
    """The folder of what Node's registry gives: the stylesheet's builder, the scripts' linter."""
    return node_modules(".bin/tailwindcss", ".bin/eslint") / ".bin"


def test_the_scripts_pass_their_linter(node_tools):
    found = subprocess.run([node_tools / "eslint", "."], cwd=ROOT, capture_output=True, text=True)
    assert found.returncode == 0, found.stdout


def test_the_shipped_stylesheet_is_not_stale(tmp_path, node_tools):
    tailwind = node_tools / "tailwindcss"
    built = tmp_path / "style.css"
    subprocess.run(
        [tailwind, "-i", ROOT / "styles" / "fairline.css", "-o", built, "--minify"],
        cwd=ROOT,
        check=True,
        capture_output=True,
    )
    shipped = ROOT / "fairline" / "web" / "static" / "style.css"
    fresh = built.read_text() == shipped.read_text()
    assert fresh, "run make styles and commit the result"
