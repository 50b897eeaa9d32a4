"""Two people on one stage: what each changed is kept, or told; each takes back only her own."""

import html
import re

from fairline.core.job import Job


def job_of(client, job_id):
    return Job.model_validate_json(client.get(f"/api/jobs/{job_id}").content)


def begun(client):
    made = client.post("/jobs/new", data={"name": "Kestrel Yard, two hands"})
    return int(str(made.url).split("/jobs/")[1].split("/")[0])


ROOM = {"rooms.0.name": "Loft", "rooms.0.area_m2": "20 m2", "rooms.0.load_w": "2000 W"}
BASE = {**ROOM, "access": "", "notes": ""}


def opened(client, url, of="a"):
    """A form as a page has it: who opened it, in which version."""
    page = client.get(url).text
    version = re.search(r'name="_version" value="(\d+)"', page).group(1)
    return {"_editor": f"{client.cookies.get('fairline_hand', '')}.{of}", "_version": version}


def test_different_fields_are_both_kept_and_the_same_is_to_be_chosen(client):
    url = f"/jobs/{begun(client)}/survey"
    job_id = int(url.split("/")[2])
    client.post(url, data=ROOM)
    jo, ann = opened(client, url, "jo"), opened(client, url, "ann")
    client.cookies.set("fairline_person", "Jo")
    assert client.post(url, data=ROOM | jo | {"rooms.0.area_m2": "24 m2"}).status_code == 200
    client.cookies.set("fairline_person", "Ann")
    kept = client.post(url, data=ROOM | ann | {"rooms.0.load_w": "2500 W"})
    assert kept.status_code == 200
    room = job_of(client, job_id).survey.rooms[0]
    assert (room.area_m2, room.load_w) == (24.0, 2500.0)

    # The same field: told with both values; all else is kept; nothing is lost on the page.
    jo, ann = opened(client, url, "jo"), opened(client, url, "ann")
    now = ROOM | {"rooms.0.area_m2": "24 m2", "rooms.0.load_w": "2500 W"}
    client.cookies.set("fairline_person", "Jo")
    client.post(url, data=now | jo | {"rooms.0.load_w": "2600 W"})
    client.cookies.set("fairline_person", "Ann")
    wanted = now | ann | {"rooms.0.load_w": "2700 W", "notes": "two doors"}
    told = client.post(url, data=wanted)
    assert told.status_code == 409
    words = html.unescape(told.text)
    assert (
        "Jo put" in words
        and re.search(r'load_w"[^>]*value="2700"', words)
        and "Choose whose it is" in words
    )
    job = job_of(client, job_id)
    assert job.survey.rooms[0].load_w == 2600.0 and job.survey.notes == "two doors"
    # Typing on does not overrule anybody: it is told again until somebody chooses.
    again = client.post(url, data=wanted | {"_turn": "2", "notes": "two doors, one narrow"})
    assert again.status_code == 409
    assert job_of(client, job_id).survey.rooms[0].load_w == 2600.0
    choice = re.search(r'value="(mine:\d+:rooms\.0\.load_w)"', again.text).group(1)
    final = wanted | {"_turn": "3", "notes": "two doors, one narrow", "_settle": choice}
    assert client.post(url, data=final).status_code == 200
    job = job_of(client, job_id)
    assert job.survey.rooms[0].load_w == 2700.0 and job.survey.notes == "two doors, one narrow"


def test_an_edit_of_a_row_never_lands_in_another_that_took_its_place(client):
    url = f"/jobs/{begun(client)}/survey"
    job_id = int(url.split("/")[2])
    alike = {"area_m2": "20 m2", "load_w": "2000 W"}
    rooms = {
        f"rooms.{n}.{key}": value
        for n, name in enumerate(("Loft", "Den", "Hall"))
        for key, value in ({"name": name} | alike).items()
    }
    client.post(url, data=rooms)
    jo, ann = opened(client, url, "jo"), opened(client, url, "ann")
    assert client.post(url, data=rooms | jo | {"_remove": "rooms.0"}).status_code == 200
    asked = client.post(url, data=rooms | ann | {"rooms.1.load_w": "2500 W"})
    assert asked.status_code == 409
    loads = {room.name: room.load_w for room in job_of(client, job_id).survey.rooms}
    assert loads == {"Den": 2000.0, "Hall": 2000.0}  # the third row is not Ann's


def test_taking_theirs_and_a_choice_that_was_overtaken(client):
    job_id = begun(client)
    url = f"/jobs/{job_id}/survey"
    client.post(url, data=ROOM)
    jo, ann, sam = (opened(client, url, who) for who in ("jo", "ann", "sam"))
    client.post(url, data=ROOM | jo | {"rooms.0.load_w": "2600 W"})
    wanted = ROOM | ann | {"rooms.0.load_w": "2700 W"}
    told = client.post(url, data=wanted).text
    mine, theirs = (
        re.search(rf'value="({side}:\d+:rooms\.0\.load_w)"', told).group(1)
        for side in ("mine", "theirs")
    )
    late = opened(client, url, "late")
    client.post(url, data=ROOM | late | {"rooms.0.load_w": "2800 W"})
    assert client.post(url, data=wanted | {"_settle": mine}).status_code == 409
    assert client.post(url, data=wanted | {"_settle": theirs}).status_code == 200
    assert job_of(client, job_id).survey.rooms[0].load_w == 2800.0
    # A row added by one while another types: both; a row taken out of other rows: look again.
    client.post(url, data=ROOM | sam | {"rooms.1.name": "Shed"})
    assert len(job_of(client, job_id).survey.rooms) == 2
    old = {"_editor": "x.y", "_version": sam["_version"], "_remove": "rooms.0"}
    assert "look again" in client.post(url, data=ROOM | old).text
    assert len(job_of(client, job_id).survey.rooms) == 2


