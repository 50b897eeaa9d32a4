"""Changes under a proof through the pages: asked once, answered, taken back; acts done earlier."""

import io
import json
import re
import zipfile
from datetime import UTC, datetime, timedelta

import pytest

from fairline.core.flare.stage import FlareStageResult
from fairline.core.line import judge, work
from fairline.core.practice import Practice
from fairline.demo.systems import gallery
from fairline.store import jobs
from tests.job_site import Site
from tests.support import open_up, words

DONE = 1  # a finished single zone of the demo
RUN_A = f"/jobs/{DONE}/route?part=runs.A"
WIDER = {"runs.A.gas_od_m": "1/2 in"}
SAID = {"reason": "seen on site", "by": "Ida"}


def calls(client, job_id=DONE):
    answer = client.get(f"/api/jobs/{job_id}/calls").json()
    return {name: stage["call"]["verdict"] for name, stage in answer.items()}


def checks(client, stage, job_id=DONE):
    found = client.get(f"/api/jobs/{job_id}/calls").json()[stage]["checks"]
    return {c["id"]: c["call"] for c in found}


def job_of(client, job_id=DONE):
    with client.app.state.database.session() as session:
        return jobs.load(session, job_id).job


def answer(client, how, job_id=DONE, **more):
    data = SAID | {"how": how, "_back": f"/jobs/{job_id}/flare"} | more
    return client.post(f"/jobs/{job_id}/changes/answer", data=data)


def home_runs(client, released=True):
    """A finished job on home runs of its own, brought in as a file."""
    job = gallery()
    rooms = tuple(r.model_copy(update={"area_m2": 60.0}) for r in job.survey.rooms)
    job = job.model_copy(update={"survey": job.survey.model_copy(update={"rooms": rooms})})
    site = Site(job).finish(released)
    sent = site.job.model_copy(update={"uid": "home-runs-of-the-test"})
    return client.post("/api/jobs", content=sent.model_dump_json()).json()["id"]


def test_an_edit_under_a_proof_is_asked_on_every_stage_until_it_is_answered(demo):
    before = calls(demo)
    assert before["evacuate"] == "holds"
    demo.post(RUN_A, data=WIDER)
    assert calls(demo)["evacuate"] == calls(demo)["pressure-test"] == "wait"
    for stage in ("survey", "route", "flare", "evacuate", "charge", "hand-over"):
        page = words(demo.get(f"/jobs/{DONE}/{stage}"))
        assert "Drawn wrong, or changed on site?" in page
        assert "1/4 and 3/8 in, now 1/4 and 1/2 in" in page
    assert "the nitrogen hold" in page and "the decay" in page
    nobody = demo.post(f"/jobs/{DONE}/changes/answer", data={"how": "changed", "reason": "seen"})
    assert nobody.status_code == 422 and 'value="seen"' in nobody.text
    assert not job_of(demo).part_changes
    assert answer(demo, "corrected").status_code == 200
    after = calls(demo)
    assert {n for n in after if after[n] != before[n]} <= {
        "flare",
        "charge",
        "commission",
        "hand-over",
    }
    assert after["evacuate"] == after["pressure-test"] == "holds"
    assert "Drawn wrong, or" not in demo.get(f"/jobs/{DONE}/flare").text
    answer(demo, "corrected")  # a second press says it no second time
    assert len(job_of(demo).part_changes) == 1


def test_a_change_on_site_voids_and_is_taken_back_with_its_edit(demo):
    page = demo.get(RUN_A).text
    own = {
        n: re.search(rf'name="{n}" value="([^"]*)"', page).group(1) for n in ("_editor", "_version")
    }
    before, equipment = calls(demo), job_of(demo).equipment
    demo.post(RUN_A, data=WIDER | own)
    answer(demo, "changed")
    assert calls(demo)["flare"] == "stop"  # refrigerant was in it when it was changed
    assert job_of(demo).equipment != equipment
    assert "Drawn wrong, or" not in demo.get(f"/jobs/{DONE}/flare").text
    record = words(demo.get(f"/jobs/{DONE}/record"))
    assert "Changed after it was proved" in record and "Proofs older than a change" in record
    assert "The decay" in record and "changed on site" in record
    assert demo.get(f"/jobs/{DONE}/record.pdf").status_code == 200
    demo.post(f"/jobs/{DONE}/route/undo")
    assert job_of(demo).equipment == equipment and calls(demo) == before
    demo.post(f"/jobs/{DONE}/route/redo")
    assert calls(demo)["flare"] == "stop"


