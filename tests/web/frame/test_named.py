"""A job is named by its uid: what was meant for one is never kept by another."""

import re
import threading
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, HTTPServer

import pytest

from fairline.core.stages import TITLES
from fairline.instruments.reporter import JobAddressError, RefusedError, Reporter
from fairline.store.models import JobRow
from fairline.web.bench.bench import InHouse, OffTheJobError

ASIDE = ("life", "head", "rules", "pictures", "bench", "cut-plan")
POSTS = re.compile(r'(?:action|formaction|hx-post)="(/jobs/\d+[^"]*)"')


def replaced(client, job_id):
    """The folder is another one: under the same number lies another job."""
    with client.app.state.database.session() as session:
        session.get(JobRow, job_id).uid = "another-job-of-another-folder"
        session.commit()


@pytest.mark.parametrize("job", range(1, 10))
def test_every_form_of_a_job_names_it_by_its_uid(demo, job):
    uid = demo.get(f"/api/jobs/{job}/named").json()["uid"]
    posts = set()
    for page in (*TITLES, *ASIDE):
        text = demo.get(f"/jobs/{job}/{page}").text.replace("&amp;", "&")
        posts |= {at for at in POSTS.findall(text) if not at.startswith("/jobs/new")}
    assert len(posts) > 15
    assert [at for at in posts if not at.endswith(f"job={uid}")] == []


def test_what_an_old_tab_sends_is_refused_where_the_job_is_another_or_gone(demo):
    page = demo.get("/jobs/2/head").text
    at = POSTS.search(page).group(1).replace("&amp;", "&")
    new = {"name": "Written by an old tab"}
    replaced(demo, 2)
    refused = demo.post(at, data=new)
    assert refused.status_code == 409 and "another than the one" in refused.text
    assert "Written by an old tab" not in demo.get("/jobs/2/head").text
    assert demo.post("/api/jobs/2/runs/pull?job=1234").status_code == 409
    name = demo.get("/api/jobs/3").json()["head"]["name"]
    demo.post("/jobs/3/delete", data={"typed": name})
    assert demo.post(at.replace("/jobs/2/", "/jobs/3/"), data=new).status_code == 404


def test_an_instrument_on_the_bench_leaves_a_job_that_is_another(demo):
    uid = demo.get("/api/jobs/2/named").json()["uid"]
    run = demo.post("/api/jobs/2/runs/pull").json()["run"]
    way = InHouse(demo.app.state.database.session, 2, uid)
    reading = {"instrument": "g", "seq": 0, "t_s": 0.0, "pa": 500.0, "simulated": True}
    way.take(run, reading)
    assert way.send()
    replaced(demo, 2)
    way.take(run, reading | {"seq": 1})
    with pytest.raises(OffTheJobError, match="another than the one"):
        way.send()


def test_a_job_that_was_handed_over_takes_nothing_new_from_an_instrument(demo):
    spot = {"instrument": "s", "seq": 0, "what": "scale", "mass_kg": 9.5, "simulated": True}
    spot["at"] = "2026-11-02T08:00:00Z"
    readings = "/api/jobs/2/instruments/readings"
    assert demo.post(readings, json=[spot]).json() == {"stored": 1, "known": 0}
    demo.post("/jobs/2/hand-over/done", data={"by": "Ida", "reason": "to try"})
    assert demo.post(readings, json=[spot]).json() == {"stored": 0, "known": 1}  # it has it
    assert demo.post(readings, json=[spot | {"seq": 1}]).status_code == 409
    gauge = {"name": "g", "what": "micron", "resolution": 0.1}
    assert demo.post("/api/jobs/2/instruments", json=gauge).status_code == 409


@contextmanager
def answering(answers):
    """A server that is not the job: it answers each request as it is told, and keeps the paths."""
    asked = []

    class Portal(BaseHTTPRequestHandler):
        def do_GET(self):
            self.rfile.read(int(self.headers.get("content-length") or 0))
            asked.append(self.path)
            status, kind, body = answers(self.path)
            self.send_response(status)
            self.send_header("content-type", kind)
            self.send_header("content-length", str(len(body)))
            if status == 302:
                self.send_header("location", "/welcome")
            self.end_headers()
            self.wfile.write(body)

        def do_POST(self):
            self.do_GET()

        def log_message(self, *_):
            pass

    served = HTTPServer(("127.0.0.1", 0), Portal)
    thread = threading.Thread(target=served.serve_forever, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{served.server_port}", asked
    finally:
        served.shutdown()
        thread.join()
        served.server_close()


JSON = "application/json"
NAMED = (200, JSON, b'{"id": 2, "uid": "abcdefgh"}')


@pytest.mark.parametrize(
    ("status", "kind", "body"),
    [
        (200, "text/html", b"<h1>Welcome to our network</h1>"),
        (302, "text/html", b""),
        (200, JSON, b'{"ok": true}'),
        (200, JSON, b'{"stored": 1, "known": 0}'),  # of two that were sent
        (200, JSON, b'{"stored": true, "known": true}'),
        (200, JSON, b"{"),
        (204, JSON, b""),
        (403, "text/html", b"sign in first"),
        (503, "text/html", b""),
    ],
)
def test_only_the_jobs_own_answer_lets_readings_go(status, kind, body):
    """A hot spot's page once swallowed sixteen readings."""
    told = []
    wrong = [True]

    def answers(path):
        if path == "/api/jobs/2/named":
            return NAMED
        return (status, kind, body) if wrong[0] else (200, JSON, b'{"stored": 2, "known": 0}')

    with answering(answers) as (base, asked):
        reporter = Reporter.at(f"{base}/jobs/2")
        reporter.tell = told.append
        for seq in range(2):
            reporter.take("r", {"instrument": "g", "seq": seq, "t_s": 1.0, "pa": 50.0})
        assert not reporter.send() and len(reporter.waiting) == 2
        assert not reporter.send() and len(told) == 1 and told[0]
        wrong[0] = False
        assert reporter.send() and not reporter.waiting and told[-1] == ""
        assert set(asked) == {"/api/jobs/2/named", "/api/jobs/2/runs/r/readings?job=abcdefgh"}


def test_a_job_that_says_no_is_believed():
    no = (409, "application/problem+json", b'{"title": "Handed over"}')
    with answering(lambda path: NAMED if path.endswith("named") else no) as (base, _):
        reporter = Reporter.at(f"{base}/jobs/2")
        reporter.take("r", {"seq": 0})
        with pytest.raises(RefusedError, match="Handed over"):
            reporter.send()


@pytest.mark.parametrize(
    "address",
    (
        *("", "jobs/2", "http:///jobs/2", "http://h:99999/jobs/2", "http://h:x/jobs/2"),
        *("ftp://h/jobs/2", "http://h/jobs/", "http://h/jobs/0", "http://h/jobs/²"),
        *("http://[::1/jobs/2", "http://a b/jobs/2", "http://h/shelf/2"),
        "http://h/jobs/99999999999",
    ),
)
def test_an_address_that_is_none_is_told_in_a_sentence(address):
    with pytest.raises(JobAddressError):
        Reporter.at(address)
