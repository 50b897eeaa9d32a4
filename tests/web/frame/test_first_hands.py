"""What a hand meets: units beside fields, gaps in sheets, acts sent twice, the board, moments."""

import io
import re
from datetime import datetime, timedelta

import pytest
from PIL import Image

from fairline.core.job import Job
from fairline.core.quantities import parse, typed
from fairline.core.units import KINDS
from fairline.store import nameplates, shelf
from fairline.web.frame.unit_fields import in_field, joined
from tests.support import open_up, words
from tests.web.test_pages import job_of, make_job


@pytest.mark.parametrize("kind", KINDS)
def test_every_unit_a_field_offers_is_one_it_reads(kind):
    for unit in KINDS[kind].offered:
        number = "-0.05" if kind == "needle" else "1"
        assert parse(f"{number} {unit}", kind) == parse(joined(number, unit), kind)


@pytest.mark.parametrize("system", ["us", "si"])
@pytest.mark.parametrize("kind", KINDS)
def test_a_value_in_its_field_is_the_same_value(kind, system):
    """Number and unit apart, put together again, read what the whole text reads."""
    low, high = max(KINDS[kind].minimum, 0.01), min(KINDS[kind].maximum, 40.0)
    for value in (low, (low + high) / 2, 0.9 * high):
        text = typed(value, kind, system)
        shown = in_field(text, kind, system)
        chosen = next(v for v, words in shown.units if words == shown.unit)
        again = joined(shown.text, chosen)
        assert parse(again, kind, system) == pytest.approx(parse(text, kind, system), rel=1e-9)


def test_a_bare_number_takes_the_unit_that_was_chosen_beside_it(client):
    job_id = make_job(client)
    url = f"/jobs/{job_id}/survey?part=walk"
    client.post(url, data={"snow_m": "30", "_u.snow_m": "cm", "flood_m": "2 ft", "_u.flood_m": "m"})
    survey = job_of(client, job_id).survey
    assert (survey.snow_m, survey.flood_m) == (pytest.approx(0.30), pytest.approx(0.6096))


@pytest.mark.parametrize(
    ("text", "unit", "read_m"),
    [("0,06", "", 0.06), ("60", "", 0.06), ("2.5", "in", 0.0635), ("0.5", "mm", 0.0005)],
)
def test_a_bend_radius_is_never_nought_without_a_word(client, text, unit, read_m):
    job_id = make_job(client)
    client.post("/preferences", data={"units": "si"})
    fields = {"bend_radius_m": text, "_u.bend_radius_m": unit, "_part": "system"}
    answer = client.post(f"/jobs/{job_id}/route?part=system", data=fields)
    assert answer.status_code == 200
    assert job_of(client, job_id).route.bend_radius_m == pytest.approx(read_m)


def test_a_size_that_would_print_as_nought_is_asked(client):
    job_id = make_job(client)
    client.post("/preferences", data={"units": "si"})
    answer = client.post(f"/jobs/{job_id}/survey?part=walk", data={"snow_m": "0,3"})
    assert answer.status_code == 422 and "would be 0.3 mm" in words(answer)
    assert job_of(client, job_id).survey.snow_m is None


def test_what_a_sheet_does_not_say_goes_onto_shelf_and_job_at_once(demo):
    with demo.app.state.database.session() as session:
        held = shelf.by_name(session, "Osmund Works OS-26")
        blank = held.sheet.model_copy(update={"max_lift_m": None})
        shelf.put(session, blank, held.id)
        session.commit()
    demo.post("/jobs/4/survey/newer")
    assert "does not say: maximum height difference" in words(demo.get("/jobs/4/route"))
    said = {"at": "outdoor", "stage": "route", "max_lift_m": "12 m", "cites.max_lift_m": "p. 14"}
    nothing = demo.post("/jobs/4/sheet-says", data={"at": "outdoor", "stage": "route"})
    assert nothing.status_code == 422 and "ype what the sheet says" in nothing.text
    assert demo.post("/jobs/4/sheet-says", data=said | {"at": "Q"}).status_code == 404
    assert demo.post("/jobs/4/sheet-says", data=said).status_code == 200
    with demo.app.state.database.session() as session:
        now = shelf.by_name(session, "Osmund Works OS-26")
    planned = Job.model_validate_json(demo.get("/api/jobs/4").content).equipment.outdoor
    assert now.version == held.version + 2 == planned.version
    assert planned.sheet.max_lift_m == now.sheet.max_lift_m == 12.0
    assert planned.sheet.source("max_lift_m").endswith("p. 14")


