"""The steps of a way out through the pages: what they keep, refuse, and where they lead back to."""

import pytest

from tests.support import words
from tests.web.changes.test_changes import DONE, calls, home_runs, job_of

BY = {"by": "Ida"}
WEIGHTS = {"before_kg": "2 kg", "after_kg": "2.6 kg"}


def step(client, act, job_id=DONE, **more):
    return client.post(f"/jobs/{job_id}/way-out", data=BY | {"act": act} | more)


def test_a_tight_system_is_pumped_down_while_its_valves_are_open(demo):
    back = f"/jobs/{DONE}/flare?joint=A.gas.end"
    page = step(demo, "pumped-down", _back=back)
    assert page.status_code == 200 and str(page.url).endswith("/flare?joint=A.gas.end")
    assert "nothing: pumped down" in words(page)
    again = step(demo, "pumped-down")
    assert again.status_code == 422 and "nothing to pump down" in words(again)
    assert calls(demo)["charge"] == "wait"  # the valves are to be opened again


def test_what_is_recovered_is_weighed_and_what_is_not_there_is_not(demo):
    assert step(demo, "recovered", **(WEIGHTS | {"after_kg": ""})).status_code == 422
    exchanged = step(demo, "recovered", before_kg="3 kg", after_kg="2 kg")
    assert exchanged.status_code == 422 and "weighs less after than before" in words(exchanged)
    assert step(demo, "shut").status_code == step(demo, "recovered", **WEIGHTS).status_code == 200
    assert job_of(demo).weighings[-1].emptied == "yes"
    empty = step(demo, "recovered", **WEIGHTS)
    assert empty.status_code == 422 and "nothing to recover" in words(empty)
    late = step(demo, "recovered", _done="5 min", **WEIGHTS)  # done already: kept, and judged
    assert late.status_code == 200
    assert step(demo, "whistled").status_code == 404
    assert step(demo, "shut", by="").status_code == 422


@pytest.mark.parametrize("ports", [["C"], ["outdoor.D"]])
def test_a_step_names_its_ports(demo, ports):
    job_id = home_runs(demo)
    act = "shut" if ports == ["C"] else "bled"
    assert step(demo, act, job_id, ports=ports).status_code == 200
    assert job_of(demo, job_id).records[-1].ports == tuple(ports)


def test_nitrogen_on_an_open_system_is_refused_with_the_steps(demo):
    reading = {"gauge_pa": "300 psi", "pipe_c": "68 F"}
    page = demo.post(f"/jobs/{DONE}/runs/hold/begin", data=reading)
    assert page.status_code == 422 and "no nitrogen goes into it" in words(page)
    assert 'id="way-out"' in page.text and len(job_of(demo).runs) == 3
    gauge = {"scenario": "sound", "speed": "60"}
    assert demo.post(f"/jobs/{DONE}/bench/manometer", data=gauge).status_code == 422
    made = demo.post(f"/api/jobs/{DONE}/runs/hold").json()["run"]  # an instrument is not stopped
    rows = [{"instrument": "g", "seq": 0, "t_s": 0.0, "gauge_pa": 2e6, "pipe_c": 20.0}]
    assert demo.post(f"/api/jobs/{DONE}/runs/{made}/readings", json=rows).status_code == 200
    assert calls(demo)["pressure-test"] == "stop"


def test_a_job_is_handed_over_with_what_is_open_only_by_reason(demo):
    step(demo, "shut")
    told = demo.post(f"/jobs/{DONE}/hand-over/done", data=BY)
    assert told.status_code == 422 and "say why, with this left open: Charge" in words(told)
    reason = {"reason": "the owner shuts it for the winter"}
    assert demo.post(f"/jobs/{DONE}/hand-over/done", data=BY | reason).status_code == 200
    record = words(demo.get(f"/jobs/{DONE}/record"))
    assert "Handed over by Ida with what did not hold (Charge" in record
    assert record.index("for the winter") < record.index("Calls")
