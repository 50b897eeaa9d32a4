"""Hand over's papers: labels read back, dates as a calendar, what is shown of a seal."""

import re
from datetime import date
from io import BytesIO

import pytest
import zxingcpp
from icalendar import Calendar
from PIL import Image
from pypdf import PdfReader

from fairline.core.stages import TITLES
from fairline.web.hand_over.labels import matrix
from fairline.web.record.vector import ANCHORS, LOOKS, OUT
from tests.pictures import jpeg

STAGE_NAMES = list(TITLES)


def drawn(rows, scale=4, quiet=4):
    """A code as a picture, as a printer lays it down."""
    side = len(rows) + 2 * quiet
    image = Image.new("L", (side, side), 255)
    for y, row in enumerate(rows):
        for x, dark in enumerate(row):
            image.putpixel((x + quiet, y + quiet), 0 if dark else 255)
    return image.resize((side * scale, side * scale), Image.NEAREST)


@pytest.mark.parametrize(
    "text",
    ["Bindery: Outdoor unit\nR-32\n29' 9\"", "Hof 3: Leitung Ä · 9,07 m", "x" * 900],
)
def test_what_is_on_a_label_is_read_back_by_a_decoder(text):
    (found,) = zxingcpp.read_barcodes(drawn(matrix(text)))
    assert found.text == text


def test_every_label_of_the_largest_job_is_read_back(demo):
    """Each code of job 8's page, as SVG, holds the words beside it and no address."""
    page = demo.get("/jobs/8/labels").text
    assert page.count("<figure>") >= 12 and "http" not in page.split("label-sheet")[1]
    pdf = PdfReader(BytesIO(demo.get("/jobs/8/labels.pdf?paper=roll").content))
    assert len(pdf.pages) > page.count("<figure>")  # lines and cables have one an end
    assert "PRACTICE" in pdf.pages[0].extract_text()
    svg = demo.get("/jobs/8/labels/outdoor.svg")
    assert svg.headers["content-type"] == "image/svg+xml" and "Outdoor unit" in svg.text
    assert demo.get("/jobs/8/labels/none.svg").status_code == 404


@pytest.mark.parametrize(
    ("paper", "size"), [("a4", (595, 842)), ("letter", (612, 792)), ("roll", (283, 176))]
)
def test_labels_come_on_three_papers(demo, paper, size):
    pdf = PdfReader(BytesIO(demo.get(f"/jobs/1/labels.pdf?paper={paper}").content))
    box = pdf.pages[0].mediabox
    assert (round(box.width), round(box.height)) == size
    assert demo.get("/jobs/1/labels.pdf?paper=a5").status_code == 422


SIGNED = "20,20 40,80 90,30;120,60 140,60"


def finish(client, job=1, **more):
    """Hand the job over, as its page does; the answer."""
    said = {"by": "Ida", "reason": "as agreed", "signed": SIGNED, "to_signed": "5,5 9,9"} | more
    return client.post(f"/jobs/{job}/hand-over/done", data=said)


def post(client, path, **said):
    answer = client.post(f"/jobs/1/hand-over/{path}", data=said, follow_redirects=False)
    assert answer.status_code == 303, answer.text
    return client.get("/jobs/1/hand-over").text


def test_a_job_is_sealed_and_only_added_to(demo):
    """Signed, sealed; words, a visit and a question go in; an entry does not; the seal holds."""
    page = finish(demo).text
    assert "Sealed, digest" in page and page.count('class="signed"') == 2
    assert "Handed over" in page and "only licensed" not in page
    assert demo.post("/jobs/1/flare", data={"wrench_m": "9 in"}).status_code == 409
    assert finish(demo).status_code == 409
    assert "The key lies with the keeper" in post(
        demo, "additions", words="The key lies with the keeper", by="Ida"
    )
    page = post(demo, "visits", what="leak", on="2027-02-01", note="hiss", by="Ida")
    assert "Leak: hiss" in page and "2027-02-01" in page
    post(demo, "questions", words="Is 40 ft allowed?", asked_of="the maker", by="Ida")
    seal = demo.get("/jobs/1/seal").text
    assert "Intact" in seal and "Since the seal" in seal
    packed = demo.get("/jobs/1/job.zip").content
    found = demo.post("/verify", files={"file": ("job.zip", packed)}).text
    assert "Intact" in found and "sealed" in found


