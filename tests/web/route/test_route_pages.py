"""Route's pages as a person uses them without scripts: orders, errors, cut plan, van, lists."""

import csv
import io
import re

import pytest

from fairline.demo.systems import VAN
from fairline.store import house, jobs
from tests.support import words

GALLERY, FOUNDRY, TRUNK, KIT = 6, 7, 8, 9


def job_of(client, job_id):
    with client.app.state.database.session() as session:
        return jobs.load(session, job_id).job


def van_of(client):
    with client.app.state.database.session() as session:
        return house.van(session)


def order(client, job_id, words, **fields):
    return client.post(f"/jobs/{job_id}/route?part=system", data={"_edit": words} | fields)


def test_orders_change_the_tree_and_keep_all_else(demo):
    before = job_of(demo, GALLERY).route
    assert order(demo, GALLERY, "connect:A:outdoor:D").status_code == 200
    after = job_of(demo, GALLERY).route
    assert after.run("A").outlet == "D"
    assert after.run("A").legs == before.run("A").legs
    assert after.drains == before.drains and after.levels == before.levels
    order(demo, GALLERY, "port:outdoor:A:kept")
    assert job_of(demo, GALLERY).route.ports["outdoor-A"] == "kept"
    page = demo.get(f"/jobs/{GALLERY}/route?part=system").text
    assert "kept for a later head" in page and "Reducer" not in page


@pytest.mark.parametrize(
    ("words", "told"),
    [
        ("connect:tee1:tee3:off", "feed itself"),
        ("connect:Q:outdoor:A", "no Q to connect"),
        ("out:A", "no box or tee called A"),
        ("dance", "not understood"),
        ("connect:A:nowhere:A", "no nowhere"),
        ("tee:Q", "connect Q first"),
    ],
)
def test_an_order_that_cannot_be_done_says_why_and_changes_nothing(demo, words, told):
    before = job_of(demo, TRUNK).route
    answer = order(demo, TRUNK, words, notes="typed meanwhile")
    assert answer.status_code == 422
    assert told in answer.text
    assert "typed meanwhile</textarea>" in answer.text
    assert job_of(demo, TRUNK).route == before


def test_a_sentence_is_drawn_or_its_fault_stands_beside_it(demo):
    url = f"/jobs/{KIT}/route?part=runs.A"
    bad = demo.post(url, data={"_edit": "say:A", "_say": "up 3 m, over there 2"})
    assert bad.status_code == 422
    assert 'id="e-_say"' in bad.text and "over there 2" in bad.text
    assert 'value="up 3 m, over there 2"' in bad.text
    demo.post(url, data={"_edit": "say:A", "_say": "up 3 m, through wall, left 2 m"})
    legs = [(x.direction, x.length_m) for x in job_of(demo, KIT).route.run("A").legs]
    assert legs[0] == ("up", 3.0) and legs[2] == ("left", 2.0)
    assert legs[1][1] == pytest.approx(6.5 * 0.0254)  # Mount knows how thick that wall is
    kept = demo.post(
        url, data={"_say": "up 2", "runs.A.notes": "n"}, headers={"hx-request": "true"}
    )
    assert 'value="up 2"' in kept.text  # words that were not ordered yet stay


def test_what_is_wrong_in_a_field_is_told_there_and_nothing_is_lost(demo):
    url = f"/jobs/{FOUNDRY}/route?part=runs.A"
    before = job_of(demo, FOUNDRY).route
    answer = demo.post(url, data={"runs.A.legs.0.length_m": "far", "runs.A.built_m": "4 m"})
    assert answer.status_code == 422
    assert 'id="e-runs.A.legs.0.length_m"' in answer.text and 'value="far"' in answer.text
    kept = job_of(demo, FOUNDRY).route
    assert kept.run("A").built_m == 4.0  # understood, and kept at once
    assert kept.run("A").legs == before.run("A").legs  # the wrong one stays as it was
    for field, value in (
        ("runs.A.gas_od_m", "3 m"),
        ("runs.A.along_legs", "-1"),
        ("drains.A.parts.0.way", "sideways"),
    ):
        assert demo.post(url, data={field: value}).status_code == 422


