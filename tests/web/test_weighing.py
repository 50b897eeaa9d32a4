"""Weighing in through the pages: where to stop, and cylinders that do not belong."""

import pytest

from fairline.core.charge.valve_order import OPENS
from tests.support import words

DONE = {"weighing", "release", "power-on", "running"}


@pytest.fixture
def unweighed(demo):
    """A copy of a finished job before anything was weighed."""
    job = demo.get("/api/jobs/1").json()
    records = [r for r in job["records"] if r["kind"] not in DONE]
    made = demo.post("/api/jobs", json=job | {"uid": "one-more-to-weigh-in", "records": records})
    return made.json()["id"]


def added_kg(client, job_id):
    said = client.get(f"/api/jobs/{job_id}/calls").json()["charge"]["checks"]
    return next(c["value"] for c in said if c["id"] == "added")


def test_the_scale_is_stopped_at_the_mark(demo, unweighed):
    url, added = f"/jobs/{unweighed}/charge/stop", added_kg(demo, unweighed)
    assert added > 0
    shown = demo.post(url, data={"way": "in", "before_kg": "9 kg"})
    stop = 9.0 - added
    assert f"{stop:.3f} kg" in words(shown) and "stop there" in words(shown)
    hose = demo.post(url, data={"way": "in", "before_kg": "9 kg", "hose_kg": "20 g"})
    assert f"{stop - 0.02:.3f} kg" in words(hose)
    light = demo.post(url, data={"way": "in", "before_kg": "4.2 kg", "tare_kg": "4.199 kg"})
    assert "change to another cylinder" in words(light)
    assert demo.post(url, data={"way": "in", "before_kg": "nine"}).text.strip() == ""
    other = {"way": "in", "before_kg": "9 kg", "refrigerant": "R-22", "cylinder": "old"}
    assert "Shut the valve" in words(demo.post(url, data=other))


def test_another_refrigerant_is_a_stop_on_the_record(demo, unweighed):
    stop = f"{9.0 - added_kg(demo, unweighed):.3f} kg"
    row = {"way": "in", "before_kg": "9 kg", "after_kg": stop, "cylinder": "C-4", "by": "Ida"}
    url = f"/jobs/{unweighed}/charge/weighings"
    demo.post(url, data=row | {"refrigerant": "R-22"})
    checks = {
        c["id"]: c for c in demo.get(f"/api/jobs/{unweighed}/calls").json()["charge"]["checks"]
    }
    assert checks["cylinder"]["call"]["verdict"] == "stop"
    assert checks["weighed"]["call"]["verdict"] == "holds"


def test_the_ledger_holds_what_counts_and_training_stands_apart(demo):
    assert "No refrigerant was weighed yet" in words(demo.get("/cylinders"))
    job = demo.get("/api/jobs/1").json()
    weighing = next(r for r in job["records"] if r["kind"] == "weighing")
    weights = {"before_kg": 9.0, "after_kg": 8.9, "hose_kg": None, "cylinder": "C-4"}
    rows = [weighing | weights | {"uid": f"weighing-{n}", "simulated": n == 1} for n in range(2)]
    head = job["head"] | {"practice": False}
    job |= {"uid": "one-real-job-to-weigh", "head": head, "records": rows, "runs": []}
    assert demo.post("/api/jobs", json=job).status_code == 201
    page = words(demo.get("/cylinders"))
    assert "C-4" in page and "charged from it" in page and "1 weighing" in page
    table = demo.get("/cylinders.csv").text.splitlines()
    assert table[0].startswith("at,cylinder,refrigerant,way,before_kg")
    assert ",C-4,R-32,in,9.0,8.9,," in table[1] and len(table) == 2
    assert "C-4" not in words(demo.get("/cylinders?training=true"))