def test_a_machine_is_exchanged_for_one_of_the_same_model(demo):
    serial = job_of(demo).survey.box("outdoor").serial
    page = words(demo.get(f"/jobs/{DONE}/survey?part=boxes"))
    assert "The outdoor unit was exchanged" in page and "Head A was exchanged" in page
    back = {"_back": f"/jobs/{DONE}/survey"}
    silent = demo.post(f"/jobs/{DONE}/changes/exchange", data=back | {"part": "unit", "by": "Ida"})
    assert silent.status_code == 422
    wet = demo.post(f"/jobs/{DONE}/changes/exchange", data=back | {"part": "unit"} | SAID)
    assert wet.status_code == 422 and "Refrigerant is in the lines" in words(wet)
    assert 'id="way-out"' in wet.text and not job_of(demo).part_changes
    open_up(demo, DONE)
    demo.post(f"/jobs/{DONE}/changes/exchange", data=back | {"part": "unit"} | SAID)
    job = job_of(demo)
    assert job.part_changes[-1].serial == serial and not job.survey.box("outdoor").serial
    assert calls(demo)["survey"] == "wait"  # the new one is unpacked and looked at
    found = calls(demo)
    assert all(found[s] == "wait" for s in ("flare", "pressure-test", "evacuate", "charge"))
    assert found["wire"] != "holds" and found["commission"] != "holds"
    assert serial in demo.get(f"/jobs/{DONE}/record").text  # it stays readable under the old one
    strange = demo.post(f"/jobs/{DONE}/changes/exchange", data=back | {"part": "head:Q"} | SAID)
    assert strange.status_code == 404


def test_another_serial_asks_and_a_first_one_does_not(demo):
    box = "boxes.A.serial"
    demo.post(f"/jobs/{DONE}/survey?part=boxes", data={"_part": "boxes", box: "OTHER-1"})
    assert "drawn otherwise" in words(demo.get(f"/jobs/{DONE}/flare"))
    answer(demo, "corrected")
    assert calls(demo)["evacuate"] == "holds"


def test_a_newer_sheet_of_the_same_machine_voids_nothing(demo):
    before = calls(demo)
    with demo.app.state.database.session() as session:
        job = jobs.load(session, DONE).job
        sheet = job.equipment.outdoor.sheet
        ports = tuple(p.model_copy(update={"gas_od_m": 0.0127}) for p in sheet.ports)
        from fairline.store import shelf

        shelf.take_in(session, [sheet.model_copy(update={"ports": ports})], by="Ida")
        session.commit()
    demo.get(f"/jobs/{DONE}/survey")
    demo.post(f"/jobs/{DONE}/survey/newer")
    job = job_of(demo)
    assert job.equipment.outdoor.sheet.ports[0].gas_od_m == 0.0127
    assert calls(demo)["evacuate"] == before["evacuate"] == "holds"
    assert "Drawn wrong, or" not in demo.get(f"/jobs/{DONE}/flare").text
    demo.post(f"/jobs/{DONE}/survey/undo")
    assert job_of(demo).equipment.outdoor.sheet.ports != ports


def joint(place="A.gas.end", **more):
    fields = {"place": place, "even": "yes", "wrench_nm": "31.8 N·m", "by": "Ida"}
    return fields | {"_asks_order": "yes"} | more


def test_a_joint_recorded_under_a_proof_is_asked_before_or_after(demo):
    flare = f"/jobs/{DONE}/flare/joints"
    page = demo.get(f"/jobs/{DONE}/flare?joint=A.gas.end").text
    assert 'name="_order"' in page and "Before the nitrogen hold" in words(
        demo.get(f"/jobs/{DONE}/flare")
    )
    unsaid = demo.post(flare, data=joint())
    assert unsaid.status_code == 422 and "before the nitrogen hold" in words(unsaid)
    before = calls(demo)
    made = demo.post(flare, data=joint(_order="before"))
    assert made.status_code == 200 and calls(demo) == before
    hold = job_of(demo).holds[0]
    assert job_of(demo).joints[-1].at == hold.started_at - timedelta(seconds=1)
    again = demo.get(f"/jobs/{DONE}/flare?joint=A.liquid.end").text  # one answer for several
    assert re.search(r'id="order-before-A.liquid.end" value="before" checked', again)
    wet = demo.post(flare, data=joint(_order="after"))
    assert wet.status_code == 422 and "Both valves shut: Record" in wet.text
    open_up(demo, DONE)
    demo.post(flare, data=joint(_order="after"))
    assert calls(demo)["pressure-test"] == calls(demo)["evacuate"] == "wait"