@pytest.mark.parametrize("drawn", ["yes", "1,2 3,4;", "2027-05-31", "1,2;;", "9" * 50])
def test_a_signature_that_is_none_comes_back_as_an_error(demo, drawn):
    answer = finish(demo, signed=drawn)
    assert answer.status_code == 422 and "field-error" in answer.text


def test_a_visit_is_made_or_the_job_is_opened_for_it(demo):
    finish(demo)
    page = post(
        demo, "visits", what="later-head", on="2027-02-01", by="Ida", **{"stages[]": "mount"}
    )
    (visit,) = set(re.findall(r"visits/([0-9a-f]{12})/done", page))
    unnamed = demo.post(f"/jobs/1/hand-over/visits/{visit}/begin", data={"by": ""})
    assert unnamed.status_code == 422 and unnamed.text.count("field-error") == 1
    begun = demo.post(f"/jobs/1/hand-over/visits/{visit}/begin", data={"by": "Mo"})
    assert str(begun.url).endswith("/mount")
    assert "Visit: A head added" in demo.get("/jobs/1/record").text
    page = post(demo, f"visits/{visit}/done", found="Head C hangs", by="Mo")
    assert "Head C hangs" in page and f"{visit}/done" not in page
    again = demo.post(f"/jobs/1/hand-over/visits/{visit}/done", data={"found": "x", "by": "Mo"})
    assert again.status_code == 404
    assert "Sealed, digest" in finish(demo).text  # a second seal, on the first one's chain
    assert "Intact" in demo.get("/jobs/1/seal").text


def test_what_is_open_is_put_on_a_visit_or_accepted_with_its_reason(demo):
    short = demo.post("/jobs/5/hand-over/done", data={"by": "Ida"})
    assert short.status_code == 422 and "say why, with this left open" in short.text
    named = re.search(r"left open: ([^<]*)", short.text)[1].split(", ")
    stages = [n for n in STAGE_NAMES if TITLES[n] in named]
    no_day = demo.post("/jobs/5/hand-over/done", data={"by": "Ida", "visit_stages[]": stages})
    assert no_day.status_code == 422 and "the day of the visit" in no_day.text
    done = demo.post(
        "/jobs/5/hand-over/done",
        data={"by": "Ida", "visit_stages[]": stages, "visit_on": "2027-03-01"},
    )
    assert done.status_code == 200 and "What was left open" in done.text
    board = demo.get("/").text
    assert "visit 2027-03-01" in board


def test_a_question_is_answered_by_name_with_the_limit_it_changes(demo):
    page = post(demo, "questions", words="Is 40 ft allowed?", asked_of="the maker", by="Ida")
    (question,) = set(re.findall(r"questions/([0-9a-f]{12})/answer", page))
    page = post(
        demo,
        f"questions/{question}/answer",
        words="Up to 50 ft",
        given_by="their technician",
        limit="most length",
        changes_to="50 ft",
        by="Ida",
    )
    assert "Up to 50 ft" in page and "most length: 50 ft" in page
    assert demo.post("/jobs/1/hand-over/questions/none/answer", data={}).status_code == 404
    blank = demo.post("/jobs/1/hand-over/questions", data={"words": "", "by": "Ida"})
    assert blank.status_code == 422


@pytest.mark.parametrize("path", ["additions", "visits", "questions"])
def test_bad_input_of_what_is_added_comes_back_beside_its_field(demo, path):
    answer = demo.post(f"/jobs/1/hand-over/{path}", data={"by": "Ida", "on": "soon"})
    assert answer.status_code == 422 and "field-error" in answer.text


def test_dates_for_a_calendar_are_days_of_the_visits(demo):
    post(demo, "visits", what="season", on="2027-05-31", note="filters", by="Ida")
    made = Calendar.from_ical(demo.get("/jobs/1/visits.ics").content)
    (event,) = made.walk("VEVENT")
    assert event["dtstart"].dt == date(2027, 5, 31) and "filters" in str(event["summary"])
    finish(demo)
    made = Calendar.from_ical(demo.get("/jobs/1/visits.ics").content)
    assert [e["rrule"]["freq"] for e in made.walk("VEVENT") if "rrule" in e] == [["MONTHLY"]]


