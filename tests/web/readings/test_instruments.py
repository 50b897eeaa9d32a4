"""Instruments that report: who they are, what they show at a tap, and what of it counts."""

from datetime import UTC, datetime, timedelta

import pytest

from fairline.instruments.catalogue import NOWHERE, Choice, ChoiceError, made
from fairline.instruments.process import Process
from tests.support import ago


def spot(seq, what="scale", ago=0.0, simulated=False, **values):
    at = datetime.now(UTC) - timedelta(minutes=ago)
    one = {"instrument": f"the {what}", "seq": seq, "what": what, "at": at.isoformat()}
    return one | values | ({"simulated": True} if simulated else {})


def send(demo, job, *readings):
    return demo.post(f"/api/jobs/{job}/instruments/readings", json=list(readings))


def charged(demo, job):
    """A job whose valves were opened by override, so that it can be weighed into."""
    how = {"order": "gas_first", "both": "yes", "by": "Ida", "override_by": "Ida"}
    how |= {"passed": ["flare", "pressure-test", "evacuate"], "_done": "1 min"}
    demo.post(f"/jobs/{job}/charge/release", data=how | {"override_reason": "to practise"})


def test_a_scale_is_offered_taken_and_marked_where_no_scale_weighed(demo):
    charged(demo, 2)
    send(demo, 2, spot(0, mass_kg=9.5, simulated=True), spot(1, mass_kg=9.25, simulated=True))
    page = demo.get("/jobs/2/charge").text
    assert "9.250 kg" in page or "20.39 lb" in page
    assert "simulated" in page and "Take as before" in page
    taken = {"take": "before_kg=mass_kg|the scale", "by": "Ida", "way": "in"}
    page = demo.post("/jobs/2/charge/scale", data=taken).text
    assert 'value="before_kg=9.250 kg"' in page and 'value="9.250"' in page
    form = {"before_kg": "9.250 kg", "after_kg": "9.0 kg", "way": "in", "by": "Ida"}
    form |= {"_done": "1 min"}
    mark = {"no_instrument": "before_kg=9.250 kg"}
    demo.post("/jobs/2/charge/weighings", data=form | mark)
    demo.post("/jobs/2/charge/weighings", data=form | mark | {"before_kg": "9.3 kg"})  # typed over
    kept = [r for r in demo.get("/api/jobs/2").json()["records"] if r["kind"] == "weighing"]
    assert [r["simulated"] for r in kept] == [True, False]
    assert demo.get("/jobs/2/record").text.count(", simulated: ") == 1


def test_on_a_real_job_what_is_simulated_is_not_offered_and_proves_nothing(demo):
    demo.post("/jobs/new", data={"name": "Real"})
    real = 10
    charged(demo, real)
    send(demo, real, spot(0, mass_kg=9.5, simulated=True))
    assert "Take as before" not in demo.get(f"/jobs/{real}/charge").text
    send(demo, real, spot(1, mass_kg=9.4))
    assert "Take as before" in demo.get(f"/jobs/{real}/charge").text
    form = {"before_kg": "9.5 kg", "after_kg": "9.0 kg", "way": "in", "by": "Ida"}
    mark = {"no_instrument": "before_kg=9.5 kg"}
    demo.post(f"/jobs/{real}/charge/weighings", data=form | mark)
    weighed = demo.get(f"/jobs/{real}/charge").text
    assert weighed.split("weighed in")[0].rsplit("<strong>", 1)[1].startswith("0.0<")
    assert demo.post(f"/jobs/{real}/bench/scale", data={}).status_code == 404


def test_what_was_shown_long_ago_is_not_offered(demo):
    charged(demo, 2)
    send(demo, 2, spot(0, ago=16, mass_kg=9.5))
    assert "Take as before" not in demo.get("/jobs/2/charge").text
    send(demo, 2, spot(1, ago=14, mass_kg=9.5))
    assert "Take as before" in demo.get("/jobs/2/charge").text
    assert "Take as before" in demo.get("/jobs/2/shown/scale").text


def test_thermometer_and_wrench_stand_in_their_forms(demo):
    send(demo, 4, spot(0, "thermometer", air_c=12.4, humidity=0.92))
    order = "supply_c=air_c supply_rh=humidity|the thermometer"
    page = demo.post("/jobs/4/commission/thermometer", data={"take": order}).text
    assert 'value="12.4"' in page and 'value="92"' in page
    send(demo, 9, spot(0, "wrench", torque_nm=33.4))
    shown = demo.get("/jobs/9/flare").text
    assert "Take as this joint" in shown
    order = {"take": "wrench_nm=torque_nm|the wrench", "place": "A.gas.end"}
    page = demo.post("/jobs/9/flare/wrench", data=order).text
    assert 'value="33.40"' in page and "no_instrument" in page and "wrench_nm=33" not in page
    gone = {"take": "wrench_nm=torque_nm|another", "place": "A.gas.end"}
    assert "it shows nothing now" in demo.post("/jobs/9/flare/wrench", data=gone).text


@pytest.mark.parametrize(
    ("bad", "said"),
    [
        (spot(0), "reads mass_kg"),
        (spot(0, mass_kg=9.5, air_c=20.0), "does not read air_c"),
        (spot(0, mass_kg=1e9), "mass_kg"),
        (spot(-1, mass_kg=9.5), "seq"),
        (spot(0, mass_kg=9.5) | {"colour": "red"}, "colour"),
    ],
)
def test_what_no_instrument_says_is_refused_by_its_field(demo, bad, said):
    answer = send(demo, 2, bad)
    assert answer.status_code == 422 and said in answer.text