@pytest.mark.parametrize("wrong", ["noon", "2199-01-01 10:00", "25:70", "5 weeks"])
def test_when_an_act_was_done_is_typed_and_understood_or_told(demo, wrong):
    flare = f"/jobs/{DONE}/flare/joints"
    told = demo.post(flare, data=joint(_done=wrong))
    assert told.status_code == 422 and f'value="{wrong}"' in told.text
    assert "say when it was done" in told.text
    demo.post(flare, data=joint(_done="40 min"))
    at = job_of(demo).joints[-1].at
    assert timedelta(minutes=39) < datetime.now(UTC) - at < timedelta(minutes=41)


def test_a_tightened_joint_keeps_its_proofs(demo):
    before = calls(demo)
    url = f"/jobs/{DONE}/flare/joints"
    wet = demo.post(url, data=joint(did="tightened", _order="after"))
    assert wet.status_code == 422 and "with both valves shut" in words(wet)
    demo.post(url, data=joint(did="tightened", _order="after", _done="1 min"))  # done already
    assert job_of(demo).joints[-1].did == "tightened"
    now = calls(demo)  # a look at it anew, and nothing else
    assert {stage for stage in before if now[stage] != before[stage]} == {"charge", "hand-over"}
    looked = {"watched_s": "2 min", "method": "bubbles", "by": "Ida"}
    demo.post(f"/jobs/{DONE}/charge/looked", data=looked)
    assert calls(demo) == before


def test_a_valve_core_is_recorded_with_how_it_was_changed(demo):
    before = calls(demo)
    url = f"/jobs/{DONE}/flare/cores"
    told = demo.post(url, data={"by": "Ida"})
    assert told.status_code == 422
    for wrong in ("say at which port", "whether it went through the core tool", "look at the port"):
        assert wrong in told.text.lower()
    port = re.findall(r'<option value="(\w)">', told.text.split('id="cores"')[1])[0]
    said = {"port": port, "seen": "yes", "by": "Ida"}
    demo.post(url, data=said | {"core_by": "tool"})
    assert calls(demo) == before
    assert demo.post(url, data=said | {"core_by": "open"}).status_code == 422
    open_up(demo, DONE)
    demo.post(url, data=said | {"core_by": "open"})
    assert calls(demo)["pressure-test"] == calls(demo)["evacuate"] == "wait"
    record = job_of(demo).records[-1]
    shown = words(demo.get(f"/jobs/{DONE}/record"))
    assert "through the core tool" in shown and "in the open" in shown
    strike = {"of": "joint", "of_uid": record.uid, "reason": "other job", "by": "Ida"}
    demo.post(f"/jobs/{DONE}/strike", data=strike)
    assert calls(demo)["flare"] == before["flare"] and calls(demo)["pressure-test"] == "holds"


def test_nitrogen_and_valves_name_their_ports(demo):
    job_id = home_runs(demo, released=False)
    assert calls(demo, job_id)["pressure-test"] == "holds"
    page = demo.get(f"/jobs/{job_id}/pressure-test").text
    assert page.count('name="ports"') >= 3
    reading = {"gauge_pa": "300 psi", "pipe_c": "68 F", "_ports": "yes"}
    with demo.app.state.database.session() as session:
        jobs.append_record(session, job_id, job_of(demo, job_id).recorded(_bled())[-1])
        session.commit()
    url = f"/jobs/{job_id}/runs/hold/begin"
    none = demo.post(url, data={"_ports": "yes"})
    assert none.status_code == 422 and "tick the ports" in words(none)
    demo.post(url, data={"_ports": "yes", "ports": ["B"]})
    demo.post(f"/jobs/{job_id}/runs/hold/reading", data=reading)
    run = job_of(demo, job_id).holds[-1]
    assert [p.open for p in job_of(demo, job_id).recorded(_ports()) if p.run == run.uid] == [("B",)]
    said = checks(demo, "pressure-test", job_id)
    assert said["hold"]["verdict"] == "wait" and any(c.startswith("hold_") for c in said)
    made = demo.post(f"/api/jobs/{job_id}/runs/hold").json()["run"]  # an instrument says no port
    rows = [{"instrument": "g", "seq": 0, "t_s": 0.0, "gauge_pa": 2.1e6, "pipe_c": 20.0}]
    demo.post(f"/api/jobs/{job_id}/runs/{made}/readings", json=rows)
    assert "ports" in checks(demo, "pressure-test", job_id)
    asked = demo.get(f"/jobs/{job_id}/pressure-test")
    assert "On which ports was the nitrogen?" in words(asked)
    answered = {"run": made, "_ports": "yes", "ports": ["A", "C"], "by": "Ida"}
    demo.post(f"/jobs/{job_id}/pressure-test/ports", data=answered)
    assert "ports" not in checks(demo, "pressure-test", job_id)
    no_port = {"order": "gas_first", "both": "yes", "_ports": "yes", "by": "Ida"}
    refused = demo.post(f"/jobs/{job_id}/charge/release", data=no_port)
    assert refused.status_code == 422 and "tick the ports" in words(refused)