@pytest.mark.parametrize("step", sorted(OPENS))
def test_no_step_opens_a_valve_while_a_gate_is_closed(demo, step):
    before = len(demo.get("/api/jobs/3").json()["records"])
    said = {"step": step, "order": "gas_first", "by": "Ida", "in_this_order": "yes"}
    page = demo.post("/jobs/3/charge/valve-steps", data=said)
    assert page.status_code == 422 and "A name and a reason are needed" in words(page)
    assert len(demo.get("/api/jobs/3").json()["records"]) == before


def test_a_step_too_early_is_told_before_it_is_recorded(demo, unweighed):
    url = f"/jobs/{unweighed}/charge/valve-steps"
    row = {"way": "in", "before_kg": "9 kg", "cylinder": "C-4", "by": "Ida"}
    after = {"after_kg": f"{9.0 - added_kg(demo, unweighed):.3f} kg"}
    demo.post(f"/jobs/{unweighed}/charge/weighings", data=row | after)
    said = {"step": "hose-off", "order": "core_tool", "by": "Ida"}
    told = demo.post(url, data=said)
    assert told.status_code == 422 and "air comes in as the hose leaves" in words(told)
    assert 'value="Ida"' in told.text and "Done in this order" in told.text
    demo.post(url, data=said | {"in_this_order": "yes"})
    calls = demo.get(f"/api/jobs/{unweighed}/calls").json()["charge"]["checks"]
    step = next(c["call"] for c in calls if c["id"] == "valve_steps")
    assert step["verdict"] == "short" and "pull again" in step["do_next"]
    wrong = demo.post(url, data={"step": "turn it", "by": "Ida"})
    assert wrong.status_code == 422


def test_the_book_keeps_a_cylinder_and_gives_its_tare_to_a_weighing(demo, unweighed):
    one = {"name": "C-4", "refrigerant": "R-32", "tare_kg": "8.99 kg", "test_due": "2020-01-31"}
    bad = demo.post("/cylinders", data=one | {"test_due": "May"})
    assert bad.status_code == 422 and "2027-05-31" in bad.text and 'value="8.99' in bad.text
    assert "was due 2020-01-31" in words(demo.post("/cylinders", data=one))
    assert "C-4" in demo.get("/cylinders/names").text
    stop = {"way": "in", "before_kg": "9 kg", "cylinder": "c-4"}
    assert "change to another cylinder" in words(
        demo.post(f"/jobs/{unweighed}/charge/stop", data=stop)
    )
    assert "Not weighed yet" in words(demo.get("/cylinders"))
    demo.post("/cylinders", data=one | {"gone": "yes"})
    assert "C-4" not in demo.get("/cylinders/names").text


def test_what_a_job_waits_for_is_on_the_list_to_load(demo):
    job = demo.get("/api/jobs/1").json()
    records = [r for r in job["records"] if r["kind"] not in DONE | {"leak-check"}]
    job |= {"uid": "one-real-job-to-load", "records": records}
    job |= {"head": job["head"] | {"practice": False, "name": "Ropewalk"}}
    for run in job["runs"]:
        for reading in run["readings"]:
            reading["simulated"] = False
    made = demo.post("/api/jobs", json=job)
    assert made.status_code == 201, made.text
    page = words(demo.get("/cylinders"))
    assert "To load" in page and "Ropewalk" in page and "no cylinder here is known" in page


def test_a_makers_report_and_another_order_of_the_valves_are_typed_with_their_reason(
    demo, unweighed
):
    url = f"/jobs/{unweighed}/charge"
    demo.post(url, data={"report_kg": "40 g", "report_page": "design report 7, page 2"})
    page = demo.get(url)
    assert "by the maker's report" in words(page) and "design report 7, page 2" in words(page)
    assert "a difference of" in words(page)
    told = demo.post(url, data={"valve_order": "core_tool"})
    assert "say why this job differs" in words(told)
    demo.post(url, data={"valve_order": "core_tool", "valve_order_reason": "core tool on the port"})
    assert "This job: core tool on the port: hose off at the shut core tool" in words(demo.get(url))
