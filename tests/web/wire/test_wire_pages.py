"""Wire pages: landings and their errors, the power gate, cards, materials, heads taken out."""

import io

import pytest
from PIL import Image

from fairline.demo import jobs as demo_jobs
from tests.support import words

OUTDOOR = "/jobs/4/wire"  # a single zone, nothing wired yet
BY = {"by": "Ida"}


def job_of(client, job_id):
    return client.get(f"/api/jobs/{job_id}").json()


def kinds(client, job_id):
    return [r["kind"] for r in job_of(client, job_id)["records"]]


def test_every_part_of_every_job_opens(demo):
    for job_id in range(1, 10):
        for part in ("supply-outdoor", "cables", "settings", "power", "cable-A", "?"):
            answer = demo.get(f"/jobs/{job_id}/wire", params={"part": part})
            assert answer.status_code == 200, (job_id, part)
        assert demo.get(f"/jobs/{job_id}/wire-cards").status_code == 200


def test_a_job_without_units_says_what_to_do_first(client):
    client.post("/jobs/new", data={"name": "Bare"})
    page = words(client.get("/jobs/1/wire"))
    assert "No outdoor unit is chosen" in page


def test_a_screw_is_tapped_and_an_end_finished_at_a_stroke(demo):
    tap = {"end": "A.end", "tap": "2"} | BY
    unsaid = demo.post(f"{OUTDOOR}/landings", data=tap)
    assert unsaid.status_code == 422 and "no circuit reaches it yet" in words(unsaid)
    demo.post(f"{OUTDOOR}/dead", data={"act": "not-fed", "unit": "outdoor"} | BY)
    assert demo.post(f"{OUTDOOR}/landings", data=tap).status_code == 200
    landed = job_of(demo, 4)["records"][-1]
    assert (landed["terminal"], landed["colour"], landed["pulled"]) == ("2", "white", True)
    before = len(kinds(demo, 4))
    demo.post(f"{OUTDOOR}/finish", data={"end": "A.end", "all": "yes"} | BY)
    added = kinds(demo, 4)[before:]
    assert added == ["landing"] * 3 + ["wire-end"]  # the screw that was done stays as it is
    moments = [r["at"] for r in job_of(demo, 4)["records"][before:]]
    assert len(set(moments)) == 4  # each can be struck out by itself


@pytest.mark.parametrize(
    ("data", "said"),
    [
        ({"end": "A.end", "tap": "9"}, "no such screw"),
        ({"end": "A.end", "terminal": "1", "colour": "purple"}, "it must be"),
        ({"end": "A.end", "terminal": "1", "colour": "red", "at": "nowhere"}, "no such screw"),
    ],
)
def test_a_landing_that_cannot_be_is_told_beside_its_field(demo, data, said):
    answer = demo.post(f"{OUTDOOR}/landings", data=data | BY)
    assert answer.status_code == 422 and said in words(answer)


def test_who_did_it_is_asked_at_the_end_at_hand(demo):
    demo.cookies.clear()
    for path in ("landings", "finish"):
        answer = demo.post(
            f"{OUTDOOR}/{path}", data={"end": "A.start", "tap": "1", "all": "yes", "by": ""}
        )
        assert answer.status_code == 422
        assert "Outdoor unit" in words(answer) and "this cannot be blank" in answer.text


@pytest.mark.parametrize(
    ("path", "data"),
    [
        ("landings", {"end": "Q.end", "tap": "1"}),
        ("finish", {"all": "yes"}),
        ("dead", {"unit": "roof", "act": "off"}),
        ("dead", {"unit": "outdoor", "act": "maybe"}),
    ],
)
def test_what_the_job_does_not_have_is_not_found(demo, path, data):
    assert demo.post(f"{OUTDOOR}/{path}", data=data | BY).status_code == 404


def test_a_unit_is_off_waits_and_is_proved_dead(demo):
    demo.post(f"{OUTDOOR}/dead", data={"unit": "outdoor", "act": "off"} | BY)
    page = words(demo.get(f"{OUTDOOR}?part=cables"))
    assert "stored charge runs down" in page and 'x-data="countdown"' in page
    early = demo.post(f"{OUTDOOR}/dead", data={"unit": "outdoor", "act": "dead"} | BY)
    assert early.status_code == 422 and "stored charge runs down for 5 min more" in words(early)
    assert kinds(demo, 4)[-1] == "switched-off"  # nothing was proved
    demo.post(f"{OUTDOOR}/dead", data={"unit": "outdoor", "act": "live"} | BY)
    assert "it is live" in words(demo.get(f"{OUTDOOR}?part=cables"))


