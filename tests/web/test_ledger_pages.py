"""Flare, pressure test and the pump's gate as plain forms use them."""

import io
import re
import zipfile

import pytest
from PIL import ExifTags, Image
from pypdf import PdfReader

from fairline.core.line import judge
from fairline.core.practice import Practice
from fairline.store import archive, jobs
from tests.support import ago, make_joints, words

KIT = 9
FLARE = f"/jobs/{KIT}/flare/joints"


def job_of(client, job_id=KIT):
    with client.app.state.database.session() as session:
        return jobs.load(session, job_id).job


def cut_tube(client, job_id=KIT):
    """Takes the charged kit off the run: then nitrogen and pump are asked for as anywhere."""
    client.post(f"/jobs/{job_id}/route?part=runs.A", data={"runs.A.kit": ""})
    make_joints(client, job_id)


def heading(page):
    return re.search(r"<h3>([^<]*)<small>", page).group(1)


def made(place, **more):
    fields = {"place": place, "look": "good", "how": "measured", "by": "Ida", "wrench_nm": "37 N·m"}
    return fields | more


def test_a_good_joint_leads_on_to_the_next_and_a_bad_one_stays(demo):
    page = demo.post(FLARE, data=made("A.gas.end"))
    assert "joint=A.liquid.end" in str(page.url)
    assert heading(page.text) == "Liquid, at the head A"
    split = demo.post(FLARE, data=made("A.liquid.end", look="split", wrench_nm="16 N·m"))
    assert "joint=A.liquid.end" in str(split.url)
    assert "a charged line is never cut" in split.text  # what to do about that fault of a kit
    assert "1 of 4 hold" in split.text
    strange = demo.post(FLARE, data=made("Q.gas.end"))
    assert strange.status_code == 422 and "no such joint" in strange.text
    assert len(job_of(demo).joints) == 2
    for place in ("A.gas.end", "A.liquid.start"):  # not the one that would be next
        bad = demo.post(FLARE, data=made(place, wrench_nm="tight"))
        assert bad.status_code == 422 and "“tight” is not understood" in bad.text
        assert f'id="f-wrench_nm-{place}"' in bad.text


def test_a_bare_number_is_in_the_wrenchs_own_unit(demo):
    demo.post(f"/jobs/{KIT}/flare", data={"reads": "lbf·in"})
    demo.post(FLARE, data=made("A.gas.end", wrench_nm="330"))
    assert job_of(demo).joints[0].applied_nm == pytest.approx(330 * 0.112984829, rel=1e-6)
    demo.post(FLARE, data=made("A.gas.end", wrench_nm="27.5 lbf·ft"))
    assert job_of(demo).joints[1].applied_nm == pytest.approx(27.5 * 1.3558179483, rel=1e-6)
    card = demo.get(f"/jobs/{KIT}/torque-card").text
    assert card.count("lbf·in") == 5 and "EN 378-2" in card and "OS-26, p. 17" in card


def test_the_cards_setting_follows_statics(demo):
    """T·L/(L + E): 37.5 N·m with 0.25 m and 50 mm in line is 31.25 N·m."""
    demo.post("/preferences", data={"units": "si"})
    demo.post(f"/jobs/{KIT}/flare", data={"wrench_m": "250 mm", "adapter_m": "50 mm"})
    card = demo.get(f"/jobs/{KIT}/torque-card").text
    row = next(r for r in card.split("<tr>") if "9.52" in r)
    assert "31.2 N·m" in row and "12.8 to 13.2 mm" in row


def test_sheet_and_standard_are_told_apart_once(demo):
    page = demo.get("/jobs/2/flare").text  # this sheet is silent: nothing to tell
    assert "differs from EN 378-2" not in page
    sheet = demo.get("/shelf/1").text
    assert "Osmund Works" in sheet
    own = demo.get(f"/jobs/{KIT}/flare").text
    assert own.count("Where the sheet differs") <= 1


def test_the_simulated_wrench_fills_the_form_and_records_nothing(demo):
    at = {"place": "A.gas.end", "by": "Tomas"}
    assert "set the wrench first" in demo.post(f"/jobs/{KIT}/flare/wrench", data=at).text
    page = demo.post(f"/jobs/{KIT}/flare/wrench", data=at | {"set_nm": "35 N·m"})
    assert re.search(r'name="wrench_nm"[^>]*value="3\d\.\d\d"', page.text)
    assert 'value="Tomas"' in page.text and job_of(demo).joints == ()
    assert demo.post(f"/jobs/{KIT}/flare/wrench", data={"place": "Q"}).status_code == 404


