"""Commission through the pages: what cannot be is told beside its field, and nothing is lost."""

import pytest

from tests.support import words
from tests.web.changes.test_changes import home_runs

READINGS = "/jobs/1/commission/readings"
RAN = {"mode": "cool", "return_c": "79 F", "supply_c": "57 F", "by": "Ida"}


def count(client, kind, job_id=1):
    records = client.get(f"/api/jobs/{job_id}").json()["records"]
    return sum(r["kind"] == kind for r in records)


@pytest.mark.parametrize(
    ("wrong", "told"),
    [
        ({"return_c": "82 C"}, "type 82 F"),
        ({"supply_c": ""}, "dry-bulb temperature is needed"),
        ({"return_rh": "110 %"}, "110 % is outside"),
        ({"return_wet_c": "90 F"}, "wet-bulb cannot be above"),
        ({"current_a": "1700"}, "type 1700 under Watts"),
        ({"watts": "plenty"}, "number"),
        ({"return_c": "", "supply_c": ""}, "tap what you saw"),
    ],
)
def test_what_cannot_be_is_told_and_what_was_typed_stays(demo, wrong, told):
    before = count(demo, "running")
    page = demo.post(READINGS, data=RAN | {"seen": ["quiet"] if "tap" not in told else []} | wrong)
    assert page.status_code == 422 and told in words(page)
    assert all(f'value="{v}"' in page.text for k, v in wrong.items() if k in ("current_a", "watts"))
    assert count(demo, "running") == before


def test_what_was_only_seen_is_kept_as_seen(demo):
    demo.post(READINGS, data={"mode": "cool", "by": "Ida", "seen": ["cold", "quiet", "nonsense"]})
    kept = [r for r in demo.get("/api/jobs/1").json()["records"] if r["kind"] == "running"][-1]
    assert kept["seen"] == ["cold", "quiet"]
    record = words(demo.get("/jobs/1/record"))
    assert "it blows cold, quiet" in record


def test_water_and_the_whole_system_stand_in_the_record(demo):
    page = demo.post("/jobs/1/commission/water", data={"water": "runs:back", "by": "Ida"})
    assert "Water came back three minutes after the stop" in words(page)
    assert demo.post("/jobs/1/commission/water", data={"water": "", "by": "Ida"}).status_code == 422
    look = {"mode": "cool", "current_a": "5.1", "sweat": "yes", "by": "Ida"}
    assert "bare tube sweats" in words(demo.post("/jobs/1/commission/whole", data=look))
    asked = demo.post("/jobs/1/commission/whole", data=look | {"current_a": "900"})
    assert asked.status_code == 422 and count(demo, "whole-system") == 1
    record = words(demo.get("/jobs/1/record"))
    assert "and it came back" in record and "All zones on, cooling, 5.1 A" in record


def test_nothing_is_measured_or_called_before_the_valves_are_open(demo):
    for what, data in (
        ("readings", RAN | {"zone": "A"}),
        ("calls", {"zone": "A", "port": "A", "by": "Ida"}),
        ("whole", {"mode": "cool", "by": "Ida"}),
    ):
        page = demo.post(f"/jobs/6/commission/{what}", data=data)
        assert page.status_code == 422
        if what == "readings":
            assert "finish Charge first" in words(page)
    assert not count(demo, "called", 6) + count(demo, "whole-system", 6)


def test_the_water_goes_from_head_to_head_and_stays_where_it_stands(demo):
    job = home_runs(demo)
    for zone in "ABC":
        demo.post(f"/jobs/{job}/commission/calls", data={"zone": zone, "port": zone, "by": "Ida"})

    def poured(zone, water="runs:dry"):
        data = {"zone": zone, "water": water, "by": "Ida"}
        answer = demo.post(f"/jobs/{job}/commission/water", data=data, follow_redirects=False)
        return answer.headers["location"].partition("zone=")[2]

    waits = {
        c["zone"]
        for c in demo.get(f"/api/jobs/{job}/calls").json()["commission"]["checks"]
        if c["part"] == "drain" and c["call"]["verdict"] == "wait"
    }
    assert waits == {"A", "B", "C"}
    assert poured("C", "stands:") == "C"  # found where it stands before another is looked at
    assert poured("C") == "A" and poured("A") == "B" and poured("B") == "B"
