"""Reached from other machines: TLS by one's own authority, refusals in a sentence, people added."""

import io
import json
import re
import socket
import ssl
import subprocess
import sys
import time
import urllib.request
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from cryptography import x509
from cryptography.x509.verification import PolicyBuilder, Store

from fairline.cli import _parser, main
from fairline.demo.systems import demo_jobs
from fairline.store import certificate

DEPLOY = Path(__file__).parent.parent / "deploy"


def test_a_certificate_is_good_for_its_names_and_for_no_others(tmp_path):
    made = certificate.make(tmp_path, ["yard.local", "192.0.2.7"])
    authority = x509.load_pem_x509_certificate(made.authority.read_bytes())
    server = x509.load_pem_x509_certificate(made.certificate.read_bytes())
    trusted = PolicyBuilder().store(Store([authority]))
    trusted.build_server_verifier(x509.DNSName("yard.local")).verify(server, [])
    with pytest.raises(x509.verification.VerificationError):
        trusted.build_server_verifier(x509.DNSName("other.local")).verify(server, [])
    again = certificate.make(tmp_path, ["yard.local"])
    assert again.authority.read_bytes() == made.authority.read_bytes()
    assert certificate.ends(tmp_path) - datetime.now(UTC) < timedelta(days=398)
    assert {f.stat().st_mode & 0o077 for f in tmp_path.iterdir()} == {0}
    pairs = certificate.fingerprint(made.authority.read_bytes()).split(":")
    assert len(pairs) == 32 and all(len(p) == 2 for p in pairs)


def test_the_unit_and_the_image_start_what_the_command_knows():
    unit = re.search("^ExecStart=(.*)", (DEPLOY / "fairline.service").read_text(), re.M)[1].split()
    image = json.loads(re.search("^CMD (.*)", (DEPLOY / "Containerfile").read_text(), re.M)[1])
    assert unit[1:] == image[1:]
    given = _parser().parse_args(image[1:])
    assert (given.host, given.port, given.log) == ("0.0.0.0", 8443, True)


def run(monkeypatch, capsys, *words, typed=""):
    monkeypatch.setattr(sys, "stdin", io.StringIO(typed))
    code = main(list(words))
    out = capsys.readouterr()
    return code, out.out + out.err


def test_others_are_answered_over_tls_only(tmp_path, monkeypatch, capsys):
    data = ("--data", str(tmp_path))
    far = ("serve", "--host", "0.0.0.0", *data)
    code, told = run(monkeypatch, capsys, *far)
    assert code == 1 and "over TLS only" in told
    missing = str(tmp_path / "none.pem")
    code, told = run(monkeypatch, capsys, *far, "--tls", missing, missing)
    assert code == 1 and f"There is no file {missing}" in told


def test_people_are_added_on_the_computer_itself(tmp_path, monkeypatch, capsys):
    data = ("--data", str(tmp_path))

    def people(*words, typed="correct horse staple\n"):
        return run(monkeypatch, capsys, "people", *words, *data, typed=typed)

    assert people("add", "Bo")[1].startswith("Not done: the first person is an owner")
    assert people("add", "Ida", "--role", "owner", typed="short\n")[0] == 1
    assert people("add", "Ida", "--role", "owner") == (0, "Ida may sign in.\n")
    assert "is there already" in people("add", "ida")[1]
    assert (
        "Say the name" in people("add")[1]
        and "role is owner" in people("add", "X", "--role", "k")[1]
    )
    assert people("reset", "Nobody")[1] == "Nobody is called Nobody.\n"
    assert people("reset", "Ida")[0] == 0 and people("list")[1] == "Ida: owner\n"


def test_a_server_is_reached_over_tls_and_keeps_its_cookie_to_it(tmp_path):
    made = certificate.make(tmp_path / "tls", ["127.0.0.1", "yard.local"])
    command = [sys.executable, "-m", "fairline.cli"]
    data = ["--data", str(tmp_path)]
    add = [*command, "people", "add", "Ida", "--role", "owner", *data]
    subprocess.run(add, input="correct horse staple\n", text=True, check=True, capture_output=True)
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    serve = [*command, "serve", "--host", "0.0.0.0", "--port", str(port), "--log", *data]
    server = subprocess.Popen(serve, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    try:
        said = f"Fair Line answers at https://yard.local:{port}/ and https://127.0.0.1:{port}/ "
        assert server.stdout.readline().startswith(said)
        trusted = ssl.create_default_context(cafile=str(made.authority))
        asked = urllib.request.build_opener(urllib.request.HTTPSHandler(context=trusted))
        base = f"https://127.0.0.1:{port}"
        well = opened(asked, f"{base}/health")
        assert b'"well":true' in well.read()
        assert "max-age" in well.headers["strict-transport-security"]
        form = b"name=Ida&password=correct+horse+staple&back=%2Fhealth"
        request = urllib.request.Request(f"{base}/sign-in", form)
        cookie = no_way_on(trusted).open(request).headers["set-cookie"]
        assert all(word in cookie for word in ("HttpOnly", "Secure", "SameSite=lax", "Path=/;"))
        assert cookie.startswith("__Host-fairline_session=") and "Domain" not in cookie
    finally:
        server.terminate()
        _, log = server.communicate(timeout=20)
    assert '"route": "/sign-in", "status": 303' in log and "horse" not in log


def opened(asked, address):
    """The first answer of a server that is just starting."""
    for _ in range(400):
        try:
            return asked.open(address)
        except OSError:
            time.sleep(0.05)
    return asked.open(address)


def no_way_on(trusted):
    class Stays(urllib.request.HTTPErrorProcessor):
        def https_response(self, _request, response):
            return response

    return urllib.request.build_opener(Stays, urllib.request.HTTPSHandler(context=trusted))


def test_two_processes_serve_one_database_and_a_stream_sees_what_the_other_kept(tmp_path):
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [sys.executable, "-m", "fairline.cli", "serve", "--workers", "2"]
    serve = [*command, "--port", str(port), "--data", str(tmp_path)]
    base = f"http://127.0.0.1:{port}"

    def asked(path, body=None):
        sent = None if body is None else body.encode()
        with urllib.request.urlopen(f"{base}{path}", sent, timeout=30) as answer:
            return json.load(answer)

    process = subprocess.Popen(serve, stdout=subprocess.DEVNULL)
    try:
        until = time.monotonic() + 60
        while time.monotonic() < until:
            try:
                asked("/health")
                break
            except OSError:
                time.sleep(0.1)
        job = asked("/api/jobs", demo_jobs()[1].model_dump_json())["id"]
        run = asked(f"/api/jobs/{job}/runs/pull", "{}")["run"]
        with urllib.request.urlopen(f"{base}/jobs/{job}/evacuate/live", timeout=30) as stream:
            for n in range(12):  # whichever process takes each of them
                one = [{"instrument": "g", "seq": n, "t_s": 1.0 * n, "pa": 900.0 - n}]
                asked(f"/api/jobs/{job}/runs/{run}/readings", json.dumps(one))
            shown = b""
            while b"12 readings" not in shown:
                shown = stream.readline()
                assert shown, "the stream ended"
    finally:
        process.terminate()
        process.wait(30)
