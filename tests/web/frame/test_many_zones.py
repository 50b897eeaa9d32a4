"""A job of several zones, typed once: heads, walls, boxes, nitrogen, and what a sheet lacks."""

import re

from fairline.core.alike import ALIKE
from fairline.store import jobs
from tests.support import make_joints, words

HOME_RUNS = 6


def job_of(client, job_id):
    with client.app.state.database.session() as session:
        return jobs.load(session, job_id).job


def test_a_wall_takes_over_what_is_blank_by_one_order(demo):
    url = f"/jobs/{HOME_RUNS}/mount?part=walls.B"
    assert "Blank fields as in A" in demo.get(url).text
    before = job_of(demo, HOME_RUNS).mount.walls
    demo.post(url, data={"_as": "walls.B=A", "_part": "walls.B"})
    wall = job_of(demo, HOME_RUNS).mount.walls["B"]
    for name in ALIKE["walls"]:
        own = getattr(before["B"], name)
        assert getattr(wall, name) == (getattr(before["A"], name) if own in (None, "") else own)
    assert wall.looked == before["B"].looked != before["A"].looked
    assert "Blank fields as in A" not in demo.get(url).text
    nowhere = {"_as": "things.B=A", "_part": "walls.B"}
    assert demo.post(url, data=nowhere).status_code < 400
    assert job_of(demo, HOME_RUNS).mount.walls["B"] == wall


def test_what_is_checked_together_is_kept_together_and_offered_once(demo):
    url = f"/jobs/{HOME_RUNS}/mount?part=outdoor"
    assert "four feet: checked OK" in demo.get(url).text
    page = demo.get(url).text  # a blank that is posted stands before the answers, or it would win
    assert page.index('type="hidden" name="outdoor.level"') < page.index('id="f-outdoor.level-1"')
    both = {"_put": "outdoor.level=yes;outdoor.anchored=yes", "_part": "outdoor"}
    demo.post(url, data=both | {"outdoor.level": "", "outdoor.anchored": ""})
    outdoor = job_of(demo, HOME_RUNS).mount.outdoor
    assert (outdoor.level, outdoor.anchored) == ("yes", "yes")
    assert "four feet: checked OK" not in demo.get(url).text


def test_a_new_head_is_planned_with_the_sheet_of_the_one_above(client):
    made = client.post(
        "/jobs/new", data={"name": "Kestrel Yard, two rooms"}, follow_redirects=False
    )
    job_id = int(re.search(r"/jobs/(\d+)", made.headers["location"]).group(1))
    first = {"heads.0.zone": "A", "heads.0.form": "console", "_add": "heads"}
    client.post(f"/jobs/{job_id}/survey?part=rooms", data=first | {"_part": "rooms"})
    assert [(h.zone, h.form) for h in job_of(client, job_id).survey.heads] == [
        ("A", "console"),
        ("B", "console"),
    ]


def test_the_first_nitrogen_reading_is_kept_with_its_ports(demo):
    """Of a copy of the three home runs with nothing done on it yet."""
    job = demo.get(f"/api/jobs/{HOME_RUNS}").json()
    job |= {"uid": "one-more-of-home-runs", "records": [], "runs": [], "since": [], "subjects": {}}
    made = demo.post("/api/jobs", json=job).json()["id"]
    make_joints(demo, made)
    reading = {"gauge_pa": "300 psi", "pipe_c": "68 F", "_ports": "yes", "ports": ["A", "C"]}
    url = f"/jobs/{made}/runs/hold/reading"
    assert demo.post(url, data=reading, follow_redirects=False).status_code == 303
    after = job_of(demo, made)
    assert len(after.holds[-1].readings) == 1
    assert [r.open for r in after.records if r.kind == "ports"] == [("A", "C")]


def test_what_a_sheet_lacks_is_mended_on_the_sheet(demo):
    job = demo.get("/api/jobs/1").json()
    job["uid"] = "one-more-with-a-silent-sheet"
    job["equipment"]["outdoor"]["sheet"]["mca_a"] = None
    made = demo.post("/api/jobs", json=job).json()["id"]
    page = demo.get(f"/jobs/{made}/wire").text
    named = 'href="#at-sheet-outdoor"'
    assert 'id="at-sheet-outdoor"' in page and page.count(named) == 2  # plate and bar


