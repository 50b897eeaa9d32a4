"""The simulated gauge on a job: it follows pull and decay and stops when it is told."""

import time

import pytest

from fairline.core.evacuate import circuit_group as evacuate
from fairline.instruments import process as process_module
from fairline.instruments.catalogue import NOWHERE, Choice, made
from fairline.store import jobs
from fairline.web.bench.bench import Bench
from tests.support import ago, open_up

MICRON = 133.322368 / 1000


@pytest.fixture
def bench(demo, monkeypatch):
    """A bench on the demo's jobs that runs fast: a simulated hour in a second or two."""
    monkeypatch.setattr(process_module, "TICK_S", 0.02)
    made = Bench(demo.app.state.database.session)
    yield made
    made.close()


def wait_for(ready, seconds=20):
    end = time.monotonic() + seconds
    while not ready():
        assert time.monotonic() < end, "it did not come in time"
        time.sleep(0.02)


def newest(demo, job_id):
    with demo.app.state.database.session() as session:
        return jobs.load(session, job_id).job.runs[-1]


def bleed(demo):
    demo.post("/jobs/2/evacuate/acts", data={"act": "bled", "by": "Ida"})


def begin(demo, bench, kind):
    with demo.app.state.database.session() as session:
        jobs.begin_run(session, 2, kind, "Ida")
        session.commit()


def put(bench, scenario, speed):
    bench.put(2, made(Choice("micron", scenario), NOWHERE, 2), scenario, speed)


def test_a_gauge_reads_the_pull_and_then_the_decay(demo, bench):
    begin(demo, bench, "pull")
    put(bench, "sound", 600)
    wait_for(lambda: (newest(demo, 2).last or None) and newest(demo, 2).last.pa < 300 * MICRON)
    pull = newest(demo, 2)
    assert pull.readings[0].pa > 10_000  # from the atmosphere down
    assert {r.instrument for r in pull.readings} == {"simulated micron gauge"}
    begin(demo, bench, "decay")
    wait_for(lambda: newest(demo, 2).kind == "decay" and len(newest(demo, 2).readings) > 650)
    bench.off(2, "micron")
    assert bench.on(2, "micron") is None
    run = newest(demo, 2)
    # One a second; a number that is missing dropped out.
    assert all(r.t_s == r.seq + 1 for r in run.readings)
    assert len(run.readings) >= 0.9 * run.readings[-1].seq
    calls = demo.get("/api/jobs/2/calls").json()
    assert calls["evacuate"]["call"]["verdict"] in ("holds", "wait")
    count = len(run.readings)
    assert len(newest(demo, 2).readings) == count  # nothing more comes


def test_a_gauge_put_on_a_system_under_vacuum_goes_on_from_there(demo, bench):
    bleed(demo)
    demo.post("/jobs/2/runs/pull/reading", data={"pa": "250 microns"}, headers=ago(60))
    begin(demo, bench, "decay")
    put(bench, "sound", 60)
    wait_for(lambda: newest(demo, 2).last is not None)
    assert newest(demo, 2).readings[0].pa == pytest.approx(250 * MICRON, rel=0.1)


def test_the_page_puts_the_gauge_on_and_takes_it_off(demo):
    url = "/jobs/2/bench/micron"
    bleed(demo)
    for wrong in ({"scenario": "dry", "speed": "1"}, {"scenario": "wet", "speed": "1000"}):
        demo.post(url, data=wrong)
        assert demo.app.state.bench.on(2, "micron") is None
    back = {"_back": "/jobs/2/evacuate"}
    page = demo.post(url, data={"scenario": "wet", "speed": "60"} | back).text
    assert "micron gauge off" in page and 'sse-connect="/jobs/2/evacuate/live"' in page
    assert newest(demo, 2).kind == "pull"
    wait_for(lambda: newest(demo, 2).readings)
    assert "Connect the gauge" in demo.post(f"{url}/off", data=back).text