def test_power_comes_on_through_one_gate_or_by_name(demo):
    shut = demo.post(f"{OUTDOOR}/power", data={"_from": "charge"} | BY)
    assert shut.status_code == 422 and "A name and a reason are needed" in words(shut)
    assert "Charge" in shut.text
    half = demo.post(f"{OUTDOOR}/power", data={"override_by": "Ida"} | BY)
    assert half.status_code == 422 and "an override needs its name and its reason" in half.text
    both = {"override_by": "Ida", "override_reason": "to try the fan"} | BY
    unnamed = demo.post(f"{OUTDOOR}/power", data=both)
    assert unnamed.status_code == 422 and "tick what is passed over" in unnamed.text
    every = both | {"passed": ["wire", "valves", "caps"]}
    assert demo.post(f"{OUTDOOR}/power", data=every).status_code == 200
    assert "to try the fan" in words(demo.get(f"{OUTDOOR}?part=power"))
    assert kinds(demo, 4)[-1] == "power-on"


def test_what_needs_power_asks_the_gate(client):
    whole = demo_jobs.bindery().model_dump(mode="json")
    unpowered = ("power-on", "running")
    whole["records"] = [r for r in whole["records"] if r["kind"] not in unpowered]
    job_id = client.post("/api/jobs", json=whole).json()["id"]
    page = words(client.get(f"/jobs/{job_id}/commission"))
    assert "The first start is not recorded" in page
    ran = {"mode": "cool", "return_c": "79 F", "supply_c": "57 F"} | BY
    refused = client.post(f"/jobs/{job_id}/commission/readings", data=ran)
    assert refused.status_code == 422 and "power is not on" in refused.text
    weighed = {"before_kg": "9 lb", "after_kg": "8.9 lb", "way": "in", "running": "true"} | BY
    refused = client.post(f"/jobs/{job_id}/charge/weighings", data=weighed)
    assert refused.status_code == 422 and "power is not on" in refused.text
    client.post(f"/jobs/{job_id}/wire/power", data={"_from": "commission"} | BY)
    assert client.post(f"/jobs/{job_id}/commission/readings", data=ran).status_code == 200
    assert client.post(f"/jobs/{job_id}/charge/weighings", data=weighed).status_code == 200


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"breaker_a": "22"}, "20 or 25 A is"),
        ({"plate_mca_a": "30", "plate_mop_a": "20"}, "MCA 30 A is above MOP 20 A"),
        ({"gauge": "13"}, "13 AWG is not made"),
        ({"length_m": "3000 ft"}, "must lie between"),
        ({"code_a": "20"}, "name the code and its paragraph"),
    ],
)
def test_a_circuit_that_cannot_be_is_told_beside_its_field(demo, fields, said):
    posted = {f"supplies.outdoor.{k}": v for k, v in fields.items()}
    posted |= {"_part": "supply-outdoor", "_version": "0", "supplies.outdoor.volts_v": "240"}
    answer = demo.post("/jobs/4/wire?part=supply-outdoor", data=posted)
    assert answer.status_code == 422 and said in words(answer)
    assert job_of(demo, 4)["wire"]["supplies"]["outdoor"]["volts_v"] == 240.0  # the rest is kept


def test_two_heads_with_one_address_and_a_letter_used_twice_are_named(demo):
    posted = {"_part": "settings", "_version": "1"}
    posted |= {"addresses.E.circuit": "0", "addresses.E.head": "3"}
    page = words(demo.post("/jobs/8/wire?part=settings", data=posted))
    assert "Heads D and E are both set to 00-03" in page
    end = {"end": "A.start", "letter": "B", "tip": "taken"} | BY
    demo.post("/jobs/6/wire/finish", data=end)
    page = words(demo.get("/jobs/6/wire?part=cables&end=A.start"))
    assert "it is marked B, the tubes there are A" in page