def test_a_sealed_job_offers_its_record_and_no_button_that_keeps(demo):
    done = {"by": "Ida", "reason": "the owner moves in"}
    demo.post("/jobs/3/hand-over/done", data=done)
    page = demo.get("/jobs/3/mount").text
    assert 'class="on-line sealed"' in page and "Sealed" in words(demo.get("/jobs/3/mount"))
    assert re.search(r'<form[^>]*class="entry"[^>]*data-sealed', page)
    dock = page[page.index('id="dock"') :]
    assert 'href="/jobs/3/record">The record' in dock
    over = demo.get("/jobs/3/hand-over").text
    assert re.search(r'<form method="post" action="[^"]*/hand-over/open', over)


def test_a_sheet_that_is_kept_says_so_and_leads_on(client):
    sheet = {"kind": "head", "maker": "Loom Works", "model": "W-9", "form": "high-wall"}
    kept = client.post("/shelf/new/head", data=sheet | {"cool_w": "9000"})
    told = words(kept)
    assert "Kept as version 1" in told
    assert told.index("Sheet of an outdoor unit") < told.index("Rated cooling")


def pressed(client, url, words_of_it):
    """Press the button of an order whose words hold these; what its page then says."""
    page = client.get(url).text
    button = re.search(rf'name="(_\w+)"\s+value="([^"]+)"[^>]*>\s*[^<]*{words_of_it}', page)
    blanks = dict.fromkeys(re.findall(r'type="hidden" name="([a-z]+\.[^"]+)" value=""', page), "")
    part = url.partition("part=")[2]
    done = {button[1]: button[2].replace("&#39;", "'"), "_part": part}
    return client.post(url, data=blanks | done).text


def test_a_head_for_each_room_and_a_row_for_the_next_one(client):
    made = client.post("/jobs/new", data={"name": "Kestrel Yard"}, follow_redirects=False)
    job_id = int(re.search(r"/jobs/(\d+)", made.headers["location"]).group(1))
    url = f"/jobs/{job_id}/survey?part=rooms"
    rooms = {f"rooms.{n}.name": name for n, name in enumerate(("Loft", "Study", "Bed"))}
    assert "rooms.1.name" not in client.get(url).text
    page = client.post(url, data=rooms | {"_part": "rooms"}).text
    assert 'name="rooms.3.name"' in page and "rooms.3.exposure" not in page
    client.post(url, data=rooms | {"_part": "rooms", "_add": "heads*"})
    survey = job_of(client, job_id).survey
    assert [(h.zone, h.room) for h in survey.heads] == [("A", "Loft"), ("B", "Study"), ("C", "Bed")]
    assert len(survey.rooms) == 3  # the row that waits is none
    client.post(url, data=rooms | {"_part": "rooms", "_add": "heads*"})
    assert len(job_of(client, job_id).survey.heads) == 3
    assert "A head for each" not in client.get(url).text


def test_all_boxes_and_all_drains_are_said_at_once(demo):
    job = demo.get(f"/api/jobs/{HOME_RUNS}").json()
    job |= {"uid": "home-runs-with-nothing-looked-at"}
    job["survey"]["boxes"] = {}
    for drain in job["route"]["drains"].values():
        drain |= {"reach": None, "insulated": None, "bore_m": None}
    job["route"]["drains"]["A"]["bore_m"] = 0.0191
    made = demo.post("/api/jobs", json=job).json()["id"]
    pressed(demo, f"/jobs/{made}/survey?part=boxes", "All 4 boxes")
    boxes = job_of(demo, made).survey.boxes
    assert {(b.damage, b.codes_belong) for b in boxes.values()} == {("none", "yes")}
    assert [name for name, b in boxes.items() if not b.hiss] == ["outdoor"]
    drains = f"/jobs/{made}/route?part=drains"
    pressed(demo, drains, "B, C: blank fields as in A")
    assert {d.bore_m for d in job_of(demo, made).route.drains.values()} == {0.0191}
    page = pressed(demo, drains, "indoors: all checked OK")
    kept = job_of(demo, made).route.drains.values()
    assert {(d.reach, d.insulated) for d in kept if d.parts} == {("yes", "yes")}
    assert "all checked OK" not in page