def test_a_branch_box_of_the_shelf_is_copied_into_the_job(demo):
    held = job_of(demo, FOUNDRY).equipment.fitting("box1")
    assert held.model == "PB-5"
    demo.post(f"/jobs/{FOUNDRY}/route", data={"runs.box1.sheet": ""})
    assert job_of(demo, FOUNDRY).equipment.fitting("box1") is None
    assert "knows no ports" not in demo.get(f"/jobs/{FOUNDRY}/route?part=system").text
    demo.post(f"/jobs/{FOUNDRY}/route", data={"runs.box1.sheet": held.name})
    assert job_of(demo, FOUNDRY).equipment.fitting("box1") == held
    with demo.app.state.database.session() as session:
        from fairline.store import shelf

        found = shelf.by_name(session, held.name)
        shelf.put(session, found.sheet.model_copy(update={"max_heads": 4}), found.id)
        session.commit()
    offered = words(demo.get(f"/jobs/{FOUNDRY}/survey"))
    assert "at box1" in offered or "version 2 of Pellow Air PB-5" in offered
    demo.post(f"/jobs/{FOUNDRY}/survey/newer")
    assert job_of(demo, FOUNDRY).equipment.fitting("box1").max_heads == 4


def test_a_head_is_added_from_the_drawing(demo):
    demo.post(f"/jobs/{GALLERY}/route/heads", data={"room": "Loft", "form": "console"})
    job = job_of(demo, GALLERY)
    added = job.survey.heads[-1]
    assert (added.zone, added.room, added.form, added.when) == ("E", "Loft", "console", "now")
    assert job.route.run("E").outlet == "D"
    demo.post(f"/jobs/{GALLERY}/route/heads", data={})
    job = job_of(demo, GALLERY)
    assert job.route.run("F").fed_from == ""  # no port is left: it stands loose
    assert "F is not connected" in demo.get(f"/jobs/{GALLERY}/route?part=system").text


# --- the van and the cut plan ------------------------------------------------------------------


def test_the_plan_is_carried_out_once_and_takes_tube_off_the_van(demo):
    url = f"/jobs/{GALLERY}/cut-plan"
    assert demo.post(url, data={"by": ""}).status_code == 422
    assert van_of(demo) == VAN and job_of(demo, GALLERY).cutting is None
    demo.post(url, data={"by": "Ida"})
    cutting = job_of(demo, GALLERY).cutting
    assert cutting.by == "Ida" and {r for p in cutting.pieces for r, _ in p.cuts} == set("ABC")
    whole = sum(m for p in cutting.pieces for _, m in p.cuts) + sum(
        p.left_m for p in cutting.pieces
    )
    left = sum(x.length_m * x.count for x in van_of(demo).lines)
    before = sum(x.length_m * x.count for x in VAN.lines)
    put_back = sum(p.left_m for p in cutting.pieces if p.left_m >= 1.0)
    assert before - left == pytest.approx(whole - put_back, abs=1e-6)
    assert any(x.kind == "off-cut" and x.name.startswith("off-cut of") for x in van_of(demo).lines)
    assert "As it was cut" in demo.get(url).text


def test_stock_that_does_not_reach_is_short_and_cannot_be_carried_out(demo):
    page = demo.get(f"/jobs/{TRUNK}/cut-plan").text  # no 3/8 + 5/8 on the van
    assert "there is none" in page and "Record: cut" not in page
    assert "nothing is cut" in demo.get(f"/jobs/{KIT}/cut-plan").text
    assert demo.post(f"/jobs/{KIT}/cut-plan", data={"by": "Ida"}).status_code == 422


def test_the_van_is_kept_whole_or_not_at_all(client):
    row = {
        "lines.0.kind": "roll",
        "lines.0.name": "r",
        "lines.0.liquid_od_m": "1/4",
        "lines.0.gas_od_m": "",
        "lines.0.length_m": "50 ft",
        "lines.0.count": "2",
    }
    assert client.post("/van", data=row).status_code == 200
    assert van_of(client).lines[0].length_m == pytest.approx(15.24)
    for field, value, told in (
        ("lines.0.length_m", "", "how long"),
        ("lines.0.liquid_od_m", "", "liquid tube, its gas tube"),
        ("lines.0.count", "many", "integer"),
        ("lines.0.liquid_od_m", "thin", "not understood"),
    ):
        answer = client.post("/van", data=row | {field: value})
        assert answer.status_code == 422
        shown = re.findall(r'class="field-error"[^>]*>([^<]*)', answer.text)
        assert any(told in x or "number" in x for x in shown), shown
        assert re.search(r'length_m"[^>]*value="50"', answer.text) or field.endswith("length_m")
    assert len(van_of(client).lines) == 1
    grown = client.post("/van", data=row | {"_add": "lines"}).text
    assert 'name="lines.1.kind"' in grown and len(van_of(client).lines) == 1
    client.post("/van", data=row | {"lines.1.kind": "roll", "lines.1.length_m": ""})
    assert len(van_of(client).lines) == 1  # a blank line is no line