def _bled():
    from fairline.core.evacuate.records import Bled

    return Bled


def _ports():
    from fairline.core.route.circuits import Ports

    return Ports


def test_ports_that_were_pulled_together_are_asked_about(demo):
    job_id = home_runs(demo, released=False)
    vacuum = demo.post(f"/jobs/{job_id}/flare/joints", data=joint("C.gas.end", _order="after"))
    assert vacuum.status_code == 422 and "under vacuum" in words(vacuum)
    broken = {"act": "sweep", "ports": ["C"], "by": "Ida"}
    assert demo.post(f"/jobs/{job_id}/way-out", data=broken).status_code == 200
    demo.post(f"/jobs/{job_id}/flare/joints", data=joint("C.gas.end", _order="after"))
    page = demo.get(f"/jobs/{job_id}/evacuate")
    assert "Shut off before C was opened?" in words(page)
    said = {"opened": "C", "shut": "yes", "by": "Ida"}
    unnamed = demo.post(f"/jobs/{job_id}/changes/shut-off", data=said | {"by": ""})
    assert unnamed.status_code == 422
    demo.post(f"/jobs/{job_id}/changes/shut-off", data=said)
    found = checks(demo, "evacuate", job_id)
    assert [c["verdict"] for c in found.values()].count("holds") >= 1
    assert (
        demo.post(f"/jobs/{job_id}/changes/shut-off", data=said | {"opened": "Q"}).status_code
        == 404
    )


def test_a_job_goes_out_and_comes_back_with_the_same_calls_and_subjects(demo):
    job_id = home_runs(demo)
    demo.post(f"/jobs/{job_id}/route?part=runs.C", data={"runs.C.gas_od_m": "1/2 in"})
    answer(demo, "changed", job_id)
    content = demo.get(f"/jobs/{job_id}/job.json").content
    with zipfile.ZipFile(io.BytesIO(demo.get(f"/jobs/{job_id}/job.zip").content)) as packed:
        assert json.loads(packed.read("job.json")) == json.loads(content)
    files = {"file": ("j.json", content)}
    taken = demo.post("/jobs/import", files=files, data={"as_copy": "true"}, follow_redirects=False)
    again = int(taken.headers["location"].split("/")[2])
    assert calls(demo, again) == calls(demo, job_id)
    one, two = job_of(demo, job_id), job_of(demo, again)
    assert (one.subjects, one.since, one.records) == (two.subjects, two.since, two.records)


def test_a_file_of_before_is_the_job_as_it_was_found(demo):
    whole = json.loads(demo.get("/jobs/1/job.json").content)
    for name in ("subjects", "since", "practices"):
        whole.pop(name)
    for one in (*whole["records"], *whole["runs"]):
        for name in ("subject", "practice", "sides", "did"):
            one.pop(name, None)
    for record in whole["records"]:
        record.pop("uid")
    job_id = demo.post("/api/jobs", json=whole | {"uid": "a-file-of-before"}).json()["id"]
    assert calls(demo, job_id) == calls(demo, 1)
    job = job_of(demo, job_id)
    assert all(s.found for s in job.subjects.values()) and len(job.subjects) == 1
    assert all(r.sides for r in job.joints) and len({r.uid for r in job.records}) == len(
        job.records
    )
    demo.post(f"/jobs/{job_id}/route?part=runs.A", data=WIDER)
    assert calls(demo, job_id)["evacuate"] == "wait"


