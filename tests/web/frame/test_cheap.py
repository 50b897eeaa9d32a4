"""What a page costs, counted in asks of the database and in bytes."""

import pytest
from sqlalchemy import event

from fairline.core.stages import TITLES
from tests.support import ago


@pytest.fixture
def asks(demo):
    """The statements that the database was asked, in order."""
    found = []
    engine = demo.app.state.database.engine

    def asked(_connection, _cursor, statement, *_):
        found.append(statement)

    event.listen(engine, "before_cursor_execute", asked)
    yield found
    event.remove(engine, "before_cursor_execute", asked)


@pytest.mark.parametrize("job", [2, 3, 6, 8])
def test_a_page_of_a_judged_job_asks_five_times_and_weighs_less_than_100_kb(demo, asks, job):
    for stage in TITLES:
        demo.get(f"/jobs/{job}/{stage}")
        asks.clear()
        page = demo.get(f"/jobs/{job}/{stage}")
        # One of them: whether anybody was ever made who signs in.
        assert len(asks) <= 5, (stage, asks)
        assert len(page.content) < 100_000, stage


def test_the_board_asks_as_often_of_a_hundred_jobs_as_of_nine(demo, asks):
    demo.get("/")
    asks.clear()
    demo.get("/")
    of_nine = len(asks)
    for n in range(91):
        demo.post("/jobs/1/copy", data={"name": f"Copy {n}"})
    demo.get("/")
    asks.clear()
    assert demo.get("/").text.count('class="job-row') == 15
    assert len(asks) == of_nine <= 13


def test_a_reading_posted_asks_little_and_loads_no_log(demo, asks):
    run = demo.post("/api/jobs/2/runs/pull", headers=ago(3600)).json()["run"]

    def post(seq):
        reading = {"instrument": "g", "seq": seq, "t_s": seq * 1.0, "pa": 500.0}
        asks.clear()
        answer = demo.post(f"/api/jobs/2/runs/{run}/readings", json=[reading])
        assert answer.status_code == 200, answer.text
        return len(asks)

    first = [post(seq) for seq in range(3)]
    many = [
        {"instrument": "g", "seq": seq, "t_s": seq * 1.0, "pa": 500.0} for seq in range(3, 3000)
    ]
    demo.post(f"/api/jobs/2/runs/{run}/readings", json=many)
    assert post(3000) == first[-1] <= 14
    assert not any("FROM reading" in statement for statement in asks)