# --- what follows from the runs ----------------------------------------------------------------


@pytest.mark.parametrize("job_id", [1, GALLERY, FOUNDRY, TRUNK, KIT])
def test_the_lists_of_every_kind_in_both_systems(demo, job_id):
    rows = list(csv.DictReader(io.StringIO(demo.get(f"/jobs/{job_id}/materials.csv").text)))
    assert {r["group"] for r in rows} >= {"Cable", "Drain", "Tube and kits"}
    for r in rows:
        if r["length_m"]:
            assert float(r["quantity"]) == pytest.approx(float(r["length_m"]) / 0.3048, abs=0.01)
    demo.post("/preferences", data={"units": "si"})
    metres = list(csv.DictReader(io.StringIO(demo.get(f"/jobs/{job_id}/materials.csv").text)))
    assert [r["length_m"] for r in metres] == [r["length_m"] for r in rows]
    page = demo.get(f"/jobs/{job_id}/materials").text
    assert page.count('class="amount"') == len(rows)
    assert demo.get(f"/jobs/{job_id}/record.pdf").content.startswith(b"%PDF")


def test_labels_name_every_run_and_a_trunks_addresses(demo):
    text = demo.get(f"/jobs/{TRUNK}/label").text
    assert [f"address 00-{n:02}" in text for n in range(6)] == [True] * 6
    assert "address 00-06" not in text
    gallery = demo.get(f"/jobs/{GALLERY}/label").text
    assert "Print gallery" in gallery and ", built" in gallery


def test_what_was_built_goes_on_to_charge_and_the_plan_stays(demo):
    before = job_of(demo, KIT).route.run("A").legs
    demo.post(f"/jobs/{KIT}/route?part=runs.A", data={"runs.A.built_m": "9.5 m"})
    page = demo.get(f"/jobs/{KIT}/charge").text
    assert "9.50 m" in page and "as built" in page
    assert job_of(demo, KIT).route.run("A").legs == before
    assert "Planned" in demo.get(f"/jobs/{KIT}/route?part=runs.A").text


def test_the_drains_page_shows_dips_and_joins(demo):
    url = f"/jobs/{GALLERY}/route?part=drains"
    demo.post(url, data={"drains.B.parts.0.fall_m": "-1 cm"})
    page = demo.get(url).text
    assert (
        "water stands" in page and "rises by 10 mm" in page.replace("\u202f", " ")
    ) or "rises" in page
    demo.post(
        url,
        data={"drains.B.parts.0.fall_m": "2 cm", "drains.B.ends": "joins", "drains.B.joins": "B"},
    )
    assert "or itself" in demo.get(url).text
    demo.post(url, data={"drains.B.joins": "A"})
    assert "or itself" not in demo.get(url).text
    rows = list(csv.DictReader(io.StringIO(demo.get(f"/jobs/{GALLERY}/materials.csv").text)))
    assert any(r["item"] == "Drain tee" for r in rows)
    demo.post(url, data={"drains.A.ends": "stack", "drains.A.trapped": "no"})
    assert "without trap and air gap" in demo.get(url).text


def test_kits_of_the_shelf_say_whether_they_reach(demo):
    """The shortest that reaches comes first; one is never joined."""
    page = demo.get(f"/jobs/{KIT}/route?part=runs.A").text
    options = re.findall(r'<option value="(Osmund Works OK-\d+)"[^>]*>([^<]*)', page)
    assert [name for name, _ in options] == ["Osmund Works OK-25", "Osmund Works OK-15"]
    assert "too short" not in options[0][1] and "too short" in options[1][1]
    demo.post(f"/jobs/{KIT}/route?part=runs.A", data={"runs.A.kit": "Osmund Works OK-15"})
    short = demo.get(f"/jobs/{KIT}/route?part=runs.A").text
    assert "Take a longer kit" in short
    assert job_of(demo, KIT).equipment.fitting("A").model == "OK-15"


def test_a_part_that_is_not_there_opens_the_system_or_the_only_run(demo):
    assert "What hangs on what" in demo.get(f"/jobs/{GALLERY}/route?part=runs.Z").text
    assert "Say the run" in demo.get(f"/jobs/{KIT}/route").text
    assert "What hangs on what" in demo.get(f"/jobs/{KIT}/route?part=system").text