def test_cards_name_every_screw_and_what_is_set(demo):
    page = words(demo.get("/jobs/7/wire-cards"))
    assert "MCA 24 A, MOP 40 A, breaker 40 A" in page
    assert "box1, port C: not used" in page and "Port D" in page
    assert "00-04" in words(demo.get("/jobs/8/wire-cards"))


def test_materials_and_record_have_the_wiring(demo):
    page = words(demo.get("/jobs/6/materials"))
    assert "35 A, 2-pole" in page and "in the place of 50 A" in page
    assert "4 × 14 AWG, ground with it" in page
    record = words(demo.get("/jobs/1/record"))
    assert "Power on, first start" in record and "proved dead, tester tried before" in record
    assert "1 black, 2 white, 3 red, ground green" in record
    assert demo.get("/jobs/1/record.pdf").status_code == 200


def test_local_code_says_yes_or_no_on_the_practice_page(demo):
    fields = {"code.licence_asked": "yes", "source.licence_asked": "town code 12"}
    assert demo.post("/rules", data=fields).status_code == 200
    assert "Local code: licensed person" in demo.get("/rules").text
    demo.post(
        "/jobs/4/wire?part=supply-outdoor",
        data={"_part": "supply-outdoor", "_version": "0", "supplies.outdoor.who": "us"},
    )
    page = words(demo.get("/jobs/4/wire?part=supply-outdoor"))
    assert "Licence number, asked by law" in page
    wrong = demo.post("/rules", data={"code.licence_asked": "maybe"})
    assert wrong.status_code == 422 and "type yes or no" in wrong.text


def test_a_head_taken_out_takes_its_wiring_and_its_letter_is_not_given_again(demo):
    heads = job_of(demo, 8)["survey"]["heads"]
    last = len(heads) - 1
    assert heads[last]["zone"] == "F"
    demo.post("/jobs/8/wire/landings", data={"end": "F.end", "tap": "X1"} | BY)
    posted = {"_part": "rooms", "_version": "1", "_remove": f"heads.{last}"}
    assert demo.post("/jobs/8/survey?part=rooms", data=posted).status_code == 200
    wire = job_of(demo, 8)["wire"]
    assert "F" not in wire["supplies"] and "F" not in wire["addresses"]
    posted = {"_part": "rooms", "_version": "2", "_add": "heads"}
    demo.post("/jobs/8/survey?part=rooms", data=posted)
    assert job_of(demo, 8)["survey"]["heads"][-1]["zone"] == "G"


def test_a_picture_of_the_nameplate_comes_back_to_its_circuit(demo):
    picture = io.BytesIO()
    Image.new("RGB", (60, 40), "grey").save(picture, "PNG")
    answer = demo.post(
        "/jobs/4/pictures",
        data={"thing": "nameplate:outdoor", "_back": "/jobs/4/wire"},
        files={"file": ("plate.png", picture.getvalue(), "image/png")},
    )
    assert answer.status_code == 200 and "Nameplate of the outdoor unit" in answer.text


def test_settings_are_made_as_the_card_has_them_in_one_order(demo):
    order = {"_part": "settings", "_version": "1"}
    whole = {f"addresses.{z}.{part}": "" for z in "ABCDEF" for part in ("circuit", "head")}
    put = ";".join(
        f"addresses.{z}.circuit=00;addresses.{z}.head={n:02}" for n, z in enumerate("ABCDEF")
    )
    assert f'value="{put}"' in demo.get("/jobs/8/wire?part=settings").text
    demo.post("/jobs/8/wire?part=settings", data=order | whole | {"_put": put})
    assert job_of(demo, 8)["wire"]["addresses"]["F"] == {"circuit": "00", "head": "05"}
    demo.post("/jobs/7/wire?part=settings", data=order | {"box_ports.box1[]": ""})
    page = words(demo.get("/jobs/7/wire?part=settings"))
    assert "Which ports of box1 are used is not set" in page and "Set so: A, B, D used" in page
    again = order | {"_version": "2", "box_ports.box1[]": "", "_put": "box_ports.box1=A B D"}
    demo.post("/jobs/7/wire?part=settings", data=again)
    assert job_of(demo, 7)["wire"]["box_ports"] == {"box1": ["A", "B", "D"]}
