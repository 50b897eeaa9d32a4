"""A change of house practice makes every job stale: they are judged in the background, counted."""

import time
from threading import Event

import pytest

from fairline.core import line
from fairline.store import board
from tests.support import words


@pytest.fixture
def held(monkeypatch):
    """Judging waits until it is let go."""
    go, judged = Event(), board.stored_brief
    monkeypatch.setattr(
        board, "stored_brief", lambda session, job_id: go.wait(20) and judged(session, job_id)
    )
    yield go
    go.set()


def settled(demo):
    for _ in range(400):
        if not demo.app.state.settling.busy:
            return
        time.sleep(0.05)
    pytest.fail("it is still at it")


def test_jobs_are_judged_by_a_changed_practice_beside_all_else(demo, held):
    settled(demo)
    page = demo.post("/rules", data={"house.hold_min": "61 min"}).text
    assert "9 jobs are" in page.replace("<b>", "").replace("</b>", "")
    assert demo.post("/jobs/new", data={"name": "Meanwhile"}).status_code == 200
    assert "9 jobs are" in words(demo.get("/settling")).replace("</b>", "").replace("<b>", "")
    held.set()
    settled(demo)
    with demo.app.state.database.session() as session:
        assert board.stale(session) == []
    done = demo.get("/settling?board=true")
    assert "All jobs are judged" in done.text and done.headers["HX-Refresh"] == "true"
    assert "judged anew" not in demo.get("/").text


def test_one_that_cannot_be_judged_keeps_no_other_from_it(demo, monkeypatch):
    work, name = line.work, demo.get("/api/jobs/3").json()["head"]["name"]

    def trips(job, practice, before=None):
        if job.head.name == name:
            raise ZeroDivisionError
        return work(job, practice, before)

    settled(demo)
    monkeypatch.setattr(line, "work", trips)
    demo.post("/rules", data={"house.hold_min": "62 min"})
    settled(demo)
    with demo.app.state.database.session() as session:
        assert board.stale(session) == []
    shown = demo.get("/api/jobs").json()
    assert [job["id"] for job in shown if job.get("failed")] == [3]