# --- pressure test and pump --------------------------------------------------------------------


def read(client, gauge, after, done_ago=0):
    data = {"gauge_pa": gauge, "pipe_c": "68 F", "after_s": after}
    return client.post(f"/jobs/{KIT}/runs/hold/reading", data=data, headers=ago(done_ago))


def test_a_look_is_kept_with_its_time_or_refused_beside_the_joint(demo):
    cut_tube(demo)
    read(demo, "300 psi", "0 min", 3600)
    page = read(demo, "280 psi", "60 min").text
    assert page.count('class="suspect ') == 4 and "g of R-32 a year" in page
    url = f"/jobs/{KIT}/pressure-test/checks"
    look = {"joint": "A.gas.end", "method": "bubbles", "found": "clean", "by": "Ida"}
    assert demo.post(url, data=look | {"watched_s": "a while"}).status_code == 422
    assert demo.post(url, data=look | {"found": "perhaps"}).status_code == 422
    demo.post(url, data=look | {"watched_s": "150 s"})
    assert [(c.joint, c.watched_s) for c in job_of(demo).leak_checks] == [("A.gas.end", 150.0)]


def test_the_pump_stays_off_until_the_test_holds_or_somebody_answers(demo):
    cut_tube(demo)
    at = f"/jobs/{KIT}"
    for path, data in (
        ("runs/pull/begin", {}),
        ("runs/pull/reading", {"pa": "900"}),
        ("bench/micron", {"scenario": "sound", "speed": "1"}),
    ):
        refused = demo.post(f"{at}/{path}", data=data)
        assert refused.status_code == 422 and "does not hold yet" in refused.text
    assert job_of(demo).runs == ()
    url = f"/jobs/{KIT}/evacuate/override"
    assert demo.post(url, data={"by": "Ida", "reason": ""}).status_code == 422
    demo.post(url, data={"by": "Ida", "reason": "held at the works"})
    assert demo.post(f"/jobs/{KIT}/runs/pull/begin").status_code == 200
    page = demo.get(f"/jobs/{KIT}/evacuate").text
    assert "override of Ida: held at the works" in page
    found = {c.label: c.call for c in judge(job_of(demo), Practice())["evacuate"].checks}
    assert "By name of Ida: held at the works" in found["Order of work"].because  # it stays said


def test_a_simulated_gauge_begins_a_new_hold_and_the_old_one_stays(demo):
    cut_tube(demo)
    read(demo, "300 psi", "0 min")
    url = f"/jobs/{KIT}/bench/manometer"
    demo.post(url, data={"scenario": "stormy", "speed": "60"})
    assert len(job_of(demo).runs) == 1
    assert (
        "The simulated digital gauge is on"
        in demo.post(url, data={"scenario": "sound", "speed": "3600"}).text
    )
    assert "Fill and connect" in demo.post(f"{url}/off").text
    assert [r.kind for r in job_of(demo).runs] == ["hold", "hold"]


def camera_file(kind="JPEG", size=(3000, 1000)):
    """A picture lying on its side, with a camera's notes of maker and place."""
    image = Image.new("RGB", size, (184, 115, 51))
    notes = Image.Exif()
    notes[ExifTags.Base.Orientation] = 6
    notes[ExifTags.Base.Make] = "SECRETCAMERA"
    notes.get_ifd(ExifTags.IFD.GPSInfo)[ExifTags.GPS.GPSMapDatum] = "SECRETPLACE"
    out = io.BytesIO()
    image.save(out, kind, exif=notes)
    return out.getvalue()