def test_a_number_is_kept_once_and_another_value_under_it_is_told(demo):
    first = spot(0, mass_kg=9.5)
    assert send(demo, 2, first).json() == {"stored": 1, "known": 0}
    assert send(demo, 2, first).json() == {"stored": 0, "known": 1}
    assert send(demo, 2, spot(0, mass_kg=9.6)).status_code == 409
    assert send(demo, 99, spot(0, mass_kg=9.6)).status_code == 404
    following = demo.get("/api/jobs/2/instruments/next?instrument=the scale").json()
    assert following == {"next_seq": 1}


def test_the_steps_that_a_gauge_tells_are_used_and_its_introduction_stands_once(demo):
    told = {"name": "g", "what": "micron", "resolution": 3.33}
    for _ in range(2):
        assert demo.post("/api/jobs/2/instruments", json=told).status_code == 201
    records = [r for r in demo.get("/api/jobs/2").json()["records"] if r["kind"] == "instrument"]
    assert [(r["name"], r["resolution"]) for r in records] == [("g", 3.33)]
    begun = demo.post("/api/jobs/2/runs/decay?isolated_by=Ida", headers=ago(600))
    run = begun.json()["run"]
    read = [{"instrument": "g", "seq": n, "t_s": 60.0 * n, "pa": 30.0} for n in range(3)]
    demo.post(f"/api/jobs/2/runs/{run}/readings", json=read)
    assert "Blank: 25 microns" in " ".join(demo.get("/jobs/2/evacuate").text.split())
    assert "Micron gauge on the job: g" in demo.get("/jobs/2/record").text
    wrong = demo.post("/api/jobs/2/instruments", json=told | {"resolution": -1})
    assert wrong.status_code == 422 and "resolution" in wrong.text
    other = demo.post("/api/jobs/2/instruments", json={"name": "g", "what": "scale"})
    assert other.status_code == 409 and "g is a micron gauge on this job" in other.text


class Kept:
    """A line to nowhere that keeps what it is given."""

    def __init__(self):
        self.read, self.told = [], []

    def next_spot(self, instrument):
        return 7

    def introduce(self, told):
        self.told.append(told)

    def take(self, run, reading):
        self.read.append((run, reading))

    def send(self):
        return True


def test_a_scale_loses_what_leaves_the_cylinder_and_stands_still_then():
    line = Kept()
    tool = Process(line, made(Choice("scale", start_kg=8.0, to_go_kg=0.3), NOWHERE, 3), "s")
    for _ in range(300):
        tool.tick(1.0)
    masses = [r["mass_kg"] for run, r in line.read if run == ""]
    assert masses[0] == pytest.approx(8.0, abs=0.02)
    assert masses[-1] == pytest.approx(7.7, abs=0.02)
    assert all(round(m / 0.005, 6) == round(m / 0.005) for m in masses)
    assert line.read[0][1]["seq"] == 7 and line.told[0]["what"] == "scale"
    assert len(line.told) == 1


def test_a_thermometer_comes_to_rest_and_a_wrench_knows_no_joint():
    line = Kept()
    tool = Process(line, made(Choice("thermometer", "supply"), NOWHERE, 3), "t", speed=60.0)
    tool.tick(60.0)
    airs = [r["air_c"] for _, r in line.read]
    assert airs[0] > 20 and airs[-1] == pytest.approx(12.5, abs=0.3)
    line = Kept()
    tool = Process(line, made(Choice("wrench", set_nm=20.0), NOWHERE, 3), "w")
    tool.tick(400.0)
    assert len(line.read) == 20
    assert all(r["torque_nm"] == pytest.approx(20.0, rel=0.08) for _, r in line.read)


@pytest.mark.parametrize(
    "bad", [{"set_nm": 0.0}, {"leak_pa_m3_s": -1.0}, {"water_kg": float("nan")}]
)
def test_a_size_that_is_none_is_refused(bad):
    with pytest.raises(ChoiceError):
        Choice("micron", **bad)
    with pytest.raises(ChoiceError, match="one of sound"):
        made(Choice("micron", "stormy"), NOWHERE, 1)


def test_a_long_pull_is_read_seldom():
    gauge = made(Choice("micron"), NOWHERE, 1)
    gauge.begin("pull", None)
    spent = {}
    while (run_s := sum(n * every for every, n in spent.items())) < 4 * 3600:
        every = gauge.every_s
        gauge.after(every, "pull")
        spent[every] = spent.get(every, 0) + 1
    assert list(spent) == [1.0, 5.0, 15.0] and spent[1.0] == 1800
    assert sum(spent.values()) < 4000 and run_s == pytest.approx(4 * 3600, abs=15)
    gauge.begin("decay", None)
    assert gauge.every_s == 1.0


def test_the_record_and_an_instrument_know_which_ports_were_open(demo):
    run = demo.post("/api/jobs/6/runs/pull?ports=C,A").json()["run"]
    read = [{"instrument": "g", "seq": 0, "t_s": 60.0, "pa": 40.0}]
    demo.post(f"/api/jobs/6/runs/{run}/readings", json=read)
    assert "Pull, ports A, C" in demo.get("/jobs/6/record").text
    (line,) = [r for r in demo.get("/api/jobs/6/runs").json() if r["uid"] == run]
    assert (line["ports"], line["last_s"], line["last_pa"]) == (["A", "C"], 60.0, 40.0)
    one, two = (demo.get(f"/api/jobs/6/rig?ports={p}").json()["volume_m3"] for p in ("B", "A,B,C"))
    assert 0 < one < two
    demo.post("/jobs/6/evacuate/override", data={"by": "Ida", "reason": "to practise"})
    assert "tick the ports" in demo.post("/jobs/6/runs/pull/begin?ports=B").text
    typed = demo.post("/jobs/6/runs/pull/reading?ports=B", data={"pa": "900"})
    assert typed.status_code == 422 and "say which ports are open" in typed.text