def test_an_older_log_that_is_uploaded_later_is_of_the_parts_of_its_day(demo):
    job_id = home_runs(demo, released=False)
    first = job_of(demo, job_id).since[0].subject
    demo.post(f"/jobs/{job_id}/route?part=runs.C", data={"runs.C.gas_od_m": "1/2 in"})
    answer(demo, "changed", job_id)
    rows = "".join(f"2026-07-01T20:{n:02}:00Z,2100000,20\n" for n in range(5))
    log = f"time,gauge_pa,pipe_c\n{rows}".encode()
    sent = {"file": ("hold.csv", log)}
    url = f"/jobs/{job_id}/runs/hold/file"
    taken = demo.post(url, files=sent, data={"_ports": "yes", "ports": ["A", "B", "C"]})
    assert taken.status_code == 200, words(taken)[:300]
    run = job_of(demo, job_id).holds[-1]
    assert run.started_at.year == 2026 and run.subject == first


def test_an_act_that_waited_for_a_signal_is_of_the_job_as_its_page_showed_it(demo):
    shown = re.search(r'data-subject="([0-9a-f]+)"', demo.get(f"/jobs/{DONE}/flare").text).group(1)
    demo.post(RUN_A, data=WIDER)
    answer(demo, "changed")
    open_up(demo, DONE)
    head = {"x-fairline-subject": shown}
    demo.post(f"/jobs/{DONE}/flare/joints", data=joint(_order="after"), headers=head)
    assert job_of(demo).joints[-1].subject == shown
    strange = {"x-fairline-subject": "0123456789abcdef"}
    demo.post(f"/jobs/{DONE}/flare/joints", data=joint(_order="after"), headers=strange)
    assert job_of(demo).joints[-1].subject == job_of(demo).since[-1].subject


def test_the_label_is_written_again_where_something_on_it_changed(demo):
    ticks = dict.fromkeys(("labels", "filters", "breaker", "yearly", "manuals"), "true")
    demo.post(f"/jobs/{DONE}/hand-over", data={})
    demo.post(f"/jobs/{DONE}/hand-over", data=ticks | {"warranty": "true"})
    assert checks(demo, "hand-over")["labels"]["verdict"] == "holds"
    demo.post(RUN_A, data={"runs.A.built_m": "9.4 m"})
    assert checks(demo, "hand-over")["labels"]["verdict"] == "wait"
    assert checks(demo, "hand-over")["warranty"]["verdict"] == "holds"
    demo.post(f"/jobs/{DONE}/hand-over", data={"warranty": "true"})
    demo.post(f"/jobs/{DONE}/hand-over", data=ticks | {"warranty": "true"})
    assert checks(demo, "hand-over")["labels"]["verdict"] == "holds"
    data = {"part": "head:A", "_back": f"/jobs/{DONE}/survey"} | SAID
    open_up(demo, DONE)
    demo.post(f"/jobs/{DONE}/changes/exchange", data=data)
    assert checks(demo, "hand-over")["warranty"]["verdict"] == "wait"


def test_a_strike_takes_out_one_record(demo):
    flare = f"/jobs/{DONE}/flare/joints"
    demo.post(flare, data=joint(wrench_nm="1 N·m", _order="before"))
    wrong = job_of(demo).joints[-1]
    page = demo.get(f"/jobs/{DONE}/flare?joint=A.gas.end").text
    assert f'name="of_uid" value="{wrong.uid}"' in page
    demo.post(f"/jobs/{DONE}/strike", data={"of": "joint", "of_uid": wrong.uid, **SAID})
    assert calls(demo)["flare"] == "holds"
    twice = demo.post(f"/jobs/{DONE}/strike", data={"of": "joint", "of_uid": wrong.uid, **SAID})
    assert twice.status_code == 404


