"""Each thing is worked out once for a revision of a job; a page of a judged job works nothing out.

Counted by the calls of the computations themselves, with what they were asked.
"""

import sys
import threading
from collections import Counter
from pathlib import Path

import pytest

import fairline.core
from fairline.core.calc.door import CALCULATIONS
from fairline.core.calc.vacuum_decay import decay
from fairline.core.route.piping import piping
from fairline.core.stages import IN_ORDER
from fairline.demo.load import load_demo
from fairline.settings import Settings
from fairline.web.app import create_app
from tests.client import TestClient
from tests.support import ago

CORE = str(Path(fairline.core.__file__).parent)
COMPUTED = {c.function.__code__ for c in CALCULATIONS.values()} | {
    decay.__code__,
    piping.__code__,
}
WORK = {stage.work.__code__: stage.name for stage in IN_ORDER}


class Calls:
    """The computations and the stages' work that ran since they were last asked for."""

    def __init__(self):
        self.asked, self.worked = Counter(), Counter()

    def __call__(self, frame, event, _):
        if event != "call":
            return
        code = frame.f_code
        if code in COMPUTED:
            asked = [str(v) for v in frame.f_locals.values() if v is not None]
            self.asked[code.co_name, *asked[:1]] += 1
        if code in WORK:
            self.worked[WORK[code]] += 1

    def taken(self):
        found = self.asked, self.worked
        self.asked, self.worked = Counter(), Counter()
        return found


@pytest.fixture(scope="module")
def counted(tmp_path_factory):
    settings = Settings(tmp_path_factory.mktemp("data"))
    load_demo(settings)
    calls = Calls()
    threading.setprofile(calls)
    try:
        with TestClient(create_app(settings), base_url="http://127.0.0.1:8000") as client:
            yield client, calls
    finally:
        threading.setprofile(None)
        sys.setprofile(None)


PAGES = (
    *(f"/jobs/{{}}/{stage.name}" for stage in IN_ORDER),
    "/jobs/{}/record",
    "/jobs/{}/record.pdf",
    "/jobs/{}/label",
    "/jobs/{}/setting-out",
    "/jobs/{}/materials",
    "/jobs/{}/materials.csv",
    "/jobs/{}/torque-card",
    "/jobs/{}/job.json",
    "/api/jobs/{}/calls",
    "/",
)


@pytest.mark.parametrize("job", [2, 8])
def test_a_page_of_a_judged_job_works_nothing_out(counted, job):
    client, calls = counted
    client.get(f"/jobs/{job}/survey")
    client.get(f"/jobs/{job}/cut-plan")  # rests on the van too: worked out where it is opened
    asked, _ = calls.taken()
    assert asked  # the counter sees them
    for path in PAGES:
        assert client.get(path.format(job)).status_code == 200
        assert calls.taken() == (Counter(), Counter()), path
    client.get(f"/jobs/{job}/cut-plan")
    assert calls.taken() == (Counter(), Counter())


def test_a_posted_reading_works_each_thing_out_once_and_nothing_before_it(counted):
    client, calls = counted
    for job, kind, reading in (
        (1, "hold", {"gauge_pa": 2.1e6, "pipe_c": 20.0}),
        (2, "decay", {"pa": 30.0}),
    ):
        stage = {"hold": "pressure-test", "decay": "evacuate"}[kind]
        begun = client.post(f"/api/jobs/{job}/runs/{kind}", headers=ago(600))
        run = begun.json()["run"]
        client.get(f"/jobs/{job}/{stage}")
        calls.taken()
        for seq in range(3):
            body = [reading | {"seq": seq, "t_s": 60.0 * seq, "instrument": "g"}]
            answer = client.post(f"/api/jobs/{job}/runs/{run}/readings", json=body)
            assert answer.status_code == 200, answer.text
            assert client.get(f"/jobs/{job}/{stage}").status_code == 200
            asked, worked = calls.taken()
            assert worked[stage] == 1
            # The first reading says that nitrogen is in the pipes, or a vacuum: joints ask that.
            assert not {"survey", "mount", "route", *(["flare"] if seq else [])} & set(worked)
            assert set(worked.values()) == {1}
            assert not seq or set(asked.values()) == {1}, asked


def test_a_note_on_the_route_works_no_other_stage_out(counted):
    client, calls = counted
    client.get("/jobs/1/route")
    calls.taken()
    client.post("/jobs/1/route", data={"notes": "seen"})
    _, worked = calls.taken()
    assert worked == {"route": 1}