def test_an_edit_is_taken_back_and_done_again_across_reloads(client):
    job_id = begun(client)
    url = f"/jobs/{job_id}/survey"
    client.get(url)
    assert client.cookies.get("fairline_hand")
    assert "Taken back" not in client.post(f"{url}/undo", headers={"hx-request": "true"}).text
    first = opened(client, url, "one")
    client.post(url, data=ROOM | first)
    client.post(url, data=ROOM | first | {"_turn": "1", "_remove": "rooms.0"})
    assert job_of(client, job_id).survey.rooms == ()
    page = client.get(url).text
    assert 'id="undo"' in page and 'id="redo"' not in page
    told = client.post(f"{url}/undo", headers={"hx-request": "true"}).text
    assert "Taken back: rooms" in told
    assert job_of(client, job_id).survey.rooms[0].name == "Loft"
    assert 'id="redo"' in client.get(url).text
    client.post(f"{url}/redo")
    assert job_of(client, job_id).survey.rooms == ()
    client.post(f"{url}/undo")
    assert job_of(client, job_id).survey.rooms[0].name == "Loft"  # what was done again stands
    client.post(f"{url}/undo")
    assert job_of(client, job_id).survey.rooms == () and 'id="undo"' not in client.get(url).text


def test_nobody_elses_edit_is_taken_back(client):
    job_id = begun(client)
    url = f"/jobs/{job_id}/survey"
    client.get(url)
    hand = client.cookies.get("fairline_hand")
    client.post(url, data=ROOM | {"_editor": f"{hand}.one", "_version": "0"})
    theirs = {"_editor": "0123456789abcdef.two", "_version": "1"}
    client.post(url, data=ROOM | theirs | {"rooms.0.area_m2": "30 m2", "notes": "theirs"})
    told = client.post(f"{url}/undo", headers={"hx-request": "true"}).text
    assert "Taken back: nothing. Changed by somebody since, and left: rooms" in html.unescape(told)
    survey = job_of(client, job_id).survey
    assert survey.notes == "theirs" and survey.rooms[0].area_m2 == 30.0
    client.post(f"{url}/undo")
    assert job_of(client, job_id).survey == survey


def test_what_was_left_is_not_said_to_be_taken_back(client):
    job_id = begun(client)
    url = f"/jobs/{job_id}/survey"
    client.get(url)
    hand = client.cookies.get("fairline_hand")
    client.post(url, data=ROOM | {"_editor": "0123456789abcdef.two", "_version": "0"})
    mine = ROOM | {"rooms.0.load_w": "2600 W", "notes": "mine"}
    client.post(url, data=mine | {"_editor": f"{hand}.one", "_version": "1"})
    theirs = {"_editor": "0123456789abcdef.two", "_version": "2", "notes": "theirs"}
    client.post(url, data=mine | theirs)
    told = html.unescape(client.post(f"{url}/undo", headers={"hx-request": "true"}).text)
    assert "Taken back: rooms 1 load. Changed by somebody since, and left: notes." in told
    survey = job_of(client, job_id).survey
    assert (survey.notes, survey.rooms[0].load_w) == ("theirs", 2000.0)


def test_typing_on_is_one_edit_and_an_order_is_taken_back_on_all_stages(demo):
    url = "/jobs/5/charge"
    demo.get(url)
    one = opened(demo, url, "one")
    for turn, text in enumerate(("t", "tw", "two")):
        demo.post(url, data=one | {"notes": text, "_turn": str(turn)})
    demo.post(f"{url}/undo")
    assert job_of(demo, 5).charge.notes == ""
    before = job_of(demo, 5)
    demo.post("/jobs/5/route/heads", data={"form": "high-wall"})
    assert len(job_of(demo, 5).survey.heads) == len(before.survey.heads) + 1
    demo.post("/jobs/5/route/undo")
    after = job_of(demo, 5)
    assert after.survey == before.survey and after.route == before.route
    assert after.equipment == before.equipment


def test_a_head_whose_adding_is_taken_back_leaves_no_run_behind(demo):
    """The rule holds however a head goes: its run, laid out since, goes with it."""
    url = "/jobs/5/survey"
    demo.get(url)
    before = job_of(demo, 5)
    sheet = before.survey.heads[0].sheet
    shown = {"heads.0.zone": "A", "heads.0.sheet": sheet, "heads.1.zone": "B"}
    shown |= {"heads.1.form": "console"}
    demo.post(url, data=opened(demo, url, "one") | shown)
    demo.post("/jobs/5/route", data={"runs.B.fed_from": "outdoor", "runs.B.built_m": "3 m"})
    assert "B" in job_of(demo, 5).route.runs
    demo.post(f"{url}/undo")
    after = job_of(demo, 5)
    assert [h.zone for h in after.survey.heads] == ["A"] and "B" not in after.route.runs
    demo.post(f"{url}/redo")
    assert [h.zone for h in job_of(demo, 5).survey.heads] == ["A", "B"]