def test_the_outlets_are_written_down_at_the_first_joint_and_no_order_of_runs_turns_them(demo):
    job = gallery()
    runs = {e: r.model_copy(update={"outlet": ""}) for e, r in job.route.runs.items()}
    plan = job.model_copy(
        update={
            "records": (),
            "uid": "blank-outlets-0001",
            "route": job.route.model_copy(update={"runs": runs}),
        }
    )
    job_id = demo.post("/api/jobs", content=plan.model_dump_json()).json()["id"]
    demo.post(f"/jobs/{job_id}/flare/joints", data=joint("B.gas.start"))
    assert job_of(demo, job_id).route.run("B").outlet == "B"
    turned = dict(sorted(runs.items(), reverse=True))
    other = plan.model_copy(update={"route": plan.route.model_copy(update={"runs": turned})})
    ends = [
        {s.id: s.outlet for s in work(j, Practice()).of(_route()).pipes.stretches}
        for j in (plan, other)
    ]
    assert ends[0] == ends[1]


def _route():
    from fairline.core.route.stage import RouteStageResult

    return RouteStageResult


def test_the_demo_is_judged_alike_before_and_after_it_is_kept(demo):
    for job_id in range(1, 10):
        job = job_of(demo, job_id)
        bare = job.model_copy(update={"subjects": {}, "since": (), "practices": {}})
        assert judge(bare, Practice()) == judge(job, Practice())
        assert work(job, Practice()).of(FlareStageResult).proofs.now


def test_a_port_that_nothing_closes_is_not_printed_as_capped(demo):
    job_id = home_runs(demo)
    heads = {"_remove": "heads.2", "_part": "rooms"}
    page = demo.get(f"/jobs/{job_id}/survey?part=rooms").text
    fields = dict(
        re.findall(
            r'name="(heads\.\d\.zone|heads\.\d\.room|_version|_editor)" value="([^"]*)"', page
        )
    )
    demo.post(f"/jobs/{job_id}/survey?part=rooms", data=fields | heads)
    assert "C" not in job_of(demo, job_id).route.runs
    answer(demo, "changed", job_id)
    label = words(demo.get(f"/jobs/{job_id}/label"))
    assert "open: nothing closes it" in label
    assert "open: nothing closes it" in words(demo.get(f"/jobs/{job_id}/record"))
    assert "Joints that are not there any more" in words(demo.get(f"/jobs/{job_id}/record"))
    assert calls(demo, job_id)["flare"] == "stop"


def test_an_older_log_ends_no_run_that_goes_on(demo):
    job_id = home_runs(demo, released=False)
    run = demo.post(f"/api/jobs/{job_id}/runs/hold").json()["run"]
    rows = "".join(f"2026-07-01T20:{n:02}:00Z,2100000,20\n" for n in range(5))
    sent = {"file": ("hold.csv", f"time,gauge_pa,pipe_c\n{rows}".encode())}
    demo.post(f"/jobs/{job_id}/runs/hold/file", files=sent)
    holds = job_of(demo, job_id).holds
    assert [h.ended_at is None for h in holds if h.uid == run] == [True]
    assert holds[-1].uid == run and holds == tuple(sorted(holds, key=lambda h: h.started_at))
    rows = [{"instrument": "g", "seq": 0, "t_s": 0.0, "gauge_pa": 2.1e6, "pipe_c": 20.0}]
    assert demo.post(f"/api/jobs/{job_id}/runs/{run}/readings", json=rows).status_code == 200


@pytest.mark.parametrize(
    ("place", "wrong"),
    [
        (("records", 0, "sides"), ["A|in", "tubeA"]),
        (("subjects",), {"0" * 16: {"parts": {"joint": ["x"]}}}),
        (("subjects",), {"0" * 16: {"parts": {"unit": []}}}),
        (("since",), [{"at": "2026-07-01T08:00:00Z", "subject": 3}]),
    ],
)
def test_a_file_with_parts_that_cannot_be_is_refused_by_the_field(demo, place, wrong):
    whole = json.loads(demo.get("/jobs/1/job.json").content) | {"uid": "a-broken-file"}
    at = whole
    for name in place[:-1]:
        at = at[name]
    if place[0] == "records":
        at = next(r for r in whole["records"] if r["kind"] == "joint")
    at[place[-1]] = wrong
    refused = demo.post("/api/jobs", json=whole)
    assert refused.status_code == 422 and place[-1] in refused.text
    whole = json.loads(demo.get("/jobs/1/job.json").content) | {"uid": "an-unknown-subject"}
    for record in whole["records"]:
        record["subject"] = "f" * 16  # one that the file does not bring along
    taken = demo.post("/api/jobs", json=whole)
    assert taken.status_code == 201 and calls(demo, taken.json()["id"]) == calls(demo)