def test_the_record_tells_the_story_first_and_its_curves_are_vectors(demo):
    """House and calls before the evidence; no picture in the PDF; PDF/A-3 with its fonts in it."""
    finish(demo)
    page = demo.get("/jobs/1/record").text
    order = [
        page.index(f"<h2>{t}</h2>") for t in ("The house", "Calls", "Nitrogen", "Vacuum decay")
    ]
    assert order == sorted(order) and 'class="signed"' in page
    content = demo.get("/jobs/1/record.pdf").content
    pdf = PdfReader(BytesIO(content))
    assert all(not list(p.images) for p in pdf.pages)
    assert b"pdfaid:part" in pdf.xmp_metadata.stream.get_data()
    first = pdf.pages[0].extract_text()
    assert "The house" in first and "SIMULATED" in "".join(p.extract_text() for p in pdf.pages)


@pytest.mark.parametrize("job", range(1, 10))
def test_every_drawing_of_a_record_is_made_for_paper(demo, job):
    """Each class that is drawn has its look on paper; none is only black by chance."""
    known = {*LOOKS, *ANCHORS, *OUT}
    page = demo.get(f"/jobs/{job}/record").text
    drawings = re.findall(r'<figure class="record-figure.*?</figure>', page, re.S)
    shapes = "".join(re.sub(r"<svg[^>]*>|<g[^>]*>|<a[^>]*>", "", d) for d in drawings)
    used = {
        name
        for c in re.findall(r'<(?:path|rect|circle|text)[^>]*class="([^"]*)"', shapes)
        for name in c.split()[:1]
    }
    assert used <= known, used - known


@pytest.mark.parametrize("content", [b"", b"{}", b"PK\x03\x04damaged"])
def test_a_file_that_is_no_jobs_is_told_so(client, content):
    answer = client.post("/verify", files={"file": ("x", content)})
    assert answer.status_code == 422 and "field-error" in answer.text


def test_the_owners_page_and_its_pdf_say_the_same(demo):
    page = demo.get("/jobs/1/owner").text
    said = "".join(
        p.extract_text() for p in PdfReader(BytesIO(demo.get("/jobs/1/owner.pdf").content)).pages
    )
    for words in ("Wash the filters", "Serial number", "When a lamp blinks"):
        assert words in page and words in said


def test_a_company_adds_lines_and_pictures_to_its_rules(client):
    shown = client.get("/rules").text
    version = re.search(r'name="_version"\s+value="(\d+)"', shown)[1]
    said = {
        "_version": version,
        "closing": "Ladder on the van\n\nKey back",
        "pictures.hole": "true",
    }
    client.post("/rules", data=said)
    page = client.get("/rules").text
    assert "Ladder on the van\nKey back" in page and "2 lines" in page
    assert re.search(r'name="pictures.hole"[^>]*checked', page)


@pytest.mark.parametrize(
    ("path", "thing"),
    [
        ("mount?part=walls.A", "hole:A"),
        ("mount?part=outdoor", "nameplate:outdoor"),
        ("route?part=runs.A", "run:A"),
        ("route?part=drains", "drain:A"),
        ("wire?part=cables", "terminals:"),
        ("pressure-test", "gauge:nitrogen"),
        ("hand-over", "label:outdoor"),
    ],
)
def test_a_picture_is_taken_in_one_tap_where_the_thing_is(demo, path, thing):
    page = demo.get(f"/jobs/6/{path}").text
    kind, _, place = thing.partition(":")
    place = place or re.search(rf'id="snap-{kind}-(\w+)"', page)[1]
    assert f'id="snap-{kind}-{place}"' in page
    back = re.search(r'name="_back"\s+value="([^"]+)"', page)[1]
    answer = demo.post(
        "/jobs/6/pictures",
        data={"thing": f"{kind}:{place}", "_back": back.replace("&amp;", "&")},
        files={"file": ("p.jpg", jpeg(), "image/jpeg")},
        follow_redirects=False,
    )
    assert answer.headers["location"].startswith(f"/jobs/6/{path.partition('?')[0]}")
    assert "1 taken" in demo.get(answer.headers["location"]).text