def add_picture(client, content, place="A.gas.end"):
    files = {"file": ("joint.jpg", content, "image/jpeg")}
    data = {"thing": f"joint:{place}", "_back": f"/jobs/{KIT}/flare"}
    return client.post(f"/jobs/{KIT}/pictures", data=data, files=files)


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_a_picture_stands_upright_without_the_cameras_notes_and_goes_along(demo, kind):
    raw = camera_file(kind)
    assert b"SECRETCAMERA" in raw and b"SECRETPLACE" in raw
    page = add_picture(demo, raw)
    (url,) = set(re.findall(rf'src="(/jobs/{KIT}/pictures/[0-9a-f]{{64}}\.jpg)"', page.text))
    kept = demo.get(url)
    assert kept.headers["content-type"] == "image/jpeg" and b"SECRET" not in kept.content
    with Image.open(io.BytesIO(kept.content)) as shown:
        assert shown.size == (533, 1600) and not shown.getexif()  # turned, and small enough
    assert url in demo.get(f"/jobs/{KIT}/record").text
    drawn = PdfReader(io.BytesIO(demo.get(f"/jobs/{KIT}/record.pdf").content)).pages
    assert sum(len(p.images) for p in drawn) == 1

    packed = demo.get(f"/jobs/{KIT}/job.zip").content
    files = {"file": ("job.zip", packed, "application/zip")}
    copy = demo.post("/jobs/import", data={"as_copy": "true"}, files=files)
    number = re.search(r"/jobs/(\d+)/", str(copy.url)).group(1)
    assert demo.get(url.replace(f"/jobs/{KIT}/", f"/jobs/{number}/")).content == kept.content
    assert job_of(demo, int(number)).records == job_of(demo).records

    out = demo.post(url.replace(".jpg", "/out"))
    assert "it is not kept here" in out.text and demo.get(url).status_code == 404
    assert len(job_of(demo).pictures) == 1  # that one was taken stays


@pytest.mark.parametrize(
    "content",
    [
        b"",
        b"<svg onload='x'/>",
        b"GIF89a" + b"0" * 40,
        camera_file()[:900],
        b"\xff\xd8" + b"\0" * 99,
    ],
)
def test_what_is_no_picture_is_told_beside_it_and_not_kept(demo, content):
    refused = add_picture(demo, content)
    assert refused.status_code == 422 and 'id="picture-error"' in refused.text
    assert job_of(demo).pictures == ()
    assert add_picture(demo, camera_file(), "Q.gas.end").status_code == 404


def test_a_zip_that_is_no_job_is_refused(client):
    def packed(**files):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
            for name, content in files.items():
                made.writestr(name.replace("_", "."), content)
        return out.getvalue()

    for content, told in (
        (packed(other="x"), "no job.json"),
        (packed(job_json="{}"), "Not a job file"),
        (packed(job_json=b"\0" * 100 * 2**20), "more in it"),
        (b"PK\x03\x04" + b"x" * 50, "damaged"),
        (packed(job_json="{}")[:40], "damaged"),
    ):
        answer = client.post("/jobs/import", files={"file": ("j.zip", content, "application/zip")})
        assert answer.status_code == 422 and told in answer.text, told
    assert client.get("/api/jobs").json() == []


def test_a_byte_that_was_flipped_in_a_zip_is_told_or_does_no_harm(demo):
    whole = demo.get("/jobs/1/job.zip").content
    assert whole[:4] == archive.SIGNATURE
    kept = archive.read(whole)
    for at in range(0, len(whole), max(1, len(whole) // 200)):
        broken = bytearray(whole)
        broken[at] ^= 0x55
        try:
            read = archive.read(bytes(broken))
        except archive.ArchiveError:
            continue
        assert read[0] == kept[0], at  # it lay where nothing of the job does


def test_a_log_in_which_nitrogen_was_let_in_shows_two_holds_and_each_step(demo):
    """Up in steps on one gauge: each stop has its own hold, and the last one is the test."""
    cut_tube(demo)
    run = demo.post(f"/api/jobs/{KIT}/runs/hold", headers=ago(4000)).json()["run"]
    psi = [75] * 20 + [220] * 20 + [302] * 90  # a reading every half minute
    readings = [
        {
            "instrument": "gauge",
            "seq": i,
            "t_s": i * 30.0,
            "gauge_pa": p * 6894.757,
            "pipe_c": 20.0,
            "probe": "shaded",
        }
        for i, p in enumerate(psi)
    ]
    demo.post(f"/api/jobs/{KIT}/runs/{run}/readings", json=readings)
    page = words(demo.get(f"/jobs/{KIT}/pressure-test"))
    assert "nitrogen was <b>let in</b>, 82.0 psi" in page and "2 earlier holds" in page
    assert page.count("The pressure stood still") == 2  # the stops lost nothing while they lasted
    assert re.findall(r'<li class="verdict-(\w+)">.*?<b>[\d.]+ psig</b>', page)[:3] == [
        "holds",
        "holds",
        "wait",
    ]
    assert "selected>on the pipe, in the shade" in page  # where the probe was last
    assert demo.get(f"/jobs/{KIT}/runs/{run}.csv").text.count("shaded") == len(psi)  # all of it
