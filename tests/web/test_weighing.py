"""Weighing in through the pages: where to stop, and cylinders that do not belong."""

import pytest

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
