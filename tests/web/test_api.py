"""The API over HTTP: the same answers, problems as JSON, readings from instruments."""

import json

import pytest

from fairline.core.calc.door import CALCULATIONS
from tests.core.calc.test_door import REQUESTS


@pytest.mark.parametrize("name", REQUESTS)
def test_the_door_answers_as_the_function_does(client, name):
    body = json.dumps(REQUESTS[name])
    answer = client.post(f"/api/calc/{name}", content=body)
    assert answer.status_code == 200
    assert answer.text == CALCULATIONS[name].run(body).model_dump_json()


def test_the_list_of_computations_and_a_problem(client):
    listed = client.get("/api/calc").json()
    assert [c["name"] for c in listed] == list(CALCULATIONS)
    assert all(c["request"]["properties"] and c["about"] for c in listed)
    bad = client.post("/api/calc/flare-torque", content='{"od_mm": 1e999}')
    assert bad.status_code == 422
    assert bad.headers["content-type"] == "application/problem+json"
    assert bad.json()["errors"][0]["field"] == "od_mm"
    assert client.post("/api/calc/none", content="{}").status_code == 404
    assert client.get("/api/nothing").headers["content-type"] == "application/problem+json"


def test_an_instruments_readings_are_stored_once_and_checked(demo):
    run = demo.post("/api/jobs/2/runs/decay").json()["run"]
    url = f"/api/jobs/2/runs/{run}/readings"
    batch = [{"instrument": "g7", "seq": i, "t_s": i * 1.0, "pa": 30.0 + i / 10} for i in range(20)]
    assert demo.post(url, json=batch).json() == {"stored": 20, "known": 0}
    assert demo.post(url, json=batch[10:]).json() == {"stored": 0, "known": 10}
    for wrong in (
        {"pa": "30"},
        {"pa": -1},
        {"pa": None},
        {"gauge_pa": 2e6},
        {"t_s": -1},
        {"seq": 1.5},
        {"instrument": ""},
        {"more": 1},
    ):
        refused = demo.post(url, json=[batch[0] | {"seq": 99} | wrong])
        assert refused.status_code == 422, wrong
    assert demo.post("/api/jobs/2/runs/nothing/readings", json=batch).status_code == 404
    assert demo.post("/api/jobs/2/runs/sideways").status_code == 422
    job = demo.get("/api/jobs/2").json()
    assert len(job["runs"][-1]["readings"]) == 20
    assert demo.get("/api/jobs/2/calls").json()["evacuate"]["call"]["verdict"] == "unknown"