def test_a_filled_gap_takes_nothing_else_of_the_shelf_into_the_job(demo):
    with demo.app.state.database.session() as session:
        held = shelf.by_name(session, "Osmund Works OS-26")
        shelf.put(session, held.sheet.model_copy(update={"max_lift_m": None}), held.id)
        session.commit()
    demo.post("/jobs/4/survey/newer")
    with demo.app.state.database.session() as session:
        other = {"max_lift_m": None, "max_length_m": 18.0}
        shelf.put(session, held.sheet.model_copy(update=other), held.id)
        session.commit()
    said = {"at": "outdoor", "stage": "route", "max_lift_m": "12 m"}
    assert demo.post("/jobs/4/sheet-says", data=said).status_code == 200
    planned = Job.model_validate_json(demo.get("/api/jobs/4").content).equipment.outdoor
    assert (planned.sheet.max_lift_m, planned.sheet.max_length_m) == (12.0, held.sheet.max_length_m)
    assert "The shelf has version" in words(demo.get("/jobs/4/survey"))


def test_an_act_sent_twice_under_one_token_is_kept_once_at_its_own_time(demo):
    url = "/jobs/4/runs/hold/reading"
    reading = {"gauge_pa": "299 psi", "pipe_c": "68 F"}
    once = {"X-Fairline-Once": "ab" * 12, "X-Fairline-Ago": "600"}
    first = demo.post(url, data=reading, headers=once)
    again = demo.post(url, data=reading, headers=once)
    assert (first.status_code, again.status_code) == (200, 204)
    demo.post(url, data=reading, headers={"X-Fairline-Once": "cd" * 12})
    runs = job_of(demo, 4).runs
    times = [
        t
        for run in runs
        for t, g in zip(run.readings.t_s, run.readings.gauge_pa, strict=True)
        if round(g / 6894.757) == 299
    ]
    assert len(times) == 2 and times[1] - times[0] == pytest.approx(600, abs=30)


def test_an_act_that_is_not_kept_forgets_its_token(demo):
    open_up(demo, 4)
    url, once = "/jobs/4/flare/joints", {"X-Fairline-Once": "ef" * 12}
    made = {"place": "A.gas.end", "look": "good", "how": "measured", "wrench_nm": "", "by": "Ida"}
    assert demo.post(url, data=made, headers=once).status_code == 422
    assert demo.post(url, data=made | {"wrench_nm": "37 N·m"}, headers=once).status_code == 200


def test_a_look_is_nothing_preset_and_a_fault_stands_before_the_good_word(demo):
    made = {"place": "A.gas.end", "how": "measured", "wrench_nm": "37 N·m", "by": "Ida"}
    open_up(demo, 4)
    url = "/jobs/4/flare/joints"
    blank = demo.post(url, data=made | {"look": ""})
    assert blank.status_code == 422 and "say how it looks" in words(blank)
    demo.post(url, data=made | {"look": "split", "even": "yes"})
    assert job_of(demo, 4).joints[-1].look == "split"
    demo.post(url, data=made | {"look": "", "even": "yes"})
    assert job_of(demo, 4).joints[-1].look == "good"


@pytest.mark.parametrize(
    ("asked", "found", "not_found"),
    [
        ("q=cellar", "Darkroom", "Café"),
        ("q=px-35", "Café", "Bindery"),
        ("state=person", "Café", "Bindery"),
        ("state=waits", "Letterpress room", "Café"),
        ("q=100%25", "No job is like that", "Café"),
    ],
)
def test_the_board_is_searched_and_filtered(demo, asked, found, not_found):
    page = words(demo.get(f"/?{asked}"))
    assert found in page and not_found not in page


def test_an_empty_board_says_what_to_do_first_and_offers_the_yard(client):
    page = words(client.get("/"))
    assert "Put the sheets on the shelf" in page and "Begin the first job" in page
    client.post("/demo", data={})
    assert "Osmund Works" in client.get("/shelf").text and "No job yet" in client.get("/").text
    client.post("/demo", data={"jobs": "yes"})
    assert "Darkroom" in client.get("/").text
    before = client.get("/api/jobs").json()
    client.post("/demo", data={"jobs": "yes"})  # a board with jobs on it is left alone
    assert client.get("/api/jobs").json() == before