def test_readings_by_hand_and_the_rate_of_the_last_minute(demo):
    open_up(demo, 2)
    for minutes, microns in ((0, 300), (5, 310), (10, 330)):
        demo.post(
            "/jobs/2/runs/decay/reading",
            data={"pa": f"{microns} microns", "after_s": f"{minutes} min"},
            headers=ago(600 - 60 * minutes),
        )
    page = demo.get("/jobs/2/evacuate").text
    assert "too few readings" in page and "330 microns" in page
    run = newest(demo, 2)
    assert [r.t_s for r in run.readings] == [0, 300, 600]
    assert evacuate.current_decay((run,)) == run


def test_a_gauge_on_a_job_that_is_gone_stops_by_itself(demo, bench):
    begin(demo, bench, "pull")
    put(bench, "sound", 60)
    wait_for(lambda: newest(demo, 2).readings)
    with demo.app.state.database.session() as session:
        jobs.remove(session, 2)
        session.commit()
    wait_for(lambda: bench.on(2, "micron") is None)


def test_what_is_done_at_the_pump_is_kept_shown_and_in_the_record(demo):
    url, by = "/jobs/3/evacuate/acts", {"by": "Ida"}
    page = demo.get("/jobs/3/evacuate").text
    assert "Sweep 1 of 3" in page and "Manifold decides" in page
    demo.post(url, data={"act": "pump-event", "what": "oil"} | by)
    assert "Oil changed 1 times" in " ".join(demo.get("/jobs/3/evacuate").text.split())
    taped = {"act": "exposure", "run": "A", "state": "taped", "weather": "humid"} | by
    assert demo.post(url, data=taped | {"ago": "three weeks"}).status_code == 422
    demo.post(url, data=taped | {"ago": "21 d"})
    kept = demo.get("/api/jobs/3").json()["records"][-1]
    assert (kept["kind"], kept["state"]) == ("exposure", "taped")
    assert demo.post(url, data={"act": "accepted", "reason": ""} | by).status_code == 422
    demo.post(url, data={"act": "accepted", "reason": "for the practice"} | by)
    assert "Accepted by Ida: for the practice. It was called short" in demo.get(
        "/jobs/3/evacuate"
    ).text.replace("\n", " ")
    record = demo.get("/jobs/3/record").text
    assert "accepted as it is: for the practice" in record and "Pump oil changed" in record
    assert demo.post(url, data={"act": "dance"} | by).status_code == 404
    assert demo.post("/jobs/2/evacuate/acts", data={"act": "accepted"} | by).status_code == 404


def test_a_pull_is_refused_while_nitrogen_stands(demo):
    refused = demo.post("/jobs/2/runs/pull/begin")
    assert refused.status_code == 422 and "bleed it, read nought" in refused.text
    still = {"act": "bled", "gauge_pa": "20 psi", "by": "Ida"}
    answer = demo.post("/jobs/2/evacuate/acts", data=still)
    assert answer.status_code == 422 and "it still stands" in answer.text
    bleed(demo)
    assert demo.post("/jobs/2/runs/pull/begin").status_code == 200


def test_the_bench_page_has_every_simulated_instrument_and_none_on_a_real_job(demo):
    page = demo.get("/jobs/3/bench").text
    for words in ("frozen water, a cold night", "the gauge at the pump", "the evening cools"):
        assert words in page
    assert 'hx-post="/jobs/3/bench/micron"' not in page  # plain forms: no frame to morph
    assert "fairline instrument micron --job http" in page
    demo.post("/jobs/3/bench/micron", data={"scenario": "oil", "speed": "1"})
    assert "The simulated micron gauge is on: wet pump oil" in demo.get("/jobs/3/bench").text
    demo.post("/jobs/3/bench/micron/off")
    demo.post("/jobs/new", data={"name": "Real"})
    real = demo.get("/jobs/10/bench").text
    assert "for training jobs only" in real and "Connect the gauge" not in real
