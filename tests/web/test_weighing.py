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