def test_moments_stand_in_the_companys_zone_on_page_and_pdf(demo):
    assert "no such time zone" in words(demo.post("/company", data={"zone": "Mars/Base"}))
    demo.post("/company", data={"name": "Ours", "zone": "America/Denver"})
    denver = made_at(demo.get("/jobs/4/flare").text)
    assert demo.get("/jobs/4/flare").text.count("Times are Denver time.") == 1
    assert demo.get("/jobs/4/record.pdf").status_code == 200
    demo.post("/company", data={"name": "Ours", "zone": "Asia/Tokyo"})
    record = demo.get("/jobs/4/record").text
    assert record.count("Times are Tokyo time.") == 1 and denver not in record
    tokyo = made_at(demo.get("/jobs/4/flare").text)
    assert tokyo in record and "UTC" not in record
    gone = datetime.fromisoformat(tokyo) - datetime.fromisoformat(denver)
    assert gone in (timedelta(hours=15), timedelta(hours=16))


def made_at(page):
    """When the first joint shown was made."""
    return re.search(r"20\d\d-\d\d-\d\d \d\d:\d\d", page).group()


def test_where_no_company_zone_is_set_the_browsers_own_is_shown(demo):
    demo.cookies.set("fairline_zone", "America%2FChicago")
    assert "Times are Chicago time." in demo.get("/jobs/4/flare").text
    demo.cookies.set("fairline_zone", "Mars%2FBase")
    assert "computer that Fair Line runs on" in demo.get("/jobs/4/flare").text


def test_a_caution_is_folded_on_the_job_where_it_was_read_and_nowhere_else(demo):
    page = demo.get("/jobs/4/pressure-test").text
    mark = re.search(r'data-mark="(4-[0-9a-f]{8})"\s+open', page).group(1)
    demo.cookies.set("fairline_read", mark)
    assert not re.search(rf'data-mark="{mark}"\s+open', demo.get("/jobs/4/pressure-test").text)
    assert re.search(r'data-mark="3-[0-9a-f]{8}"\s+open', demo.get("/jobs/3/pressure-test").text)


def test_a_nameplate_is_kept_with_its_sheet(demo):
    picture = io.BytesIO()
    Image.new("RGB", (60, 40), "grey").save(picture, "PNG")
    file = {"file": ("plate.png", picture.getvalue(), "image/png")}
    assert demo.post("/shelf/1/nameplate", files=file).status_code == 200
    bad = demo.post("/shelf/1/nameplate", files={"file": ("x.png", b"no", "image/png")})
    assert bad.status_code == 422 and "not a picture" in bad.text
    with demo.app.state.database.session() as session:
        (kept,) = nameplates.of(session, 1)
    shown = demo.get(f"/shelf/1/nameplate/{kept[0]}.jpg")
    assert shown.headers["content-type"] == "image/jpeg" and len(shown.content) > 100


@pytest.mark.parametrize(
    ("field", "only"),
    [("hole_m", "high-wall console"), ("plate_pitch", "high-wall console"), ("cool_w", None)],
)
def test_a_field_says_which_forms_of_head_have_it_on_short_and_long_form(demo, field, only):
    page = demo.get("/shelf/new/head").text
    around = re.findall(r'<div class="field[^>]*>', page[: page.index(f'name="{field}"')])[-1]
    assert re.findall(r'data-only="([^"]*)"', around) == ([only] if only else [])


def test_a_like_sheet_begins_with_all_but_the_model(demo):
    with demo.app.state.database.session() as session:
        held = shelf.by_name(session, "Osmund Works OS-26")
    page = demo.get(f"/shelf/new/outdoor?like={held.id}").text
    assert f'value="{held.sheet.maker}"' in page
    assert re.search(r'name="model"[^>]*value=""', page)


def test_a_ceiling_typed_in_the_survey_is_known_to_the_wall(client):
    client.post("/demo", data={})
    job_id = make_job(client)
    room = {"rooms.0.name": "Loft", "rooms.0.ceiling_m": "2.6 m", "heads.0.zone": "A"}
    with client.app.state.database.session() as session:
        head = next(s.sheet.name for s in shelf.sheets(session, "head") if s.sheet.on_wall)
    more = {"heads.0.room": "Loft", "heads.0.sheet": head}
    client.post(f"/jobs/{job_id}/survey?part=rooms", data=room | more)
    page = words(client.get(f"/jobs/{job_id}/mount?part=walls.A"))
    assert "Blank: the room's, 8' 6 3/8" in page.replace("&#34;", '"').replace("&#39;", "'")
